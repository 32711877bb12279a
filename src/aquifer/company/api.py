import datetime
from typing import Annotated

from django.conf import settings
from django.db import transaction
from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Schema
from pydantic import ConfigDict, Field
from typing_extensions import TypedDict

from aquifer.accounts.access import Action, allowed, may, who
from aquifer.company import clock
from aquifer.company.models import Clock, Company, WeekStart
from aquifer.core import MODEL_VERSION, units
from aquifer.core.procedures.library import practices, practices_followed
from aquifer.core.vocabulary import FlushMethod, Practice
from aquifer.errors import Invalid
from aquifer.history.versions import check_entries, version_of
from aquifer.travel.service import are_estimated
from aquifer.wire import Version

router = Router(tags=["company"])


class UnitOut(Schema):
    label: str
    factor: float
    offset: float
    decimals: int


class CompanyOut(TypedDict):
    version: Annotated[int, Field(description="From which a change of the practice goes on.")]
    name: str
    today: datetime.date
    is_demo: bool
    model_version: str
    practice: Practice
    flush_method: FlushMethod
    tolerance: float
    units: dict[units.Quantity, UnitOut]
    clock: Annotated[Clock, Field(description="Whether times are told as 15:30 or 3:30 pm.")]
    week_start: Annotated[WeekStart, Field(description="The day on which weeks begin.")]
    timezone: Annotated[str, Field(description="In which the day of a visit is told.")]
    messages_are_sent: Annotated[
        bool, Field(description="Whether there is a gateway by which customers are written to.")
    ]
    driving_is_estimated: Annotated[bool, Field(description="Whether driving times are by the straight line.")]


@router.get("/company", response=CompanyOut, auth=allowed(Action.READ))
def company(request: HttpRequest) -> CompanyOut:
    """What every screen needs to know: the units to show, today's date, the practice followed."""
    ours = Company.current()
    shown = units.table(units.System(ours.units), units.HardnessUnit(ours.hardness_unit))
    return {
        "version": version_of(ours),
        "name": ours.name,
        "today": timezone.localdate(),
        "is_demo": settings.DEMO,
        "model_version": MODEL_VERSION,
        "practice": Practice(ours.practice),
        "flush_method": FlushMethod(ours.flush_method),
        "tolerance": ours.tolerance,
        "clock": Clock(ours.clock),
        "week_start": WeekStart(ours.week_start),
        "timezone": clock.zone().key,
        "messages_are_sent": bool(settings.MESSAGE_GATEWAY),
        "driving_is_estimated": are_estimated(),
        "units": {quantity: UnitOut.from_orm(unit) for quantity, unit in shown.items()},
    }


class StepOptionOut(TypedDict):
    word: str
    says: str
    usual: bool


class StepPracticeOut(TypedDict):
    """A question on which practitioners differ in how a step is done."""

    name: str
    question: str
    chosen: str
    options: list[StepOptionOut]


class StepPracticesOut(TypedDict):
    version: int
    may_change: bool
    practices: list[StepPracticeOut]


class StepPracticesIn(Schema):
    model_config = ConfigDict(extra="forbid")

    chosen: dict[str, str] = Field(max_length=40, description="The side taken in each question; the others are usual.")
    version: Version | None = None


@router.get("/company/step-practices", response=StepPracticesOut, auth=allowed(Action.READ))
def step_practices(request: HttpRequest) -> StepPracticesOut:
    """How the company does its steps where practitioners differ."""
    by = who(request)
    ours = Company.current()
    followed = practices_followed(ours.step_practices)
    return {
        "version": version_of(ours),
        "may_change": may(by.role, Action.SET_PRACTICE),
        "practices": [
            {
                "name": practice.name,
                "question": practice.question,
                "chosen": followed[practice.name],
                "options": [
                    {"word": word, "says": says, "usual": place == 0}
                    for place, (word, says) in enumerate(practice.options.items())
                ],
            }
            for practice in practices().values()
        ],
    }


@router.put("/company/step-practices", response=StepPracticesOut, auth=allowed(Action.SET_PRACTICE))
def set_step_practices(request: HttpRequest, payload: StepPracticesIn) -> StepPracticesOut:
    """Take a side in some questions. A visit that has begun goes on as it began."""
    Company.current()
    with transaction.atomic():
        ours = Company.objects.select_for_update().get(pk=1)
        try:
            followed = practices_followed({**ours.step_practices, **payload.chosen})
        except ValueError as error:
            raise Invalid(str(error), "practice.unknown", {"chosen": str(error)}) from None
        check_entries(ours, payload.version, payload.chosen, _sides, _side_taken)
        ours.step_practices = followed
        ours.save(update_fields=["step_practices"])
    return step_practices(request)


def _sides(ours: Company) -> dict[str, str]:
    return practices_followed(ours.step_practices)


def _side_taken(name: str, word: object) -> str:
    practice = practices()[name]
    return f"{practice.question} is now “{practice.options[str(word)]}”"

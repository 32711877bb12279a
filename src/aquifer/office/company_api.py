"""The company's own settings. Whatever is changed holds for the next request; nothing is restarted."""

from typing import Annotated
from zoneinfo import available_timezones

from django.conf import settings
from django.core.exceptions import ValidationError
from django.db import transaction
from django.http import HttpRequest
from ninja import File, Router
from ninja.files import UploadedFile
from pydantic import Field, HttpUrl, StringConstraints
from typing_extensions import TypedDict

from aquifer import changed
from aquifer.accounts.access import Action, allowed, may, who
from aquifer.accounts.models import Role
from aquifer.company.models import Clock, Company, WeekStart
from aquifer.core import judgement
from aquifer.core.bounds import within
from aquifer.core.units import HardnessUnit, System
from aquifer.core.vocabulary import FlushMethod, Practice
from aquifer.errors import Invalid, TooLarge
from aquifer.history.versions import check_entries, merge, version_of
from aquifer.money.models import MoneySettings
from aquifer.office import logo
from aquifer.wire import NO_NUL, Payload, Version

router = Router(tags=["settings"])
Minute = Annotated[int, Field(ge=0, le=1439)]
Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=120, pattern=NO_NUL)]
Line = Annotated[str, StringConstraints(strip_whitespace=True, max_length=160, pattern=NO_NUL)]
MOVES_DATES = frozenset(
    {
        "practice", "flush_method", "tolerance", "longest_flush_months", "relief_valve_target",
        "never_flushed_cutoff_years", "practice_options", "first_round_weeks",
    }
)  # fmt: skip
"""After these are changed every forecast is computed anew."""


class PracticeOptionOut(TypedDict):
    option: str
    says: str


class PracticeQuestionOut(TypedDict):
    """A question on which practitioners differ; the first side is the usual one."""

    question: str
    chosen: str
    options: list[PracticeOptionOut]


class SettingsOut(TypedDict):
    version: int
    money_version: int
    may_change: bool
    name: str
    phone: str
    public_address: Annotated[str, Field(description="Empty: the server's own.")]
    server_address: str
    logo: Annotated[str, Field(description="Where it is read; empty without one.")]
    units: System
    hardness_unit: HardnessUnit
    clock: Clock
    week_start: WeekStart
    time_zone: str
    time_zones: list[str]
    currency: str
    yard: str
    yard_longitude: float | None
    yard_latitude: float | None
    practice: Practice
    flush_method: FlushMethod
    tolerance: float
    longest_flush_months: int
    relief_valve_target: float
    never_flushed_cutoff_years: float
    first_round_weeks: int
    worth_hours: float
    level_hours: float
    hour_cost: str
    quotes_last_days: int
    part_warranty_months: int
    work_warranty_days: int
    leak_damage: str
    practice_questions: list[PracticeQuestionOut]
    quiet_from: int
    quiet_until: int
    remind_days: int
    second_step_roles: Annotated[list[Role], Field(description="Of whom a second step at signing in is asked.")]
    gateway: Annotated[str, Field(description="By which customers are written to; empty if they are not.")]


class SettingsPatch(Payload):
    """What is to be otherwise; what is not named stays."""

    name: Name | None = None
    phone: Annotated[str, StringConstraints(strip_whitespace=True, max_length=40, pattern=NO_NUL)] | None = None
    public_address: HttpUrl | Annotated[str, StringConstraints(max_length=0)] | None = None
    units: System | None = None
    hardness_unit: HardnessUnit | None = None
    clock: Clock | None = None
    week_start: WeekStart | None = None
    time_zone: Annotated[str, StringConstraints(max_length=60, pattern=NO_NUL)] | None = None
    yard: Line | None = None
    yard_longitude: Annotated[float | None, within("place.longitude")] = None
    yard_latitude: Annotated[float | None, within("place.latitude")] = None
    practice: Practice | None = None
    flush_method: FlushMethod | None = None
    tolerance: Annotated[float, within("practice.tolerance")] | None = None
    longest_flush_months: Annotated[int | None, within("practice.longest_flush_months")] = None
    relief_valve_target: Annotated[float | None, within("practice.relief_valve_target")] = None
    never_flushed_cutoff_years: Annotated[float | None, within("practice.never_flushed_cutoff_years")] = None
    first_round_weeks: Annotated[int | None, within("practice.first_round_weeks")] = None
    worth_hours: Annotated[float | None, within("practice.worth_hours")] = None
    level_hours: Annotated[float | None, within("practice.level_hours")] = None
    practice_options: Annotated[list[judgement.PracticeOption], Field(max_length=20)] | None = None
    quiet_from: Minute | None = None
    quiet_until: Minute | None = None
    remind_days: Annotated[int | None, within("messages.remind_days")] = None
    second_step_roles: Annotated[list[Role], Field(max_length=len(Role))] | None = None
    version: Version | None = None


_MAY_BE_NOTHING = frozenset({"yard_longitude", "yard_latitude"})


@router.get("/settings/company", response=SettingsOut, auth=allowed(Action.READ))
def company_settings(request: HttpRequest) -> SettingsOut:
    """Everything a company sets of itself, with what it can choose from."""
    ours, money = Company.current(), MoneySettings.current()
    follows = judgement.followed(ours.practice_options)
    return {
        "version": version_of(ours),
        "money_version": version_of(money),
        "name": ours.name,
        "phone": ours.phone,
        "public_address": ours.public_address,
        "units": System(ours.units),
        "hardness_unit": HardnessUnit(ours.hardness_unit),
        "clock": Clock(ours.clock),
        "week_start": WeekStart(ours.week_start),
        "yard": ours.yard,
        "yard_longitude": ours.yard_longitude,
        "yard_latitude": ours.yard_latitude,
        "practice": Practice(ours.practice),
        "flush_method": FlushMethod(ours.flush_method),
        "tolerance": ours.tolerance,
        "longest_flush_months": ours.longest_flush_months,
        "relief_valve_target": ours.relief_valve_target,
        "never_flushed_cutoff_years": ours.never_flushed_cutoff_years,
        "first_round_weeks": ours.first_round_weeks,
        "worth_hours": ours.worth_hours,
        "level_hours": ours.level_hours,
        "quiet_from": ours.quiet_from,
        "quiet_until": ours.quiet_until,
        "remind_days": ours.remind_days,
        "second_step_roles": [Role(role) for role in ours.second_step_roles],
        "may_change": may(who(request).role, Action.SET_COMPANY),
        "server_address": settings.PUBLIC_ADDRESS,
        "logo": logo.address(ours),
        "time_zone": ours.time_zone or settings.TIME_ZONE,
        "time_zones": sorted(one for one in available_timezones() if "/" in one and not one.startswith(_NO_PLACE)),
        "currency": money.currency,
        "hour_cost": str(money.hour_cost),
        "quotes_last_days": money.quotes_last_days,
        "part_warranty_months": money.part_warranty_months,
        "work_warranty_days": money.work_warranty_days,
        "leak_damage": str(money.leak_damage),
        "gateway": settings.MESSAGE_GATEWAY.rpartition(".")[2].removesuffix("Gateway"),
        "practice_questions": [
            {
                "question": question.question,
                "chosen": next(option.option.value for option in question.options if option.option in follows),
                "options": [{"option": option.option.value, "says": option.says} for option in question.options],
            }
            for question in judgement.practice_questions()
        ],
    }


_NO_PLACE = ("Etc/", "posix/", "right/", "SystemV/")


@router.patch("/settings/company", response=SettingsOut, auth=allowed(Action.SET_COMPANY))
def change_company(request: HttpRequest, payload: SettingsPatch) -> SettingsOut:
    """Change some settings. A side taken in a question takes the place of the other sides of that question."""
    told = payload.model_dump(mode="json", exclude_unset=True, exclude={"version"})
    told = {name: value for name, value in told.items() if value is not None or name in _MAY_BE_NOTHING}
    with transaction.atomic():
        Company.current()
        ours = Company.objects.select_for_update().get(pk=1)
        if "practice_options" in told:
            taken = _taken(ours.practice_options, told["practice_options"])
            said = {name: side for name, side in _sides(taken).items() if side and side & set(told["practice_options"])}
            check_entries(ours, payload.version, said, lambda one: _sides(one.practice_options), _side_taken)
            told["practice_options"] = taken
        before = {name: getattr(ours, name) for name in told}
        # A side that is taken leaves those of other questions as they are now, so that it is no other's change.
        ours.practice_options = told.get("practice_options", ours.practice_options)
        merge(ours, payload.version, {name: value for name, value in told.items() if name != "practice_options"})
        _checked(ours)
        if before != told:
            ours.save()
    if {name for name in told if before[name] != told[name]} & MOVES_DATES:
        changed.everything()
    return company_settings(request)


def _sides(options: list[str]) -> dict[str, frozenset[str]]:
    """The sides that are taken in each question, by its words."""
    taken = set(options)
    return {
        question.question: frozenset(option.option.value for option in question.options) & taken
        for question in judgement.practice_questions()
    }


def _side_taken(question: str, sides: object) -> str:
    asked = next(one for one in judgement.practice_questions() if one.question == question)
    told = [option.says for option in asked.options if option.option.value in sides]  # type: ignore[operator]
    return f"{question} is now “{', '.join(told) or 'not answered'}”"


def _taken(before: list[str], options: list[str]) -> list[str]:
    """The sides that a company follows after it took some: those of other questions stay."""
    asked = [[option.option.value for option in question.options] for question in judgement.practice_questions()]
    answered = {option for of in asked if set(of) & set(options) for option in of}
    return [one for one in before if one not in answered] + options


def _checked(ours: Company) -> None:
    if (ours.yard_longitude is None) != (ours.yard_latitude is None):
        raise Invalid(
            "The yard's place needs a latitude and a longitude, or neither.", "settings.half_a_place",
            {"yard_latitude": "give both, or neither"},
        )  # fmt: skip
    if ours.quiet_from == ours.quiet_until:
        raise Invalid(
            "The quiet hours begin and end at the same time; nobody could be written to, or always.",
            "settings.no_quiet_hours", {"quiet_until": "another time than they begin"},
        )  # fmt: skip
    try:
        ours.full_clean(validate_unique=False, validate_constraints=False)
    except ValidationError as error:
        fields = {name: " ".join(said) for name, said in error.message_dict.items()}
        raise Invalid("Not accepted. " + " ".join(fields.values()), "settings.invalid", fields) from None


@router.post("/settings/logo", response=SettingsOut, auth=allowed(Action.SET_COMPANY))
def set_logo(request: HttpRequest, file: File[UploadedFile]) -> SettingsOut:
    """Keep a picture as the company's logo: on reports, and on the page that customers answer on."""
    if (file.size or 0) > logo.MOST_BYTES:
        raise TooLarge(f"A logo has at most {logo.MOST_BYTES // 1_000_000} MB.", fields={"file": "too large"})
    ours = Company.current()
    ours.logo = logo.keep(file.read())
    ours.save()
    return company_settings(request)


@router.delete("/settings/logo", response=SettingsOut, auth=allowed(Action.SET_COMPANY))
def drop_logo(request: HttpRequest) -> SettingsOut:
    """Show no logo."""
    ours = Company.current()
    ours.logo = ""
    ours.save()
    return company_settings(request)

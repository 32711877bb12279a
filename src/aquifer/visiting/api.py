import datetime
import uuid
from typing import Annotated

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Query, Router, Status
from pydantic import Field

from aquifer.accounts.access import Action, allowed, who
from aquifer.accounts.pace import dear
from aquifer.core.follow_up import LICENSED, FollowUp
from aquifer.core.reasons import Reason, told
from aquifer.core.units import worded
from aquifer.core.vocabulary import Component
from aquifer.errors import NotFound
from aquifer.heaters.models import LeftAs
from aquifer.money import quotes
from aquifer.money.models import QuoteState
from aquifer.visiting import apart, event_log, guide, report
from aquifer.visiting.heater import of_visit
from aquifer.visiting.record import amend, findings_not_in_record, record_visit
from aquifer.visits import marks, moved
from aquifer.visits.models import Extra, Visit
from aquifer.visits.schemas import (
    AdviceIn,
    AmendmentIn,
    ApartOut,
    AsideIn,
    BreachOut,
    FollowUpOut,
    GuideOut,
    MovedKept,
    MovedOut,
    QuestionOut,
    StepMarkedOut,
    SyncIn,
    SyncOut,
    VisitIn,
    VisitOut,
)
from aquifer.visits.words import units_shown

router = Router(tags=["visits"])
Id = Annotated[int, Field(ge=1, le=2**62)]


@router.get("/heaters/{heater_id}/guide", response=GuideOut, auth=allowed(Action.RECORD_VISIT))
def read_guide(
    request: HttpRequest,
    heater_id: Id,
    component: Query[list[Component] | None] = None,
    extra: Query[list[Extra] | None] = None,
    complaint: Annotated[str, Field(max_length=40, pattern=r"^[a-z_]*$")] = "",
) -> GuideOut:
    """The procedures of a visit with everything that holds their steps, for what is planned or due, or as asked."""
    by = who(request)
    heater = of_visit(heater_id)
    if heater.archived_at is not None and event_log.under_way(heater.pk) is None:
        raise NotFound(f"{heater.tag} is archived: put it back in service before it is visited.")
    if component is not None and not extra:
        # Whoever joins a visit under way gets what it takes up besides too.
        extra = guide.extras_under_way(heater.pk, component)
    return guide.read(heater, by, timezone.localdate(), component, extra or [], complaint)


@router.post("/visits/sessions", response=SyncOut, auth=allowed(Action.RECORD_VISIT))
def sync(request: HttpRequest, payload: SyncIn) -> SyncOut:
    """Take what a device tells of a visit, each tap once, and tell it what others told."""
    told = event_log.sync(payload, who(request))
    return {
        "client_id": told.client_id,
        "components": told.components,
        "events": told.events,
        "refused": told.refused,
        "cursor": told.cursor,
        "recorded": _told(told.visit, True) if told.visit else None,
    }


@router.get("/visits/questions", response=list[QuestionOut], auth=allowed(Action.OVERRIDE))
def questions(request: HttpRequest) -> list[QuestionOut]:
    """What the lead was asked from visits in the last two days, the unanswered first."""
    return event_log.questions(timezone.now() - datetime.timedelta(days=2))


@router.get("/visits/breaches", response=list[BreachOut], auth=allowed(Action.OVERRIDE))
def breaches(request: HttpRequest) -> list[BreachOut]:
    """What was done at visits in the last two days although it was held, or is licensed to others."""
    return event_log.breaches(timezone.now() - datetime.timedelta(days=2))


@router.get("/visits/apart", response=list[ApartOut], auth=allowed(Action.OVERRIDE))
def taps_apart(request: HttpRequest) -> list[ApartOut]:
    """Taps that could not be read, or with which their visit could not be followed, until somebody has looked."""
    return apart.waiting()


@router.post("/visits/apart/{apart_id}/aside", response={204: None}, auth=allowed(Action.OVERRIDE))
def set_aside(request: HttpRequest, apart_id: Id, payload: AsideIn) -> Status[None]:
    """It bears on nothing, for good."""
    apart.set_aside(apart_id, payload.why, who(request))
    return Status(204, None)


@router.post("/visits/apart/{apart_id}/read", response={204: None}, auth=allowed(Action.OVERRIDE))
def read_again(request: HttpRequest, apart_id: Id) -> Status[None]:
    """Take it into its visit after all."""
    event_log.read_again(apart_id, who(request))
    return Status(204, None)


@router.get("/visits/marked", response=list[StepMarkedOut], auth=allowed(Action.OVERRIDE))
def steps_marked(request: HttpRequest) -> list[StepMarkedOut]:
    """The steps that were done otherwise than the guide allows in the last twelve months."""
    return marks.by_step(timezone.localdate() - datetime.timedelta(days=365))


@router.post("/visits/questions/{question_id}", response={204: None}, auth=allowed(Action.OVERRIDE))
def advise(request: HttpRequest, question_id: uuid.UUID, payload: AdviceIn) -> Status[None]:
    event_log.advise(question_id, payload, who(request))
    return Status(204, None)


@router.post("/visits", response={200: VisitOut, 201: VisitOut}, auth=allowed(Action.RECORD_VISIT))
def record(request: HttpRequest, payload: VisitIn) -> Status[VisitOut]:
    """Record a visit once, whatever happens on the way, and answer with what it moved and what it asks for next."""
    by = who(request)
    visit, known = record_visit(payload, by, timezone.localdate(), request.headers.get("User-Agent", ""))
    if not known:
        # At once, so that it is told at the door; the job that does the same finds it done.
        quotes.raise_for(visit.pk)
    return Status(200 if known else 201, _told(visit, known, findings_not_in_record(visit, payload) if known else []))


@router.post("/visits/{visit_id}/amendments", response={201: list[MovedOut]}, auth=allowed(Action.RECORD_VISIT))
def amend_visit(request: HttpRequest, visit_id: Id, payload: AmendmentIn) -> Status[list[MovedOut]]:
    """Put something right in a record, or add to it; the record itself stays as it was."""
    return Status(201, _worded(amend(visit_id, payload, who(request), timezone.localdate())))


def _worded(those: list[MovedKept]) -> list[MovedOut]:
    """What moved and why, in words, figures in the company's units."""
    units = units_shown()
    return [
        {
            "component": one["component"],
            "before_on": one["before_on"],
            "after_on": one["after_on"],
            "days": one["days"],
            "sentence": worded(told(Reason(why["key"], why["figures"]) for why in one["reasons"]), units),
            "looked_at": one.get("looked_at", False),
        }
        for one in those
    ]


def _told(visit: Visit, known: bool, unrecorded: list[str] | None = None) -> VisitOut:
    units = units_shown()
    follow: list[FollowUpOut] = [
        {
            "what": quote.get_what_display(),
            "why": [worded(line, units) for line in quote.why],
            "licensed": FollowUp(quote.what) in LICENSED,
            "warranty_until": quote.warranty_until,
        }
        for quote in visit.quotes.exclude(state=QuoteState.DROPPED).order_by("pk")
    ]
    left = LeftAs.objects.filter(heater=visit.heater_id).first()
    return {
        "id": visit.pk,
        "client_id": visit.client_id,
        "heater_id": visit.heater_id,
        "on": visit.on,
        "technician": visit.technician,
        "moved": _worded(moved.standing(visit)),
        "follow_ups": follow,
        "already_recorded": known,
        "left_off": left.title if left and left.off else "",
        "not_in_record": unrecorded or [],
    }


@router.get("/visits/{visit_id}/report.pdf", response={200: None}, auth=allowed(Action.READ), throttle=dear("paper"))
def report_of(request: HttpRequest, visit_id: Id, office: bool = False) -> HttpResponse:
    """The customer's report of a visit, as PDF; for the office with what is to be looked at."""
    visit = get_object_or_404(Visit.objects.select_related("heater__site__customer"), pk=visit_id)
    answer = HttpResponse(report.pdf(visit, office), content_type="application/pdf")
    answer["Content-Disposition"] = f'inline; filename="visit {visit.on} {visit.heater.tag}.pdf"'
    return answer

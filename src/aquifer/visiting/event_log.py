"""The event log of a visit: every tap of every device, once, in one order that all of them come to know.

The order is that of the events' clocks, not of anybody's time: a device's clock is above that of every event that it
knew of when it was tapped. Between devices that did not know of each other any order is as good, so it is theirs.
"""

import datetime
import uuid
from collections.abc import Iterable
from dataclasses import dataclass
from itertools import pairwise
from typing import TypedDict

from django.db import transaction
from django.db.models import Max, OuterRef, Q, Subquery, Value
from django.db.models.functions import Coalesce
from django.utils import timezone

from aquifer.accounts.access import Action, may
from aquifer.accounts.models import User
from aquifer.core.kinds import HeaterKind
from aquifer.core.procedures.library import Library, library
from aquifer.core.procedures.visit import STEPS, Stand, step_named
from aquifer.core.vocabulary import Component
from aquifer.errors import Conflict, NotFound
from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Heater
from aquifer.transactions import retried
from aquifer.visiting import apart, stand
from aquifer.visiting.heater import of_visit
from aquifer.visits import hours
from aquifer.visits.models import Event, EventApart, EventKind, Settled, Visit, VisitSession
from aquifer.visits.schemas import AdviceIn, BreachOut, EventBody, EventIn, EventOut, QuestionOut, RefusedOut, SyncIn
from aquifer.visits.words import step_words, units_shown

OPEN_FOR = datetime.timedelta(hours=14)
"""A visit begun and not recorded for so long is no longer gone on with by others. Assumption: a long working day."""
Answer = str | float | bool
_BROKEN = "The visit cannot be followed with it. It is kept apart, and the lead is told."
OFFICE = uuid.uuid5(uuid.NAMESPACE_URL, "aquifer:office")
"""The device of what is told from the office."""
_BODY = ("choice", "name", "why", "field", "value", "of")


@dataclass(frozen=True)
class Synced:
    """Where all devices of a visit meet."""

    client_id: uuid.UUID
    components: list[Component]
    events: list[EventOut]
    """After what the device knew."""
    refused: list[RefusedOut]
    cursor: int
    visit: Visit | None
    """It, once it is recorded."""


@retried
def sync(payload: SyncIn, by: User) -> Synced:
    """Take what a device tells of a visit, each event once, and tell what it does not know yet.

    A visit begun at a heater at which another one is under way joins that.
    Raises: NotFound for no such heater, Conflict where the id is that of a visit at another heater.
    """
    with transaction.atomic():
        heater = of_visit(payload.heater_id, lock=True)
        session = _session(payload, heater, by)
        refused = [*_take(session, payload, by), *apart.keep_unread(session, payload, by)]
        if session.visit_id is None and payload.taps:
            bearing, where, broken = apart.followed(session)
            stand.keep(session, bearing, where)
            refused += [{"client_id": one.client_id, "message": _BROKEN} for one in broken]
    # What was apart and is read again has a number that devices have passed: it is told every time.
    new = session.events.filter(Q(apart=None, pk__gt=payload.after) | Q(apart__settled=Settled.READ))
    events = [told(event) for event in new.select_related("by")]
    cursor = session.events.aggregate(last=Max("pk"))["last"] or 0
    components = [Component(one) for one in session.components]
    return Synced(session.client_id, components, events, refused, cursor, session.visit)


def _session(payload: SyncIn, heater: Heater, by: User) -> VisitSession:
    known = VisitSession.objects.select_related("joined__visit", "visit").filter(client_id=payload.client_id).first()
    if known is not None:
        if known.heater_id != heater.pk:
            raise Conflict("This visit's id belongs to a visit at another heater.", "visit.id_taken")
        return known.joined or known
    other = under_way(heater.pk)
    components = [component.value for component in payload.components]
    believed = stand.beliefs(Forecast.objects.current().filter(heater=heater))
    plan = stand.plan_of(
        heater, payload.extras, payload.upkeep, payload.flush_method, timezone.now(), believed, payload.complaint
    )
    made = VisitSession.objects.create(
        client_id=payload.client_id,
        heater=heater,
        components=components,
        order=list(stand.order(HeaterKind(heater.kind), components, plan)),
        plan=plan,
        licences=by.licences_held,
        by=by,
        joined=other,
    )
    return other or made


def under_way(heater_id: int) -> VisitSession | None:
    """The visit that was begun at a heater and is neither recorded nor set aside; a later tap takes it up again."""
    since = timezone.now() - OPEN_FOR
    newest = Event.objects.filter(session=OuterRef("pk")).order_by("-clock", "-device", "-client_id")
    sessions = VisitSession.objects.filter(heater=heater_id, visit=None, joined=None, at__gte=since).select_related(
        "by", "visit"
    )
    sessions = sessions.annotate(last=Coalesce(Subquery(newest.values("kind")[:1]), Value("")))
    return sessions.exclude(last=EventKind.SET_ASIDE).order_by("-at").first()


MOST_CLOCK = 1_000_000
"""Above it nobody tapped: a count near the end of its range would leave no number for the taps that follow."""


def _take(session: VisitSession, payload: SyncIn, by: User) -> list[RefusedOut]:
    there = Event.objects.filter(client_id__in=[event.client_id for event in payload.taps])
    known = dict(there.values_list("client_id", "session__heater"))
    refused: list[RefusedOut] = []
    taken = []
    for event in payload.taps:
        if event.client_id in known:
            if known[event.client_id] != session.heater_id:
                # Not one of this visit told again: kept in silence it would be lost.
                refused.append({"client_id": event.client_id, "message": "Its id belongs to a tap at another heater."})
            continue
        known[event.client_id] = session.heater_id
        if against := _against(session, event, by):
            refused.append({"client_id": event.client_id, "message": against})
            continue
        taken.append(_event(session, event, payload.device, by))
    Event.objects.bulk_create(taken)
    return refused


def _event(session: VisitSession, event: EventIn, device: uuid.UUID, by: User) -> Event:
    body = {name: value for name, value in event.model_dump(mode="json", include=set(_BODY)).items() if value}
    if event.kind == "answered":
        body["value"] = event.value
    return Event(
        client_id=event.client_id,
        session=session,
        device=device,
        clock=event.clock,
        known=event.known,
        at=event.at,
        by=by,
        kind=event.kind,
        step=event.step,
        body=body,
    )


def read_again(apart_id: int, by: User) -> None:
    """Take a tap that was kept apart into its visit, as whoever told it. Raises: as ``apart.read_again``."""

    def take(session: VisitSession, event: EventIn, row: EventApart) -> str:
        if against := _against(session, event, row.by):
            return against
        row.event = _event(session, event, row.device, row.by)
        row.event.save()
        return ""

    apart.read_again(apart_id, by, take)


def _against(session: VisitSession, event: EventIn, by: User) -> str:
    """Why an event is refused: a right that its actor has not, or what no visit could be folded with. Empty if it is
    not; what was done is always kept."""
    if event.kind == "answered" and not event.field:
        return "An answer names what it answers."
    if event.clock > MOST_CLOCK:
        return f"No visit has {event.clock} taps; at most {MOST_CLOCK} are counted."
    if event.kind == "set_aside" and not event.why:
        return "Say why the visit is set aside."
    if event.kind == "noted" and not event.why:
        return "A note says something."
    if event.kind == "undo":
        return _against_taking_back(session, event, by)
    if event.kind != "override":
        return ""
    if not event.why:
        return f"Say why {event.step} was done although it was held."
    if may(by.role, Action.OVERRIDE):
        return ""
    advice = (
        session.events.filter(client_id=event.of, kind=EventKind.ADVISED, step=event.step).first() if event.of else None
    )
    if advice is None or not advice.body.get("go_on"):
        return f"Only the lead goes on despite a held step ({event.step})."
    asked = session.events.filter(client_id=advice.body.get("of"), kind=EventKind.ASKED).first()
    if asked is None or asked.by_id != by.pk:
        return "The lead's word was for somebody else: ask for yourself."
    if session.events.filter(kind=EventKind.OVERRIDE, body__of=str(event.of)).exists():
        return "The lead's word was for one time: ask again."
    step = step_named(library(), event.step)
    if step is not None and step.licence and step.licence not in by.licences_held:
        return f"The lead's word is no {step.licence} license."
    return ""


def _against_taking_back(session: VisitSession, event: EventIn, by: User) -> str:
    taken = session.events.filter(client_id=event.of).select_related("by").first() if event.of else None
    if taken is None or may(by.role, Action.OVERRIDE):
        return ""
    if taken.kind in (EventKind.OVERRIDE, EventKind.ADVISED):
        return "Only the lead takes back an override or the lead's word."
    if taken.by_id != by.pk:
        return f"That was {taken.by.name}'s: only they or the lead take it back."
    return ""


def told(event: Event) -> EventOut:
    """An event as devices are told it."""
    body: EventBody = event.body
    return {
        "client_id": event.client_id, "number": event.pk, "known": event.known, "device": event.device,
        "clock": event.clock, "at": event.at, "by": event.by.name, "kind": EventKind(event.kind),
        "step": event.step, **body,
    }  # fmt: skip


def in_effect(events: Iterable[Event]) -> list[Event]:
    """Without what was taken back."""
    every = list(events)
    back = {event.body.get("of") for event in every if event.kind == EventKind.UNDO}
    return [event for event in every if str(event.client_id) not in back and event.kind != EventKind.UNDO]


def answers(events: Iterable[Event]) -> dict[str, Answer]:
    """What was answered last to each question. Parameters: events in effect, in order."""
    answered = (event for event in events if event.kind == EventKind.ANSWERED)
    found = {event.body.get("field", ""): event.body.get("value") for event in answered}
    # A measured nothing is an answer, and equals False.
    return {name: value for name, value in found.items() if value is not None and value is not False}


def record(session: VisitSession | None) -> tuple[list[dict[str, object]], dict[str, Answer], Stand | None]:
    """For the record: what was done step by step, with what is to be looked at; what was answered; and where it
    stands."""
    if session is None:
        return [], {}, None
    events, where, _ = apart.followed(session)
    stand.keep(session, events, where)
    marks: dict[str, list[str]] = {}
    for mark in where.marks:
        marks.setdefault(mark.event, []).append(mark.kind)
    back = {event.body.get("of") for event in events if event.kind == EventKind.UNDO}
    kept = (*STEPS, EventKind.OUTSIDE, EventKind.FOUND, EventKind.NOTED, EventKind.UNDO)
    every = stand.library_of(session.heater, session.plan)
    found = [
        {
            "kind": event.kind, "step": event.step, "at": event.at.isoformat(), "by": event.by.name, **event.body,
            **({"marks": marks[str(event.client_id)]} if str(event.client_id) in marks else {}),
            **({"taken_back": True} if str(event.client_id) in back else {}),
            **_ladder_words(event, every),
        }
        for event in events
        if event.kind in kept
    ]  # fmt: skip
    return found, answers(in_effect(events)), where


PAUSE = datetime.timedelta(minutes=90)
"""Longer between two taps, and somebody was away: a tank drains and heats up in less. Assumption."""


class Spent(TypedDict):
    """When a visit began and how long it took; nothing where no device tells."""

    began_at: datetime.datetime | None
    minutes: int | None


def spent(session: VisitSession | None) -> Spent:
    """By the device that was there longest, on its own clock; pauses are left out.

    What was told all at once, after the visit, tells nothing of it.
    """
    taps: dict[uuid.UUID, list[datetime.datetime]] = {}
    for event in apart.in_order(session) if session is not None else []:
        if event.device != OFFICE:
            taps.setdefault(event.device, []).append(event.at)
    longest, began_at = datetime.timedelta(), None
    for at in taps.values():
        at.sort()
        there = sum((gap for a, b in pairwise(at) if (gap := b - a) <= PAUSE), datetime.timedelta())
        if there > longest:
            longest, began_at = there, at[0]
    minutes = round(longest.total_seconds() / 60)
    if not hours.LEAST_MINUTES <= minutes <= hours.MOST_MINUTES:
        return {"began_at": None, "minutes": None}
    return {"began_at": began_at, "minutes": minutes}


def _ladder_words(event: Event, every: Library) -> dict[str, str]:
    """What a complaint's test asked and showed, in words: its ladder is of this visit alone."""
    step = step_named(every, event.step) if event.step.startswith("complaint_") else None
    if step is None:
        return {}
    choice = event.body.get("choice", 0)
    shown = step.deviations[choice].says if event.kind == "deviation" and choice < len(step.deviations) else ""
    return {"words": f"{step.do} {shown}".strip()}


def breaches(since: datetime.datetime) -> list[BreachOut]:
    """What was done at visits although it was held or licensed to others, the newest first."""
    rows: list[BreachOut] = []
    units = units_shown()
    sessions = VisitSession.objects.exclude(marks=[]).filter(at__gte=since).select_related("heater__site")
    for session in sessions.prefetch_related("events__by").order_by("-at"):
        by_id = {str(one.client_id): one for one in session.events.all()}
        for mark in session.marks:
            event = by_id.get(mark["event"])
            if event is None or mark["kind"] not in ("held", "unlicensed"):
                continue
            rows.append(
                {
                    "heater_id": session.heater_id, "site": session.heater.site.name, "heater": session.heater.tag,
                    "by": event.by.name, "at": event.at, "step": step_words(mark["step"], units), "kind": mark["kind"],
                    "about": mark["about"],
                }
            )  # fmt: skip
    return rows


def questions(since: datetime.datetime) -> list[QuestionOut]:
    """What the lead was asked from visits, the unanswered first, then the newest."""
    asked = Event.objects.filter(kind=EventKind.ASKED, received_at__gte=since)
    asked = asked.select_related("by", "session__heater__site").prefetch_related("session__events")
    advised = {
        event.body["of"]: event for event in Event.objects.filter(kind=EventKind.ADVISED, received_at__gte=since)
    }
    rows: list[QuestionOut] = []
    units = units_shown()
    for event in asked.order_by("-received_at"):
        advice = advised.get(str(event.client_id))
        rows.append(
            {
                "client_id": event.client_id,
                "heater_id": event.session.heater_id,
                "site": event.session.heater.site.name,
                "heater": event.session.heater.tag,
                "by": event.by.name,
                "at": event.received_at,
                "step": step_words(event.step, units),
                "words": event.body.get("why", ""),
                "found": _found(event.session),
                "advice": advice.body.get("why", "") if advice else "",
                "go_on": advice.body["go_on"] if advice else None,
            }
        )
    return sorted(rows, key=lambda row: row["go_on"] is not None)


def _found(session: VisitSession) -> list[str]:
    told = answers(in_effect(session.events.all()))
    return [f"{_plain(name)}: {_plain(str(value))}" for name, value in told.items()][::-1][:8]


def _plain(name: str) -> str:
    return name.rpartition(".")[2].replace("_", " ")


@retried
def advise(question_id: uuid.UUID, payload: AdviceIn, by: User) -> None:
    """The lead's answer goes into the visit's event log. Raises: NotFound, Conflict if somebody answered already."""
    with transaction.atomic():
        asked = Event.objects.filter(client_id=question_id, kind=EventKind.ASKED).first()
        if asked is None:
            raise NotFound("There is no such question.")
        session = VisitSession.objects.get(pk=asked.session_id)
        # The lock that devices take too: what is numbered first is to be seen first, or a cursor would pass over it.
        Heater.objects.select_for_update(of=("self",)).get(pk=session.heater_id)
        if session.events.filter(kind=EventKind.ADVISED, body__of=str(question_id)).exists():
            raise Conflict("Somebody answered it already.", "question.answered")
        last = session.events.aggregate(last=Max("clock"))["last"] or 0
        Event.objects.create(
            client_id=uuid.uuid4(), session=session, device=OFFICE, clock=last + 1, at=timezone.now(), by=by,
            kind=EventKind.ADVISED, step=asked.step,
            body={"of": str(question_id), "why": payload.words, "go_on": payload.go_on},
        )  # fmt: skip

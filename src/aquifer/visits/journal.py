"""The journal of a visit: every tap of every device, once, in one order that all of them come to know.

The order is that of the events' clocks, not of anybody's time: a device's clock is above that of every event that it
knew of when it was tapped. Between devices that did not know of each other any order is as good, so it is theirs.
"""

import datetime
import uuid
from collections.abc import Iterable
from typing import Any

from django.db import transaction
from django.db.models import Max, OuterRef, Subquery, Value
from django.db.models.functions import Coalesce
from django.utils import timezone

from aquifer.accounts.access import Action, may
from aquifer.accounts.models import User
from aquifer.core.parameters import GEOMETRY
from aquifer.core.procedures import sequence
from aquifer.core.procedures.library import library
from aquifer.core.procedures.merge import Merged, merged
from aquifer.core.procedures.sequence import Stand, steps_of
from aquifer.core.procedures.state import as_found, facts_of
from aquifer.core.vocabulary import HeaterKind
from aquifer.errors import Conflict, NotFound
from aquifer.heaters.models import Heater
from aquifer.visits.models import Begun, Event, EventKind
from aquifer.visits.schemas import AdviceIn, EventIn, SyncIn

OPEN_FOR = datetime.timedelta(hours=14)
"""A visit begun and not recorded for so long is no longer gone on with by others. Assumption: a long working day."""
OFFICE = uuid.uuid5(uuid.NAMESPACE_URL, "aquifer:office")
"""The device of what is told from the office."""
STEPS = (EventKind.DONE, EventKind.SKIPPED, EventKind.OTHERWISE, EventKind.DESPITE)
_BODY = ("choice", "turn", "why", "field", "value", "of")


def sync(payload: SyncIn, by: User) -> dict[str, Any]:
    """Take what a device tells of a visit, each event once, and tell what it does not know yet.

    A visit begun at a heater at which another one is under way joins that.
    Raises: NotFound for no such heater, Conflict where the id is that of a visit at another heater.
    """
    with transaction.atomic():
        heater = Heater.objects.select_for_update(of=("self",)).in_service().filter(pk=payload.heater_id).first()
        if heater is None:
            raise NotFound("There is no such heater, or it was archived.", fields={"heater_id": "no such heater"})
        begun = _begun(payload, heater, by)
        refused = _take(begun, payload, by)
    new = begun.events.filter(pk__gt=payload.after).select_related("by")
    cursor = begun.events.aggregate(last=Max("pk"))["last"] or 0
    return {
        "client_id": begun.client_id,
        "components": begun.components,
        "events": [told(one) for one in new],
        "refused": refused,
        "cursor": cursor,
        "visit": begun.visit,
    }


def _begun(payload: SyncIn, heater: Heater, by: User) -> Begun:
    known = Begun.objects.select_related("joined__visit", "visit").filter(client_id=payload.client_id).first()
    if known is not None:
        if known.heater_id != heater.pk:
            raise Conflict("This visit's id belongs to a visit at another heater.", "visit.id_taken")
        return known.joined or known
    other = under_way(heater.pk)
    made = Begun.objects.create(
        client_id=payload.client_id,
        heater=heater,
        components=[one.value for one in payload.components],
        order=payload.order,
        licences=by.licences,
        by=by,
        joined=other,
    )
    return other or made


def under_way(heater_id: int) -> Begun | None:
    """The visit that was begun at a heater and is neither recorded nor set aside; a later tap takes it up again."""
    since = timezone.now() - OPEN_FOR
    newest = Event.objects.filter(begun=OuterRef("pk")).order_by("-clock", "-device", "-client_id")
    found = Begun.objects.filter(heater=heater_id, visit=None, joined=None, at__gte=since).select_related("by", "visit")
    found = found.annotate(last=Coalesce(Subquery(newest.values("kind")[:1]), Value("")))
    return found.exclude(last=EventKind.SET_ASIDE).order_by("-at").first()


def _take(begun: Begun, payload: SyncIn, by: User) -> list[dict[str, Any]]:
    known = set(
        Event.objects.filter(client_id__in=[one.client_id for one in payload.events]).values_list(
            "client_id", flat=True
        )
    )
    refused, taken = [], []
    for one in payload.events:
        if one.client_id in known:
            continue
        known.add(one.client_id)
        if against := _against(begun, one, by):
            refused.append({"client_id": one.client_id, "message": against})
            continue
        body = {name: value for name, value in one.model_dump(mode="json", include=set(_BODY)).items() if value}
        if one.kind == "answered":
            body["value"] = one.value
        taken.append(
            Event(
                client_id=one.client_id, begun=begun, device=payload.device, clock=one.clock, at=one.at, by=by,
                kind=one.kind, step=one.step, body=body,
            )
        )  # fmt: skip
    Event.objects.bulk_create(taken)
    return refused


def _against(begun: Begun, one: EventIn, by: User) -> str:
    """Why an event is refused; empty if it is not."""
    if one.kind == "set_aside" and not one.why:
        return "Say why the visit is set aside."
    if one.kind != "despite":
        return ""
    if not one.why:
        return f"Say why {one.step} was done although it was held."
    if may(by.role, Action.OVERRIDE):
        return ""
    advice = begun.events.filter(client_id=one.of, kind=EventKind.ADVISED, step=one.step).first() if one.of else None
    if advice is not None and advice.body.get("go_on"):
        return ""
    return f"Only the lead goes on despite a held step ({one.step})."


def told(one: Event) -> dict[str, Any]:
    """An event as devices are told it."""
    return {
        "client_id": one.client_id, "device": one.device, "clock": one.clock, "at": one.at, "by": one.by.name,
        "kind": one.kind, "step": one.step, **one.body,
    }  # fmt: skip


def in_effect(events: Iterable[Event]) -> list[Event]:
    """Without what was taken back."""
    every = list(events)
    back = {one.body.get("of") for one in every if one.kind == EventKind.TOOK_BACK}
    return [one for one in every if str(one.client_id) not in back and one.kind != EventKind.TOOK_BACK]


def answers(events: Iterable[Event]) -> dict[str, Any]:
    """What was answered last to each question. Parameters: events in effect, in order."""
    found = {one.body["field"]: one.body.get("value") for one in events if one.kind == EventKind.ANSWERED}
    return {name: value for name, value in found.items() if value not in (None, False)}


def record(begun: Begun | None) -> tuple[list[dict[str, Any]], dict[str, Any]]:
    """For the record: what was done step by step, each turn of a step once; and what was answered."""
    if begun is None:
        return [], {}
    found, turns = [], dict[str, int]()
    events = in_effect(begun.events.select_related("by"))
    amiss = _merged(begun, events).amiss
    for one in events:
        if one.kind not in STEPS or one.body.get("turn", 0) < turns.get(one.step, 0):
            continue
        turns[one.step] = turns.get(one.step, 0) + 1
        looks = {"amiss": True} if one.step in amiss else {}
        found.append(
            {"kind": one.kind, "step": one.step, "at": one.at.isoformat(), "by": one.by.name, **one.body, **looks}
        )
    return found, answers(events)


def _merged(begun: Begun, events: Iterable[Event]) -> Merged:
    kind = HeaterKind(begun.heater.kind)
    facts = facts_of(kind, frozenset(begun.licences))
    start = as_found(kind, begun.heater.setpoint_c or GEOMETRY.setpoint_c)
    procedures = [one for one in begun.order if one in library().procedures]
    return merged(
        library(),
        Stand(steps_of(library(), procedures, facts), start),
        [
            sequence.Event(one.kind, one.step, one.body.get("choice", 0), one.body.get("turn", 0))
            for one in events
            if one.kind in STEPS
        ],
        facts,
    )


def questions(since: datetime.datetime) -> list[dict[str, Any]]:
    """What the lead was asked from visits, the unanswered first, then the newest."""
    asked = Event.objects.filter(kind=EventKind.ASKED, received_at__gte=since)
    asked = asked.select_related("by", "begun__heater__site").prefetch_related("begun__events")
    advised = {one.body["of"]: one for one in Event.objects.filter(kind=EventKind.ADVISED, received_at__gte=since)}
    rows = []
    for one in asked.order_by("-received_at"):
        advice = advised.get(str(one.client_id))
        rows.append(
            {
                "client_id": one.client_id,
                "heater_id": one.begun.heater_id,
                "site": one.begun.heater.site.name,
                "heater": one.begun.heater.tag,
                "by": one.by.name,
                "at": one.received_at,
                "step": step_words(one.step),
                "words": one.body.get("why", ""),
                "found": _found(one.begun),
                "advice": advice.body.get("why", "") if advice else "",
                "go_on": advice.body["go_on"] if advice else None,
            }
        )
    return sorted(rows, key=lambda row: row["go_on"] is not None)


def _found(begun: Begun) -> list[str]:
    told = answers(in_effect(begun.events.all()))
    return [f"{_plain(name)}: {_plain(str(value))}" for name, value in told.items()][::-1][:8]


def _plain(name: str) -> str:
    return name.rpartition(".")[2].replace("_", " ")


def advise(question_id: uuid.UUID, payload: AdviceIn, by: User) -> None:
    """The lead's answer goes into the visit's journal. Raises: NotFound, Conflict if somebody answered already."""
    with transaction.atomic():
        asked = Event.objects.filter(client_id=question_id, kind=EventKind.ASKED).first()
        if asked is None:
            raise NotFound("There is no such question.")
        begun = Begun.objects.get(pk=asked.begun_id)
        # The lock that devices take too: what is numbered first is to be seen first, or a cursor would pass over it.
        Heater.objects.select_for_update(of=("self",)).get(pk=begun.heater_id)
        if begun.events.filter(kind=EventKind.ADVISED, body__of=str(question_id)).exists():
            raise Conflict("Somebody answered it already.", "question.answered")
        last = begun.events.aggregate(last=Max("clock"))["last"] or 0
        Event.objects.create(
            client_id=uuid.uuid4(), begun=begun, device=OFFICE, clock=last + 1, at=timezone.now(), by=by,
            kind=EventKind.ADVISED, step=asked.step,
            body={"of": str(question_id), "why": payload.words, "go_on": payload.go_on},
        )  # fmt: skip


def step_words(name: str) -> str:
    """What a step says to do, in short; its name if the procedures have it no longer."""
    procedure, _, own = name.partition(".")
    found = library().procedures.get(procedure)
    return next((one.do for one in found.steps if one.id == own), name) if found else name

"""Taps that cannot be read or followed: kept apart, told to the lead and the operator, in the way of no others.

A visit follows from all of its taps. One that a fault of ours, or of a device, has made impossible would otherwise take
the visit with it, and the heater's page.
"""

import json
import logging
import uuid
from collections.abc import Callable

from django.db import transaction
from django.db.models import Q
from django.utils import timezone
from pydantic import ValidationError

from aquifer.accounts.models import User
from aquifer.core.procedures.visit import Stand
from aquifer.errors import Conflict, NotFound
from aquifer.heaters.models import Heater
from aquifer.visiting import stand
from aquifer.visits.models import Event, EventApart, Settled, VisitSession
from aquifer.visits.schemas import ApartOut, EventIn, RefusedOut, SyncIn, Unread, what_is_wrong
from aquifer.visits.words import step_words, units_shown

MOST_TOLD = 4000
"""Characters that are kept of what could not be read. Assumption: many times the longest tap."""
_log = logging.getLogger(__name__)


def in_order(session: VisitSession) -> list[Event]:
    """A visit's events in the one order that all of its devices come to know, without those that are apart."""
    bearing = session.events.filter(Q(apart=None) | Q(apart__settled=Settled.READ))
    return list(bearing.select_related("by"))


def followed(session: VisitSession) -> tuple[list[Event], Stand, list[Event]]:
    """A visit's events, where it stands by them, and those that had to be set apart for it."""
    apart: list[Event] = []
    events = in_order(session)
    while True:
        try:
            return events, stand.folded(session, events), apart
        # Whatever the fault is: the visit is not to be lost by it.
        except Exception as fault:
            broken = _first_broken(session, events)
            if broken is None:
                raise
            _log.exception("tap %s of the visit at heater %s is set apart", broken.client_id, session.heater_id)
            EventApart.objects.update_or_create(
                client_id=broken.client_id,
                defaults={
                    "session": session, "event": broken, "device": broken.device, "by": broken.by, "settled": "",
                    "told": json.dumps({"kind": broken.kind, "step": broken.step, **broken.body})[:MOST_TOLD],
                    "fault": f"it cannot be followed ({type(fault).__name__}: {fault})"[:200],
                },
            )  # fmt: skip
            apart.append(broken)
            events.remove(broken)


def _first_broken(session: VisitSession, events: list[Event]) -> Event | None:
    """The first event with which a visit cannot be followed; None if it cannot without any."""
    if not _is_followed(session, []):
        return None
    good, bad = 0, len(events)
    while bad - good > 1:
        middle = (good + bad) // 2
        good, bad = (middle, bad) if _is_followed(session, events[:middle]) else (good, middle)
    return events[bad - 1]


def _is_followed(session: VisitSession, events: list[Event]) -> bool:
    try:
        stand.folded(session, events)
    except Exception:
        return False
    return True


def keep_unread(session: VisitSession, payload: SyncIn, by: User) -> list[RefusedOut]:
    """Keep what no event is, each once; returns what its device is told of it."""
    refused: list[RefusedOut] = []
    for unread in payload.unread:
        told = json.dumps(unread.told)[:MOST_TOLD]
        client_id = _id_of(session, unread, told)
        if not Event.objects.filter(client_id=client_id).exists():
            _, is_new = EventApart.objects.get_or_create(
                client_id=client_id,
                defaults={
                    "session": session, "device": payload.device, "told": told, "fault": unread.why[:200], "by": by,
                },
            )  # fmt: skip
            if is_new:
                _log.error("a tap of the visit at heater %s cannot be read: %s", session.heater_id, unread.why)
        message = f"It cannot be read ({unread.why}). It is kept as it is, and the lead is told."
        refused.append({"client_id": client_id, "message": message})
    return refused


def _id_of(session: VisitSession, unread: Unread, told: str) -> uuid.UUID:
    given = unread.told.get("client_id") if isinstance(unread.told, dict) else None
    try:
        return uuid.UUID(str(given))
    except ValueError:
        return uuid.uuid5(session.client_id, told)


def waiting() -> list[ApartOut]:
    """What is apart and was not looked at, the oldest first."""
    units = units_shown()
    rows = EventApart.objects.filter(settled="").select_related("session__heater__site", "session__visit", "by")
    return [
        {
            "id": row.pk,
            "heater_id": row.session.heater_id,
            "site": row.session.heater.site.name,
            "heater": row.session.heater.tag,
            "by": row.by.name,
            "at": row.at,
            "step": step_words(step, units) if (step := _step(row)) else "",
            "told": row.told,
            "fault": row.fault,
            "recorded": row.session.visit_id is not None,
        }
        for row in rows
    ]


def _step(row: EventApart) -> str:
    try:
        told = json.loads(row.told)
    except ValueError:
        return ""
    step = told.get("step") if isinstance(told, dict) else ""
    return step if isinstance(step, str) else ""


def set_aside(apart_id: int, why: str, by: User) -> None:
    """It bears on nothing, for good; what was told stays. Raises: NotFound, Conflict where somebody was faster."""
    with transaction.atomic():
        row = _open(apart_id)
        row.settled, row.why = Settled.SET_ASIDE, why
        _settle(row, by)


def read_again(apart_id: int, by: User, take: Callable[[VisitSession, EventIn, EventApart], str]) -> None:
    """Take it into its visit, now that the program can.

    Parameters: take, what puts a tap into a visit's log, and says why it may not be, if so.
    Raises: NotFound; Conflict where it still cannot be, or the visit was recorded without it.
    """
    with transaction.atomic():
        row = _open(apart_id)
        session = row.session
        Heater.objects.select_for_update(of=("self",)).get(pk=session.heater_id)
        if session.visit_id is not None:
            raise Conflict("The visit was recorded without it: put right what is missing there.", "visit.recorded")
        if row.event_id is None:
            try:
                event = EventIn.model_validate_json(row.told)
            except ValidationError as error:
                raise Conflict(f"It still cannot be read: {what_is_wrong(error)}.", "apart.unread") from None
            if against := take(session, event, row):
                raise Conflict(f"It still cannot be taken: {against}", "apart.unread")
        row.settled = Settled.READ
        _settle(row, by)
        # Looked at with it, and kept if that goes well.
        _, where, broken = followed(session)
        if broken:
            raise Conflict("The visit still cannot be followed with it.", "apart.unread")
        stand.keep(session, in_order(session), where)


def _open(apart_id: int) -> EventApart:
    row = EventApart.objects.select_for_update(of=("self",)).select_related("session").filter(pk=apart_id).first()
    if row is None:
        raise NotFound("There is no such tap.")
    if row.settled:
        raise Conflict("Somebody looked at it already.", "apart.settled")
    return row


def _settle(row: EventApart, by: User) -> None:
    row.settled_by, row.settled_at = by, timezone.now()
    row.save()

"""Where a visit stands by all of its events, each judged by the rights of whoever did it."""

import datetime
from collections.abc import Iterable, Mapping
from dataclasses import asdict

from typing_extensions import TypedDict

from aquifer.accounts.models import User
from aquifer.company.models import Company
from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.procedures import visit
from aquifer.core.procedures.condition import Words
from aquifer.core.procedures.ladder import with_ladders
from aquifer.core.procedures.library import Library, library, practices_followed
from aquifer.core.procedures.sequence import procedures_for
from aquifer.core.procedures.state import PlainState, Rates, State, as_found, elapsed, facts_of, rates_of
from aquifer.core.procedures.visit import EVENT_KINDS, Stand, told_by_reading
from aquifer.core.vocabulary import Component, FlushMethod, UpkeepItem
from aquifer.forecasts.models import Forecast
from aquifer.forecasts.sized import HEIGHT_M
from aquifer.heaters.models import Heater, LeftAs
from aquifer.visits.models import Event, Extra, VisitSession

COLDEST_C = 12.0
"""Of the cold water where nobody has measured it. Assumption."""


class Plan(TypedDict, total=False):
    """What a visit's guide follows from, as it is kept; those begun by older versions lack some of it."""

    extras: list[str]
    upkeep: list[str]
    flush_method: str
    practices: dict[str, str]
    start: PlainState
    rates: dict[str, float]
    beliefs: dict[str, float]
    complaint: str
    complaint_steps: list[str]
    kind_seen: bool


def rates(heater: Heater) -> Rates:
    """How fast a heater's level and heat can change at most."""
    kind = HeaterKind(heater.kind)
    return rates_of(
        capacity_l=heater.capacity_l or KINDS[kind].usual_capacity_l,
        height_m=(heater.height_mm or 1000 * HEIGHT_M) / 1000,
        input_kw=heater.input_kw or KINDS[kind].usual_input_kw,
        cold_c=COLDEST_C,
    )


def start(heater: Heater, now: datetime.datetime) -> State:
    """The state in which the next visit begins: as the last one left it, or as a heater is come upon."""
    left = LeftAs.objects.filter(heater=heater).first()
    if left is None:
        return as_found(HeaterKind(heater.kind), rates(heater), heater.ignition, heater.vent)
    return elapsed(State.read(left.state), max((now - left.at).total_seconds() / 60, 0.0), rates(heater))


def library_of(heater: Heater, plan: Plan) -> Library:
    """All procedures for a heater, the ladders of its complaints among them, by what was believed when a visit was
    planned."""
    words = (
        {**facts(heater, (), plan.get("practices", {})), **State.read(plan["start"]).words} if "start" in plan else {}
    )
    return with_ladders(library(), words, plan.get("beliefs", {})) if words else library()


def order(kind: HeaterKind, components: Iterable[str], plan: Plan) -> tuple[str, ...]:
    """The procedures of a visit, from what is to be done. Parameters: plan, as it is kept with a visit."""
    extras = plan.get("extras", [])
    complaint = tuple(plan.get("complaint_steps", ()))
    names = procedures_for(
        kind,
        [Component(one) for one in components],
        FlushMethod(plan.get("flush_method") or FlushMethod.DRAIN_AND_PULSE),
        pressure_test=Extra.PRESSURE_TEST in extras,
        upkeep=[UpkeepItem(one) for one in plan.get("upkeep", [])],
        replace_valve=Extra.REPLACE_VALVE in extras,
        partial=Extra.PARTIAL_DRAIN in extras and kind.is_tank,
        kind_seen=plan.get("kind_seen", True),
    )
    if not plan.get("kind_seen", True):
        return names
    # A complaint is looked into while the heater still is as it was found.
    return (*names[:1], *complaint, *names[1:])


def facts(heater: Heater, licences: Iterable[str], practices: Mapping[str, str] | None = None) -> Words:
    """Of a heater, whoever works at it, and the company's practice."""
    chosen = Company.current().step_practices if practices is None else practices
    return facts_of(HeaterKind(heater.kind), licences, practices_followed(chosen))


def plan_of(
    heater: Heater,
    extras: Iterable[str],
    upkeep: Iterable[str],
    method: str,
    now: datetime.datetime,
    beliefs: Mapping[str, float],
    complaint: str = "",
) -> Plan:
    """What a visit's guide follows from, kept with it: its events mean the same whatever changes meanwhile.

    Parameters: beliefs, of the heater, as a ladder takes them; complaint, the one that the visit is for.
    """
    plan: Plan = {
        "extras": list(extras), "upkeep": list(upkeep), "flush_method": method,
        "practices": Company.current().step_practices, "start": start(heater, now).plain(),
        "rates": asdict(rates(heater)), "beliefs": {name: round(share, 3) for name, share in beliefs.items()},
        "complaint": complaint, "kind_seen": heater.kind_seen,
    }  # fmt: skip
    thing = library_of(heater, plan).found.get(complaint)
    return {**plan, "complaint_steps": list(thing.then) if thing else []}


def beliefs(forecasts: Iterable[Forecast]) -> dict[str, float]:
    """What is believed of a heater today, as shares: deposit and scale of their limits, the rod's metal gone."""
    found = {}
    for forecast in forecasts:
        if forecast.component == Component.SEDIMENT:
            found["deposit"] = forecast.state["depth_mm"][1] / forecast.limit_value
        if forecast.component == Component.SCALE:
            found["scale"] = forecast.state["thickness_mm"][1] / forecast.limit_value
        if forecast.component == Component.ANODE:
            found["rod_gone"] = 1 - forecast.state["fraction_left"][1]
    return {name: min(max(share, 0.0), 1.0) for name, share in found.items()}


def begins(session: VisitSession) -> Stand:
    """A visit before its first event."""
    plan = session.plan
    own = facts(session.heater, session.licences, plan.get("practices", {}))
    return visit.begun(library_of(session.heater, plan), session.order, own, _start(session))


def _start(session: VisitSession) -> State:
    if "start" in session.plan:
        return State.read(session.plan["start"])
    return as_found(
        HeaterKind(session.heater.kind), rates(session.heater), session.heater.ignition, session.heater.vent
    )


def folded(session: VisitSession, events: Iterable[Event], marking: bool = True) -> Stand:
    """Where a visit stands. Parameters: events in their order, with who did them; marking, whether what is amiss with
    each is told."""
    plan = session.plan
    practices = plan.get("practices", {})
    own = facts(session.heater, session.licences, practices)
    bearing = _bearing(events, own)
    by_id: dict[str, User] = {event.id: one.by for one, event in bearing}
    of: dict[int, Words] = {}

    def facts_at(event: visit.Event) -> Words:
        by = by_id[event.id]
        if by.pk not in of:
            of[by.pk] = facts(session.heater, by.licences_held, practices)
        return of[by.pk]

    return visit.folded(
        library_of(session.heater, plan), begins(session), [event for _, event in bearing], own,
        Rates(**plan["rates"]) if "rates" in plan else rates(session.heater), facts_at if marking else None,
    )  # fmt: skip


def _bearing(events: Iterable[Event], own: Words) -> list[tuple[Event, visit.Event]]:
    """The events that bear on where a visit stands, as it is told them."""
    return [(one, event) for one in events if (event := _told(one, own)).kind in EVENT_KINDS]


def _told(event: Event, own: Words) -> visit.Event:
    kind, name = event.kind, event.body.get("name", "")
    if kind == "answered":
        happened = told_by_reading(library(), event.body.get("field", ""), event.body.get("value"), own)
        kind, name = ("outside", happened) if happened else (kind, name)
    return visit.Event(
        kind, event.step, event.body.get("choice", 0), name, event.body.get("of") or "",
        str(event.client_id), str(event.device), event.at.timestamp(), event.pk, event.known, event.body.get("why", ""),
    )  # fmt: skip


def keep(session: VisitSession, events: list[Event], stand: Stand) -> None:
    """Keep how a visit's events leave its heater, and what the lead is to look at. Parameters: stand, where it stands
    by them."""
    heater = session.heater
    doubts = visit.doubtful(library(), stand, _start(session))
    ending = library().endings[stand.ending] if stand.ending else None
    own = facts(heater, session.licences, session.plan.get("practices", {}))
    touched = [event for event, _ in _bearing(events, own)]
    if touched and (doubts or (ending is not None and ending.leaves in ("left_off", "evacuated"))):
        last = touched[-1]
        LeftAs.objects.update_or_create(
            heater=heater,
            defaults={
                "state": stand.state.plain(), "ending": stand.ending, "title": ending.title if ending else "",
                "off": ending is not None and ending.leaves in ("left_off", "evacuated"),
                "at": min(last.at, last.received_at), "by": last.by.name,
            },
        )  # fmt: skip
    elif touched:
        LeftAs.objects.filter(heater=heater).delete()
    marks = [
        asdict(mark) for mark in stand.marks if mark.kind in ("held", "unlicensed", "no_reason", "out_of_sequence")
    ]
    if marks != session.marks:
        session.marks = marks
        session.save(update_fields=["marks"])

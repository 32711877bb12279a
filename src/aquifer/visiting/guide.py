"""The guide of a visit: what is due, the procedures for it, and what is computed for this heater."""

import datetime
from collections.abc import Collection, Iterable, Mapping

from django.db.models import Q
from django.utils import timezone

from aquifer.accounts import sign_offs
from aquifer.accounts.access import Action, may
from aquifer.accounts.models import User
from aquifer.company.models import Company
from aquifer.core import measuring
from aquifer.core.judgement import Judgement, OnSiteRule, Verdict
from aquifer.core.judgement.table import Answer
from aquifer.core.kinds import HeaterKind
from aquifer.core.observations import Observation, looked_at
from aquifer.core.parameters import SEDIMENT
from aquifer.core.planning.parts import wants
from aquifer.core.planning.preparing import preparation
from aquifer.core.procedures import calculators
from aquifer.core.procedures.document import document
from aquifer.core.procedures.sequence import METHODS
from aquifer.core.procedures.state import Rates, State
from aquifer.core.units import Quantity, Unit, worded
from aquifer.core.vocabulary import Component, FlushMethod, Method, UpkeepItem
from aquifer.forecasts.log import at_visit
from aquifer.forecasts.models import Forecast
from aquifer.forecasts.sized import sized
from aquifer.heaters.models import Heater, LeftAs, Part, PartKind
from aquifer.places.models import Feature
from aquifer.rounds.models import Appointment, AppointmentStatus, Reason, Service
from aquifer.stock.lists import fitted
from aquifer.visiting import branches, event_log, on_record, stand
from aquifer.visits.models import Extra, VisitSession
from aquifer.visits.schemas import CarriedOut, GuideOut, ObservationOut, OnSiteRuleOut, VisitSessionOut
from aquifer.visits.words import figure_told, units_shown

SOON_DAYS = 45
"""What falls due within so many days is done with what is due already. Assumption."""
LEAST_LIKELY = 0.02
"""Parts less likely to be needed are not told. Assumption."""
_PARTS = {
    Component.ANODE: PartKind.ANODE,
    Component.RELIEF_VALVE: PartKind.RELIEF_VALVE,
    Component.EXPANSION_TANK: PartKind.EXPANSION_TANK,
}


def extras_under_way(heater_id: int, components: Iterable[Component]) -> list[Extra]:
    """What a visit that is under way for just these components takes up besides."""
    session = event_log.under_way(heater_id)
    if session is None or set(session.components) != set(components):
        return []
    return [Extra(one) for one in session.plan.get("extras", [])]


def read(
    heater: Heater,
    by: User,
    today: datetime.date,
    components: Iterable[Component] | None,
    extras: Collection[Extra] = (),
    complaint: str = "",
) -> GuideOut:
    """Everything that a device needs to lead through a visit; a fixed number of queries.

    Parameters: components to be served, or None for what is planned today, else for what is due; extras besides.
    """
    kind = HeaterKind(heater.kind)
    forecasts = {Component(one.component): one for one in Forecast.objects.current().filter(heater=heater)}
    due = set(components) if components is not None else _due(heater, forecasts, today)
    flush = _flush(forecasts.get(Component.SEDIMENT))
    units = units_shown()
    parts = {PartKind(part.kind): part for part in heater.parts.filter(removed_on__isnull=True)}
    features = list(Feature.objects.filter(site=heater.site_id, gone=False))
    figures = calculators.filled(sized(heater, forecasts, parts))
    on_site_rules, upkeep, judged = at_visit(
        heater, today, {component.value: forecast for component, forecast in forecasts.items()}
    )
    cleaned = [
        due_upkeep.item for due_upkeep in upkeep if due_upkeep.due_on <= today + datetime.timedelta(days=SOON_DAYS)
    ]
    session = event_log.under_way(heater.pk)
    joins = session is not None and components is not None and set(session.components) == due
    plan = session.plan if session is not None and joins and session.plan else None
    if plan is None:
        if components is None:
            due, extras = _advised(kind, due, forecasts, judged)
        if not heater.kind_seen:
            # Until somebody has seen what it is, nothing is due but that look.
            due, extras, complaint, cleaned = set(), [], "", []
        believed = stand.beliefs(forecasts.values())
        plan = stand.plan_of(heater, extras, cleaned, flush, timezone.now(), believed, complaint)
    names = session.order if session is not None and joins else stand.order(kind, sorted(due), plan)
    left = LeftAs.objects.filter(heater=heater).first()
    procedures = stand.library_of(heater, plan)
    guide = document(
        procedures,
        names,
        stand.facts(heater, by.licences_held, plan["practices"]),
        State.read(plan["start"]),
        Rates(**plan["rates"]),
    )
    return {
        **guide,
        "may_override": may(by.role, Action.OVERRIDE),
        "supervision": sign_offs.lacking(by, Component, today),
        "on_record": on_record.of_pieces(heater, parts, features, units),
        "to_know": [*_called_for(heater, today), *on_record.to_know(heater, parts, features, units)],
        "left_as": _left_words(left) or ("" if heater.kind_seen else NOT_SEEN),
        "heater_id": heater.pk,
        "components": sorted(due),
        "session": _session(session),
        "possible": [
            component
            for component in Component
            if heater.kind_seen and component in forecasts and component is not Component.TANK
        ],
        "flush_method": FlushMethod(plan["flush_method"]),
        "figures": [figure_told(filled, units) for filled in figures if filled.calculator.fits(kind)],
        "upkeep": [UpkeepItem(one) for one in plan["upkeep"]],
        "extras": sorted(plan["extras"]),
        "complaint": plan.get("complaint", ""),
        "parts": _carried(kind, due, forecasts, parts),
        "chances": branches.chances({name: procedures.procedures[name].steps for name in names}),
        "prepare": preparation([(kind, component) for component in due], 1.0),
        "on_site_rules": [_on_site_rule(rule, units) for rule in on_site_rules],
        "usual_readings": _usual_readings(forecasts),
        "observations": [_observation(observation) for observation in looked_at(kind)],
    }


def _called_for(heater: Heater, today: datetime.date) -> list[str]:
    """What was said when today's visit was arranged."""
    open_now = [
        AppointmentStatus.PLANNED,
        AppointmentStatus.KEPT,
        AppointmentStatus.OFFERED,
        AppointmentStatus.PROMISED,
    ]
    visits = Appointment.objects.filter(site=heater.site_id, on=today, standing__in=open_now).order_by("pk")
    lines = []
    for appointment in visits:
        reason = "" if appointment.reason == Reason.DUE else appointment.get_reason_display()
        if told := "; ".join(filter(None, (reason, appointment.said, appointment.note))):
            lines.append(f"Said when it was arranged: {told}.")
        if appointment.decides:
            lines.append(f"More work is decided by {appointment.decides}.")
    return lines


def _observation(observation: Observation) -> ObservationOut:
    return {
        "field": observation.field,
        "ask": observation.ask,
        "looks": [
            {"value": look.value, "words": look.words, "severity": look.severity, "advice": look.advice}
            for look in observation.looks
        ],
    }


def _usual_readings(forecasts: dict[Component, Forecast]) -> dict[str, list[float]]:
    """Outside of what a reading is asked for once more: what is usual anywhere, and what is believed of this heater."""
    found = {name: list(span) for name, span in calculators.USUAL_READINGS.items()}
    bed = forecasts.get(Component.SEDIMENT)
    if bed is not None and bed.state.get("depth_mm"):
        low, high = measuring.likely(bed.state["depth_mm"], SEDIMENT.depth_spread, 1000 * SEDIMENT.ruler_m)
        found["flush.depth_before_mm"] = [round(low, 1), round(high, 1)]
        found["flush.depth_after_mm"] = [0.0, round(high, 1)]
    return found


NOT_SEEN = "Nobody has said what kind of heater stands here: see what it is first, and open nothing."


def _advised(
    kind: HeaterKind, due: set[Component], forecasts: dict[Component, Forecast], judged: dict[str, Judgement]
) -> tuple[set[Component], list[Extra]]:
    """What is done unless somebody says otherwise: a tank that is better left alone is not flushed, a relief valve that
    is to be renewed is renewed and not only exercised."""
    flush = judged.get("flush_or_leave")
    if flush is not None and flush.verdict is Verdict.LEAVE_ALONE:
        due = due - {Component.SEDIMENT}
    valve, said = forecasts.get(Component.RELIEF_VALVE), judged.get("keep_valve")
    renews = (said is not None and said.verdict is Verdict.REPLACE_VALVE) or (
        valve is not None and valve.method == Method.REPLACE
    )
    return due, [Extra.REPLACE_VALVE] if renews and Component.RELIEF_VALVE in due else []


def _carried(
    kind: HeaterKind, due: set[Component], forecasts: dict[Component, Forecast], parts: dict[PartKind, Part]
) -> list[CarriedOut]:
    """Parts that the visit may need, the likeliest first."""
    found: dict[str, float] = {}
    for component in sorted(due):
        over = min(forecasts[component].probability_today, 0.999) if component in forecasts else 0.0
        part = parts.get(_PARTS[component]) if component in _PARTS else None
        state = forecasts[component].state if component in forecasts else {}
        for one in wants(kind, component, over, fitted(part, state)):
            found[one.part] = max(found.get(one.part, 0.0), one.probability)
    likely = [(part, share) for part, share in found.items() if share >= LEAST_LIKELY]
    return [{"part": part, "probability": share} for part, share in sorted(likely, key=lambda one: -one[1])]


def _on_site_rule(rule: OnSiteRule, units: Mapping[Quantity, Unit]) -> OnSiteRuleOut:
    return {
        "rule": rule.rule,
        "question": rule.question,
        "answers": [{"field": answer.field, "above": _above(answer)} for answer in rule.answers],
        "cases": [
            {
                "at": list(case.at),
                "verdict": case.judgement.verdict,
                "because": [worded(line, units) for line in case.judgement.because],
                "ask_lead": case.judgement.ask_lead,
                "licensed": case.judgement.licensed,
            }
            for case in rule.cases
        ],
        "options": [{"says": option.says, "follows": follows} for option, follows in rule.options],
    }


def _above(answer: Answer) -> float | None:
    """Where a number begins to matter, once it was told for this heater."""
    assert not callable(answer.above)
    return answer.above


def _left_words(left: LeftAs | None) -> str:
    """How an earlier visit left a heater, in words; empty where it was left fit to run."""
    if left is None:
        return ""
    why = left.title or "The last visit did not end with everything known to be right"
    return f"{why}. {left.by}, {left.at.astimezone():%d %B %Y}."


def _session(session: VisitSession | None) -> VisitSessionOut | None:
    if session is None:
        return None
    return {
        "client_id": session.client_id, "components": session.components, "by": session.by.name, "at": session.at,
        "events": session.events.count(),
    }  # fmt: skip


def _due(heater: Heater, forecasts: dict[Component, Forecast], today: datetime.date) -> set[Component]:
    planned = Service.objects.filter(
        Q(appointment__on=today), heater=heater, appointment__standing__in=[
            AppointmentStatus.PLANNED, AppointmentStatus.KEPT, AppointmentStatus.OFFERED, AppointmentStatus.PROMISED,
        ]
    )  # fmt: skip
    components = {Component(one) for one in planned.values_list("component", flat=True)}
    soon = today + datetime.timedelta(days=SOON_DAYS)
    by_date = {c for c, forecast in forecasts.items() if forecast.due_on is not None and forecast.due_on <= soon}
    return (components or by_date) - {Component.TANK}


def _flush(forecast: Forecast | None) -> FlushMethod:
    usual = FlushMethod(Company.current().flush_method)
    return METHODS.get(Method(forecast.method), usual) if forecast is not None else usual

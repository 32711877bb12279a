"""Recording a visit: its findings, the parts it changed and the forecast it moved, all or nothing, and once."""

import dataclasses
import datetime
from typing import Any

from django.db import IntegrityError, transaction

from aquifer.accounts.access import Action, may
from aquifer.accounts.models import Role, User
from aquifer.core.reasons import Found, Standing, moved
from aquifer.core.vocabulary import (
    LOOKED_AT,
    Component,
    HeaterKind,
    Method,
    Removed,
    RodGrade,
    Task,
    ValveOutcome,
    VesselPin,
)
from aquifer.errors import Conflict, Invalid, NotAllowed, NotFound
from aquifer.forecasts.models import Forecast
from aquifer.forecasts.recompute import recompute_heaters
from aquifer.forecasts.tasks import defer_zone
from aquifer.heaters.models import Heater, Part, PartKind
from aquifer.money.tasks import raise_quotes
from aquifer.rounds.done import visited
from aquifer.visits.models import Finding, Visit
from aquifer.visits.schemas import VisitIn

_STATE = {
    Component.SEDIMENT: "depth_mm",
    Component.SCALE: "thickness_mm",
    Component.ANODE: "fraction_left",
    Component.RELIEF_VALVE: "probability_stuck",
    Component.EXPANSION_TANK: "acceptance_l",
    Component.TANK: "failure_within_12_months",
}
_PARTS = {
    Component.ANODE: PartKind.ANODE,
    Component.RELIEF_VALVE: PartKind.RELIEF_VALVE,
    Component.EXPANSION_TANK: PartKind.EXPANSION_TANK,
}
_REPLACEMENTS = (Task.ANODE_REPLACEMENT, Task.RELIEF_VALVE_REPLACEMENT, Task.EXPANSION_TANK_REPLACEMENT)


def record_visit(payload: VisitIn, by: User, today: datetime.date, device: str = "") -> tuple[Visit, bool]:
    """Record a visit and move its heater's forecast.

    Returns: the visit, and whether it had been recorded before: a visit sent twice is one.
    Raises: Invalid naming the field, NotAllowed, NotFound, Conflict if the id belongs to another visit.
    """
    if existing := _existing(payload):
        return existing, True
    try:
        with transaction.atomic():
            # The lock makes a second device's visit wait for the first's forecast.
            heater = (
                Heater.objects.select_for_update(of=("self",))
                .select_related("site")
                .in_service()
                .filter(pk=payload.heater_id)
                .first()
            )
            if heater is None:
                raise NotFound("There is no such heater, or it was archived.", fields={"heater_id": "no such heater"})
            supervisor = _supervisor(payload, by)
            _check_overrides(payload, by)
            _check(payload, heater, today)
            visit = Visit.objects.create(
                client_id=payload.client_id,
                heater=heater,
                on=payload.on,
                recorded_by=by,
                supervised_by=supervisor,
                technician=by.name,
                device=device[:200],
                note=payload.note,
                steps=[one.model_dump(mode="json") for one in payload.steps],
            )
            before = _standings(heater.pk)
            for sequence, finding in enumerate(payload.findings):
                _append(visit, heater, sequence, finding)
            recompute_heaters([heater.pk])
            visit.moved = _moved(before, _standings(heater.pk), payload.findings)
            visit.save(update_fields=["moved"])
            visited(heater.pk, visit.on)
            defer_zone(heater.site.zone_id)
            raise_quotes.defer(visit_id=visit.pk)
    except IntegrityError:
        # Both copies of a visit sent twice passed the first look; the unique id let one of them in.
        if existing := _existing(payload):
            return existing, True
        raise
    return visit, False


def _existing(payload: VisitIn) -> Visit | None:
    found = Visit.objects.filter(client_id=payload.client_id).first()
    if found and found.heater_id != payload.heater_id:
        raise Conflict("This visit's id belongs to a visit at another heater.", "visit.id_taken")
    return found


def _supervisor(payload: VisitIn, by: User) -> User | None:
    if may(by.role, Action.RECORD_ALONE):
        return None
    qualified = User.objects.filter(is_active=True, role__in=[Role.TECHNICIAN, Role.LEAD])
    supervisor = qualified.filter(pk=payload.supervised_by).first() if payload.supervised_by else None
    if supervisor is None:
        raise NotAllowed(
            "An apprentice records a visit together with a technician: say under whom you worked.",
            "visit.needs_supervisor",
            {"supervised_by": "name a technician or the lead"},
        )
    return supervisor


def _check_overrides(payload: VisitIn, by: User) -> None:
    """A held step is gone on with only by somebody entitled, and for a reason that is in the record."""
    despite = [one for one in payload.steps if one.kind == "despite"]
    if despite and not may(by.role, Action.OVERRIDE):
        raise NotAllowed("Only the lead goes on despite a held step.", "visit.override", {"steps": despite[0].step})
    if bare := next((one for one in despite if not one.why), None):
        raise Invalid(
            f"Say why {bare.step} was done although it was held.", "visit.override_reason", {"steps": bare.step}
        )


def _check(payload: VisitIn, heater: Heater, today: datetime.date) -> None:
    wrong: dict[str, str] = {}
    if payload.on > today:
        wrong["on"] = f"{payload.on} is in the future"
    if heater.installed_on and payload.on < heater.installed_on:
        wrong["on"] = f"{payload.on} is before the heater was installed ({heater.installed_on})"
    kind = HeaterKind(heater.kind)
    for position, finding in enumerate(payload.findings):
        task = Task(finding.task)
        if not kind.is_tank and task in (Task.FLUSH, Task.ANODE_INSPECTION, Task.ANODE_REPLACEMENT):
            wrong[f"findings.{position}.task"] = "a tankless heater has no tank floor and no rod; it is descaled"
        if kind.is_tank and kind is not HeaterKind.INDIRECT_TANK and task is Task.DESCALE:
            wrong[f"findings.{position}.task"] = (
                "a tank is flushed; only a tankless heater or an indirect tank's coil is descaled"
            )
    if wrong:
        raise Invalid("Not recorded. " + "; ".join(f"{k}: {v}" for k, v in wrong.items()), "visit.invalid", wrong)


def _append(visit: Visit, heater: Heater, sequence: int, finding: Any) -> None:
    task = Task(finding.task)
    kind = _PARTS.get(LOOKED_AT[task]) if task in LOOKED_AT else None
    part = Part.objects.filter(heater=heater, kind=kind, removed_on__isnull=True).first() if kind else None
    values = {k: v for k, v in finding.model_dump(exclude={"task"}).items() if v is not None}
    if kind and task in _REPLACEMENTS:
        part, values = _fit(heater, kind, part, visit.on, values), {}
    Finding.objects.create(visit=visit, heater=heater, part=part, on=visit.on, sequence=sequence, task=task, **values)


def _fit(heater: Heater, kind: PartKind, old: Part | None, on: datetime.date, values: dict[str, Any]) -> Part:
    """The new part; what was not said of it is as the old one was."""
    fields = (
        "alloy",
        "diameter_mm",
        "length_mm",
        "count",
        "set_pressure_kpa",
        "set_temperature_c",
        "volume_l",
        "precharge_kpa",
    )
    kept = {name: getattr(old, name) for name in fields} if old else {}
    if old:
        old.removed_on = max(on, old.fitted_on or on)
        old.save(update_fields=["removed_on"])
    return Part.objects.create(heater=heater, kind=kind, fitted_on=on, **{**kept, **values})


def _standings(heater_id: int) -> dict[Component, Standing]:
    found = {}
    for one in Forecast.objects.current().filter(heater_id=heater_id):
        component = Component(one.component)
        days = one.reached_days
        found[component] = Standing(
            component,
            one.due_on,
            _after(one.as_of, days[1]),
            _after(one.as_of, days[5]),
            Method(one.method),
            one.state[_STATE[component]][1],
            one.log_theta,
            one.limit_value,
        )
    return found


def _after(start: datetime.date, days: int | None) -> datetime.date | None:
    return None if days is None else start + datetime.timedelta(days=days)


def _moved(
    before: dict[Component, Standing], after: dict[Component, Standing], findings: list[Any]
) -> list[dict[str, Any]]:
    found: dict[Component, Found] = {}
    for finding in findings:
        task = Task(finding.task)
        component = LOOKED_AT.get(task)
        if component is None:
            continue
        known = found.get(component, Found())
        values = finding.model_dump()
        found[component] = dataclasses.replace(
            known,
            removed=Removed(values["removed"]) if values.get("removed") else known.removed,
            depth_mm=values.get("depth_before_mm") or known.depth_mm,
            rod=RodGrade(values["grade"]) if values.get("grade") else known.rod,
            bare_mm=values.get("bare_wire_mm") or known.bare_mm,
            outcome=ValveOutcome(values["outcome"]) if values.get("outcome") else known.outcome,
            pin=VesselPin(values["at_valve"]) if values.get("at_valve") else known.pin,
            precharge_kpa=values.get("precharge_kpa") or known.precharge_kpa,
            replaced=known.replaced or task in _REPLACEMENTS,
        )
    return [
        {**dataclasses.asdict(one), "before_on": _iso(one.before_on), "after_on": _iso(one.after_on)}
        for one in (moved(before.get(component), after[component], found.get(component)) for component in after)
    ]


def _iso(day: datetime.date | None) -> str | None:
    return day.isoformat() if day else None

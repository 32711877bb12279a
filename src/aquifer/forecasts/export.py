"""A heater on record as an open case: what its forecast takes in, personal data left out."""

import datetime
from collections.abc import Mapping

import numpy as np

from aquifer.company.models import Company
from aquifer.core import replacement
from aquifer.core.case import CASE_FORMATS
from aquifer.core.observations import BY_FIELD
from aquifer.core.vocabulary import Business, Task
from aquifer.core.water import WaterTest
from aquifer.heaters.models import Heater, Part, PartKind
from aquifer.places import leaks
from aquifer.visits import readings
from aquifer.water.profiles import measured

_HEATER = (
    "kind",
    "installed_on",
    "capacity_l",
    "setpoint_c",
    "input_kw",
    "drain_port_height_mm",
    "probe_height_mm",
    "lower_element_height_mm",
    "exchanger_area_m2",
    "recirculated",
    "burner_hours_per_day",
    "floor_area_m2",
)
_FINDINGS = {
    Task.FLUSH: ("depth_before_mm", "depth_after_mm", "removed", "removed_l", "clarity", "texture", "drain_flow"),
    Task.DESCALE: ("removed", "dissolved_g", "flow_before_l_min", "rise_before_k", "flow_after_l_min", "rise_after_k"),
    Task.ANODE_INSPECTION: ("diameter_mm", "bare_wire_mm", "grade", "could_not_open"),
    Task.RELIEF_VALVE_EXERCISE: ("outcome",),
    Task.EXPANSION_TANK_CHECK: ("at_valve", "precharge_kpa"),
    Task.PRESSURE_TEST: ("static_kpa", "creep_kpa", "falls"),
    Task.LOOK_OVER: ("noise", "corrosion", "rusty_hot_water", "valve_drips", "element_failed"),
    Task.UPKEEP: ("fouling",),
}


def case_of(heater: Heater, today: datetime.date) -> dict[str, object]:
    """The case of a heater as of ``today``, as the format's document.

    People are named by no field; a zone's other heaters are left out, so the forecast of the case rests on this
    heater's own findings and the defaults.
    """
    site, company = heater.site, Company.current()
    water = measured(site.zone_id, site.pk)
    sharing = site.heaters.in_service().count() or 1
    use = site.hot_water_l_per_day
    parts = list(Part.objects.filter(heater=heater).order_by("fitted_on", "pk"))
    case = _blanks_left_out(
        {
            "format": CASE_FORMATS[1],
            "as_of": today.isoformat(),
            "water": {
                **{name: water.get(name) for name in WaterTest.__dataclass_fields__},
                "softened": site.softened,
                "supply": site.zone.supply,
            },
            "site": {
                "people": None if site.people is None else site.people / sharing,
                "hot_water_l_per_day": None if use is None else use / sharing,
                "static_pressure_kpa": site.static_pressure_kpa,
                "closed_system": site.closed_system,
                "fixtures": None if site.fixtures is None else site.fixtures / sharing,
                "business": site.business,
                "occupied_share": site.occupied_share,
                "dusty": site.dusty,
            },
            "heater": {
                **{name: getattr(heater, name) for name in _HEATER},
                **{name: getattr(heater, name) or None for name in ("ignition", "vent")},
                "anode": _first(parts, PartKind.ANODE, ("alloy", "diameter_mm", "length_mm", "count")),
                "relief_valve": _first(parts, PartKind.RELIEF_VALVE, ("set_pressure_kpa", "set_temperature_c")),
                "expansion_tank": _first(parts, PartKind.EXPANSION_TANK, ("volume_l", "precharge_kpa")),
            },
            "policy": {
                "practice": heater.practice or site.practice or site.zone.practice or company.practice,
                "schools": company.practice_options,
                "flush_method": company.flush_method,
                "tolerance": company.tolerance,
                "longest_flush_months": company.longest_flush_months,
                "relief_valve_target_pfd": company.relief_valve_target,
                "never_flushed_cutoff_years": company.never_flushed_cutoff_years,
                "replace_at": _replace_at(heater, company),
            },
            "events": _events(heater),
        }
    )
    if told := _readings(heater):
        case |= {"format": CASE_FORMATS[2], "readings": _given(told)}
    return case


def _replace_at(heater: Heater, company: Company) -> float:
    path, has_piped_pan = leaks.way_of(heater)
    business = Business(heater.site.business) if heater.site.business else None
    harm = replacement.harm_at(path, has_piped_pan, business)
    return float(replacement.advised_from(company.heater_over_leak, np.array([harm]))[0])


def _readings(heater: Heater) -> list[dict[str, object]]:
    """What was read and seen beside the findings, as it stands; nothing that somebody wrote in his own words."""
    found = []
    for visit in heater.visits.prefetch_related("amendments").order_by("on", "pk"):
        seen = {name: str(value) for name, value in readings.in_words(visit).items() if name in BY_FIELD}
        for name, value in {**readings.standing(visit), **seen}.items():
            found.append({"on": visit.on, "reading": name, "value": value})
    return found


def _first(parts: list[Part], kind: PartKind, names: tuple[str, ...]) -> dict[str, object] | None:
    """The part that came first; those that followed are events."""
    found = next((part for part in parts if part.kind == kind), None)
    if found is None:
        return None
    return {**{name: getattr(found, name) for name in names}, "installed_on": found.fitted_on}


def _events(heater: Heater) -> list[dict[str, object]]:
    events = []
    for finding in heater.findings.filter(correction__isnull=True).select_related("part").order_by("on", "pk"):
        task = Task(finding.task)
        event: dict[str, object] = {"on": finding.on, "task": task.value}
        if task in _FINDINGS:
            event["finding"] = {name: getattr(finding, name) for name in _FINDINGS[task]}
        if task is Task.FLUSH:
            event["method"] = finding.method
        if task is Task.UPKEEP:
            event["item"] = finding.item
        if task is Task.EXPANSION_TANK_REPLACEMENT and finding.part:
            event["part"] = {name: getattr(finding.part, name) for name in ("volume_l", "precharge_kpa")}
        if task is Task.ANODE_REPLACEMENT and finding.part:
            names = ("alloy", "diameter_mm", "length_mm", "count")
            event["part"] = {name: getattr(finding.part, name) for name in names}
        events.append(event)
    return events


def _blanks_left_out(document: Mapping[str, object]) -> dict[str, object]:
    return {name: _given(part) for name, part in document.items() if part not in (None, "")}


def _given(value: object) -> object:
    """What is on record: blanks are left out, dates written."""
    if isinstance(value, dict):
        return _blanks_left_out(value)
    if isinstance(value, list):
        return [_given(part) for part in value]
    return value.isoformat() if isinstance(value, datetime.date) else value

"""Which figures and parts matter to which kind of heater, and what is taken for those that nobody has read."""

from typing import Any

import numpy as np

from aquifer.core import fleet
from aquifer.core.parameters import EXPANSION_TANK, GEOMETRY, RELIEF_VALVE, SCALE, SEDIMENT
from aquifer.core.place import BURNS_GAS
from aquifer.core.vocabulary import FIRED_FROM_BELOW, HeaterKind

_ELECTRIC_TANKS = frozenset({HeaterKind.ELECTRIC_TANK, HeaterKind.HEAT_PUMP_TANK})
_TANK_FIELDS = ("capacity_l", "height_mm", "diameter_mm", "drain_port_height_mm", "dip_tube", "anode_port")
_BY_KIND: dict[HeaterKind, tuple[str, ...]] = {
    HeaterKind.INDIRECT_TANK: ("boiler", "exchanger_area_m2"),
    HeaterKind.SMALL_GAS_TANKLESS: (),
}


def fields_of(kind: HeaterKind) -> list[str]:
    """Names of the figures that matter to a heater of this kind, besides what every heater has. Source: the trade's
    list of equipment: a tankless heater has no rod and no drain port, an indirect one a boiler."""
    fields = ["setpoint_c", "control_setting"]
    if kind.is_tank:
        fields += _TANK_FIELDS
    if kind in FIRED_FROM_BELOW:
        fields.append("probe_height_mm")
    if kind in _ELECTRIC_TANKS:
        fields += ["lower_element_height_mm", "supply_volts"]
    if not kind.is_tank and kind not in _BY_KIND:
        fields += ["exchanger_area_m2", "supply_volts"]
    if kind is not HeaterKind.INDIRECT_TANK:
        fields.append("input_kw")
    if kind in BURNS_GAS:
        fields += ["burner_hours_per_day", "ignition", "vent"]
    return [*fields, *_BY_KIND.get(kind, ())]


def parts_of(kind: HeaterKind) -> list[str]:
    """Kinds of part that a heater of this kind can have, those that are forecast first. Source: as ``fields_of``."""
    parts = ["anode"] if kind.is_tank else []
    parts += ["relief_valve", "expansion_tank"]
    if kind.is_tank:
        parts += ["drain_valve", "tempering_valve"]
    if kind in _ELECTRIC_TANKS:
        parts += ["upper_element", "lower_element", "upper_thermostat", "lower_thermostat"]
    if kind in FIRED_FROM_BELOW:
        parts += ["gas_control", "thermocouple", "burner"]
    if not kind.is_tank:
        parts += ["exchanger", "flow_switch"]
        parts += ["burner", "igniter"] if kind in BURNS_GAS else []
        parts += ["mixing_valve"] if kind is HeaterKind.CONDENSING_TANKLESS else []
    return [*parts, "circulation_pump"]


def assumed(kind: HeaterKind, capacity_l: float | None) -> dict[str, float]:
    """What the forecast takes for each figure of such a heater while nobody has read it; SI units as the names say.

    Parameters: capacity_l, None if that too is unknown. Source: ``parameters``, similarity with the reference tank.
    """
    capacity = np.array([fleet.capacity_or_default(kind, capacity_l)])
    found: dict[str, Any] = {"setpoint_c": GEOMETRY.setpoint_c, "relief_kpa": RELIEF_VALVE.set_pressure_kpa}
    found["static_pressure_kpa"] = EXPANSION_TANK.usual_pressure_kpa
    if kind.is_tank:
        found["capacity_l"] = capacity[0]
        found["diameter_mm"] = 2000 * fleet.radius_m(capacity)[0]
        found["rod_length_mm"] = 1000 * fleet.rod_length_m(capacity)[0]
        found["rod_diameter_mm"] = 1000 * GEOMETRY.rod_diameter_m
        limit = SEDIMENT.limit_fired_m if kind in FIRED_FROM_BELOW else SEDIMENT.limit_other_m
        found["sediment_limit_mm"] = 1000 * limit
    if not kind.is_tank:
        found["exchanger_area_m2"] = SCALE.exchanger_m2
    if kind is HeaterKind.INDIRECT_TANK:
        found["exchanger_area_m2"] = SCALE.coil_exchanger_m2
    return {name: round(float(value), 3) for name, value in found.items()}

"""Which figures and parts matter to which kind of heater, and what is taken for those that nobody has read."""

import numpy as np

from aquifer.core import fleet
from aquifer.core.kinds import KINDS, Fuel, HeaterKind, Ignition
from aquifer.core.parameters import EXPANSION_TANK, GEOMETRY, RELIEF_VALVE, SCALE, SEDIMENT


def fields_of(kind: HeaterKind) -> list[str]:
    """Names of the figures that matter to a heater of this kind, besides what every heater has. Source: ``kinds``."""
    return list(KINDS[kind].fields)


def measured_of(kind: HeaterKind) -> list[str]:
    """What is measured at such a heater besides what a step asks for, by the names in ``procedures.library.ASKS``."""
    one = KINDS[kind]
    flame = ("gas_kpa", "input_kw", "millivolts", "held_s", "tries", "losses", "limit_c")
    current = ("volts", "ohms", "amps", "limit_tripped")
    return [
        "co_ppm",
        *(flame if one.fuel is Fuel.GAS else ()),
        *(current if one.fuel is Fuel.ELECTRIC else ()),
        *(("drained_l", "drain_min", "clear_min") if one.is_tank else ("code", "fan_rpm")),
        *(("gap_mm",) if "electrode" in one.parts else ()),
        *(("cells_v",) if Ignition.BATTERY in one.ignitions else ()),
        "inlet_c",
        "energy_kwh",
    ]


def parts_of(kind: HeaterKind) -> list[str]:
    """Kinds of part that a heater of this kind can have, those that are forecast first. Source: ``kinds``."""
    return list(KINDS[kind].parts)


def assumed(kind: HeaterKind, capacity_l: float | None) -> dict[str, float]:
    """What the forecast takes for each figure of such a heater while nobody has read it; SI units as the names say.

    Parameters: capacity_l, None if that too is unknown. Source: ``parameters``, similarity with the reference tank.
    """
    capacity = np.array([fleet.capacity_or_default(kind, capacity_l)])
    found: dict[str, float] = {"setpoint_c": GEOMETRY.setpoint_c, "relief_kpa": RELIEF_VALVE.set_pressure_kpa}
    found["static_pressure_kpa"] = EXPANSION_TANK.usual_pressure_kpa
    if kind.is_tank:
        found["capacity_l"] = capacity[0]
        found["diameter_mm"] = 2000 * fleet.radius_m(capacity)[0]
        found["rod_length_mm"] = 1000 * fleet.rod_length_m(capacity)[0]
        found["rod_diameter_mm"] = 1000 * GEOMETRY.rod_diameter_m
        limit = SEDIMENT.limit_fired_m if KINDS[kind].fired_from_below else SEDIMENT.limit_other_m
        found["sediment_limit_mm"] = 1000 * limit
    if not kind.is_tank:
        found["exchanger_area_m2"] = SCALE.exchanger_m2
    if KINDS[kind].has_coil:
        found["exchanger_area_m2"] = SCALE.coil_exchanger_m2
    return {name: round(float(value), 3) for name, value in found.items()}

"""What the figures on record can be at all, beside those that are read off instruments (``readings``).

One table: forms, the wire, imported files, the case format and the administration take their bounds from here. A bound
tells a slip of the hand from a figure; what is merely unusual is asked about once more. Source of the bounds:
assumption, wide of anything in the trade, unless a line says otherwise.
"""

from dataclasses import dataclass

from annotated_types import Interval

from aquifer.core.readings import READINGS
from aquifer.core.units import Quantity


@dataclass(frozen=True)
class Bound:
    """What a figure can be, both ends included."""

    low: float
    high: float
    unit: str = ""
    """A quantity of ``units``, or a unit that every company uses; empty for a number, a share or a count."""


_MILLIGRAMS = Bound(0, 5000, "mg/L")
_HARDNESS = Bound(0, 5000, Quantity.HARDNESS)
FIGURES: dict[str, Bound] = {
    "site.people": Bound(0, 10_000),
    "site.fixtures": Bound(0, 10_000),
    "site.hot_water_l_per_day": Bound(0, 1_000_000, Quantity.VOLUME),
    "site.occupied_share": Bound(0, 1),
    "site.static_pressure_kpa": Bound(0, 3000, Quantity.PRESSURE),
    # Degrees of the earth.
    "place.longitude": Bound(-180, 180),
    "place.latitude": Bound(-90, 90),
    "heater.capacity_l": Bound(0.1, 20_000, Quantity.VOLUME),
    "heater.setpoint_c": Bound(30, 95, Quantity.TEMPERATURE),
    "heater.input_kw": Bound(0, 1000, Quantity.POWER),
    "heater.height_mm": Bound(100, 10_000, Quantity.LENGTH),
    "heater.diameter_mm": Bound(100, 5000, Quantity.LENGTH),
    "heater.drain_port_height_mm": Bound(1, 1000, Quantity.LENGTH),
    "heater.probe_height_mm": Bound(1, 5000, Quantity.LENGTH),
    "heater.lower_element_height_mm": Bound(1, 5000, Quantity.LENGTH),
    "heater.exchanger_area_m2": Bound(0.005, 20, "m2"),
    "heater.floor_area_m2": Bound(0.005, 20, "m2"),
    "heater.burner_hours_per_day": Bound(0, 24, "h"),
    "heater.install_margin_years": Bound(0.01, 40, "years"),
    "heater.supply_volts": Bound(6, 1000, Quantity.VOLTAGE),
    "heater.end_weight_kg": Bound(0.1, 2000, "kg"),
    "anode.diameter_mm": Bound(5, 100, Quantity.LENGTH),
    "anode.length_mm": Bound(50, 5000, Quantity.LENGTH),
    "anode.count": Bound(1, 12),
    "relief_valve.set_pressure_kpa": Bound(100, 3000, Quantity.PRESSURE),
    "relief_valve.set_temperature_c": Bound(30, 150, Quantity.TEMPERATURE),
    "relief_valve.rating_kw": Bound(0.1, 2000, Quantity.POWER),
    "relief_valve.probe_length_mm": Bound(5, 1000, Quantity.LENGTH),
    "expansion_tank.volume_l": Bound(0.1, 2000, Quantity.VOLUME),
    "expansion_tank.precharge_kpa": Bound(0, 3000, Quantity.PRESSURE),
    "water.total_hardness_mg_l": _HARDNESS,
    "water.calcium_hardness_mg_l": _HARDNESS,
    "water.alkalinity_mg_l": _HARDNESS,
    "water.ph": Bound(4, 11),
    "water.conductivity_us_cm": Bound(1, 50_000, "uS/cm"),
    "water.source_temperature_c": Bound(0, 45, Quantity.TEMPERATURE),
    "water.suspended_solids_mg_l": _MILLIGRAMS,
    "water.iron_mg_l": Bound(0, 100, "mg/L"),
    "water.free_chlorine_mg_l": Bound(0, 20, "mg/L"),
    "practice.tolerance": Bound(0.01, 0.99),
    "practice.longest_flush_months": Bound(3, 240, "months"),
    "practice.relief_valve_target": Bound(0.0005, 0.5),
    "practice.replace_at": Bound(0.01, 0.9),
    "practice.never_flushed_cutoff_years": Bound(0, 100, "years"),
    "practice.first_round_weeks": Bound(1, 52, "weeks"),
    "practice.worth_hours": Bound(0.1, 200, "h"),
    "practice.level_hours": Bound(0, 20, "h"),
    "messages.remind_days": Bound(0, 14, "days"),
    "prior.log_mean": Bound(-3, 3),
    "prior.log_sd": Bound(0.08, 3),
}
"""By the record and the field that hold it."""


def bound(name: str) -> Bound:
    """What a figure can be, or a reading. Raises: KeyError for one that no table has."""
    if name in READINGS:
        reading = READINGS[name]
        return Bound(reading.low, reading.high, reading.unit)
    return FIGURES[name]


def within(name: str) -> Interval:
    """The same for the field of a form or a document. Raises: KeyError."""
    found = bound(name)
    return Interval(ge=found.low, le=found.high)

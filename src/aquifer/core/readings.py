"""What is measured at a heater: what it is called, in which quantity, and what it can be at all.

One table: the wire, imported files, the case format and amendments take their bounds from here. A bound says what no
instrument could read at such a heater, so that a slip of the hand is told from a finding; what is merely unusual is
asked about once more (``procedures.calculators.USUAL_READINGS``). Source of the bounds: assumption, wide of anything in
the trade.
"""

from dataclasses import dataclass

from aquifer.core.units import Quantity, figure


@dataclass(frozen=True)
class Reading:
    """One figure that is read off an instrument."""

    says: str
    """What it is, as a log names it."""
    unit: str
    """A quantity of ``units``, or a unit that every company uses."""
    low: float
    high: float
    finding: bool = False
    """Part of a finding that the forecast learns from; else it is kept beside the findings."""

    def words(self, value: float) -> str:
        """It with a value, for a sentence whose figures are told in a company's units."""
        shown = figure(Quantity(self.unit), value) if self.unit in set(Quantity) else f"{value:g} {self.unit}"
        return f"{self.says} {shown}"


SEEN: dict[str, tuple[str, dict[str, str]]] = {
    "settings.found": ("setting as found", {}),
    "settings.left": ("setting as left", {}),
    "panel.code": ("code on the panel", {}),
    "agreed.work": ("agreed at the door", {}),
    "agreed.price": ("for", {}),
    "agreed.by": ("agreed by", {}),
    "agreed.setting": ("setting agreed with", {}),
    "power.limit_tripped": ("limit switch", {"True": "had tripped"}),
    "gas.sensor_tip": ("tip in the flame", {"clean": "clean", "carbon": "carbon, black", "corroded": "corroded"}),
    "look.taps": ("not as it should be", {"one": "at one faucet", "all": "at every faucet"}),
}
"""What is seen and told in words, and kept beside the findings: what it is, and the words of each answer; any words
where there are none."""
READINGS: dict[str, Reading] = {
    "arrival.tap_c": Reading("hot water on arrival", Quantity.TEMPERATURE, 0, 99),
    "verify.tap_c": Reading("hottest water at a faucet", Quantity.TEMPERATURE, 0, 99),
    "look.co_ppm": Reading("carbon monoxide in the air", "ppm", 0, 5000),
    "look.ohms": Reading("across the element", "ohm", 0, 10_000_000),
    "power.volts": Reading("supply", Quantity.VOLTAGE, 0, 1000),
    "power.amps": Reading("under load", "A", 0, 500),
    "gas.held_s": Reading("button held until the pilot stayed", "s", 0, 600),
    "gas.tries": Reading("lit after", "tries", 0, 50),
    "gas.losses": Reading("flame lost", "times", 0, 1000),
    "gas.gap_mm": Reading("spark gap", Quantity.LENGTH, 0, 50),
    "limit.opens_c": Reading("limit opened at", Quantity.TEMPERATURE, 0, 150),
    "mixing.inlet_c": Reading("cold feed of the mixing valve", Quantity.TEMPERATURE, 0, 99),
    "cells.volts": Reading("cells", Quantity.VOLTAGE, 0, 20),
    "fan.rpm": Reading("fan", "rpm", 0, 30_000),
    "drain.minutes": Reading("ran empty in", "min", 0, 1000),
    "water.clear_min": Reading("ran clear after", "min", 0, 600),
    "verify.heat_up_min": Reading("hot again after", "min", 0, 1000),
    "energy.year_kwh": Reading("energy of twelve months, by the bills", "kWh", 0, 10_000_000),
    "gas.input_kw": Reading("gas input by the meter", Quantity.POWER, 0, 1000),
    "drain.drained_l": Reading("ran out of the tank", Quantity.VOLUME, 0, 20_000),
    "gas.millivolts": Reading("thermocouple, lit", "mV", -100, 1000),
    "gas.gas_kpa": Reading("gas at the manifold", Quantity.GAS_PRESSURE, 0, 100),
    "pressure.static_kpa": Reading("standing pressure", Quantity.PRESSURE, 0, 3000, finding=True),
    "pressure.creep_kpa": Reading("crept by", Quantity.PRESSURE, -3000, 3000, finding=True),
    "expansion_tank.precharge_kpa": Reading("charge of the expansion tank", Quantity.PRESSURE, 0, 3000, finding=True),
    "flush.removed_l": Reading("deposit in the bucket", Quantity.SMALL_VOLUME, 0, 5000, finding=True),
    "flush.depth_before_mm": Reading("deposit before the flush", Quantity.LENGTH, 0, 3000, finding=True),
    "flush.depth_after_mm": Reading("deposit after the flush", Quantity.LENGTH, 0, 3000, finding=True),
    "rod.diameter_mm": Reading("thickness of the rod", Quantity.LENGTH, 0, 100, finding=True),
    "rod.bare_wire_mm": Reading("bare wire", Quantity.LENGTH, 0, 5000, finding=True),
    "descale.dissolved_g": Reading("lime dissolved", Quantity.SMALL_MASS, 0, 50_000, finding=True),
    "descale.flow_before_l_min": Reading("flow before the descale", Quantity.FLOW, 0.1, 1000, finding=True),
    "descale.rise_before_k": Reading("rise before the descale", Quantity.TEMPERATURE_DIFFERENCE, 1, 90, finding=True),
    "descale.flow_after_l_min": Reading("flow after the descale", Quantity.FLOW, 0.1, 1000, finding=True),
    "descale.rise_after_k": Reading("rise after the descale", Quantity.TEMPERATURE_DIFFERENCE, 1, 90, finding=True),
}
"""By the field under which a visit answers it."""

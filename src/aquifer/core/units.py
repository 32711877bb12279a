"""Every conversion, once: SI inside, the company's units at the rim. The browser is sent this table."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum


class System(StrEnum):
    METRIC = "metric"
    US = "us"


class HardnessUnit(StrEnum):
    MG_L = "mg_l"
    GPG = "gpg"
    DH = "dh"
    FH = "fh"


class Quantity(StrEnum):
    """A kind of figure, with its unit inside the program."""

    VOLUME = "volume_l"
    SMALL_VOLUME = "small_volume_l"
    LENGTH = "length_mm"
    TEMPERATURE = "temperature_c"
    PRESSURE = "pressure_kpa"
    MASS = "mass_kg"
    SMALL_MASS = "mass_g"
    POWER = "power_kw"
    HARDNESS = "hardness_mg_l"
    TEMPERATURE_DIFFERENCE = "temperature_k"
    GAS_PRESSURE = "gas_pressure_kpa"
    FLOW = "flow_l_min"
    DOSE = "dose_g_l"
    VOLTAGE = "volts"
    HEIGHT = "height_m"
    GAS_VOLUME = "gas_l"
    HEATING_VALUE = "heating_mj_m3"


@dataclass(frozen=True)
class Unit:
    """shown = stored x factor + offset."""

    label: str
    factor: float
    offset: float = 0.0
    decimals: int = 0

    def shown(self, stored: float) -> float:
        """A stored figure in this unit."""
        return stored * self.factor + self.offset

    def stored(self, shown: float) -> float:
        """A figure typed in this unit, as it is stored."""
        return (shown - self.offset) / self.factor


LITRES_PER_US_GALLON = 3.785411784
"""Exact by definition of the inch. Constant."""
MM_PER_INCH = 25.4
KPA_PER_PSI = 6.894757293168
"""Pound-force per square inch. Constant."""
KG_PER_POUND = 0.45359237
KW_PER_KBTU_H = 0.2930710701722
"""Thousand international-table British thermal units an hour. Constant."""
MG_L_PER_GRAIN = 17.118
"""Grain of CaCO3 per US gallon. Trade practice rounds 17.1181."""
MG_L_PER_DH = 17.848
MG_L_PER_FH = 10.0
MG_L_PER_CLARK = 14.254
"""Grain of CaCO3 per imperial gallon: 64.79891 mg in 4.54609 L. Constant."""
MG_L_PER_MMOL_L = 100.09
"""The same of hardness as CaCO3 by its molar mass. Constant."""
KPA_PER_INCH_OF_WATER = 0.24908891
"""At 4 degC, as gas pressures are told. Constant."""
G_PER_OUNCE = 28.349523125
"""Avoirdupois. Constant."""
LITRES_PER_CUBIC_FOOT = 28.316846592
M_PER_FOOT = 0.3048
"""Exact by definition of the inch. Constant."""
MJ_M3_PER_BTU_FT3 = 0.0372589458
"""International-table British thermal units a cubic foot, as gas is sold. Constant."""
KPA_PER_BAR = 100.0
"""Exact by definition of the bar. Constant."""

METRIC = {
    Quantity.VOLUME: Unit("L", 1),
    Quantity.SMALL_VOLUME: Unit("L", 1, decimals=1),
    Quantity.LENGTH: Unit("mm", 1),
    Quantity.TEMPERATURE: Unit("°C", 1),
    Quantity.PRESSURE: Unit("kPa", 1),
    Quantity.MASS: Unit("kg", 1, decimals=1),
    Quantity.SMALL_MASS: Unit("g", 1),
    Quantity.POWER: Unit("kW", 1, decimals=1),
    Quantity.TEMPERATURE_DIFFERENCE: Unit("°C", 1),
    Quantity.GAS_PRESSURE: Unit("kPa", 1, decimals=1),
    Quantity.FLOW: Unit("L/min", 1, decimals=1),
    Quantity.DOSE: Unit("g/L", 1),
    Quantity.VOLTAGE: Unit("V", 1, decimals=1),
    Quantity.HEIGHT: Unit("m", 1, decimals=1),
    Quantity.GAS_VOLUME: Unit("L", 1, decimals=1),
    Quantity.HEATING_VALUE: Unit("MJ/m³", 1, decimals=1),
}
US = {
    Quantity.VOLUME: Unit("gal", 1 / LITRES_PER_US_GALLON),
    Quantity.SMALL_VOLUME: Unit("gal", 1 / LITRES_PER_US_GALLON, decimals=2),
    Quantity.LENGTH: Unit("in", 1 / MM_PER_INCH, decimals=2),
    Quantity.TEMPERATURE: Unit("°F", 1.8, 32),
    Quantity.PRESSURE: Unit("psi", 1 / KPA_PER_PSI),
    Quantity.MASS: Unit("lb", 1 / KG_PER_POUND, decimals=1),
    Quantity.SMALL_MASS: Unit("oz", 1 / G_PER_OUNCE, decimals=1),
    Quantity.POWER: Unit("kBTU/h", 1 / KW_PER_KBTU_H, decimals=1),
    Quantity.TEMPERATURE_DIFFERENCE: Unit("°F", 1.8),
    Quantity.GAS_PRESSURE: Unit("in wc", 1 / KPA_PER_INCH_OF_WATER, decimals=1),
    Quantity.FLOW: Unit("gpm", 1 / LITRES_PER_US_GALLON, decimals=1),
    Quantity.DOSE: Unit("oz/gal", LITRES_PER_US_GALLON / G_PER_OUNCE),
    Quantity.VOLTAGE: Unit("V", 1, decimals=1),
    Quantity.HEIGHT: Unit("ft", 1 / M_PER_FOOT, decimals=1),
    Quantity.GAS_VOLUME: Unit("cu ft", 1 / LITRES_PER_CUBIC_FOOT, decimals=2),
    Quantity.HEATING_VALUE: Unit("BTU/cu ft", 1 / MJ_M3_PER_BTU_FT3),
}
HARDNESS = {
    HardnessUnit.MG_L: Unit("mg/L", 1),
    HardnessUnit.GPG: Unit("gpg", 1 / MG_L_PER_GRAIN, decimals=1),
    HardnessUnit.DH: Unit("°dH", 1 / MG_L_PER_DH, decimals=1),
    HardnessUnit.FH: Unit("°fH", 1 / MG_L_PER_FH, decimals=1),
}

WRITTEN: dict[Quantity, dict[str, Unit]] = {
    Quantity.VOLUME: {"l": METRIC[Quantity.VOLUME], "gal": US[Quantity.VOLUME]},
    Quantity.SMALL_VOLUME: {"l": METRIC[Quantity.SMALL_VOLUME], "gal": US[Quantity.SMALL_VOLUME]},
    Quantity.LENGTH: {"mm": METRIC[Quantity.LENGTH], "cm": Unit("cm", 0.1), "in": US[Quantity.LENGTH]},
    Quantity.TEMPERATURE: {"°c": METRIC[Quantity.TEMPERATURE], "°f": US[Quantity.TEMPERATURE]},
    Quantity.PRESSURE: {
        "kpa": METRIC[Quantity.PRESSURE],
        "bar": Unit("bar", 1 / KPA_PER_BAR, decimals=1),
        "psi": US[Quantity.PRESSURE],
    },
    Quantity.MASS: {"kg": METRIC[Quantity.MASS], "lb": US[Quantity.MASS]},
    Quantity.SMALL_MASS: {"g": METRIC[Quantity.SMALL_MASS], "oz": US[Quantity.SMALL_MASS]},
    Quantity.POWER: {"kw": METRIC[Quantity.POWER], "kbtu/h": US[Quantity.POWER]},
    Quantity.HARDNESS: {
        "mg/l": HARDNESS[HardnessUnit.MG_L],
        "ppm": HARDNESS[HardnessUnit.MG_L],
        "gpg": HARDNESS[HardnessUnit.GPG],
        "°dh": HARDNESS[HardnessUnit.DH],
        "°fh": HARDNESS[HardnessUnit.FH],
        "mmol/l": Unit("mmol/L", 1 / MG_L_PER_MMOL_L, decimals=2),
        "°clark": Unit("°Clark", 1 / MG_L_PER_CLARK, decimals=1),
    },
}
"""How files write the units of each quantity, in small letters. The weight of water makes ppm mg/L."""


FIGURE = re.compile(r"\{(\w+):(-?[\d.]+(?:e[-+]?\d+)?)\}")
"""A figure within a sentence, with its quantity: ``{temperature_c:43}``."""


def figure(quantity: Quantity, stored: float) -> str:
    """A figure within a sentence, with its quantity: ``worded`` tells it in a company's units."""
    return f"{{{quantity}:{stored:.6g}}}"


def worded(text: str, units: Mapping[Quantity, Unit]) -> str:
    """A sentence with its figures in a company's units. Raises: ValueError for a quantity that there is none of."""

    def figure(found: re.Match[str]) -> str:
        unit = units[Quantity(found[1])]
        return f"{unit.shown(float(found[2])):.{unit.decimals}f} {unit.label}"

    return FIGURE.sub(figure, text)


def table(system: System, hardness: HardnessUnit) -> dict[Quantity, Unit]:
    """The unit of each quantity in a company's choice."""
    return {**(US if system == System.US else METRIC), Quantity.HARDNESS: HARDNESS[hardness]}

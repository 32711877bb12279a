"""What is computed for a visit's steps: times, amounts and readings to expect, each with its formula and source.

SI units, but for minutes where people read them.
"""

from dataclasses import dataclass
from math import inf, log, pi, sqrt

import numpy as np

from aquifer.core import expansion_tank

GRAVITY = 9.81
"""m/s2."""
DISCHARGE = 0.6
"""Share of the ideal flow through a sharp-edged opening. Source: fluid mechanics, orifice coefficient."""
DRAIN_BORE_MM = 9.5
"""3/8 in: the bore of a common drain valve. Trade practice."""
FULL_BORE_MM = 19.0
"""3/4 in: a full-bore valve. Trade practice."""
HOSE_SHARE = 0.75
"""What a hose of a few metres leaves of the flow. Assumption."""
SUPPLY_L_PER_MIN = 20.0
"""Through a heater's cold inlet. Assumption, about what a 3/4 in branch gives."""
HEAT_CAPACITY = 4186.0
"""J/(kg K), water. Physical constant."""
LOSS_TO_AIR = 0.8
"""Share of a burner's heat that reaches the water; an element's is nearly all. Trade practice."""
ACID_G_LIME_PER_L = {"vinegar of 5 %": 42.0, "citric acid of 7 %": 55.0}
"""Lime that one litre dissolves. Stoichiometry: CaCO3 + 2 CH3COOH, 50 g of acetic acid in a litre dissolve 42 g;
2 C6H8O7 + 3 CaCO3, 70 g of citric acid dissolve 55 g."""
USUAL_READINGS = {"tap_c": (30.0, 75.0)}
"""Readings outside this are asked for once more: a tap colder or hotter than any setting. Assumption."""
LEAST_ACID_L = 4.0
"""Keeps the pump wet. Trade practice."""


@dataclass(frozen=True)
class Figure:
    """A computed number with what it rests on."""

    name: str
    value: float
    unit: str
    """A quantity of ``units``, or min, mV, ohm, L/min, percent."""
    formula: str
    source: str


def drain_minutes(
    capacity_l: float, height_m: float, bore_mm: float = DRAIN_BORE_MM, vented: bool = True, open_share: float = 1.0
) -> float:
    """Minutes until a tank is empty by gravity.

    Parameters: capacity, L; height of the water, m; bore of the drain, mm; vented, whether air gets in; open_share,
    of the bore, 0 to 1, less where solids stand in it.
    Source: Torricelli, t = A / (Cd a) sqrt(2 h / g), with what a hose takes. Without air hardly anything runs: never.
    Raises: ValueError for a capacity, height or bore that is not above nothing.
    """
    if min(capacity_l, height_m, bore_mm) <= 0:
        raise ValueError(f"{capacity_l} L, {height_m} m, {bore_mm} mm; allowed: above 0")
    if not vented or open_share <= 0:
        return inf
    floor = capacity_l / 1000 / height_m
    port = pi / 4 * (bore_mm / 1000) ** 2 * open_share
    return floor / (DISCHARGE * HOSE_SHARE * port) * sqrt(2 * height_m / GRAVITY) / 60


def supplied_flow_l_min(pressure_kpa: float, bore_mm: float = DRAIN_BORE_MM, open_share: float = 1.0) -> float:
    """Flow out of the drain with the supply left on, L/min. Parameters: gauge pressure, kPa; bore, mm.

    Source: Torricelli with the pressure's head, at most what the supply gives.
    """
    port = pi / 4 * (bore_mm / 1000) ** 2 * open_share
    ideal = DISCHARGE * HOSE_SHARE * port * sqrt(2 * max(pressure_kpa, 0.0)) * 60_000
    return min(ideal, SUPPLY_L_PER_MIN)


def litres_below(capacity_l: float, port_share: float) -> float:
    """What is drained until the water stands below a port, L. Parameters: port_share, the port's height as a share of
    the tank's, 0 to 1. A hand's width more, so that it does not spill. Source: the tank is a cylinder."""
    return min(capacity_l, capacity_l * (1 - port_share) + 0.08 * capacity_l)


def refill_minutes(capacity_l: float, supply_l_min: float = SUPPLY_L_PER_MIN) -> float:
    """Minutes to fill an empty tank. Source: volume over flow."""
    return capacity_l / supply_l_min


def heat_up_minutes(capacity_l: float, input_kw: float, cold_c: float, hot_c: float, burns: bool) -> float:
    """Minutes from cold to hot. Parameters: L, kW, degC; burns, whether part of the heat goes up the flue.

    Source: m c dT over the power that reaches the water. Raises: ValueError for no power.
    """
    if input_kw <= 0:
        raise ValueError(f"{input_kw} kW; allowed: above 0")
    power = 1000 * input_kw * (LOSS_TO_AIR if burns else 1.0)
    return capacity_l * HEAT_CAPACITY * max(hot_c - cold_c, 0.0) / power / 60


def cool_minutes(capacity_l: float, hot_c: float, cold_c: float, to_c: float, flow_l_min: float = 8.0) -> float:
    """Minutes of running a hot tap, the heater off, until it comes below ``to_c``.

    Source: a stirred tank, T falls towards the cold's with V / q as its time; a tank that stays layered is quicker.
    """
    if hot_c <= to_c or to_c <= cold_c:
        return 0.0
    return capacity_l / flow_l_min * log((hot_c - cold_c) / (to_c - cold_c))


def acid_litres(scale_g: float, acid: str = "vinegar of 5 %") -> float:
    """Litres of acid for a descale, at least what keeps the pump wet. Parameters: scale, g of lime; one of
    ``ACID_G_LIME_PER_L``. Source: stoichiometry. Raises: ValueError for another acid."""
    if acid not in ACID_G_LIME_PER_L:
        raise ValueError(f"{acid}; allowed: {', '.join(ACID_G_LIME_PER_L)}")
    return max(LEAST_ACID_L, scale_g / ACID_G_LIME_PER_L[acid])


def element_ohms(volts: float, watts: float) -> float:
    """Ohms of a sound element, cold. Source: Ohm's law, R = U^2 / P. Raises: ValueError for no power."""
    if watts <= 0:
        raise ValueError(f"{watts} W; allowed: above 0")
    return volts**2 / watts


def heat_taken_kw(flow_l_min: float, rise_k: float) -> float:
    """Heat that a tankless heater gives, kW, from flow and temperature rise. Source: m c dT."""
    return flow_l_min / 60 * HEAT_CAPACITY * rise_k / 1000


def capacity_lost(flow_l_min: float, rise_k: float, input_kw: float, burns: bool) -> float:
    """The share of a tankless heater's heat that no longer arrives at full draw, 0 to 1. Source: ``heat_taken_kw``
    against its plate."""
    whole = input_kw * (LOSS_TO_AIR if burns else 1.0)
    return float(np.clip(1 - heat_taken_kw(flow_l_min, rise_k) / whole, 0.0, 1.0))


def burn_seconds(water_c: float) -> float:
    """Seconds until a deep burn of an adult; children and frail people faster.

    Source: the trade's figures, minutes at 49 degC, half a minute at 54, five seconds at 60, one at 66, read between
    them on a logarithmic scale; infinite below 44.
    """
    if water_c < 44:
        return inf
    return float(np.exp(np.interp(water_c, [44.0, 49.0, 54.0, 60.0, 66.0], np.log([21_600.0, 480.0, 30.0, 5.0, 1.0]))))


def rod_left(new_diameter_mm: float, diameter_mm: float) -> float:
    """The share of a rod's metal that is left, from its diameter. Source: the cross-section's ratio; its wire is
    neglected."""
    if new_diameter_mm <= 0:
        raise ValueError(f"new diameter {new_diameter_mm} mm; allowed: above 0")
    return float(np.clip((diameter_mm / new_diameter_mm) ** 2, 0.0, 1.0))


def expansion_litres(capacity_l: float, cold_c: float, hot_c: float) -> float:
    """By how much a tank's water grows when it is heated, L. Source: ``expansion_tank.expansion_l``, from density."""
    grown = expansion_tank.expansion_l(np.array([capacity_l]), np.array([cold_c]), np.array([hot_c]))
    return float(grown[0])


def vessel_litres(grown_l: float, precharge_kpa: float, most_kpa: float) -> float:
    """The smallest expansion tank that takes up ``grown_l``, L. Parameters: gauge pressures, kPa.

    Source: Boyle's law, V = grown / (1 - p1 / p2) with absolute pressures. Raises: ValueError where the relief valve
    opens no higher than the charge.
    """
    if most_kpa <= precharge_kpa:
        raise ValueError(f"{most_kpa} kPa at most against a charge of {precharge_kpa}; allowed: above it")
    return grown_l / (1 - (precharge_kpa + 101.325) / (most_kpa + 101.325))


@dataclass(frozen=True)
class Heater:
    """What the figures of a visit need to know; SI but for kPa, L, mm."""

    capacity_l: float
    height_m: float
    input_kw: float
    setpoint_c: float
    cold_c: float
    static_kpa: float
    burns: bool
    scale_g: float
    drain_open_share: float = 1.0
    """What deposit leaves of the drain's bore."""


UPPER_PORT_SHARE = 0.92
"""Height of the relief valve's and the rod's port, as a share of the tank's. Assumption: within the top 150 mm."""


def figures_of(heater: Heater) -> list[Figure]:
    """All that a visit's steps show for this heater."""
    vessel = "set it to the standing pressure of the house"
    draining = drain_minutes(heater.capacity_l, heater.height_m, open_share=max(heater.drain_open_share, 0.2))
    heating = heat_up_minutes(heater.capacity_l, heater.input_kw, heater.cold_c, heater.setpoint_c, heater.burns)
    return [
        Figure("drain_minutes", draining, "min", "A / (Cd a) · √(2 h / g)", "Torricelli; drain of 3/8 in with a hose"),
        Figure(
            "flush_minutes",
            heater.capacity_l / supplied_flow_l_min(heater.static_kpa),
            "min",
            "one tank's content / flow at the house's pressure",
            "Torricelli with the pressure's head",
        ),
        Figure("refill_minutes", refill_minutes(heater.capacity_l), "min", "V / q", "20 L/min through the inlet"),
        Figure("heat_up_minutes", heating, "min", "m c ΔT / P", "heat capacity of water; plate input"),
        Figure(
            "cool_minutes",
            cool_minutes(heater.capacity_l, heater.setpoint_c, heater.cold_c, 49.0),
            "min",
            "V / q · ln((T − Tc) / (49 − Tc))",
            "a stirred tank at 8 L/min",
        ),
        Figure(
            "litres_to_port",
            litres_below(heater.capacity_l, UPPER_PORT_SHARE),
            "volume_l",
            "V · (1 − height of the port) and a hand's width",
            "a cylinder",
        ),
        Figure("precharge", heater.static_kpa, "pressure_kpa", vessel, "trade practice"),
        Figure(
            "acid_litres",
            acid_litres(heater.scale_g),
            "volume_l",
            "believed lime / 42 g a litre of vinegar (citric acid of 7 %: 55 g)",
            "stoichiometry of CaCO3 with the acid",
        ),
        Figure("thermocouple", 25.0, "mV", "lit: about 25; holds above 5 to 10", "trade practice"),
        Figure(
            "element_ohms", element_ohms(230.0, 1000 * heater.input_kw), "ohm", "U² / P at 230 V", "Ohm's law; plate"
        ),
        Figure(
            "capacity",
            heater.input_kw * (LOSS_TO_AIR if heater.burns else 1.0),
            "power_kw",
            "flow · c · rise, against the plate's input",
            "heat capacity of water",
        ),
        Figure("burn_seconds", burn_seconds(heater.setpoint_c), "s", "read from the trade's table", "trade practice"),
    ]

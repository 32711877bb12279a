"""Anodes, relief valves, expansion tanks, and the tank itself."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from aquifer.core.vocabulary import Alloy


@dataclass(frozen=True)
class AlloyProperties:
    capacity_ah_kg: float
    """Charge per mass: z F / M by Faraday's law for the pure metals (constant)."""
    efficiency: float
    """Share of the metal that protects rather than dissolves by itself."""
    density_kg_m3: float
    """Handbook."""
    driving_voltage_v: float
    """From its potential in fresh water to -0.8 V against copper/copper sulphate."""


@dataclass(frozen=True)
class AnodeParameters:
    alloys: dict[Alloy, AlloyProperties] = field(
        default_factory=lambda: {
            # 2 F / 24.305 g/mol; 0.50 is the handbook efficiency of magnesium in fresh water.
            Alloy.MAGNESIUM: AlloyProperties(2205.0, 0.50, 1770.0, 0.70),
            # 3 F / 26.982 g/mol; 0.40 is an assumption: brochures quote sea water.
            Alloy.ALUMINIUM: AlloyProperties(2980.0, 0.40, 2700.0, 0.22),
            # About 5 % zinc; all but the density are assumptions.
            Alloy.ALUMINIUM_ZINC: AlloyProperties(2850.0, 0.45, 2780.0, 0.26),
        }
    )
    core_diameter_m: float = 0.0033
    """Steel wire in the rod. Handbook."""
    current_density_60_a_m2: float = 0.30
    """Protection current of bare, uncovered steel at 60 degC. Assumption, above handbook values for covered steel."""
    doubling_k: float = 30.0
    """Temperature rise that doubles it. Handbook."""
    bare_share: float = 0.045
    """Share of the wetted lining that is bare. Assumption, fitted to anode lives."""
    bare_growth_per_year: float = 0.03
    """Growth of that share. Assumption."""
    film_factor: float = 3.0
    """How much a full calcareous film lowers the current. Assumption."""
    film_half_mg_l: float = 10.0
    """Precipitation potential at which the film is half formed. Assumption."""
    conductivity_per_k: float = 0.02
    """Rise of water's conductivity per kelvin from 25 degC. Handbook."""
    wear_skew: float = 0.5
    """Unevenness of loss along the rod, linear. Assumption."""
    bare_limit_share: float = 0.1
    """Replace when this share of the length is bare wire: a hand's width on a rod of 1 m. Trade practice."""
    grade_cuts: tuple[float, ...] = (0.15, 0.40, 2 / 3, 0.90)
    """Consumed share at which a rod's grade passes to the next. Assumption."""
    grade_spread: float = 0.30
    """Standard deviation of a rod's grade, natural log of rate. Fitted in simulation."""
    misgrade: float = 0.04
    """As for sediment. Assumption."""
    reading_spread: float = 0.15
    """Least standard deviation of a reading, natural log of rate. Assumption, and the floor of the grid."""
    diameter_error_m: float = 0.0007
    """Standard deviation of a diameter read with a calliper on a pitted rod. Assumption."""
    weak_protection: float = 0.5
    """Share of the wanted current below which a rod lives long because it does not protect. Assumption."""
    first_look_years: float = 1.0
    """Trade practice: look at the rod after a year, then by forecast."""
    longest_unseen_years: float = 5.0
    """A rod is looked at in the fourth or fifth year at the latest. Trade practice."""


@dataclass(frozen=True)
class ReliefValveParameters:
    shape: float = 1.3
    """Weibull shape of sticking since the last exercise. Assumption."""
    stuck_after_one_year: float = 0.02
    """Probability of sticking within a year at the reference hardness. Assumption."""
    hardness_slope: float = 0.0045
    """Growth of the hazard, natural log per mg/L. Assumption."""
    reference_hardness_mg_l: float = 120.0
    cap_years: float = 1.0
    """Exercise at least yearly, whatever the model says. Trade practice; nothing lengthens it."""
    replace_after_years: float = 6.0
    """Assumption; practice looks at it after 3 to 5."""
    replace_after_years_hard: float = 3.0
    """On very hard water. Assumption."""
    very_hard_mg_l: float = 300.0
    """Assumption."""
    own_spread: float = 0.66
    """Standard deviation of the log hazard between valves. Assumption; no base fits it (docs/decisions/0030)."""
    zone_spread: float = 0.10
    """The same between supplies, beyond what hardness tells of them. Assumption."""
    future_spread: float = 0.10
    """How far a valve's hazard strays, natural log: it stays the same valve. Assumption."""
    set_pressure_kpa: float = 1034.0
    """Usual setting, 150 psi. Trade practice."""
    warn_after_years: float = 5.0
    """From this age an exercise may start a leak: carry a spare. Assumption."""


@dataclass(frozen=True)
class ExpansionTankParameters:
    loss_per_year: float = 0.025
    """Share of the absolute precharge that creeps out in a year: 7 to 14 kPa. Handbook."""
    bladder_shape: float = 2.5
    """Weibull shape of the bladder's life. Assumption."""
    bladder_life_years: float = 10.0
    """Its characteristic life without chlorine. Assumption."""
    chlorine_slope: float = 0.08
    """Shortening, natural log per mg/L of free chlorine. Assumption."""
    chloramine_divisor: float = 1.25
    """Chloramine shortens it once more. Assumption."""
    margin_below_relief_kpa: float = 172.0
    """The pressure in the house may rise to this much below the relief valve's setting (25 psi). Assumption."""
    reading_error_kpa: float = 10.0
    """Standard deviation of a gauge on the air valve. Assumption."""
    own_spread: float = 0.6
    """Standard deviation of the log rate of loss between tanks. Assumption."""
    cap_years: float = 1.0
    """Check the charge yearly, whatever the model says. Trade practice; nothing lengthens it."""
    usual_pressure_kpa: float = 400.0
    """Static pressure where nobody has read it. Trade practice: 50 to 60 psi."""


@dataclass(frozen=True)
class TankParameters:
    shape: float = 3.2
    """Weibull shape of a tank's life. Handbook."""
    life_years: float = 14.0
    """Its characteristic life, a mean of 12 to 13 years. Handbook."""
    spent_weight: float = 0.7
    """A year without a working anode counts for this much more. Assumption."""
    plain_hardness_mg_l: float = 100.0
    soft_below_mg_l: float = 50.0
    """Hardness below which water lays down nothing that would shield a wall. Trade practice."""
    plain_ph: float = 7.0
    plain_conductivity_us_cm: float = 1000.0
    """Above it salts carry more current than a usual supply's. Assumption."""
    plain_pressure_kpa: float = 550.0
    plain_setpoint_c: float = 55.0
    slopes: Mapping[str, float] = field(
        default_factory=lambda: {
            "hardness": 0.15, "softness": 0.0, "acidity": 0.3, "salt": 0.1, "pressure": 0.25, "temperature": 0.3,
            "rusty": 0.9, "seams": 1.1, "loud": 0.4, "spent_share": 0.0,
        }
    )  # fmt: skip
    """ln of the hazard ratio that a unit of each trait makes, by ``core.tank.traits``: hardness per 100 mg/L, softness
    and a pH of one less, a doubling of salts, 100 kPa, 10 K; hot water alone that runs rusty, a rusted seam or port, a
    bed that pops or kettles. Assumption."""
    slope_spreads: Mapping[str, float] = field(
        default_factory=lambda: {
            "hardness": 0.15, "softness": 0.3, "acidity": 0.3, "salt": 0.15, "pressure": 0.25, "temperature": 0.3,
            "rusty": 0.5, "seams": 0.5, "loud": 0.3, "spent_share": 0.5,
        }
    )  # fmt: skip
    """How far each may be off, standard deviation. Assumption: as far as it is large."""
    level_spread: float = 0.7
    """ln of how far all tanks of a company may fail oftener or rarer than the handbook says. Assumption: one base in
    ten fails less than half as often, and one in ten more than twice as often."""
    shape_spread: float = 0.35
    """ln of how far the shape may be off. Assumption."""
    group_spread: float = 0.2
    """How far makes, and waters beyond their tests, differ before they were seen, ln of the hazard. Assumption."""
    group_weight: float = 4.0
    """How many groups that is worth beside those that were seen. Assumption."""
    frailties: tuple[float, ...] = (0.0, 0.25, 0.5, 1.0, 2.0)
    """Variances of what nobody sees of a tank that are tried. Assumption: from none to tanks of which one in ten fails
    nearly three times as often as all."""
    old_on_hard_water_years: float = 10.0
    """Trade practice: about ten years and noisy on very hard water, replace before it floods."""
    very_hard_mg_l: float = 180.0
    """Trade practice: 'very hard'."""
    replace_at: float = 0.20
    """Accepted probability of failure within 12 months; above it a replacement is advised. Assumption."""


ANODE = AnodeParameters()
RELIEF_VALVE = ReliefValveParameters()
EXPANSION_TANK = ExpansionTankParameters()
TANK = TankParameters()

"""Every figure the forecast uses, with its unit and where it comes from.

Sources: **constant** is a physical constant or law; **handbook** a published engineering figure; **assumption** a value
chosen so that the output agrees with practice. Most figures of maintenance are assumptions: they are priors that
findings correct.
"""

from dataclasses import dataclass, field

from aquifer.core.vocabulary import Alloy, FlushMethod, HeaterKind

HOURS_PER_YEAR = 8766.0
"""h: the Julian year of 365.25 days, used for every rate. Constant."""
DAYS_PER_YEAR = HOURS_PER_YEAR / 24
HORIZON_YEARS = 30.0
"""A date beyond this is not shown. Assumption: longer than any heater lives."""


@dataclass(frozen=True)
class FlushShare:
    """Share of the loose and of the hardened deposit that a flush removes, 0 to 1. Assumption."""

    loose: float
    hardened: float


@dataclass(frozen=True)
class SedimentParameters:
    settling_share: float = 0.65
    """Share of the precipitating calcium carbonate that stays in the tank. Assumption, consistent with handbook
    figures of 1 to 3 kg a year at 140 m3 a year on 170 to 340 mg/L."""
    kinetic_threshold_mg_l: float = 4.0
    """Precipitation potential below which nothing deposits. Assumption: without it moderate water would leave flakes
    after one year, which practice denies."""
    solids_retained: float = 0.5
    """Share of suspended solids that settles. Assumption."""
    consolidation_years: float = 1.5
    """Time constant of loose deposit baking into hardened. Assumption."""
    loose_density_kg_m3: float = 650.0
    """Bulk density. Assumption."""
    hardened_density_kg_m3: float = 1400.0
    """Bulk density. Assumption; solid calcite is 2710 (handbook)."""
    flush: dict[FlushMethod, FlushShare] = field(
        default_factory=lambda: {
            FlushMethod.PRESSURE_BLOWOUT: FlushShare(0.60, 0.05),
            FlushMethod.DRAIN_AND_PULSE: FlushShare(0.75, 0.10),
            FlushMethod.JETTING: FlushShare(0.92, 0.45),
            FlushMethod.ACID_SOAK: FlushShare(0.90, 0.75),
        }
    )
    limit_fired_m: float = 0.012
    """Depth at which a tank fired from below rumbles. Assumption."""
    limit_other_m: float = 0.040
    """Planning limit of tanks with elements or a coil, below the drain port's lip of 50 mm. Assumption."""
    grade_cuts_m: tuple[float, ...] = (0.001, 0.004, 0.012, 0.040)
    """Depth at which a grade by eye passes to the next: none, trace, moderate, heavy, blocked. Assumption."""
    grade_spread: float = 0.60
    """Standard deviation of a grade by eye, natural log of depth. Fitted in simulation."""
    misgrade: float = 0.04
    """Share of grades that say nothing (wrong bucket, wrong entry). Assumption."""
    depth_spread: float = 0.15
    """Standard deviation of a measured depth, natural log. Assumption, and the floor the grid can carry."""
    volume_spread: float = 0.30
    """Standard deviation of a collected volume, natural log: the flush share is part of it. Assumption."""
    reference_volume_m3: float = 60.0
    """Hot water a year of the plain heater that reasons compare with, 165 L a day. Assumption."""
    reference_potential_mg_l: float = 28.0
    """Precipitation potential of its water: 250 mg/L of hardness at 60 degC. Computed by ``chemistry``."""
    reference_setpoint_c: float = 60.0
    """Setpoint of that plain heater. Assumption."""
    reference_floor_m2: float = 0.159
    """Floor of a 189 L tank of 0.45 m diameter. Geometry."""


@dataclass(frozen=True)
class ScaleParameters:
    deposit_share: float = 0.035
    """Share of the precipitating carbonate that sticks in the exchanger. Assumption, the one calibrating constant."""
    film_rise_k: float = 20.0
    """The wetted wall is this much hotter than the outlet. Assumption."""
    density_kg_m3: float = 2200.0
    """Handbook."""
    conductivity_w_mk: float = 1.5
    """Thermal conductivity of carbonate scale; 0.5 to 3 are quoted. Handbook."""
    flux_w_m2: float = 200_000.0
    """Heat flux at full fire. Assumption."""
    margin_k: float = 30.0
    """Rise of the wall temperature that the exchanger is taken to bear. Assumption."""
    exchanger_m2: float = 0.15
    """Wetted area when the plate does not say. Assumption."""
    removed_share: float = 0.90
    """Share of the scale that a descale dissolves. Assumption."""
    grade_cuts: tuple[float, ...] = (0.1, 0.3, 1.0, 2.0)
    """Scale, in shares of the limit, at which what a descale brings out passes to the next grade. Assumption."""
    grade_spread: float = 0.60
    """As for sediment. Assumption."""
    misgrade: float = 0.04
    """As for sediment. Assumption."""
    dissolved_spread: float = 0.20
    """Standard deviation of the dissolved mass found from spent acid, natural log. Assumption."""

    @property
    def limit_m(self) -> float:
        """Thickness whose resistance uses up the margin: margin x conductivity / flux, Fourier's law."""
        return self.margin_k * self.conductivity_w_mk / self.flux_w_m2


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
    grade_spread: float = 0.35
    """Standard deviation of a rod's grade, natural log of rate. Assumption."""
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
    warn_after_years: float = 5.0
    """From this age an exercise may start a leak: carry a spare. Assumption."""


@dataclass(frozen=True)
class LearningParameters:
    zone_spread: float = 0.35
    """Standard deviation of a zone's log rate when its alkalinity and pH are known. Fitted in simulation."""
    zone_spread_hardness_only: float = 0.70
    """The same when only the hardness is known. Fitted in simulation."""
    heater_spread: float = 0.80
    """Standard deviation of a heater's log rate within its zone. Fitted in simulation."""
    future_spread: float = 0.30
    """Spread of the coming rate about the past one, natural log. Fitted in simulation."""
    fade_per_year: float = 0.80
    """A finding's weight after a year: households change. Fitted in simulation."""
    people_spread: float = 0.30
    """Added in quadrature when litres a day are estimated from people. Assumption."""
    unknown_use_spread: float = 0.45
    """Added in quadrature when nothing is known of the use. Assumption."""
    unknown_age_spread: float = 0.40
    """Added in quadrature when the installation date is estimated. Assumption."""


@dataclass(frozen=True)
class UsageParameters:
    litres_per_person_day: float = 55.0
    """Hot water a person a day. Assumption, three people being the reference heater's 165 L a day."""
    litres_per_day: float = 165.0
    """When nothing is known. Assumption."""


@dataclass(frozen=True)
class GeometryParameters:
    """A tank of the reference size, from which others are scaled by their capacity. Geometry."""

    capacity_l: float = 189.0
    floor_m2: float = 0.159043128
    """Circle of 0.45 m."""
    wetted_m2: float = 1.9
    radius_m: float = 0.225
    rod_length_m: float = 1.0
    rod_diameter_m: float = 0.0204
    """A rod of 0.80 in. Handbook."""
    setpoint_c: float = 55.0
    """When nobody has read the dial. Assumption, between 49 and 60."""
    age_years: float = 6.0
    """When nobody knows. Assumption: half of a tank's median life."""
    tankless_capacity_l: float = 2.0
    """Water held in an exchanger. Assumption."""
    default_capacity_l: dict[HeaterKind, float] = field(
        default_factory=lambda: {HeaterKind.MOBILE_TANK: 23.0, HeaterKind.INDIRECT_TANK: 190.0}
    )


SEDIMENT = SedimentParameters()
SCALE = ScaleParameters()
ANODE = AnodeParameters()
RELIEF_VALVE = ReliefValveParameters()
LEARNING = LearningParameters()
USAGE = UsageParameters()
GEOMETRY = GeometryParameters()

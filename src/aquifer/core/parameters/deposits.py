"""Sediment of tanks and scale of exchangers."""

from dataclasses import dataclass, field

from aquifer.core.vocabulary import FlushMethod


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
    potential_error_mg_l: float = 1.0
    """Standard deviation of a precipitation potential of which all is known: the solver's error and the threshold's.
    Assumption."""
    potential_error_share: float = 0.065
    """What an untested water adds, for each mg/L of hardness and each unit of its spread: 10 mg/L at 200 mg/L, of which
    only the hardness is known. Computed by ``chemistry``."""
    most_doubt: float = 1.3
    """Standard deviation, natural log, that the doubt about a potential near the threshold adds at most. Assumption."""
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
    odds_spread: float = 0.9
    """Standard deviation of the log odds of what a flush removes: luck, hands, and a tank's own corners. Assumption."""
    hardened_left_spread: float = 0.35
    """Standard deviation of the logarithm of what a flush leaves of hardened deposit: nobody sees how much of a bed is
    hard. Assumption."""
    measured_left_spread: float = 1.0
    """Standard deviation of the logarithm of what a flush leaves, where somebody measured it. Assumption: wide, so that
    the ruler decides."""
    ceiling_share: float = 0.4
    """Of a tank's height, what a bed may reach: above it the cold inlet's jet carries it out. Assumption."""
    complaint_fired_m: float = 0.060
    """Depth at which half of the households below a rumbling tank ring. Assumption."""
    complaint_other_m: float = 0.150
    """The same where a bed is noticed only when it takes the hot water or an element. Assumption."""
    complaint_spread: float = 0.7
    """Standard deviation of that depth, natural log. Assumption."""
    silent: float = 0.25
    """Share of households that never complain. Assumption."""
    ruler_m: float = 0.001
    """Least depth that a ruler tells from nothing: a measured 0 says less than this. Assumption."""
    ruler_spread: float = 0.35
    """Standard deviation of that, natural log. Assumption."""
    tested_m: float = 0.003
    """Least depth foretold that a ruler tests. Assumption: three of its lines, so that hardly any reading is nothing by
    rounding."""
    bucket_l: float = 0.15
    """Least deposit that a bucket shows: a measured 0 says less than this. Assumption."""
    unrecorded_left: float = 0.75
    """Share of what would lie there that does, where nobody knows of earlier flushes: some were done. Assumption."""
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
    noise_cuts_m: tuple[float, float] = (0.008, 0.020)
    """Depth at which a fired tank is first heard to bubble, and at which it pops or kettles. Assumption."""
    noise_spread: float = 0.80
    """Standard deviation of a depth judged by ear, natural log. Assumption, wider than by eye."""
    iron_deposit_share: float = 1.9
    """Mass of hydroxide that a mass of dissolved iron becomes when it is heated and aired. Constant, from atomic
    masses: Fe(OH)3 over Fe."""
    recirculation_factor: float = 1.15
    """A loop keeps the water moving past hot steel: more of it settles. Assumption."""
    reference_volume_m3: float = 60.0
    """Hot water a year of the plain heater that reasons compare with, 165 L a day. Assumption."""
    reference_potential_mg_l: float = 28.0
    """Precipitation potential of its water: 250 mg/L of hardness at 60 degC. Computed by ``chemistry``."""
    reference_hardness_mg_l: float = 250.0
    """Hardness of that water."""
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
    odds_spread: float = 0.8
    """Standard deviation of the log odds of what a descale dissolves. Assumption."""
    ceiling_m: float = 0.0025
    """Thickness at which hardly any water passes: some four tenths of the way to the middle of a passage of 13 mm.
    Geometry, and an assumption of the passage."""
    coil_ceiling_m: float = 0.010
    """The same of a coil, around which scale grows outwards until it bridges the turns. Assumption."""
    complaint_limits: float = 5.0
    """Thickness, in shares of the limit, at which half of the households ring for want of hot water. Assumption."""
    complaint_spread: float = 0.5
    """Standard deviation of that, natural log. Assumption."""
    silent: float = 0.15
    """Share of households that never complain. Assumption."""
    weighed_kg: float = 0.005
    """Least mass that spent acid tells from nothing. Assumption."""
    weighed_spread: float = 0.35
    """Standard deviation of that, natural log. Assumption."""
    tested_kg: float = 0.015
    """Least mass foretold that spent acid tests. Assumption: as of a bed, three times the least that is told."""
    grade_cuts: tuple[float, ...] = (0.1, 0.3, 1.0, 2.0)
    """Scale, in shares of the limit, at which what a descale brings out passes to the next grade. Assumption."""
    grade_spread: float = 0.60
    """As for sediment. Assumption."""
    misgrade: float = 0.04
    """As for sediment. Assumption."""
    dissolved_spread: float = 0.20
    """Standard deviation of the dissolved mass found from spent acid, natural log. Assumption."""
    capacity_loss_at_limit: float = 0.08
    """Share of the heat output at full draw that is lost when the scale reaches its limit. Assumption."""
    capacity_error: float = 0.025
    """Standard deviation of such a share from flow and rise read before and after a descale. Assumption."""
    recirculation_factor: float = 1.3
    """A loop fires the exchanger without a draw. Assumption."""
    coil_exchanger_m2: float = 1.0
    """Wetted area of an indirect tank's coil when the plate does not say. Assumption."""
    coil_film_rise_k: float = 12.0
    """The coil's wall is this much hotter than the tank. Assumption."""
    coil_deposit_share: float = 0.10
    """Share of the tank's precipitating carbonate that sticks to the coil, its hottest surface. Assumption."""
    coil_flux_w_m2: float = 20_000.0
    """Heat flux of a coil. Assumption."""
    coil_margin_k: float = 10.0
    """Loss of temperature difference that a boiler is taken to bear. Assumption."""

    @property
    def limit_m(self) -> float:
        """Thickness whose resistance uses up the margin: margin x conductivity / flux, Fourier's law."""
        return self.margin_k * self.conductivity_w_mk / self.flux_w_m2

    @property
    def coil_limit_m(self) -> float:
        """The same for a coil."""
        return self.coil_margin_k * self.conductivity_w_mk / self.coil_flux_w_m2


SEDIMENT = SedimentParameters()
SCALE = ScaleParameters()

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

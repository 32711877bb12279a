"""A water from whatever is known of it: what was measured, estimates for the rest, and how unsure that leaves it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from math import exp, log, log10, sqrt

from aquifer.core import chemistry
from aquifer.core.parameters import LEARNING, SEDIMENT, WATER


@dataclass(frozen=True)
class Assumed:
    """A value that nobody gave, with where it belongs (a JSON pointer into the case) and why it was chosen."""

    at: str
    value: float | str | bool
    why: str


@dataclass(frozen=True)
class WaterTest:
    """What tests, or the supplier, say of a water. Hardness and alkalinity in mg/L as CaCO3; None is unknown."""

    total_hardness_mg_l: float | None = None
    calcium_hardness_mg_l: float | None = None
    alkalinity_mg_l: float | None = None
    ph: float | None = None
    conductivity_us_cm: float | None = None
    source_temperature_c: float | None = None
    suspended_solids_mg_l: float | None = None
    iron_mg_l: float | None = None


@dataclass(frozen=True)
class Blend:
    """A part of the year in which the supply is mixed with another water."""

    share_of_year: float
    other: chemistry.Analysis
    other_share: float
    """Of the volume, 0 to 1."""


@dataclass(frozen=True)
class WaterProfile:
    """A water complete enough to compute with."""

    analysis: chemistry.Analysis
    suspended_solids_mg_l: float
    """With the hydroxide that dissolved iron becomes."""
    assumed: tuple[Assumed, ...]
    log_sd: float = 0.0
    """Standard deviation that what is unknown of the water adds to the log rate of its deposit."""
    blends: tuple[Blend, ...] = ()
    """Seasons in which it differs."""

    @property
    def carbonate_is_known(self) -> bool:
        """Whether alkalinity and pH were measured: nothing narrows the windows more."""
        guessed = {item.at for item in self.assumed}
        return not guessed & {"/water/alkalinity_mg_l", "/water/ph"}

    def heated(self, hot_c: float, softened: bool = False) -> chemistry.Heated:
        """The water at ``hot_c`` as it deposits over a year: its seasons' figures, averaged by their length.

        Raises: ValueError if PHREEQC finds no solution. Source: ``chemistry``; blends mixed by volume.
        """
        plain = chemistry.heated(self.analysis, hot_c, softened)
        if not self.blends:
            return plain
        parts = [(1 - sum(blend.share_of_year for blend in self.blends), plain)]
        for blend in self.blends:
            mixed = chemistry.mixed(self.analysis, blend.other, blend.other_share)
            parts.append((blend.share_of_year, chemistry.heated(mixed, hot_c, softened)))
        return chemistry.Heated(
            sum(share * part.saturation_index for share, part in parts),
            sum(share * part.precipitation_potential_mg_l for share, part in parts),
            sum(share * part.ph for share, part in parts),
            sum(share * part.conductivity_us_cm for share, part in parts),
        )


def default_alkalinity_mg_l(total_hardness_mg_l: float) -> float:
    """Alkalinity (mg/L as CaCO3) typical of a hardness. Assumption, fitted to suppliers' balanced waters."""
    return 0.80 * total_hardness_mg_l / (1 + total_hardness_mg_l / 1600) + 12


def default_ph(calcium_hardness_mg_l: float, alkalinity_mg_l: float) -> float:
    """pH of a water its supplier has steered towards balance, within 7.0 to 8.1. Assumption: saturation at 15 degC."""
    return min(max(12.0 - log10(max(calcium_hardness_mg_l, 1e-3)) - log10(max(alkalinity_mg_l, 1e-3)), 7.0), 8.1)


def profile(
    test: WaterTest,
    is_well: bool = False,
    log_sds: Mapping[str, float] | None = None,
    blends: tuple[Blend, ...] = (),
) -> WaterProfile:
    """Fill what a test leaves open with typical values, list them, and say how unsure that leaves the deposit.

    Parameters: test, what is known; whether the supply is a well; log_sds, the error of figures that were measured
    (natural log; of pH in its own unit) where it differs from a drop test's; blends of the year's seasons.
    Returns: the complete water. Raises: ValueError if the calcium hardness is above the total hardness.
    Source: the defaults are ``parameters.WATER``, assumptions fitted to ordinary supplies.
    """
    assumed: list[Assumed] = []
    errors = dict(log_sds or {})

    def known(name: str, value: float | None, otherwise: float, why: str) -> float:
        if value is not None:
            return value
        assumed.append(Assumed(f"/water/{name}", float(f"{otherwise:.4g}"), why))
        return otherwise

    p = WATER
    hardness = known("total_hardness_mg_l", test.total_hardness_mg_l, p.total_hardness_mg_l, "no test on record")
    if test.calcium_hardness_mg_l is not None and test.total_hardness_mg_l is None:
        hardness = max(hardness, test.calcium_hardness_mg_l / p.calcium_share)
    typical = "no test on record: typical for this hardness"
    calcium = known("calcium_hardness_mg_l", test.calcium_hardness_mg_l, p.calcium_share * hardness, typical)
    if calcium > hardness:
        raise ValueError(f"calcium hardness {calcium:g} mg/L is above the total hardness {hardness:g} mg/L")
    alkalinity = known("alkalinity_mg_l", test.alkalinity_mg_l, default_alkalinity_mg_l(hardness), typical)
    ph = known("ph", test.ph, default_ph(calcium, alkalinity), typical)
    conductivity = known("conductivity_us_cm", test.conductivity_us_cm, 120 + 2.2 * hardness, typical)
    of_main = "typical of a supply main"
    source = known("source_temperature_c", test.source_temperature_c, p.source_temperature_c, of_main)
    usual, why = (p.well_solids_mg_l, "typical of a well") if is_well else (p.suspended_solids_mg_l, of_main)
    solids = known("suspended_solids_mg_l", test.suspended_solids_mg_l, usual, why)
    iron = test.iron_mg_l
    if is_well:
        iron = known("iron_mg_l", iron, p.well_iron_mg_l, "typical of a well")
    solids += SEDIMENT.iron_deposit_share * (iron or 0.0)
    analysis = chemistry.Analysis(hardness, calcium, alkalinity, ph, conductivity, source)
    guessed = {item.at.rsplit("/", 1)[1] for item in assumed}
    sds = {
        "total_hardness_mg_l": p.hardness_log_sd if "total_hardness_mg_l" in guessed else p.test_log_sd,
        "alkalinity_mg_l": p.alkalinity_log_sd if "alkalinity_mg_l" in guessed else p.test_log_sd,
        "ph": p.ph_sd if "ph" in guessed else p.ph_test_sd,
        "suspended_solids_mg_l": p.solids_log_sd if "suspended_solids_mg_l" in guessed else 0.3,
    }
    sds.update({name: sd for name, sd in errors.items() if name in sds and name not in guessed})
    return WaterProfile(analysis, solids, tuple(assumed), _log_sd(analysis, solids, guessed, sds), blends)


def _log_sd(analysis: chemistry.Analysis, solids: float, guessed: set[str], sds: Mapping[str, float]) -> float:
    """Standard deviation of the natural log of the deposit at 60 degC, from what is unsure of the water.

    Source: the two-sided effect of one standard deviation of each figure through PHREEQC, added in quadrature; what
    was guessed from another figure moves with it. What a test of everything leaves is part of the zone spread already.
    """
    if not guessed & {"total_hardness_mg_l", "alkalinity_mg_l", "ph"} and all(
        sds[name] <= limit for name, limit in (("total_hardness_mg_l", 0.1), ("alkalinity_mg_l", 0.1), ("ph", 0.12))
    ):
        return 0.0

    def deposit(water: chemistry.Analysis, suspended: float) -> float:
        try:
            potential = chemistry.heated(water, SEDIMENT.reference_setpoint_c).precipitation_potential_mg_l
        except ValueError:
            potential = 0.0
        precipitate = SEDIMENT.settling_share * max(potential - SEDIMENT.kinetic_threshold_mg_l, 0.0)
        return precipitate + SEDIMENT.solids_retained * suspended + 0.05

    def moved(name: str, by: float) -> chemistry.Analysis:
        if name == "ph":
            return replace(analysis, ph=min(max(analysis.ph + by, 4.5), 10.5))
        if name == "alkalinity_mg_l":
            alkalinity = analysis.alkalinity_mg_l * exp(by)
            # A supplier steers the pH after the alkalinity: where neither is known they err together.
            ph = default_ph(analysis.calcium_hardness_mg_l, alkalinity) if "ph" in guessed else analysis.ph
            return replace(analysis, alkalinity_mg_l=alkalinity, ph=ph)
        hardness = analysis.total_hardness_mg_l * exp(by)
        calcium = min(analysis.calcium_hardness_mg_l * exp(by), hardness)
        alkalinity, ph = analysis.alkalinity_mg_l, analysis.ph
        if "alkalinity_mg_l" in guessed:
            alkalinity = default_alkalinity_mg_l(hardness)
        if "ph" in guessed:
            ph = default_ph(calcium, alkalinity)
        return replace(
            analysis, total_hardness_mg_l=hardness, calcium_hardness_mg_l=calcium, alkalinity_mg_l=alkalinity, ph=ph
        )

    variance = 0.0
    for name in ("total_hardness_mg_l", "alkalinity_mg_l", "ph"):
        up, down = (deposit(moved(name, sign * sds[name]), solids) for sign in (1, -1))
        variance += (log(up / down) / 2) ** 2
    sd = sds["suspended_solids_mg_l"]
    variance += (log(deposit(analysis, solids * exp(sd)) / deposit(analysis, solids * exp(-sd))) / 2) ** 2
    # Soft waters deposit next to nothing either way: a ratio of nothings is no uncertainty of a date.
    return round(min(sqrt(variance), LEARNING.most_water_spread), 3)


HARDNESS_CLASSES = ((60.0, "soft"), (120.0, "moderate"), (180.0, "hard"), (float("inf"), "very hard"))
"""Upper bounds in mg/L as CaCO3. Trade practice."""


def hardness_class(total_hardness_mg_l: float) -> str:
    """The trade's word for a hardness in mg/L as CaCO3. Source: ``HARDNESS_CLASSES``."""
    return next(word for bound, word in HARDNESS_CLASSES if total_hardness_mg_l < bound)


def plain_words(water: WaterProfile, setpoint_c: float, softened: bool = False) -> str:
    """What a customer is told of the water, in two sentences: how hard it is, and what that does at the setpoint.

    Source: ``HARDNESS_CLASSES``; the bounds of the second sentence are those of the sediment model, assumptions.
    """
    word = hardness_class(water.analysis.total_hardness_mg_l)
    first = f"Your supply is {word}"
    if softened:
        return f"{first}, and softened before the heater. Little settles, but the anode wears faster."
    potential = water.heated(setpoint_c).precipitation_potential_mg_l
    if potential <= SEDIMENT.kinetic_threshold_mg_l:
        return f"{first}. Heated to your setting it leaves next to no lime in the heater."
    if potential < 15:
        return f"{first}. Heated to your setting it leaves some lime in the heater, a thin layer a year."
    if potential < 40:
        return (
            f"{first}. Heated to your setting it leaves a good deal of lime; a cooler setting or a softener would help."
        )
    return f"{first}. Heated to your setting it leaves much lime; regular cleaning is needed, and a softener pays."

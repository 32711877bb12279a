"""A water from whatever is known of it: what was measured, and estimates for the rest."""

from dataclasses import dataclass
from math import log10

from aquifer.core import chemistry
from aquifer.core.parameters import LEARNING


@dataclass(frozen=True)
class Assumed:
    """A value that nobody gave, with where it belongs (a JSON pointer into the case) and why it was chosen."""

    at: str
    value: float | str | bool
    why: str


@dataclass(frozen=True)
class WaterTest:
    """What a test, or the supplier, says of a water. Hardness and alkalinity in mg/L as CaCO3; None is unknown."""

    total_hardness_mg_l: float | None = None
    calcium_hardness_mg_l: float | None = None
    alkalinity_mg_l: float | None = None
    ph: float | None = None
    conductivity_us_cm: float | None = None
    source_temperature_c: float | None = None
    suspended_solids_mg_l: float | None = None


@dataclass(frozen=True)
class WaterProfile:
    """A water complete enough to compute with."""

    analysis: chemistry.Analysis
    suspended_solids_mg_l: float
    assumed: tuple[Assumed, ...]

    @property
    def carbonate_is_known(self) -> bool:
        """Whether alkalinity and pH were measured: nothing narrows the windows more."""
        guessed = {item.at for item in self.assumed}
        return not guessed & {"/water/alkalinity_mg_l", "/water/ph"}

    @property
    def zone_spread(self) -> float:
        """Standard deviation of the zone's log rate. Source: ``parameters.LEARNING``."""
        return LEARNING.zone_spread if self.carbonate_is_known else LEARNING.zone_spread_hardness_only


TYPICAL_HARDNESS_MG_L = 150.0
"""When nobody has tested. Assumption: between the trade's 'moderate' and 'very hard'."""


def default_alkalinity_mg_l(total_hardness_mg_l: float) -> float:
    """Alkalinity (mg/L as CaCO3) typical of a hardness. Assumption, fitted to suppliers' balanced waters."""
    return 0.80 * total_hardness_mg_l / (1 + total_hardness_mg_l / 1600) + 12


def default_ph(calcium_hardness_mg_l: float, alkalinity_mg_l: float) -> float:
    """pH of a water its supplier has steered towards balance, within 7.0 to 8.1. Assumption: saturation at 15 degC."""
    return min(max(12.0 - log10(max(calcium_hardness_mg_l, 1e-3)) - log10(max(alkalinity_mg_l, 1e-3)), 7.0), 8.1)


def profile(test: WaterTest) -> WaterProfile:
    """Fill what a test leaves open with typical values and list them.

    Parameters: test, what is known. Returns: the complete water, with every estimate in ``assumed``.
    Raises: ValueError if the calcium hardness is above the total hardness.
    Source: the defaults are assumptions fitted to ordinary supplies: calcium 0.70 of hardness, alkalinity and pH as
    above, conductivity 120 + 2.2 x hardness, source at 15 degC, 0.5 mg/L of suspended solids.
    """
    assumed: list[Assumed] = []

    def known(name: str, value: float | None, otherwise: float, why: str) -> float:
        if value is not None:
            return value
        assumed.append(Assumed(f"/water/{name}", float(f"{otherwise:.4g}"), why))
        return otherwise

    hardness = known("total_hardness_mg_l", test.total_hardness_mg_l, TYPICAL_HARDNESS_MG_L, "no test on record")
    if test.calcium_hardness_mg_l is not None and test.total_hardness_mg_l is None:
        hardness = max(hardness, test.calcium_hardness_mg_l / 0.70)
    typical = "no test on record: typical for this hardness"
    calcium = known("calcium_hardness_mg_l", test.calcium_hardness_mg_l, 0.70 * hardness, typical)
    if calcium > hardness:
        raise ValueError(f"calcium hardness {calcium:g} mg/L is above the total hardness {hardness:g} mg/L")
    alkalinity = known("alkalinity_mg_l", test.alkalinity_mg_l, default_alkalinity_mg_l(hardness), typical)
    ph = known("ph", test.ph, default_ph(calcium, alkalinity), typical)
    conductivity = known("conductivity_us_cm", test.conductivity_us_cm, 120 + 2.2 * hardness, typical)
    source = known("source_temperature_c", test.source_temperature_c, 15.0, "typical of a supply main")
    solids = known("suspended_solids_mg_l", test.suspended_solids_mg_l, 0.5, "typical of a supply main")
    analysis = chemistry.Analysis(hardness, calcium, alkalinity, ph, conductivity, source)
    return WaterProfile(analysis, solids, tuple(assumed))


HARDNESS_CLASSES = ((60.0, "soft"), (120.0, "moderate"), (180.0, "hard"), (float("inf"), "very hard"))
"""Upper bounds in mg/L as CaCO3. Trade practice."""


def hardness_class(total_hardness_mg_l: float) -> str:
    """The trade's word for a hardness in mg/L as CaCO3. Source: ``HARDNESS_CLASSES``."""
    return next(word for bound, word in HARDNESS_CLASSES if total_hardness_mg_l < bound)

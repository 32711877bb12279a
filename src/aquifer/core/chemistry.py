"""Carbonate chemistry of heated water, by PHREEQC.

Water is heated in a closed system: alkalinity and pH at the source temperature fix the total carbonate, and heating
conserves carbonate, alkalinity and calcium. Constants are those of ``phreeqc.dat`` (Plummer & Busenberg 1982, doi
10.1016/0016-7037(82)90056-4). One call costs milliseconds and PHREEQC keeps state, so it runs once for each different
(water, temperature) and never inside a loop over heaters.
"""

import os
import threading
from dataclasses import dataclass, replace
from functools import cache, lru_cache

import phreeqpython
from phreeqpython.viphreeqc import VIPhreeqc

CACO3_G_MOL = 100.0869
"""Molar mass of calcium carbonate. Constant (IUPAC atomic masses)."""
SOFTENER_RESIDUAL_MG_L = 8.0
"""Hardness left by an exchanger in order. Assumption."""
CHLORIDE_SHARE = 0.60
"""Of the charge of anions that nobody measured, the share taken as chloride, the rest sulphate. Assumption."""
CONDUCTIVITY_TOLERANCE_US_CM = 0.5
_LOCK = threading.Lock()


@dataclass(frozen=True)
class Analysis:
    """What PHREEQC needs to know of a water. Hardness and alkalinity in mg/L as CaCO3."""

    total_hardness_mg_l: float
    calcium_hardness_mg_l: float
    alkalinity_mg_l: float
    ph: float
    conductivity_us_cm: float
    source_temperature_c: float


@dataclass(frozen=True)
class Heated:
    """A water at a temperature."""

    saturation_index: float
    """log10 of ion activity product over the solubility product of calcite."""
    precipitation_potential_mg_l: float
    """CaCO3 that must precipitate to reach saturation; negative is what could still dissolve."""
    ph: float
    conductivity_us_cm: float
    """At 25 degC, of the water as it is before anything precipitates."""


@dataclass(frozen=True)
class _Ions:
    """Charge in meq/L, and what else defines the solution."""

    calcium: float
    magnesium: float
    sodium: float
    chloride: float
    sulphate: float
    alkalinity: float
    ph: float
    source_temperature_c: float


def heated(water: Analysis, hot_c: float, softened: bool = False) -> Heated:
    """Saturation index, precipitation potential and pH of ``water`` heated to ``hot_c`` in a closed system.

    Parameters: hot_c, degC. softened, whether the hardness is exchanged for sodium before heating.
    Returns: see ``Heated``.
    Raises: ValueError if PHREEQC finds no solution for these figures.
    Source: PHREEQC with phreeqc.dat; softening as exchange of equivalents down to ``SOFTENER_RESIDUAL_MG_L``.
    """
    return _heated(water, round(hot_c, 3), softened)


_PLAIN = _Ions(3.0, 1.0, 0.4, 0.5, 0.3, 3.6, 7.5, 12.0)
"""A hard mains water, its charges balanced. Any would do. Assumption."""


@lru_cache(maxsize=4096)
def _heated(water: Analysis, hot_c: float, softened: bool) -> Heated:
    with _LOCK:
        try:
            ions = _balanced(water)
            if softened:
                ions = _softened(ions)
            _begin_alike()
            conductivity = _run(ions, 25.0)[2]
            ph, index, _, _ = _run(ions, hot_c)
            precipitated = _run(ions, hot_c, to_equilibrium=True)[3]
        except Exception as error:
            if isinstance(error, ValueError):
                raise
            raise ValueError(f"no chemical equilibrium was found for {water}") from error
    return Heated(index, precipitated * CACO3_G_MOL * 1000, ph, conductivity)


def mixed(analysis: Analysis, other: Analysis, other_share: float) -> Analysis:
    """Two waters mixed by volume at their mixed temperature.

    Parameters: other_share of the volume, 0 to 1. Returns: the mixture; hardness, alkalinity and conductivity add by
    volume, the pH follows from the carbonate that both bring. Raises: ValueError as ``heated``.
    Source: PHREEQC's mixing of solutions; conductivity as a mean, within 2 % for such waters.
    """
    return _mixed(analysis, other, round(other_share, 4))


@lru_cache(maxsize=256)
def _mixed(one: Analysis, other: Analysis, share: float) -> Analysis:
    def mean(name: str) -> float:
        return float((1 - share) * getattr(one, name) + share * getattr(other, name))

    with _LOCK:
        try:
            balanced = _balanced(one), _balanced(other)
            _begin_alike()
            ph = _mixed_ph(*balanced, share)
        except Exception as error:
            raise ValueError(f"no chemical equilibrium was found for a mixture of {one} and {other}") from error
    return Analysis(
        mean("total_hardness_mg_l"),
        mean("calcium_hardness_mg_l"),
        mean("alkalinity_mg_l"),
        ph,
        mean("conductivity_us_cm"),
        mean("source_temperature_c"),
    )


@lru_cache(maxsize=1024)
def _balanced(water: Analysis) -> _Ions:
    """Sodium for missing cations, chloride and sulphate for missing anions, then salt up to the conductivity."""
    calcium = water.calcium_hardness_mg_l / (CACO3_G_MOL / 2)
    magnesium = (water.total_hardness_mg_l - water.calcium_hardness_mg_l) / (CACO3_G_MOL / 2)
    alkalinity = water.alkalinity_mg_l / (CACO3_G_MOL / 2)
    excess = calcium + magnesium - alkalinity

    def with_salt(salt: float) -> _Ions:
        anions = max(excess, 0) + salt
        return _Ions(
            calcium,
            magnesium,
            max(-excess, 0) + salt,
            CHLORIDE_SHARE * anions,
            (1 - CHLORIDE_SHARE) * anions,
            alkalinity,
            water.ph,
            water.source_temperature_c,
        )

    def shortfall(salt: float) -> float:
        return water.conductivity_us_cm - _run(with_salt(salt), 25.0)[2]

    _begin_alike()
    salt, missing = 0.0, shortfall(0.0)
    if missing <= CONDUCTIVITY_TOLERANCE_US_CM:
        return with_salt(0.0)
    # A salt of 1 meq/L adds about 110 uS/cm; the secant corrects that guess.
    following = missing / 110
    for _ in range(12):
        found = shortfall(following)
        if abs(found) <= CONDUCTIVITY_TOLERANCE_US_CM:
            return with_salt(following)
        slope = (found - missing) / (following - salt)
        salt, missing, following = following, found, max(following - found / slope, 0.0)
    return with_salt(following)


def _softened(ions: _Ions) -> _Ions:
    hardness = ions.calcium + ions.magnesium
    kept = min(SOFTENER_RESIDUAL_MG_L / (CACO3_G_MOL / 2) / hardness, 1.0) if hardness else 1.0
    return replace(
        ions,
        calcium=ions.calcium * kept,
        magnesium=ions.magnesium * kept,
        sodium=ions.sodium + hardness * (1 - kept),
    )


@cache
def _phreeqc() -> VIPhreeqc:
    engine = VIPhreeqc()
    engine.load_database(os.path.join(os.path.dirname(phreeqpython.__file__), "database", "phreeqc.dat"))
    return engine


def _begin_alike() -> None:
    """Solve a water that is always the same. PHREEQC looks for a solution from the one that it found last and ends
    within a tolerance, so that a water's figures would hang in their last digits on what was asked before it: on how
    many workers shared a night."""
    _run(_PLAIN, 25.0)


def _solution(number: int, ions: _Ions) -> str:
    return f"""
SOLUTION {number}
 temp {ions.source_temperature_c}
 units mmol/kgw
 pH {ions.ph}
 Alkalinity {ions.alkalinity} meq/kgw
 Ca {ions.calcium / 2}
 Mg {ions.magnesium / 2}
 Na {ions.sodium}
 Cl {ions.chloride}
 S(6) {ions.sulphate / 2}
"""


def _mixed_ph(one: _Ions, other: _Ions, share: float) -> float:
    """pH of two solutions mixed by volume."""
    _phreeqc().run_string(
        f"""{_solution(1, one)}{_solution(2, other)}
SELECTED_OUTPUT 1
 -reset false
USER_PUNCH 1
 -headings ph
 10 PUNCH -LA("H+")
END
MIX 3
 1 {1 - share}
 2 {share}
END
DELETE
 -all
END
"""
    )
    return float(_phreeqc().get_selected_output_array()[-1][0])


def _run(ions: _Ions, temperature_c: float, to_equilibrium: bool = False) -> tuple[float, float, float, float]:
    """pH, calcite's saturation index, conductivity in uS/cm and calcite gained in mol/kg, at ``temperature_c``."""
    calcite = "EQUILIBRIUM_PHASES 1\n Calcite 0 10\n" if to_equilibrium else ""
    _phreeqc().run_string(
        f"""{_solution(1, ions)}
SELECTED_OUTPUT 1
 -reset false
USER_PUNCH 1
 -headings ph si sc calcite
 10 PUNCH -LA("H+"), SI("Calcite"), SC, EQUI("Calcite")
REACTION_TEMPERATURE 1
 {temperature_c}
{calcite}END
DELETE
 -all
END
"""
    )
    ph, index, conductivity, left = _phreeqc().get_selected_output_array()[-1]
    return ph, index, conductivity, left - 10 if to_equilibrium else 0.0

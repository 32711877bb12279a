"""What is measured: which visits are asked for it, and what a reading is likely to be.

About one visit in twenty is drawn by the program and not by whoever is there: grades alone rank heaters well but date
them badly, and measurements taken where something looked bad would lean the scale. A reading that nothing foretold is
asked for once more, and taken when it is said again.
"""

import hashlib
from collections.abc import Sequence
from math import exp, log

from aquifer.core.parameters import HALF_WIDTH_80
from aquifer.core.units import MG_L_PER_DH, MG_L_PER_FH, MG_L_PER_GRAIN, HardnessUnit

SHARE = 0.05
"""Of visits. Fitted in simulation: with one in twenty the windows hold, with none they do not."""


def is_drawn(secret: bytes, heater: int, visits_before: int, share: float = SHARE) -> bool:
    """Whether the coming visit at a heater is asked for a measurement.

    Parameters: a secret of the installation, so that nobody can tell ahead; the heater's number; how many visits it has
    had; the share of visits to draw, 0 to 1. Returns: the same answer however often it is asked before that visit.
    Source: a keyed hash, even over its range.
    """
    told = hashlib.blake2b(f"{heater}:{visits_before}".encode(), key=secret[:64], digest_size=8).digest()
    return int.from_bytes(told, "big") < share * 2**64


_FAR = 2.35
"""Standard deviations beyond which a reading is asked for once more. Measured in truths of other families
(tests/study/test_slips.py): of true readings fewer than two in a hundred are asked for again, of those that slipped by
ten or by inches nearly nine in ten; at three it was two in three."""


def likely(told: Sequence[float], error: float, least: float) -> tuple[float, float]:
    """Between what a reading of a state lies that is not a slip.

    Parameters: P10, P50, P90 of the state, above 0; error of the reading, natural log; least, below which a reading and
    none at all are told alike: where that much is likely, so is 0. Source: both errors normal in the logarithm.
    """
    low, middle, high = (max(one, 1e-9) for one in told)
    spread = (((log(high) - log(low)) / (2 * HALF_WIDTH_80)) ** 2 + error**2) ** 0.5
    bottom = middle * exp(-_FAR * spread)
    return (0.0 if bottom < least else bottom), max(middle * exp(_FAR * spread), 3 * least)


_STRAYS = 2.5
"""By how much the hardness of a water may differ from what is known of it before it is asked about. Assumption:
supplies are blended and drift, but seldom by more than a half."""
_SOFT_MG_L = 60.0
"""Below it waters are all soft, and a factor between them means nothing. Trade practice: 'soft'."""
_FITS = 0.4
"""How far, natural log, a figure may be off and still fit in another unit. Assumption."""
_AS_TYPED = {HardnessUnit.GPG: MG_L_PER_GRAIN, HardnessUnit.DH: MG_L_PER_DH, HardnessUnit.FH: MG_L_PER_FH}


def hardness_question(hardness_mg_l: float, known_mg_l: float) -> HardnessUnit | None:
    """Whether a hardness is far from what is known of its water, and in which unit it would fit.

    Parameters: as it was told, and as it was known, mg/L, both 0 or more. Returns: None where nothing is asked; mg/L
    where it is far off and fits in no other unit.
    """
    told, known = max(hardness_mg_l, 1.0), max(known_mg_l, 10.0)
    if 1 / _STRAYS <= told / known <= _STRAYS or max(told, known) < _SOFT_MG_L:
        return None
    fits = {name: abs(log(told * factor / known)) for name, factor in _AS_TYPED.items()}
    nearest = min(fits, key=lambda name: fits[name])
    return nearest if fits[nearest] < _FITS else HardnessUnit.MG_L

"""What holds a deposit may not be passed: a tank is only so tall, and a passage only so wide.

Deposit that comes at a pace is the argument of a curve that is itself while there is room and bends to the ceiling,
S = x / (1 + (x / most)^3)^(1/3): water finds its way past what lies there, and carries the more of it along the
narrower the way. The curve is an assumption; that there is a ceiling is geometry.
"""

import numpy as np

from aquifer.core.arrays import FloatArray

_FULL = 0.99
"""Share of the ceiling beyond which a level is told as this: the curve never gets there. Assumption."""


def bounded(driver: FloatArray, most: FloatArray) -> FloatArray:
    """The level, below a ceiling of ``most``, of what would be ``driver`` without one; one unit, shapes broadcast."""
    # Beyond a thousand ceilings it is the ceiling, and its cube would overflow.
    filled = np.minimum(driver / most, 1e3)
    return np.asarray(most * filled / np.cbrt(1 + filled**3))


def driver(level: FloatArray, most: FloatArray) -> FloatArray:
    """The inverse of ``bounded``: what would lie there without a ceiling; one unit, shapes broadcast."""
    filled = np.minimum(level / most, _FULL)
    return np.asarray(most * filled / np.cbrt(1 - filled**3))

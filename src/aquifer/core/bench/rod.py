"""A sacrificial rod as whoever takes it out finds it: how tight it sits, what is left of it, and where it hangs."""

import math
from dataclasses import dataclass

LENGTH_MM, NEW_MM, WIRE_MM = 1000.0, 21.0, 3.3
"""Of a usual rod: its length, its thickness when new, and that of the wire in it. Handbook."""
SKEW = 0.5
"""How unevenly it goes along its length, linear. Assumption."""
RENEW_BARE_MM, RENEW_MM = 100.0, 10.0
"""A rod is renewed from so much bare wire, or thinner than so. Trade practice."""


@dataclass
class Rod:
    """Where it is, and what is left of it."""

    left: float
    """Share of its metal, 0 to 1."""
    stuck: bool
    """Grown into its thread: a bar of the usual length does not move it."""
    seat: str = "tight"
    """tight, loose or out."""
    is_new: bool = False

    @property
    def bare_mm(self) -> float:
        """Wire that shows. Source: loss that is linear along the rod, ``SKEW``: where it is fastest the wire comes
        through first."""
        gone = 1 - self.left
        if gone <= 0:
            return 0.0
        return max(LENGTH_MM * (1 + SKEW - 1 / gone) / (2 * SKEW), 0.0)

    @property
    def thick_mm(self) -> float:
        """Its thickness where it is thickest. Source: the section that is left, about the wire."""
        return math.sqrt(WIRE_MM**2 + max(self.left, 0.0) * (NEW_MM**2 - WIRE_MM**2))

    @property
    def is_spent(self) -> bool:
        """Whether it is to be renewed."""
        return self.bare_mm >= RENEW_BARE_MM or self.thick_mm < RENEW_MM

"""The closed heating circuit that warms an indirect tank by a coil, and which loses its pressure by the wrong drain."""

import math
from dataclasses import dataclass

ATMOSPHERE_KPA = 101.325
"""Standard atmosphere. Physical constant."""
VESSEL_L, VESSEL_KPA = 12.0, 75.0
"""Of its own expansion vessel and what that was charged with. Trade practice for a house's circuit."""
FILLED_KPA, LOCKS_KPA = 120.0, 50.0
"""What it stands at, and under which it locks out. Trade practice: 80 to 170, and some 50."""
HOT_C = 75.0
"""At which it keeps its water. Trade practice."""
RISES_KPA = 15.0
"""What the pipes above its drain press with: a storey and a half. Assumption."""


@dataclass
class Boiler:
    """Its water, as far as it has run out."""

    lost_l: float = 0.0
    flow: float = 0.0
    """Litres in the last second, at its drain."""
    has_locked: bool = False
    """It went under ``LOCKS_KPA``, and stays off until it is filled and bled."""

    @property
    def kpa(self) -> float:
        """Over the atmosphere's. Source: Boyle, of what its vessel gives back; with the vessel empty there is none."""
        air_l = VESSEL_L * (VESSEL_KPA + ATMOSPHERE_KPA) / (FILLED_KPA + ATMOSPHERE_KPA) + self.lost_l
        return (VESSEL_KPA + ATMOSPHERE_KPA) * VESSEL_L / air_l - ATMOSPHERE_KPA if air_l < VESSEL_L else 0.0

    def second(self, opening: float) -> None:
        """One second goes by. Parameters: opening, litres a second by the root of a kPa at its drain."""
        self.flow = opening * math.sqrt(self.kpa + RISES_KPA)
        self.lost_l += self.flow
        self.has_locked = self.has_locked or self.kpa < LOCKS_KPA

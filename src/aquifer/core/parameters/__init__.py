"""Every figure the forecast uses, with its unit and where it comes from.

Sources: **constant** is a physical constant or law; **handbook** a published engineering figure; **assumption** a value
chosen so that the output agrees with practice. Most figures of maintenance are assumptions: they are priors that
findings correct.
"""

from aquifer.core.parameters.deposits import SCALE, SEDIMENT
from aquifer.core.parameters.learning import LEARNING
from aquifer.core.parameters.parts import ANODE, EXPANSION_TANK, RELIEF_VALVE, TANK
from aquifer.core.parameters.surroundings import GEOMETRY, USAGE, WATER

HOURS_PER_YEAR = 8766.0
"""h: the Julian year of 365.25 days, used for every rate. Constant."""
DAYS_PER_YEAR = HOURS_PER_YEAR / 24
HALF_WIDTH_80 = 1.2816
"""Half the width of the central 80 % of a normal distribution, in standard deviations. Constant."""
HORIZON_YEARS = 30.0
"""A date beyond this is not shown. Assumption: longer than any heater lives."""

__all__ = [
    "ANODE",
    "DAYS_PER_YEAR",
    "EXPANSION_TANK",
    "GEOMETRY",
    "HALF_WIDTH_80",
    "HORIZON_YEARS",
    "HOURS_PER_YEAR",
    "LEARNING",
    "RELIEF_VALVE",
    "SCALE",
    "SEDIMENT",
    "TANK",
    "USAGE",
    "WATER",
]

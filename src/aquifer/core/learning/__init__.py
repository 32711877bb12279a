"""What findings say of a heater's own rate.

Each component grows at ``theta`` times what water, use and temperature suggest. ``log theta`` is the sum of an effect
of the supply zone, z ~ N(0, zone spread), one of the build it shares with others (its cohort), and one of the heater,
N(0, heater spread). The posteriors of zone and heater are computed on grids by Bayes' rule, exactly but for the grid:
a heater's prior is what all *other* heaters of its zone say of z.

- ``grid``: the grid, and what can be read off a posterior on it
- ``evidence``: findings as likelihoods
- ``level``: how much lies there, beside how fast it comes
- ``pooling``: zones and their heaters
- ``calibration``: what the whole base teaches: people's eyes, cohorts, spreads, and whether windows held
"""

from aquifer.core.learning.calibration import Checked, Cleanings, ComponentCalibration, calibrated, removal, slopes
from aquifer.core.learning.evidence import (
    Demands,
    Evidence,
    Grades,
    GradeScale,
    Pairs,
    Readings,
    Standpoint,
    eyes_say,
    faded,
    log_likelihood,
    together,
)
from aquifer.core.learning.grid import EDGES, GRID, STEP, ZONE_GRID, Posterior
from aquifer.core.learning.pooling import Pool, Prior, ZoneBelief, pooled, with_prior, with_zone

__all__ = [
    "EDGES",
    "GRID",
    "STEP",
    "ZONE_GRID",
    "Checked",
    "Cleanings",
    "ComponentCalibration",
    "Demands",
    "Evidence",
    "GradeScale",
    "Grades",
    "Pairs",
    "Pool",
    "Posterior",
    "Prior",
    "Readings",
    "Standpoint",
    "ZoneBelief",
    "calibrated",
    "eyes_say",
    "faded",
    "log_likelihood",
    "pooled",
    "removal",
    "slopes",
    "together",
    "with_prior",
    "with_zone",
]

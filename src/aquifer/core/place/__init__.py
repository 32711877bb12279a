"""What of a place matters to whoever works there: its valves, drains, flues, gas, wiring and surroundings.

- ``feature``: what a feature is
- ``features``: the table of them
- ``seen``: what somebody saw, and the hazards that are said first
"""

from aquifer.core.place.feature import BURNS_GAS, Condition, Feature, FeatureGroup, FeatureKind, Severity
from aquifer.core.place.features import BY_KIND, FEATURES
from aquifer.core.place.seen import Seen, fault, hazards, matters_to

__all__ = [
    "BURNS_GAS",
    "BY_KIND",
    "FEATURES",
    "Condition",
    "Feature",
    "FeatureGroup",
    "FeatureKind",
    "Seen",
    "Severity",
    "fault",
    "hazards",
    "matters_to",
]

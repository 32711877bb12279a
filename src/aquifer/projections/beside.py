"""Two projections with the same luck side by side, future by future."""

import numpy as np

from aquifer.core import ahead
from aquifer.errors import Invalid
from aquifer.projections.found import Found
from aquifer.projections.living import COMPARED
from aquifer.projections.models import Projection, ProjectionState
from aquifer.projections.schemas import BesideOut, DifferenceOut, fan_of


def compare(now: Projection, other: Projection) -> BesideOut:
    """What the second comes to over the first. Raises: Invalid for two that are not ready or of other days or years."""
    for one in (now, other):
        if one.state != ProjectionState.READY:
            raise Invalid(f"“{one}” is not ready.", "projection.not_ready", {"beside": "not ready"})
    if (now.asked_on, now.years) != (other.asked_on, other.years):
        raise Invalid(
            "Only projections from the same day over the same years can stand side by side.",
            "projection.other_years", {"beside": "of another day, or over other years"},
        )  # fmt: skip
    assert now.found is not None and other.found is not None
    return {"differences": [_difference(name, now.found, other.found) for name in COMPARED]}


def _difference(name: str, now: Found, other: Found) -> DifferenceOut:
    one, two = (np.array(found["futures"][name]) for found in (now, other))
    more = two - one
    low, middle, high = ahead.fan(more.sum(axis=1)[:, None])[:, 0]
    return {
        "name": name,
        "by_year": [fan_of(*values) for values in ahead.fan(more).T.tolist()],
        "over_all": fan_of(low, middle, high),
        "less_share": round(ahead.better(two, one), 3),
        "same_share": round(float(np.mean(more.sum(axis=1) == 0)), 3),
    }

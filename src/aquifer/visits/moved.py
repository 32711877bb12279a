"""What a visit moved in the forecast, as its record stands: with what was put right later."""

import datetime

from aquifer.visits.models import Visit
from aquifer.visits.schemas import MovedKept


def standing(visit: Visit) -> list[MovedKept]:
    """Each component's date before the visit and after all that is on record of it. Its amendments may be prefetched.

    Its reasons are the last ones that tell what was found: an amendment that did not look at a component only moves its
    date.
    """
    found: dict[str, MovedKept] = {one["component"]: one for one in visit.moved}
    for amendment in sorted(visit.amendments.all(), key=lambda one: (one.at, one.pk)):
        for one in amendment.moved:
            found[one["component"]] = _again(found.get(one["component"]), one)
    return list(found.values())


def _again(before: MovedKept | None, later: MovedKept) -> MovedKept:
    first = later if before is None else before
    moved = later if later["looked_at"] or before is None else before
    return {
        "component": first["component"],
        "before_on": first["before_on"],
        "after_on": later["after_on"],
        "days": _days(first["before_on"], later["after_on"]),
        "reasons": moved["reasons"],
        "looked_at": moved.get("looked_at", False),
    }


def _days(before: str | None, after: str | None) -> int | None:
    if before is None or after is None:
        return None
    return (datetime.date.fromisoformat(after) - datetime.date.fromisoformat(before)).days

"""How often visits leave the straight way: of each procedure to which a step can lead, the share that took it."""

from collections.abc import Iterable, Mapping
from functools import lru_cache

from aquifer.core.procedures.interlock import Step
from aquifer.visits.models import Visit

LATELY = 300
"""Visits that are asked, the newest. Assumption: about a season of a small company."""
BEFORE_ANY, WEIGHT = 0.05, 10.0
"""What is taken before any visit says so, and how many visits that is worth. Assumption."""


def chances(steps: Mapping[str, Iterable[Step]]) -> dict[str, float]:
    """Of each procedure to which a deviation of these steps leads, how likely a visit that comes there takes it; two
    queries. Parameters: steps by their procedure's name. Source: counts with a beta prior (textbook)."""
    comes_from: dict[str, set[str]] = {}
    for procedure, own in steps.items():
        for step in own:
            for other in step.deviations:
                for name in other.then:
                    comes_from.setdefault(name, set()).add(f"{procedure}.{step.id}")
    visits = _lately(Visit.objects.exclude(steps=[]).order_by("-pk").values_list("pk", flat=True).first() or 0)
    found = {}
    for name, sources in comes_from.items():
        came = [visit for visit in visits if sources & visit]
        took = sum(any(step.startswith(f"{name}.") for step in visit) for visit in came)
        found[name] = round((took + BEFORE_ANY * WEIGHT) / (len(came) + WEIGHT), 4)
    return found


@lru_cache(maxsize=1)
def _lately(newest: int) -> list[frozenset[str]]:
    """The steps of each of the newest visits; read anew when there is a newer one."""
    told = Visit.objects.exclude(steps=[]).filter(pk__lte=newest).order_by("-pk").values_list("steps", flat=True)
    return [frozenset(str(one.get("step", "")) for one in steps) for steps in told[:LATELY]]

"""How often parts fail, by the build of heater they sit in; held against what all builds together would show."""

from collections import Counter
from typing import Any

from django.db.models import Count, Q

from aquifer.core.vocabulary import RodGrade, Task, ValveOutcome, VesselPin
from aquifer.heaters.models import Heater
from aquifer.visits.models import Finding

FAILED = {
    "relief valve": Q(outcome__in=[ValveOutcome.NO_FLOW, ValveOutcome.FLOWS_AND_WEEPS]),
    "expansion tank": Q(at_valve__in=[VesselPin.WATER, VesselPin.NOTHING]),
    "element": Q(element_failed=True),
    "anode": Q(task=Task.ANODE_INSPECTION, grade=RodGrade.GONE),
}
"""Findings that count as a failure, by part."""


def failures(least: int = 5) -> list[dict[str, Any]]:
    """Each part and build with at least so many heaters, the worst against expectation first; five queries.

    Expected: the heaters of a build times the share of all heaters that failed so. Each heater counts once.
    """
    builds = list(Heater.objects.exclude(maker="").order_by().values("maker", "model").annotate(heaters=Count("pk")))
    total = sum(one["heaters"] for one in builds)
    found = []
    for part, failed in FAILED.items():
        counted = Counter(
            {
                (one["heater__maker"], one["heater__model"]): one["n"]
                for one in Finding.objects.filter(failed)
                .exclude(heater__maker="")
                .order_by()
                .values("heater__maker", "heater__model")
                .annotate(n=Count("heater", distinct=True))
            }
        )
        share = counted.total() / total if total else 0.0
        for one in builds:
            if one["heaters"] >= least and (n := counted[one["maker"], one["model"]]):
                found.append({**one, "part": part, "failures": n, "expected": round(one["heaters"] * share, 1)})
    return sorted(found, key=lambda one: one["expected"] - one["failures"])

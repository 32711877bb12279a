"""How often parts fail, by the build of heater they sit in; held against what all builds together would show."""

from collections import Counter
from collections.abc import Iterator

from django.db.models import Count, Q, QuerySet

from aquifer.core.procedures.library import FITTED
from aquifer.core.vocabulary import ExpansionTankPin, RodGrade, Task, ValveOutcome
from aquifer.heaters.models import Heater, Part
from aquifer.review.schemas import BuildOut
from aquifer.visits.models import Finding

FAILED = {
    "relief valve": Q(outcome__in=[ValveOutcome.NO_FLOW, ValveOutcome.FLOWS_AND_WEEPS]),
    "expansion tank": Q(at_valve__in=[ExpansionTankPin.WATER, ExpansionTankPin.NOTHING]),
    "element": Q(element_failed=True),
    "anode": Q(task=Task.ANODE_INSPECTION, grade=RodGrade.GONE),
}
"""Findings that count as a failure, by part."""


Counts = Counter[tuple[str, str]]
"""Heaters by maker and model."""


def _found() -> Iterator[tuple[str, Counts]]:
    for part, failed in FAILED.items():
        yield part, _counted(Finding.objects.filter(failed))


def _renewed() -> Iterator[tuple[str, Counts]]:
    """Parts of which no finding tells, by being taken out: whoever renews a thermocouple had a reason."""
    out = Part.objects.filter(kind__in=FITTED, removed_on__isnull=False)
    by_kind: dict[str, Counts] = {}
    rows = out.exclude(heater__maker="").order_by().values_list("kind", "heater__maker", "heater__model")
    for kind, maker, model, n in rows.annotate(n=Count("heater", distinct=True)):
        by_kind.setdefault(kind, Counter())[maker, model] = n
    yield from ((kind.replace("_", " "), counts) for kind, counts in sorted(by_kind.items()))


def _counted(failed: "QuerySet[Finding]") -> Counts:
    named = failed.exclude(heater__maker="").order_by().values_list("heater__maker", "heater__model")
    return Counter({(maker, model): n for maker, model, n in named.annotate(n=Count("heater", distinct=True))})


def failures(least: int = 5) -> list[BuildOut]:
    """Each part and build with at least so many heaters, the worst against expectation first; six queries.

    Expected: the heaters of a build times the share of all heaters that failed so. Each heater counts once.
    """
    builds = list(Heater.objects.exclude(maker="").order_by().values("maker", "model").annotate(heaters=Count("pk")))
    total = sum(one["heaters"] for one in builds)
    found: list[BuildOut] = []
    for part, counted in (*_found(), *_renewed()):
        share = counted.total() / total if total else 0.0
        for one in builds:
            if one["heaters"] >= least and (n := counted[one["maker"], one["model"]]):
                expected = round(one["heaters"] * share, 1)
                found.append({**one, "part": part, "failures": n, "expected": expected})
    return sorted(found, key=lambda build: build["expected"] - build["failures"])

"""How long visits took, and what they are planned for by that."""

import datetime
from collections import defaultdict
from dataclasses import dataclass

import numpy as np
from django.db.models import QuerySet
from django.utils import timezone
from numpy.typing import NDArray

from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.planning.hours import ASSUMED, RENEWAL, SERVICE, SLOW, Hours, Taken, Work, learned
from aquifer.core.vocabulary import Component, Task
from aquifer.visits.models import Finding, LearnedHours, Visit

LOOKED_BACK = datetime.timedelta(days=730)
"""Older visits were by other hands and for other work. Assumption."""
MOST_VISITS = 20_000
"""The latest of them; more tell no more. Assumption."""
LEAST_MINUTES, MOST_MINUTES = 5, 600
"""What was told in less was told after the visit, and what took longer was left open over night. Assumption."""
_DONE: dict[Task, tuple[Component, bool]] = {
    Task.FLUSH: (Component.SEDIMENT, False),
    Task.DESCALE: (Component.SCALE, False),
    Task.ANODE_INSPECTION: (Component.ANODE, False),
    Task.ANODE_REPLACEMENT: (Component.ANODE, True),
    Task.RELIEF_VALVE_EXERCISE: (Component.RELIEF_VALVE, False),
    Task.RELIEF_VALVE_REPLACEMENT: (Component.RELIEF_VALVE, True),
    Task.EXPANSION_TANK_CHECK: (Component.EXPANSION_TANK, False),
    Task.EXPANSION_TANK_REPLACEMENT: (Component.EXPANSION_TANK, True),
}
"""Which service a finding tells of, and whether the part was renewed."""
_SLOW = frozenset(method.value for method in SLOW)
_PLACE = {work: at for at, work in enumerate(Work)}


Spell = tuple[datetime.datetime | None, int]
"""When it began, where that is known, and how many minutes it took."""


@dataclass(frozen=True)
class Timed:
    """The visits whose length is known, as the core takes them."""

    taken: Taken
    on: NDArray[np.datetime64]
    """The day of each, (n,)."""

    def of(self, chosen: IntArray) -> Taken:
        """Some of them, by their rows."""
        return Taken(self.taken.hours[chosen], self.taken.work[chosen], self.taken.person[chosen])


def in_force() -> Hours:
    """What visits are planned for: as the newest night learned it, or as is assumed."""
    newest = LearnedHours.objects.first()
    if newest is None:
        return ASSUMED
    return Hours(
        {**ASSUMED.of_work, **{Work(name): hours for name, hours in newest.of_work.items() if name in set(Work)}},
        {Work(name): share for name, share in newest.renewed.items() if name in set(Work)},
        newest.spread,
    )


def renew(today: datetime.date) -> int:
    """Learn from the visits so far; returns how many. What was learned before is dropped."""
    timed = read(today)
    found = learned(timed.taken)
    LearnedHours.objects.all().delete()
    if timed.taken.hours.size:
        LearnedHours.objects.create(
            computed_at=timezone.now(),
            of_work={work.value: round(hours, 4) for work, hours in found.hours.of_work.items()},
            renewed={work.value: round(share, 4) for work, share in found.hours.renewed.items()},
            spread=round(found.hours.spread, 4),
        )
    return int(timed.taken.hours.size)


def read(today: datetime.date) -> Timed:
    """What was done in one house on one day by one person, and how long they were there; two queries."""
    since = today - LOOKED_BACK
    # One that ended early took time for what was not done.
    visits = Visit.objects.filter(on__gt=since, on__lte=today, ending="", minutes__range=(LEAST_MINUTES, MOST_MINUTES))
    newest = visits.order_by("-on", "-pk")[:MOST_VISITS]
    rows = newest.values_list("pk", "heater__site_id", "on", "technician", "began_at", "minutes")
    coming: dict[tuple[int, datetime.date, str], list[tuple[int, Spell]]] = defaultdict(list)
    for pk, site_id, on, technician, began_at, minutes in rows:
        coming[site_id, on, technician].append((pk, (began_at, minutes or 0)))
    of_visit = _work([pk for own in coming.values() for pk, _ in own])
    kept = [
        (on, technician, minutes_of([spell for _, spell in own]), sum(of_visit[pk] for pk, _ in own))
        for (_, on, technician), own in coming.items()
        # At a visit at which nothing of this was done, the time went into something else.
        if any(of_visit[pk].any() for pk, _ in own)
    ]
    people = {name: at for at, name in enumerate(sorted({technician for _, technician, *_ in kept}))}
    work = np.array([done for *_, done in kept], dtype=np.float64).reshape(-1, len(Work))
    work[:, _PLACE[Work.ARRIVING]] = 1.0
    return Timed(
        Taken(
            hours=np.array([minutes for _, _, minutes, _ in kept], dtype=np.float64) / 60,
            work=work,
            person=np.array([people[technician] for _, technician, *_ in kept], dtype=np.int64),
        ),
        np.array([on for on, *_ in kept], dtype="datetime64[D]"),
    )


def _work(visit_ids: list[int]) -> dict[int, FloatArray]:
    """What was done at each, in the order of ``Work``."""
    done: dict[int, FloatArray] = {pk: np.zeros(len(Work)) for pk in visit_ids}
    findings = Finding.objects.filter(visit__in=visit_ids, task__in=_DONE, could_not_open=False)
    for pk, task, method in findings.filter(correction__isnull=True).values_list("visit_id", "task", "method"):
        component, is_new = _DONE[Task(task)]
        # Whoever renews a part has looked at the old one, told or not.
        done[pk][_PLACE[SERVICE[component]]] = 1.0
        if is_new:
            done[pk][_PLACE[RENEWAL[component]]] = 1.0
        if method in _SLOW:
            done[pk][_PLACE[Work.SLOW_FLUSH]] = 1.0
    return done


def by_house(visits: QuerySet[Visit]) -> dict[tuple[int, datetime.date], list[Spell]]:
    """When somebody was at each house on each day, and how long: a spell at each heater."""
    found: dict[tuple[int, datetime.date], list[Spell]] = defaultdict(list)
    for site_id, on, began_at, minutes in visits.values_list("heater__site_id", "on", "began_at", "minutes"):
        found[site_id, on].append((began_at, minutes or 0))
    return found


def minutes_of(own: list[Spell]) -> int:
    """In one house, at one heater after another or at several at once."""
    total = sum(minutes for _, minutes in own)
    spans = sorted((began, began + datetime.timedelta(minutes=minutes)) for began, minutes in own if began)
    if len(spans) < len(own):
        return total
    apart, end = datetime.timedelta(), spans[0][0]
    for began, ended in spans:
        apart += max(ended - max(began, end), datetime.timedelta())
        end = max(end, ended)
    return round(apart.total_seconds() / 60)

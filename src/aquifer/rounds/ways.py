"""Where sites lie, and how long the way of a visit is before anybody knows what comes before it."""

from collections import defaultdict
from collections.abc import Collection, Sequence

import numpy as np

from aquifer.core.arrays import FloatArray
from aquifer.customers.models import Site
from aquifer.rounds import crew
from aquifer.rounds.models import CrewMember
from aquifer.travel.service import Point, times

STOPS_A_DAY = 5
"""Over how many visits the way to a zone and home is shared. Assumption."""
NEAREST = 3
"""A visit's way to the next is the mean to so many of its zone's nearest sites. Assumption."""
UNKNOWN_HOP = 0.2
"""Hours to the next visit where nobody has located any. Assumption: some 5 km in a town."""


def places(sites: "list[Site]", yards: Sequence[Point] = ()) -> dict[int, Point]:
    """Where each site is; one that nobody has located stands in the middle of its zone, or at the yard. Parameters:
    yards, where the crew's days begin."""
    known = {s.pk: Point(s.longitude, s.latitude) for s in sites if s.longitude is not None and s.latitude is not None}
    of_zone: dict[int, list[Point]] = defaultdict(list)
    for site in sites:
        if site.pk in known:
            of_zone[site.zone_id].append(known[site.pk])
    for site in sites:
        if site.pk not in known:
            others = of_zone.get(site.zone_id) or list(yards) or [crew.AWAY]
            known[site.pk] = Point(
                sum(p.longitude for p in others) / len(others), sum(p.latitude for p in others) / len(others)
            )
    return known


def to(site_ids: Collection[int], who: list[CrewMember]) -> tuple[dict[int, int], dict[int, float], FloatArray]:
    """Of each site its zone's row, and the hours of a visit's way; of each zone the hours from the yard."""
    sites = list(Site.objects.filter(pk__in=site_ids))
    yards = crew.yards(who)
    where = places(sites, yards)
    zones = sorted({site.zone_id for site in sites})
    zone_of = {site.pk: zones.index(site.zone_id) for site in sites}
    hop, haul = np.zeros(len(zones)), np.zeros(len(zones))
    located = {site.pk for site in sites if site.longitude is not None and site.latitude is not None}
    for number, zone_id in enumerate(zones):
        own = [site for site in sites if site.zone_id == zone_id]
        # What nobody has located lies all at one place, and says nothing of the ways between.
        points = [where[site.pk] for site in ([one for one in own if one.pk in located] or own)][:60]
        found = times().minutes([*points, *yards]) / 60
        among = np.sort(found[: len(points), : len(points)], axis=1)[:, 1 : NEAREST + 1]
        hop[number] = float(among.mean()) if among.size and any(one.pk in located for one in own) else UNKNOWN_HOP
        haul[number] = float(np.median(found[: len(points), len(points) :])) if yards else 0.0
    way = hop + 2 * haul / STOPS_A_DAY
    return zone_of, {site_id: float(way[zone]) for site_id, zone in zone_of.items()}, haul

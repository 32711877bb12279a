"""Where sites lie, and how long the way of a visit is before anybody knows what comes before it."""

from collections import defaultdict
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from aquifer.core.arrays import FloatArray
from aquifer.customers.models import Site
from aquifer.rounds import crew
from aquifer.rounds.models import Appointment, CrewMember
from aquifer.travel.service import Point, times

STOPS_A_DAY = 5
"""Over how many visits the way to a zone and home is shared. Assumption."""
NEAREST = 3
"""A visit's way to the next is the mean to so many of its zone's nearest sites. Assumption."""
DRAWN = 60
"""Sites of a zone by which its ways are told. Assumption: enough for a mean, and one question to a travel service."""
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
            known[site.pk] = _middle(of_zone.get(site.zone_id) or yards or [crew.AWAY])
    return known


def _middle(of: Sequence[Point]) -> Point:
    return Point(sum(p.longitude for p in of) / len(of), sum(p.latitude for p in of) / len(of))


@dataclass(frozen=True)
class ZoneWay:
    """How long the ways of a zone's visits are, hours."""

    hop: float
    """From a visit to the next."""
    haul: float
    """From the yard to the zone."""

    @property
    def of_visit(self) -> float:
        """The way of one visit, that to the zone and home shared among those of a day."""
        return self.hop + 2 * self.haul / STOPS_A_DAY


def of_zones(zone_ids: Iterable[int], who: Sequence[CrewMember]) -> dict[int, ZoneWay]:
    """The ways of these zones, whichever of their sites are visited: one query, and a question a zone to the travel
    service."""
    yards = crew.yards(who)
    wanted = sorted(set(zone_ids))
    located = Site.objects.filter(longitude__isnull=False, latitude__isnull=False, archived_at__isnull=True)
    each = [
        located.filter(zone=zone_id).order_by("pk").values_list("zone_id", "longitude", "latitude")[:DRAWN]
        for zone_id in wanted
    ]
    points: dict[int, list[Point]] = defaultdict(list)
    for zone_id, longitude, latitude in each[0].union(*each[1:], all=True) if each else ():
        if longitude is not None and latitude is not None:
            points[zone_id].append(Point(longitude, latitude))
    return {zone_id: _zone_way(points[zone_id], yards) for zone_id in wanted}


def _zone_way(located: list[Point], yards: Sequence[Point]) -> ZoneWay:
    points = located or [_middle(yards or [crew.AWAY])]
    found = times().minutes([*points, *yards]) / 60
    among = np.sort(found[: len(points), : len(points)], axis=1)[:, 1 : NEAREST + 1]
    return ZoneWay(
        hop=float(among.mean()) if len(located) > 1 else UNKNOWN_HOP,
        haul=float(np.median(found[: len(points), len(points) :])) if yards else 0.0,
    )


def hours(visits: Collection[Appointment], who: Sequence[CrewMember]) -> dict[int, float]:
    """Hours of these visits with their ways, by their numbers; their sites are to be read with them."""
    found = of_zones({visit.site.zone_id for visit in visits}, who)
    return {visit.pk: visit.minutes / 60 + found[visit.site.zone_id].of_visit for visit in visits}


def to(site_ids: Collection[int], who: Sequence[CrewMember]) -> tuple[dict[int, int], dict[int, float], FloatArray]:
    """Of each site its zone's row, and the hours of a visit's way; of each zone the hours from the yard."""
    zone_of_site = dict(Site.objects.filter(pk__in=site_ids).values_list("pk", "zone_id"))
    found = of_zones(zone_of_site.values(), who)
    row = {zone_id: number for number, zone_id in enumerate(found)}
    return (
        {site_id: row[zone_id] for site_id, zone_id in zone_of_site.items()},
        {site_id: found[zone_id].of_visit for site_id, zone_id in zone_of_site.items()},
        np.array([one.haul for one in found.values()], dtype=np.float64),
    )

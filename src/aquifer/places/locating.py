"""Where a site is: by hand on the map, by looking its address up, or by its town until somebody does either."""

from django.db import transaction
from django.db.models import Avg, Q

from aquifer.company.models import Company
from aquifer.customers.models import Site
from aquifer.history.versions import merge
from aquifer.travel.finding import Address, Found, NotAnswered, finder
from aquifer.travel.service import Point

LOOKED_UP = "look_up"
BY_TOWN = "town"
NEIGHBOURS = 400
"""Sites that are drawn around one. Assumption."""


def middle() -> Point | None:
    """The middle of the sites that are somewhere, else the yard; None if nobody knows of any place."""
    sites = Site.objects.filter(longitude__isnull=False, archived_at__isnull=True)
    at = sites.aggregate(Avg("longitude"), Avg("latitude"))
    if at["longitude__avg"] is not None:
        return Point(at["longitude__avg"], at["latitude__avg"])
    ours = Company.current()
    if ours.yard_longitude is None or ours.yard_latitude is None:
        return None
    return Point(ours.yard_longitude, ours.yard_latitude)


def looks_up() -> bool:
    """Whether addresses can be looked up at all."""
    return finder(Point(0, 0)) is not None


def suggestions(site: Site) -> list[Found]:
    """Places that a site's address may be. Raises: NotAnswered."""
    address_finder = finder(middle())
    return address_finder.find(_address(site)) if address_finder is not None else []


def put(site_id: int, at: Point | None, by: str = "", read: int | None = None) -> None:
    """Put a site where somebody says, or nowhere.

    Parameters: by, empty for by hand; read, the version of the site that the edit started from.
    Raises: Conflict if somebody put it elsewhere since.
    """
    longitude, latitude = (at.longitude, at.latitude) if at else (None, None)
    with transaction.atomic():
        site = Site.objects.select_for_update().get(pk=site_id)
        merge(site, read, {"longitude": longitude, "latitude": latitude, "located_by": by if at else ""})
        site.save()


def look_up_all() -> int:
    """Look up every site that nobody has located by hand; returns how many were found. It ends at the first time that
    the service does not answer: what was found stays, and the rest is asked for again the next time."""
    address_finder = finder(middle())
    if address_finder is None:
        return 0
    located = 0
    unsure = Q(longitude__isnull=True) | Q(located_by=BY_TOWN)
    for site in Site.objects.filter(unsure, archived_at__isnull=True).exclude(street="").order_by("pk").iterator(500):
        try:
            places = address_finder.find(_address(site))
        except NotAnswered:
            break
        if places:
            put(site.pk, places[0].at, LOOKED_UP)
            located += 1
    return located


def neighbours(site: Site) -> list[tuple[float, float]]:
    """Places of other sites of the same water, to see where one is, (longitude, latitude)."""
    others = Site.objects.filter(longitude__isnull=False, archived_at__isnull=True).exclude(pk=site.pk)
    return [
        (float(x), float(y))
        for x, y in others.values_list("longitude", "latitude").order_by("pk")[:NEIGHBOURS]
        if x is not None and y is not None
    ]


def _address(site: Site) -> Address:
    return Address(site.street, site.town, site.state, site.postcode)

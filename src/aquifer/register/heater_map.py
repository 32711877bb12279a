"""Where heaters are and when they are due, in squares of a map: as many on the screen however many there are."""

import datetime
import math
from dataclasses import dataclass

from django.db.models import Avg, Count, F, FloatField, Max, Min, Q, QuerySet, Value
from django.db.models.functions import Cast, Floor

from aquifer.core.vocabulary import Component
from aquifer.customers.models import Site
from aquifer.errors import Invalid
from aquifer.forecasts.models import DUE_ON
from aquifer.heaters.models import Heater
from aquifer.register.schemas import HeaterMapOut, MapSquareOut

ACROSS, DOWN = 26, 20
"""Squares of a map: 28 to 56 pixels each on a usual screen, so that marks hardly touch. Assumption."""
SOON_DAYS, YEAR_DAYS = 28, 365
"""What is told of a mark beside what is overdue. Assumption: as far as rounds are promised, and as a season goes."""
LEAST_DEGREES = 1e-4
"""Across a map at the least: some ten meters."""


@dataclass(frozen=True)
class Box:
    """A piece of the earth, degrees."""

    west: float
    south: float
    east: float
    north: float


def read(today: datetime.date, box: Box | None, component: Component | None, zone_id: int | None) -> HeaterMapOut:
    """Heaters in service by squares of a map. Parameters: box, all that there are if None; component, of which it is
    asked when it is due, of whatever is due first if None. Four queries at most.

    Raises: Invalid for a component that is not due by date, or a box that is none.
    """
    if component is not None and component not in DUE_ON:
        allowed = ", ".join(DUE_ON)
        raise Invalid(f"{component} is not due by date; allowed: {allowed}.", fields={"component": "?"})
    heaters = Heater.objects.in_service()
    if zone_id is not None:
        heaters = heaters.filter(site__zone_id=zone_id)
    due_on = f"due__{DUE_ON[component] if component else 'first_on'}"
    if component is not None:
        heaters = heaters.filter(**{f"{due_on}__isnull": False})
    placed = heaters.filter(site__longitude__isnull=False, site__latitude__isnull=False)
    whole = placed.aggregate(
        west=Min("site__longitude"), south=Min("site__latitude"),
        east=Max("site__longitude"), north=Max("site__latitude"),
        placed=Count("pk"),
    )  # fmt: skip
    count = whole.pop("placed")
    nowhere = heaters.count() - count
    if not count:
        return {"box": None, "squares": [], "heaters": 0, "without_place": nowhere}
    every = Box(**whole)
    shown = box or every
    if shown.west > shown.east or shown.south > shown.north:
        raise Invalid("West lies before east, and south below north.", fields={"west": "?", "south": "?"})
    return {
        "box": [every.west, every.south, every.east, every.north],
        "squares": _squares(placed, shown, due_on, today),
        "heaters": count,
        "without_place": nowhere,
    }


def _squares(placed: "QuerySet[Heater]", box: Box, due_on: str, today: datetime.date) -> list[MapSquareOut]:
    across, down = (max(one, LEAST_DEGREES) for one in (box.east - box.west, box.north - box.south))
    # Squares stay where they are while a map is moved: their size is a power of two, their corner a multiple of it.
    east, north = (2.0 ** math.ceil(math.log2(one)) for one in (across / ACROSS, down / DOWN))
    soon, year = (today + datetime.timedelta(days=days) for days in (SOON_DAYS, YEAR_DAYS))
    rows = (
        placed.filter(
            site__longitude__range=(box.west - east, box.east + east),
            site__latitude__range=(box.south - north, box.north + north),
        )
        .annotate(
            column=Floor(Cast(F("site__longitude"), FloatField()) / Value(east)),
            row=Floor(Cast(F("site__latitude"), FloatField()) / Value(north)),
        )
        .values("column", "row")
        .annotate(
            longitude=Avg("site__longitude"),
            latitude=Avg("site__latitude"),
            heaters=Count("pk"),
            overdue=Count("pk", filter=Q(**{f"{due_on}__lt": today})),
            soon=Count("pk", filter=Q(**{f"{due_on}__range": (today, soon)})),
            year=Count("pk", filter=Q(**{f"{due_on}__gt": soon, f"{due_on}__lte": year})),
            first_site=Min("site_id"),
            last_site=Max("site_id"),
            west=Min("site__longitude"),
            east=Max("site__longitude"),
            south=Min("site__latitude"),
            north=Max("site__latitude"),
        )
        .order_by("row", "column")
    )
    found = list(rows)
    alone = {row["first_site"] for row in found if row["first_site"] == row["last_site"]}
    names = dict(Site.objects.filter(pk__in=alone).values_list("pk", "name"))
    return [
        {
            "longitude": row["longitude"],
            "latitude": row["latitude"],
            "heaters": row["heaters"],
            "overdue": row["overdue"],
            "soon": row["soon"],
            "year": row["year"],
            "site_id": row["first_site"] if row["first_site"] in alone else None,
            "name": names.get(row["first_site"], ""),
            "box": [row["west"], row["south"], row["east"], row["north"]],
        }
        for row in found
    ]

"""Figures that a water company publishes, through one interface; a simulated one ships with the program.

A real feed would answer the same question: what was published for a supply since a day.
"""

import datetime
import hashlib
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Protocol

from django.db import transaction

from aquifer.demo.district import ZONES
from aquifer.water.models import WaterTest, Zone


@dataclass(frozen=True)
class Published:
    """One publication; mg/L as CaCO3 for hardness and alkalinity, None where it says nothing."""

    on: datetime.date
    total_hardness_mg_l: float | None
    calcium_hardness_mg_l: float | None
    alkalinity_mg_l: float | None
    ph: float | None
    conductivity_us_cm: float | None
    free_chlorine_mg_l: float | None
    disinfectant: str


class Supplier(Protocol):
    def published(self, zone_code: str, since: datetime.date, until: datetime.date) -> Iterable[Published]:
        """What was published of a supply, after ``since`` and not after ``until``, the oldest first."""
        ...


@dataclass(frozen=True)
class SimulatedSupplier:
    """Publishes each quarter what it knows of its supplies: their own figures, a few per cent about."""

    supplies: dict[str, Published]

    def published(self, zone_code: str, since: datetime.date, until: datetime.date) -> Iterable[Published]:
        typical = self.supplies.get(zone_code)
        if typical is None:
            return
        for year in range(since.year, until.year + 1):
            for month in (1, 4, 7, 10):
                on = datetime.date(year, month, 15)
                if since < on <= until:
                    yield _about(typical, on, zone_code)


def _about(typical: Published, on: datetime.date, code: str) -> Published:
    """The same figures, moved together by up to four per cent; the same day gives the same figures."""
    draw = int.from_bytes(hashlib.sha256(f"{code}{on}".encode()).digest()[:4], "big") / 2**32
    swing = 1 + 0.08 * (draw - 0.5)

    def moved(value: float | None) -> float | None:
        return None if value is None else round(value * swing, 1)

    return Published(
        on,
        moved(typical.total_hardness_mg_l),
        moved(typical.calcium_hardness_mg_l),
        moved(typical.alkalinity_mg_l),
        typical.ph,
        moved(typical.conductivity_us_cm),
        typical.free_chlorine_mg_l,
        typical.disinfectant,
    )


METHOD = "supplier"


def fetch(supplier: Supplier, zone: Zone, today: datetime.date) -> int:
    """Put on record what a supplier published since its last figures here; asked twice, nothing is doubled.

    Returns: how many were new.
    """
    newest = zone.tests.filter(method=METHOD, site__isnull=True).order_by("-taken_on").first()
    since = newest.taken_on if newest else today - datetime.timedelta(days=400)
    with transaction.atomic():
        made = 0
        for one in supplier.published(zone.code, since, today):
            figures = {name: getattr(one, name) for name in Published.__dataclass_fields__ if name != "on"}
            _, is_new = WaterTest.objects.get_or_create(
                zone=zone, site=None, taken_on=one.on, method=METHOD, defaults=figures
            )
            made += is_new
    return made


def simulated() -> SimulatedSupplier:
    """The supplier of the invented district."""
    return SimulatedSupplier(
        {
            zone.code: Published(
                datetime.date(2000, 1, 1),
                zone.hardness_mg_l,
                zone.hardness_mg_l * zone.calcium_share if zone.ph else None,
                zone.alkalinity_mg_l,
                zone.ph,
                zone.conductivity_us_cm,
                0.5,
                "chlorine",
            )
            for zone in ZONES
            if zone.supply == "mains"
        }
    )

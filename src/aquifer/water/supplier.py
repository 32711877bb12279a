"""Figures that a water company publishes, through one interface; a simulated one ships with the demo.

A real feed would answer the same question: what was published for a supply since a day.
"""

import datetime
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Protocol

from django.conf import settings
from django.db import transaction
from django.utils.module_loading import import_string

from aquifer.errors import Conflict
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


METHOD = "supplier"


def fetch(supplier: Supplier, zone: Zone, today: datetime.date) -> int:
    """Put on record what a supplier published since its last figures here; asked twice, nothing is doubled.

    Returns: how many were new.
    """
    newest = zone.tests.filter(method=METHOD, site__isnull=True).order_by("-taken_on").first()
    since = newest.taken_on if newest else today - datetime.timedelta(days=400)
    with transaction.atomic():
        made = 0
        for published in supplier.published(zone.code, since, today):
            figures = {name: getattr(published, name) for name in Published.__dataclass_fields__ if name != "on"}
            _, is_new = WaterTest.objects.get_or_create(
                zone=zone, site=None, taken_on=published.on, method=METHOD, defaults=figures
            )
            made += is_new
    return made


def connected() -> Supplier:
    """The supplier that the installation names in its settings. Raises: Conflict where there is none."""
    if not settings.WATER_SUPPLIER:
        raise Conflict("No water supplier's figures are connected to this installation.", "supplier.none")
    supplier: Supplier = import_string(settings.WATER_SUPPLIER)()
    return supplier

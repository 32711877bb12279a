"""Which zones a file has to do with: a heater's forecast hangs on its own zone and on the waters that are mixed there,
so of a large base only those are forecast anew."""

from collections.abc import Collection, Mapping, Sequence

from aquifer.customers.models import Site
from aquifer.heaters.models import Heater
from aquifer.imports.models import RowAction
from aquifer.imports.plan import PlannedRow
from aquifer.prepared import Prepared
from aquifer.water.models import Season, WaterTest

_ZONE = {
    "heaters": (Heater, "site__zone_id"),
    "sites": (Site, "zone_id"),
    "water_tests": (WaterTest, "zone_id"),
}
"""By the kind of a file, what its rows are and the way from one to its zone."""


def zones_of(kind: str, rows: Sequence[PlannedRow], made: Mapping[str, Collection[int]]) -> set[int] | None:
    """The zones that these rows have to do with, as the register stands; None for all that there are.

    What teaches the whole base, as findings do, is everybody's. Before and after writing the answer may be another: a
    heater that moves leaves a zone, too.
    """
    stored = [row.record for row in rows if row.action in (RowAction.CREATE, RowAction.CHANGE) and row.pk is not None]
    if kind == "customers":
        return set()
    if kind == "zones":
        return _with_mixed(set(stored))
    if kind == "list":
        found = set(made.get("zones", ())) | _zones("heaters", made.get("heaters", ()))
        found |= _zones("water_tests", made.get("tests", ())) | _zones("sites", made.get("sites", ()))
        return _with_mixed(found)
    if kind in _ZONE:
        return _with_mixed(_zones(kind, stored))
    return None


def _zones(kind: str, ids: Collection[int]) -> set[int]:
    model, way = _ZONE[kind]
    return {zone_id for (zone_id,) in Prepared(model._default_manager.all(), way, by="pk").rows(ids)}


def _with_mixed(zone_ids: set[int]) -> set[int]:
    """Besides, the zones in which one of these waters is a part of the year's."""
    return zone_ids | set(Season.objects.filter(other__in=zone_ids).values_list("zone_id", flat=True))

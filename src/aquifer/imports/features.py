"""What stands around the heaters, from a file: one row a thing seen, with the open end that a fault leaves.

Appended: a thing that is on record as the row says is left as it is.
"""

from collections.abc import Iterator, Mapping

from django.db import transaction

from aquifer.core.kinds import HeaterKind
from aquifer.core.place import BY_KIND, FeatureKind
from aquifer.customers.models import Site
from aquifer.formats.cells import Cell, Row
from aquifer.formats.csv_table import table_lines
from aquifer.formats.sheet import Matched, Sheet, own_names, read_rows
from aquifer.heaters.models import Heater
from aquifer.history import in_bulk
from aquifer.imports import statistics
from aquifer.imports.models import RowAction
from aquifer.imports.origin import NOBODY, Origin
from aquifer.imports.plan import PlannedRow, Progress, nothing
from aquifer.imports.tables import Table
from aquifer.open_ends.models import OpenEnd
from aquifer.places.keep import left_open, refused
from aquifer.places.models import Feature

BATCH = 1000
_TELLS_APART = ("site_id", "heater_id", "kind", "form", "condition", "where", "seen_on")


def plan(
    table: Table, sheet: Sheet, matches: Mapping[str, Matched] | None = None, progress: Progress = nothing
) -> list[PlannedRow]:
    """Decide for every row what it would do. Raises: UnreadableTable if the file cannot be read as a whole."""
    rows = list(read_rows(sheet, table.columns, matches or own_names(sheet, table.columns)))
    codes = {row.cells.get("site") for row in rows}
    sites = dict(Site.objects.filter(code__in=codes, archived_at__isnull=True).values_list("code", "pk"))
    tags = {row.cells.get("heater") for row in rows} - {None}
    heaters = {heater.tag: heater for heater in Heater.objects.in_service().filter(tag__in=tags)}
    known = set(Feature.objects.filter(site__in=sites.values(), gone=False).values_list(*_TELLS_APART))
    planned = [_decide(row, sites, heaters, known) for row in rows]
    progress(len(rows), len(rows))
    return planned


def _decide(
    row: Row, sites: Mapping[str, int], heaters: Mapping[str, Heater], known: set[tuple[Cell, ...]]
) -> PlannedRow:
    key = " ".join(str(row.cells.get(name) or "-") for name in ("site", "heater", "kind"))
    site_id, tag = sites.get(row.cells.get("site") or ""), row.cells.get("heater")
    heater = heaters.get(tag or "")
    faults = dict(row.faults) or _faults(row, site_id, heater)
    if faults:
        return PlannedRow(row.number, RowAction.REFUSE, key, faults)
    own = {name: value for name, value in row.cells.items() if name not in ("site", "heater") and value is not None}
    values = {"form": "", "where": "", **own, "site_id": site_id, "heater_id": heater.pk if heater else None}
    told = tuple(values[name] for name in _TELLS_APART)
    if told in known:
        return PlannedRow(row.number, RowAction.SAME, key)
    known.add(told)
    return PlannedRow(row.number, RowAction.CREATE, key, values=values)


def _faults(row: Row, site_id: int | None, heater: Heater | None) -> dict[str, str]:
    cells, spec = row.cells, BY_KIND[FeatureKind(row.cells["kind"])]
    faults = refused(spec, cells["condition"], cells.get("form") or "", bool(cells.get("do_not_operate")))
    tag = cells.get("heater")
    if site_id is None:
        faults["site"] = f"there is no site with the code {cells['site']}"
    elif tag and (heater is None or heater.site_id != site_id):
        faults["heater"] = f"there is no heater with the tag {tag} at this site"
    elif heater and HeaterKind(heater.kind) not in spec.of:
        faults["kind"] = f"a {spec.name} does not matter to this kind of heater"
    elif not heater and not spec.of_site:
        faults["heater"] = f"a {spec.name} belongs to a heater: say which"
    return faults


def apply(table: Table, planned: list[PlannedRow], progress: Progress = nothing, origin: Origin = NOBODY) -> None:
    """Append what was planned, in one transaction."""
    features = [Feature(**row.values) for row in planned if row.action is RowAction.CREATE]
    with transaction.atomic():
        features = Feature.objects.bulk_create(features, batch_size=BATCH)
        in_bulk.keep(Feature, [one.pk for one in features], in_bulk.ADDED, origin.by, origin.file)
        open_ends = [one for feature in features if (one := left_open(feature, origin.by)) is not None]
        open_ends = OpenEnd.objects.bulk_create(open_ends, batch_size=BATCH)
        in_bulk.keep(OpenEnd, [open_end.pk for open_end in open_ends], in_bulk.ADDED, origin.by, origin.file)
        statistics.refresh(Feature, OpenEnd)
    progress(len(features), len(features))


def lines(table: Table) -> Iterator[str]:
    """Everything that is there, as CSV in the columns that bring it in."""
    return table_lines([column.name for column in table.columns], _told(table))


def _told(table: Table) -> Iterator[dict[str, Cell]]:
    there = Feature.objects.filter(gone=False, site__archived_at__isnull=True).select_related("site", "heater")
    for feature in there.order_by("pk").iterator(chunk_size=BATCH):
        beside = {"site": feature.site.code, "heater": feature.heater.tag if feature.heater else None}
        yield {c.name: beside[c.name] if c.name in beside else getattr(feature, c.name) for c in table.columns}

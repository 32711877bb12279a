"""What else is told of sites, heaters, parts and features, from a file: one row a detail, as it is taken out."""

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.db.models import F

from aquifer.core import details
from aquifer.core.details import Detail, Value
from aquifer.core.kinds import HeaterKind
from aquifer.core.place import FeatureKind
from aquifer.customers.models import Site
from aquifer.formats.cells import BadCell, Cell, Column, Row, figure_in, text_up_to, word
from aquifer.formats.csv_table import table_lines
from aquifer.formats.sheet import Matched, Sheet, own_names, read_rows
from aquifer.heaters.models import Heater, Part
from aquifer.history import in_bulk
from aquifer.imports.models import RowAction
from aquifer.imports.origin import NOBODY, Origin
from aquifer.imports.plan import PlannedRow, Progress, nothing
from aquifer.imports.tables import Table
from aquifer.places.details import COLUMNS, exported
from aquifer.places.models import Feature

BATCH = 1000
SITE, HEATER, PART, FEATURE = "site", "heater", "part", "feature"


def details_table() -> Table:
    """The table's columns, in the order in which they are taken out."""
    readers = {
        "site": Column("site", text_up_to(40)),
        "heater": Column("heater", text_up_to(40)),
        "of": Column("of", word([SITE, HEATER, PART, FEATURE]), required=True),
        "kind": Column("kind", text_up_to(40)),
        "detail": Column("detail", text_up_to(40), required=True),
        "value": Column("value", text_up_to(200), required=True),
        "unit": Column("unit", text_up_to(20)),
    }
    return Table("details", Heater, "", [readers[name] for name in COLUMNS])


@dataclass(frozen=True)
class _Known:
    """The records that a file names."""

    sites: Mapping[str, Site]
    heaters: Mapping[str, Heater]
    parts: Mapping[tuple[int, str], Part]
    features: Mapping[tuple[int, int | None, str], list[Feature]]


@dataclass(frozen=True)
class _Place:
    """The record a row is of, and what can be told of such a one."""

    record: Site | Heater | Part | Feature
    told: tuple[Detail, ...]


def plan(
    table: Table, sheet: Sheet, matches: Mapping[str, Matched] | None = None, progress: Progress = nothing
) -> list[PlannedRow]:
    """Decide for every row what it would do. Raises: UnreadableTable if the file cannot be read as a whole."""
    rows = list(read_rows(sheet, table.columns, matches or own_names(sheet, table.columns)))
    known, seen = _known(rows), dict[tuple[str, ...], int]()
    planned = [_decide(row, known, seen) for row in rows]
    progress(len(rows), len(rows))
    return planned


def _known(rows: list[Row]) -> _Known:
    codes, tags = ({row.cells.get(name) for row in rows} - {None} for name in ("site", "heater"))
    heaters = {one.tag: one for one in Heater.objects.in_service().filter(tag__in=tags)}
    parts = Part.objects.filter(heater__in=heaters.values(), removed_on__isnull=True)
    at = {heater.site_id for heater in heaters.values()}
    sites = {one.code: one for one in Site.objects.filter(archived_at__isnull=True, code__in=codes)}
    features = defaultdict(list)
    for feature in Feature.objects.filter(gone=False, site__in={*at, *(site.pk for site in sites.values())}):
        features[feature.site_id, feature.heater_id, feature.kind].append(feature)
    return _Known(sites, heaters, {(part.heater_id, part.kind): part for part in parts}, features)


def _decide(row: Row, known: _Known, seen: dict[tuple[str, ...], int]) -> PlannedRow:
    cells = row.cells
    key = " ".join(str(cells.get(name) or "-") for name in ("heater", "site", "of", "kind", "detail"))
    faults = dict(row.faults)
    place = value = detail = None
    if not faults:
        try:
            place = _place(cells, known)
            detail = next((one for one in place.told if one.name == cells["detail"]), None)
            if detail is None:
                allowed = ", ".join(one.name for one in place.told) or "nothing"
                raise _Misplaced("detail", f"{cells['detail']!r} is not told of it; allowed: {allowed}")
            value = _value(detail, str(cells["value"]), str(cells.get("unit") or ""))
            first = seen.setdefault((type(place.record).__name__, str(place.record.pk), detail.name), row.number)
            if first != row.number:
                raise _Misplaced("detail", f"it stands already in row {first}")
        except _Misplaced as error:
            faults[error.column] = str(error)
    if faults or place is None or detail is None or value is None:
        return PlannedRow(row.number, RowAction.REFUSE, key, faults)
    before = place.record.details.get(detail.name)
    if before == value:
        return PlannedRow(row.number, RowAction.SAME, key)
    said = {detail.name: value if before is None else f"{before} → {value}"}
    of = {"record": place.record, "detail": detail.name, "value": value}
    return PlannedRow(row.number, RowAction.CHANGE, key, said, pk=place.record.pk, values=of)


class _Misplaced(ValueError):
    """A row that cannot be so, with the column that is wrong."""

    def __init__(self, column: str, says: str) -> None:
        super().__init__(says)
        self.column = column


def _place(cells: Mapping[str, Cell], known: _Known) -> _Place:
    of, kind = cells["of"], str(cells.get("kind") or "")
    heater, tag = known.heaters.get(cells.get("heater") or ""), cells.get("heater")
    site = known.sites.get(cells.get("site") or "")
    if tag and heater is None:
        raise _Misplaced("heater", f"there is no heater in service with the tag {tag}")
    if cells.get("site") and site is None:
        raise _Misplaced("site", f"there is no site with the code {cells['site']}")
    if heater and site and heater.site_id != site.pk:
        raise _Misplaced("heater", f"the heater {tag} does not stand at {site.code}")
    if of in (HEATER, PART):
        if heater is None:
            raise _Misplaced("heater", "needed: whose it is")
        return _of_heater(heater) if of == HEATER else _of_part(heater, kind, known)
    if of == FEATURE:
        return _of_feature(site, heater, kind, known)
    if site is None:
        raise _Misplaced("site", "needed: whose it is")
    return _Place(site, details.OF_SITE)


def _of_heater(heater: Heater) -> _Place:
    return _Place(heater, details.of_heater(HeaterKind(heater.kind)))


def _of_part(heater: Heater, kind: str, known: _Known) -> _Place:
    part = known.parts.get((heater.pk, kind))
    if part is None:
        there = ", ".join(sorted(part_kind for pk, part_kind in known.parts if pk == heater.pk)) or "none"
        raise _Misplaced("kind", f"{kind!r} is no part of it; in place are: {there}")
    return _Place(part, details.of_part(kind))


def _of_feature(site: Site | None, heater: Heater | None, kind: str, known: _Known) -> _Place:
    site_id = site.pk if site else heater.site_id if heater else None
    if site_id is None:
        raise _Misplaced("site", "needed: where it stands")
    there = known.features.get((site_id, heater.pk if heater else None, kind), [])
    if len(there) != 1:
        raise _Misplaced("kind", f"{len(there)} of {kind!r} are on record there; one is needed")
    return _Place(there[0], details.of_feature(FeatureKind(kind)))


def _value(detail: Detail, text: str, unit: str) -> Value:
    value: Value = text
    if detail.unit:
        try:
            value = figure_in(detail.unit, detail.low, detail.high)(f"{text} {unit}".strip())
        except BadCell as error:
            raise _Misplaced("value", str(error)) from None
    if why := detail.fault(value):
        raise _Misplaced("value", why)
    return value


def apply(table: Table, planned: list[PlannedRow], progress: Progress = nothing, origin: Origin = NOBODY) -> None:
    """Tell each record what the file says of it, in one transaction."""
    by_model: dict[type[Any], dict[int, dict[str, Value]]] = defaultdict(lambda: defaultdict(dict))
    for row in planned:
        if row.action is RowAction.CHANGE:
            by_model[type(row.values["record"])][row.record][row.values["detail"]] = row.values["value"]
    with transaction.atomic():
        for model, told in by_model.items():
            records = model._default_manager.select_for_update().in_bulk(list(told))
            for pk, record in records.items():
                record.details = {**record.details, **told[pk]}
            model._default_manager.bulk_update(records.values(), ["details"], batch_size=BATCH)
            in_bulk.keep(model, list(records), in_bulk.CHANGED, origin.by, origin.file)
            if hasattr(model, "version"):
                # An edit that somebody has open on one of these must notice.
                model._default_manager.filter(pk__in=list(records)).update(version=F("version") + 1)
    progress(len(planned), len(planned))


def lines(table: Table) -> Iterator[str]:
    """Every detail, as CSV in the columns that bring it in."""
    return table_lines([column.name for column in table.columns], exported())

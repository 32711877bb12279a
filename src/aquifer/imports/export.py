"""Records as the files that bring them in: the same columns, so that what is taken out can be mended and sent again."""

from collections.abc import Iterator, Sequence

from django.db.models import Model, QuerySet

from aquifer.formats.cells import Cell
from aquifer.formats.csv_table import table_lines
from aquifer.heaters.models import Heater, Part
from aquifer.imports.plan import PART_COLUMNS
from aquifer.imports.tables import Table

CHUNK = 2000


def lines(table: Table) -> Iterator[str]:
    """A kind of record as CSV, in pieces. Those in use: the archive of heaters stays where it is."""
    return table_lines([column.name for column in table.columns], _rows(table))


def _rows(table: Table) -> Iterator[dict[str, Cell]]:
    records: QuerySet[Model] = table.model._default_manager.all()
    if table.model is Heater:
        records = records.filter(pk__in=Heater.objects.in_service())
    elif hasattr(table.model, "archived_at"):
        records = records.filter(archived_at__isnull=True)
    relations = [name.removesuffix("_id") for name in (reference.field for reference in table.references.values())]
    records = records.select_related(*relations).order_by("pk")
    chunk: list[Model] = []
    for record in records.iterator(chunk_size=CHUNK):
        chunk.append(record)
        if len(chunk) == CHUNK:
            yield from _told(table, chunk)
            chunk = []
    yield from _told(table, chunk)


def _told(table: Table, records: Sequence[Model]) -> Iterator[dict[str, Cell]]:
    parts: dict[tuple[int, str], Part] = {}
    if table.model is Heater:
        in_place = Part.objects.filter(heater__in=[record.pk for record in records], removed_on__isnull=True)
        parts = {(part.heater_id, part.kind): part for part in in_place}
    for record in records:
        row: dict[str, Cell] = {}
        for column in table.columns:
            if column.name in table.references:
                reference = table.references[column.name]
                named = getattr(record, reference.field.removesuffix("_id"))
                row[column.name] = getattr(named, reference.code) if named else None
            elif column.name in table.beside:
                kind, name = PART_COLUMNS[column.name]
                row[column.name] = getattr(parts.get((record.pk, kind)), name, None)
            else:
                row[column.name] = getattr(record, column.name)
        yield row

"""Features from a table, one row a feature: how a place's record is brought in from outside."""

import datetime

from django.db import transaction

from aquifer.changes import in_bulk
from aquifer.core.place import BY_KIND, FEATURES, FeatureKind
from aquifer.customers.models import Site
from aquifer.formats.cells import Column, Row, day, text_up_to, word, yes_or_no
from aquifer.formats.csv_table import read_table
from aquifer.heaters.models import Heater
from aquifer.open_ends.models import OpenEnd
from aquifer.places.keep import left_open
from aquifer.places.models import Feature


class RefusedFeatures(ValueError):
    """Rows that cannot be so; nothing was written."""


def columns(today: datetime.date) -> list[Column]:
    """The columns of such a table."""
    forms = sorted({form for spec in FEATURES for form in spec.forms})
    return [
        Column("site", text_up_to(40), required=True),
        Column("heater", text_up_to(40)),
        Column("kind", word([kind.value for kind in FeatureKind]), required=True),
        Column("form", word(forms)),
        Column("condition", text_up_to(16), required=True),
        Column("where", text_up_to(120)),
        Column("do_not_operate", yes_or_no),
        Column("use_instead", text_up_to(120)),
        Column("note", text_up_to(240)),
        Column("seen_on", day(datetime.date(1950, 1, 1), today), required=True),
        Column("seen_by", text_up_to(80)),
    ]


def load(text: str, today: datetime.date) -> int:
    """Append the features of a table with the open ends they leave; returns how many.

    Raises: UnreadableTable, or RefusedFeatures naming row and column of the first faults.
    """
    rows = list(read_table(text, columns(today)))
    sites = {s.code: s.pk for s in Site.objects.filter(code__in={row.cells.get("site") for row in rows})}
    tags = {row.cells.get("heater") for row in rows} - {None}
    heaters = {h.tag: h.pk for h in Heater.objects.filter(tag__in=tags)}
    faults = [fault for row in rows for fault in _faults(row, sites, heaters)]
    if faults:
        raise RefusedFeatures("; ".join(faults[:5]))
    made = [
        Feature(
            site_id=sites[row.cells["site"]],
            heater_id=heaters.get(row.cells.get("heater") or ""),
            **{
                name: value for name, value in row.cells.items() if name not in ("site", "heater") and value is not None
            },
        )
        for row in rows
    ]
    with transaction.atomic():
        made = Feature.objects.bulk_create(made, batch_size=1000)
        in_bulk.keep(Feature, [one.pk for one in made], in_bulk.ADDED, file="a file")
        open_ends = [one for feature in made if (one := left_open(feature, None)) is not None]
        open_ends = OpenEnd.objects.bulk_create(open_ends, batch_size=1000)
        in_bulk.keep(OpenEnd, [one.pk for one in open_ends], in_bulk.ADDED, file="a file")
    return len(made)


def _faults(row: Row, sites: dict[str, int], heaters: dict[str, int]) -> list[str]:
    faults = dict(row.faults)
    if not faults:
        spec = BY_KIND[FeatureKind(row.cells["kind"])]
        try:
            spec.condition(row.cells["condition"])
        except ValueError as error:
            faults["condition"] = str(error)
        if row.cells["site"] not in sites:
            faults["site"] = f"there is no site with the code {row.cells['site']}"
        tag = row.cells.get("heater")
        if tag and tag not in heaters:
            faults["heater"] = f"there is no heater with the tag {tag}"
    return [f"row {row.number}, {name}: {fault}" for name, fault in faults.items()]

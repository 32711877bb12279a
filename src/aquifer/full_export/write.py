"""The whole base as one file: a zip archive of CSV tables, cases, maps, address cards, photographs and documents."""

import datetime
import hashlib
import json
import zipfile
from collections.abc import Callable, Iterable, Iterator
from typing import IO

import vobject
from django.core.files.storage import default_storage
from django.db.models import Prefetch

from aquifer.accounts.models import User
from aquifer.attachments.models import Attachment
from aquifer.company.models import Company
from aquifer.core.case import as_json
from aquifer.customers.models import Customer, Site
from aquifer.forecasts.export import case_of
from aquifer.formats.csv_table import lines_of_cells, table_lines
from aquifer.full_export.tables import PEOPLE, PEOPLE_COLUMNS, TABLES, BaseTable, held_words
from aquifer.heaters.models import Heater
from aquifer.water.models import Zone

FORMAT = "aquifer-base/1"
MANIFEST = "manifest.json"
Progress = Callable[[int, int], None]


def nothing(done: int, total: int) -> None:
    """For callers that show no progress."""


def write(target: IO[bytes], now: datetime.datetime, progress: Progress = nothing, cases: bool = True) -> None:
    """Write the base as it is; ``cases`` may be left out, which are the slow part of a large base."""
    parts: list[tuple[str, Iterable[bytes]]] = [(f"tables/{PEOPLE}.csv", _encoded(_people()))]
    parts += [(f"tables/{table.name}.csv", _encoded(_table(table))) for table in TABLES]
    parts += [("zones.geojson", _zones()), ("sites.geojson", _sites()), ("customers.vcf", _cards())]
    if cases:
        parts.append(("cases.jsonl", _cases(now.date())))
    if (logo := Company.current().logo) and default_storage.exists(logo):
        parts.append((logo, _stored(logo)))
    for attachment in Attachment.objects.order_by("pk"):
        parts += [(path, _stored(path)) for path in _paths(attachment) if default_storage.exists(path)]
    files: dict[str, dict[str, object]] = {}
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED, allowZip64=True) as archive:
        for done, (name, pieces) in enumerate(parts):
            if name not in files:
                files[name] = _add(archive, name, pieces)
            progress(done + 1, len(parts))
        manifest = {"format": FORMAT, "made_at": now.isoformat(), "files": files}
        archive.writestr(MANIFEST, json.dumps(manifest, indent=1))


def _add(archive: zipfile.ZipFile, name: str, pieces: Iterable[bytes]) -> dict[str, object]:
    digest, size = hashlib.sha256(), 0
    with archive.open(name, "w", force_zip64=True) as out:
        for piece in pieces:
            out.write(piece)
            digest.update(piece)
            size += len(piece)
    return {"bytes": size, "sha256": digest.hexdigest()}


def _encoded(lines: Iterable[str]) -> Iterator[bytes]:
    return (line.encode() for line in lines)


def _people() -> Iterator[str]:
    people = User.objects.order_by("pk").values(*PEOPLE_COLUMNS, "licence_ends")
    return table_lines(
        list(PEOPLE_COLUMNS),
        ({**person, "licences": held_words(person["licences"], person["licence_ends"])} for person in people),
    )


def _table(table: BaseTable) -> Iterator[str]:
    records = table.model._base_manager.order_by("pk").iterator(chunk_size=2000)
    return lines_of_cells(table.columns, (list(table.cells(record).values()) for record in records))


def _zones() -> Iterator[bytes]:
    """Source: GeoJSON, RFC 7946."""
    return _collection(
        {
            "type": "Feature",
            "id": zone.code,
            "geometry": {"type": "Polygon", "coordinates": [_closed(zone.outline)]} if zone.outline else None,
            "properties": {"code": zone.code, "name": zone.name, "supply": zone.supply},
        }
        for zone in Zone.objects.order_by("code")
    )


def _closed(ring: list[list[float]]) -> list[list[float]]:
    return ring if ring[0] == ring[-1] else [*ring, ring[0]]


def _sites() -> Iterator[bytes]:
    placed = Site.objects.filter(longitude__isnull=False, latitude__isnull=False).select_related("zone")
    return _collection(
        {
            "type": "Feature",
            "id": site.code,
            "geometry": {"type": "Point", "coordinates": [site.longitude, site.latitude]},
            "properties": {"code": site.code, "name": site.name, "street": site.street, "zone": site.zone.code},
        }
        for site in placed.order_by("code").iterator(chunk_size=2000)
    )


def _collection(features: Iterable[dict[str, object]]) -> Iterator[bytes]:
    yield b'{"type": "FeatureCollection", "features": ['
    for at, feature in enumerate(features):
        yield (b",\n" if at else b"\n") + json.dumps(feature, ensure_ascii=False).encode()
    yield b"\n]}\n"


def _cards() -> Iterator[bytes]:
    """Source: vCard, RFC 6350 and its forerunner."""
    in_order = Prefetch("sites", Site.objects.order_by("code"))
    for customer in (
        Customer.objects.filter(archived_at=None).order_by("code").prefetch_related(in_order).iterator(1000)
    ):
        card = vobject.vCard()
        card.add("uid").value = customer.code
        card.add("fn").value = customer.name
        card.add("n").value = vobject.vcard.Name(family=customer.name)
        if customer.phone:
            card.add("tel").value = customer.phone
        if customer.email:
            card.add("email").value = customer.email
        for site in customer.sites.all():
            card.add("adr").value = vobject.vcard.Address(
                street=site.street, city=site.town, region=site.state, code=site.postcode
            )
        yield card.serialize().encode()


def _cases(today: datetime.date) -> Iterator[bytes]:
    """One case a line, as ``aquifer forecast --lines`` takes them."""
    heaters = Heater.objects.in_service().select_related("site__zone").order_by("pk")
    for heater in heaters.iterator(chunk_size=500):
        yield (as_json(case_of(heater, today)).replace("\n", " ") + "\n").encode()


def _paths(attachment: Attachment) -> list[str]:
    return [attachment.path, attachment.small_path] if attachment.width else [attachment.path]


def _stored(path: str) -> Iterator[bytes]:
    with default_storage.open(path) as file:
        yield from file.chunks()

"""Everything that is kept of one customer, for who asks what it is: tables, photographs and documents in an archive."""

import zipfile
from collections import deque
from collections.abc import Iterator
from typing import IO

from django.core.files.storage import default_storage
from django.db.models import Model, QuerySet

from aquifer.attachments.models import Attachment
from aquifer.customers.models import Customer
from aquifer.formats.csv_table import lines_of_cells
from aquifer.full_export.tables import TABLES, BaseTable


def path_to_customer(model: type[Model]) -> str | None:
    """By which relations a record belongs to a customer, as a filter names them; the shortest. None if it does not."""
    waiting: deque[tuple[type[Model], tuple[str, ...]]] = deque([(model, ())])
    seen = {model}
    while waiting:
        here, path = waiting.popleft()
        if here is Customer:
            return "__".join(path) or "pk"
        for field in here._meta.concrete_fields:
            other = field.related_model
            if isinstance(other, type) and other not in seen:
                seen.add(other)
                waiting.append((other, (*path, field.name)))
    return None


def tables(customer: Customer) -> Iterator[tuple[BaseTable, "QuerySet[Model]"]]:
    """Each table in which there is something of the customer, with its rows, and how these were before."""
    kept: dict[type[Model], list[int]] = {}
    for table in TABLES:
        before = getattr(table.model, "instance_type", None)
        if before is not None:
            if ids := kept.get(before):
                yield table, table.model._default_manager.filter(id__in=ids).order_by("history_id")
        elif path := path_to_customer(table.model):
            rows = table.model._base_manager.filter(**{path: customer.pk}).order_by("pk")
            kept[table.model] = list(rows.values_list("pk", flat=True))
            yield table, rows


def write(target: IO[bytes], customer: Customer) -> None:
    """Write the archive; tables of which there is nothing are left out."""
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as archive:
        for table, rows in tables(customer):
            if rows.exists():
                cells = (list(table.cells(record).values()) for record in rows)
                archive.writestr(f"{table.name}.csv", "".join(lines_of_cells(table.columns, cells)))
        for attachment in Attachment.objects.filter(site__customer=customer).order_by("pk"):
            if default_storage.exists(attachment.path):
                with default_storage.open(attachment.path) as file:
                    archive.writestr(
                        f"files/{attachment.kind}-{attachment.pk}{attachment.path[attachment.path.rfind('.') :]}",
                        file.read(),
                    )

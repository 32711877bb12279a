"""Rows that there were before their history was kept: what they are now is the first that is known of them."""

import uuid

from django.db import migrations
from django.db.backends.base.schema import BaseDatabaseSchemaEditor
from django.db.migrations.state import StateApps
from django.utils import timezone


def with_what_there_is(app: str, model: str) -> migrations.RunPython:
    """An operation that writes the present state of every row of a model into its history, as known from now on."""

    def write(apps: StateApps, editor: BaseDatabaseSchemaEditor) -> None:
        own, past = apps.get_model(app, model), apps.get_model(app, f"Historical{model}")
        kept = {field.attname for field in past._meta.concrete_fields}
        names = [field.attname for field in own._meta.concrete_fields if field.attname in kept]
        change, now = uuid.uuid4(), timezone.now()
        past.objects.bulk_create(
            past(history_date=now, history_type="+", change=change, **row) for row in own.objects.values(*names)
        )

    return migrations.RunPython(write, migrations.RunPython.noop)

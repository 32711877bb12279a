"""Answers that were kept are of an older shape: they are reckoned anew by the next night."""

from django.apps.registry import Apps
from django.db import migrations
from django.db.backends.base.schema import BaseDatabaseSchemaEditor


def drop(apps: Apps, schema_editor: BaseDatabaseSchemaEditor) -> None:
    apps.get_model("review", "KeptFigures").objects.all().delete()


class Migration(migrations.Migration):
    dependencies = [("review", "0001_initial")]

    operations = [migrations.RunPython(drop, migrations.RunPython.noop)]

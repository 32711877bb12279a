"""What a new heater costs over what a leak does, of the prices on record."""

from django.apps.registry import Apps
from django.db import migrations
from django.db.backends.base.schema import BaseDatabaseSchemaEditor


def weigh(apps: Apps, schema_editor: BaseDatabaseSchemaEditor) -> None:
    settings = apps.get_model("money", "MoneySettings").objects.filter(pk=1).first()
    price = apps.get_model("money", "Price").objects.filter(key="heater").first()
    if settings is not None and price is not None and settings.leak_damage > 0 and price.price > 0:
        told = round(float(price.price) / float(settings.leak_damage), 3)
        apps.get_model("company", "Company").objects.filter(pk=1).update(heater_over_leak=told)


class Migration(migrations.Migration):
    dependencies = [
        ("company", "0011_what_a_leak_costs"),
        ("money", "0004_leak_damage"),
    ]

    operations = [migrations.RunPython(weigh, migrations.RunPython.noop)]

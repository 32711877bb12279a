"""Parts on trucks are named by figures with their quantity, so that they can be told in the company's units."""

import re

from django.db import migrations

LITRES_A_JUG = 4.0


def named(part):
    part = re.sub(r"(\d+) kPa", r"{pressure_kpa:\1}", part)
    part = re.sub(r"(\d+) mm", r"{length_mm:\1}", part)
    return re.sub(r"(\d+) L$", r"{small_volume_l:\1}", part)


def rename(apps, schema_editor):
    for held in apps.get_model("stock", "Held").objects.all():
        if held.part == "descaler, litres":
            held.part, held.quantity = "descaler, jug of {volume_l:4}", held.quantity / LITRES_A_JUG
        else:
            held.part = named(held.part)
        held.save()


class Migration(migrations.Migration):
    dependencies = [("stock", "0001_initial")]
    operations = [migrations.RunPython(rename, migrations.RunPython.noop)]

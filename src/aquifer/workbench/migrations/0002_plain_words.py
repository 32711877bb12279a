"""A way that a step goes is a deviation, in what was practised, too."""

from django.db import migrations

RENAME = "UPDATE workbench_practised SET acts = replace(acts::text, '\"{0}\"', '\"{1}\"')::jsonb"


class Migration(migrations.Migration):
    dependencies = [("workbench", "0001_initial")]
    operations = [
        migrations.RunSQL(RENAME.format("otherwise", "deviation"), RENAME.format("deviation", "otherwise"))
    ]

"""What a company follows where practitioners differ are options of practice questions."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("company", "0008_level_hours")]
    operations = [
        migrations.RenameField("company", "schools", "practice_options"),
        migrations.RenameField("historicalcompany", "schools", "practice_options"),
    ]

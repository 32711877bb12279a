"""A visit from its first step on is a visit session."""

import django.db.models.deletion
from django.db import migrations, models

KINDS = [
    ("done", "done"), ("skipped", "left out"), ("deviation", "went another way"), ("override", "done over a hold"),
    ("undo", "undone"), ("answered", "answered"), ("asked", "asked the lead"), ("advised", "the lead's answer"),
    ("set_aside", "set aside"), ("settled", "took the way out of a hold"), ("outside", "happened from outside"),
    ("found", "found besides"), ("took_over", "led from another device"), ("noted", "a note"),
]  # fmt: skip


class Migration(migrations.Migration):
    dependencies = [("visits", "0015_amended_dates"), ("heaters", "__first__")]
    operations = [
        migrations.RemoveIndex("event", "visits_even_begun_i_8b1789_idx"),
        migrations.RenameModel("Begun", "VisitSession"),
        migrations.RenameField("event", "begun", "session"),
        migrations.AddIndex(
            "event", models.Index(fields=["session", "id"], name="visits_even_session_1be5d4_idx")
        ),
        migrations.RenameIndex(
            "visitsession", new_name="visits_visi_heater__663ee1_idx", old_name="visits_begu_heater__05d119_idx"
        ),
        migrations.AlterField(
            "visitsession",
            "heater",
            models.ForeignKey(
                on_delete=django.db.models.deletion.PROTECT, related_name="visit_sessions", to="heaters.heater"
            ),
        ),
        migrations.AlterField(
            "visitsession",
            "visit",
            models.OneToOneField(
                blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name="session",
                to="visits.visit",
            ),
        ),  # fmt: skip
        migrations.AlterField("event", "kind", models.CharField(choices=KINDS, max_length=10)),
    ]

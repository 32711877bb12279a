import django.utils.timezone
from django.db import migrations, models

REASONS = [
    ("due", "its service is due"),
    ("call_back", "call-back"),
    ("complaint", "complaint"),
    ("emergency", "emergency"),
    ("installation", "installation"),
    ("estimate", "estimate"),
    ("warranty", "warranty"),
    ("wish", "asked for by the customer"),
]


def told_apart(apps, editor):
    """What whoever rang said, and who decides, stood in one note behind the word."""
    for name in ("Appointment", "HistoricalAppointment"):
        model = apps.get_model("rounds", name)
        for one in model.objects.filter(emergency=True).iterator():
            said = [words for words in one.note.split("; ") if words and words != "emergency"]
            decides = [words.removeprefix("decides: ") for words in said if words.startswith("decides: ")]
            said = [words for words in said if not words.startswith("decides: ")]
            key = "history_id" if name.startswith("Hist") else "pk"
            model.objects.filter(**{key: getattr(one, key)}).update(
                reason="emergency", said="; ".join(said), decides="; ".join(decides)[:120], note=""
            )


def fields(name):
    added = {
        "reason": models.CharField(choices=REASONS, default="due", max_length=12),
        "asked_minutes": models.PositiveSmallIntegerField(
            default=0, help_text="Of its minutes, those for what was asked; the rest is for services that are due."
        ),
        "said": models.CharField(blank=True, help_text="What whoever rang said.", max_length=240),
        "decides": models.CharField(blank=True, help_text="Who may approve more work, how reached.", max_length=120),
        "why": models.CharField(
            blank=True, help_text="Told to the customer where their time is changed.", max_length=160
        ),
    }
    return [migrations.AddField(name, field, of) for field, of in added.items()]


class Migration(migrations.Migration):
    dependencies = [("rounds", "0005_emergency")]

    operations = [
        *fields("appointment"),
        *fields("historicalappointment"),
        migrations.AddField(
            "appointment",
            "changed_at",
            models.DateTimeField(auto_now=True, default=django.utils.timezone.now),
            preserve_default=False,
        ),
        migrations.AddField(
            "historicalappointment",
            "changed_at",
            models.DateTimeField(blank=True, editable=False, default=django.utils.timezone.now),
            preserve_default=False,
        ),
        migrations.RunPython(told_apart, migrations.RunPython.noop),
        migrations.RemoveField("appointment", "emergency"),
        migrations.RemoveField("historicalappointment", "emergency"),
        migrations.AddConstraint(
            "appointment",
            models.CheckConstraint(
                condition=models.Q(("reason__in", [name for name, _ in REASONS])), name="appointment_reason_is_known"
            ),
        ),
    ]

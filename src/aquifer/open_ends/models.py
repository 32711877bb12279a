"""What is not in order and stays on a list until it is closed."""

from typing import ClassVar

from django.conf import settings
from django.db import models
from django.db.models import Case, Q, Value, When

from aquifer.choices import choices
from aquifer.core.place import Severity
from aquifer.history.marks import kept_history


class OpenEndKind(models.TextChoices):
    DEFECT = "defect", "defect"
    TEMPORARY_FIX = "temporary_fix", "temporary fix"
    MISSING_PART = "missing_part", "missing part"
    DOUBTFUL_PART = "doubtful_part", "part of a doubtful build"
    TO_ASK = "to_ask", "to be asked"


class OpenEndState(models.TextChoices):
    OPEN = "open", "open"
    ARRANGED = "arranged", "arranged"
    CLOSED = "closed", "closed"


WORST_FIRST = (
    Case(
        *(When(severity=severity, then=Value(-at)) for at, severity in enumerate(Severity)),
        output_field=models.IntegerField(),
    ),
    "raised_on",
    "id",
)
"""Order of a list of open ends."""


class Campaign(models.Model):
    """A build of a part that is in doubt: how it is told apart, and which heaters may have it."""

    name = models.CharField(max_length=120)
    part = models.CharField(max_length=60, help_text="Which part: relief valve, mixing valve, burner.")
    maker = models.CharField(max_length=80, blank=True, help_text="Of the heaters that may have it.")
    model = models.CharField(max_length=80, blank=True, help_text="Only these models; empty is all of the maker.")
    part_kind = models.CharField(max_length=20, blank=True, help_text="Kind of the part on record.")
    build = models.CharField(max_length=80, blank=True, help_text="Only heaters whose part in place is of this build.")
    installed_from = models.DateField(null=True, blank=True)
    installed_until = models.DateField(null=True, blank=True)
    doubtful_look = models.CharField(max_length=240, help_text="How the doubtful build looks.")
    sound_look = models.CharField(max_length=240, blank=True, help_text="How the improved one looks.")
    severity = models.CharField(max_length=8, choices=choices(Severity), default=Severity.DEFECT)
    closed = models.BooleanField(default=False)
    history = kept_history()

    class Meta:
        ordering: ClassVar = ["name"]
        constraints: ClassVar = [models.UniqueConstraint(fields=["name"], name="campaign_name_is_its_own")]

    def __str__(self) -> str:
        return self.name


class OpenEnd(models.Model):
    site = models.ForeignKey("customers.Site", on_delete=models.PROTECT, related_name="open_ends")
    heater = models.ForeignKey(
        "heaters.Heater", null=True, blank=True, on_delete=models.PROTECT, related_name="open_ends"
    )
    feature = models.ForeignKey(
        "places.Feature", null=True, blank=True, on_delete=models.PROTECT, related_name="open_ends"
    )
    campaign = models.ForeignKey(Campaign, null=True, blank=True, on_delete=models.PROTECT, related_name="open_ends")
    kind = models.CharField(max_length=16, choices=OpenEndKind.choices, default=OpenEndKind.DEFECT)
    severity = models.CharField(max_length=8, choices=choices(Severity), default=Severity.DEFECT)
    words = models.CharField(max_length=400)
    state = models.CharField(max_length=10, choices=OpenEndState.choices, default=OpenEndState.OPEN)
    raised_on = models.DateField()
    raised_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, blank=True, on_delete=models.PROTECT)
    promised_on = models.DateField(null=True, blank=True, help_text="The customer was told that we are back by then.")
    observation = models.CharField(
        max_length=60, blank=True, help_text="What was not right; the look that finds it right again closes it."
    )
    visit_client_id = models.UUIDField(null=True, blank=True, help_text="At which it was raised.")
    closed_on = models.DateField(null=True, blank=True)
    how_closed = models.CharField(max_length=240, blank=True)
    history = kept_history()

    class Meta:
        indexes: ClassVar = [
            models.Index(fields=["state", "severity", "raised_on"]),
            models.Index(*WORST_FIRST, name="open_end_worst_first", condition=~Q(state="closed")),
        ]
        constraints: ClassVar = [
            models.CheckConstraint(
                condition=Q(state=OpenEndState.CLOSED, closed_on__isnull=False)
                | (~Q(state=OpenEndState.CLOSED) & Q(closed_on__isnull=True)),
                name="open_end_closed_has_a_day",
            ),
            models.UniqueConstraint(
                fields=["feature"],
                condition=~Q(state="closed"),
                name="open_end_one_a_feature",
            ),
            models.UniqueConstraint(fields=["campaign", "heater"], name="open_end_one_a_campaign"),
            models.UniqueConstraint(
                fields=["heater", "observation"],
                condition=~Q(state="closed") & ~Q(observation=""),
                name="open_end_one_an_observation",
            ),
        ]

    def __str__(self) -> str:
        return self.words

"""Projections: the base lived forward under some decisions, kept as they were told, so that they can be held against
what came."""

from typing import ClassVar

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models import Q

from aquifer.core.ahead.luck import LONGEST_YEARS


class ProjectionState(models.TextChoices):
    WORKING = "working", "being reckoned"
    READY = "ready", "ready"
    FAILED = "failed", "failed"


class Projection(models.Model):
    name = models.CharField(max_length=80, blank=True, help_text="Empty: as the company is.")
    asked_on = models.DateField(help_text="From which day on its years run.")
    asked_at = models.DateTimeField(auto_now_add=True)
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    years = models.PositiveSmallIntegerField(validators=[MinValueValidator(1), MaxValueValidator(LONGEST_YEARS)])
    decisions = models.JSONField(default=list, blank=True, help_text="What is tried, as it was asked for.")
    state = models.CharField(max_length=8, choices=ProjectionState.choices, default=ProjectionState.WORKING)
    error = models.CharField(max_length=300, blank=True)
    found = models.JSONField(null=True, blank=True, help_text="What its futures come to, as it was told.")

    class Meta:
        ordering: ClassVar = ["-asked_on", "-pk"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(state__in=ProjectionState.values), name="projection_state_is_known"),
            models.CheckConstraint(
                condition=Q(years__gte=1, years__lte=LONGEST_YEARS), name="projection_years_in_range"
            ),
        ]

    def __str__(self) -> str:
        return self.name or f"as it is, {self.asked_on}"


class MonthsAhead(models.Model):
    """Calls and work by the month, as they were carried on that day."""

    reckoned_on = models.DateField(unique=True)
    found = models.JSONField(help_text="By kind: what had come, and the windows of what comes.")

    class Meta:
        ordering: ClassVar = ["-reckoned_on"]

    def __str__(self) -> str:
        return f"months ahead, {self.reckoned_on}"


class ProjectionPart(models.Model):
    """Some waters of the base: parts may be lived by any number of workers; dropped once they are added up."""

    projection = models.ForeignKey(Projection, on_delete=models.CASCADE, related_name="parts")
    number = models.PositiveIntegerField()
    zones = ArrayField(models.BigIntegerField())
    of_list = models.ForeignKey(
        "imports.ImportRun", null=True, on_delete=models.CASCADE, related_name="+",
        help_text="Instead of waters: the heaters of a list that is not brought in.",
    )  # fmt: skip
    found = models.JSONField(null=True, blank=True)

    class Meta:
        ordering: ClassVar = ["number"]
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["projection", "number"], name="projection_part_once"),
        ]

    def __str__(self) -> str:
        return f"{self.projection_id}/{self.number}"

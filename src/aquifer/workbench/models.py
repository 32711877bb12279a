"""What was practised, by whom, and how it went. No heater of anybody's is in it."""

from typing import ClassVar

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models import Q

from aquifer.choices import choices
from aquifer.core.vocabulary import Component
from aquifer.history.marks import kept_history


class Asked(models.Model):
    """What the company asks for before somebody is signed off for some work."""

    work = models.CharField(max_length=16, unique=True, choices=choices(Component))
    passes = models.PositiveSmallIntegerField(help_text="Practices passed without the guide.")
    visits = models.PositiveSmallIntegerField(help_text="Visits at which it was done under supervision.")

    history = kept_history()

    class Meta:
        verbose_name_plural = "asked"

    def __str__(self) -> str:
        return self.work


class Practised(models.Model):
    """One practice that somebody ended: what was done, second by second, and its grade."""

    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="practised")
    scenario = models.CharField(max_length=60)
    seed = models.PositiveIntegerField()
    guided = models.BooleanField(default=False)
    at = models.DateTimeField(auto_now_add=True)
    seconds = models.PositiveIntegerField(help_text="How long it took at the heater.")
    share = models.FloatField(
        validators=[MinValueValidator(0), MaxValueValidator(1)], help_text="Of the marks that were good."
    )
    passed = models.BooleanField()
    looked_inside = models.BooleanField(default=False, help_text="The tank was cut open meanwhile.")
    harms = ArrayField(models.CharField(max_length=40), default=list, blank=True)
    acts = models.JSONField(default=list, blank=True)

    class Meta:
        ordering: ClassVar = ["-at", "-pk"]
        verbose_name_plural = "practised"
        indexes: ClassVar = [models.Index(fields=["by", "scenario"])]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(share__gte=0, share__lte=1), name="practised_share_is_a_share")
        ]

    def __str__(self) -> str:
        return f"{self.scenario} by {self.by}"


class Written(models.Model):
    """A heater to practise on, or a complaint to look into, that the company wrote itself."""

    name = models.CharField(max_length=60, unique=True, help_text="Of its table.")
    text = models.TextField(help_text="As TOML, one table.")
    is_trouble = models.BooleanField(help_text="A complaint with a fault; else a whole visit.")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering: ClassVar = ["name"]
        verbose_name_plural = "written"

    def __str__(self) -> str:
        return self.name

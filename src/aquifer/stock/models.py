"""What lies on the trucks and in the store."""

from typing import ClassVar

from django.conf import settings
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models import Q

from aquifer.core.planning.parts import SERVICE_LEVEL
from aquifer.history.marks import kept_history


class Held(models.Model):
    """How many of a part somebody carries; nobody's are in the store."""

    part = models.CharField(max_length=80)
    member = models.ForeignKey(
        "rounds.CrewMember", null=True, blank=True, on_delete=models.CASCADE, related_name="held"
    )
    quantity = models.FloatField(default=0, validators=[MinValueValidator(0)])

    class Meta:
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["part", "member"], nulls_distinct=False, name="held_once"),
            models.CheckConstraint(condition=Q(quantity__gte=0), name="held_is_not_negative"),
        ]

    def __str__(self) -> str:
        return f"{self.quantity:g} {self.part}"


class StockSettings(models.Model):
    """One row: how sure the company wants to be."""

    service_level = models.FloatField(
        default=SERVICE_LEVEL, validators=[MinValueValidator(0.5), MaxValueValidator(0.999)]
    )

    history = kept_history()

    class Meta:
        verbose_name_plural = "stock settings"
        constraints: ClassVar = [models.CheckConstraint(condition=Q(pk=1), name="stock_settings_are_one")]

    def __str__(self) -> str:
        return f"{self.service_level:.0%}"

    @classmethod
    def current(cls) -> "StockSettings":
        """This installation's."""
        return cls.objects.get_or_create(pk=1)[0]


class Moved(models.Model):
    """Parts that came in, or went from one place to another; nobody's place is the store."""

    at = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    part = models.CharField(max_length=80)
    quantity = models.FloatField(validators=[MinValueValidator(0)])
    received = models.BooleanField(default=False, help_text="They came from a supplier, from no place of ours.")
    source = models.ForeignKey(
        "rounds.CrewMember",
        null=True,
        blank=True,
        on_delete=models.SET_NULL,
        related_name="+",
        help_text="Whose truck.",
    )
    target = models.ForeignKey(
        "rounds.CrewMember",
        null=True,
        blank=True,
        on_delete=models.SET_NULL,
        related_name="+",
        help_text="Whose truck.",
    )
    client_id = models.UUIDField(unique=True, help_text="Sent twice by a device, it is one.")

    class Meta:
        ordering: ClassVar = ["-at", "-pk"]
        constraints: ClassVar = [models.CheckConstraint(condition=Q(quantity__gt=0), name="moved_is_some")]

    def __str__(self) -> str:
        return f"{self.quantity:g} {self.part}"

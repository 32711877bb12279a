"""The company's settings: how it measures, and the practice it follows."""

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from aquifer.core import policy
from aquifer.core.units import HardnessUnit, System
from aquifer.core.vocabulary import FlushMethod, Practice


def choices(kind: type) -> list[tuple[str, str]]:
    """An enumeration of the core as choices of a column."""
    return [(member.value, member.value.replace("_", " ")) for member in kind]


class Company(models.Model):
    """One row: one company an installation."""

    name = models.CharField(max_length=120, default="Our company")
    units = models.CharField(max_length=8, choices=choices(System), default=System.METRIC)
    hardness_unit = models.CharField(max_length=8, choices=choices(HardnessUnit), default=HardnessUnit.MG_L)
    practice = models.CharField(max_length=24, choices=choices(Practice), default=Practice.CONDITION)
    flush_method = models.CharField(max_length=20, choices=choices(FlushMethod), default=FlushMethod.DRAIN_AND_PULSE)
    tolerance = models.FloatField(
        default=policy.DEFAULT_TOLERANCE, validators=[MinValueValidator(0.01), MaxValueValidator(0.99)]
    )
    longest_flush_months = models.PositiveSmallIntegerField(
        default=policy.DEFAULT_LONGEST_FLUSH_MONTHS, validators=[MinValueValidator(3), MaxValueValidator(240)]
    )
    relief_valve_target = models.FloatField(
        default=policy.DEFAULT_VALVE_TARGET, validators=[MinValueValidator(0.0005), MaxValueValidator(0.5)]
    )
    never_flushed_cutoff_years = models.FloatField(
        default=policy.NEVER_FLUSHED_CUTOFF_YEARS, validators=[MinValueValidator(0), MaxValueValidator(100)]
    )

    class Meta:
        verbose_name_plural = "company"
        constraints = [
            models.CheckConstraint(condition=models.Q(pk=1), name="company_is_one"),
            models.CheckConstraint(
                condition=models.Q(tolerance__gte=0.01, tolerance__lte=0.99), name="company_tolerance_in_range"
            ),
        ]

    def __str__(self) -> str:
        return self.name

    @classmethod
    def current(cls) -> "Company":
        """The company of this installation, with defaults until somebody sets them."""
        return cls.objects.get_or_create(pk=1)[0]

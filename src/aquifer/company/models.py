"""The company's settings: how it measures, and the practice it follows."""

import datetime
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from enum import StrEnum
from zoneinfo import available_timezones

from django.contrib.postgres.fields import ArrayField
from django.core.exceptions import ValidationError
from django.core.validators import MaxValueValidator, MinValueValidator, URLValidator
from django.db import DEFAULT_DB_ALIAS, models
from django.db.models.base import ModelBase

from aquifer.accounts.models import Role
from aquifer.choices import choices
from aquifer.core import policy
from aquifer.core.bounds import bound
from aquifer.core.judgement import rules
from aquifer.core.planning.level import UNEVEN_HOURS
from aquifer.core.planning.season import WORTH_HOURS
from aquifer.core.procedures.library import practices_followed
from aquifer.core.units import HardnessUnit, System
from aquifer.core.vocabulary import FlushMethod, Practice
from aquifer.history.marks import kept_history
from aquifer.prepared import Prepared


def _validators(name: str) -> list[MinValueValidator | MaxValueValidator]:
    one = bound(name)
    return [MinValueValidator(one.low), MaxValueValidator(one.high)]


def check_practice_options(value: Mapping[str, str]) -> None:
    """A company's sides must be ones that the tables know."""
    try:
        rules.followed(value)
    except ValueError as error:
        raise ValidationError(str(error)) from None


def check_step_practices(value: Mapping[str, str]) -> None:
    """A company's ways of doing a step must be ones that the procedures know."""
    try:
        practices_followed(value)
    except ValueError as error:
        raise ValidationError(str(error)) from None


class Clock(StrEnum):
    """How a time of the day is told."""

    TWENTY_FOUR = "24"
    TWELVE = "12"


class WeekStart(StrEnum):
    """The day on which a company's weeks begin."""

    MONDAY = "monday"
    SATURDAY = "saturday"
    SUNDAY = "sunday"

    @property
    def weekday(self) -> int:
        """As a date numbers it, from Monday's 0."""
        return {WeekStart.MONDAY: 0, WeekStart.SATURDAY: 5, WeekStart.SUNDAY: 6}[self]

    def week_of(self, day: datetime.date) -> datetime.date:
        """The first day of a day's week."""
        return day - datetime.timedelta(days=(day.weekday() - self.weekday) % 7)


class Company(models.Model):
    """One row: one company an installation."""

    name = models.CharField(max_length=120, default="Our company")
    units = models.CharField(max_length=8, choices=choices(System), default=System.METRIC)
    hardness_unit = models.CharField(max_length=8, choices=choices(HardnessUnit), default=HardnessUnit.MG_L)
    practice = models.CharField(max_length=24, choices=choices(Practice), default=policy.DEFAULTS.practice)
    flush_method = models.CharField(max_length=20, choices=choices(FlushMethod), default=policy.DEFAULTS.flush_method)
    tolerance = models.FloatField(default=policy.DEFAULTS.tolerance, validators=_validators("practice.tolerance"))
    longest_flush_months = models.PositiveSmallIntegerField(
        default=policy.DEFAULTS.longest_flush_months, validators=_validators("practice.longest_flush_months")
    )
    relief_valve_target = models.FloatField(
        default=policy.DEFAULTS.valve_target, validators=_validators("practice.relief_valve_target")
    )
    never_flushed_cutoff_years = models.FloatField(
        default=policy.DEFAULTS.never_flushed_cutoff_years,
        validators=_validators("practice.never_flushed_cutoff_years"),
    )
    heater_over_leak = models.FloatField(
        null=True, blank=True, editable=False,
        help_text="What a new heater costs over what a leak into finished rooms does; empty: not priced.",
    )  # fmt: skip
    first_round_weeks = models.PositiveSmallIntegerField(
        default=8, validators=_validators("practice.first_round_weeks"),
        help_text="Within which relief valves and expansion tanks of a base that was taken over are seen.",
    )  # fmt: skip
    time_zone = models.CharField(
        max_length=60, default="", blank=True, help_text="By which days are told; empty is the server's."
    )
    yard = models.CharField(max_length=160, default="", blank=True, help_text="Address at which days begin.")
    yard_longitude = models.FloatField(null=True, blank=True, validators=_validators("place.longitude"))
    yard_latitude = models.FloatField(null=True, blank=True, validators=_validators("place.latitude"))
    phone = models.CharField(max_length=40, default="", blank=True, help_text="By which customers reach the office.")
    public_address = models.CharField(
        max_length=200, default="", blank=True, validators=[URLValidator(schemes=["http", "https"])],
        help_text="Under which customers open the links we write; empty is the server's setting.",
    )  # fmt: skip
    logo = models.CharField(max_length=100, default="", blank=True, editable=False, help_text="Its file.")
    clock = models.CharField(max_length=2, choices=choices(Clock), default=Clock.TWENTY_FOUR)
    week_start = models.CharField(max_length=8, choices=choices(WeekStart), default=WeekStart.MONDAY)
    quiet_from = models.PositiveSmallIntegerField(
        default=20 * 60, validators=[MaxValueValidator(1439)], help_text="Nobody is written to from here, in minutes.",
    )  # fmt: skip
    quiet_until = models.PositiveSmallIntegerField(default=8 * 60, validators=[MaxValueValidator(1439)])
    remind_days = models.PositiveSmallIntegerField(
        default=2,
        validators=[MaxValueValidator(int(bound("messages.remind_days").high))],
        help_text="Before a promised visit; 0 reminds nobody.",
    )
    worth_hours = models.FloatField(
        default=WORTH_HOURS,
        validators=_validators("practice.worth_hours"),
        help_text="What a year of one heater over its limit is worth, in hours of work.",
    )
    level_hours = models.FloatField(
        default=UNEVEN_HOURS,
        validators=_validators("practice.level_hours"),
        help_text="What an hour over the mean of next year's weeks costs, in hours of work; 0 lets weeks crowd.",
    )
    practice_options = ArrayField(
        models.CharField(max_length=40),
        default=list,
        blank=True,
        validators=[check_practice_options],
        help_text="Sides taken where practitioners differ; empty is the usual side of each.",
    )

    step_practices = models.JSONField(
        default=dict, blank=True, validators=[check_step_practices],
        help_text="How steps are done where practitioners differ; what is not in it is the usual side.",
    )  # fmt: skip

    second_step_roles = ArrayField(
        models.CharField(max_length=12, choices=Role.choices),
        default=list,
        blank=True,
        help_text="Of whom a second step at signing in is asked, whether they set one up or not.",
    )

    history = kept_history("heater_over_leak")

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

    def save(
        self,
        force_insert: bool | tuple[ModelBase, ...] = False,
        force_update: bool = False,
        using: str | None = None,
        update_fields: Iterable[str] | None = None,
    ) -> None:
        """Whoever asks within the same request gets what was saved."""
        super().save(force_insert=force_insert, force_update=force_update, using=using, update_fields=update_fields)
        if known := _WITHIN.get():
            known.clear()

    def clean(self) -> None:
        """A time zone must be one that the tz database knows."""
        if self.time_zone and self.time_zone not in available_timezones():
            said = f"{self.time_zone[:60]} is no time zone; one is written like America/Denver."
            raise ValidationError({"time_zone": said})

    @classmethod
    def current(cls) -> "Company":
        """The company of this installation, with defaults until somebody sets them."""
        known = _WITHIN.get()
        if known is not None and known:
            return cls.from_db(DEFAULT_DB_ALIAS, _CURRENT.names, known[0])
        for row in _CURRENT.rows():
            if known is not None:
                known.append(row)
            return cls.from_db(DEFAULT_DB_ALIAS, _CURRENT.names, row)
        return cls.objects.get_or_create(pk=1)[0]

    @staticmethod
    @contextmanager
    def read_once() -> Iterator[None]:
        """Within it the row is asked of the database once."""
        token = _WITHIN.set([])
        try:
            yield
        finally:
            _WITHIN.reset(token)


_WITHIN: ContextVar[list[tuple[object, ...]] | None] = ContextVar("company_within_a_request", default=None)
_CURRENT = Prepared(Company.objects.all(), *(field.attname for field in Company._meta.concrete_fields))
"""Nearly every request asks for it."""

"""Stored forecasts. Derived, so any of them can be thrown away and computed again."""

from collections.abc import Sequence
from typing import ClassVar

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import F, Q

from aquifer.choices import choices
from aquifer.core.gaps import Gap as GapKind
from aquifer.core.vocabulary import Component, DecidedBy, Method, Removed


class ForecastQuerySet(models.QuerySet["Forecast"]):
    def current(self) -> "ForecastQuerySet":
        return self.filter(superseded_at__isnull=True)

    def of_visits(self) -> "ForecastQuerySet":
        """Those that a visit does something about; a tank's end asks for an offer."""
        return self.exclude(component=Component.TANK)


class Forecast(models.Model):
    # Without a constraint in the database: rows are derived and stored by the hundred thousand, each with its heater.
    heater = models.ForeignKey(
        "heaters.Heater", on_delete=models.CASCADE, related_name="forecasts", db_constraint=False
    )
    component = models.CharField(max_length=16, choices=choices(Component))
    as_of = models.DateField()
    computed_at = models.DateTimeField()
    superseded_at = models.DateTimeField(null=True, blank=True)
    model_version = models.CharField(max_length=16)
    heater_version = models.PositiveIntegerField(help_text="Of the heater's record that went in.")
    last_finding = models.BigIntegerField(default=0, help_text="Newest finding that went in.")

    reached_days = ArrayField(models.IntegerField(null=True), help_text="Quantiles of the date, in days from as_of.")
    due_on = models.DateField(null=True)
    latest_on = models.DateField(null=True)
    decided_by = models.CharField(max_length=10, choices=choices(DecidedBy))
    method = models.CharField(max_length=20, choices=choices(Method))
    probability_today = models.FloatField()
    benefit = models.FloatField()
    over_after_service = models.FloatField()
    rate_unit = models.CharField(max_length=16)
    rate = ArrayField(models.FloatField(), help_text="At P10, P50, P90.")
    state_names = ArrayField(models.CharField(max_length=40))
    state_values = ArrayField(models.FloatField(), help_text="Each figure at P10, P50, P90, in the order of its names.")
    limit_value = models.FloatField()
    factors = ArrayField(models.CharField(max_length=40))
    factor_ratios = ArrayField(models.FloatField(), help_text="Of the rate over a plain heater's.")
    factor_days = ArrayField(models.FloatField(), help_text="By how many days each moves the date.")
    log_theta = models.FloatField()
    log_theta_sd = models.FloatField()

    """What findings taught of its pace, in words; said when it is read, not stored."""

    objects = ForecastQuerySet.as_manager()

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["heater", "component"], condition=Q(superseded_at__isnull=True), name="forecast_one_current"
            ),
        ]
        indexes = [
            models.Index(fields=["due_on"], condition=Q(superseded_at__isnull=True), name="forecast_current_due"),
        ]

    def __str__(self) -> str:
        return f"{self.component} of {self.heater_id}"

    @property
    def state(self) -> dict[str, list[float]]:
        """Each figure of the state at P10, P50, P90."""
        return state_of(self.state_names, self.state_values)

    @property
    def reasons(self) -> list[tuple[str, float, int]]:
        """Each factor with its ratio and its days."""
        named = zip(self.factors, self.factor_ratios, self.factor_days, strict=True)
        return [(factor, ratio, round(days)) for factor, ratio, days in named]


def state_of(names: Sequence[str], values: Sequence[float]) -> dict[str, list[float]]:
    """A stored state by its names, each at P10, P50, P90."""
    return {name: list(values[3 * at : 3 * at + 3]) for at, name in enumerate(names)}


DUE_ON = {
    Component.SEDIMENT: "sediment_on",
    Component.SCALE: "scale_on",
    Component.ANODE: "anode_on",
    Component.RELIEF_VALVE: "relief_valve_on",
    Component.EXPANSION_TANK: "expansion_tank_on",
}


class Due(models.Model):
    """When a visit is due at a heater, in one short row: lists of the whole base are ordered and summed by it.

    Derived from the forecasts in force and stored with them; a heater out of service has none.
    """

    heater = models.OneToOneField(
        "heaters.Heater", primary_key=True, on_delete=models.CASCADE, related_name="due", db_constraint=False
    )
    first_on = models.DateField(null=True)
    worth = models.FloatField(help_text="The largest benefit of its services.")
    sediment_on = models.DateField(null=True)
    scale_on = models.DateField(null=True)
    anode_on = models.DateField(null=True)
    relief_valve_on = models.DateField(null=True)
    expansion_tank_on = models.DateField(null=True)

    class Meta:
        indexes = [
            models.Index(F("first_on").asc(nulls_last=True), F("worth").desc(), F("heater"), name="due_by_day"),
            models.Index(F("worth").desc(), F("first_on").asc(nulls_last=True), F("heater"), name="due_by_worth"),
        ]

    def __str__(self) -> str:
        return f"{self.heater_id}: {self.first_on}"


class Gap(models.Model):
    """What is not known of a heater, and by how many days its window would narrow if it were."""

    heater = models.ForeignKey("heaters.Heater", on_delete=models.CASCADE, related_name="gaps", db_constraint=False)
    kind = models.CharField(max_length=8, choices=choices(GapKind))
    days = models.FloatField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["heater", "kind"], name="gap_once")]
        indexes = [models.Index(fields=["-days"], name="gap_by_days")]

    def __str__(self) -> str:
        return f"{self.kind} of {self.heater_id}"


class ZoneLearning(models.Model):
    """What all heaters of a zone said of it when they were last computed together: a heater that has a new finding is
    forecast against this at once, and the zone's job follows."""

    zone = models.ForeignKey("water.Zone", on_delete=models.CASCADE, related_name="learning")
    component = models.CharField(max_length=16, choices=choices(Component))
    logs = ArrayField(models.FloatField(), help_text="Natural log of the posterior on the zone grid.")
    last_finding = models.BigIntegerField(help_text="Newest finding that went in.")
    model_version = models.CharField(max_length=16)
    computed_at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["zone", "component"], name="zone_learning_once")]

    def __str__(self) -> str:
        return f"{self.component} of {self.zone_id}"


class PractisedLook(models.Model):
    """What somebody graded by eye in practice, where the truth is known: what his eye is like before a first bucket."""

    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    depth_mm = models.FloatField(help_text="At which what came out had lain.")
    removed = models.CharField(max_length=10, choices=choices(Removed))

    class Meta:
        ordering: ClassVar = ["pk"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=models.Q(depth_mm__gt=0), name="practised_depth_is_positive")
        ]

    def __str__(self) -> str:
        return f"{self.removed} by {self.by}"


class Calibration(models.Model):
    """What the whole base taught of a component, as the forecasts after it take for given. Appended, newest counts."""

    component = models.CharField(max_length=16, choices=choices(Component))
    computed_at = models.DateTimeField()
    model_version = models.CharField(max_length=16)
    graders = models.JSONField(default=dict, help_text="What each person sees over the truth, natural log.")
    common_eye = models.FloatField(default=0.0)
    eye_variance = models.JSONField(default=dict, help_text="What is not known of each person's.")
    heed = models.JSONField(default=dict, help_text="How much each person's grades count, 0 to 1.")
    common_eye_variance = models.FloatField(default=0.0)
    cohorts = models.JSONField(default=dict, help_text="What each build adds to the log rate.")
    heater_scale = models.FloatField(default=1.0)
    zone_scale = models.FloatField(default=1.0)
    eye_scale = models.FloatField(default=1.0, help_text="How far grades of one thing by eye differ, over the default.")
    shift = models.FloatField(default=0.0)
    future_spread = models.FloatField(null=True, help_text="Of the rate to come about the past one, natural log.")
    checks = models.PositiveIntegerField(default=0)
    inside = models.FloatField(null=True, help_text="Share of measurements inside the 80 % window told before them.")
    pairs = models.PositiveIntegerField(default=0)
    life = models.JSONField(default=dict, help_text="Of a tank: how the company's own end, see core.lives.")
    failures = models.PositiveIntegerField(default=0, help_text="Own tanks that leaked, behind it.")
    level = models.FloatField(default=0.0, help_text="What the base's log rate is above what is assumed.")
    removal = models.FloatField(default=0.0, help_text="How much better cleanings are than assumed, log odds.")
    uneven = models.FloatField(default=1.0, help_text="How uneven cleanings are, over what is assumed.")
    slopes = models.JSONField(default=list, help_text="By how much more its traits tell than the physics says.")
    misjudged = models.FloatField(default=1.0, help_text="How much further beliefs stray than they say.")

    class Meta:
        indexes = [models.Index(fields=["component", "-computed_at"])]

    def __str__(self) -> str:
        return f"{self.component} of {self.computed_at:%Y-%m-%d}"


class Check(models.Model):
    """A measurement held against what had been told before it. Derived anew with each calibration."""

    heater = models.ForeignKey("heaters.Heater", on_delete=models.CASCADE, related_name="checks", db_constraint=False)
    component = models.CharField(max_length=16, choices=choices(Component))
    on = models.DateField()
    ratio = models.FloatField(help_text="Pace as it was measured over the pace that was told.")
    place = models.FloatField(help_text="Where in what was told it lies: 0.1 is P10, 0.9 is P90.")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["heater", "component"], name="check_once")]

    def __str__(self) -> str:
        return f"{self.component} of {self.heater_id} on {self.on}"

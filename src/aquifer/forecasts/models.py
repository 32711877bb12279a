"""Stored forecasts. Derived, so any of them can be thrown away and computed again."""

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import Q

from aquifer.company.models import choices
from aquifer.core.vocabulary import Component, DecidedBy, Method


class ForecastQuerySet(models.QuerySet["Forecast"]):
    def current(self) -> "ForecastQuerySet":
        return self.filter(superseded_at__isnull=True)


class Forecast(models.Model):
    heater = models.ForeignKey("heaters.Heater", on_delete=models.CASCADE, related_name="forecasts")
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
    rate = ArrayField(models.FloatField())
    state = models.JSONField()
    limit_value = models.FloatField()
    reasons = models.JSONField()
    log_theta = models.FloatField()
    log_theta_sd = models.FloatField()

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

"""Where the water comes from, and what tests say of it."""

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import Q

from aquifer.choices import choices
from aquifer.core.vocabulary import Disinfectant, Practice, Supply
from aquifer.history.marks import kept_history


class Zone(models.Model):
    code = models.CharField(max_length=40, unique=True)
    name = models.CharField(max_length=120)
    supply = models.CharField(max_length=8, choices=choices(Supply), default=Supply.MAINS)
    note = models.CharField(max_length=240, blank=True)
    practice = models.CharField(
        max_length=24, choices=choices(Practice), blank=True, help_text="On this water, where it differs."
    )

    places = ArrayField(
        models.CharField(max_length=120), default=list, blank=True, help_text="Towns and postcodes that it supplies."
    )
    outline = models.JSONField(null=True, blank=True, help_text="Its district: a ring of [longitude, latitude].")

    history = kept_history()

    class Meta:
        constraints = [models.CheckConstraint(condition=~Q(code=""), name="zone_code_is_given")]

    def __str__(self) -> str:
        return self.name


class Season(models.Model):
    """A part of the year in which a zone's supply is mixed with another's."""

    zone = models.ForeignKey(Zone, on_delete=models.CASCADE, related_name="seasons")
    other = models.ForeignKey(Zone, on_delete=models.PROTECT, related_name="+")
    name = models.CharField(max_length=80)
    share_of_year = models.FloatField()
    other_share = models.FloatField(help_text="Of the volume, 0 to 1.")

    history = kept_history()

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=Q(share_of_year__gt=0, share_of_year__lte=1, other_share__gt=0, other_share__lte=1),
                name="season_shares_in_range",
            ),
            models.CheckConstraint(condition=~Q(zone=models.F("other")), name="season_of_another_water"),
        ]

    def __str__(self) -> str:
        return f"{self.zone_id} {self.name}"


class WaterTest(models.Model):
    """A test of a zone's water, or of one site's. Appended, never changed: a better test is a new one."""

    zone = models.ForeignKey(Zone, on_delete=models.PROTECT, related_name="tests")
    site = models.ForeignKey(
        "customers.Site",
        null=True,
        blank=True,
        on_delete=models.PROTECT,
        related_name="water_tests",
        help_text="If it was taken at one site's own supply: it counts before the zone's, for that site.",
    )
    taken_on = models.DateField()
    method = models.CharField(max_length=80, blank=True)
    total_hardness_mg_l = models.FloatField(null=True, blank=True)
    calcium_hardness_mg_l = models.FloatField(null=True, blank=True)
    alkalinity_mg_l = models.FloatField(null=True, blank=True)
    ph = models.FloatField(null=True, blank=True)
    conductivity_us_cm = models.FloatField(null=True, blank=True)
    source_temperature_c = models.FloatField(null=True, blank=True)
    suspended_solids_mg_l = models.FloatField(null=True, blank=True)
    iron_mg_l = models.FloatField(null=True, blank=True)
    free_chlorine_mg_l = models.FloatField(null=True, blank=True)
    disinfectant = models.CharField(max_length=12, choices=choices(Disinfectant), blank=True)
    recorded_at = models.DateTimeField(auto_now_add=True)
    recorded_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, blank=True, on_delete=models.PROTECT)

    class Meta:
        ordering = ["taken_on", "pk"]
        constraints = [
            models.CheckConstraint(
                condition=Q(ph__isnull=True) | Q(ph__gte=4, ph__lte=11), name="water_test_ph_in_range"
            ),
            models.CheckConstraint(
                condition=Q(total_hardness_mg_l__isnull=True)
                | Q(total_hardness_mg_l__gte=0, total_hardness_mg_l__lte=5000),
                name="water_test_hardness_in_range",
            ),
            models.UniqueConstraint(
                fields=["zone", "site", "taken_on", "method"], nulls_distinct=False, name="water_test_once"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.zone_id} {self.taken_on}"

"""Where the water comes from, and what tests say of it."""

from django.conf import settings
from django.db import models
from django.db.models import Q

from aquifer.company.models import choices
from aquifer.core.vocabulary import Disinfectant, Supply


class Zone(models.Model):
    code = models.CharField(max_length=40, unique=True)
    name = models.CharField(max_length=120)
    supply = models.CharField(max_length=8, choices=choices(Supply), default=Supply.MAINS)
    note = models.CharField(max_length=240, blank=True)

    class Meta:
        constraints = [models.CheckConstraint(condition=~Q(code=""), name="zone_code_is_given")]

    def __str__(self) -> str:
        return self.name


class WaterTest(models.Model):
    """A test of a zone's water. Appended, never changed: a better test is a new one."""

    zone = models.ForeignKey(Zone, on_delete=models.PROTECT, related_name="tests")
    taken_on = models.DateField()
    method = models.CharField(max_length=80, blank=True)
    total_hardness_mg_l = models.FloatField(null=True, blank=True)
    calcium_hardness_mg_l = models.FloatField(null=True, blank=True)
    alkalinity_mg_l = models.FloatField(null=True, blank=True)
    ph = models.FloatField(null=True, blank=True)
    conductivity_us_cm = models.FloatField(null=True, blank=True)
    source_temperature_c = models.FloatField(null=True, blank=True)
    suspended_solids_mg_l = models.FloatField(null=True, blank=True)
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
            models.UniqueConstraint(fields=["zone", "taken_on", "method"], name="water_test_once"),
        ]

    def __str__(self) -> str:
        return f"{self.zone_id} {self.taken_on}"

"""Heaters and the parts in them."""

from django.db import models
from django.db.models import Q

from aquifer.company.models import choices
from aquifer.core.vocabulary import Alloy, HeaterKind, Practice


class InstallCertainty(models.TextChoices):
    KNOWN = "known", "known"
    ESTIMATED = "estimated", "estimated"
    UNKNOWN = "unknown", "unknown"


class HeaterQuerySet(models.QuerySet["Heater"]):
    def in_service(self) -> "HeaterQuerySet":
        """Those that are not archived."""
        return self.filter(archived_at__isnull=True)

    def matching(self, words: str) -> "HeaterQuerySet":
        """Those whose tag, site, customer, street or zone contains every word."""
        found = self
        for word in words.split()[:8]:
            found = found.filter(
                Q(tag__icontains=word)
                | Q(kind__icontains=word)
                | Q(location__icontains=word)
                | Q(site__name__icontains=word)
                | Q(site__street__icontains=word)
                | Q(site__town__icontains=word)
                | Q(site__customer__name__icontains=word)
                | Q(site__zone__name__icontains=word)
            )
        return found


class Heater(models.Model):
    tag = models.CharField(max_length=40, unique=True)
    site = models.ForeignKey("customers.Site", on_delete=models.PROTECT, related_name="heaters")
    kind = models.CharField(max_length=24, choices=choices(HeaterKind))
    location = models.CharField(max_length=120, blank=True)
    maker = models.CharField(max_length=80, blank=True)
    model = models.CharField(max_length=80, blank=True)
    serial = models.CharField(max_length=80, blank=True)
    installed_on = models.DateField(null=True, blank=True)
    install_certainty = models.CharField(
        max_length=10, choices=InstallCertainty.choices, default=InstallCertainty.KNOWN
    )
    capacity_l = models.FloatField(null=True, blank=True)
    setpoint_c = models.FloatField(null=True, blank=True)
    input_kw = models.FloatField(null=True, blank=True)
    height_mm = models.FloatField(null=True, blank=True)
    diameter_mm = models.FloatField(null=True, blank=True)
    drain_port_height_mm = models.FloatField(null=True, blank=True)
    probe_height_mm = models.FloatField(null=True, blank=True)
    lower_element_height_mm = models.FloatField(null=True, blank=True)
    exchanger_area_m2 = models.FloatField(null=True, blank=True)
    floor_area_m2 = models.FloatField(null=True, blank=True)
    recirculated = models.BooleanField(default=False, help_text="A loop keeps its hot water moving.")
    burner_hours_per_day = models.FloatField(null=True, blank=True, help_text="As its controller counts them.")
    practice = models.CharField(
        max_length=24, choices=choices(Practice), blank=True, help_text="Where it differs from the company's."
    )
    version = models.PositiveIntegerField(default=1)
    archived_at = models.DateTimeField(null=True, blank=True)
    created_at = models.DateTimeField(auto_now_add=True)
    updated_at = models.DateTimeField(auto_now=True)

    objects = HeaterQuerySet.as_manager()

    class Meta:
        constraints = [
            models.CheckConstraint(condition=~Q(tag=""), name="heater_tag_is_given"),
            models.CheckConstraint(
                condition=Q(kind__in=[kind.value for kind in HeaterKind]), name="heater_kind_is_known"
            ),
            models.CheckConstraint(
                condition=Q(capacity_l__isnull=True) | Q(capacity_l__gt=0), name="heater_capacity_is_positive"
            ),
            models.CheckConstraint(
                condition=Q(setpoint_c__isnull=True) | Q(setpoint_c__gte=30, setpoint_c__lte=95),
                name="heater_setpoint_in_range",
            ),
        ]

    def __str__(self) -> str:
        return self.tag


class PartKind(models.TextChoices):
    ANODE = "anode", "anode"
    RELIEF_VALVE = "relief_valve", "relief valve"
    EXPANSION_TANK = "expansion_tank", "expansion tank"


class Part(models.Model):
    """A part with its own life in a heater. A new one is a new row; the old one is given its last day."""

    heater = models.ForeignKey(Heater, on_delete=models.PROTECT, related_name="parts")
    kind = models.CharField(max_length=16, choices=PartKind.choices)
    fitted_on = models.DateField(null=True, blank=True, help_text="Empty: with the heater.")
    removed_on = models.DateField(null=True, blank=True)
    alloy = models.CharField(max_length=16, choices=choices(Alloy), blank=True)
    diameter_mm = models.FloatField(null=True, blank=True)
    length_mm = models.FloatField(null=True, blank=True)
    count = models.PositiveSmallIntegerField(default=1)
    set_pressure_kpa = models.FloatField(null=True, blank=True)
    set_temperature_c = models.FloatField(null=True, blank=True)
    volume_l = models.FloatField(null=True, blank=True)
    precharge_kpa = models.FloatField(null=True, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["heater", "kind"], condition=Q(removed_on__isnull=True), name="part_one_in_place"
            ),
            models.CheckConstraint(
                condition=Q(removed_on__isnull=True)
                | Q(fitted_on__isnull=True)
                | Q(removed_on__gte=models.F("fitted_on")),
                name="part_removed_after_fitted",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.kind} of {self.heater_id}"

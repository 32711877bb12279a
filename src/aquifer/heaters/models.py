"""Heaters and the parts in them."""

from collections.abc import Iterable, Sequence
from functools import reduce
from operator import or_

from django.contrib.postgres.indexes import GinIndex
from django.db import models
from django.db.models import Q

from aquifer.choices import choices
from aquifer.core.kinds import HeaterKind, Ignition, Vent
from aquifer.core.serial import Pattern
from aquifer.core.vocabulary import Alloy, EndCause, FlushHistory, Practice
from aquifer.history.marks import kept_history


class InstallCertainty(models.TextChoices):
    KNOWN = "known", "known"
    ESTIMATED = "estimated", "estimated"
    UNKNOWN = "unknown", "unknown"


class HeaterQuerySet(models.QuerySet["Heater"]):
    def in_service(self) -> "HeaterQuerySet":
        """Those that are not archived."""
        return self.filter(archived_at__isnull=True)

    def matching(self, words: str) -> "HeaterQuerySet":
        """Those whose tag, serial, kind, site, street, customer or zone contain every word."""
        heaters = self
        for word in words.lower().replace("_", " ").split()[:8]:
            heaters = heaters.filter(words__contains=word)
        return heaters

    def having(self, choices: Iterable[Sequence[str]]) -> "HeaterQuerySet":
        """Those that contain, of each choice, one of its words."""
        heaters = self
        for words in choices:
            heaters = heaters.filter(reduce(or_, (Q(words__contains=word) for word in words)))
        return heaters


class Heater(models.Model):
    tag = models.CharField(max_length=40, unique=True)
    site = models.ForeignKey("customers.Site", on_delete=models.PROTECT, related_name="heaters")
    kind = models.CharField(max_length=24, choices=choices(HeaterKind))
    kind_seen = models.BooleanField(default=True, help_text="False: the kind is a guess, to be looked at first.")
    location = models.CharField(max_length=120, blank=True)
    maker = models.CharField(max_length=80, blank=True)
    model = models.CharField(max_length=80, blank=True)
    serial = models.CharField(max_length=80, blank=True)
    installed_on = models.DateField(null=True, blank=True)
    install_certainty = models.CharField(
        max_length=10, choices=InstallCertainty.choices, default=InstallCertainty.KNOWN
    )
    install_margin_years = models.FloatField(
        null=True, blank=True, help_text="An estimated age may be this many years off, either way."
    )
    flush_history = models.CharField(max_length=10, choices=choices(FlushHistory), default=FlushHistory.RECORDED)
    last_flush_year = models.PositiveSmallIntegerField(null=True, blank=True, help_text="Before our own record.")
    boiler = models.CharField(max_length=120, blank=True, help_text="What heats an indirect tank.")
    control_setting = models.CharField(max_length=80, blank=True, help_text="Dial mark, panel mode, as left.")
    ignition = models.CharField(
        max_length=12, choices=choices(Ignition), blank=True, help_text="How it is lit; empty where nobody has looked."
    )
    vent = models.CharField(max_length=8, choices=choices(Vent), blank=True, help_text="How its exhaust leaves.")
    supply_volts = models.PositiveSmallIntegerField(null=True, blank=True)
    dip_tube = models.CharField(max_length=80, blank=True, help_text="Side, plain or jets, condition.")
    anode_port = models.CharField(max_length=80, blank=True, help_text="Its own, or in the hot outlet; head room.")
    bank = models.CharField(max_length=40, blank=True, help_text="Heaters of one bank share a name.")
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
    in_care_since = models.DateField(null=True, blank=True, help_text="Since when we look after it; proves nothing.")
    details = models.JSONField(default=dict, blank=True, help_text="By the core's table of details.")
    note = models.CharField(max_length=500, blank=True)
    version = models.PositiveIntegerField(default=1)
    words = models.TextField(default="", editable=False, help_text="What it is found by; kept by the database.")
    archived_at = models.DateTimeField(null=True, blank=True)
    ended_on = models.DateField(null=True, blank=True, help_text="When it left care.")
    end_cause = models.CharField(max_length=16, choices=choices(EndCause), blank=True, help_text="Empty: nobody says.")
    end_note = models.CharField(max_length=500, blank=True, help_text="What it looked like inside.")
    end_weight_kg = models.FloatField(null=True, blank=True, help_text="Drained: what lies in it weighs.")
    successor = models.ForeignKey("self", null=True, blank=True, on_delete=models.SET_NULL, related_name="predecessors")
    created_at = models.DateTimeField(auto_now_add=True)
    updated_at = models.DateTimeField(auto_now=True)

    objects = HeaterQuerySet.as_manager()
    history = kept_history("words")

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
            models.CheckConstraint(
                condition=Q(last_flush_year__isnull=True) | Q(last_flush_year__gte=1950, last_flush_year__lte=2200),
                name="heater_last_flush_in_range",
            ),
        ]
        indexes = [
            models.Index(fields=["words"], name="heater_by_words"),
            models.Index(
                fields=["serial"], name="heater_by_serial", condition=Q(archived_at__isnull=True) & ~Q(serial="")
            ),
            GinIndex(fields=["words"], name="heater_words_trigram", opclasses=["gin_trgm_ops"]),
        ]

    def __str__(self) -> str:
        return self.tag

    def guessed(self) -> list[str]:
        """What of its past is a guess that its forecast rests on, in words."""
        said = [] if self.kind_seen else ["kind not seen"]
        if self.install_certainty != InstallCertainty.KNOWN or self.installed_on is None:
            margin = f" within {self.install_margin_years:g} years" if self.install_margin_years else ""
            said.append(f"age estimated{margin}" if self.installed_on else "age not known")
        if self.flush_history == FlushHistory.ABOUT and self.last_flush_year:
            said.append(f"last flush about {self.last_flush_year}")
        if self.flush_history == FlushHistory.NEVER:
            said.append("never flushed as far as known")
        if self.flush_history == FlushHistory.UNKNOWN:
            said.append("nobody knows whether it was flushed before")
        return said


class LeftAs(models.Model):
    """How a visit left a heater that is not as one is left that runs. Derived from the visit's events; the next guide
    begins from it. A heater left fit to run has none."""

    heater = models.OneToOneField(Heater, primary_key=True, on_delete=models.CASCADE, related_name="left_as")
    state = models.JSONField(help_text="What may be open, lit, full and hot, as the core writes it.")
    ending = models.CharField(max_length=40, blank=True)
    title = models.CharField(max_length=80, blank=True, help_text="Why it is off, in words.")
    off = models.BooleanField(default=False, help_text="It was left off on purpose.")
    at = models.DateTimeField(help_text="Of the last event.")
    by = models.CharField(max_length=80, blank=True)

    def __str__(self) -> str:
        return f"{self.heater_id}: {self.title or 'in doubt'}"


class PartKind(models.TextChoices):
    ANODE = "anode", "anode"
    RELIEF_VALVE = "relief_valve", "relief valve"
    EXPANSION_TANK = "expansion_tank", "expansion tank"
    DRAIN_VALVE = "drain_valve", "drain valve"
    TEMPERING_VALVE = "tempering_valve", "tempering valve"
    UPPER_ELEMENT = "upper_element", "upper element"
    LOWER_ELEMENT = "lower_element", "lower element"
    UPPER_THERMOSTAT = "upper_thermostat", "upper thermostat"
    LOWER_THERMOSTAT = "lower_thermostat", "lower thermostat"
    GAS_CONTROL = "gas_control", "gas control"
    THERMOCOUPLE = "thermocouple", "thermocouple"
    IGNITER = "igniter", "igniter"
    BURNER = "burner", "burner"
    MIXING_VALVE = "mixing_valve", "mixing valve"
    FLOW_SWITCH = "flow_switch", "flow switch"
    EXCHANGER = "exchanger", "heat exchanger"
    CIRCULATION_PUMP = "circulation_pump", "circulation pump"
    BOARD = "board", "board"
    LIMIT_SWITCH = "limit_switch", "limit switch"
    FUSE_LINK = "fuse_link", "fuse link"
    ELECTRODE = "electrode", "electrode"
    FAN = "fan", "fan"
    EXHAUST_SENSOR = "exhaust_sensor", "exhaust sensor"
    SPARK_UNIT = "spark_unit", "spark unit"
    INSULATION = "insulation", "insulation"
    PRESSURE_SWITCH = "pressure_switch", "pressure switch"
    TRAP = "trap", "trap"
    JETS = "jets", "jets"
    PRESSURE_VALVE = "pressure_valve", "pressure-difference valve"
    SOLENOID = "solenoid", "solenoid"


class Part(models.Model):
    """A part with its own life in a heater. A new one is a new row; the old one is given its last day."""

    heater = models.ForeignKey(Heater, on_delete=models.PROTECT, related_name="parts")
    kind = models.CharField(max_length=20, choices=PartKind.choices)
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
    probe_length_mm = models.FloatField(null=True, blank=True)
    rating_kw = models.FloatField(null=True, blank=True)
    build = models.CharField(max_length=80, blank=True, help_text="Its make, colour or revision, as it looks.")
    why_removed = models.CharField(max_length=120, blank=True)
    details = models.JSONField(default=dict, blank=True, help_text="By the core's table of details.")

    history = kept_history()

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


class SerialPattern(models.Model):
    """Where in the serials of a maker the date stands, as somebody of the company taught it."""

    maker = models.CharField(max_length=80, unique=True)
    year_at = models.PositiveSmallIntegerField()
    year_digits = models.PositiveSmallIntegerField(default=2)
    week_at = models.PositiveSmallIntegerField(null=True, blank=True)
    month_at = models.PositiveSmallIntegerField(null=True, blank=True)

    history = kept_history()

    def __str__(self) -> str:
        return self.maker

    def pattern(self) -> Pattern:
        return Pattern(self.year_at, self.year_digits, self.week_at, self.month_at)


class Likeness(models.Model):
    """Two heaters that may be one. Derived, and looked for anew whenever the register changes."""

    first = models.ForeignKey(Heater, on_delete=models.CASCADE, related_name="+")
    second = models.ForeignKey(Heater, on_delete=models.CASCADE, related_name="+")
    because = models.CharField(max_length=60)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["first", "second"], name="likeness_once")]

    def __str__(self) -> str:
        return f"{self.first_id} and {self.second_id}"

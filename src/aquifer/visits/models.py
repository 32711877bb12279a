"""What was done at a heater and what was found. Appended, never changed."""

from collections.abc import Iterable

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.db.models.base import ModelBase

from aquifer.choices import choices
from aquifer.core.vocabulary import (
    Clarity,
    Corrosion,
    DrainFlow,
    ExpansionTankPin,
    FlushMethod,
    Fouling,
    Noise,
    Removed,
    RodGrade,
    Task,
    Texture,
    UpkeepItem,
    ValveOutcome,
)
from aquifer.errors import AquiferError


class AppendOnly(AquiferError):
    """A record of the past is corrected by a new entry that names it."""

    code = "append_only"


class Visit(models.Model):
    client_id = models.UUIDField(unique=True, help_text="Chosen by the device, so that a visit sent twice is one.")
    heater = models.ForeignKey("heaters.Heater", on_delete=models.PROTECT, related_name="visits")
    on = models.DateField()
    recorded_at = models.DateTimeField(auto_now_add=True)
    recorded_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, blank=True, on_delete=models.PROTECT, related_name="visits"
    )
    supervised_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, blank=True, on_delete=models.PROTECT, related_name="supervised_visits"
    )
    technician = models.CharField(max_length=80, blank=True, help_text="Who did it, as the source says.")
    device = models.CharField(max_length=200, blank=True)
    note = models.CharField(max_length=500, blank=True)
    steps = models.JSONField(
        default=list, help_text="What was done step by step, from its events when it was recorded."
    )
    readings = models.JSONField(default=dict, help_text="Every answer and reading, as it was when it was recorded.")
    signature = models.JSONField(null=True, blank=True, help_text="Who signed, and the lines that they drew.")
    ending = models.CharField(max_length=40, blank=True, help_text="Why the work ended before it was done.")
    return_on = models.DateField(null=True, blank=True, help_text="The customer was told that we are back by then.")
    began_at = models.DateTimeField(null=True, blank=True, help_text="Of its first tap, by the device's clock.")
    minutes = models.PositiveSmallIntegerField(
        null=True, blank=True, help_text="How long it took, pauses left out, by its taps or by what the office kept."
    )
    moved = models.JSONField(default=list, help_text="What this visit moved in the forecast, as it was told.")

    class Meta:
        indexes = [models.Index(fields=["heater", "on"])]

    def __str__(self) -> str:
        return f"{self.heater_id} {self.on}"


class LearnedHours(models.Model):
    """What the company's own visits taught of how long they take; the newest is planned by. Derived: it can be thrown
    away and learned again."""

    computed_at = models.DateTimeField()
    of_work = models.JSONField(help_text="Hours of each thing that is done.")
    renewed = models.JSONField(help_text="At which share of services the part is renewed.")
    spread = models.FloatField(help_text="How far one visit strays, sd of the natural log.")

    class Meta:
        ordering = ["-computed_at", "-pk"]

    def __str__(self) -> str:
        return f"hours learned {self.computed_at:%Y-%m-%d}"


class VisitSession(models.Model):
    """A visit from its first step on, before it is recorded and after."""

    client_id = models.UUIDField(unique=True, help_text="The visit's own, as the device that began it chose it.")
    heater = models.ForeignKey("heaters.Heater", on_delete=models.PROTECT, related_name="visit_sessions")
    components = models.JSONField(help_text="What was to be served; the guide follows from it.")
    order = models.JSONField(help_text="The procedures of its guide.")
    licences = models.JSONField(default=list, help_text="Of who began it.")
    plan = models.JSONField(
        default=dict, help_text="What its guide follows from: extras, upkeep, method, start, rates."
    )
    marks = models.JSONField(default=list, help_text="What the lead is to look at, from its events so far.")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    joined = models.ForeignKey("self", null=True, blank=True, on_delete=models.PROTECT, related_name="joiners")
    visit = models.OneToOneField(Visit, null=True, blank=True, on_delete=models.PROTECT, related_name="session")

    class Meta:
        indexes = [models.Index(fields=["heater", "at"])]

    def __str__(self) -> str:
        return f"{self.heater_id} {self.at:%Y-%m-%d %H:%M}"


class Extra(models.TextChoices):
    """What a visit can take up besides what is due."""

    PRESSURE_TEST = "pressure_test", "pressure and creep test"
    REPLACE_VALVE = "replace_valve", "new relief valve"
    PARTIAL_DRAIN = "partial_drain", "drain a few gallons"


class EventKind(models.TextChoices):
    DONE = "done", "done"
    SKIPPED = "skipped", "left out"
    DEVIATION = "deviation", "went another way"
    OVERRIDE = "override", "done over a hold"
    UNDO = "undo", "undone"
    ANSWERED = "answered", "answered"
    ASKED = "asked", "asked the lead"
    ADVISED = "advised", "the lead's answer"
    SET_ASIDE = "set_aside", "set aside"
    SETTLED = "settled", "took the way out of a hold"
    OUTSIDE = "outside", "happened from outside"
    FOUND = "found", "found besides"
    TOOK_OVER = "took_over", "led from another device"
    NOTED = "noted", "a note"


class Settled(models.TextChoices):
    """What the lead did with a tap that was kept apart."""

    READ = "read", "read again"
    SET_ASIDE = "set_aside", "set aside for good"


class Event(models.Model):
    """One tap of a visit. Appended, never changed; what a visit is follows from all of its events in their order."""

    client_id = models.UUIDField(unique=True, help_text="Chosen by the device, so that an event sent twice is one.")
    session = models.ForeignKey(VisitSession, on_delete=models.PROTECT, related_name="events")
    device = models.UUIDField()
    clock = models.PositiveIntegerField(help_text="Above that of every event its device knew of: the order of events.")
    known = models.PositiveBigIntegerField(
        default=0, help_text="Of other devices' events its device knew those up to this one."
    )
    at = models.DateTimeField(help_text="By the device's clock, which may be wrong.")
    received_at = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    kind = models.CharField(max_length=10, choices=EventKind.choices)
    step = models.CharField(max_length=80, blank=True)
    body = models.JSONField(default=dict)

    class Meta:
        ordering = ["clock", "device", "client_id"]
        indexes = [models.Index(fields=["session", "id"])]

    def __str__(self) -> str:
        return f"{self.kind} {self.step}"

    def delete(self, *args: object, **kwargs: object) -> tuple[int, dict[str, int]]:
        raise AppendOnly("An event is never deleted; another one takes it back.")


class EventApart(models.Model):
    """A tap that could not be read, or with which its visit could not be followed: kept as it was told, and bearing on
    nothing until the lead has it read again."""

    client_id = models.UUIDField(unique=True, help_text="The tap's own, or one made of what was told.")
    session = models.ForeignKey(VisitSession, on_delete=models.PROTECT, related_name="apart")
    event = models.OneToOneField(
        Event, null=True, blank=True, on_delete=models.PROTECT, related_name="apart", help_text="Once it could be read."
    )
    device = models.UUIDField()
    told = models.TextField(help_text="JSON, as the device told it.")
    fault = models.CharField(max_length=200, help_text="Why it is apart.")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    settled = models.CharField(max_length=9, choices=Settled.choices, blank=True)
    settled_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, blank=True, on_delete=models.PROTECT, related_name="+"
    )
    settled_at = models.DateTimeField(null=True, blank=True)
    why = models.CharField(max_length=300, blank=True, help_text="Why it was set aside for good.")

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.fault


class Amendment(models.Model):
    """Something put right in a visit's record, or added to it, after it was recorded."""

    client_id = models.UUIDField(unique=True)
    visit = models.ForeignKey(Visit, on_delete=models.PROTECT, related_name="amendments")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    why = models.CharField(max_length=300)
    readings = models.JSONField(default=dict, help_text="Those that are no part of a finding, as they are put right.")
    moved = models.JSONField(default=list, help_text="What it moved in the forecast, as it was told.")

    class Meta:
        ordering = ["at"]

    def __str__(self) -> str:
        return self.why


class Finding(models.Model):
    visit = models.ForeignKey(Visit, on_delete=models.PROTECT, related_name="findings")
    heater = models.ForeignKey("heaters.Heater", on_delete=models.PROTECT, related_name="findings")
    part = models.ForeignKey("heaters.Part", null=True, blank=True, on_delete=models.PROTECT, related_name="findings")
    corrects = models.OneToOneField("self", null=True, blank=True, on_delete=models.PROTECT, related_name="correction")
    amendment = models.ForeignKey(Amendment, null=True, blank=True, on_delete=models.PROTECT, related_name="findings")
    on = models.DateField()
    sequence = models.PositiveSmallIntegerField(default=0)
    task = models.CharField(max_length=28, choices=choices(Task))
    method = models.CharField(max_length=20, choices=choices(FlushMethod), blank=True)
    removed = models.CharField(max_length=10, choices=choices(Removed), blank=True)
    removed_l = models.FloatField(null=True, blank=True)
    depth_before_mm = models.FloatField(null=True, blank=True)
    depth_after_mm = models.FloatField(null=True, blank=True)
    clarity = models.CharField(max_length=8, choices=choices(Clarity), blank=True)
    texture = models.CharField(max_length=8, choices=choices(Texture), blank=True)
    drain_flow = models.CharField(max_length=8, choices=choices(DrainFlow), blank=True)
    grade = models.CharField(max_length=12, choices=choices(RodGrade), blank=True)
    diameter_mm = models.FloatField(null=True, blank=True)
    bare_wire_mm = models.FloatField(null=True, blank=True)
    outcome = models.CharField(max_length=20, choices=choices(ValveOutcome), blank=True)
    dissolved_g = models.FloatField(null=True, blank=True)
    flow_before_l_min = models.FloatField(null=True, blank=True)
    rise_before_k = models.FloatField(null=True, blank=True)
    flow_after_l_min = models.FloatField(null=True, blank=True)
    rise_after_k = models.FloatField(null=True, blank=True)
    could_not_open = models.BooleanField(default=False)
    at_valve = models.CharField(max_length=8, choices=choices(ExpansionTankPin), blank=True)
    precharge_kpa = models.FloatField(null=True, blank=True)
    static_kpa = models.FloatField(null=True, blank=True)
    creep_kpa = models.FloatField(null=True, blank=True)
    falls = models.BooleanField(null=True, blank=True)
    noise = models.CharField(max_length=10, choices=choices(Noise), blank=True)
    corrosion = models.CharField(max_length=10, choices=choices(Corrosion), blank=True)
    rusty_hot_water = models.BooleanField(null=True, blank=True)
    valve_drips = models.BooleanField(null=True, blank=True)
    element_failed = models.BooleanField(null=True, blank=True)
    item = models.CharField(max_length=14, choices=choices(UpkeepItem), blank=True)
    fouling = models.CharField(max_length=8, choices=choices(Fouling), blank=True)

    class Meta:
        ordering = ["on", "pk"]
        indexes = [models.Index(fields=["heater", "on"])]
        constraints = [
            models.UniqueConstraint(fields=["visit", "sequence"], name="finding_once_in_visit"),
            models.CheckConstraint(condition=Q(task__in=[task.value for task in Task]), name="finding_task_is_known"),
        ]

    def __str__(self) -> str:
        return f"{self.task} of {self.heater_id} on {self.on}"

    def save(
        self,
        force_insert: bool | tuple[ModelBase, ...] = False,
        force_update: bool = False,
        using: str | None = None,
        update_fields: Iterable[str] | None = None,
    ) -> None:
        if self.pk is not None:
            raise AppendOnly("A finding is never changed; record a new one that corrects it.")
        super().save(force_insert=force_insert, force_update=force_update, using=using, update_fields=update_fields)

    def delete(self, *args: object, **kwargs: object) -> tuple[int, dict[str, int]]:
        raise AppendOnly("A finding is never deleted; record a new one that corrects it.")

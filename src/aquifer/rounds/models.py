"""The crew with its hours, what is planned, and the runs that planned it."""

import datetime
from typing import ClassVar

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models import Q

from aquifer.choices import choices
from aquifer.core.planning.work import JETTER, PUMP
from aquifer.core.vocabulary import Component, Method
from aquifer.history.marks import kept_history

EQUIPMENT = (JETTER, PUMP)
_MINUTES = [MinValueValidator(0), MaxValueValidator(1439)]


class CrewMember(models.Model):
    """Somebody who goes out, with a usual week. Hours are minutes after midnight."""

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="crew")
    place = models.CharField(max_length=80, default="the yard", help_text="Where the day begins and ends.")
    longitude = models.FloatField(null=True, blank=True, help_text="Empty is the company's yard.")
    latitude = models.FloatField(null=True, blank=True)
    weekdays = ArrayField(models.PositiveSmallIntegerField(validators=[MaxValueValidator(6)]), default=list)
    begins = models.PositiveSmallIntegerField(default=450, validators=_MINUTES)
    ends = models.PositiveSmallIntegerField(default=990, validators=_MINUTES)
    lunch_minutes = models.PositiveSmallIntegerField(default=40, validators=[MaxValueValidator(180)])
    lunch_earliest = models.PositiveSmallIntegerField(default=690, validators=_MINUTES)
    lunch_latest = models.PositiveSmallIntegerField(default=800, validators=_MINUTES)
    equipment = ArrayField(models.CharField(max_length=24), default=list, blank=True)
    helper = models.CharField(max_length=80, blank=True, help_text="Who rides along; two can do what one cannot.")
    active = models.BooleanField(default=True)

    history = kept_history()

    class Meta:
        ordering: ClassVar = ["pk"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(ends__gt=models.F("begins")), name="crew_day_ends_after_it_begins"),
            models.CheckConstraint(
                condition=Q(lunch_latest__gte=models.F("lunch_earliest")), name="crew_lunch_has_a_window"
            ),
        ]

    def __str__(self) -> str:
        return self.user.name


class Absence(models.Model):
    """Days on which a member, or nobody, works."""

    member = models.ForeignKey(CrewMember, null=True, blank=True, on_delete=models.CASCADE, related_name="absences")
    first_on = models.DateField()
    last_on = models.DateField()
    why = models.CharField(max_length=80)

    history = kept_history()

    class Meta:
        ordering: ClassVar = ["first_on", "pk"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(last_on__gte=models.F("first_on")), name="absence_has_a_day")
        ]

    def __str__(self) -> str:
        return f"{self.why} {self.first_on}"


class Loan(models.Model):
    """A tool that goes on another truck for some days."""

    tool = models.CharField(max_length=24)
    lender = models.ForeignKey(CrewMember, on_delete=models.CASCADE, related_name="lent")
    borrower = models.ForeignKey(CrewMember, on_delete=models.CASCADE, related_name="borrowed")
    first_on = models.DateField()
    last_on = models.DateField()

    history = kept_history()

    class Meta:
        ordering: ClassVar = ["first_on", "pk"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(last_on__gte=models.F("first_on")), name="loan_has_a_day"),
            models.CheckConstraint(condition=~Q(lender=models.F("borrower")), name="loan_is_between_two"),
        ]

    def __str__(self) -> str:
        return f"{self.tool} {self.first_on}"


class Closed(models.Model):
    """When a site cannot be visited: let out, in season, frozen."""

    site = models.ForeignKey("customers.Site", on_delete=models.CASCADE, related_name="closed")
    first_on = models.DateField()
    last_on = models.DateField()
    yearly = models.BooleanField(default=False, help_text="The same days of every year.")
    why = models.CharField(max_length=80)

    class Meta:
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(last_on__gte=models.F("first_on")), name="closed_has_a_day")
        ]

    def __str__(self) -> str:
        return f"{self.why} {self.first_on}"

    def holds_on(self, day: datetime.date) -> bool:
        """Whether the site is closed on a day."""
        if not self.yearly:
            return self.first_on <= day <= self.last_on
        first, last = (self.first_on.month, self.first_on.day), (self.last_on.month, self.last_on.day)
        on = (day.month, day.day)
        return first <= on <= last if first <= last else on >= first or on <= last


class RunKind(models.TextChoices):
    SEASON = "season", "the season"
    ROUNDS = "rounds", "the rounds"


class RunState(models.TextChoices):
    WAITING = "waiting", "waiting for a worker"
    WORKING = "working", "being planned"
    READY = "ready", "planned"
    STOPPED = "stopped", "stopped; the plan before stays"
    FAILED = "failed", "failed; the plan before stays"


class Run(models.Model):
    """One planning, as a job. What it made is written at its end and all at once."""

    kind = models.CharField(max_length=8, choices=RunKind.choices)
    state = models.CharField(max_length=8, choices=RunState.choices, default=RunState.WAITING)
    stage = models.CharField(max_length=40, blank=True)
    share = models.FloatField(default=0.0)
    stop_asked = models.BooleanField(default=False)
    first_week = models.DateField()
    weeks = models.PositiveSmallIntegerField()
    message = models.CharField(max_length=400, blank=True)
    figures = models.JSONField(default=dict)
    left_out = models.JSONField(default=list, help_text="What could not be placed, and why.")
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    asked_at = models.DateTimeField(auto_now_add=True)
    finished_at = models.DateTimeField(null=True)

    class Meta:
        ordering: ClassVar = ["-asked_at", "-pk"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(state__in=RunState.values), name="run_state_is_known"),
            models.UniqueConstraint(
                fields=["kind"], condition=Q(state__in=["waiting", "working"]), name="run_one_at_a_time"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.kind} {self.state}"


class AppointmentStatus(models.TextChoices):
    """How firmly an appointment stands."""

    PLANNED = "planned", "planned; the next planning may move it"
    KEPT = "kept", "kept where a person put it"
    OFFERED = "offered", "offered to the customer"
    PROMISED = "promised", "promised to the customer"
    DONE = "done", "done"
    CALLED_OFF = "called_off", "called off"


FIRM = (AppointmentStatus.KEPT, AppointmentStatus.OFFERED, AppointmentStatus.PROMISED)


class Reason(models.TextChoices):
    """Why somebody goes there."""

    DUE = "due", "its service is due"
    CALL_BACK = "call_back", "call-back"
    COMPLAINT = "complaint", "complaint"
    EMERGENCY = "emergency", "emergency"
    INSTALLATION = "installation", "installation"
    ESTIMATE = "estimate", "estimate"
    WARRANTY = "warranty", "warranty"
    WISH = "wish", "asked for by the customer"


class Appointment(models.Model):
    """A visit that is meant to happen."""

    site = models.ForeignKey("customers.Site", on_delete=models.PROTECT, related_name="appointments")
    week = models.DateField(help_text="Its first day.")
    on = models.DateField(null=True, blank=True)
    member = models.ForeignKey(CrewMember, null=True, blank=True, on_delete=models.PROTECT, related_name="appointments")
    begins = models.PositiveSmallIntegerField(null=True, blank=True, help_text="Minutes after midnight.")
    minutes = models.PositiveSmallIntegerField()
    reason = models.CharField(max_length=12, choices=Reason.choices, default=Reason.DUE)
    asked_minutes = models.PositiveSmallIntegerField(
        default=0, help_text="Of its minutes, those for what was asked; the rest is for services that are due."
    )
    said = models.CharField(max_length=240, blank=True, help_text="What whoever rang said.")
    decides = models.CharField(max_length=120, blank=True, help_text="Who may approve more work, how reached.")
    photos = ArrayField(
        models.UUIDField(), default=list, blank=True, help_text="Under which photographs were kept that came with it."
    )
    why = models.CharField(max_length=160, blank=True, help_text="Told to the customer where their time is changed.")
    changed_at = models.DateTimeField(auto_now=True)
    standing = models.CharField(max_length=12, choices=AppointmentStatus.choices, default=AppointmentStatus.PLANNED)
    earliest = models.PositiveSmallIntegerField(null=True, blank=True, help_text="It begins not before, as promised.")
    latest = models.PositiveSmallIntegerField(null=True, blank=True, help_text="It begins not after, as promised.")
    needs = ArrayField(models.CharField(max_length=24), default=list, blank=True)
    people = models.PositiveSmallIntegerField(default=1)
    worth = models.FloatField(default=0.0, help_text="Hours that putting it off by a month would cost.")
    latest_on = models.DateField(null=True, blank=True, help_text="The cap that its safety services must keep.")
    run = models.ForeignKey(Run, null=True, blank=True, on_delete=models.SET_NULL, related_name="appointments")
    version = models.PositiveIntegerField(default=1)
    note = models.CharField(max_length=240, blank=True)

    history = kept_history()

    class Meta:
        indexes: ClassVar = [
            models.Index(fields=["week", "standing"]),
            models.Index(fields=["on", "member", "begins"]),
            models.Index(fields=["site", "standing"]),
            # What went by undone is looked for among the open ones, which are few beside all that were done.
            models.Index(
                fields=["on", "week"],
                condition=Q(standing__in=["planned", "kept", "offered", "promised"]),
                name="appointment_open_by_day",
            ),
        ]
        constraints: ClassVar = [
            models.CheckConstraint(
                condition=Q(standing__in=AppointmentStatus.values), name="appointment_standing_is_known"
            ),
            models.CheckConstraint(condition=Q(reason__in=Reason.values), name="appointment_reason_is_known"),
            models.CheckConstraint(
                condition=Q(on__isnull=True, member__isnull=True, begins__isnull=True)
                | Q(on__isnull=False, member__isnull=False, begins__isnull=False)
                | Q(on__isnull=False, standing__in=["offered", "promised", "called_off", "kept"]),
                name="appointment_has_a_time_with_its_day",
            ),
        ]

    def __str__(self) -> str:
        return f"site {self.site_id} in the week of {self.week}"

    @property
    def is_firm(self) -> bool:
        return self.standing in FIRM


class Service(models.Model):
    """What an appointment is for."""

    appointment = models.ForeignKey(Appointment, on_delete=models.CASCADE, related_name="services")
    heater = models.ForeignKey("heaters.Heater", on_delete=models.CASCADE, related_name="planned_services")
    component = models.CharField(max_length=16, choices=choices(Component))
    method = models.CharField(max_length=20, choices=choices(Method))
    hours = models.FloatField()

    class Meta:
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["appointment", "heater", "component"], name="service_once")
        ]

    def __str__(self) -> str:
        return f"{self.component} of {self.heater_id}"

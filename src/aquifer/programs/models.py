"""Addresses that are told what happens here, and what each was told."""

import uuid
from typing import ClassVar

from django.contrib.postgres.fields import ArrayField
from django.core.validators import URLValidator
from django.db import models
from django.db.models import Q

from aquifer.history.marks import kept_history


class HookEvent(models.TextChoices):
    VISIT_RECORDED = "visit.recorded", "a visit was recorded"
    APPOINTMENT_PROMISED = "appointment.promised", "a time was promised to a customer"
    QUOTE_ACCEPTED = "quote.accepted", "a quote was accepted"
    OPEN_ISSUE_RAISED = "open_issue.raised", "an open issue was raised"
    TRIED = "tried", "somebody tried the address"


class Hook(models.Model):
    """An address that is told of some kinds of events. What is sent is signed with its secret."""

    address = models.CharField(max_length=300, validators=[URLValidator(schemes=["http", "https"])])
    kinds = ArrayField(models.CharField(max_length=24, choices=HookEvent.choices))
    secret = models.CharField(max_length=64, editable=False)
    active = models.BooleanField(default=True)

    history = kept_history("secret")

    class Meta:
        ordering: ClassVar = ["pk"]

    def __str__(self) -> str:
        return self.address


class DeliveryState(models.TextChoices):
    WAITING = "waiting", "waits to be sent"
    TAKEN = "taken", "was taken"
    FAILED = "failed", "was not taken"


class Delivery(models.Model):
    """One event for one address. The key is the same for each try, so that the other side takes it once."""

    hook = models.ForeignKey(Hook, on_delete=models.CASCADE, related_name="deliveries")
    key = models.UUIDField(default=uuid.uuid4)
    kind = models.CharField(max_length=24, choices=HookEvent.choices)
    body = models.JSONField()
    state = models.CharField(max_length=8, choices=DeliveryState.choices, default=DeliveryState.WAITING)
    not_before = models.DateTimeField(auto_now_add=True)
    tries = models.PositiveSmallIntegerField(default=0)
    trouble = models.CharField(max_length=200, blank=True)
    happened_at = models.DateTimeField(auto_now_add=True)
    taken_at = models.DateTimeField(null=True)

    class Meta:
        ordering: ClassVar = ["-happened_at", "-pk"]
        verbose_name_plural = "deliveries"
        indexes: ClassVar = [models.Index(fields=["state", "not_before"])]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(state__in=DeliveryState.values), name="delivery_state_is_known"),
            models.UniqueConstraint(fields=["hook", "key"], name="delivery_once_for_each_event"),
        ]

    def __str__(self) -> str:
        return f"{self.kind} to {self.hook_id}"

"""What is written to customers, how far it got, and what they answered."""

import uuid
from typing import ClassVar

from django.db import models
from django.db.models import Q


class Way(models.TextChoices):
    EMAIL = "email", "by e-mail"
    TEXT = "text", "by text message"
    CALL = "call", "by telephone"
    NEVER = "never", "not at all"


class Contact(models.Model):
    """How a customer wants to be reached. Who has none is written to by e-mail, or by text."""

    customer = models.OneToOneField(
        "customers.Customer", primary_key=True, on_delete=models.CASCADE, related_name="contact"
    )
    way = models.CharField(max_length=8, choices=Way.choices, default=Way.EMAIL)
    opted_out_at = models.DateTimeField(null=True, blank=True, help_text="They asked not to be written to.")
    version = models.PositiveIntegerField(default=1)

    def __str__(self) -> str:
        return f"{self.customer_id} {self.way}"


class MessageKind(models.TextChoices):
    OFFER = "offer", "a time is offered"
    REMINDER = "reminder", "they are reminded"
    MOVED = "moved", "their time is another"
    AGAIN = "again", "another day has to be found"
    CALLED_OFF = "called_off", "their visit is called off"
    LATE = "late", "we come later today"


CHANGES = (MessageKind.MOVED, MessageKind.AGAIN, MessageKind.CALLED_OFF, MessageKind.LATE)
"""What is written where a customer was told otherwise before."""


class MessageState(models.TextChoices):
    WAITING = "waiting", "waiting to be sent"
    SENT = "sent", "sent"
    DELIVERED = "delivered", "delivered"
    ANSWERED = "answered", "answered"
    FAILED = "failed", "could not be delivered"
    DROPPED = "dropped", "no longer needed"
    TO_CALL = "to_call", "to be told by telephone"
    TOLD = "told", "told by telephone"


class Message(models.Model):
    """The key is what the gateway knows it by: the same key twice is one message."""

    key = models.UUIDField(unique=True, default=uuid.uuid4)
    appointment = models.ForeignKey("rounds.Appointment", null=True, on_delete=models.SET_NULL, related_name="messages")
    customer = models.ForeignKey("customers.Customer", on_delete=models.PROTECT, related_name="messages")
    kind = models.CharField(max_length=12, choices=MessageKind.choices)
    way = models.CharField(max_length=8, choices=Way.choices)
    address = models.CharField(max_length=200)
    subject = models.CharField(max_length=160)
    body = models.TextField()
    offered_version = models.PositiveIntegerField(default=0, help_text="Of the appointment when it was written.")
    offered = models.CharField(
        max_length=120, blank=True, help_text="The time in words: it is on offer as long as it is so."
    )
    tells_on = models.DateField(null=True, blank=True, help_text="The time of which it tells, if of any.")
    tells_earliest = models.PositiveSmallIntegerField(null=True, blank=True)
    tells_latest = models.PositiveSmallIntegerField(null=True, blank=True)
    state = models.CharField(max_length=10, choices=MessageState.choices, default=MessageState.WAITING)
    not_before = models.DateTimeField()
    tries = models.PositiveSmallIntegerField(default=0)
    trouble = models.CharField(max_length=200, blank=True)
    written_at = models.DateTimeField(auto_now_add=True)
    sent_at = models.DateTimeField(null=True)

    class Meta:
        ordering: ClassVar = ["-written_at", "-pk"]
        indexes: ClassVar = [models.Index(fields=["state", "not_before"])]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(state__in=MessageState.values), name="message_state_is_known"),
            models.UniqueConstraint(
                fields=["appointment", "kind", "offered_version"], name="message_once_for_each_time_offered"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.kind} to {self.customer_id}"


class Known(models.Model):
    """The time that a customer was told or has agreed to, whatever became of the visit since."""

    appointment = models.OneToOneField(
        "rounds.Appointment", null=True, blank=True, on_delete=models.SET_NULL, related_name="known"
    )
    site = models.ForeignKey("customers.Site", on_delete=models.CASCADE, related_name="+")
    on = models.DateField()
    earliest = models.PositiveSmallIntegerField(null=True, blank=True)
    latest = models.PositiveSmallIntegerField(null=True, blank=True)
    late_until = models.PositiveSmallIntegerField(null=True, blank=True, help_text="Told on the day: not before then.")
    since = models.DateTimeField(auto_now=True)

    class Meta:
        indexes: ClassVar = [models.Index(fields=["on"])]

    def __str__(self) -> str:
        return f"{self.site_id} on {self.on}"


class Answered(models.TextChoices):
    ACCEPTED = "accepted", "accepted"
    CHOSE = "chose", "chose another time"
    OTHER_TIME = "other_time", "asks for another time"
    DECLINED = "declined", "declined"


class Answer(models.Model):
    """What a customer said to a message; once, and kept."""

    message = models.OneToOneField(Message, on_delete=models.PROTECT, related_name="answer")
    said = models.CharField(max_length=10, choices=Answered.choices)
    words = models.CharField(max_length=300, blank=True)
    at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return f"{self.said} {self.at:%Y-%m-%d}"


class SimulatedDelivery(models.Model):
    """What the simulated gateway took in. It stands for another company's computer: nothing else reads it."""

    key = models.UUIDField(primary_key=True)
    address = models.CharField(max_length=200)
    body = models.TextField()
    taken_at = models.DateTimeField(auto_now_add=True)
    asked = models.PositiveSmallIntegerField(default=0)

    def __str__(self) -> str:
        return str(self.key)

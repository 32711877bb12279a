"""The price book, contracts with what they include, and quotes. Amounts are without tax, in the company's currency."""

import datetime
from decimal import Decimal
from typing import ClassVar

from django.contrib.postgres.fields import ArrayField
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models import F, Q

from aquifer.choices import choices
from aquifer.core.follow_up import FollowUp
from aquifer.core.vocabulary import Component
from aquifer.history.marks import kept_history

_NOT_NEGATIVE = [MinValueValidator(Decimal(0))]


def amount(default: str | None = None) -> "models.DecimalField[Decimal, Decimal]":
    """A column of money."""
    if default is None:
        return models.DecimalField(max_digits=12, decimal_places=2, validators=_NOT_NEGATIVE)
    return models.DecimalField(max_digits=12, decimal_places=2, default=Decimal(default), validators=_NOT_NEGATIVE)


class MoneySettings(models.Model):
    """One row: the currency, and what an hour costs."""

    currency = models.CharField(max_length=8, default="¤")
    hour_cost = amount("0")
    quotes_last_days = models.PositiveSmallIntegerField(
        default=60, validators=[MinValueValidator(1), MaxValueValidator(365)]
    )
    part_warranty_months = models.PositiveSmallIntegerField(
        default=12,
        validators=[MaxValueValidator(120)],
        help_text="So long a part that we fitted is renewed without a charge; 0: not at all.",
    )
    work_warranty_days = models.PositiveSmallIntegerField(
        default=30,
        validators=[MaxValueValidator(365)],
        help_text="So long after a visit a call-back because of it is not charged; 0: always charged.",
    )
    leak_damage = amount("0")

    history = kept_history()

    class Meta:
        verbose_name_plural = "money settings"
        constraints: ClassVar = [models.CheckConstraint(condition=Q(pk=1), name="money_settings_are_one")]

    def __str__(self) -> str:
        return self.currency

    @classmethod
    def current(cls) -> "MoneySettings":
        """This installation's, with defaults until somebody sets them."""
        return cls.objects.filter(pk=1).first() or cls(pk=1)


class Price(models.Model):
    """A line of the price book."""

    key = models.CharField(max_length=80, unique=True, help_text="What it is for: a service, a part, a follow-up.")
    words = models.CharField(max_length=120, help_text="As the customer reads it.")
    price = amount()
    cost = amount("0")

    history = kept_history()

    class Meta:
        ordering: ClassVar = ["key"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(price__gte=0, cost__gte=0), name="price_is_not_negative")
        ]

    def __str__(self) -> str:
        return self.words


class ContractPlan(models.Model):
    """What customers on this plan pay by the year, and what that includes."""

    name = models.CharField(max_length=80, unique=True)
    yearly = amount("0")
    includes = ArrayField(models.CharField(max_length=16, choices=choices(Component)), default=list, blank=True)
    call_out = models.BooleanField(default=False, help_text="Coming is included.")
    parts_off = models.DecimalField(
        max_digits=3,
        decimal_places=2,
        default=Decimal(0),
        validators=[MinValueValidator(Decimal(0)), MaxValueValidator(Decimal(1))],
        help_text="Share off the price of parts.",
    )

    history = kept_history()

    class Meta:
        ordering: ClassVar = ["name"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(parts_off__gte=0, parts_off__lte=1), name="plan_parts_off_is_a_share")
        ]

    def __str__(self) -> str:
        return self.name


class ContractQuerySet(models.QuerySet["Contract"]):
    def running(self, on: datetime.date) -> "ContractQuerySet":
        """Those in force on a day."""
        return self.filter(Q(ends_on__isnull=True) | Q(ends_on__gte=on), begins_on__lte=on)


class Contract(models.Model):
    """A site on a plan, from a day until another."""

    site = models.ForeignKey("customers.Site", on_delete=models.PROTECT, related_name="contracts")
    plan = models.ForeignKey(ContractPlan, on_delete=models.PROTECT, related_name="contracts")
    begins_on = models.DateField()
    ends_on = models.DateField(null=True, blank=True)

    objects = ContractQuerySet.as_manager()
    history = kept_history()

    class Meta:
        ordering: ClassVar = ["begins_on", "pk"]
        constraints: ClassVar = [
            models.CheckConstraint(
                condition=Q(ends_on__isnull=True) | Q(ends_on__gte=F("begins_on")), name="contract_has_a_day"
            ),
            models.UniqueConstraint(fields=["site"], condition=Q(ends_on__isnull=True), name="contract_one_at_a_time"),
        ]

    def __str__(self) -> str:
        return f"{self.plan_id} at {self.site_id}"


class QuoteState(models.TextChoices):
    DRAFT = "draft", "to be looked at"
    SENT = "sent", "with the customer"
    ACCEPTED = "accepted", "accepted; to be done"
    DECLINED = "declined", "declined"
    LAPSED = "lapsed", "lapsed without an answer"
    DROPPED = "dropped", "not sent"
    DONE = "done", "done"


OPEN = (QuoteState.DRAFT, QuoteState.SENT, QuoteState.ACCEPTED)
STEPS: dict[QuoteState, tuple[QuoteState, ...]] = {
    QuoteState.DRAFT: (QuoteState.SENT, QuoteState.DROPPED),
    QuoteState.SENT: (QuoteState.ACCEPTED, QuoteState.DECLINED, QuoteState.LAPSED),
    QuoteState.ACCEPTED: (QuoteState.DONE, QuoteState.DECLINED),
    QuoteState.LAPSED: (QuoteState.SENT,),
    QuoteState.DECLINED: (QuoteState.SENT,),
    QuoteState.DROPPED: (QuoteState.DRAFT,),
    QuoteState.DONE: (),
}
"""Where a quote may go from each state."""


class Quote(models.Model):
    """What a finding asks for, offered to the customer at a price."""

    heater = models.ForeignKey("heaters.Heater", on_delete=models.PROTECT, related_name="quotes")
    visit = models.ForeignKey("visits.Visit", null=True, blank=True, on_delete=models.PROTECT, related_name="quotes")
    what = models.CharField(max_length=16, choices=choices(FollowUp))
    why = ArrayField(models.CharField(max_length=240), default=list, blank=True)
    state = models.CharField(max_length=8, choices=QuoteState.choices, default=QuoteState.DRAFT)
    raised_on = models.DateField()
    sent_on = models.DateField(null=True, blank=True)
    answered_on = models.DateField(null=True, blank=True)
    done_on = models.DateField(null=True, blank=True)
    warranty_until = models.DateField(
        null=True, blank=True, help_text="The part to be renewed is ours to stand for until then: no charge."
    )
    valid_until = models.DateField(null=True, blank=True)
    version = models.PositiveIntegerField(default=1)

    history = kept_history()

    class Meta:
        ordering: ClassVar = ["-raised_on", "-pk"]
        indexes: ClassVar = [models.Index(fields=["state", "raised_on"])]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(state__in=QuoteState.values), name="quote_state_is_known"),
            models.UniqueConstraint(
                fields=["heater", "what"], condition=Q(state__in=OPEN), name="quote_open_once_a_heater"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.what} for {self.heater_id}"


class QuoteLine(models.Model):
    """One priced thing of a quote; its price is the quote's own once it stands there."""

    quote = models.ForeignKey(Quote, on_delete=models.CASCADE, related_name="lines")
    key = models.CharField(max_length=80)
    words = models.CharField(max_length=120)
    quantity = models.DecimalField(max_digits=9, decimal_places=2, default=Decimal(1))
    price = models.DecimalField(max_digits=12, decimal_places=2, null=True, blank=True, validators=_NOT_NEGATIVE)

    class Meta:
        ordering: ClassVar = ["pk"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(quantity__gt=0), name="quote_line_quantity_is_positive"),
            models.CheckConstraint(condition=Q(price__isnull=True) | Q(price__gte=0), name="quote_line_price_is_fair"),
        ]

    def __str__(self) -> str:
        return self.words

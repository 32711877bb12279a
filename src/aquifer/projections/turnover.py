"""What the company's own record says of who comes, who goes, who calls and who takes advice."""

import datetime
from dataclasses import dataclass

from django.db.models import Q

from aquifer.core.ahead import Turnover
from aquifer.core.ahead.turnover import learned_share
from aquifer.core.follow_up import FollowUp
from aquifer.core.vocabulary import EndCause
from aquifer.heaters.models import Heater
from aquifer.money.models import Quote, QuoteState
from aquifer.rounds.models import Appointment, AppointmentStatus, Reason
from aquifer.visits.models import Visit

LOOKED_BACK_YEARS = 3
"""Far enough for counts, near enough to be like what comes. Assumption."""
TAKEN_OVER_HEATERS = 20
"""So many that come into care on one day were taken over at once: that says nothing of a usual year. Assumption."""
ADVICE_TAKEN, ADVICE_WEIGHT = 0.3, 10.0
"""Share of the tanks due for replacement that owners replace, before any quote says so, and how many answers that is
worth. Assumption."""
UNPLANNED = (Reason.EMERGENCY, Reason.COMPLAINT, Reason.CALL_BACK)


@dataclass(frozen=True)
class OnRecord:
    turnover: Turnover
    calls: tuple[int, ...]
    """By year, the latest first."""
    heater_years: tuple[float, ...]
    """In care in each; the first year of a record may be a part of one."""
    accepted: float
    """Share of advised replacements that owners agree to."""


def on_record(today: datetime.date) -> OnRecord:
    """Of the last years, of as many as the company has."""
    since = today - datetime.timedelta(days=round(365.25 * LOOKED_BACK_YEARS))
    first = Visit.objects.order_by("on").values_list("on", flat=True).first()
    years = max((today - max(since, first)).days / 365.25, 0.0) if first is not None and first <= today else 0.0
    heaters = Heater.objects.in_service().count()
    left = Heater.objects.filter(ended_on__gt=since, ended_on__lte=today, end_cause=EndCause.LEFT).count()
    came = Heater.objects.filter(in_care_since__gt=since, in_care_since__lte=today, predecessors__isnull=True)
    days: dict[datetime.date, int] = {}
    for day in came.values_list("in_care_since", flat=True):
        if day is not None:
            days[day] = days.get(day, 0) + 1
    joined = sum(number for number in days.values() if number < TAKEN_OVER_HEATERS)
    called = Appointment.objects.filter(on__gt=since, on__lte=today, reason__in=UNPLANNED)
    called = called.exclude(standing=AppointmentStatus.CALLED_OFF)
    back = [(today - day).days / 365.25 for day in called.values_list("on", flat=True) if day is not None]
    spans = _spans(years)
    answers = Quote.objects.filter(what=FollowUp.HEATER)
    yes = answers.filter(state__in=(QuoteState.ACCEPTED, QuoteState.DONE)).count()
    no = answers.filter(state__in=(QuoteState.DECLINED, QuoteState.LAPSED)).count()
    return OnRecord(
        Turnover(
            joining=joined / years if years > 0 else 0.0,
            leaving=learned_share(left, heaters * years),
        ),
        tuple(sum(1 for one in back if number <= one < number + 1) for number in range(len(spans))),
        tuple(heaters * span for span in spans),
        (ADVICE_WEIGHT * ADVICE_TAKEN + yes) / (ADVICE_WEIGHT + yes + no),
    )


def _spans(years: float) -> list[float]:
    """How much of each year back is on record, the latest first."""
    return [min(years - number, 1.0) for number in range(LOOKED_BACK_YEARS) if years > number]


def ended(first: datetime.date, last: datetime.date) -> Q:
    """Heaters whose time with us ended in these days, both included."""
    return Q(ended_on__gte=first, ended_on__lte=last)

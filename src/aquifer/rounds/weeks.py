"""The weeks of visits follow the day on which the company's weeks begin."""

import datetime

from django.db import transaction
from django.db.models.signals import post_save

from aquifer.company.models import Company, WeekStart
from aquifer.rounds.models import Appointment, Run

MIDDLE = datetime.timedelta(days=3)
"""A week without a day becomes the one that most of its days lie in."""


def follow() -> None:
    """Align the visits whenever the company is saved, also by taking a change back."""
    post_save.connect(_hears, sender=Company, dispatch_uid="rounds.weeks")


def _hears(instance: Company, **_: object) -> None:
    align(WeekStart(instance.week_start))


@transaction.atomic
def align(start: WeekStart) -> None:
    """Put every visit and plan into the week that its day, or most of its week, lies in; cheap where they are."""
    weeks = Appointment.objects.exclude(week__iso_week_day=start.weekday + 1)
    for on, week in set(weeks.values_list("on", "week")):
        Appointment.objects.filter(on=on, week=week).update(week=start.week_of(on or week + MIDDLE))
    for run in Run.objects.exclude(first_week__iso_week_day=start.weekday + 1):
        Run.objects.filter(pk=run.pk).update(first_week=start.week_of(run.first_week + MIDDLE))

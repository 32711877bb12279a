"""What somebody may do alone: what an apprentice was signed off for, and by whom until when."""

import datetime
from collections.abc import Iterable

from django.db.models import Q, QuerySet

from aquifer.accounts.access import Action, may
from aquifer.accounts.models import SignOff, User
from aquifer.core.vocabulary import LOOKED_AT, Component, Task


def in_force(day: datetime.date) -> "QuerySet[SignOff]":
    """Those that hold on a day: the last day is one of them."""
    return SignOff.objects.filter(Q(until=None) | Q(until__gte=day), ended_at=None)


def works_under_supervision(user: User) -> bool:
    """Whether somebody needs a sign-off for what they do alone: an apprentice, and whoever is new."""
    return user.is_new or not may(user.role, Action.RECORD_ALONE)


def work_of(tasks: Iterable[Task], planned: Iterable[Component]) -> list[Component]:
    """What a visit did, as one is signed off for it, in the order of ``Component``.

    Parameters: its tasks; what was to be done. A test of pressure, a burner that was cleaned and a look all round are
    the looking over, as which the tank stands.
    """
    done = {LOOKED_AT.get(task, Component.TANK) for task in tasks} | set(planned)
    return [component for component in Component if component in (done or {Component.TANK})]


def lacking(user: User, work: Iterable[Component], day: datetime.date) -> list[Component]:
    """For which of this work somebody has to be with them on that day."""
    if not works_under_supervision(user):
        return []
    held = set(in_force(day).filter(person=user).values_list("work", flat=True))
    return [component for component in work if component.value not in held]

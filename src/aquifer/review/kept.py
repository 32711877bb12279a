"""Answers about the whole base: reckoned when somebody asks, and of a large base after the night's forecasts."""

import datetime
from collections.abc import Callable, Mapping
from typing import TypeVar, cast

from django.utils import timezone

from aquifer.forecasts.models import Due
from aquifer.forecasts.night import LARGE
from aquifer.review import accuracy, practices, replacements
from aquifer.review.models import KeptFigures

GOOD_FOR = datetime.timedelta(hours=30)
"""A night that was missed is noticed by the next morning. Assumption."""
Answer = TypeVar("Answer", bound=Mapping[str, object])

_RECKONED: dict[str, Callable[[datetime.date], Mapping[str, object]]] = {
    "practices": practices.read,
    "forecasts": accuracy.read,
    "replacements": replacements.read,
}


def read(question: str, reckon: Callable[[datetime.date], Answer], today: datetime.date) -> Answer:
    """The answer as it was kept last night, or as it is now. It says when it was kept: ``kept_at``."""
    if Due.objects.count() >= LARGE:
        kept = KeptFigures.objects.filter(question=question, computed_at__gt=timezone.now() - GOOD_FOR).first()
        if kept is not None:
            return cast(Answer, {**kept.answer, "kept_at": kept.computed_at})
    return reckon(today)


def renew(today: datetime.date) -> None:
    """Reckon all of them anew; nothing is kept of a base that is not large."""
    if Due.objects.count() < LARGE:
        KeptFigures.objects.all().delete()
        return
    for question, reckon in _RECKONED.items():
        KeptFigures.objects.update_or_create(
            question=question, defaults={"answer": reckon(today), "computed_at": timezone.now()}
        )

"""Whether a visit is one that was entered before: two slips of one day's work, or one slip with its date misread."""

import datetime
from collections.abc import Iterable, Mapping

from aquifer.core.vocabulary import Task

WITHIN_DAYS = 10
"""A slip's date is misread by a digit, or is that of the day on which it was typed. Services lie months apart.
Assumption."""
Said = frozenset[str]
"""What a visit says, a fact each: which task, and what was found by it."""


def facts(findings: Iterable[tuple[Task, Mapping[str, object]]]) -> Said:
    """What findings say, so that two visits can be held against each other. Parameters: each with its task and what was
    found; what is empty, false or none says nothing."""
    said = set[str]()
    for task, found in findings:
        said.add(task.value)
        for name, value in found.items():
            if value not in (None, "", False):
                told = f"{value:g}" if isinstance(value, int | float) and not isinstance(value, bool) else str(value)
                said.add(f"{task.value} {name} {told}")
    return frozenset(said)


def entered_before(on: datetime.date, said: Said, others: Iterable[tuple[datetime.date, Said]]) -> datetime.date | None:
    """The day of another visit to the same heater that says the same, None if there is none: the nearest.

    On one day either may say more than the other. On days near each other both say the same, and more than which tasks
    were done: two looks that found nothing are two looks.
    """
    like = []
    for day, other in others:
        apart = abs((day - on).days)
        if not said or not other or apart > WITHIN_DAYS:
            continue
        is_same = said <= other or other <= said if apart == 0 else said == other and any(" " in one for one in said)
        if is_same:
            like.append((apart, day))
    return min(like)[1] if like else None

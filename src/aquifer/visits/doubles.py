"""What visits on record say, to be held against one that is entered."""

import datetime
from collections import defaultdict
from collections.abc import Iterable

from aquifer.core.doubles import Said, facts
from aquifer.core.vocabulary import Task
from aquifer.visits.models import Finding

_OF_RECORD = {"id", "visit", "heater", "part", "corrects", "amendment", "on", "sequence", "task"}
FOUND = tuple(field.name for field in Finding._meta.fields if field.name not in _OF_RECORD)
"""What a finding says besides its task."""


def on_record(heater_ids: Iterable[int]) -> dict[int, list[tuple[datetime.date, Said]]]:
    """Each heater's visits with what they say as it stands, corrections in the place of what they correct."""
    findings = defaultdict[tuple[int, int, datetime.date], list[tuple[Task, dict[str, object]]]](list)
    rows = Finding.objects.filter(heater__in=list(heater_ids), correction__isnull=True)
    for heater_id, visit_id, on, task, *found in rows.values_list("heater", "visit", "on", "task", *FOUND):
        findings[heater_id, visit_id, on].append((Task(task), dict(zip(FOUND, found, strict=True))))
    said = defaultdict[int, list[tuple[datetime.date, Said]]](list)
    for (heater_id, _, on), told in findings.items():
        said[heater_id].append((on, facts(told)))
    return said

"""What somebody should look at about how the steps of recorded visits were done."""

import datetime
from collections import Counter
from collections.abc import Mapping

from aquifer.core.procedures.library import library
from aquifer.core.units import Quantity, Unit
from aquifer.visits.models import Visit
from aquifer.visits.schemas import StepMarkedOut
from aquifer.visits.words import step_words, units_shown

SAYS = {
    "held": "done although it was not safe yet",
    "unlicensed": "done without the license for it",
    "override": "done by decision although it was held",
    "no_reason": "left out without a reason",
}
"""What is looked at afterwards. A step out of its order, or a look that was too quick, was settled at the visit."""


def marked(visit: Visit, units: Mapping[Quantity, Unit] | None = None) -> list[str]:
    """What was done otherwise than the guide allows at a visit, in words. Parameters: units, where they are known."""
    units = units or units_shown()
    return [
        f"{step_words(name, units)} {SAYS[kind].capitalize()}, by {one['by']}{_why(one)}."
        for one, name, kind in _marked(visit)
    ]


def _marked(visit: Visit) -> list[tuple[Mapping[str, str], str, str]]:
    return [
        (one, one["step"], kind)
        for one in visit.steps
        for kind in (*one.get("marks", ()), *(["override"] if one["kind"] == "override" else []))
        if kind in SAYS
    ]


def _why(one: Mapping[str, str]) -> str:
    return f": {str(one['why']).rstrip('.')}" if one.get("why") else ""


def by_step(since: datetime.date) -> list[StepMarkedOut]:
    """The steps that were done otherwise than the guide allows at visits since a day, the most frequent first."""
    counts: Counter[tuple[str, str]] = Counter()
    for visit in Visit.objects.filter(on__gte=since).exclude(steps=[]).only("steps").iterator():
        counts.update({(name, kind) for _, name, kind in _marked(visit)})
    units = units_shown()
    return [
        {"step": step_words(name, units), "procedure": _title(name), "says": SAYS[kind], "visits": number}
        for (name, kind), number in counts.most_common(40)
    ]


def _title(name: str) -> str:
    procedure = library().procedures.get(name.partition(".")[0])
    return procedure.title if procedure else ""

"""What was read off instruments at visits, as it stands: with what was put right later, and over the years."""

import re
from collections.abc import Iterable, Iterator, Mapping

from aquifer.core.observations import BY_FIELD, OBSERVATIONS
from aquifer.core.readings import READINGS, SEEN
from aquifer.core.units import METRIC, Quantity, Unit, worded
from aquifer.errors import Invalid
from aquifer.visits.models import Finding, Visit
from aquifer.visits.schemas import ReadingOut, ReadPointOut


def told(answers: Mapping[str, object]) -> dict[str, float]:
    """The readings among a visit's answers that are no part of a finding."""
    return {
        name: float(value)
        for name, value in answers.items()
        if name in READINGS
        and not READINGS[name].finding
        and isinstance(value, int | float)
        and not isinstance(value, bool)
    }


def checked(answers: Mapping[str, object]) -> dict[str, float]:
    """The same, of an amendment. Raises: Invalid naming each that no instrument can read."""
    found = told(answers)
    wrong = {
        name: f"{value:g} is not between {READINGS[name].low:g} and {READINGS[name].high:g}"
        for name, value in found.items()
        if not READINGS[name].low <= value <= READINGS[name].high
    }
    if wrong:
        said = "; ".join(f"{READINGS[name].says}: {why}" for name, why in wrong.items())
        raise Invalid(f"Not recorded. {said}", "visit.invalid", wrong)
    return found


def standing(visit: Visit) -> dict[str, float]:
    """A visit's readings beside its findings, each as it was put right last. Its amendments may be prefetched."""
    found = told(visit.readings)
    for amendment in sorted(visit.amendments.all(), key=lambda amendment: (amendment.at, amendment.pk)):
        found.update(told(amendment.readings))
    return found


_KEPT = ("fitted", "fitted_build", "course")


def told_in_words(answers: Mapping[str, object]) -> dict[str, object]:
    """What was seen or fitted among answers, and is no part of a finding."""
    return {
        name: value
        for name, value in answers.items()
        if value and (name in SEEN or name in BY_FIELD or name.partition(".")[0] in _KEPT)
    }


def in_words(visit: Visit) -> dict[str, object]:
    """The same of a visit, each as it was put right last."""
    found = told_in_words(visit.readings)
    for amendment in sorted(visit.amendments.all(), key=lambda amendment: (amendment.at, amendment.pk)):
        found.update(told_in_words(amendment.readings))
    return found


def seen(visit: Visit) -> list[str]:
    """What was seen at a visit and is no part of a finding, in words; and which readings an instrument told."""
    taken = in_words(visit)
    looked = [f"{says[0].upper()}{says[1:]}: {words}" for _, says, words in _worded(taken)]
    return [*looked, *courses(taken)]


def courses(taken: Mapping[str, object]) -> Iterator[str]:
    """A course is told as its instrument, then seconds and values: ``gauge; 0 412, 45 415``."""
    for name, told in taken.items():
        group, _, field = name.partition(".")
        reading = next((one for key, one in READINGS.items() if key.replace(".", "_") == field), None)
        if group != "course" or reading is None:
            continue
        instrument, _, points = str(told).partition(";")
        last = re.search(r"(\d+)\s[^,]*$", points)
        long = f" over {round(int(last[1]) / 60)} min" if last and int(last[1]) >= 60 else ""
        yield f"{reading.says[0].upper()}{reading.says[1:]}: read off the {instrument.strip()}{long}"


def _worded(taken: Mapping[str, object]) -> Iterator[tuple[str, str, str]]:
    """Field, name and words of each of those that was told."""
    for name, (says, named) in SEEN.items():
        if name in taken:
            yield name, says, named.get(str(taken[name]), str(taken[name]))
    for observation in OBSERVATIONS:
        if observation.field in taken:
            look = observation.look(str(taken[observation.field]))
            yield observation.field, observation.says, look.words if look else str(taken[observation.field])


def fitted(visit: Visit) -> list[str]:
    """Parts that were fitted and told by their kind alone, each with its build where somebody said it."""
    taken = in_words(visit)
    kinds = [name.removeprefix("fitted.") for name in taken if name.startswith("fitted.")]
    builds = {kind: str(taken.get(f"fitted_build.{kind}") or "") for kind in kinds}
    return [f"new {kind.replace('_', ' ')}{', ' + build if build else ''}" for kind, build in builds.items()]


def words(readings: Mapping[str, float], units: Mapping[Quantity, Unit]) -> list[str]:
    """Each as a line of the log, in the order of the table."""
    told = [worded(reading.words(readings[name]), units) for name, reading in READINGS.items() if name in readings]
    return [f"{line[0].upper()}{line[1:]}" for line in told]


def over_the_years(visits: Iterable[tuple[Visit, list[Finding]]]) -> list[ReadingOut]:
    """Every kind of reading that was ever taken at a heater, with its points in time.

    Parameters: its visits in their order, each with the findings that stand.
    """
    points: dict[str, list[ReadPointOut]] = {}
    for visit, findings in visits:
        taken = standing(visit)
        for finding in findings:
            for name, reading in READINGS.items():
                group, _, field = name.partition(".")
                value = getattr(finding, field) if reading.finding and _GROUP.get(finding.task) == group else None
                if value is not None:
                    taken[name] = value
        for name, value in taken.items():
            points.setdefault(name, []).append({"on": visit.on, "value": value, "by": visit.technician})
    return [
        {"field": name, "says": reading.says, "unit": reading.unit, "points": points[name]}
        for name, reading in READINGS.items()
        if name in points
    ]


COLUMNS = ("heater", "on", "technician", "reading", "value", "unit", "visit")


def exported() -> Iterator[dict[str, object]]:
    """Every reading of every heater in service as it stands, a row each, in the units in which it is kept; and what was
    seen, in words and without a unit."""
    visits = Visit.objects.filter(heater__archived_at__isnull=True).select_related("heater", "recorded_by")
    visits = visits.prefetch_related("findings__correction", "amendments").order_by("pk")
    for visit in visits.iterator(chunk_size=2000):
        findings = [finding for finding in visit.findings.all() if not hasattr(finding, "correction")]
        row = {
            "heater": visit.heater.tag, "on": visit.on, "visit": str(visit.client_id),
            "technician": visit.technician or (visit.recorded_by.name if visit.recorded_by else ""),
        }  # fmt: skip
        for reading in over_the_years([(visit, findings)]):
            unit = METRIC[Quantity(reading["unit"])].label if reading["unit"] in set(Quantity) else reading["unit"]
            for point in reading["points"]:
                yield {**row, "reading": reading["field"], "value": point["value"], "unit": unit}
        for field, _, words in _worded(in_words(visit)):
            yield {**row, "reading": field, "value": words, "unit": ""}


_GROUP = {
    "flush": "flush", "descale": "descale", "anode_inspection": "rod", "expansion_tank_check": "expansion_tank",
    "pressure_test": "pressure",
}  # fmt: skip
"""The group of a visit's answers from which each finding is made."""

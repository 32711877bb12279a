"""What was read off or seen at a past visit, as a file tells it: under the names by which a visit answers it."""

from aquifer.core.kinds import HeaterKind
from aquifer.core.observations import BY_FIELD, OBSERVATIONS
from aquifer.core.readings import READINGS, SEEN
from aquifer.formats.cells import BadCell, figure_in

NAMES = (
    *(name for name, reading in READINGS.items() if not reading.finding),
    *SEEN,
    *(observation.field for observation in OBSERVATIONS),
)
"""Those that are no part of a finding: the others have columns of their own."""
YES = ("yes", "true")


def answer(name: str, value: str, unit: str, kind: HeaterKind) -> float | str | bool:
    """What a row says, as a visit keeps it; a look by its own word or by the words of the log.

    Raises: BadCell with what is allowed.
    """
    if not value:
        raise BadCell("needed: what was read or seen")
    if name in READINGS:
        reading = READINGS[name]
        return float(figure_in(reading.unit, reading.low, reading.high)(f"{value} {unit}".strip()))
    if unit:
        raise BadCell(f"{unit[:20]!r}: what is seen has no unit")
    if name in SEEN:
        return _seen(SEEN[name][1], value)
    observation = BY_FIELD[name]
    if kind not in observation.of:
        raise BadCell(f"the {observation.says} is not looked at on such a heater")
    return _one_of({look.value: look.words for look in observation.looks}, value)


def _seen(named: dict[str, str], value: str) -> str | bool:
    if not named:
        return value
    # What is only told where it is so.
    if set(named) == {"True"}:
        _one_of({**named, **dict.fromkeys(YES, "")}, value.lower() if value.lower() in YES else value)
        return True
    return _one_of(named, value)


def _one_of(words: dict[str, str], value: str) -> str:
    plain = " ".join(value.lower().split())
    for name, says in words.items():
        if plain and plain in (name.lower(), name.lower().replace("_", " "), says.lower()):
            return name
    raise BadCell(f"{value[:40]!r} is unknown; allowed: {', '.join(words)}")

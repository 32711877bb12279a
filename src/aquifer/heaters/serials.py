"""When heaters were made, by what the company has taught of their makers' serials."""

import datetime

from aquifer.core import serial
from aquifer.errors import Invalid
from aquifer.heaters.models import Heater, SerialPattern
from aquifer.heaters.schemas import MadeOut, SerialPatternIn, SerialPatternOut
from aquifer.history import versions


def taught() -> list[SerialPatternOut]:
    """What was taught of makers' serials, by maker."""
    patterns = list(SerialPattern.objects.order_by("maker"))
    known = versions.versions(SerialPattern, [pattern.pk for pattern in patterns])
    return [_out(pattern, known.get(pattern.pk, 0)) for pattern in patterns]


def teach(payload: SerialPatternIn) -> SerialPatternOut:
    """Where a maker's serials tell their date. Raises: Invalid naming the field; Conflict if taught since."""
    pattern = serial.Pattern(payload.year_at, payload.year_digits, payload.week_at, payload.month_at)
    if wrong := pattern.faults():
        raise Invalid("Not kept. " + "; ".join(wrong.values()), "serial.invalid", wrong)
    known = SerialPattern.objects.filter(maker__iexact=payload.maker).first()
    key, said = {"maker": known.maker if known else payload.maker}, payload.model_dump(exclude={"maker", "version"})
    kept = versions.write(SerialPattern, key, payload.version, said)
    return _out(kept, versions.version_of(kept))


def _out(known: SerialPattern, version: int) -> SerialPatternOut:
    return {
        "version": version, "maker": known.maker, "year_at": known.year_at, "year_digits": known.year_digits,
        "week_at": known.week_at, "month_at": known.month_at,
    }  # fmt: skip


def made(heater: Heater, today: datetime.date) -> MadeOut | None:
    """When a heater was made, and what does not fit with its date; None where nobody has taught its maker's serials."""
    if not heater.serial or not heater.maker:
        return None
    known = SerialPattern.objects.filter(maker__iexact=heater.maker).first()
    span = serial.made(heater.serial, known.pattern(), today) if known else None
    if known is None or span is None:
        return None
    return {"first": span[0], "last": span[1], "doubt": serial.doubt(span, heater.installed_on)}

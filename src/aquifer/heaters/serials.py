"""When heaters were made, by what the company has taught of their makers' serials."""

import datetime

from aquifer.core import serial
from aquifer.errors import Invalid
from aquifer.heaters.models import Heater, SerialPattern
from aquifer.heaters.schemas import MadeOut, SerialPatternIn


def teach(payload: SerialPatternIn) -> SerialPattern:
    """Where a maker's serials tell their date. Raises: Invalid naming the field."""
    pattern = serial.Pattern(payload.year_at, payload.year_digits, payload.week_at, payload.month_at)
    if wrong := pattern.faults():
        raise Invalid("Not kept. " + "; ".join(wrong.values()), "serial.invalid", wrong)
    known = SerialPattern.objects.filter(maker__iexact=payload.maker).first() or SerialPattern(maker=payload.maker)
    for name, value in payload.model_dump(exclude={"maker"}).items():
        setattr(known, name, value)
    known.save()
    return known


def made(heater: Heater, today: datetime.date) -> MadeOut | None:
    """When a heater was made, and what does not fit with its date; None where nobody has taught its maker's serials."""
    if not heater.serial or not heater.maker:
        return None
    known = SerialPattern.objects.filter(maker__iexact=heater.maker).first()
    span = serial.made(heater.serial, known.pattern(), today) if known else None
    if known is None or span is None:
        return None
    return {"first": span[0], "last": span[1], "doubt": serial.doubt(span, heater.installed_on)}

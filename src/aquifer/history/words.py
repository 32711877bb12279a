"""What stands in a field of a record, as people read it in its history."""

import calendar
import datetime

from django.db.models import ForeignKey

from aquifer.history.marks import Column

_TIMES = frozenset({"begins", "ends", "lunch_earliest", "lunch_latest", "quiet_from", "quiet_until"})
"""Fields that are kept as minutes after midnight."""


def words(field: Column, value: object) -> str:
    """A value of a field in words; an empty one is "nothing"."""
    if value is None or value in ("", [], {}):
        return "nothing"
    if field.name in _TIMES and isinstance(value, int):
        return f"{value // 60}:{value % 60:02d}"
    if field.name == "weekdays" and isinstance(value, list):
        return ", ".join(calendar.day_abbr[day] for day in value)
    if field.name == "logo":
        return "a picture"
    if isinstance(value, list):
        return ", ".join(str(one).replace("_", " ") for one in value)
    if isinstance(value, dict):
        return ", ".join(f"{name} {one}".replace("_", " ") for name, one in value.items())
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(field, ForeignKey):
        return str(field.related_model._base_manager.filter(pk=value).first() or value)
    if isinstance(value, datetime.datetime):
        return value.date().isoformat()
    return f"{value:g}" if isinstance(value, float) else str(value)

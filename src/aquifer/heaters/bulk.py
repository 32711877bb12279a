"""Changing many heaters at once, after a look at what it would do."""

from dataclasses import dataclass, field

from django.db import transaction
from django.db.models import F, QuerySet

from aquifer.accounts.models import User
from aquifer.core.bounds import Bound, bound
from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.vocabulary import Practice
from aquifer.errors import Conflict, Invalid
from aquifer.heaters.models import Heater, InstallCertainty
from aquifer.heaters.schemas import PreviewRowOut
from aquifer.history import in_bulk

MOST = 5000
Value = str | float | bool | None


SETTABLE: dict[str, tuple[str | bool, ...] | Bound | int] = {
    "practice": (*(practice.value for practice in Practice), ""),
    "setpoint_c": bound("heater.setpoint_c"),
    "install_certainty": tuple(InstallCertainty.values),
    "maker": 80,
    "model": 80,
    "bank": 40,
    "recirculated": (True, False),
}
"""What can be set for many, and what each may be: words, a range, or text of a length."""


@dataclass
class Preview:
    total: int
    changed: int
    shown: list[PreviewRowOut] = field(default_factory=list)
    refused: list[str] = field(default_factory=list)


def preview(heaters: "QuerySet[Heater]", name: str, value: Value) -> Preview:
    """What setting a field to a value would do to these heaters. Raises: Invalid for a field or value not allowed."""
    value = checked(name, value)
    rows = list(heaters.select_related("site")[: MOST + 1])
    if len(rows) > MOST:
        raise Invalid(f"These are more than {MOST} heaters; narrow the sentence.", fields={"q": "too many"})
    changing = [heater for heater in rows if getattr(heater, name) != value and not _why_not(heater, name)]
    refused = sorted({why for heater in rows if (why := _why_not(heater, name))})
    shown: list[PreviewRowOut] = [
        {"id": heater.pk, "tag": heater.tag, "site": heater.site.name, "before": getattr(heater, name)}
        for heater in changing[:20]
    ]
    return Preview(len(rows), len(changing), shown, refused)


def change(heaters: "QuerySet[Heater]", name: str, value: Value, expected: int, by: User) -> list[int]:
    """Set it, if it still changes as many as the person saw; returns which. Raises: Conflict, Invalid."""
    value = checked(name, value)
    with transaction.atomic():
        rows = [
            heater
            for heater in heaters.select_for_update(of=("self",))[: MOST + 1]
            if getattr(heater, name) != value and not _why_not(heater, name)
        ]
        if len(rows) != expected:
            raise Conflict(
                f"It would now change {len(rows)} heaters, not {expected}: look again.", "heaters.changed_meanwhile"
            )
        if rows:
            ids = [heater.pk for heater in rows]
            Heater.objects.filter(pk__in=ids).update(**{name: value}, version=F("version") + 1)
            in_bulk.keep(Heater, ids, in_bulk.CHANGED, by)
    return [heater.pk for heater in rows]


def checked(name: str, value: Value) -> Value:
    """The value as it is stored. Raises: Invalid, saying what is allowed."""
    if name not in SETTABLE:
        raise Invalid(f"{name[:40]!r} is not set for many; allowed: {', '.join(SETTABLE)}.", fields={"field": "?"})
    allowed = SETTABLE[name]
    if isinstance(allowed, int):
        if isinstance(value, str) and len(value.strip()) <= allowed:
            return value.strip()
        raise Invalid(f"Text of at most {allowed} characters is allowed.", fields={"value": "too long"})
    if isinstance(allowed, Bound):
        if value is None or (isinstance(value, int | float) and allowed.low <= value <= allowed.high):
            return value
        raise Invalid(f"{allowed.low:g} to {allowed.high:g} degC is allowed.", fields={"value": "out of range"})
    if value not in allowed:
        raise Invalid(f"Allowed: {', '.join(str(one) or 'none' for one in allowed)}.", fields={"value": "not allowed"})
    return value


def _why_not(heater: Heater, name: str) -> str:
    if name == "recirculated" and KINDS[HeaterKind(heater.kind)].has_plug:
        return "vehicle tanks have no loop and stay as they are"
    return ""

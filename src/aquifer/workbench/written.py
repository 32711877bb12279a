"""Heaters to practise on that the company wrote itself, beside those that ship; and one made of a heater on record."""

import tomllib
from collections.abc import Callable, Mapping
from contextlib import suppress
from typing import Any, TypeVar

from django.db import transaction

from aquifer.accounts.models import User
from aquifer.core.bench.scenario import Scenario, read, scenarios, toml
from aquifer.core.bench.scenario import written as as_text
from aquifer.core.bench.trouble.trouble import Trouble, troubles
from aquifer.core.bench.trouble.trouble import read as read_troubles
from aquifer.core.kinds import KINDS, Fuel, HeaterKind
from aquifer.core.place.feature import FeatureKind
from aquifer.core.vocabulary import Component, DrainFlow, ValveOutcome
from aquifer.errors import Invalid, NotFound
from aquifer.forecasts.models import Forecast
from aquifer.forecasts.sized import sized
from aquifer.heaters.models import Heater, PartKind
from aquifer.places.models import Feature
from aquifer.visits.models import Finding
from aquifer.workbench.models import Written
from aquifer.workbench.schemas import WrittenOut

T = TypeVar("T", Scenario, Trouble)
Reads = Callable[[Mapping[str, Any]], Mapping[str, T]]

MOST = 200
"""Nobody practises more of their own. Assumption."""
HARDENED = 0.25
"""Share of a bed that is baked, where nobody saw it. Assumption."""


def known_scenarios() -> Mapping[str, Scenario]:
    """Those that ship, then the company's own."""
    return {**scenarios(), **_own(read, is_trouble=False)}


def known_troubles() -> Mapping[str, Trouble]:
    """Those that ship, then the company's own."""
    return {**troubles(), **_own(read_troubles, is_trouble=True)}


def _own(reads: Reads[T], is_trouble: bool) -> dict[str, T]:
    """What no longer reads, because the program has changed since, is not offered; its text stays to be mended."""
    known: dict[str, T] = {}
    for one in Written.objects.filter(is_trouble=is_trouble):
        with suppress(ValueError):
            known |= reads(tomllib.loads(one.text))
    return known


def listed() -> list[WrittenOut]:
    """The company's own."""
    return [
        {
            "name": one.name,
            "text": one.text,
            "is_trouble": one.is_trouble,
            "by": one.by.name,
            "at": one.at,
        }
        for one in Written.objects.select_related("by")
    ]


def write(by: User, text: str) -> None:
    """Keep each table of a text; one of a name that is known already takes its place.

    Raises: Invalid naming the table, the field and what is allowed; nothing is kept then.
    """
    try:
        tables = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise Invalid(f"That is not TOML: {error}.", fields={"text": str(error)}) from error
    if not tables:
        raise Invalid("There is no heater in it.", fields={"text": "a table, its name in brackets"})
    with transaction.atomic():
        for name, told in tables.items():
            _write(by, name, told)
        if Written.objects.count() > MOST:
            raise Invalid(f"No more than {MOST} of your own are kept.", fields={"text": "take some out first"})


def _write(by: User, name: str, told: object) -> None:
    if not isinstance(told, dict):
        raise Invalid(f"{name} stands in no table.", fields={"text": f"[a_name] above it; {name} = ..."})
    if len(name) > 60 or not (name.isascii() and name.replace("_", "").isalnum()):
        raise Invalid(f"{name} is no name.", fields={"text": "letters a to z, figures and _, at most 60"})
    if name in scenarios() or name in troubles():
        raise Invalid(f"{name} ships with Aquifer: call yours otherwise.", fields={"text": f"{name} is taken"})
    is_trouble = "fault" in told
    try:
        text = _trouble(name, told) if is_trouble else _scenario(name, told)
    except (ValueError, TypeError) as error:
        why = str(error)
        raise Invalid(f"{why[:1].upper()}{why[1:]}.", fields={"text": why}) from error
    Written.objects.update_or_create(name=name, defaults={"text": text, "is_trouble": is_trouble, "by": by})


def _scenario(name: str, told: Mapping[str, object]) -> str:
    scenario = read({name: told})[name]
    # Each seed's heater stands still and quiet before anybody comes.
    scenario.built(1)
    return _as_read(as_text(scenario), read, scenario)


def _trouble(name: str, told: Mapping[str, object]) -> str:
    trouble = read_troubles({name: told})[name]
    text = "\n".join([f"[{name}]", *(f"{field} = {toml(value)}" for field, value in told.items()), ""])
    return _as_read(text, read_troubles, trouble)


def _as_read(text: str, reads: Reads[T], one: T) -> str:
    """The text, if it reads as what was written: what is kept is read at every call."""
    if one not in reads(tomllib.loads(text)).values():
        raise ValueError("its text does not read as it was written")
    return text


def take_out(name: str) -> None:
    """It is practised no more; who practised it keeps what he did. Raises: NotFound."""
    if not Written.objects.filter(name=name).delete()[0]:
        raise NotFound("You wrote none of that name.", fields={"name": "not known"})


def of_heater(heater_id: int) -> str:
    """A heater on record as one to practise on: its plate, its water, what its last visits found; no name, no street.

    Raises: NotFound; Invalid for a kind that is no tank.
    """
    heater = Heater.objects.in_service().select_related("site").filter(pk=heater_id).first()
    if heater is None:
        raise NotFound("There is no such heater, or it was archived.", fields={"heater_id": "no such heater"})
    kind = HeaterKind(heater.kind)
    if not kind.is_tank or KINDS[kind].fuel not in (Fuel.GAS, Fuel.ELECTRIC, Fuel.BOILER):
        raise Invalid("Only tanks are practised whole.", fields={"heater_id": "another kind"})
    parts = {PartKind(part.kind): part for part in heater.parts.filter(removed_on__isnull=True)}
    forecasts = {Component(one.component): one for one in Forecast.objects.current().filter(heater=heater)}
    figures = sized(heater, forecasts, parts)
    bed_l = _bed_l(heater, forecasts, figures.capacity_l / 1000 / figures.height_m)
    outcome = _last(heater, "outcome")
    build: dict[str, object] = {
        "litres": round(figures.capacity_l),
        "height_m": round(figures.height_m, 2),
        "input_kw": round(figures.input_kw, 1),
        "efficiency": round(figures.efficiency, 2),
        "supply_kpa": round(figures.static_kpa),
        "set_c": round(figures.setpoint_c),
        "expansion_l": round(_expansion_l(parts), 1),
        "loose_l": round((1 - HARDENED) * bed_l, 2),
        "hard_l": round(HARDENED * bed_l, 2),
        "drain_blocked": _last(heater, "drain_flow") == DrainFlow.NONE,
        "relief_stuck": outcome == ValveOutcome.NO_FLOW,
        "relief_weeps": outcome == ValveOutcome.FLOWS_AND_WEEPS,
        "outlet": "capped" if _is_capped(heater) else "floor drain",
    }
    return as_text(
        Scenario(
            name=f"as_found_{heater.pk}",
            title="As it was found",
            says=f"{_words(kind)}, as a visit found one of ours.",
            kind=kind,
            due=(Component.SEDIMENT, Component.RELIEF_VALVE),
            asks=("tap_c", "removed", "valve_outcome"),
            within_min=120.0,
            drained=False,
            left_alone=False,
            build=build,
        )
    )


def _words(kind: HeaterKind) -> str:
    return {Fuel.GAS: "A gas tank", Fuel.ELECTRIC: "An electric tank"}.get(KINDS[kind].fuel, "An indirect tank")


def _bed_l(heater: Heater, forecasts: Mapping[Component, Forecast], floor_m2: float) -> float:
    """What lay in it when it was last looked at, else what is believed to lie there, L."""
    measured = (
        Finding.objects.filter(heater=heater, depth_before_mm__isnull=False)
        .order_by("-on", "-pk")
        .values_list("depth_before_mm", flat=True)
        .first()
    )
    believed = forecasts[Component.SEDIMENT].state["depth_mm"][1] if Component.SEDIMENT in forecasts else 10.0
    return min((believed if measured is None else measured) * floor_m2, 100.0)


def _expansion_l(parts: Mapping[PartKind, object]) -> float:
    part = parts.get(PartKind.EXPANSION_TANK)
    return 0.0 if part is None else float(getattr(part, "volume_l", None) or 8.0)


def _last(heater: Heater, field: str) -> str:
    found = Finding.objects.filter(heater=heater).exclude(**{field: ""}).order_by("-on", "-pk")
    return found.values_list(field, flat=True).first() or ""


def _is_capped(heater: Heater) -> bool:
    return Feature.objects.filter(
        site=heater.site_id, gone=False, kind=FeatureKind.DISCHARGE_PIPE, condition="capped"
    ).exists()

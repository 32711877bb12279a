"""A row of an office's own list in words, as it will be kept: all that is written is seen before."""

import datetime
from collections.abc import Mapping

from aquifer.core.units import Quantity
from aquifer.core.vocabulary import Alloy
from aquifer.formats.cells import Cell
from aquifer.formats.heater_said import RodSaid
from aquifer.heaters.models import InstallCertainty
from aquifer.imports.entry import Entry, How


def preview(entry: Entry, heaters: list[tuple[dict[str, Cell], Entry]], way: How) -> dict[str, Cell]:
    """The values of a row and of its heaters, in the company's units; what could not be read with the reason."""
    heater = heaters[0][0]
    each = [next(record for record, own in heaters if own is one) for one in entry.heaters]
    counts = [sum(own is one for _, own in heaters) for one in entry.heaters]
    lines = {
        "heater": _heater_words(heater, counts[0], way),
        "make": " ".join(part for part in (heater["maker"], heater["model"]) if part),
        "serial": heater["serial"],
        "where it stands": heater["location"],
        "input": shown(heater["input_kw"], Quantity.POWER, way),
        "set at": shown(heater["setpoint_c"], Quantity.TEMPERATURE, way) or heater["control_setting"],
        "put in": _when_words(heater["installed_on"], heater["install_certainty"]),
        "pressure": shown(entry.said("pressure"), Quantity.PRESSURE, way),
        "hardness": shown(entry.said("hardness"), Quantity.HARDNESS, way),
        "water": ", ".join(_water_words(entry)),
        "people": f"{people:g}" if (people := entry.said("people")) else "",
        "rod": _rod_words(rod, way) if (rod := entry.said("anode")) else "",
        "relief valve": _when_words(valve.on, valve.certainty)
        if (valve := entry.said("relief_valve")) and valve.on
        else "",
        "expansion tank": _expansion_tank_words(entry, way),
        "last flush": _flush_words(heater),
        "town": entry.said("town") or (at.town if (at := entry.said("address")) else ""),
        "telephone": ", ".join(one for one in (entry.said("phone"), entry.said("second_phone")) if one),
        "note": heater["note"],
    }
    for number, (record, count) in enumerate(zip(each[1:], counts[1:], strict=True), start=2):
        when = _when_words(record["installed_on"], record["install_certainty"])
        serial = f", serial {record['serial']}" if record["serial"] else ""
        words = f"{_heater_words(record, count, way)}, put in {when}, last flush {_flush_words(record)}{serial}"
        lines[f"heater {number}"] = words
    if entry.above:
        lines["as above"] = f"the customer and address of row {entry.above}"
    unread = {f"not understood: {name}": why for own in (entry, *entry.others) for name, why in own.unread.items()}
    return {name: value for name, value in lines.items() if value} | unread


def shown(value: float | None, kind: Quantity, way: How) -> str:
    """A figure in the company's unit; nothing where there is none."""
    unit = way.units[kind]
    return "" if value is None else f"{unit.shown(value):.{unit.decimals}f} {unit.label}"


def _heater_words(heater: Mapping[str, Cell], count: int, way: How) -> str:
    kind = heater["kind"].value.replace("_", " ") if heater["kind_seen"] else "kind not known: to be looked at first"
    vent = f"{heater['vent']} vent" if heater["vent"] else ""
    parts = (f"{count} x" if count > 1 else "", kind, vent, shown(heater["capacity_l"], Quantity.VOLUME, way))
    return " ".join(part for part in parts if part)


def _when_words(on: datetime.date | None, certainty: str) -> str:
    if on is None:
        return "not known"
    return f"about {on.year}" if certainty == InstallCertainty.ESTIMATED else on.isoformat()


def _flush_words(heater: Mapping[str, Cell]) -> str:
    return str(heater["last_flush_year"] or heater["flush_history"].value)


def _water_words(entry: Entry) -> list[str]:
    softened = ["softened"] if entry.said("softener") else []
    return softened + (["from a well"] if entry.said("well") else [])


def _rod_words(rod: RodSaid, way: How) -> str:
    if rod.alloy == Alloy.NONE:
        return "none"
    since = f"since {rod.fitted_on.isoformat()}" if rod.fitted_on else "the first" if rod.original else ""
    metal = rod.alloy.replace("_", " and ") if rod.alloy else ""
    thick = shown(rod.diameter_mm, Quantity.LENGTH, way)
    parts = (metal, since, f"{thick} thick" if thick else "", "used up" if rod.used_up else "")
    return ", ".join(part for part in parts if part)


def _expansion_tank_words(entry: Entry, way: How) -> str:
    if not entry.said("expansion_tank"):
        return "none" if entry.said("expansion_tank") is False else ""
    return shown(entry.said("expansion_tank_l"), Quantity.VOLUME, way) or "there is one"

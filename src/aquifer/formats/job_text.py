"""What a line of somebody's job book says was done and found, in the trade's own shorthand.

A rule is a pattern and what it means; each rule that fits says its part, and what no rule understands stays as it was
written. Source of the words and grades: trade practice.
"""

import re
from collections.abc import Iterable
from typing import TypeVar

from aquifer.core.vocabulary import (
    DrainFlow,
    ExpansionTankPin,
    Fouling,
    Removed,
    RodGrade,
    Task,
    Texture,
    UpkeepItem,
    ValveOutcome,
)
from aquifer.formats.said import plainly

_QUART_L, _GALLON_L, _BUCKET_L = 0.946, 3.785, 19.0
"""A bucket of the trade holds five gallons."""
_FLUSHED = r"\bflush|\bdrained\b|\bsediment\b|\bqt\b|\bquarts?\b|\bbucket|\bspulen|gespult"
_REMOVED = (
    (Removed.BLOCKED, r"drain (is |was )?(plugged|blocked|clogged)|would not drain|verstopft"),
    (Removed.NONE, r"\bclear\b|\bclean\b|nothing (came )?out|sauber|klar"),
    (Removed.HEAVY, r"\blots\b|\bheavy|\bfull of\b|\bloaded|half (a )?bucket|1/2 bucket|bucket|viel\b"),
    (Removed.TRACE, r"\btrace|\ba bit\b|\blittle\b|cup\b|wenig"),
    (Removed.MODERATE, r"\bqt\b|\bquart|\bsome\b|\bmoderate|\bsand\b|\bwhite\b"),
)
_TEXTURES = ((Texture.SAND, r"\bsand"), (Texture.FLAKES, r"\bflak|\bwhite\b|\bchips?\b"))
_GRADES = (
    (RodGrade.GONE, r"(gone )?to wire|bare wire|\bgone\b|eaten up|verbraucht"),
    (RodGrade.MOSTLY_GONE, r"mostly gone|nearly gone|almost gone"),
    (RodGrade.HALF, r"\bhalf\b|50 ?%"),
    (RodGrade.WORN, r"\bworn\b|\bsome left"),
    (RodGrade.LIKE_NEW, r"like new|\bgood\b|\bok\b"),
)
_NEW = r"\bnew\b|\breplaced\b|\binstalled\b|\bswapped\b|\bchanged\b|\bneu\b|erneuert"


Understood = dict[str, str | float | bool | None]
"""A finding by its fields."""
W = TypeVar("W", bound=str)


def findings(text: str, parts: str = "") -> list[Understood]:
    """What was done and found, as findings by their fields. Parameters: parts, what was used."""
    said, used = plainly(text.replace("½", "1/2").replace("–", "-")), plainly(parts)
    found: list[Understood] = []
    valve = re.search(r"\bt ?&? ?p\b|\btpr?v?\b|relief|sicherheitsventil", said)
    rod = re.search(r"\banode|\brod\b|opferanode", said)
    expansion_tank = re.search(r"\b(exp|expansion|xt)\b( tank)?|ausdehnung", said)
    if re.search(r"descal|\bacid\b|entkalk", said):
        found.append({"task": Task.DESCALE, "removed": _first(_REMOVED, said) or ""})
    elif re.search(_FLUSHED, said) or re.search(_REMOVED[0][1], said):
        flush: Understood = {
            "task": Task.FLUSH,
            "removed": _first(_REMOVED, said) or "",
            "texture": _first(_TEXTURES, said) or "",
        }
        if flush["removed"] == Removed.BLOCKED:
            flush["drain_flow"] = DrainFlow.NONE
        if (litres := _litres(said)) is not None:
            flush["removed_l"] = litres
        found.append(flush)
    if rod:
        if grade := _first(_GRADES, said):
            found.append({"task": Task.ANODE_INSPECTION, "grade": grade})
        if "anode" in used or re.search(rf"(?:{_NEW}) (anode|rod)|(anode|rod) (?:{_NEW})", said):
            found.append({"task": Task.ANODE_REPLACEMENT})
    if valve:
        if re.search(r"reseat|drip|weep|leak", said):
            found.append({"task": Task.RELIEF_VALVE_EXERCISE, "outcome": ValveOutcome.FLOWS_AND_WEEPS})
        elif re.search(r"stuck|no flow|no water|frozen|seized", said):
            found.append({"task": Task.RELIEF_VALVE_EXERCISE, "outcome": ValveOutcome.NO_FLOW})
        elif re.search(r"\bok\b|good|tested|exercis|\bfine\b|works", said):
            found.append({"task": Task.RELIEF_VALVE_EXERCISE, "outcome": ValveOutcome.FLOWS_AND_RESEATS})
        if re.search(_NEW, said) or re.search(r"t ?&? ?p|relief", used):
            found.append({"task": Task.RELIEF_VALVE_REPLACEMENT})
    if expansion_tank:
        if re.search(r"waterlogged|full of water|bladder|\bdead\b", said):
            found.append({"task": Task.EXPANSION_TANK_CHECK, "at_valve": ExpansionTankPin.WATER})
        elif re.search(r"\bok\b|good|checked|pumped", said):
            found.append({"task": Task.EXPANSION_TANK_CHECK, "at_valve": ExpansionTankPin.AIR})
        if re.search(_NEW, said) or "exp" in used:
            found.append({"task": Task.EXPANSION_TANK_REPLACEMENT})
    if re.search(r"screen|sieb|inlet filter", said):
        found.append({"task": Task.UPKEEP, "item": UpkeepItem.INLET_SCREEN, "fouling": Fouling.LIGHT})
    if re.search(r"element", said) and re.search(r"burn|fail|dead|open|no hot|replaced|new|\belement\b", said):
        found.append({"task": Task.LOOK_OVER, "element_failed": True})
    return [{name: value for name, value in one.items() if value != ""} for one in found]


def _first(table: Iterable[tuple[W, str]], said: str) -> W | None:
    return next((word for word, like in table if re.search(like, said)), None)


def _litres(said: str) -> float | None:
    """How much came out, where it was measured in something."""
    number = r"(\d+(?:\.\d+)?|1/2|a)\s*"
    for unit, litres in ((r"(qt|quarts?)\b", _QUART_L), (r"(gal|gallons?)\b", _GALLON_L), (r"buckets?\b", _BUCKET_L)):
        if found := re.search(number + unit, said):
            figure = {"1/2": 0.5, "a": 1.0}.get(found[1])
            return round(litres * (figure if figure is not None else float(found[1])), 2)
    return None

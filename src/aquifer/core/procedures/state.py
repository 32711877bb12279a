"""What may be open, lit, full and hot at a heater while it is worked on.

Each figure is the set of what it may be: words for valves and parts, low and high for the level and for the hottest
water. An act sets a valve, time moves level and heat by what the valves allow, a look narrows.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

from typing_extensions import TypedDict

from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.procedures.condition import Words

FIELDS: dict[str, tuple[str, ...]] = {
    "shut_off": ("unknown", "found"),
    "told": ("no", "yes"),
    "cold": ("open", "shut", "passing"),
    "hot_valve": ("open", "shut"),
    "energy": ("on", "pilot", "off"),
    "lock": ("no", "yes"),
    "dead": ("no", "yes"),
    "gas": ("open", "shut", "none"),
    "tag": ("no", "yes"),
    "hose": ("none", "plain", "rated"),
    "drain": ("shut", "open", "drips"),
    "air": ("shut", "open"),
    "tap": ("shut", "open"),
    "discharge": ("unknown", "safe", "blocked"),
    "relief": ("shut", "open"),
    "relief_works": ("unknown", "yes", "no"),
    "pressure": ("on", "off"),
    "ports": ("closed", "high", "bottom", "element"),
    "union": ("tight", "loose"),
    "joints": ("tested", "untested", "open"),
    "burner_line": ("tested", "untested"),
    "covers": ("on", "off"),
    "fluid": ("water", "acid"),
    "tank": ("sound", "leaks"),
    "wiring": ("sound", "bad"),
    "control": ("sound", "faulty"),
    "exhaust": ("draws", "spills"),
    "exchanger": ("sound", "cracked"),
    "smell": ("no", "yes"),
    "ignition": ("pilot", "spark", "hot_surface", "battery", "none"),
    "vent": ("natural", "powered", "direct", "none"),
}
"""Every field with its words.

``told``: the people in the house know not to draw water. ``passing``: turned shut, and water still comes by.
``hot_valve``: the valve behind a tankless heater. ``lock``: locked and tagged by us where it is switched off;
``dead``: the terminals were measured. ``tag``: a tag at the heater says that nobody turns it on. ``air``: a way for air
into the tank besides faucet and relief valve. ``ports``: what is unscrewed: one in the upper part, one at the floor, an
element. ``joints``: of the gas supply; ``burner_line``: of what carries gas only while it burns. ``covers``: of
terminals or of the burner's chamber.
"""
BANDS: dict[str, tuple[tuple[str, float, float], ...]] = {
    "level": (("empty", 0.0, 0.06), ("low", 0.06, 0.85), ("airy", 0.85, 0.999), ("full", 0.999, 1.0)),
    "water": (("cool", -20.0, 46.0), ("warm", 46.0, 49.0), ("scalding", 49.0, 150.0)),
}
"""Words of what is told by low and high. ``level``, share of the content: below the floor port and the lower element;
below the upper ports, which lie within the top 150 mm (K02); full but with air in it; full to a steady stream.
``water``, the hottest water in the heater, degC: hands bear it below 46, from 49 (120 degF) on a burn takes minutes,
then less. Trade practice."""
COOLED_C = 43.0
"""110 degF: to here a tank is cooled before hands are at a port, so that a pilot may burn on for hours meanwhile. Trade
practice."""
NAMES = (*FIELDS, *BANDS)
HEAD_SHARE = 0.95
"""Down to here a tank may lose water where only a faucet lets air in above it. Assumption."""
LEAST_SHARE = 0.1
"""A tank emptier than this is taken to heat no faster: what is left lies below burner or element. Assumption."""
AWAY_MIN = 60.0
"""After so long without a tap somebody else may have been at the heater. Assumption."""
PILOT_SHARE = 0.03
"""Of a burner's heat that its pilot gives. Trade practice: some 250 W under a burner of 10 kW."""
LICENCES = ("gas", "electrical", "plumbing")


def fuel_of(kind: HeaterKind) -> str:
    """gas, electric or boiler."""
    return KINDS[kind].fuel.value


def ignitions_of(kind: HeaterKind) -> tuple[str, ...]:
    """How a heater of this kind may be lit."""
    return tuple(KINDS[kind].ignitions)


def facts_of(kind: HeaterKind, licences: Iterable[str] = (), practices: Mapping[str, str] | None = None) -> Words:
    """What does not change during a visit. Parameters: licences of who does the work; practices, what the company
    follows where practitioners differ."""
    held = set(licences)
    return {
        "kind": frozenset({kind.value}),
        "fuel": frozenset({fuel_of(kind)}),
        "store": frozenset({"tank" if kind.is_tank else "tankless"}),
        **{f"licence_{one}": frozenset({"yes" if one in held else "no"}) for one in LICENCES},
        **{name: frozenset({option}) for name, option in (practices or {}).items()},
    }


@dataclass(frozen=True)
class Rates:
    """How fast a heater's level and heat can change at most: straight lines, which no physics outruns."""

    drains_per_min: float
    """Share of the content that can run out in a minute: a full-bore drain without a hose, full head."""
    fills_per_min: float
    heats_c_per_min: float
    """Of the full content."""
    hottest_c: float
    coldest_c: float


FULL_BORE_M2 = math.pi / 4 * 0.019**2
"""Of a 3/4 in full-bore valve, the widest that a drain is renewed with. Trade practice (T09)."""
SHORT_TUBE = 0.82
"""Discharge of a short tube. Fluid mechanics."""
SUPPLY_L_MIN = 60.0
"""More than a 3/4 in branch gives. Assumption."""
RUNAWAY_C = 95.0
"""As hot as a control that fails lets it get, before the relief valve opens. Trade practice: 99 degC (K02)."""


def rates_of(capacity_l: float, height_m: float, input_kw: float, cold_c: float) -> Rates:
    """The fastest that a heater's level and heat can change. Parameters: capacity, L; height of the water, m; input of
    the plate, kW; cold water, degC. Source: Torricelli with a full-bore drain and no hose; m c dT."""
    drains_l_min = SHORT_TUBE * FULL_BORE_M2 * math.sqrt(2 * 9.81 * height_m) * 60_000
    heats = input_kw * 60_000 / (4186 * capacity_l)
    return Rates(drains_l_min / capacity_l, SUPPLY_L_MIN / capacity_l, heats, RUNAWAY_C, min(cold_c, 10.0))


class PlainState(TypedDict):
    """A state as plain values: words for each field, low and high for level and heat."""

    words: dict[str, list[str]]
    level: list[float]
    hot_c: list[float]


@dataclass(frozen=True)
class State:
    words: Words
    """For each of ``FIELDS`` the words that may be so."""
    level: tuple[float, float]
    """Share of the content, least and most."""
    hot_c: tuple[float, float]
    """The hottest water in it, degC."""

    @cached_property
    def told(self) -> Words:
        """All fields, those of ``BANDS`` too, in words."""
        return {**self.words, "level": _banded("level", self.level), "water": _banded("water", self.hot_c)}

    def may(self, field: str, *words: str) -> bool:
        """Whether a field may have one of these words."""
        return not (self.words.get(field) or self.told[field]).isdisjoint(words)

    def plain(self) -> PlainState:
        """As plain values, in the order of ``FIELDS``."""
        return {
            "words": {field: [one for one in FIELDS[field] if one in self.words[field]] for field in FIELDS},
            "level": list(self.level),
            "hot_c": list(self.hot_c),
        }

    @classmethod
    def read(cls, plain: PlainState) -> "State":
        """From plain values; a field or word that is no longer known is taken as unknown."""
        words = {}
        for field, every in FIELDS.items():
            known = frozenset(plain["words"].get(field, ())) & set(every)
            words[field] = known or frozenset(every)
        (low, high), (cooler, hotter) = plain["level"], plain["hot_c"]
        return cls(words, (low, high), (cooler, hotter))


@lru_cache(maxsize=4096)
def _banded(field: str, span: tuple[float, float]) -> frozenset[str]:
    low, high = span
    found = frozenset(
        name
        for name, least, most in BANDS[field]
        if low < most and high > least or (low == high and low in (least, most))
    )
    if field == "level" and low >= BANDS["level"][-1][1]:
        return frozenset({"full"})
    return found or frozenset(name for name, *_ in BANDS[field])


def as_found(kind: HeaterKind, rates: Rates, ignition: str = "", vent: str = "") -> State:
    """The state in which a heater is come upon of which nobody has told otherwise: what can be seen from the door is as
    it should be, what cannot is unknown. Parameters: ignition and vent, where somebody has looked."""
    gas = fuel_of(kind) == "gas"
    seen: dict[str, Sequence[str]] = {
        "shut_off": ("unknown",), "told": ("no",), "cold": ("open", "shut"), "hot_valve": ("open",),
        "energy": ("on", "pilot", "off") if gas and kind.is_tank else ("on", "off"), "lock": ("no",), "dead": ("no",),
        "gas": ("open", "shut") if gas else ("none",), "tag": ("no",), "hose": ("none",), "drain": ("shut",),
        "air": ("shut",), "tap": ("shut",), "discharge": ("unknown",), "relief": ("shut",),
        "relief_works": ("unknown",), "pressure": ("on", "off"), "ports": ("closed",), "union": ("tight",),
        "joints": ("tested",), "burner_line": ("tested",), "covers": ("on",), "fluid": ("water",), "tank": ("sound",),
        "wiring": ("sound",), "control": ("sound",), "exhaust": ("draws",), "exchanger": ("sound",), "smell": ("no",),
        "ignition": (ignition,) if ignition in FIELDS["ignition"] else ignitions_of(kind),
        "vent": (vent,) if vent in FIELDS["vent"] else (FIELDS["vent"] if gas else ("none",)),
    }  # fmt: skip
    words = {field: frozenset(found) for field, found in seen.items()}
    return State(words, (0.0, 1.0), (rates.coldest_c, rates.hottest_c))


def elapsed(state: State, minutes: float, rates: Rates) -> State:
    """After at most so many minutes in which nobody of us did anything.

    Straight lines that no physics outruns: level falls at most as a full-bore drain lets it, rises at most as the
    supply does, heat rises at most as the whole input heats what is certainly there.
    """
    if minutes <= 0:
        return state
    low, high = state.level
    may = state.may
    supplied = state.words["cold"] == {"open"}
    drawn = may("tap", "open") or state.words["told"] != {"yes"}
    airtight = not (drawn or may("relief", "open") or may("air", "open") or may("union", "loose"))
    if (may("drain", "open", "drips") or may("ports", "bottom", "element")) and not (supplied and airtight):
        low = max(0.0, low - rates.drains_per_min * minutes)
    if not supplied:
        if may("relief", "open") or may("ports", "high"):
            low = min(low, BANDS["level"][1][2])
        if drawn or may("air", "open") or may("union", "loose"):
            low = min(low, HEAD_SHARE)
    if may("cold", "open", "passing"):
        high = min(1.0, high + rates.fills_per_min * minutes)
    coldest, hottest = state.hot_c
    share = 1.0 if may("energy", "on") else PILOT_SHARE if may("energy", "pilot") else 0.0
    if share:
        rise = share * rates.heats_c_per_min * minutes / max(low, LEAST_SHARE)
        hottest = max(hottest, min(rates.hottest_c, hottest + rise))
    if may("cold", "open", "passing") or minutes >= AWAY_MIN:
        coldest = min(coldest, rates.coldest_c)
    aged = State(state.words, (low, high), (coldest, hottest))
    return left_alone(aged) if minutes >= AWAY_MIN else aged


def left_alone(state: State) -> State:
    """After others were alone with it: whatever no lock or tag of ours guards may have been turned."""
    wider: dict[str, frozenset[str]] = {"told": frozenset({"no"})}
    tagged, locked = state.words["tag"] == {"yes"}, state.words["lock"] == {"yes"}
    if not (tagged or locked):
        wider["energy"] = state.words["energy"] | {"on"}
        if state.words["gas"] != {"none"}:
            wider["gas"] = state.words["gas"] | {"open"}
    if not tagged:
        wider["cold"] = state.words["cold"] | {"open"}
        wider["tap"] = state.words["tap"] | {"open"}
    return _pressed(State({**state.words, **wider}, state.level, state.hot_c))


def unheard(state: State, acts: Words) -> State:
    """After any of these acts, or none, may have been done that we were not told of. Parameters: acts, for each field
    all that they may set it to."""
    words = dict(state.words)
    for field, to in acts.items():
        words[field] = words[field] | to
    return _pressed(State({**words, "told": words["told"] | {"no"}}, (0.0, 1.0), state.hot_c))


def acted(state: State, sets: Mapping[str, Sequence[str]]) -> State:
    """After an act at valves and parts."""
    if not sets:
        return state
    words = {**state.words, **{field: frozenset(to) for field, to in sets.items()}}
    if words["energy"] != {"off"}:
        # What is switched on is neither locked nor dead.
        words |= {"lock": words["lock"] | {"no"} if "off" in words["energy"] else frozenset({"no"})}
        words |= {"dead": words["dead"] | {"no"} if "off" in words["energy"] else frozenset({"no"})}
    return _pressed(State(words, state.level, state.hot_c))


def _pressed(state: State) -> State:
    """Pressure follows the valves: the supply keeps it up, an opening lets it off."""
    words = state.words
    if words["cold"] == {"open"}:
        pressure = frozenset({"on"})
    else:
        pressure = words["pressure"]
        if state.may("cold", "open", "passing"):
            pressure = pressure | {"on"}
        if any(state.may(one, "open") for one in ("drain", "tap", "relief", "air")):
            pressure = pressure | {"off"}
        if words["cold"] == {"shut"} and any(words[one] == {"open"} for one in ("drain", "tap", "relief", "air")):
            pressure = frozenset({"off"})
    return State({**words, "pressure": pressure}, state.level, state.hot_c)


def seen(state: State, proves: Mapping[str, Sequence[str]]) -> tuple[State, bool]:
    """After a look that shows these words. Returns: the state, and whether the look can be true; one that cannot be
    leaves both what it says and what was thought."""
    words, level, hot = dict(state.words), state.level, state.hot_c
    believed = True
    for field, shown in proves.items():
        if field in BANDS:
            span = level if field == "level" else hot
            narrowed = _narrowed(field, span, shown)
            believed &= narrowed[1]
            if field == "level":
                level = narrowed[0]
            else:
                hot = narrowed[0]
            continue
        both = words[field] & set(shown)
        believed &= bool(both)
        words[field] = both or words[field] | set(shown)
    return State(words, level, hot), believed


def _narrowed(field: str, span: tuple[float, float], shown: Sequence[str]) -> tuple[tuple[float, float], bool]:
    bands = [(least, most) for name, least, most in BANDS[field] if name in shown]
    least, most = min(one[0] for one in bands), max(one[1] for one in bands)
    if field == "level" and list(shown) == ["full"]:
        least = 1.0
    if field == "water" and list(shown) == ["cool"]:
        most = COOLED_C
    low, high = max(span[0], least), min(span[1], most)
    if low <= high:
        return (low, high), True
    return (min(span[0], least), max(span[1], most)), False


def either(state: State, other: State) -> State:
    """What may be where nobody knows which of two states is so."""
    return State(
        {field: state.words[field] | other.words[field] for field in FIELDS},
        (min(state.level[0], other.level[0]), max(state.level[1], other.level[1])),
        (min(state.hot_c[0], other.hot_c[0]), max(state.hot_c[1], other.hot_c[1])),
    )


def unlike(state: State, leaves: Mapping[str, Sequence[str]]) -> list[str]:
    """Fields that may be other than they are to be left, in the order in which they are looked at."""
    return [field for field, words in leaves.items() if not state.told[field] <= set(words)]

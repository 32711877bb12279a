"""Reads procedures, rules, endings and practices from their files, and refuses what is not well written."""

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache, cached_property
from importlib.resources import files

from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.observations import OBSERVATIONS
from aquifer.core.procedures.condition import Condition, Told
from aquifer.core.procedures.interlock import Deviation, Out, Rule, Step
from aquifer.core.procedures.state import BANDS, FIELDS, LICENCES
from aquifer.core.vocabulary import UpkeepItem

FITTED = sorted({one for kind in KINDS.values() for one in kind.parts} - {"anode", "relief_valve", "expansion_tank"})
"""Parts that are told as fitted by their kind; the three that are forecast are told by what they are."""
ASKS = frozenset(
    {
        *("noise", "corrosion", "rusty_hot_water", "element_failed", "taps", "kind"),
        *("household_changed", "setting_found", "setting_left"),
        *("drain_flow", "removed", "clarity", "texture", "dissolved_g", "coil_removed"),
        *("valve_outcome", "relief_valve_replacement"),
        *("rod_grade", "bare_wire_mm", "diameter_mm", "anode_replacement"),
        *("expansion_tank_pin", "precharge_kpa", "expansion_tank_replacement"),
        *("static_kpa", "creep_kpa", "falls"),
        *("flow_before", "rise_before", "flow_after", "rise_after", "tap_before", "tap_c"),
        *("sensor_tip", "millivolts", "ohms", "co_ppm", "gas_kpa", "volts"),
        *("tries", "losses", "gap_mm", "limit_c", "inlet_c", "cells_v", "fan_rpm", "drain_min", "clear_min"),
        *("heat_up_min", "energy_kwh"),
        *("held_s", "limit_tripped", "code", "drained_l", "amps", "input_kw"),
        *(f"upkeep:{upkeep_item}" for upkeep_item in UpkeepItem),
        *(f"fitted:{one}" for one in FITTED),
        *(f"seen:{observation.field}" for observation in OBSERVATIONS),
    }
)
"""What a step may ask for: findings, readings, and what was cleaned."""
PICTURES = ("setting", "wiring", "plate", "bucket", "anode", "relief_valve", "place")
"""Subjects that are photographed as such, so that they are found again: how a control stood, how wires ran, what the
plate says, what came out, what was taken out, how it was left."""
PARTS = frozenset(
    (
        "cold_valve",
        "hot_tap",
        "relief_valve",
        "relief_pipe",
        "drain_port",
        "dip_tube",
        "deposit",
        "anode",
        "upper_element",
        "lower_element",
        "probe",
        "gas_control",
        "burner",
        "pilot",
        "draft_hood",
        "expansion_tank",
        "exchanger",
        "service_ports",
        "inlet_screen",
        "flame_rod",
        "trap",
        "breaker",
        "tank",
    )
)
"""Pieces of a heater that a section can light."""


@dataclass(frozen=True)
class Procedure:
    name: str
    title: str
    version: int
    when: Condition
    """For which heaters."""
    licence: str
    """Of all of its steps that name no other."""
    steps: tuple[Step, ...]


@dataclass(frozen=True)
class Ending:
    """How a heater is left where the work ends before it is done, and what follows from that."""

    name: str
    title: str
    leaves: str
    """``restored``, ``left_off``, ``as_found`` or ``evacuated``: which of ``LEAVES`` it is held to."""
    first: tuple[str, ...]
    """Procedures before those that leave it so."""
    severity: str
    """Of the open issue that it raises; empty raises none."""
    raises: str
    """What the open issue says."""
    licence: str
    """Who must come."""
    customer: str
    """What the customer is told."""


@dataclass(frozen=True)
class Outside:
    """Something that happens to a heater while it is worked on."""

    name: str
    says: str
    widens: Mapping[str, tuple[str, ...]]
    """What may be so besides."""
    then: tuple[str, ...]
    ends: str
    away: bool
    """Others were alone with it."""
    when: Condition
    reading: str = ""
    """What is read tells of it, too."""
    at_least: float = 0.0
    """From this reading on."""


@dataclass(frozen=True)
class Found:
    """Something else that is found at a visit and has a procedure."""

    name: str
    says: str
    then: tuple[str, ...]
    when: Condition


@dataclass(frozen=True)
class Practice:
    """A question on which practitioners differ, and the sides that a company may take; the first is the usual one."""

    name: str
    question: str
    options: Mapping[str, str]
    """What each side says, by its word."""


@dataclass(frozen=True, eq=False)
class Library:
    """Everything that is written down of a visit. One is another than its like: what is looked up in it is kept."""

    procedures: Mapping[str, Procedure]
    rules: tuple[Rule, ...]
    endings: Mapping[str, Ending]
    outside: Mapping[str, Outside]
    found: Mapping[str, Found]
    practices: Mapping[str, Practice]

    @cached_property
    def steps(self) -> Mapping[str, Step]:
        """Every step by ``procedure.step``."""
        return {
            f"{procedure.name}.{step.id}": step for procedure in self.procedures.values() for step in procedure.steps
        }


LEAVES: dict[str, dict[str, tuple[str, ...]]] = {
    "restored": {
        "smell": ("no",), "tank": ("sound",), "wiring": ("sound",), "control": ("sound",), "exhaust": ("draws",),
        "exchanger": ("sound",), "relief_works": ("unknown", "yes"), "discharge": ("safe", "unknown"),
        "fluid": ("water",), "ports": ("closed",), "union": ("tight",), "drain": ("shut",), "hose": ("none",),
        "air": ("shut",), "relief": ("shut",), "tap": ("shut",), "cold": ("open",), "hot_valve": ("open",),
        "level": ("full",), "joints": ("tested",), "burner_line": ("tested",), "covers": ("on",),
        "gas": ("open", "none"), "energy": ("on",),
    },
    "left_off": {
        "energy": ("off",), "gas": ("shut", "none"), "tag": ("yes",), "fluid": ("water",), "ports": ("closed",),
        "relief": ("shut",), "covers": ("on",), "joints": ("tested", "untested"), "drain": ("shut", "drips"),
        "told": ("yes",),
    },
    "as_found": {},
    "evacuated": {},
}  # fmt: skip
"""How a heater is left: the words that each field must have for certain."""


@cache
def practices() -> Mapping[str, Practice]:
    """The questions on which a company takes a side in its steps."""
    return {
        name: Practice(name, one["question"], dict(one["options"])) for name, one in _read("practices.toml").items()
    }


def practices_followed(chosen: Mapping[str, str]) -> dict[str, str]:
    """The side that is taken in each question: the chosen one, else the usual. Raises: ValueError naming what is not
    known."""
    if not isinstance(chosen, Mapping):
        raise ValueError("practices are a side for each question")
    known = practices()
    if unknown := set(chosen) - set(known):
        raise ValueError(f"no question {', '.join(sorted(unknown))}; allowed: {', '.join(known)}")
    for name, side in chosen.items():
        if side not in known[name].options:
            raise ValueError(f"{name} = {side}; allowed: {', '.join(known[name].options)}")
    return {name: chosen.get(name) or next(iter(practice.options)) for name, practice in known.items()}


def _facts() -> dict[str, tuple[str, ...]]:
    return {
        "kind": tuple(kind.value for kind in HeaterKind),
        "fuel": ("gas", "electric", "boiler"),
        "store": ("tank", "tankless"),
        **{name: tuple(practice.options) for name, practice in practices().items()},
    }


def _read(name: str) -> Told:
    return tomllib.loads(files("aquifer.core.procedures").joinpath("data", name).read_text())


_OWN = {"rules.toml", "endings.toml", "practices.toml", "outside.toml", "complaints.toml"}


@cache
def library() -> Library:
    """Everything that is written down of a visit. Raises: ValueError naming file, step and what is allowed."""
    procedures: dict[str, Procedure] = {}
    for file in sorted(files("aquifer.core.procedures").joinpath("data").iterdir(), key=lambda one: one.name):
        if file.name in _OWN:
            continue
        for name, one in tomllib.loads(file.read_text()).items():
            if name in procedures:
                raise ValueError(f"{file.name}: procedure {name} is there twice")
            procedures[name] = _procedure(name, one, file.name)
    around = _read("outside.toml")
    library = Library(
        procedures,
        tuple(_rule(one) for one in _read("rules.toml")["rule"]),
        {name: _ending(name, one) for name, one in _read("endings.toml").items()},
        {name: _outside(name, one) for name, one in around["outside"].items()},
        {
            name: Found(
                name, one["says"], tuple(one["then"]), condition_of(one.get("when", []), f"outside.toml, {name}")
            )
            for name, one in around["found"].items()
        },
        practices(),
    )
    _check(library)
    return library


def _check(library: Library) -> None:
    """Every name that leads somewhere leads to something."""
    named = [
        *((f"{p.name}.{s.id}", s.way_out) for p in library.procedures.values() for s in p.steps),
        *((f"{p.name}.{s.id}", o.then) for p in library.procedures.values() for s in p.steps for o in s.deviations),
        *((f"rule {r.name}", out.procedures) for r in library.rules for out in (r.out, *r.by.values())),
        *((f"ending {ending.name}", ending.first) for ending in library.endings.values()),
        *((f"outside {one.name}", one.then) for one in library.outside.values()),
        *((f"found {one.name}", one.then) for one in library.found.values()),
    ]
    for where, names in named:
        if missing := set(names) - set(library.procedures):
            raise ValueError(f"{where}: no procedure {', '.join(sorted(missing))}")
    ends = [
        *((f"{p.name}.{s.id}", s.ends) for p in library.procedures.values() for s in p.steps),
        *((f"{p.name}.{s.id}", o.ends) for p in library.procedures.values() for s in p.steps for o in s.deviations),
        *((f"outside {one.name}", one.ends) for one in library.outside.values()),
    ]
    for where, name in ends:
        if name and name not in library.endings:
            raise ValueError(f"{where}: no ending {name}; allowed: {', '.join(library.endings)}")


def _rule(one: Told) -> Rule:
    where = f"rules.toml, {one['name']}"
    forbids = condition_of(one["forbids"], where)
    by = {field: Out(tuple(out["way_out"]), out["out_says"]) for field, out in one.get("by", {}).items()}
    named = {field for alternative in forbids for field in alternative}
    if unknown := set(by) - named:
        raise ValueError(f"{where}: by {', '.join(sorted(unknown))}; allowed: {', '.join(sorted(named))}")
    return Rule(one["name"], forbids, one["says"], Out(tuple(one["way_out"]), one["out_says"]), by)


def _ending(name: str, one: Told) -> Ending:
    if one["leaves"] not in LEAVES:
        raise ValueError(f"endings.toml, {name}: leaves = {one['leaves']}; allowed: {', '.join(LEAVES)}")
    return Ending(
        name, one["title"], one["leaves"], tuple(one.get("first", ())), one.get("severity", ""),
        one.get("raises", ""), one.get("licence", ""), one["customer"],
    )  # fmt: skip


def _outside(name: str, one: Told) -> Outside:
    where = f"outside.toml, {name}"
    return Outside(
        name, one["says"], dict(_acts(one.get("widens", {}), where)), tuple(one.get("then", ())), one.get("ends", ""),
        one.get("away", False), condition_of(one.get("when", []), where),
        one.get("reading", ""), float(one.get("at_least", 0.0)),
    )  # fmt: skip


def _procedure(name: str, one: Told, file: str) -> Procedure:
    licence = one.get("licence", "")
    steps = tuple(_step(step, f"{file}, {name}", licence) for step in one["step"])
    ids = [step.id for step in steps]
    if len(set(ids)) < len(ids):
        raise ValueError(f"{file}, {name}: a step's id is there twice")
    when = condition_of(one.get("when", []), f"{file}, {name}")
    return Procedure(name, one["title"], one["version"], when, licence, steps)


_KEYS = set(Step.__dataclass_fields__)


def _step(one: Told, procedure: str, licence: str = "") -> Step:
    where = f"{procedure}, step {one.get('id', '?')}"
    if unknown := set(one) - _KEYS:
        raise ValueError(f"{where}: {', '.join(sorted(unknown))} is not known; allowed: {', '.join(sorted(_KEYS))}")
    if unasked := set(one.get("asks", [])) - ASKS:
        raise ValueError(f"{where}: asks {', '.join(sorted(unasked))}; allowed: {', '.join(sorted(ASKS))}")
    if strange := set(one.get("pictures", [])) - set(PICTURES):
        raise ValueError(f"{where}: pictures of {', '.join(sorted(strange))}; allowed: {', '.join(PICTURES)}")
    if (part := one.get("part", "")) and part not in PARTS:
        raise ValueError(f"{where}: part {part} is not known; allowed: {', '.join(sorted(PARTS))}")
    own = one.get("licence", licence)
    if own not in ("", "none", *LICENCES):
        raise ValueError(f"{where}: licence {own}; allowed: none, {', '.join(LICENCES)}")
    return Step(
        **{
            **one,
            "licence": "" if own == "none" else own,
            "through": _acts(one.get("through", {}), where),
            "sets": _acts(one.get("sets", {}), where),
            "proves": _acts(one.get("proves", {}), where, bands=True),
            "finds": _acts(one.get("finds", {}), where),
            "needs": condition_of(one.get("needs", []), where),
            "when": condition_of(one.get("when", []), where),
            "asks": tuple(one.get("asks", [])),
            "pictures": tuple(one.get("pictures", [])),
            "way_out": tuple(one.get("way_out", [])),
            "deviations": tuple(
                Deviation(
                    **{
                        **other,
                        "then": tuple(other.get("then", [])),
                        "sets": _acts(other.get("sets", {}), where),
                        "when": condition_of(other.get("when", []), where),
                    }
                )
                for other in one.get("deviations", [])
            ),
        }
    )


def _acts(told: Told, where: str, bands: bool = False) -> tuple[tuple[str, tuple[str, ...]], ...]:
    found = []
    for field, words in told.items():
        to = (words,) if isinstance(words, str) else tuple(words)
        allowed = FIELDS.get(field) or (tuple(name for name, *_ in BANDS[field]) if bands and field in BANDS else ())
        if not allowed or not set(to) <= set(allowed):
            raise ValueError(f"{where}: sets {field} = {words}; allowed: {allowed or tuple(FIELDS)}")
        found.append((field, to))
    return tuple(found)


def condition_of(told: Told | list[Told], where: str) -> Condition:
    """A condition as it is written in a file. Raises: ValueError naming what is not known in it."""
    facts = _facts()
    alternatives = []
    for one in [told] if isinstance(told, dict) else told:
        alternative = {field: (words,) if isinstance(words, str) else tuple(words) for field, words in one.items()}
        for field, words in alternative.items():
            allowed = FIELDS.get(field) or facts.get(field) or tuple(name for name, *_ in BANDS.get(field, ()))
            if not allowed or not set(words) <= set(allowed):
                raise ValueError(f"{where}: {field} = {words}; allowed: {allowed or (*FIELDS, *BANDS, *facts)}")
        alternatives.append(alternative)
    return tuple(alternatives)

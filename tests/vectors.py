"""What the interlock decides, written down once for both of its readers.

``python -m tests.vectors`` writes the file anew after the procedures changed; a test here and one of the front end hold
both readers to it.
"""

import dataclasses
import json
import random
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from aquifer.core.procedures.calculators import Heater, filled
from aquifer.core.procedures.document import document
from aquifer.core.procedures.interlock import held
from aquifer.core.procedures.library import library
from aquifer.core.procedures.merge import merged
from aquifer.core.procedures.sequence import Event, OutOfTurn, Stand, advanced, procedures_for, steps_of
from aquifer.core.procedures.state import as_found, facts_of, unrestored
from aquifer.core.vocabulary import Component, FlushMethod, HeaterKind

FILE = Path(__file__).parents[1] / "web/src/features/visits/guide/interlock.vectors.json"
TANK = (Component.SEDIMENT, Component.ANODE, Component.RELIEF_VALVE, Component.EXPANSION_TANK)
VISITS = (
    (HeaterKind.GAS_TANK, TANK, FlushMethod.JETTING, {"gas", "plumbing"}),
    (HeaterKind.ELECTRIC_TANK, TANK, FlushMethod.DRAIN_AND_PULSE, {"plumbing"}),
    (HeaterKind.CONDENSING_TANKLESS, (Component.SCALE,), FlushMethod.DRAIN_AND_PULSE, {"gas"}),
)
KINDS = ("done", "done", "done", "done", "skipped", "otherwise", "despite")


def vectors() -> list[dict[str, Any]]:
    """Visits with what happens in them and where they stand after each event."""
    every = library()
    cases = []
    for number, (kind, due, flush, licences) in enumerate(VISITS):
        facts, start = facts_of(kind, frozenset(licences)), as_found(kind, 60)
        names = procedures_for(kind, due, flush)
        runs = []
        for seed in range(8):
            chance = random.Random(100 * number + seed)
            stand = Stand(steps_of(every, names, facts), start)
            events: list[dict[str, Any]] = []
            while stand.now is not None and len(events) < 120:
                now = stand.now
                event = Event(chance.choice(KINDS) if seed else "done", now.id, chance.randrange(3))
                before = stand.state
                holding = held(now.step, stand.state, facts, every.rules)
                try:
                    stand, refused = advanced(every, stand, event, facts), False
                except OutOfTurn:
                    refused = True
                events.append(
                    {
                        "kind": event.kind,
                        "step": event.step,
                        "choice": event.choice,
                        "held": [one.rule for one in holding],
                        "refused": refused,
                        "changed": {name: word for name, word in stand.state.items() if word != before[name]},
                        "left": len(stand.left),
                    }
                )
                if refused:
                    stand = advanced(every, stand, Event("skipped", now.id), facts)
            runs.append({"events": events, "unrestored": unrestored(stand.state)})
        first = Stand(steps_of(every, names, facts), start)
        cases.append(
            {
                "guide": document(every, names, facts, start),
                "runs": runs,
                "merges": [_merge(first, random.Random(900 + 10 * number + seed), facts) for seed in range(6)],
            }
        )
    return cases


HEATERS = (
    Heater(189, 1.2, 12, 60, 10, 380, 0.8, 300, 3000, 21, 1000),
    Heater(300, 1.5, 3, 70, 5, 600, 1.0, 0, 3000, 16, 700, 0.1),
    Heater(1, 0.2, 40, 43, 20, 200, 0.9, 4000, 500, 30, 1500),
)


def computed() -> list[dict[str, Any]]:
    """Calculators with what is filled in for some heaters, and their results."""
    return [
        {
            "name": one.calculator.name,
            "tree": one.calculator.tree,
            "inputs": {given.name: value for given, value in zip(one.calculator.inputs, one.values, strict=True)},
            "result": one.result,
        }
        for heater in HEATERS
        for one in filled(heater)
    ]


def _merge(first: Stand, chance: random.Random, facts: dict[str, str]) -> dict[str, Any]:
    """Two devices that go on from one step, each for itself, and where the visit stands when both are known."""
    every = library()
    alike = _alone(first, (), chance, chance.randrange(1, 12), facts)
    apart = [_alone(first, alike, chance, chance.randrange(1, 9), facts)[len(alike) :] for _ in range(2)]
    mixed = list(alike)
    while any(apart):
        mixed.append(chance.choice([one for one in apart if one]).pop(0))
    found = merged(every, first, mixed, facts)
    return {
        "events": [dataclasses.asdict(one) for one in mixed],
        "left": [at.id for at in found.stand.left],
        "state": found.stand.state,
        "taken": len(found.taken),
        "amiss": list(found.amiss),
    }


def _alone(
    first: Stand, before: Sequence[Event], chance: random.Random, more: int, facts: dict[str, str]
) -> list[Event]:
    """What one device tells, after what it knows of."""
    every, events = library(), list(before)
    for _ in range(more):
        stand = merged(every, first, events, facts).stand
        if (now := stand.now) is None:
            break
        kind = chance.choice(KINDS)
        if kind == "done" and held(now.step, stand.state, facts, every.rules):
            kind = "skipped"
        if kind == "otherwise" and not now.step.otherwise:
            kind = "skipped"
        choice = chance.randrange(len(now.step.otherwise)) if kind == "otherwise" else 0
        events.append(Event(kind, now.id, choice, sum(one.step == now.id for one in events)))
    return events


def written() -> str:
    """The file's content."""
    return json.dumps({"visits": vectors(), "computed": computed()}, ensure_ascii=False, separators=(",", ":")) + "\n"


if __name__ == "__main__":
    FILE.parent.mkdir(parents=True, exist_ok=True)
    FILE.write_text(written())

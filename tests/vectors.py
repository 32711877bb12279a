"""What the guide decides, written down once for both of its readers.

``python -m tests.vectors`` writes the file anew after the procedures changed; a test here and one of the front end hold
both readers to it.
"""

import json
import random
from pathlib import Path
from typing import Any

from aquifer.core.kinds import HeaterKind
from aquifer.core.procedures import visit
from aquifer.core.procedures.calculators import Heater, filled
from aquifer.core.procedures.condition import possible
from aquifer.core.procedures.document import document
from aquifer.core.procedures.library import library, practices_followed
from aquifer.core.procedures.sequence import procedures_for
from aquifer.core.procedures.state import as_found, facts_of, rates_of
from aquifer.core.procedures.visit import Event
from aquifer.core.vocabulary import Component, FlushMethod, UpkeepItem

FILE = Path(__file__).parents[1] / "web/src/features/visits/guide/interlock.vectors.json"
TANK = (Component.SEDIMENT, Component.ANODE, Component.RELIEF_VALVE, Component.EXPANSION_TANK)
VISITS = (
    (HeaterKind.GAS_TANK, TANK, FlushMethod.JETTING, ("gas", "plumbing")),
    (HeaterKind.ELECTRIC_TANK, TANK, FlushMethod.ACID_SOAK, ("plumbing",)),
    (HeaterKind.CONDENSING_TANKLESS, (Component.SCALE, Component.RELIEF_VALVE), FlushMethod.DRAIN_AND_PULSE, ("gas",)),
)
RUNS, EVENTS = 7, 70


def vectors() -> list[dict[str, Any]]:
    """Visits with what happens in them, where they stand after each event, and what holds the next step."""
    every = library()
    cases = []
    for number, (kind, due, flush, licences) in enumerate(VISITS):
        facts = facts_of(kind, licences, practices_followed({}))
        rates = rates_of(190.0 if kind.is_tank else 3.0, 1.2, 11.0, 12.0)
        start = as_found(kind, rates)
        names = procedures_for(kind, due, flush, upkeep=tuple(UpkeepItem))
        first = visit.begun(every, names, facts, start)
        runs = []
        for seed in range(RUNS):
            chance = random.Random(100 * number + seed)
            told = visit.Visit(every, first, facts, rates)
            events: list[dict[str, Any]] = []
            before: visit.Stand = first
            for event in _events(told, facts, chance, plain=seed == 0):
                stand = told.stand
                events.append(
                    {
                        "event": {name: value for name, value in event.__dict__.items() if name != "at_s"}
                        | {"at": event.at_s},
                        "head": stand.now.id if stand.now else "",
                        "left": len(stand.left), "ending": stand.ending, "doubted": stand.doubted, "leads": stand.leads,
                        "held": [one.rule for one in visit.holding(every, stand, facts)],
                        "changed": {
                            field: words for field, words in stand.state.plain()["words"].items()
                            if words != before.state.plain()["words"][field]
                        },
                        "level": [round(one, 6) for one in stand.state.level],
                        "hot_c": [round(one, 6) for one in stand.state.hot_c],
                    }
                )  # fmt: skip
                before = stand
            runs.append({"events": events, "doubtful": visit.doubtful(every, told.stand, start)})
        cases.append({"guide": document(every, names, facts, start, rates), "runs": runs})
    return cases


def _events(told: visit.Visit, facts: Any, chance: random.Random, plain: bool) -> Any:
    """What happens at a visit by chance, each event told before it is given; straight through if plain."""
    every = library()
    at_s, done = 1000.0, list[Event]()
    for number in range(1, EVENTS + 1):
        stand = told.stand
        if stand.now is None:
            return
        at_s += 600.0 if plain else chance.choice([0.5, 4.0, 60.0, 600.0, 5000.0, -30.0])
        device = "a" if plain or chance.random() < 0.8 else "b"
        known = number - 1 if plain or chance.random() < 0.7 else max(0, number - 4)
        kind, parts = _kind(told, facts, chance, plain, done)
        event = Event(kind, id=f"e{number}", device=device, at_s=at_s, number=number, known=known, **parts)
        told.tell(event)
        if event.kind in visit.STEPS:
            done.append(event)
        yield event
    assert every


def _kind(
    told: visit.Visit, facts: Any, chance: random.Random, plain: bool, done: list[Event]
) -> tuple[str, dict[str, Any]]:
    stand, every = told.stand, library()
    assert stand.now is not None
    step = stand.now.id
    held = [one for one in visit.holding(every, stand, facts) if one.way_out]
    if held and (plain or chance.random() < 0.7):
        return "settled", {"step": step, "name": held[0].rule}
    draw = 0.0 if plain else chance.random()
    others = [n for n, one in enumerate(stand.now.step.deviations) if possible(one.when, {**facts, **stand.state.told})]
    if draw < 0.68:
        return ("override" if draw > 0.65 else "done"), {"step": step}
    if draw < 0.78:
        return "skipped", {"step": step, "why": "so"}
    if draw < 0.84 and others:
        return "deviation", {"step": step, "choice": chance.choice(others)}
    if draw < 0.9 and done:
        return "undo", {"of": chance.choice([done[-1], chance.choice(done)]).id}
    if draw < 0.94:
        return "outside", {"name": chance.choice([name for name, one in every.outside.items() if not one.ends])}
    if draw < 0.97:
        return "found", {"name": chance.choice(["leak", "rod", "pressure"])}
    return "took_over", {"choice": chance.randrange(2)}


HEATERS = (
    Heater(189, 1.2, 12, 60, 10, 380, 0.8, 300, 3000, 240, 21, 1000),
    Heater(300, 1.5, 3, 70, 5, 600, 1.0, 0, 3000, 230, 16, 700, 0.1),
    Heater(1, 0.2, 40, 43, 20, 200, 0.9, 4000, 500, 120, 30, 1500),
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


def written() -> str:
    """The file's content."""
    return json.dumps({"visits": vectors(), "computed": computed()}, ensure_ascii=False, separators=(",", ":")) + "\n"


if __name__ == "__main__":
    FILE.parent.mkdir(parents=True, exist_ok=True)
    FILE.write_text(written())

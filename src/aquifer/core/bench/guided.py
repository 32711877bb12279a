"""A practice with the guide beside it: the same steps, rules and state as at a real heater.

What is told stands among the acts: ``to`` is the step, with what of it after a colon.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from aquifer.core.bench.hand import Act
from aquifer.core.bench.practice import TELLINGS, Practice
from aquifer.core.bench.scenario import Scenario
from aquifer.core.kinds import KINDS
from aquifer.core.procedures import visit
from aquifer.core.procedures.condition import Words, possible
from aquifer.core.procedures.interlock import Held
from aquifer.core.procedures.library import Library, library
from aquifer.core.procedures.sequence import procedures_for
from aquifer.core.procedures.state import LICENCES, Rates, as_found, facts_of, rates_of
from aquifer.core.vocabulary import Component, FlushMethod


@dataclass(frozen=True)
class Guided:
    """Where the guide stands beside a practice."""

    stand: visit.Stand
    facts: Words
    library: Library
    """Its procedures."""
    done: int
    """Steps that were told of."""

    @property
    def deviations(self) -> list[tuple[int, str]]:
        """What the present step may show instead: its number and words."""
        if self.stand.now is None:
            return []
        words = {**self.facts, **self.stand.state.told}
        ways = self.stand.now.step.deviations
        return [(place, deviation.says) for place, deviation in enumerate(ways) if possible(deviation.when, words)]

    @property
    def held(self) -> list[Held]:
        """What holds the present step."""
        return visit.holding(self.library, self.stand, self.facts)


def guided(practice: Practice, practices: Mapping[str, str]) -> Guided:
    """Where the guide stands after what a practice told it. Parameters: practices, the company's sides.

    Raises: ValueError for a telling that cannot be read.
    """
    scenario, build = practice.scenario, practice.began.build
    facts = facts_of(scenario.kind, LICENCES, practices)
    rates = rates_of(build.litres, build.height_m, build.input_kw, build.cold_c)
    start = as_found(scenario.kind, rates, KINDS[scenario.kind].ignitions[0].value)
    stand = visit.begun(library(), _names(scenario), facts, start)
    return told_of(practice.acts, library(), stand, facts, rates)


def told_of(acts: Sequence[Act], every: Library, begun: visit.Stand, facts: Words, rates: Rates) -> Guided:
    """Where the guide stands after what acts told it. Parameters: every procedure there is; begun, before the first.

    Raises: ValueError for a telling that cannot be read.
    """
    told = [(place, act) for place, act in enumerate(acts) if act.handle in TELLINGS]
    stand = visit.folded(every, begun, [_event(place, act, every) for place, act in told], facts, rates)
    return Guided(stand, facts, every, len(told))


def _names(scenario: Scenario) -> tuple[str, ...]:
    method = FlushMethod.DRAIN_AND_PULSE if scenario.drained else FlushMethod.PRESSURE_BLOWOUT
    few_litres = scenario.left_alone and Component.SEDIMENT not in scenario.due
    return procedures_for(scenario.kind, scenario.due, method, partial=few_litres)


def _event(place: int, act: Act, every: Library) -> visit.Event:
    step, _, more = act.to.partition(":")
    if act.handle != "found" and step not in every.steps:
        raise ValueError(f"{act.handle}: there is no step {step!r}")
    if act.handle == "deviation" and not more.isdigit():
        raise ValueError(f"deviation: {act.to!r}; allowed: the step, a colon and a number")
    return visit.Event(
        act.handle,
        "" if act.handle == "found" else step,
        int(more) if act.handle == "deviation" else 0,
        step if act.handle == "found" else more if act.handle == "settled" else "",
        id=str(place),
        device="bench",
        at_s=float(act.at_s),
        why="practice",
    )

"""What holds a step: states that hurt somebody, as rules, and licences."""

from collections.abc import Iterable
from dataclasses import dataclass

from aquifer.core.procedures.condition import Condition, Words, fits, holds
from aquifer.core.procedures.state import State, after


@dataclass(frozen=True)
class Rule:
    """A state that must not be reached. Source of each: trade practice, as named in its hazard."""

    name: str
    forbids: Condition
    says: str
    """What would happen."""
    way_out: str
    """What to do first."""


@dataclass(frozen=True)
class Otherwise:
    """What a step may show instead of what is expected."""

    says: str
    then: tuple[str, ...] = ()
    """Procedures to go through before the step is tried again."""
    ends: bool = False
    """The work ends here: what is open is restored and the visit closed."""
    when: Condition = ()
    """For which heaters."""


@dataclass(frozen=True)
class Step:
    id: str
    do: str
    why: str = ""
    caution: str = ""
    tool: str = ""
    expect: str = ""
    minutes: float = 0.0
    figure: str = ""
    """Which computed time or amount is shown with it. A time is what the step takes if ``minutes`` is above 0, else it
    is only told: nobody waits beside a tank until it is hot."""
    through: tuple[tuple[str, str], ...] = ()
    """What is so for a while during it, and must hurt nobody either."""
    sets: tuple[tuple[str, str], ...] = ()
    needs: Condition = ()
    """Besides the rules, what must hold before it."""
    way_out: str = ""
    """What to do first where that does not hold."""
    asks: tuple[str, ...] = ()
    """Findings and readings that are recorded here."""
    licence: str = ""
    when: Condition = ()
    """For which heaters."""
    otherwise: tuple[Otherwise, ...] = ()


@dataclass(frozen=True)
class Held:
    """Why a step is held, and the way out."""

    rule: str
    says: str
    way_out: str


def harms(state: Words, facts: Words, rules: Iterable[Rule]) -> list[Rule]:
    """The rules that a state breaks. Parameters: facts, of the heater and of who does the work."""
    words = {**facts, **state}
    return [rule for rule in rules if any(fits(one, words) for one in rule.forbids)]


def passed(step: Step, state: Words) -> tuple[State, State]:
    """The states during a step and after it. Of what is only passed through, the pressure alone stays as it became."""
    during = after(state, dict(step.through))
    return during, after({**state, "pressure": during["pressure"]}, dict(step.sets))


def held(step: Step, state: Words, facts: Words, rules: Iterable[Rule]) -> list[Held]:
    """What holds a step in a state; nothing if it may be done.

    A state that is harmful already does not hold a step that makes it no worse: there must be a way back.
    """
    every = list(rules)
    before = harms(state, facts, every)
    during, new = passed(step, state)
    reached = harms(during, facts, every) if step.through else []
    reached += [rule for rule in harms(new, facts, every) if rule not in reached]
    found = [Held(rule.name, rule.says, rule.way_out) for rule in reached if rule not in before]
    if not holds(step.needs, {**facts, **state}):
        found.append(Held("needs", step.why or step.do, step.way_out))
    if step.licence and facts.get(f"licence_{step.licence}") != "yes":
        found.append(
            Held(
                "licence",
                f"This is for somebody with a licence for {step.licence} work.",
                "Leave it safe and ask for somebody who holds one.",
            )
        )
    return found

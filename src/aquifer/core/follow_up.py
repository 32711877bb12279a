"""What a visit's findings ask to be done next, and for which a quote is written.

Source of every row: trade practice; whether it is done, and by whom, local rules and licences decide.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from aquifer.core.judgement.table import Judgement, Verdict
from aquifer.core.vocabulary import DrainFlow, RodGrade


class FollowUp(StrEnum):
    RELIEF_VALVE = "relief_valve"
    ANODE = "anode"
    OTHER_ANODE = "other_anode"
    DRAIN_VALVE = "drain_valve"
    ELEMENT = "element"
    EXPANSION_TANK = "expansion_tank"
    REGULATOR = "regulator"
    SOFTENER = "softener"
    FIND_LEAK = "find_leak"
    HEATER = "heater"
    LICENSED_WORK = "licensed_work"


@dataclass(frozen=True)
class Proposed:
    """One thing to be done, with why."""

    what: FollowUp
    why: tuple[str, ...]


_OF_VERDICT = {
    Verdict.REPLACE_VALVE: FollowUp.RELIEF_VALVE,
    Verdict.CHANGE_ALLOY: FollowUp.OTHER_ANODE,
    Verdict.CHANGE_ELEMENT: FollowUp.ELEMENT,
    Verdict.CHANGE_HEATER: FollowUp.HEATER,
    Verdict.REPLACE_BEFORE_FAILURE: FollowUp.HEATER,
    Verdict.FIT_EXPANSION_TANK: FollowUp.EXPANSION_TANK,
    Verdict.RENEW_EXPANSION_TANK: FollowUp.EXPANSION_TANK,
    Verdict.FIT_REGULATOR: FollowUp.REGULATOR,
    Verdict.SOFTEN: FollowUp.SOFTENER,
    Verdict.FIND_THE_LEAK: FollowUp.FIND_LEAK,
}

LICENSED = frozenset(
    {
        FollowUp.RELIEF_VALVE,
        FollowUp.DRAIN_VALVE,
        FollowUp.ELEMENT,
        FollowUp.EXPANSION_TANK,
        FollowUp.REGULATOR,
        FollowUp.HEATER,
        FollowUp.LICENSED_WORK,
    }
)
"""What most local rules leave to a licensed plumber, fitter or electrician. Trade practice; the local code decides."""
_OF_THE_INSIDE = (FollowUp.ANODE, FollowUp.OTHER_ANODE, FollowUp.ELEMENT, FollowUp.DRAIN_VALVE)


@dataclass(frozen=True)
class Looked:
    """What the visit itself found, as far as it asks for something; ``None`` is not looked at."""

    rod: RodGrade | None = None
    rod_replaced: bool = False
    drain: DrainFlow | None = None


def follow_ups(judgements: Iterable[Judgement], looked: Looked) -> list[Proposed]:
    """What a visit asks to be done next, each thing once.

    Parameters: judgements, the verdicts after the visit; looked, what was found and not put right in it.
    Returns: in the order of the verdicts, then of the findings. A new heater makes work on the old one's inside
    needless; what protects people until it comes, and what the house keeps, is proposed all the same.
    """
    found: dict[FollowUp, Proposed] = {}
    for judgement in judgements:
        what = _OF_VERDICT.get(judgement.verdict)
        if what is not None and what not in found:
            found[what] = Proposed(what, judgement.because)
    if looked.rod in (RodGrade.MOSTLY_GONE, RodGrade.GONE) and not looked.rod_replaced:
        words = "gone" if looked.rod is RodGrade.GONE else "mostly gone"
        found.setdefault(FollowUp.ANODE, Proposed(FollowUp.ANODE, (f"the rod is {words} and was left in",)))
    if FollowUp.OTHER_ANODE in found:
        found.pop(FollowUp.ANODE, None)
    if looked.drain is DrainFlow.NONE:
        found[FollowUp.DRAIN_VALVE] = Proposed(FollowUp.DRAIN_VALVE, ("the drain did not run",))
    if FollowUp.HEATER in found:
        found = {what: proposal for what, proposal in found.items() if what not in _OF_THE_INSIDE}
    return list(found.values())

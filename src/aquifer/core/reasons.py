"""What moved, and why, in a sentence that says what was found, what was expected and what follows."""

import datetime
from dataclasses import dataclass
from math import exp

from aquifer.core.parameters import ANODE, SCALE, SEDIMENT
from aquifer.core.units import Quantity, figure
from aquifer.core.vocabulary import Component, ExpansionTankPin, Method, Removed, RodGrade, ValveOutcome


@dataclass(frozen=True)
class Standing:
    """One component's forecast, as much as a comparison needs."""

    component: Component
    due_on: datetime.date | None
    p10_on: datetime.date | None
    p90_on: datetime.date | None
    method: Method
    state: float
    """Median: depth or thickness in mm, share of the rod left, probability of being stuck, litres taken in, probability
    of failing within 12 months."""
    log_theta: float
    limit: float


@dataclass(frozen=True)
class Found:
    """What a visit found of one component."""

    removed: Removed | None = None
    depth_mm: float | None = None
    rod: RodGrade | None = None
    bare_mm: float | None = None
    outcome: ValveOutcome | None = None
    pin: ExpansionTankPin | None = None
    precharge_kpa: float | None = None
    replaced: bool = False


@dataclass(frozen=True)
class Moved:
    component: Component
    before_on: datetime.date | None
    after_on: datetime.date | None
    days: int | None
    """Later is positive; None if either date is beyond the horizon."""
    sentence: str


def moved(before: Standing | None, after: Standing, found: Found | None) -> Moved:
    """How a component's date moved, and the sentence that explains it.

    Parameters: its standing before the visit (None if there was none) and after; what was found, None if the visit
    did not look at it. Returns: both dates, their distance in days, and why.
    """
    dates = (before.due_on if before else None, after.due_on)
    days = (dates[1] - dates[0]).days if dates[0] and dates[1] else None
    return Moved(after.component, dates[0], dates[1], days, _sentence(before, after, found))


def learned(component: Component, log_theta: float, visits: int) -> str:
    """What findings taught of a heater's own pace, for people: "This tank builds 1.6 times what its water and use
    suggest; four visits say so." Empty for what has no pace of its own to tell.

    Parameters: the component; the natural log of its learned rate over the suggested one; at how many visits it was
    looked at. Source: the posterior's mean; nothing is told of less than a tenth.
    """
    subject = PACES.get(component)
    if subject is None:
        return ""
    who = "others on this water and of its build say so"
    if visits:
        who = f"{NUMBERS.get(visits, str(visits))} visit{'s say' if visits > 1 else ' says'} so"
    return f"{_pace(log_theta, subject).split(':')[0]}; {who}."


PACES = {
    Component.SEDIMENT: "This tank builds",
    Component.SCALE: "This exchanger scales",
    Component.ANODE: "Rods in this tank wear",
    Component.EXPANSION_TANK: "This expansion tank loses air",
}
NUMBERS = {1: "one", 2: "two", 3: "three", 4: "four", 5: "five", 6: "six", 7: "seven", 8: "eight", 9: "nine"}


def expected_grade(component: Component, state_mm: float, limit_mm: float) -> Removed:
    """The grade by eye that a believed depth or thickness (mm) would be given, and its limit (mm). Source:
    ``parameters``, assumption."""
    if component is Component.SCALE:
        cuts = [limit_mm * cut for cut in SCALE.grade_cuts]
    else:
        cuts = [1000 * cut for cut in SEDIMENT.grade_cuts_m]
    return list(Removed)[sum(state_mm >= cut for cut in cuts)]


def expected_rod(fraction_left: float) -> RodGrade:
    """The grade a rod of which ``fraction_left`` is believed left would be given. Source: ``parameters.ANODE``."""
    return list(RodGrade)[sum(1 - fraction_left >= cut for cut in ANODE.grade_cuts)]


AMOUNTS = {
    Removed.NONE: "nothing",
    Removed.TRACE: "a trace",
    Removed.MODERATE: "a moderate amount",
    Removed.HEAVY: "a heavy amount",
    Removed.BLOCKED: "a blocked drain",
}
RODS = {
    RodGrade.LIKE_NEW: "like new",
    RodGrade.WORN: "worn",
    RodGrade.HALF: "half gone",
    RodGrade.MOSTLY_GONE: "mostly gone",
    RodGrade.GONE: "gone",
}


def _mm(length_mm: float) -> str:
    return figure(Quantity.LENGTH, round(length_mm))


def _litres(volume_l: float) -> str:
    return figure(Quantity.SMALL_VOLUME, round(volume_l, 1))


def _sentence(before: Standing | None, after: Standing, found: Found | None) -> str:
    if found is None:
        return (
            "Not looked at; moved only by what was learned of this water." if before else "Forecast for the first time."
        )
    if after.component is Component.RELIEF_VALVE:
        return _valve(after, found)
    if after.component is Component.EXPANSION_TANK:
        return _expansion_tank(after, found)
    if after.component is Component.TANK:
        return f"{after.state:.0%} likely to fail within 12 months, by its age and what was seen."
    if after.component is Component.ANODE:
        return _rod(before, after, found)
    return _deposit(before, after, found)


def _pace(log_theta: float, what: str) -> str:
    ratio = exp(log_theta)
    if ratio < 0.91:
        return f"{what} {ratio:.1f} times what its water and use suggest: slower"
    if ratio > 1.1:
        return f"{what} {ratio:.1f} times what its water and use suggest: faster"
    return f"{what} about what its water and use suggest"


def _deposit(before: Standing | None, after: Standing, found: Found) -> str:
    parts = []
    if found.depth_mm is not None and before:
        parts.append(f"Measured {_mm(found.depth_mm)} where about {_mm(before.state)} was believed.")
    elif found.removed is not None and before:
        expected = expected_grade(after.component, before.state, before.limit)
        if expected == found.removed:
            parts.append(f"Out came {AMOUNTS[found.removed]}, as expected.")
        else:
            parts.append(f"Out came {AMOUNTS[found.removed]} where {AMOUNTS[expected]} was expected.")
    elif found.removed is not None:
        parts.append(f"Out came {AMOUNTS[found.removed]}.")
    parts.append(_pace(after.log_theta, PACES[after.component]) + ".")
    parts.append("The next date counts from this service.")
    if after.method in (Method.JETTING, Method.ACID_SOAK) and before and before.method != after.method:
        parts.append(f"More plain flushes would not keep up: {after.method.value.replace('_', ' ')} next.")
    return " ".join(parts)


def _rod(before: Standing | None, after: Standing, found: Found) -> str:
    if found.replaced:
        return f"New rod: its life starts again. {_pace(after.log_theta, PACES[Component.ANODE])}."
    parts = []
    if found.bare_mm:
        parts.append(f"{_mm(found.bare_mm)} of wire is bare.")
    if found.rod is not None and before:
        expected = expected_rod(before.state)
        as_expected = "as expected" if expected == found.rod else f"{RODS[expected]} was expected"
        parts.append(f"The rod is {RODS[found.rod]}; {as_expected}.")
    parts.append(_pace(after.log_theta, "It wears") + ".")
    return " ".join(parts)


def _expansion_tank(after: Standing, found: Found) -> str:
    if found.replaced:
        return "New expansion tank, charged to the house pressure: its year starts again."
    if found.pin is ExpansionTankPin.WATER:
        return "Water came out of the air valve, so the bladder is torn: to be replaced."
    room = f"it takes in {_litres(after.state)} of the {_litres(after.limit)} that heating adds"
    if found.precharge_kpa is not None:
        pace = _pace(after.log_theta, PACES[Component.EXPANSION_TANK])
        return f"Found at {figure(Quantity.PRESSURE, found.precharge_kpa)} and charged again: {room}. {pace}."
    return f"Air at the valve, so the bladder holds: {room}."


def _valve(after: Standing, found: Found) -> str:
    if found.replaced:
        return "New valve: the twelve months start again."
    if found.outcome is ValveOutcome.FLOWS_AND_RESEATS:
        return "It ran and reseated: the twelve months at most start again."
    if found.outcome is ValveOutcome.FLOWS_AND_WEEPS:
        return "It ran but did not reseat: it is to be replaced, and a weep only grows."
    if found.outcome is ValveOutcome.NO_FLOW:
        return "It passed no water, so the tank has no protection: to be replaced before anything else."
    return "Not tested: the date stands, and twelve months are not lengthened."

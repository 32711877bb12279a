"""What moved, and why: what was found, what was expected and what follows, as keys and figures and in words."""

import datetime
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
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
class Reason:
    """One thing that explains where a date is: its words stand in ``WORDS``."""

    key: str
    figures: Mapping[str, float | str] = field(default_factory=dict)
    """By their names in the words; the end of a name is its unit."""

    def __post_init__(self) -> None:
        if self.key not in WORDS:
            raise ValueError(f"no words for {self.key!r}; there are: {', '.join(WORDS)}")


@dataclass(frozen=True)
class Moved:
    component: Component
    before_on: datetime.date | None
    after_on: datetime.date | None
    days: int | None
    """Later is positive; None if either date is beyond the horizon."""
    reasons: tuple[Reason, ...]


def moved(before: Standing | None, after: Standing, found: Found | None) -> Moved:
    """How a component's date moved, and what explains it.

    Parameters: its standing before the visit (None if there was none) and after; what was found, None if the visit
    did not look at it. Returns: both dates, their distance in days, and why.
    """
    dates = (before.due_on if before else None, after.due_on)
    days = (dates[1] - dates[0]).days if dates[0] and dates[1] else None
    return Moved(after.component, dates[0], dates[1], days, tuple(_reasons(before, after, found)))


def told(reasons: Iterable[Reason]) -> str:
    """Reasons in words, a sentence each; lengths, volumes and pressures in braces for ``units.worded``."""
    return " ".join(
        WORDS[one.key].format(**{name: _figure(name, value) for name, value in one.figures.items()}) for one in reasons
    )


def learned(component: Component, log_theta: float, visits: int) -> str:
    """What findings taught of a heater's own pace, for people: "This tank builds 1.6 times what its water and use
    suggest; four visits say so." Empty for what has no pace of its own to tell.

    Parameters: the component; the natural log of its learned rate over the suggested one; at how many visits it was
    looked at. Source: the posterior's mean; nothing is told of less than a tenth.
    """
    if component not in PACES:
        return ""
    who = "others on this water and of its build say so"
    if visits:
        who = f"{NUMBERS.get(visits, str(visits))} visit{'s say' if visits > 1 else ' says'} so"
    pace = _pace(component, log_theta)
    return f"{told([Reason(PACE_ALONE.get(pace.key, pace.key), pace.figures)]).removesuffix('.')}; {who}."


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


WORDS = {
    "not_looked_at": "Not looked at; moved only by what was learned of this water.",
    "first": "Forecast for the first time.",
    "as_told": "{words}",
    "likely_to_fail": "{chance:.0%} likely to fail within 12 months, by its age and what was seen.",
    "measured": "Measured {found_mm} where about {believed_mm} was believed.",
    "came_as_expected": "Out came {amount}, as expected.",
    "came_unexpected": "Out came {amount} where {expected_amount} was expected.",
    "came": "Out came {amount}.",
    "pace": "{component} {ratio:.1f} times what its water and use suggest.",
    "pace_slower": "{component} {ratio:.1f} times what its water and use suggest: slower.",
    "pace_faster": "{component} {ratio:.1f} times what its water and use suggest: faster.",
    "pace_as_suggested": "{component} about what its water and use suggest.",
    "counts_from_this": "The next date counts from this service.",
    "other_method": "More plain flushes would not keep up: {method} next.",
    "new_rod": "New rod: its life starts again.",
    "wire_is_bare": "{bare_mm} of wire is bare.",
    "rod_as_expected": "The rod is {rod}; as expected.",
    "rod_unexpected": "The rod is {rod}; {expected_rod} was expected.",
    "new_expansion_tank": "New expansion tank, charged to the house pressure: its year starts again.",
    "bladder_torn": "Water came out of the air valve, so the bladder is torn: to be replaced.",
    "charged_again": "Found at {found_kpa} and charged again: it takes in {takes_l} of the {adds_l} that heating adds.",
    "bladder_holds": (
        "Air at the valve, so the bladder holds: it takes in {takes_l} of the {adds_l} that heating adds."
    ),
    "new_valve": "New valve: the twelve months start again.",
    "valve_reseated": "It ran and reseated: the twelve months at most start again.",
    "valve_weeps": "It ran but did not reseat: it is to be replaced, and a weep only grows.",
    "valve_dead": "It passed no water, so the tank has no protection: to be replaced before anything else.",
    "valve_not_tested": "Not tested: the date stands, and twelve months are not lengthened.",
}
PACE_ALONE = {"pace_slower": "pace", "pace_faster": "pace"}
"""Where what follows says the rest."""
_QUANTITIES = {"mm": Quantity.LENGTH, "l": Quantity.SMALL_VOLUME, "kpa": Quantity.PRESSURE}


def _figure(name: str, value: float | str) -> float | str:
    """A figure as its words take it: one with a unit for ``units.worded``, a grade in words, else as it is."""
    if isinstance(value, str):
        match name.rpartition("_")[2]:
            case "amount":
                return AMOUNTS[Removed(value)]
            case "rod":
                return RODS[RodGrade(value)]
            case "component":
                return PACES[Component(value)]
            case "method":
                return value.replace("_", " ")
        return value
    quantity = _QUANTITIES.get(name.rpartition("_")[2])
    return value if quantity is None else figure(quantity, value)


def _reasons(before: Standing | None, after: Standing, found: Found | None) -> list[Reason]:
    if found is None:
        return [Reason("not_looked_at" if before else "first")]
    match after.component:
        case Component.RELIEF_VALVE:
            return [_valve(found)]
        case Component.EXPANSION_TANK:
            return _expansion_tank(after, found)
        case Component.TANK:
            return [Reason("likely_to_fail", {"chance": after.state})]
        case Component.ANODE:
            return _rod(before, after, found)
    return _deposit(before, after, found)


def _pace(component: Component, log_theta: float) -> Reason:
    ratio = exp(log_theta)
    figures: dict[str, float | str] = {"component": component.value, "ratio": round(ratio, 3)}
    if ratio < 0.91:
        return Reason("pace_slower", figures)
    return Reason("pace_faster" if ratio > 1.1 else "pace_as_suggested", figures)


def _deposit(before: Standing | None, after: Standing, found: Found) -> list[Reason]:
    reasons = []
    if found.depth_mm is not None and before:
        reasons.append(Reason("measured", {"found_mm": round(found.depth_mm), "believed_mm": round(before.state)}))
    elif found.removed is not None and before:
        expected = expected_grade(after.component, before.state, before.limit)
        if expected == found.removed:
            reasons.append(Reason("came_as_expected", {"amount": found.removed.value}))
        else:
            amounts = {"amount": found.removed.value, "expected_amount": expected.value}
            reasons.append(Reason("came_unexpected", amounts))
    elif found.removed is not None:
        reasons.append(Reason("came", {"amount": found.removed.value}))
    reasons += [_pace(after.component, after.log_theta), Reason("counts_from_this")]
    if after.method in (Method.JETTING, Method.ACID_SOAK) and before and before.method != after.method:
        reasons.append(Reason("other_method", {"method": after.method.value}))
    return reasons


def _rod(before: Standing | None, after: Standing, found: Found) -> list[Reason]:
    pace = _pace(Component.ANODE, after.log_theta)
    if found.replaced:
        return [Reason("new_rod"), pace]
    reasons = []
    if found.bare_mm:
        reasons.append(Reason("wire_is_bare", {"bare_mm": round(found.bare_mm)}))
    if found.rod is not None and before:
        expected = expected_rod(before.state)
        if expected == found.rod:
            reasons.append(Reason("rod_as_expected", {"rod": found.rod.value}))
        else:
            reasons.append(Reason("rod_unexpected", {"rod": found.rod.value, "expected_rod": expected.value}))
    return [*reasons, pace]


def _expansion_tank(after: Standing, found: Found) -> list[Reason]:
    if found.replaced:
        return [Reason("new_expansion_tank")]
    if found.pin is ExpansionTankPin.WATER:
        return [Reason("bladder_torn")]
    room: dict[str, float | str] = {"takes_l": round(after.state, 1), "adds_l": round(after.limit, 1)}
    if found.precharge_kpa is not None:
        charged = Reason("charged_again", {"found_kpa": found.precharge_kpa, **room})
        return [charged, _pace(Component.EXPANSION_TANK, after.log_theta)]
    return [Reason("bladder_holds", room)]


_OUTCOMES = {
    ValveOutcome.FLOWS_AND_RESEATS: "valve_reseated",
    ValveOutcome.FLOWS_AND_WEEPS: "valve_weeps",
    ValveOutcome.NO_FLOW: "valve_dead",
}


def _valve(found: Found) -> Reason:
    if found.replaced:
        return Reason("new_valve")
    return Reason(_OUTCOMES.get(found.outcome, "valve_not_tested") if found.outcome else "valve_not_tested")

"""What a visit did, found and asks for, as it is told to who lives there: whole sentences and no term of the trade.

The office's log has the same in short (``visits.words``). Each finding says what we did, and what it means where it
means something for the house. Sources: trade practice; whoever reads it is no plumber.
"""

from collections.abc import Iterable, Mapping

from aquifer.core.follow_up import FollowUp
from aquifer.core.judgement.rules import CREEP_KPA, HIGH_PRESSURE_KPA
from aquifer.core.place import FeatureKind
from aquifer.core.units import Quantity, Unit, worded
from aquifer.core.vocabulary import Component, Task
from aquifer.places.models import Feature
from aquifer.visits.models import Finding
from aquifer.visits.words import part_words

_CAME_OUT = {
    "none": "nothing came out",
    "trace": "a little deposit came out, as is usual",
    "moderate": "a fair amount of deposit came out",
    "heavy": "a lot of deposit came out",
    "blocked": "so much deposit lay in it that the drain was blocked",
}
_WASHED_OUT = {
    "none": "nothing was dissolved",
    "trace": "a little lime was dissolved, as is usual",
    "moderate": "a fair amount of lime was dissolved",
    "heavy": "a lot of lime was dissolved",
    "blocked": "it was choked with lime",
}
_ROD = {
    "like_new": "is as good as new",
    "worn": "is partly used up; that is its work",
    "half": "is half used up",
    "mostly_gone": "is nearly used up",
    "gone": "is used up",
}
_VALVE = {
    "flows_and_reseats": "it opens and shuts as it should",
    "flows_and_weeps": "it opens, and drips since",
    "no_flow": "it let no water pass",
    "not_tested": "it could not be tried today",
}
_EXPANSION_TANK = {"air": "it is sound", "water": "it is torn inside", "nothing": "it has lost its air"}
_NOISE = {
    "hiss": "It hisses when it heats.",
    "bubbling": "It bubbles when it heats: deposit lies on its floor.",
    "popping": "It pops and knocks when it heats: deposit lies on its floor.",
    "kettling": "It rumbles when it heats: deposit lies on its floor.",
}
_RUST = {
    "fittings": "There is rust at its connections.",
    "seams": "There is rust at a seam of the tank, the surest sign that it will leak.",
}
_DEPOSIT = "Deposit makes a heater noisy and slow, and shortens its life."
_LIME = "Lime makes hot water weak and lukewarm, and costs fuel."
_MEANS = {
    (Task.FLUSH, "heavy"): _DEPOSIT,
    (Task.FLUSH, "blocked"): _DEPOSIT,
    (Task.DESCALE, "heavy"): _LIME,
    (Task.DESCALE, "blocked"): _LIME,
    (Task.ANODE_INSPECTION, "gone"): "With the rod used up, the tank itself rusts.",
    (Task.ANODE_INSPECTION, "mostly_gone"): "Once the rod is used up, the tank itself rusts.",
    (Task.RELIEF_VALVE_EXERCISE, "no_flow"): "That valve keeps the heater from bursting. "
    "Until a new one is fitted the heater must stay off.",
    (Task.RELIEF_VALVE_EXERCISE, "flows_and_weeps"): "A drip only grows; a new valve ends it.",
    (Task.EXPANSION_TANK_CHECK, "water"): "Without it every heating strains pipes, valves and the heater.",
    (Task.EXPANSION_TANK_CHECK, "nothing"): "Without air in it every heating strains pipes, valves and the heater.",
}
NEXT = {
    Component.SEDIMENT: "Flushing the deposit out",
    Component.SCALE: "Washing the lime out",
    Component.ANODE: "Looking at the rod that rusts in place of the tank",
    Component.RELIEF_VALVE: "Trying the safety valve",
    Component.EXPANSION_TANK: "Checking the expansion tank",
}
"""What we come again for."""
_OFFERED: dict[FollowUp, tuple[str, str]] = {
    FollowUp.RELIEF_VALVE: (
        "A new safety valve",
        "it keeps the heater from bursting, and the old one cannot be trusted",
    ),
    FollowUp.ANODE: ("A new rod in the tank", "it rusts in place of the tank; the old one is used up"),
    FollowUp.OTHER_ANODE: ("A rod of another metal", "the present one hardly protects the tank in your water"),
    FollowUp.DRAIN_VALVE: ("A new drain valve", "the old one does not let the tank be emptied"),
    FollowUp.ELEMENT: ("A new heating element", "one of them is burnt out"),
    FollowUp.EXPANSION_TANK: ("An expansion tank", "water grows as it is heated, and has nowhere to go"),
    FollowUp.REGULATOR: (
        "A pressure regulator",
        "the pressure in the house is more than pipes and valves are made for",
    ),
    FollowUp.SOFTENER: ("A water softener", "your water leaves more lime than cleaning keeps up with"),
    FollowUp.FIND_LEAK: ("Looking for a leak", "the pressure falls while nothing is running: water is lost somewhere"),
    FollowUp.HEATER: (
        "A new water heater",
        "this one is in the state in which heaters begin to leak; in good time it is changed without a flood",
    ),
    FollowUp.LICENSED_WORK: ("Work for a licensed person", "the local rules leave it to them"),
}


_TO_SHUT_OFF = {
    FeatureKind.HOUSE_SHUT_OFF: "All water of the house",
    FeatureKind.HEATER_SHUT_OFF: "The heater's cold water",
    FeatureKind.GAS_SHUT_OFF: "The heater's gas",
    FeatureKind.BREAKER: "The heater's electricity",
    FeatureKind.BOILER_SWITCH: "The boiler that heats it",
}
"""What is shut off when something goes wrong, in the order in which it is looked for."""


def where_to_shut_off(features: Iterable[Feature], heater_id: int) -> list[str]:
    """Where each thing is shut off here, and what is better not touched. Parameters: features of the site."""
    own = {FeatureKind(feature.kind): feature for feature in features if feature.heater_id in (None, heater_id)}
    return [_shut_off(words, own[kind]) for kind, words in _TO_SHUT_OFF.items() if kind in own and _is_told(own[kind])]


def _is_told(feature: Feature) -> bool:
    return bool(feature.where or feature.do_not_operate) and feature.condition != "missing"


def _shut_off(words: str, feature: Feature) -> str:
    at = ", ".join(filter(None, (feature.form, feature.where)))
    if feature.do_not_operate:
        it = f"its own ({at})" if at else "its own"
        return f"{words}: {it} is not to be touched, it may fail. Use {feature.use_instead or 'the next one up'}."
    return f"{words}: {at}."


def done(finding: Finding, units: Mapping[Quantity, Unit]) -> str:
    """What we did and what we saw, in a sentence or two."""
    return worded(" ".join(_told(finding)), units)


def means(finding: Finding) -> str:
    """What a finding means for the house; empty where nothing follows."""
    said = finding.removed or finding.grade or finding.outcome or finding.at_valve
    found = _MEANS.get((Task(finding.task), said), "")
    if finding.task == Task.PRESSURE_TEST and (finding.static_kpa or 0) > HIGH_PRESSURE_KPA:
        found = "That is more than pipes, valves and appliances are made for."
    if finding.task == Task.LOOK_OVER and finding.rusty_hot_water:
        found = "Rust in the hot water alone comes from inside the heater."
    return found


def offered(what: FollowUp) -> str:
    """What we propose, and why."""
    name, why = _OFFERED[what]
    return f"{name}: {why}"


def _told(finding: Finding) -> list[str]:
    match Task(finding.task):
        case Task.FLUSH:
            came_out = _CAME_OUT.get(finding.removed, "")
            return [
                f"We flushed the tank{': ' + came_out if came_out else ''}.",
                *_depths(finding),
                *(["The water ran " + finding.clarity + " at the end."] if finding.clarity else []),
            ]
        case Task.DESCALE:
            came_out = _WASHED_OUT.get(finding.removed, "")
            return [
                f"We washed the lime out of the heat exchanger{': ' + came_out if came_out else ''}.",
                *_flows(finding),
            ]
        case Task.ANODE_INSPECTION if finding.could_not_open:
            return ["The rod that rusts in place of the tank could not be taken out today."]
        case Task.ANODE_INSPECTION:
            return [f"We looked at the rod that rusts in place of the tank: it {_ROD.get(finding.grade, 'was seen')}."]
        case Task.ANODE_REPLACEMENT:
            return [_new("a new rod in the tank", finding)]
        case Task.RELIEF_VALVE_EXERCISE:
            return [f"We tried the safety valve: {_VALVE.get(finding.outcome, 'it was moved')}."]
        case Task.RELIEF_VALVE_REPLACEMENT:
            return [_new("a new safety valve", finding)]
        case Task.EXPANSION_TANK_CHECK:
            return [f"We checked the expansion tank: {_EXPANSION_TANK.get(finding.at_valve, 'its air was measured')}."]
        case Task.EXPANSION_TANK_REPLACEMENT:
            return [_new("a new expansion tank", finding)]
        case Task.PRESSURE_TEST:
            return _pressure(finding)
        case Task.LOOK_OVER:
            return _looked(finding)
        case Task.UPKEEP:
            fouling = f": {finding.get_fouling_display()}" if finding.fouling else ""
            return [f"We cleaned the {finding.get_item_display().lower()}{fouling}."]
        case Task.HOUSEHOLD_CHANGE:
            return ["We noted that other people live here now: the heater is used otherwise."]


def _new(what: str, finding: Finding) -> str:
    words = ", ".join(filter(None, part_words(finding.part)))
    return f"We fitted {what}{f' ({words})' if words else ''}."


def _depths(finding: Finding) -> list[str]:
    before, after = finding.depth_before_mm, finding.depth_after_mm
    if before is not None and after is not None:
        return [f"It lay {{length_mm:{before}}} deep before, and {{length_mm:{after}}} after."]
    told = [(before, "before"), (after, "after")]
    return [f"It lay {{length_mm:{depth}}} deep {when}." for depth, when in told if depth is not None]


def _flows(finding: Finding) -> list[str]:
    before, after = finding.flow_before_l_min, finding.flow_after_l_min
    if before is None or after is None:
        return []
    return [f"Hot water runs with {{flow_l_min:{after}}} now, with {{flow_l_min:{before}}} before."]


def _pressure(finding: Finding) -> list[str]:
    said = []
    if finding.static_kpa is not None:
        said.append(f"The water pressure in the house is {{pressure_kpa:{finding.static_kpa}}}.")
    if (finding.creep_kpa or 0) > CREEP_KPA:
        said.append(f"It rises by {{pressure_kpa:{finding.creep_kpa}}} while nobody draws water.")
    if finding.falls:
        said.append("It falls while nothing is running.")
    return said or ["We tested the water pressure."]


def _looked(finding: Finding) -> list[str]:
    said = [_NOISE.get(finding.noise, ""), _RUST.get(finding.corrosion, "")]
    said.append("The hot water runs rusty." if finding.rusty_hot_water else "")
    said.append("The safety valve was dripping when we came." if finding.valve_drips else "")
    said.append("A heating element is burnt out." if finding.element_failed else "")
    return [one for one in said if one] or ["We looked the heater over and found nothing amiss."]

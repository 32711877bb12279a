"""What a practice noted, by instrument and by eye, against the heater's truth."""

from collections.abc import Callable

from aquifer.core.bench.heater import LOOSE_KG_L
from aquifer.core.bench.mark import Mark, first
from aquifer.core.bench.practice import Practice
from aquifer.core.bench.scenario import DECISIONS
from aquifer.core.parameters import ANODE, SEDIMENT
from aquifer.core.units import Quantity, figure
from aquifer.core.vocabulary import Removed, RodGrade, ValveOutcome

TAP_WITHIN_C, KPA_WITHIN = 2.0, 0.05
"""How far off a reading may be: of the tap, degC; of the house's pressure, as a share. Assumption."""


def removed_grade(litres: float, floor_m2: float) -> Removed:
    """The grade of what came out, by the depth at which it lay. Source: the forecast's ``grade_cuts_m``."""
    depth_m = litres / 1000 / floor_m2
    return list(Removed)[sum(depth_m >= cut for cut in SEDIMENT.grade_cuts_m)]


def rod_grade(left: float) -> RodGrade:
    """The grade of a rod, by the share of its metal that is left. Source: the forecast's ``grade_cuts``."""
    return list(RodGrade)[sum(1 - left >= cut for cut in ANODE.grade_cuts)]


def note_marks(practice: Practice) -> list[Mark]:
    """What was noted, against what was so."""
    judges: dict[str, Callable[[Practice, str], Mark]] = {
        "tap_c": _tap,
        "static_kpa": _static,
        "removed": _removed,
        "valve_outcome": _outcome,
        "rod_grade": _rod_grade,
        "decision": _decision,
    }
    return [judges[name](practice, practice.notes.get(name, "")) for name in practice.scenario.asks]


def _number(text: str) -> float | None:
    try:
        return float(text)
    except ValueError:
        return None


def _tap(practice: Practice, noted: str) -> Mark:
    true, told = practice.began.top_c, _number(noted)
    off = None if told is None else told - true
    good = off is not None and abs(off) <= TAP_WITHIN_C and practice.tap_seen_c is not None
    says = (
        "The first hot water was not noted."
        if off is None
        else f"The first hot water, noted within {figure(Quantity.TEMPERATURE_DIFFERENCE, abs(off))}."
        if good
        else "The temperature noted is nothing that was read before the heat was turned down."
        if practice.tap_seen_c is None
        else f"The first hot water was noted {figure(Quantity.TEMPERATURE_DIFFERENCE, abs(off))} off."
    )
    return Mark("tap_c", good, says, False, "arrival.tap")


def _static(practice: Practice, noted: str) -> Mark:
    true, told = practice.began.build.supply_kpa, _number(noted)
    good = told is not None and abs(told / true - 1) <= KPA_WITHIN and first(practice, "gauge", "on") is not None
    says = "The house's pressure, read off the gauge." if good else "The house's pressure was not read off a gauge."
    return Mark("static_kpa", good, says, False, "pressure_read.static")


def _removed(practice: Practice, noted: str) -> Mark:
    build = practice.began.build
    litres = practice.heater.removed_kg / LOOSE_KG_L
    true = removed_grade(litres, build.litres / 1000 / build.height_m)
    good = noted == true
    words = f"What came out, {figure(Quantity.SMALL_VOLUME, litres)}, is {true}"
    says = f"{words}, as you noted." if good else f"{words}; you noted {noted or 'nothing'}."
    return Mark("removed", good, says, False, "flush_pressurised.run_clear")


def _outcome(practice: Practice, noted: str) -> Mark:
    build = practice.began.build
    true = (
        ValveOutcome.NO_FLOW
        if build.relief_stuck
        else ValveOutcome.FLOWS_AND_WEEPS
        if build.relief_weeps
        else ValveOutcome.FLOWS_AND_RESEATS
    )
    if first(practice, "lever", "up") is None:
        true = ValveOutcome.NOT_TESTED
    words = {
        ValveOutcome.NO_FLOW: "lets nothing through",
        ValveOutcome.FLOWS_AND_WEEPS: "flows and weeps after",
        ValveOutcome.FLOWS_AND_RESEATS: "flows and closes",
        ValveOutcome.NOT_TESTED: "was not tried",
    }
    good = noted == true
    says = f"The valve that you found {words[true]}" + (", as you noted." if good else "; that is not what you noted.")
    return Mark("valve_outcome", good, says, True, "relief_exercise.watch")


def _rod_grade(practice: Practice, noted: str) -> Mark:
    left = practice.began.rod.left
    true = rod_grade(left)
    good = noted == true and practice.rod_drawn
    words = f"The rod had {round(100 * left)} % of its metal, which is {true.replace('_', ' ')}"
    says = f"{words}, as you noted." if good else f"{words}; you noted {noted.replace('_', ' ') or 'nothing'}."
    return Mark("rod_grade", good, says, False, "anode_out.judge")


def _decision(practice: Practice, noted: str) -> Mark:
    true = DECISIONS[1] if practice.scenario.left_alone else DECISIONS[0]
    says = {
        "left_alone": "This deposit is better left where it is: old and never stirred, it may seal a flaw.",
        "flushed": "This deposit comes out without harm, and is better out.",
    }[true]
    return Mark("decision", noted == true, says, True, "blocked_drain.air_path")

"""What a practice is worth, against the heater's truth and the trade's order."""

from collections.abc import Callable
from dataclasses import dataclass

from aquifer.core.bench.heater import LOOSE_KG_L
from aquifer.core.bench.practice import Practice
from aquifer.core.parameters import SEDIMENT
from aquifer.core.units import Quantity, figure
from aquifer.core.vocabulary import Removed, ValveOutcome

TAP_WITHIN_C, KPA_WITHIN = 2.0, 0.05
"""How far off a reading may be: of the tap, degC; of the house's pressure, as a share. Assumption."""
LEFT_LOOSE = 0.5
"""Share of the loose deposit that a flush may leave. Assumption: under pressure it leaves 0.4, as the forecast takes
it."""
WATCH_S = 240
"""Of the five minutes for which the relief pipe's end is watched. Assumption."""
PASSES_AT = 0.8
"""Share of the marks with which a practice without harm has been passed. Assumption."""


@dataclass(frozen=True)
class Mark:
    """One thing that was judged."""

    name: str
    good: bool
    says: str
    """With its figures as ``units.figure`` writes them."""
    must: bool
    """Without it nothing is passed."""
    read: str
    """The step of the trade to read again, ``procedure.step``."""


@dataclass(frozen=True)
class Grade:
    marks: tuple[Mark, ...]
    share: float
    """Of the marks that are good."""
    passed: bool


def graded(practice: Practice) -> Grade:
    """The grade of a practice as it stands. Source of the order: the trade practice of the steps named in ``read``."""
    marks = tuple(_marks(practice))
    share = sum(mark.good for mark in marks) / len(marks)
    passed = not practice.harms and share >= PASSES_AT and all(mark.good for mark in marks if mark.must)
    return Grade(marks, share, passed)


def removed_grade(litres: float, floor_m2: float) -> Removed:
    """The grade of what came out, by the depth at which it lay. Source: the forecast's ``grade_cuts_m``."""
    depth_m = litres / 1000 / floor_m2
    return list(Removed)[sum(depth_m >= cut for cut in SEDIMENT.grade_cuts_m)]


def _marks(practice: Practice) -> list[Mark]:
    return [*_order(practice), *_work(practice), *_readings(practice), *_left(practice)]


def _first(practice: Practice, handle: str, *to: str) -> int | None:
    """The second at which something was first turned so."""
    return next(
        (
            act.at_s
            for place, act in enumerate(practice.acts)
            if act.handle == handle and act.to in to and place not in practice.refusals
        ),
        None,
    )


def _before(one: int | None, other: int | None) -> bool:
    """Whether one was done, and no later than the other, if that was."""
    return one is not None and (other is None or one <= other)


def _order(practice: Practice) -> list[Mark]:
    gas = practice.heater.build.fuel == "gas"
    down = _first(practice, "dial", "pilot", "off") if gas else _first(practice, "breaker", "locked")
    water = min(
        (
            one
            for one in (_first(practice, "cold", "shut"), _first(practice, "drain", "open", "cracked"))
            if one is not None
        ),
        default=None,
    )
    lifted = _first(practice, "lever", "up")
    drawn = water is not None and any(at > water for at in practice.drew)
    told = _before(_first(practice, "tell", "what goes off"), water)
    followed = _before(_first(practice, "look", "relief pipe"), lifted)
    return [
        Mark(
            "told",
            told and not drawn,
            "The house knew before any water went off."
            if told and not drawn
            else "Nobody was told, and hot water was drawn meanwhile."
            if drawn
            else "The house was not told before water went off.",
            False,
            "arrival.greet",
        ),
        Mark(
            "energy_first",
            _before(down, water),
            ("The burner was down to its pilot" if gas else "The breaker was off and locked")
            + (" before water moved." if _before(down, water) else ", but not before water moved."),
            True,
            "isolate_energy.gas_pilot" if gas else "isolate_energy.breaker",
        ),
        Mark(
            "outlet_followed",
            followed,
            "The relief pipe was followed to its end before the lever was lifted."
            if followed
            else "Nobody looked where the relief pipe ends before the lever was lifted.",
            False,
            "arrival.outlet",
        ),
    ]


def _work(practice: Practice) -> list[Mark]:
    began, heater = practice.began, practice.heater
    left = heater.loose_kg / began.loose_kg if began.loose_kg > 0 else 0.0
    flushed = left <= LEFT_LOOSE
    marks = [
        Mark(
            "flushed",
            flushed,
            f"{round(100 * (1 - left))} % of the loose deposit came out."
            + ("" if flushed else " Pulses of the cold, half a minute apart, stir up the rest."),
            True,
            "flush_pressurised.run_clear",
        )
    ]
    if practice.scenario.drained:
        marks.append(
            Mark(
                "drained",
                practice.emptied,
                "It was run empty." if practice.emptied else "It was never run empty: air in, and water kept out.",
                True,
                "full_drain.drain_empty",
            )
        )
    tried = practice.lifted or (practice.began.build.relief_stuck and _first(practice, "lever", "up") is not None)
    marks.append(
        Mark(
            "valve_tried",
            tried,
            "The relief valve was lifted with the tank full and under pressure."
            if tried
            else "The relief valve was not tried with pressure behind it.",
            True,
            "relief_exercise.lift",
        )
    )
    bad = began.build.relief_stuck or began.build.relief_weeps
    renewed = _first(practice, "relief_valve", "new") is not None
    if bad:
        marks.append(
            Mark(
                "valve_renewed",
                renewed and practice.lifted,
                "The valve that failed its trial was renewed, and the new one tried."
                if renewed and practice.lifted
                else "The valve failed its trial and is still there."
                if not renewed
                else "The new valve was not tried.",
                True,
                "relief_replacement.swap",
            )
        )
    else:
        marks.append(
            Mark(
                "valve_kept",
                not renewed,
                "A sound valve stayed." if not renewed else "A sound relief valve was thrown away.",
                False,
                "relief_exercise.watch",
            )
        )
        watched = practice.watched_s >= WATCH_S
        marks.append(
            Mark(
                "valve_watched",
                watched,
                "Its outlet was watched afterwards."
                if watched
                else f"Its outlet was watched for {practice.watched_s // 60} minutes; a seat shows after five.",
                False,
                "relief_exercise.watch",
            )
        )
    return marks


def _readings(practice: Practice) -> list[Mark]:
    judges: dict[str, Callable[[Practice, str], Mark]] = {
        "tap_c": _tap,
        "static_kpa": _static,
        "removed": _removed,
        "valve_outcome": _outcome,
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
    good = told is not None and abs(told / true - 1) <= KPA_WITHIN and _first(practice, "gauge", "on") is not None
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
    if _first(practice, "lever", "up") is None:
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


def _left(practice: Practice) -> list[Mark]:
    wrong = unfit(practice)
    minutes = practice.now_s / 60
    quick = minutes <= practice.scenario.within_min
    said = _first(practice, "tell", "what was done")
    return [
        Mark(
            "left_fit",
            not wrong,
            "It was left as a heater that runs." if not wrong else f"It was left {', '.join(wrong)}.",
            True,
            "energise.setting",
        ),
        Mark(
            "said_after",
            said is not None,
            "The customer heard what was done." if said is not None else "The customer was told nothing at the end.",
            False,
            "hand_over.explain",
        ),
        Mark(
            "in_time",
            quick,
            f"It took {minutes:.0f} minutes of {practice.scenario.within_min:.0f}.",
            False,
            "flush_pressurised.run_clear",
        ),
    ]


def unfit(practice: Practice) -> list[str]:
    """What is not as a heater that runs is left, in words."""
    heater, began = practice.heater, practice.began
    build = heater.build
    wrong = {
        "with air in it": heater.share < 0.999 or heater.air > 30,
        "with the cold shut": heater.cold < 1 or heater.main < 1,
        "with the drain open": heater.drain > 0,
        "with a drain that drips": heater.drain_leaks and not heater.cap,
        "with the hose on": heater.hose,
        "with the gauge on": heater.gauge,
        "with the lever up": heater.lever,
        "with a relief valve that drips": heater.relief_leaks,
        "with a faucet open": heater.tap,
        "off": not heater.can_heat,
        "at another setting": heater.set_c != began.set_c and f"{began.set_c:.0f}" != f"{heater.set_c:.0f}",
        "with an element burnt out": heater.lower_burnt or heater.upper_burnt,
        "with its relief pipe capped": build.outlet_capped,
        "with a relief valve that protects nobody": build.relief_stuck,
    }
    return [words for words, so in wrong.items() if so]

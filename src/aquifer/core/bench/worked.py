"""What a practice did of what was due: the deposit, the rod, the relief valve."""

from aquifer.core.bench.mark import Mark, first
from aquifer.core.bench.practice import Practice
from aquifer.core.units import Quantity, figure
from aquifer.core.vocabulary import Component

LEFT_LOOSE = 0.5
"""Share of the loose deposit that a flush may leave. Assumption: under pressure it leaves 0.4, as the forecast takes
it."""
LEFT_ALONE = 0.15
"""Share of an old deposit that the few litres through a cloth may bring out. Assumption."""
WATCH_S = 240
"""Of the five minutes for which the relief pipe's end is watched. Assumption."""


def work_marks(practice: Practice) -> list[Mark]:
    """What was done of what was due, and what it led to."""
    due, marks = set(practice.scenario.due), []
    if practice.scenario.left_alone:
        marks.append(_left_alone(practice))
    elif Component.SEDIMENT in due:
        marks += _flushed(practice)
    if Component.ANODE in due:
        marks += _rod(practice)
    if Component.RELIEF_VALVE in due:
        marks += _valve(practice)
    return marks


def _left_alone(practice: Practice) -> Mark:
    began, heater = practice.began, practice.heater
    whole = began.loose_kg + began.hard_kg
    gone = heater.removed_kg / whole if whole > 0 else 0.0
    forced = first(practice, "drain_valve", "new") is not None
    good = gone <= LEFT_ALONE and not forced
    says = (
        f"Its deposit was left where it is: {round(100 * gone)} % came out."
        if good
        else "The drain was changed for a deposit that no drain lets out."
        if forced
        else f"{round(100 * gone)} % of an old deposit came out; it may be what seals a flaw."
    )
    return Mark("left_alone", good, says, True, "partial_drain.few_litres")


def _flushed(practice: Practice) -> list[Mark]:
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
    return marks


def _rod(practice: Practice) -> list[Mark]:
    found, rod = practice.began.rod, practice.heater.rod
    if found.stuck:
        tried = any(practice.acts[place].handle == "rod" for place in practice.refusals)
        says = (
            "The rod did not come loose, and was left for another day."
            if tried and not practice.heater.twisted
            else "A rod that does not come loose is not forced."
            if practice.heater.twisted
            else "Nobody tried the rod."
        )
        return [Mark("rod_tried", tried and not practice.heater.twisted, says, True, "anode_out.break_loose")]
    drawn = Mark(
        "rod_drawn",
        practice.rod_drawn,
        "The rod was out, and was looked at." if practice.rod_drawn else "Nobody looked at the rod.",
        True,
        "anode_out.judge",
    )
    wire = figure(Quantity.LENGTH, round(found.bare_mm))
    renewed = rod.is_new
    decided = practice.rod_drawn and renewed is found.is_spent
    says = (
        f"With {wire} of bare wire it was to be renewed" + ("." if renewed else ", and was not.")
        if found.is_spent
        else f"With {round(100 * found.left)} % of its metal it had years to go"
        + (", and was thrown away." if renewed else ".")
    )
    return [drawn, Mark("rod_decided", decided, says, True, "anode_out.judge")]


def _valve(practice: Practice) -> list[Mark]:
    began = practice.began
    tried = practice.lifted or (began.build.relief_stuck and first(practice, "lever", "up") is not None)
    marks = [
        Mark(
            "valve_tried",
            tried,
            "The relief valve was lifted with the tank full and under pressure."
            if tried
            else "The relief valve was not tried with pressure behind it.",
            True,
            "relief_exercise.lift",
        )
    ]
    renewed = first(practice, "relief_valve", "new", "as the old") is not None
    if began.build.relief_stuck or began.build.relief_weeps:
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
        return marks
    wanted = began.build.probe_short
    marks.append(
        Mark(
            "valve_kept",
            renewed is wanted,
            ("A sound valve stayed." if not renewed else "A sound relief valve was thrown away.")
            if not wanted
            else (
                "A valve that cannot feel the water was renewed." if renewed else "Nobody saw that its probe is short."
            ),
            wanted,
            "relief_replacement.part" if wanted else "relief_exercise.watch",
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

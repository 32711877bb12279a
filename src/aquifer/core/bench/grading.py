"""What a practice is worth, against the heater's truth and the trade's order."""

from dataclasses import dataclass

from aquifer.core.bench.mark import Mark, before, first
from aquifer.core.bench.noted import note_marks
from aquifer.core.bench.practice import Practice
from aquifer.core.bench.worked import work_marks

PASSES_AT = 0.8
"""Share of the marks with which a practice without harm has been passed. Assumption."""


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


def _marks(practice: Practice) -> list[Mark]:
    return [*_order(practice), *work_marks(practice), *note_marks(practice), *_left(practice)]


def _order(practice: Practice) -> list[Mark]:
    fuel = practice.heater.build.fuel
    gas = fuel == "gas"
    down = first(practice, "dial", "pilot", "off") if gas else first(practice, "breaker", "locked")
    water = min(
        (
            one
            for one in (first(practice, "cold", "shut"), first(practice, "drain", "open", "cracked"))
            if one is not None
        ),
        default=None,
    )
    lifted = first(practice, "lever", "up")
    drawn = water is not None and any(at > water for at in practice.drew)
    told = before(first(practice, "tell", "what goes off"), water)
    followed = before(first(practice, "look", "relief pipe"), lifted)
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
            before(down, water),
            {
                "gas": "The burner was down to its pilot",
                "electric": "The breaker was off and locked",
                "boiler": "The boiler's switches were off and tagged",
            }[fuel]
            + (" before water moved." if before(down, water) else ", but not before water moved."),
            True,
            "isolate_energy." + {"gas": "gas_pilot", "electric": "breaker", "boiler": "boiler"}[fuel],
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


def _left(practice: Practice) -> list[Mark]:
    wrong = unfit(practice)
    minutes = practice.now_s / 60
    quick = minutes <= practice.scenario.within_min
    said = first(practice, "tell", "what was done")
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
        "without a rod": heater.rod.seat == "out",
        "without a relief valve": heater.relief_out,
        "with its rod loose": heater.rod.seat == "loose",
        "with the hot pipe off": not heater.hot_pipe,
        "with a joint that leaks": heater.twisted,
        "with a tank that leaks": heater.flaw_open,
        "with its boiler short of water": heater.boiler is not None and heater.boiler.has_locked,
        "with a relief valve that cannot feel the water": build.probe_short,
        "with an element burnt out": heater.lower_burnt or heater.upper_burnt,
        "with its relief pipe capped": build.outlet_capped,
        "with a relief valve that protects nobody": build.relief_stuck,
    }
    return [words for words, so in wrong.items() if so]

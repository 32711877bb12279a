"""What the years ahead were worth in foreign districts, as a page of the docs."""

import numpy as np

from aquifer.core.arrays import FloatArray
from aquifer.core.vocabulary import Practice
from aquifer.study.foreign.years import AHEAD_YEARS, BEFORE_YEARS, COUNTED, FUTURES, Compared, Held, Way

Towns = dict[str, list[Held]]
"""By law."""
Pairs = list[tuple[str, Way, Compared]]
USUAL = Way(Practice.CONDITION)
NEARLY_USUAL = Way(Practice.CONDITION, 0.21)
OTHERS = (Way(Practice.ANNUAL), Way(Practice.LONG_SERVICE), NEARLY_USUAL)
"""What is held beside going by condition; the last is nearly the same as it."""
BAR = (0.76, 0.86)
SURE, WORTH_NAMING = 0.9, 0.03
"""A practice is named the better one where so many futures say so, and it spares so much of the hours. Assumption."""
DIFFERS, NO_DIFFERENCE = 0.10, 0.02
NAMES = ("hours", *COUNTED)


def text(towns: Towns, pairs: Pairs, heaters: int) -> str:
    """The page. Parameters: towns by law; practices compared; how many heaters each town has."""
    seeds = max(map(len, towns.values()))
    lines = [
        "# Years foretold, and years lived", "",
        f"`./aquifer study --only years`. Districts of {heaters} heaters obey laws that share no module, constant or "
        "centre of a prior with the core (`study/foreign`); their tanks give way by a law of their own, their rods "
        "wear and their valves stick by others, their households move and ring. A company serves each for "
        f"{BEFORE_YEARS} years by seasons that the program's own search plans once a year from the core's forecasts, "
        f"and writes down what it sees; then {FUTURES} futures of the next {AHEAD_YEARS} years are drawn, and those "
        f"years are lived. {seeds} districts of each law. What a future differs by, and what a season puts off, was "
        "set while the first half of them were looked at.", "",
        f"Share of the years whose truth lay between the 10th and the 90th percentile of the futures; wanted "
        f"{BAR[0]:.2f} to {BAR[1]:.2f}. In brackets the truth over the middle future, its median.", "",
        f"| | {' | '.join(towns)} | all |", f"|---|{'---|' * (len(towns) + 1)}",
    ]  # fmt: skip
    for name in NAMES:
        cells, every = [], []
        for held in towns.values():
            inside, over = np.array([one.inside(name) for one in held]), np.array([one.over(name) for one in held])
            every.append(inside)
            cells.append(f"{inside.mean():.2f} ({np.nanmedian(over):.2f})" if held else "")
        # As it is shown: a mark at what reads as within would puzzle.
        share = round(float(np.concatenate(every).mean()), 2)
        mark = "" if BAR[0] <= share <= BAR[1] else " *"
        lines.append(f"| {name.replace('_', ' ')} | {' | '.join(cells)} | {share:.2f}{mark} |")
    lines += [
        "",
        "\\* outside what is wanted. Calls are few: a fan of whole numbers about two or three holds more.",
        "",
    ]
    lines += _by_year(towns)
    lines += _compared(pairs)
    return "\n".join(lines) + "\n"


def _by_year(towns: Towns) -> list[str]:
    """Hours, year by year: the first is known best."""
    lines = [
        "Hours by year, all laws together:",
        "",
        "| year | held | truth over the middle, 10th to 90th |",
        "|---|---|---|",
    ]
    for year in range(AHEAD_YEARS):
        held = [one for many in towns.values() for one in many]
        inside = np.array([one.inside("hours")[year] for one in held])
        over: FloatArray = np.array([one.over("hours")[year] for one in held])
        low, high = np.quantile(over, [0.1, 0.9])
        lines.append(f"| {year + 1} | {inside.mean():.2f} | {low:.2f} to {high:.2f} |")
    return [*lines, ""]


def _compared(pairs: Pairs) -> list[str]:
    """Whether the better of two ways was named."""
    named = [(_named(one), one.truth) for _, _, one in pairs]
    far = [(name, truth) for name, truth in named if abs(truth - 1) >= DIFFERS]
    near = [name for name, truth in named if abs(truth - 1) < NO_DIFFERENCE]
    right = sum(name == (1 if truth < 1 else -1) for name, truth in far)
    lines = [
        "## Two ways of doing it", "",
        f"By condition, and {' or '.join(map(str, OTHERS))} beside it, foretold with the same luck and lived in the "
        f"same district. The better one is named where {SURE:.0%} of the futures agree and it spares "
        f"{WORTH_NAMING:.0%} of the hours.", "",
        f"- Of {len(far)} pairs whose truth differs by {DIFFERS:.0%} or more, the better one was named in {right}.",
        f"- Of {len(near)} pairs whose truth differs by less than {NO_DIFFERENCE:.0%}, {sum(n != 0 for n in near)} "
        "were called different.", "",
        "| law | beside it | hours foretold over those by condition | hours lived | futures in which it is less |",
        "|---|---|---|---|---|",
    ]  # fmt: skip
    for law, way, one in pairs:
        lines.append(f"| {law} | {way} | {one.foretold:.2f} | {one.truth:.2f} | {one.sure:.0%} |")
    return lines


def _named(one: Compared) -> int:
    """1 where the second is named the better, -1 where the first is, 0 where neither."""
    if abs(one.foretold - 1) < WORTH_NAMING:
        return 0
    return 1 if one.sure >= SURE else -1 if one.sure <= 1 - SURE else 0

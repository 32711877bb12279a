"""What foretelling the ends of tanks came to, as a table in Markdown."""

from dataclasses import dataclass

import numpy as np

from aquifer.core.lives import UNLEARNED
from aquifer.study.foreign import ends

FAILURES = 150
WEAKNESSES = (0.25, 0.0)
TOLD_BAR = (0.8, 1.25)


@dataclass(frozen=True)
class One:
    """One town: the year after its failures, and what the handbook alone would have said of it."""

    told: ends.Told
    plain: ends.Told


def run(law: str, median: float, weakness: float, seed: int) -> One:
    """A town watched until so many of its tanks gave way, and a year more."""
    town = ends.Town(law, median, seed, weakness=weakness)
    town.lives_on(FAILURES)
    plain = town.foretold(UNLEARNED).probability_today
    told = town.next_year(town.foretold(town.taught()).probability_today)
    return One(told, ends.Told(plain, told.own, told.came, told.age))


def text(runs: dict[tuple[str, float, float], list[One]]) -> str:
    """The report in Markdown."""
    parts = [
        "# Ends of tanks in truths that share nothing with the core",
        f"Seeds {', '.join(map(str, ends.SEEDS))}; {ends.MAKES} makes on {ends.WATERS} waters, each tank taken into "
        f"care at the age it had, watched until {FAILURES} gave way, and the year after foretold "
        "(`src/aquifer/study/foreign/ends.py`). Rerun it: `./aquifer study --only ends`.",
        "Told over came: failures foretold over those that came, of all and by thirds of age (wanted 0.8 to 1.25; "
        "outside is marked *); towns: the share of single towns within. Skill: Brier's, over telling all "
        "tanks the share that failed; of the handbook's law alone, of what is learned, and of whoever made the world "
        "and knows each tank's own law, its hidden weakness and phase included.",
    ]
    for law, of in ends.LAWS.items():
        parts.append(f"## {law.capitalize()}\n\n{' '.join((of.__doc__ or '').split())}")
        parts.append(
            "| half last | hidden weakness | failed | told over came | young | middle | old | towns | handbook | "
            "learned | who knows | learned of that |\n|" + "---|" * 12 + "\n"
            + "\n".join(_row(key[1], key[2], found) for key, found in runs.items() if key[0] == law)
        )  # fmt: skip
    return "\n\n".join(parts) + "\n"


def _row(median: float, weakness: float, found: list[One]) -> str:
    told, plain = ends.added([one.told for one in found]), ends.added([one.plain for one in found])
    thirds = [
        float(told.told[part].sum() / max(told.came[part].sum(), 1)) for part in np.array_split(np.argsort(told.age), 3)
    ]
    within = sum(TOLD_BAR[0] <= one.told.over <= TOLD_BAR[1] for one in found) / len(found)
    skill, own = told.skill(told.told), told.skill(told.own)
    cells = [
        f"{median:g} years", "yes" if weakness else "no", f"{told.came.sum()}", *map(_marked, (told.over, *thirds)),
        f"{within:.0%}", f"{plain.skill(plain.told):.3f}", f"{skill:.3f}", f"{own:.3f}",
        f"{skill / own:.2f}" if own > 0 else "",
    ]  # fmt: skip
    return f"| {' | '.join(cells)} |"


def _marked(over: float) -> str:
    return f"{over:.2f}" + ("" if TOLD_BAR[0] <= over <= TOLD_BAR[1] else "*")

"""``./aquifer study``: run the practices on simulated bases and write the report."""

import argparse
import sys
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from pathlib import Path

from aquifer.study import report
from aquifer.study.foreign import ends, ends_report, years, years_report
from aquifer.study.foreign.held import Cells
from aquifer.study.foreign.held import run as run_foreign
from aquifer.study.foreign.laws import LAWS
from aquifer.study.foreign.laws import SEEDS as FOREIGN_SEEDS
from aquifer.study.foreign.report import Runs
from aquifer.study.foreign.report import text as foreign_text
from aquifer.study.practices import PRACTICES, Practice
from aquifer.study.trial import Trial, run

SCORED = (1, 3, 5, 7)
SEEDS = (1, 7, 11, 23, 43, 53, 61, 89, 97, 113, *report.UNTOUCHED)


def main(arguments: list[str]) -> int:
    """Run the study; the exit status is 0."""
    parser = argparse.ArgumentParser(prog="aquifer study", description=__doc__)
    parser.add_argument("--seeds", type=int, nargs="+", default=list(SEEDS))
    parser.add_argument("--heaters", type=int, default=2500)
    parser.add_argument("--years", type=int, default=8)
    parser.add_argument("--workers", type=int, default=2)
    parser.add_argument("--into", type=Path, default=Path("docs/study"), help="folder of the report")
    parser.add_argument("--only", choices=("practices", "foreign", "years", "ends"), help="leave the others out")
    options = parser.parse_args(arguments)
    if options.only in (None, "foreign"):
        _foreign(options.into, options.workers)
    if options.only in (None, "years"):
        _years(options.into, options.workers)
    if options.only in (None, "ends"):
        _ends(options.into, options.workers)
    if options.only in (None, "practices"):
        _practices(options)
    return 0


YEARS_HEATERS = 400
YEARS_SEEDS, COMPARED_SEEDS = FOREIGN_SEEDS, FOREIGN_SEEDS[:2]


def _years(into: Path, workers: int) -> None:
    """Years foretold in truths of other families, and practices compared in them."""
    towns = [(law, seed) for law in range(len(LAWS)) for seed in YEARS_SEEDS]
    pairs = [(law, seed, other) for law in range(len(LAWS)) for seed in COMPARED_SEEDS for other in years_report.OTHERS]
    held: years_report.Towns = {}
    compared: years_report.Pairs = []
    with ProcessPoolExecutor(workers) as pool:
        for (law, seed), one in zip(towns, pool.map(_town, towns), strict=True):
            held.setdefault(LAWS[law].name, []).append(one)
            print(f"{LAWS[law].name}, seed {seed}", file=sys.stderr)
        for (law, seed, other), found in zip(pairs, pool.map(_pair, pairs), strict=True):
            compared.append((LAWS[law].name, other, found))
            print(f"{LAWS[law].name}, seed {seed}, {other}", file=sys.stderr)
    into.mkdir(parents=True, exist_ok=True)
    (into / "years.md").write_text(years_report.text(held, compared, YEARS_HEATERS), encoding="utf-8")
    print(f"{into / 'years.md'}")


def _town(work: tuple[int, int]) -> years.Held:
    law, seed = work
    return years.run(LAWS[law](), seed, YEARS_HEATERS)


def _pair(work: tuple[int, int, years.Way]) -> years.Compared:
    law, seed, other = work
    return years.compare(LAWS[law](), seed, YEARS_HEATERS, years_report.USUAL, other)


def _ends(into: Path, workers: int) -> None:
    """Ends of tanks in truths of other families."""
    worlds = [(law, median, weak) for law in ends.LAWS for median in ends.MEDIANS for weak in ends_report.WEAKNESSES]
    work = [(*world, seed) for world in worlds for seed in ends.SEEDS]
    runs: dict[tuple[str, float, float], list[ends_report.One]] = {}
    with ProcessPoolExecutor(workers) as pool:
        for (law, median, weakness, seed), one in zip(work, pool.map(_ended, work), strict=True):
            runs.setdefault((law, median, weakness), []).append(one)
            print(f"{law}, {median:g} years, seed {seed}", file=sys.stderr)
    into.mkdir(parents=True, exist_ok=True)
    (into / "ends.md").write_text(ends_report.text(runs), encoding="utf-8")
    print(f"{into / 'ends.md'}")


def _ended(work: tuple[str, float, float, int]) -> ends_report.One:
    return ends_report.run(*work)


FOREIGN_HEATERS, FOREIGN_YEARS, FOREIGN_SCORED = 1000, 8, (2, 4, 6, 8)
MEASURED_SHARES = (0.05, 0.2)


def _foreign(into: Path, workers: int) -> None:
    """Windows in truths of other families."""
    work = [
        (law, seed, FOREIGN_HEATERS, FOREIGN_YEARS, measured, FOREIGN_SCORED)
        for law in range(len(LAWS))
        for measured in MEASURED_SHARES
        for seed in FOREIGN_SEEDS
    ]
    runs: Runs = {}
    with ProcessPoolExecutor(workers) as pool:
        for done, (one, cells) in enumerate(zip(work, pool.map(_district, work), strict=True), start=1):
            runs.setdefault((LAWS[one[0]].name, one[4]), []).append(cells)
            print(f"{done} of {len(work)}: {LAWS[one[0]].name}, seed {one[1]}", file=sys.stderr)
    into.mkdir(parents=True, exist_ok=True)
    text = foreign_text(runs, list(FOREIGN_SEEDS), FOREIGN_HEATERS, FOREIGN_SCORED)
    (into / "foreign.md").write_text(text, encoding="utf-8")
    print(f"{into / 'foreign.md'}")


def _district(work: tuple[int, int, int, int, float, tuple[int, ...]]) -> Cells:
    law, seed, heaters, years, measured, scored = work
    return run_foreign(LAWS[law](), seed, heaters, years, measured, scored)


def _practices(options: argparse.Namespace) -> None:
    scored = tuple(year for year in SCORED if year < options.years)
    work: list[tuple[Practice, int, int, int, float, tuple[int, ...]]] = [
        (practice, seed, options.heaters, options.years, 0.05, ()) for seed in options.seeds for practice in PRACTICES
    ]
    yearly = PRACTICES[0]
    ignorant = replace(yearly, learns=False)
    scored_runs = ((yearly, 0.05), (yearly, 0.0), (ignorant, 0.05))
    work += [
        (practice, seed, options.heaters, options.years, share, scored)
        for practice, share in scored_runs
        for seed in options.seeds
    ]
    with ProcessPoolExecutor(options.workers) as pool:
        futures = [pool.submit(run, *one) for one in work]
        trials: list[Trial] = []
        for future in futures:
            trials.append(future.result())
            print(f"{len(trials)} of {len(work)}: {trials[-1].practice.name}, seed {trials[-1].seed}", file=sys.stderr)
    seeds = len(options.seeds)
    whole = seeds * len(PRACTICES)
    measured, unmeasured, unlearned = (trials[whole + at * seeds : whole + (at + 1) * seeds] for at in range(3))
    report.write(options.into, trials[:whole], measured, unmeasured, unlearned)
    print(f"{options.into / 'report.md'}")


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))

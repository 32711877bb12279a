"""Many visits by somebody who does not make it easy, at heaters with faults that nobody can see; what hurt is told.

    python scripts/walks.py [--first N] [--walks N] [--record docs/hazards.md]

Seeded: a walk is the same whenever it is walked. Resumable: begin again at the seed that it told last.
"""

import argparse
import datetime
import re
import sys
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

ROOT = Path(__file__).parents[1]
sys.path[:0] = [str(ROOT), str(ROOT / "src")]
BLOCK = 500


def block(first: int) -> tuple[int, int, list[tuple[int, list[str]]]]:
    """Walks from a seed on: how many finished, and which hurt with what."""
    from tests.core.adversary import walked

    finished, hurt = 0, []
    for seed in range(first, first + BLOCK):
        walk = walked(seed)
        finished += walk.finished
        if wrong := [*walk.heater.harms, *(f"dead end at {step}, {rule}" for step, rule in walk.dead_ends)]:
            hurt.append((seed, wrong))
    return first, finished, hurt


def record(page: Path, first: int, walks: int, finished: int, seen: Counter[str]) -> None:
    """The result and its date, on the page."""
    line = (
        f"{datetime.date.today():%d %B %Y}: {walks:,} walks (seeds {first:,} to {first + walks:,}), "
        f"{finished:,} to their end, {sum(seen.values())} harms or dead ends{': ' if seen else ''}"
        + ", ".join(f"{harm} {count}" for harm, count in seen.most_common())
        + "."
    )
    page.write_text(re.sub(r"(<!-- walks -->\n).*\n", rf"\g<1>{line}\n", page.read_text()))


def main() -> None:
    words = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    words.add_argument("--first", type=int, default=0)
    words.add_argument("--walks", type=int, default=200_000)
    words.add_argument("--record", type=Path, help="where the result is written beside its date")
    told = words.parse_args()
    seen: Counter[str] = Counter()
    walks = finished = 0
    with ProcessPoolExecutor() as pool:
        for first, ended, hurt in pool.map(block, range(told.first, told.first + told.walks, BLOCK)):
            walks, finished = walks + BLOCK, finished + ended
            for seed, harms in hurt:
                seen.update(harms)
                print(f"seed {seed}: {', '.join(harms)}", flush=True)
            print(f"to seed {first + BLOCK}: {finished} of {walks} finished, {sum(seen.values())} harms", flush=True)
            if told.record:
                record(told.record, told.first, walks, finished, seen)
    sys.exit(bool(seen))


if __name__ == "__main__":
    main()

"""What the windows came to in foreign districts, as tables in Markdown."""

from collections import defaultdict
from collections.abc import Callable, Iterable

from aquifer.core.vocabulary import Component
from aquifer.study.foreign.held import TOLD_MM, Cells, Tally
from aquifer.study.foreign.laws import LAWS

STATE_BAR = (0.76, 0.86)
LEAST_READINGS = 400
"""Of a cell that is held against the bar by itself."""
CELL_BAR = 0.07
QUESTIONS = (
    "now", "now, as told", "now, told less", "after a service", "after a service, as told",
    "after a service, told less", "in a year", "dates",
)  # fmt: skip

Runs = dict[tuple[str, float], list[Cells]]
"""Of each law by its name, and each share of visits that are measured: one for each seed."""


def text(runs: Runs, seeds: list[int], heaters: int, years: tuple[int, ...]) -> str:
    """The report in Markdown."""
    parts = [
        "# Windows in truths that share nothing with the core",
        f"Seeds {', '.join(map(str, seeds))}; {heaters} heaters on 24 supplies, serviced as their owners like, looked "
        f"at in years {', '.join(map(str, years))}. No module, constant or centre of a prior is shared with the core "
        "(`src/aquifer/study/foreign/`). Rerun it: `./aquifer study --only foreign`.",
        "Asked of heaters in which there is something to be seen; `as told`: of those that are told to have some, "
        f"{TOLD_MM[Component.SEDIMENT]:g} mm of sediment or {TOLD_MM[Component.SCALE]:g} mm of scale in the middle, "
        "whatever is in them; `told less`: of the others, where a ruler tells nothing and nobody would come. After a "
        "service it is asked where the service was written down. "
        "Inside: share of truths inside the 80 % window (wanted 0.76 to 0.86; outside is marked *). Below: share under "
        "its lower end. Width: natural log of upper over lower end; years for dates. Loss: pinball loss of P10, P50 "
        "and P90 of the logarithm; of dates in years. Regression: the loss of forty lines without physics, on "
        "the same record, over the core's: above 1 the core is the better.",
    ]
    for law in LAWS:
        summary = " ".join((law.__doc__ or "").split("\n\n")[0].split())
        parts.append(f"## {law.name.capitalize()}\n\n{summary}")
        for (name, measured), cells in runs.items():
            if name == law.name:
                parts.append(f"{measured:.0%} of visits measured:\n\n{_table(cells)}")
    parts += ["## By age, kind and year", _cells(runs)]
    return "\n\n".join(parts) + "\n"


def merged(cells: Iterable[Cells], of: Callable[[tuple[str, ...]], tuple[str, ...]]) -> Cells:
    """Cells of several runs put together by what ``of`` makes of their keys."""
    found: Cells = defaultdict(Tally)
    for one in cells:
        for key, tally in one.items():
            into = found[of(key)]
            into.inside += tally.inside
            into.width += tally.width
            into.loss += tally.loss
            into.below += tally.below
    return found


def _table(cells: list[Cells]) -> str:
    together = merged(cells, lambda key: key[:3])
    lines = ["| component | asked | readings | inside | below | width | loss | regression |", "|---" * 8 + "|"]
    for component in ("sediment", "scale"):
        for question in QUESTIONS:
            core = together[("core", component, question)]
            if not core.count:
                continue
            other = together.get(("regression", component, question))
            beside = f"{other.mean_loss() / core.mean_loss():.2f}" if other and other.count else ""
            lines.append(
                f"| {component} | {question} | {core.count} | {core.share():.2f}{_marked(round(core.share(), 2))} "
                f"| {core.under():.2f} | {core.mean_width():.2f} | {core.mean_loss():.3f} | {beside} |"
            )
    return "\n".join(lines)


def _marked(share: float) -> str:
    return "" if STATE_BAR[0] <= share <= STATE_BAR[1] else "*"


def _cells(runs: Runs) -> str:
    """How many cells of enough readings are within the bar, and the worst of them."""
    found: list[tuple[float, int, str]] = []
    for (law, measured), cells in runs.items():
        for key, tally in merged(cells, lambda key: key).items():
            if key[0] == "core" and key[2] in ("now", "after a service", "in a year") and tally.count >= LEAST_READINGS:
                found.append((tally.share(), tally.count, f"{law}, {measured:.0%}, {', '.join(key[1:])}"))
    if not found:
        return f"No cell has {LEAST_READINGS} readings."
    outside = [one for one in found if abs(one[0] - 0.8) > CELL_BAR]
    worst = sorted(outside, key=lambda one: -abs(one[0] - 0.8))[:12]
    lines = [
        f"Cells of at least {LEAST_READINGS} readings (law, share measured, component, question, year, age): "
        f"{len(found)}; further than {CELL_BAR} from 0.80: {len(outside)}. The furthest:",
        "\n".join(f"- {name}: {share:.2f} of {count}" for share, count, name in worst),
    ]
    return "\n\n".join(lines)

"""The study's results as tables in Markdown and plots in SVG."""

from collections import defaultdict
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from aquifer.core.vocabulary import Component
from aquifer.study.score import Windows
from aquifer.study.trial import Trial

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

UNTOUCHED = (307, 311, 313, 317, 331, 337, 347, 349, 353, 359, 367, 373)
"""Seeds that nobody looked at while figures were chosen."""
STATE_BAR = (0.76, 0.86)
DATE_BAR = (0.75, 0.88)
_INK, _COPPER, _WATER, _OCHRE, _LINE = "#1d2a30", "#a4501e", "#2f7285", "#b98a3c", "#d6cfbd"
_NAMES = {
    Component.SEDIMENT: "sediment",
    Component.SCALE: "scale",
    Component.ANODE: "anode",
    Component.RELIEF_VALVE: "relief valve",
}


def write(
    folder: Path,
    practices: list[Trial],
    measured: list[Trial],
    unmeasured: list[Trial],
    unlearned: list[Trial],
) -> None:
    """Write ``report.md`` and its plots.

    Parameters: trials of every practice; of the yearly one with windows scored; the same with nothing measured; and by
    a forecast that learns nothing.
    """
    folder.mkdir(parents=True, exist_ok=True)
    _plot_windows(folder / "windows.svg", measured, unmeasured)
    _plot_practices(folder / "practices.svg", practices)
    (folder / "report.md").write_text(text(practices, measured, unmeasured, unlearned), encoding="utf-8")


def text(practices: list[Trial], measured: list[Trial], unmeasured: list[Trial], unlearned: list[Trial]) -> str:
    """The report in Markdown."""
    seeds = sorted({trial.seed for trial in practices})
    heaters = round(practices[0].heater_years / len(practices[0].over_years))
    years = len(practices[0].over_years)
    parts = [
        "# What the forecast is worth, by simulation",
        f"Seeds {', '.join(map(str, seeds))}; {heaters} heaters on 40 supplies with 12 technicians, {years} years "
        "each. The truth comes from another model family than the forecast (`src/aquifer/study/truth.py`); only "
        "differences between practices carry meaning, its level does not. Rerun it: `./aquifer study`.",
        "## At the same number of visits",
        "Share of heater-years over the limit, flushes and descales alone; everybody exercises relief valves and looks "
        "at rods once a year besides.",
        _practice_table(practices),
        "![Share over the limit](practices.svg)",
        "## Where it gains and where it loses",
        _where_table(practices),
        "## Do the windows hold?",
        "Share inside the 80 % window under the yearly practice, mean of the seeds: of the state in 12 months where "
        "there is something to see, and of the date the limit is reached where truth or P10 lie within ten years. "
        f"Wanted: {STATE_BAR[0]:.2f} to {STATE_BAR[1]:.2f} and {DATE_BAR[0]:.2f} to {DATE_BAR[1]:.2f}; figures outside "
        "are marked *. One visit in twenty is measured.",
        _window_table(measured),
        *_untouched(measured),
        "## What learning is worth",
        "Pinball loss of P10, P50 and P90 of the date, years: of the forecast as it is, with grades alone, and of the "
        "same model that knows when heaters were cleaned but learns nothing of what was found; and by how much the "
        "first is less than the last, with its standard error over the seeds.",
        _pinball_table(measured, unmeasured, unlearned),
        "## With nothing measured",
        "The same with grades alone. They rank heaters almost as well, but nothing anchors them.",
        _window_table(unmeasured),
        "![Windows by year](windows.svg)",
    ]
    return "\n\n".join(parts) + "\n"


def _untouched(measured: list[Trial]) -> list[str]:
    kept = [trial for trial in measured if trial.seed in UNTOUCHED]
    if not kept or len(kept) == len(measured):
        return []
    seeds = " and ".join(str(trial.seed) for trial in kept)
    return [f"The same of seeds {seeds} alone, which were not run before this report:", _window_table(kept)]


def _by_name(trials: Iterable[Trial]) -> dict[str, list[Trial]]:
    found: dict[str, list[Trial]] = defaultdict(list)
    for trial in trials:
        found[trial.practice.name].append(trial)
    return found


def _mean(trials: list[Trial], value: Callable[[Trial], float]) -> float:
    return float(np.nanmean([value(trial) for trial in trials]))


def _practice_table(practices: list[Trial]) -> str:
    by_name = _by_name(practices)
    yearly = _mean(by_name["yearly"], lambda t: t.over_share)
    lines = [
        "| practice | visits a year | over the limit | of the yearly rule's | wasted | each seed |",
        "|---|---|---|---|---|---|",
    ]
    for name, trials in by_name.items():
        share = _mean(trials, lambda t: t.over_share)
        visits = _mean(trials, lambda t: t.visits / len(t.over_years))
        wasted = _mean(trials, lambda t: t.wasted / max(t.visits, 1))
        each = ", ".join(f"{t.over_share:.3f}" for t in trials)
        lines.append(f"| {name} | {visits:.0f} | {share:.3f} | {share / yearly:.2f} | {wasted:.0%} | {each} |")
    return "\n".join(lines)


def _where_table(practices: list[Trial]) -> str:
    by_name = _by_name(practices)
    kinds, waters = list(practices[0].by_kind), list(practices[0].by_water)
    lines = ["| practice | " + " | ".join([*kinds, *waters]) + " |", "|---" * (1 + len(kinds) + len(waters)) + "|"]
    for name, trials in by_name.items():
        figures = [_mean(trials, lambda t, k=kind: t.by_kind[k]) for kind in kinds]  # type: ignore[misc]
        figures += [_mean(trials, lambda t, w=water: t.by_water[w]) for water in waters]  # type: ignore[misc]
        lines.append(f"| {name} | " + " | ".join(f"{figure:.3f}" for figure in figures) + " |")
    return "\n".join(lines)


def _of(trials: list[Trial]) -> dict[tuple[Component, int], list[Windows]]:
    found: dict[tuple[Component, int], list[Windows]] = defaultdict(list)
    for trial in trials:
        for one in trial.windows:
            found[one.component, round(one.year)].append(one)
    return found


def _marked(value: float, bar: tuple[float, float]) -> str:
    return f"{value:.2f}" + ("" if bar[0] <= round(value, 2) <= bar[1] else " *")


def _window_table(trials: list[Trial]) -> str:
    lines = [
        "| component | year | state inside | date inside | before P10 | after P90 | pinball, years | width, years |",
        "|---|---|---|---|---|---|---|---|",
    ]
    order = list(_NAMES)
    for (component, year), windows in sorted(
        _of(trials).items(), key=lambda item: (order.index(item[0][0]), item[0][1])
    ):

        def mean(name: str, windows: list[Windows] = windows) -> float:
            return float(np.nanmean([getattr(one, name) for one in windows]))

        lines.append(
            f"| {_NAMES[component]} | {year} | {_marked(mean('state_inside'), STATE_BAR)} | "
            f"{_marked(mean('dates_inside'), DATE_BAR)} | {mean('before'):.2f} | {mean('after'):.2f} | "
            f"{mean('pinball_years'):.2f} | {mean('width_years'):.1f} |"
        )
    return "\n".join(lines)


def _pinball_table(measured: list[Trial], unmeasured: list[Trial], unlearned: list[Trial]) -> str:
    lines = ["| component | year | as it is | grades alone | nothing learned | less by |", "|---" * 6 + "|"]
    order = list(_NAMES)
    tables = [_of(trials) for trials in (measured, unmeasured, unlearned)]
    for component, year in sorted(tables[0], key=lambda key: (order.index(key[0]), key[1])):
        by_seed = [np.array([one.pinball_years for one in table[component, year]]) for table in tables]
        figures = [f"{np.nanmean(losses):.3f}" for losses in by_seed]
        less = 100 * (1 - by_seed[0] / by_seed[2])
        error = f" ± {np.nanstd(less, ddof=1) / less.size**0.5:.1f}" if less.size > 1 else ""
        figures.append(f"{np.nanmean(less):.1f}{error} %")
        lines.append(f"| {_NAMES[component]} | {year} | " + " | ".join(figures) + " |")
    return "\n".join(lines)


def _figure(width: float, height: float, columns: int = 1) -> tuple["Figure", list["Axes"]]:
    import matplotlib

    matplotlib.use("svg")
    matplotlib.rcParams["svg.hashsalt"] = "aquifer"
    from matplotlib import pyplot

    figure, axes = pyplot.subplots(1, columns, figsize=(width, height), layout="constrained", sharey=True)
    every = np.atleast_1d(axes).tolist()
    for axis in every:
        axis.spines[["top", "right"]].set_visible(False)
        axis.grid(axis="y", color=_LINE, linewidth=0.6)
        axis.set_axisbelow(True)
    return figure, every


def _save(figure: "Figure", path: Path) -> None:
    from matplotlib import pyplot

    figure.savefig(path, metadata={"Date": None})
    pyplot.close(figure)


def _plot_windows(path: Path, measured: list[Trial], unmeasured: list[Trial]) -> None:
    figure, axes = _figure(10, 3.2, len(_NAMES))
    for axis, (component, name) in zip(axes, _NAMES.items(), strict=True):
        axis.axhspan(*DATE_BAR, color=_LINE, alpha=0.5, linewidth=0)
        for trials, colour, label, style in (
            (measured, _COPPER, "one visit in 20 measured", "-"),
            (unmeasured, _WATER, "grades alone", "--"),
        ):
            years = sorted({year for which, year in _of(trials) if which is component})
            shares = [np.mean([w.dates_inside for w in _of(trials)[component, year]]) for year in years]
            axis.plot(years, shares, style, color=colour, marker="o", label=label)
        axis.set_title(name, color=_INK, fontsize=10)
        axis.set_xlabel("year")
        axis.set_ylim(0.4, 1.0)
    axes[0].set_ylabel("dates inside the 80 % window")
    axes[0].legend(fontsize=8, frameon=False, loc="lower left")
    _save(figure, path)


def _plot_practices(path: Path, practices: list[Trial]) -> None:
    figure, (axis,) = _figure(8, 4)
    for name, trials in _by_name(practices).items():
        visits = _mean(trials, lambda t: t.visits / len(t.over_years))
        share = _mean(trials, lambda t: t.over_share)
        asks = trials[0].practice.asks_the_forecast
        axis.plot(visits, share, "o" if asks else "s", color=_COPPER if asks else _OCHRE, markersize=8)
        axis.annotate(name, (visits, share), xytext=(8, 4), textcoords="offset points", fontsize=8, color=_INK)
    axis.set_xlabel("flushes and descales a year")
    axis.set_ylabel("share of heater-years over the limit")
    axis.set_xlim(left=0)
    axis.margins(x=0.25)
    axis.set_ylim(bottom=0)
    _save(figure, path)

"""Who is visited when, what is done there, and what gives way.

A site is visited once a year, since its safety services are; what falls due before the season ends is done at this
visit. What lasts less than three quarters of a year, fell due since or soon will is done half a year later, but for a
bed that goes by risk and was flushed in this season. That is what seasons come to that the planner makes once a year
(docs/study/years.md). A future draws each heater's true pace, which its services learn by half, and each tank's end.
"""

import numpy as np
from scipy.sparse import csr_array

from aquifer.core.ahead.due import SHORT_YEARS, STATES, WAITS_YEARS
from aquifer.core.ahead.luck import LONGEST_YEARS, Luck, Shared, again, drawn
from aquifer.core.ahead.scene import SERVED, Scene
from aquifer.core.ahead.sums import COUNTED, Ahead
from aquifer.core.ahead.tanks import Tanks
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.forecast import ComponentForecast
from aquifer.core.vocabulary import Component

SOON_YEARS = 0.4
"""What falls due so soon after the middle of a site's year is not left for its end. Fitted to seasons planned by the
program's own search in simulated bases of other families (docs/study/years.md)."""
CATCH_UP_YEARS = 0.25
"""In which what is overdue today is caught up with. Assumption."""
_NAMES = {Component.SEDIMENT: "flushes", Component.SCALE: "descales"}
_RENEWED = {Component.RELIEF_VALVE: "relief_valves", Component.ANODE: "rods"}
_EDGE = 1e-9


def lived(scene: Scene, years: int, common: Shared, part: int = 0) -> Ahead:
    """The coming years of a part of a base, block by block.

    Parameters: the scene; how many years; luck of the whole base; the part's number, by which its own luck is drawn.
    Returns: what is done and what gives way, by future and year. Raises: ValueError for a scene without heaters, or
    for more years than ``LONGEST_YEARS``.
    """
    if not scene.site.size:
        raise ValueError("a scene without heaters; at least one is needed")
    if not 1 <= years <= LONGEST_YEARS:
        raise ValueError(f"{years} years ahead; allowed: 1 to {LONGEST_YEARS}")
    futures, names = common.futures, scene.worth.names
    counts = np.zeros((len(COUNTED), futures, years))
    measures = np.zeros((len(names), futures, years))
    by_heater = np.zeros((scene.site.size, len(names), years))
    for number, rows in enumerate(scene.blocks()):
        block = scene.at(rows)
        one = _Block(block, years, drawn(common, block.found, block.sites, (part, number))).ahead()
        counts += one.counts
        measures += one.measures
        by_heater[rows] = one.by_heater
    for name, moved in common.moved.items():
        counts[COUNTED.index(name)] *= np.exp(moved[:, :years])
    return Ahead(names, counts, measures, by_heater)


class _Block:
    """Some sites, lived through."""

    def __init__(self, scene: Scene, years: int, luck: Luck) -> None:
        self.scene, self.years, self.luck = scene, years, luck
        self.served = [one for one in scene.found.components if one.component in SERVED]
        self.begins = _first_visits(self.served, scene.site, scene.sites)
        n, futures, measures = scene.site.size, luck.shared.futures, len(scene.worth.names)
        self.counts = np.zeros((len(COUNTED), futures, years))
        self.measures = np.zeros((measures, futures, years))
        self.by_heater = np.zeros((n, measures, years))
        at_site = np.bincount(scene.site, minlength=scene.sites)
        self.shared = 1.0 / at_site[scene.site]
        gone = np.full((scene.sites, futures), np.inf)
        if scene.leaving > 0:
            gone = -np.log1p(-luck.leaves) / scene.leaving
        self.gone = gone
        self.ends = self._ends()
        self.visited: dict[tuple[int, float], FloatArray] = {}

    def ahead(self) -> Ahead:
        for one in self.served:
            self._serve(one)
        self._visits()
        self._on_plans()
        hours = np.where(self.scene.worth.is_hours[:, None], self.luck.shared.hours[None, :], 0.0)
        return Ahead(self.scene.worth.names, self.counts, self.measures * np.exp(hours)[:, :, None], self.by_heater)

    def _serve(self, one: ComponentForecast) -> None:
        """Each service of one component, added to what all come to."""
        scene, luck = self.scene, self.luck
        rows = one.row.size
        wrong = one.log_theta_sd[:, None] * luck.pace[one.component] + luck.shared.pace[one.component][None, :]
        state = STATES[one.component](one, scene, wrong)
        site = scene.site[one.row]
        start = self.begins[site]
        sites = csr_array((np.ones(rows), (site, np.arange(rows))), shape=(scene.sites, rows))
        worth = scene.worth.service[one.component][one.row]
        renewed_worth = scene.worth.renewed.get(one.component)
        ends, gone = self.ends[one.row], self.gone[site]
        before = np.zeros((rows, 1))
        last = np.full((rows, luck.shared.futures), -np.inf)
        for visit in range(self.years + 1):
            for half in (0.0, 0.5):
                at = (start + visit + half)[:, None]
                state.new_tank(ends, before, at)
                before = at
                is_done = (state.due <= self._until(at, half) - WAITS_YEARS) & (at < gone)
                if half:
                    is_done &= (state.interval < SHORT_YEARS) | (state.due <= at + SOON_YEARS)
                    is_done &= at - last >= state.rests()
                if not is_done.any():
                    continue
                last = np.where(is_done, at, last)
                renewed = state.served(is_done, at, again(luck.chance[one.component], visit))
                year = np.floor(start + visit + half + _EDGE).astype(np.int64)
                self._add(_NAMES.get(one.component), one.row, is_done, year, worth)
                if renewed is not None:
                    more = None if renewed_worth is None else renewed_worth[one.row]
                    self._add(_RENEWED[one.component], one.row, renewed, year, more)
                key = (visit, visit + half)
                done = sites @ is_done.astype(np.float64)
                self.visited[key] = done if key not in self.visited else self.visited[key] + done

    def _until(self, at: FloatArray, half: float) -> FloatArray:
        """Until when what falls due is done at a visit, years: a season does not see beyond its end."""
        if half:
            return at + 0.5
        return np.minimum(at + 1.0, np.floor(at + _EDGE) + 1.0)

    def _visits(self) -> None:
        sites = np.arange(self.scene.sites)
        for (_, half), at_site in self.visited.items():
            came = at_site > 0
            year = np.floor(self.begins + half + _EDGE).astype(np.int64)
            for number in np.unique(year[year < self.years]).tolist():
                here = sites[year == number]
                inside = came[here].astype(np.float64)
                self.counts[COUNTED.index("visits"), :, number] += inside.sum(axis=0)
                self.measures[:, :, number] += self.scene.worth.visit[here].T @ inside
                mean = np.zeros(self.scene.sites)
                mean[here] = inside.mean(axis=1)
                each = (mean[:, None] * self.scene.worth.visit)[self.scene.site] * self.shared[:, None]
                self.by_heater[:, :, number] += each

    def _on_plans(self) -> None:
        """What each year of a site counts for, as long as it stays."""
        if not self.scene.worth.year.any():
            return
        for number in range(self.years):
            stays = np.clip(self.gone - number, 0.0, 1.0)
            self.measures[:, :, number] += self.scene.worth.year.T @ stays
            each = self.scene.worth.year * stays.mean(axis=1)[:, None]
            self.by_heater[:, :, number] += each[self.scene.site] * self.shared[:, None]

    def _add(
        self, name: str | None, row: IntArray, is_done: BoolArray, year: IntArray, worth: FloatArray | None
    ) -> None:
        for number in np.unique(year[year < self.years]).tolist():
            here = np.flatnonzero(year == number)
            inside = is_done[here].astype(np.float64)
            if name is not None:
                self.counts[COUNTED.index(name), :, number] += inside.sum(axis=0)
            if worth is not None:
                self.measures[:, :, number] += worth[here].T @ inside
                self.by_heater[row[here], :, number] += worth[here] * inside.mean(axis=1)[:, None]

    def _ends(self) -> FloatArray:
        """Years until each heater is replaced for the first time, (n, f), inf of one that has no tank; counted here."""
        scene, luck, shape = self.scene, self.luck, (self.scene.site.size, self.luck.shared.futures)
        ends = np.full(shape, np.inf)
        one = scene.found.of(Component.TANK)
        if one is None:
            return ends
        chance = luck.chance[Component.TANK]
        tanks = Tanks.of(scene, luck.shared)
        leaks = tanks.years_to(chance)
        advised = np.where(again(chance, 3) < scene.accepted, np.maximum(one.due_years, 0.0)[:, None], np.inf)
        advised = np.where(scene.replaced[one.row][:, None], 0.0, advised)
        first = np.minimum(leaks, advised)
        later = first + tanks.years_of_new(again(chance, 1))
        gone = self.gone[scene.site[one.row]]
        worth = scene.worth.tank[one.row]
        for when, leaked in ((first, leaks <= advised), (later, np.ones(first.shape, dtype=bool))):
            there = when < gone
            for number in range(self.years):
                inside = there & (when >= number) & (when < number + 1)
                self.counts[COUNTED.index("replacements"), :, number] += inside.sum(axis=0)
                self.counts[COUNTED.index("leaks"), :, number] += (inside & leaked).sum(axis=0)
                self.measures[:, :, number] += worth.T @ inside
                self.by_heater[one.row, :, number] += worth * inside.mean(axis=1)[:, None]
        ends[one.row] = first
        return ends


def _first_visits(served: list[ComponentForecast], site: IntArray, sites: int) -> FloatArray:
    """Years until each site is first visited, (sites,): its first due date, within a year; what is overdue is spread
    over the weeks in which it is caught up with."""
    first = np.full(sites, 1.0)
    for one in served:
        np.minimum.at(first, site[one.row], one.due_years)
    place = (np.arange(sites) * 0.6180339887) % 1.0
    return np.asarray(np.where(first <= 0, CATCH_UP_YEARS * place, np.minimum(first, 1.0)))

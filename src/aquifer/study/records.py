"""What people write down of the simulated heaters, and how the core is told: coarse, biased by who looks, sometimes
wrong, missing or, when the program drew the visit for it, measured."""

from dataclasses import dataclass, field, replace

import numpy as np

from aquifer.core import assembly, chemistry
from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.fleet import (
    DescaleEvents,
    ExpansionTankEvents,
    Fleet,
    FlushEvents,
    Heaters,
    LookEvents,
    RodEvents,
    ValveEvents,
)
from aquifer.core.vocabulary import Alloy, ValveOutcome, code
from aquifer.core.water import WaterProfile, WaterTest, profile
from aquifer.study.truth import TANKLESS, World

DEPTH_CUTS_MM = np.array([1.3, 5.0, 14.0, 45.0])
SCALE_CUTS = np.array([0.13, 0.38, 1.2, 2.3])
WORN_CUTS = np.array([0.12, 0.36, 0.62, 0.88])
"""Where these people pass from one grade to the next; not where the core believes they do."""
BARE_AT = 0.714
"""Consumed share at which a hand's width of wire shows."""


@dataclass(frozen=True)
class Habits:
    """How people look and write."""

    measured_share: float = 0.05
    """Visits that the program draws for a measurement."""
    blunders: float = 0.04
    missing: float = 0.10
    noise: float = 0.5
    bias: FloatArray = field(default_factory=lambda: np.zeros(0))
    """Each technician's eye, natural log."""
    skill: FloatArray = field(default_factory=lambda: np.zeros(0))


def habits(technicians: int, seed: int, measured_share: float = 0.05) -> Habits:
    random = np.random.default_rng([seed, 5])
    return Habits(measured_share, bias=random.normal(0, 0.35, technicians), skill=random.normal(0, 0.3, technicians))


class Log:
    """One kind of finding, appended to and read back sorted by heater and time."""

    def __init__(self, **kinds: type) -> None:
        self._kinds = {"row": int, "years": float, **kinds}
        self._parts: dict[str, list[np.ndarray]] = {name: [] for name in self._kinds}

    def append(self, **values: np.ndarray) -> None:
        for name, kind in self._kinds.items():
            self._parts[name].append(np.asarray(values[name], dtype=kind))

    def read(self) -> dict[str, np.ndarray]:
        columns = {
            name: np.concatenate(parts) if parts else np.zeros(0, dtype=self._kinds[name])
            for name, parts in self._parts.items()
        }
        order = np.lexsort((np.arange(columns["row"].size), columns["years"], columns["row"]))
        return {name: values[order] for name, values in columns.items()}


class Register:
    """What the company has on file about a simulated base."""

    def __init__(self, world: World, seed: int, technicians: int = 12, measured_share: float = 0.05) -> None:
        self.world, self.place = world, world.place
        self._random = np.random.default_rng([seed, 9])
        self.habits = habits(technicians, seed, measured_share)
        self.technicians = technicians
        graded = {"by": int, "removed": int}
        self._flushes = Log(**graded, method=int, depth_m=float, volume_l=float, depth_after_m=float)
        self._descales = Log(**graded, dissolved_kg=float, capacity_lost=float)
        self._looks = Log(by=int, grade=int, fitted=float, diameter_m=float, bare_m=float)
        self._trials = Log(outcome=int, replaced=bool)
        self.rod_fitted = np.zeros(len(self.place))
        self.valve_fitted = np.zeros(len(self.place))
        self._known = self._on_record(seed)
        self._waters = [_tested(water, at % 2 == 0, self._random) for at, water in enumerate(self.place.analyses)]
        self._heaters: Heaters | None = None

    def _on_record(self, seed: int) -> assembly.KnownHeaters:
        place, random = self.place, np.random.default_rng([seed, 3])
        n = len(place)
        recorded = place.use_m3 * random.lognormal(0, 0.35, n) * 1000 / 365.25
        metered = random.random(n) < 0.3
        dial = np.round((place.setpoint_c + random.normal(0, 4, n)) / 5) * 5
        return replace(
            assembly.KnownHeaters.blank(place.kind, np.zeros(n)),
            water=place.zone,
            zone=place.zone,
            litres_per_day=np.where(metered, recorded, np.nan),
            people=np.where(metered, np.nan, np.maximum(np.round(recorded / 55), 1)),
            setpoint_c=np.clip(dial, 40, 75),
            capacity_l=np.where(place.kind == TANKLESS, 2.0, 189.0),
        )

    def fleet(self, years: float, with_findings: bool = True) -> Fleet:
        """The base as the core sees it ``years`` after its start; without findings, services are known but not what
        came of them."""
        n = len(self.place)
        if self._heaters is None:
            self._heaters = assembly.complete(self._known, self._waters)
        heaters = replace(
            self._heaters,
            age_years=np.full(n, max(years, 1e-3)),
            rod_fitted_years=self.rod_fitted.copy(),
            valve_fitted_years=self.valve_fitted.copy(),
        )
        flushes, descales, looks, trials = (
            log.read() for log in (self._flushes, self._descales, self._looks, self._trials)
        )
        if not with_findings:
            for one in (flushes, descales):
                one["removed"] = np.full(one["row"].size, -1)
            for one, names in (
                (flushes, ("depth_m", "volume_l", "depth_after_m")),
                (descales, ("dissolved_kg", "capacity_lost")),
            ):
                for name in names:
                    one[name] = np.full(one["row"].size, np.nan)
            looks = {name: values[:0] for name, values in looks.items()}
        m = looks["row"].size
        return Fleet(
            heaters,
            FlushEvents(**flushes),
            DescaleEvents(**descales),
            RodEvents(
                looks["row"],
                looks["years"],
                looks["by"],
                np.full(m, code(Alloy.MAGNESIUM)),
                np.full(m, 0.0204),
                np.full(m, 1.0),
                looks["fitted"],
                looks["diameter_m"],
                looks["bare_m"],
                looks["grade"],
            ),
            ValveEvents(**_silent(trials) if not with_findings else trials),
            ExpansionTankEvents(*(np.zeros(0, dtype=kind) for kind in (int, float, int, float, bool))),
            LookEvents(*(np.zeros(0, dtype=kind) for kind in (int, float, int, int, int))),
            self.technicians,
        )

    # Visits

    def flush(self, rows: IntArray, method: IntArray, years: float) -> None:
        """Flush some tanks and write down what came."""
        state, who = self.world.state, self._who(rows)
        depth = state.depth_mm[rows].copy()
        grade = self._graded(np.log(np.maximum(depth, 1e-6)), np.log(DEPTH_CUTS_MM), who)
        read = depth * self._random.lognormal(0, 0.15, rows.size) / 1000
        measured = (self._random.random(rows.size) < self.habits.measured_share) & (depth > 0.05)
        self.world.flush(rows, method, self.habits.skill[who], self._random)
        left = state.depth_mm[rows] * self._random.lognormal(0, 0.15, rows.size) / 1000
        self._flushes.append(
            row=rows,
            years=np.full(rows.size, years),
            by=who,
            removed=grade,
            method=method,
            depth_m=np.where(measured, read, np.nan),
            volume_l=np.full(rows.size, np.nan),
            depth_after_m=np.where(measured, left, np.nan),
        )

    def descale(self, rows: IntArray, years: float) -> None:
        """Descale some exchangers and write down what came."""
        who = self._who(rows)
        before = self.world.state.scale_mm[rows].copy()
        grade = self._graded(np.log(np.maximum(before / 0.225, 1e-6)), np.log(SCALE_CUTS), who)
        dissolved = self.world.descale(rows, self._random) * 1e-3 * 2200 * 0.15
        read = dissolved * self._random.lognormal(0, 0.2, rows.size)
        measured = (self._random.random(rows.size) < self.habits.measured_share) & (before > 0.005)
        self._descales.append(
            row=rows,
            years=np.full(rows.size, years),
            by=who,
            removed=grade,
            dissolved_kg=np.where(measured, read, np.nan),
            capacity_lost=np.full(rows.size, np.nan),
        )

    def look_at_rods(self, rows: IntArray, years: float) -> None:
        """Look at some rods, and renew those that look spent."""
        who, s = self._who(rows), self.world.state
        worn = s.worn[rows].copy()
        seen = np.log(np.maximum(worn, 1e-3)) + 0.4 * self.habits.bias[who]
        grade = self._cut(seen + self._random.normal(0, 0.25, rows.size), np.log(WORN_CUTS))
        left = np.clip(1 - worn, 0, 1)
        thick = np.sqrt(0.0033**2 + left * (0.0204**2 - 0.0033**2)) + self._random.normal(0, 0.0007, rows.size)
        measured = self._random.random(rows.size) < self.habits.measured_share
        wire = (worn - 2 / 3) / (1 - 2 / 3) * 0.35 * self._random.lognormal(0, 0.25, rows.size)
        shows = (worn > BARE_AT) & (self._random.random(rows.size) < 0.6)
        self._looks.append(
            row=rows,
            years=np.full(rows.size, years),
            by=who,
            grade=grade,
            fitted=self.rod_fitted[rows],
            diameter_m=np.where(measured & ~shows, thick, np.nan),
            bare_m=np.where(shows, np.minimum(wire, 0.95), np.nan),
        )
        renewed = rows[(grade >= 3) | shows]
        s.worn[renewed] = 0.0
        self.rod_fitted[renewed] = years

    def exercise_valves(self, rows: IntArray, years: float) -> None:
        """Exercise some relief valves, and renew those that passed no water."""
        s = self.world.state
        tried = self._random.random(rows.size) > 0.06
        stuck = s.stuck[rows]
        outcome = np.where(stuck, code(ValveOutcome.NO_FLOW), code(ValveOutcome.FLOWS_AND_RESEATS))
        outcome = np.where(tried, outcome, code(ValveOutcome.NOT_TESTED))
        when = np.full(rows.size, years)
        self._trials.append(row=rows, years=when, outcome=outcome, replaced=np.zeros(rows.size, dtype=bool))
        s.idle_months[rows[tried]] = 0
        renewed = rows[tried & stuck]
        self._trials.append(
            row=renewed,
            years=np.full(renewed.size, years),
            outcome=np.full(renewed.size, -1),
            replaced=np.ones(renewed.size, dtype=bool),
        )
        s.stuck[renewed] = False
        self.valve_fitted[renewed] = years

    def _who(self, rows: IntArray) -> IntArray:
        usual = self.place.technician[rows]
        other = self._random.integers(0, self.technicians, rows.size)
        return np.where(self._random.random(rows.size) < 0.15, other, usual)

    def _graded(self, log_state: FloatArray, cuts: FloatArray, who: IntArray) -> IntArray:
        seen = log_state + self.habits.bias[who] + self._random.normal(0, self.habits.noise, who.size)
        return self._cut(seen, cuts)

    def _cut(self, seen: FloatArray, cuts: FloatArray) -> IntArray:
        grade = np.searchsorted(cuts, seen)
        wrong = self._random.random(seen.size) < self.habits.blunders
        grade = np.where(wrong, self._random.integers(0, 5, seen.size), grade)
        return np.where(self._random.random(seen.size) < self.habits.missing, -1, grade)


def _silent(trials: dict[str, np.ndarray]) -> dict[str, np.ndarray]:
    """When valves last ran, and nothing of what their trials showed: each that ran counts as one that is new."""
    ran = trials["replaced"] | (trials["outcome"] == code(ValveOutcome.FLOWS_AND_RESEATS))
    known = {name: values[ran] for name, values in trials.items()}
    return known | {"outcome": np.full(ran.sum(), -1), "replaced": np.ones(ran.sum(), dtype=bool)}


def _tested(truth: chemistry.Analysis, in_full: bool, random: np.random.Generator) -> WaterProfile:
    """A zone's water as it was tested: in full, or its hardness alone."""
    hardness = truth.total_hardness_mg_l * random.lognormal(0, 0.05)
    if not in_full:
        return profile(WaterTest(total_hardness_mg_l=hardness))
    calcium = min(truth.calcium_hardness_mg_l * random.lognormal(0, 0.04), hardness)
    alkalinity = truth.alkalinity_mg_l * random.lognormal(0, 0.04)
    return profile(WaterTest(hardness, calcium, alkalinity, round(truth.ph + random.normal(0, 0.06), 2)))

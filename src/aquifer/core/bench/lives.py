"""The life of a tank, month by month, under one care and one luck or two hundred.

It goes by the laws that the forecast goes by, run forward from a new tank instead of back from what was found: deposit,
rod, relief valve and wall. Two lives with the same luck differ by their care alone.
"""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from aquifer.core import anode, ceiling, relief_valve, sediment, tank
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.components.sediment import plain_rate
from aquifer.core.fleet import Heaters
from aquifer.core.judgement.rules import DRAIN_PORT_MM
from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.lives import UNLEARNED, TankLife
from aquifer.core.parameters import DAYS_PER_YEAR, GEOMETRY, LEARNING, SEDIMENT, USAGE
from aquifer.core.usage import WATER_HEAT_KJ_KG_K
from aquifer.core.vocabulary import FlushMethod, code

YEARS = 20
MONTHS = 12
DRAWN_SHARE = 0.7
"""Of a tank's water, what comes hot in one draw before the cold mixes in. Handbook, first-hour rating practice."""
ABOVE_ELEMENT_SHARE = 0.5
"""What is left of that where the lower element is buried: the upper one heats the half above it. Its own loss begins
at the planning limit and is whole at twice that depth. Assumption."""
STANDING_KWH_A_DAY = 2.2
"""Lost through the walls of a tank of the reference size. Handbook, between 1.5 and 3."""
ELEMENT_EFFICIENCY = 0.98
"""Of what an element takes, what heats the water. Handbook."""
LOSS_PER_M, MOST_LOST = 1.0, 0.10
"""Share of the fuel that a metre of bed over the flame costs, and at most. Assumption: one part in a hundred a
centimetre, as ``ten_years`` takes a tenth at most."""


@dataclass(frozen=True)
class Care:
    """What is done to a tank; 0 months is never."""

    flush_months: int = 0
    method: FlushMethod = FlushMethod.DRAIN_AND_PULSE
    rod_months: int = 0
    """How often somebody looks; a rod that would be bare before the next look is renewed."""
    valve_months: int = 0
    """How often the relief valve is made to run."""
    by_limit: bool = False
    """Flushed when its bed comes to the planning limit, its rod renewed when wire is about to show."""


class CareName(StrEnum):
    """Ways to care that practitioners know by name."""

    NEVER = "never"
    BY_RISK = "by_risk"
    YEARLY = "yearly"
    HALF_YEARLY = "half_yearly"
    LONG_SERVICE = "long_service"
    RODS_ONLY = "rods_only"


CARES = {
    CareName.NEVER: Care(),
    CareName.BY_RISK: Care(0, FlushMethod.DRAIN_AND_PULSE, 0, 36, by_limit=True),
    CareName.YEARLY: Care(12, FlushMethod.DRAIN_AND_PULSE, 12, 12),
    CareName.HALF_YEARLY: Care(6, FlushMethod.DRAIN_AND_PULSE, 12, 12),
    CareName.LONG_SERVICE: Care(54, FlushMethod.JETTING, 54, 12),
    CareName.RODS_ONLY: Care(0, FlushMethod.DRAIN_AND_PULSE, 12, 12),
}
"""Source: the practices of ``policy``, trade practice."""


FLUSH_APART_MONTHS = 6
"""No season comes back to a tank sooner. Assumption, as of the years ahead."""


@dataclass(frozen=True)
class Luck:
    """What differs between two tanks of one build on one water; arrays of shape (lives,)."""

    deposit: FloatArray
    """Factor on the deposit's rate."""
    rod: FloatArray
    flush_log_odds: FloatArray
    """Of what each flush removes, (lives, flushes)."""
    life: FloatArray
    """Cumulative hazard at which the wall gives way."""

    def __len__(self) -> int:
        return int(self.life.size)


FLUSHES = YEARS * 2
DEPOSIT_LUCK, ROD_LUCK = LEARNING.heater_spread / 2, LEARNING.heater_spread / 4
"""Standard deviation, natural log, between tanks of one build, water and household. Assumption: half of what the
forecast expects between heaters whose household it does not know, and a quarter for a rod, which use hardly moves."""
ORDINARY = Luck(np.ones(1), np.ones(1), np.zeros((1, FLUSHES)), np.full(1, np.log(2)))
"""Half of all tanks live longer."""


def drawn(lives: int, seed: int) -> Luck:
    """As much luck as lives. Source: ``DEPOSIT_LUCK`` and ``ROD_LUCK``; what a flush removes as the forecast expects;
    a unit exponential for the wall (textbook)."""
    random = np.random.default_rng(seed)
    return Luck(
        np.exp(random.normal(0, DEPOSIT_LUCK, lives)),
        np.exp(random.normal(0, ROD_LUCK, lives)),
        random.normal(0, SEDIMENT.odds_spread, (lives, FLUSHES)),
        random.exponential(1.0, lives),
    )


@dataclass(frozen=True)
class Lived:
    """What became of the tanks; (lives, months + 1), the first column new. A tank that leaked goes on as it was."""

    depth_m: FloatArray
    rod_left: FloatArray
    """Share of the rod, 0 is bare wire."""
    hot_l: FloatArray
    """In one draw."""
    energy_kwh: FloatArray
    """A year, at the pace of that month."""
    recover_min: FloatArray
    """To heat again what one draw takes out of a new tank."""
    leak_within_year: FloatArray
    valve_stuck: FloatArray
    """Probability that the relief valve does not open."""
    loud: IntArray
    """0 quiet, 1 bubbles, 2 pops or rumbles."""
    leaked: IntArray
    """Month in which the wall gives way, -1 if it outlasts the years; (lives,)."""
    deposited_kg: FloatArray
    removed_kg: FloatArray
    """By flushes, both over all years; (lives,)."""
    left_kg: FloatArray
    rods: tuple[tuple[int, ...], ...]
    """Months in which each life got a new rod."""
    flushed: BoolArray
    """Months in which each was flushed, (lives, months + 1)."""

    def blocked_from(self) -> IntArray:
        """Month from which the bed reaches over the drain, -1 if it never does; (lives,)."""
        over = self.depth_m >= DRAIN_PORT_MM / 1000
        # A flush that brings it below again opens the drain.
        last_open = over.shape[1] - np.argmin(over[:, ::-1], axis=1)
        return np.where(over[:, -1], np.where(over.all(axis=1), 0, last_open), -1)

    def until_leak(self) -> BoolArray:
        """Months in which each tank still holds, (lives, months + 1)."""
        months = np.arange(self.depth_m.shape[1])
        return np.asarray((self.leaked < 0)[:, None] | (months[None, :] < self.leaked[:, None]))


def live(heater: Heaters, care: Care, luck: Luck = ORDINARY, life: TankLife = UNLEARNED) -> Lived:
    """Twenty years of one tank under a care, for each luck.

    Parameters: heater, one row, a tank; its age and what was fitted later do not matter, it begins new; life,
    how tanks end here, see ``core.lives``.
    Returns: what it comes to, month by month. Raises: ValueError for anything but one tank.
    Source: ``sediment``, ``anode``, ``relief_valve``, ``tank``; the rest is beside each figure.
    """
    if len(heater) != 1 or not bool(heater.is_tank[0]):
        raise ValueError("one tank is lived at a time; a tankless heater has no bed, rod or wall")
    lives, months = len(luck), YEARS * MONTHS
    rate = plain_rate(heater)[0] * luck.deposit
    bed, flushes = (np.zeros(lives), np.zeros(lives)), np.zeros(lives, dtype=np.int64)
    flushed, everyone = np.zeros((lives, months + 1), dtype=bool), np.arange(lives)
    removed, rods = np.zeros(lives), _Rods(heater, luck)
    spent, lived_hazard = np.zeros(lives), np.zeros(lives)
    leaked = np.full(lives, -1)
    columns: list[dict[str, FloatArray]] = []
    for month in range(months + 1):
        years = month / MONTHS
        if month:
            bed = sediment.grown(bed, rate, np.full(lives, 1 / MONTHS))
            bare = rods.left(years) <= 0
            before = tank.effective_age(np.full(lives, years - 1 / MONTHS), spent)
            spent = spent + bare / MONTHS
            ratio = _log_ratio(heater, columns[-1]["loud"], life)
            now = tank.effective_age(np.full(lives, years), spent)
            lived_hazard += tank.hazard(now, ratio, life.law) - tank.hazard(before, ratio, life.law)
            leaked = np.where((leaked < 0) & (lived_hazard >= luck.life), month, leaked)
        if month:
            flushed[:, month] = _comes(care, month, heater, columns[-1]["depth_m"], flushed)
            share = _removed(care.method, luck.flush_log_odds[everyone, np.minimum(flushes, FLUSHES - 1)])
            share = share * flushed[:, month, None]
            removed = removed + bed[0] * share[:, 0] + bed[1] * share[:, 1]
            bed, flushes = (bed[0] * (1 - share[:, 0]), bed[1] * (1 - share[:, 1])), flushes + flushed[:, month]
        every = 1 if care.by_limit else care.rod_months
        if month and every and month % every == 0:
            rods.looked_at(month, every)
        since_run = _since(month, care.valve_months)
        columns.append(_looks(heater, bed, rods.left(years), spent, years, since_run, life))
    whole = {name: np.stack([column[name] for column in columns], axis=1) for name in columns[0]}
    return Lived(
        depth_m=whole["depth_m"],
        rod_left=whole["rod_left"],
        hot_l=whole["hot_l"],
        energy_kwh=whole["energy_kwh"],
        recover_min=whole["recover_min"],
        leak_within_year=whole["leak_within_year"],
        valve_stuck=whole["valve_stuck"],
        loud=whole["loud"].astype(np.int64),
        leaked=leaked,
        deposited_kg=rate * YEARS,
        removed_kg=removed,
        left_kg=bed[0] + bed[1],
        rods=tuple(tuple(own) for own in rods.renewed),
        flushed=flushed,
    )


def _comes(care: Care, month: int, heater: Heaters, depth_m: FloatArray, flushed: BoolArray) -> BoolArray:
    """Which of the tanks are flushed in a month."""
    if care.by_limit:
        lately = flushed[:, max(month - FLUSH_APART_MONTHS, 0) : month].any(axis=1)
        return np.asarray((depth_m >= heater.sediment_limit_m) & ~lately)
    return np.full(depth_m.shape, bool(care.flush_months) and month % care.flush_months == 0)


class _Rods:
    """The rods of all lives: what is left of each, and when it was renewed."""

    def __init__(self, heater: Heaters, luck: Luck) -> None:
        self._heater, self._luck = heater, luck
        self._fitted = np.zeros(len(luck))
        self._has = bool(heater.is_sacrificial[0])
        self.renewed: list[list[int]] = [[] for _ in range(len(luck))]

    def _consumed(self, years: float) -> FloatArray:
        h, count = self._heater, len(self._luck)
        rods = anode.Rods(
            np.repeat(h.alloy, count),
            np.repeat(h.rod_diameter_m, count),
            np.repeat(h.rod_length_m, count),
            self._fitted,
            h.wetted_m2,
            h.radius_m,
            h.conductivity_us_cm,
            h.potential_mg_l,
            h.setpoint_c,
        )
        return anode.consumed(rods, years - self._fitted) * self._luck.rod

    def left(self, years: float) -> FloatArray:
        """Share of each rod, 0 where there is none."""
        return np.clip(1 - self._consumed(years), 0.0, 1.0) if self._has else np.zeros(len(self._luck))

    def looked_at(self, month: int, next_months: int) -> None:
        """Those that would be bare before the next look are renewed."""
        years = month / MONTHS
        bare_soon = self._consumed(years + next_months / MONTHS) >= anode.BARE_LIMIT
        for life in np.flatnonzero(bare_soon & self._has):
            self.renewed[life].append(month)
        self._fitted = np.where(bare_soon & self._has, years, self._fitted)


def _removed(method: FlushMethod, log_odds: FloatArray) -> FloatArray:
    """Share of loose and hardened deposit that one flush removes, (lives, 2). Source: ``sediment.flush_shares``."""
    share = sediment.flush_shares()[code(method)][None, :]
    return np.asarray(share / (share + (1 - share) * np.exp(-log_odds)[:, None]))


def _since(month: int, every: int) -> float:
    """Years since something was done last that is done every so many months, from new."""
    return (month % every if every else month) / MONTHS


def _log_ratio(heater: Heaters, loud: FloatArray, life: TankLife) -> FloatArray:
    nothing = np.zeros(loud.size, dtype=bool)
    stress = tank.Stress(
        heater.hardness_mg_l, heater.ph, heater.conductivity_us_cm, heater.pressure_kpa, heater.setpoint_c,
        nothing, nothing, loud >= 2, np.zeros(loud.size),
    )  # fmt: skip
    return life.log_ratio(tank.traits(stress))


def _looks(
    heater: Heaters,
    bed: sediment.Bed,
    rod_left: FloatArray,
    spent: FloatArray,
    years: float,
    since_run: float,
    life: TankLife,
) -> dict[str, FloatArray]:
    """What a tank is like in a month."""
    capacity, floor = float(heater.capacity_l[0]), heater.floor_m2
    most = SEDIMENT.ceiling_share * heater.capacity_l / 1000 / floor
    depth = ceiling.bounded(sediment.depth_m(bed, floor), most)
    fired, elements = bool(heater.is_fired_from_below[0]), bool(heater.has_elements[0])
    first, second = SEDIMENT.noise_cuts_m
    loud = ((depth >= first).astype(np.float64) + (depth >= second)) * fired
    hot = DRAWN_SHARE * (capacity - 1000 * depth * floor)
    buried = elements * np.clip(depth / heater.sediment_limit_m - 1, 0.0, 1.0)
    heat = heater.volume_m3 * 1000 * WATER_HEAT_KJ_KG_K * (heater.setpoint_c - heater.source_c) / 3600
    standing = STANDING_KWH_A_DAY * DAYS_PER_YEAR * heater.wetted_m2 / GEOMETRY.wetted_m2
    efficiency = ELEMENT_EFFICIENCY if elements else USAGE.recovery_efficiency
    lost = np.minimum(LOSS_PER_M * depth, MOST_LOST) * fired
    kind = KINDS[list(HeaterKind)[int(heater.kind[0])]]
    draw_kj = DRAWN_SHARE * capacity * WATER_HEAT_KJ_KG_K * (heater.setpoint_c - heater.source_c)
    ratio, is_bare = _log_ratio(heater, loud, life), np.where(rod_left > 0, 0.0, 1.0)
    age = np.full(depth.shape, years)
    stuck = -np.expm1(-relief_valve.hazard(np.array(since_run), heater.hardness_mg_l))
    return {
        "depth_m": depth,
        "rod_left": rod_left,
        "hot_l": (1 - (1 - ABOVE_ELEMENT_SHARE) * buried) * hot,
        "energy_kwh": (heat + standing) / efficiency / (1 - lost),
        "recover_min": draw_kj / (kind.usual_input_kw * efficiency * (1 - lost)) / 60,
        "leak_within_year": tank.Standing(age, spent, is_bare, ratio, life.law).failure_within(np.ones(depth.shape)),
        "valve_stuck": np.broadcast_to(stuck, depth.shape),
        "loud": loud,
    }

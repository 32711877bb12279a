"""The tank itself as the forecast sees it: how likely it is to give way, and what that hangs on.

No finding tells how fast one wall corrodes; what is learned is how long tanks last here (``lives``).
"""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from scipy.special import ndtri

from aquifer.core import anode, tank
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.components.anode import AnodeComponent
from aquifer.core.fleet import Fleet, Heaters, LookEvents
from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.lives import UNLEARNED, Spans, TankLife
from aquifer.core.parameters import TANK
from aquifer.core.vocabulary import Alloy, Component, Corrosion, Noise, code

_IS_LINED = np.array([KINDS[kind].is_lined for kind in HeaterKind])
_NODES, _WEIGHTS = np.array([-np.sqrt(3), 0.0, np.sqrt(3)]), np.array([1 / 6, 2 / 3, 1 / 6])
"""Where a normal distribution is looked at, and how much each counts. Source: Gauss-Hermite, three points."""
_SPAN_YEARS = 0.5
"""Into which time in care is cut, so that what was seen counts from when it was seen."""


@dataclass(frozen=True)
class Wear:
    """What is believed of the log rate of the rods of a fleet, (rods,)."""

    mean: FloatArray
    sd: FloatArray


@dataclass(frozen=True)
class Bareness:
    """When tanks stood without a working anode; n tanks, three guesses at how fast their rods wear."""

    fitted: FloatArray
    """Age at which the present rod was fitted, (n,)."""
    lasts: FloatArray
    """Years that it lasts, (n, 3): infinite where nothing is consumed, 0 where there never was one."""
    before: FloatArray
    """Years without one before it was fitted, (n, 3)."""

    @classmethod
    def of(cls, fleet: Fleet, rods: AnodeComponent | None, wear: Wear | None) -> "Bareness":
        h = fleet.heaters
        bare = _IS_LINED[h.kind] & (h.alloy == code(Alloy.NONE))
        lasts = np.repeat(np.where(bare, 0.0, np.inf)[:, None], _NODES.size, axis=1)
        before, fitted = np.zeros(lasts.shape), np.zeros(len(h))
        if rods is not None and wear is not None:
            fitted[rods.row] = rods.heaters.rod_fitted_years
            for guess, node in enumerate(_NODES.tolist()):
                years = anode.years_to_consume(rods.rods, np.exp(-(wear.mean + node * wear.sd)))
                lasts[rods.row, guess], before[rods.row, guess] = years, _spent_before(rods, years)
        return cls(fitted, lasts, before)

    def at(self, row: IntArray) -> "Bareness":
        return Bareness(self.fitted[row], self.lasts[row], self.before[row])

    def spent(self, age_years: FloatArray) -> FloatArray:
        """Years without one until each tank was so old, (n,), as they are expected."""
        since = np.maximum(age_years[:, None] - self.fitted[:, None] - self.lasts, 0.0)
        earlier = np.clip(age_years / np.maximum(self.fitted, 1e-9), 0.0, 1.0)[:, None] * self.before
        return np.asarray((since + np.where(self.fitted[:, None] > 0, earlier, 0.0)) @ _WEIGHTS)

    def ahead(self, age_years: FloatArray) -> FloatArray:
        """Share of the coming year without one, (n,)."""
        return np.asarray(np.clip(age_years[:, None] - self.fitted[:, None] - self.lasts + 1, 0.0, 1.0) @ _WEIGHTS)


@dataclass(frozen=True)
class Seen:
    """What was seen and heard at tanks, and when."""

    looks: LookEvents
    """Sorted by tank and then by time."""
    tanks: int

    def at(self, tank_at: IntArray, years: FloatArray) -> tuple[BoolArray, BoolArray, BoolArray]:
        """Whether each tank was rusty, rusted at a seam and loud when last looked at before an age, (m,) each."""
        return (
            self._last(self.looks.rusty, tank_at, years) == 1,
            self._last(self.looks.corrosion, tank_at, years) >= code(Corrosion.SEAMS),
            self._last(self.looks.noise, tank_at, years) >= code(Noise.POPPING),
        )

    @property
    def bubbling(self) -> BoolArray:
        """Whether each was last heard to bubble, pop or kettle, (n,)."""
        every = np.arange(self.tanks)
        return self._last(self.looks.noise, every, np.full(self.tanks, np.inf)) >= code(Noise.BUBBLING)

    def _last(self, said: IntArray, tank_at: IntArray, years: FloatArray) -> IntArray:
        """The latest of what was said of each tank up to an age, -1 where nothing was, (m,)."""
        those = np.flatnonzero(said >= 0)
        if not those.size:
            return np.full(tank_at.size, -1)
        row, when = self.looks.row[those], self.looks.years[those]
        # Looks and questions in one order, by tank and time, a look before a question of its day: the last look before
        # a question is the one that answers it.
        order = np.lexsort(
            (
                np.concatenate([np.zeros(row.size), np.ones(tank_at.size)]),
                np.concatenate([when, years]),
                np.concatenate([row, tank_at]),
            )
        )
        is_look = order < row.size
        latest = np.maximum.accumulate(np.where(is_look, order, -1))
        asked = np.flatnonzero(~is_look)
        found = np.full(tank_at.size, -1)
        last = latest[asked]
        mine = (last >= 0) & (row[np.maximum(last, 0)] == tank_at[order[asked] - row.size])
        found[order[asked] - row.size] = np.where(mine, said[those][np.maximum(last, 0)], -1)
        return found


@dataclass(frozen=True)
class TankComponent:
    row: IntArray
    heaters: Heaters
    bareness: Bareness
    stress: tank.Stress
    seen: Seen
    life: TankLife
    of_build: FloatArray
    """What its make adds to ln of the hazard, (n,)."""
    of_zone: FloatArray
    """What its water adds beyond what its tests say."""
    group_variance: FloatArray
    name = Component.TANK
    unit = "1/year"

    @classmethod
    def of(
        cls, fleet: Fleet, rods: AnodeComponent | None, wear: Wear | None, life: TankLife = UNLEARNED
    ) -> "TankComponent":
        """Parameters: the fleet's rods and what is believed of them, if it has any; what own tanks taught."""
        row = np.flatnonzero(fleet.heaters.is_tank)
        h = fleet.heaters.at(row)
        bareness = Bareness.of(fleet, rods, wear).at(row)
        seen = Seen(fleet.looks.of(row, len(fleet.heaters)), row.size)
        every = np.arange(row.size)
        stress = tank.Stress(
            h.hardness_mg_l, h.ph, h.conductivity_us_cm, h.pressure_kpa, h.setpoint_c,
            *seen.at(every, np.full(row.size, np.inf)), _share(bareness.spent(h.age_years), h.age_years),
        )  # fmt: skip
        zone = _named(fleet, life)[h.zone] if life.zone_ids else h.zone
        (of_build, unsure), (of_zone, uncertain) = life.builds.of(h.cohort), life.zones.of(zone)
        return cls(row, h, bareness, stress, seen, life, of_build, of_zone, unsure + uncertain)

    @cached_property
    def traits(self) -> FloatArray:
        return tank.traits(self.stress)

    @cached_property
    def spent_years(self) -> FloatArray:
        """Without a working anode so far, (n,)."""
        return self.bareness.spent(self.heaters.age_years)

    @cached_property
    def spent_ahead(self) -> FloatArray:
        """Share of the coming year without one, (n,)."""
        return self.bareness.ahead(self.heaters.age_years)

    @cached_property
    def log_ratio(self) -> FloatArray:
        """ln of the hazard from today over an ordinary tank's by the handbook, (n,)."""
        return np.asarray(self.life.log_ratio(self.traits) + self.of_build + self.of_zone)

    @cached_property
    def log_past(self) -> FloatArray:
        """The same of the years behind it, in which it did not show what it shows now, (n,)."""
        nothing = np.zeros(self.row.size, dtype=bool)
        before = replace(self.stress, rusty=nothing, seams=nothing, loud=nothing)
        return np.asarray(self.life.log_ratio(tank.traits(before)) + self.of_build + self.of_zone)

    @cached_property
    def spread(self) -> FloatArray:
        """Standard deviation of what is not known of ln of the hazard, (n,)."""
        effective = tank.effective_age(self.heaters.age_years, self.spent_years)
        return np.sqrt(self.life.variance(self.traits, effective) + self.group_variance)

    def failure_within(self, years: FloatArray) -> FloatArray:
        """Probability of failing within ``years`` from today, (n, t)."""
        return self._columns().failure_within(years)

    def failure_within_a_year(self, probabilities: FloatArray) -> FloatArray:
        """The same within a year at quantiles of what is not known of the hazard, (n, q)."""
        off = self.spread[:, None] * ndtri(probabilities)[None, :]
        return self._columns(off).failure_within(np.ones((1, 1)))

    def spans(self, entry_years: FloatArray, exit_years: FloatArray, leaked: BoolArray) -> Spans:
        """What the tanks lived through until they left, as ``lives.learned`` takes it.

        Parameters, (n,) by tank: ages at which each came into care and left it, or its age now; whether it gave way.
        """
        n = self.row.size
        pieces = np.maximum(np.ceil((exit_years - entry_years) / _SPAN_YEARS - 1e-9).astype(np.int64), 1)
        at = np.repeat(np.arange(n), pieces + 1)
        number = np.arange(at.size) - np.repeat(np.cumsum(pieces + 1) - pieces - 1, pieces + 1)
        in_care = number > 0
        start = np.where(in_care, entry_years[at] + _SPAN_YEARS * (number - 1), 0.0)
        end = np.where(in_care, np.minimum(start + _SPAN_YEARS, exit_years[at]), entry_years[at])
        bareness = self.bareness.at(at)
        spent = bareness.spent(start)
        h = self.heaters
        stress = tank.Stress(
            h.hardness_mg_l[at], h.ph[at], h.conductivity_us_cm[at], h.pressure_kpa[at], h.setpoint_c[at],
            *self.seen.at(at, np.where(in_care, start, -1.0)), _share(spent, start),
        )  # fmt: skip
        return Spans(
            at, tank.effective_age(start, spent), tank.effective_age(end, bareness.spent(end)), tank.traits(stress),
            in_care, self.heaters.cohort, self.heaters.zone, leaked,
        )  # fmt: skip

    def years_to(self, probability: FloatArray) -> FloatArray:
        """Years until failure has each probability, (n, q)."""
        return self._columns().years_to_failure(probability)

    def years_to_risk(self) -> FloatArray:
        """Years until failing within the following 12 months is as likely as is accepted, (n,)."""
        return tank.Standing(
            self.heaters.age_years, self.spent_years, self.spent_ahead, self.log_ratio, self.life.law, self.log_past
        ).years_to_risk(self.heaters.replace_at)

    def ends(self) -> BoolArray:
        """Whether the tank is to be replaced, (n,): by its risk, by rust at a seam, or old, loud and on hard water."""
        loud = self.seen.bubbling
        return np.asarray(
            (self.failure_within(np.ones((self.row.size, 1)))[:, 0] >= self.heaters.replace_at)
            | self.stress.seams
            | tank.is_worn_out(self.heaters.age_years, self.heaters.hardness_mg_l, loud)
        )

    def log_factors(self) -> dict[str, FloatArray]:
        """ln of the hazard's factors against an ordinary tank of the same age, by the handbook."""
        age, law = self.heaters.age_years, self.life.law
        now, plain = np.maximum(tank.effective_age(age, self.spent_years), 0.5), np.maximum(age, 0.5)
        factors = tank.log_hazard_ratios(self.traits, tank.SLOPES + self.life.slopes)
        factors["spent_anode"] = factors["spent_anode"] + (law.shape - 1) * np.log(now / plain)
        own = self.life.level + np.log(law.shape / TANK.shape)
        steeper = (law.shape - TANK.shape) * np.log(plain / TANK.life_years)
        lasting = np.log1p(law.frailty * tank.hazard(now, self.log_past, tank.Law(law.shape)))
        learned = {"cohort": self.of_build, "neighbours": self.of_zone}
        return {**factors, "own_tanks": own + steeper - lasting, **learned}

    def _columns(self, off: FloatArray | float = 0.0) -> tank.Standing:
        """The tanks as a column. Parameters: what is added to ln of the hazard, (n, q)."""
        return tank.Standing(
            self.heaters.age_years[:, None], self.spent_years[:, None], self.spent_ahead[:, None],
            self.log_ratio[:, None] + off, self.life.law, self.log_past[:, None] + off,
        )  # fmt: skip


def _named(fleet: Fleet, life: TankLife) -> IntArray:
    """Where each zone of a fleet stands among those of the life, -1 of one that does not, (zones,)."""
    if not fleet.zone_ids.size:
        return np.full(fleet.heaters.zones, -1)
    return np.array([life.zone_ids.get(name, -1) for name in fleet.zone_ids.tolist()], dtype=np.int64)


def _share(spent_years: FloatArray, age_years: FloatArray) -> FloatArray:
    return np.asarray(np.clip(spent_years / np.maximum(age_years, 0.5), 0.0, 1.0))


def _spent_before(rods: AnodeComponent, life: FloatArray) -> FloatArray:
    """Years that earlier rods of each tank stood spent before they were changed, (n,), taking each to last as long as
    the present one; rods that nobody put on record count as one."""
    n, looks, h = rods.row.size, rods.looks, rods.heaters
    row = np.concatenate([np.arange(n), looks.row, np.arange(n)])
    fitted = np.concatenate(
        [np.zeros(n), np.minimum(looks.rod_fitted_years, h.rod_fitted_years[looks.row]), h.rod_fitted_years]
    )
    order = np.lexsort((fitted, row))
    row, fitted = row[order], fitted[order]
    same = row[1:] == row[:-1]
    stood = np.where(same, fitted[1:] - fitted[:-1] - life[row[1:]], 0.0)
    return np.asarray(np.bincount(row[1:], np.maximum(stood, 0.0), minlength=n), dtype=np.float64)

"""Sediment of tanks as the forecast sees it."""

from dataclasses import dataclass
from functools import cached_property
from typing import ClassVar

import numpy as np

from aquifer.core import ceiling, policy, sediment
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.components.deposit import Deposit, bounds_of, column, once, weight
from aquifer.core.components.growing import P10_P50_P90, REACH_YEARS, YEAR, ComingYear, log_of, on_grid
from aquifer.core.fleet import Fleet, Heaters
from aquifer.core.learning import (
    Cleanings,
    ComponentCalibration,
    Evidence,
    Grades,
    GradeScale,
    Pairs,
    Posterior,
    Readings,
    level,
)
from aquifer.core.parameters import LEARNING, SEDIMENT
from aquifer.core.vocabulary import Component, DecidedBy, FlushMethod, Method, code

PRACTISED_SPREAD = 0.35
"""Standard deviation of how an eye at a drawn cloth differs from the same eye at a bucket, natural log. Assumption."""
BY_EYE = GradeScale(tuple(np.log(SEDIMENT.grade_cuts_m).tolist()), SEDIMENT.grade_spread, SEDIMENT.misgrade)
BY_EAR = GradeScale(tuple(np.log(SEDIMENT.noise_cuts_m).tolist()), SEDIMENT.noise_spread, SEDIMENT.misgrade)
BY_RULER = GradeScale((float(np.log(SEDIMENT.ruler_m)),), SEDIMENT.ruler_spread, LEARNING.false_nothing)
"""Whether there is anything to measure."""
BY_BUCKET = GradeScale((float(np.log(SEDIMENT.bucket_l)),), SEDIMENT.ruler_spread, LEARNING.false_nothing)
NO_COMPLAINT = GradeScale((0.0,), SEDIMENT.complaint_spread, 2 * SEDIMENT.silent)
"""Whether the household has rung, of a depth in shares of that at which half of them would."""
_LOUDNESS = np.array([0, 0, 1, 2, 2])
"""Grade by ear of each ``Noise``: a hiss on a cold start is nothing."""
_AS_METHOD = np.array([code(Method(method.value)) for method in FlushMethod])


@dataclass(frozen=True)
class Openings:
    """Flushes, and times that a tank was listened to, sorted by heater and time. Shape (m,)."""

    row: IntArray
    years: FloatArray
    method: IntArray
    """Position in ``FlushMethod``, -1 where it was only listened to."""


@dataclass(frozen=True)
class _Found:
    """Which flushes found what, (m,) each; none more than one thing."""

    depth: BoolArray
    no_depth: BoolArray
    volume: BoolArray
    no_volume: BoolArray
    grade: BoolArray


def practised(depth_m: FloatArray, removed: IntArray, by: IntArray) -> Pairs:
    """Looks in practice, whose truth is known, as pairs of a state and a grade by eye.

    Parameters, (m,) each: the depth at which what came out had lain, m; its grade, a code of ``Removed``; who graded.
    Raises: ValueError for a depth that is not positive.
    """
    if (depth_m <= 0).any():
        raise ValueError("a depth is not positive; of nothing an eye says nothing")
    nobodys = np.full(by.size, -1, dtype=np.int64)
    return Pairs(nobodys, np.log(depth_m), np.full(by.size, PRACTISED_SPREAD), removed, by, BY_EYE)


@dataclass(frozen=True)
class SedimentComponent(Deposit):
    row: IntArray
    heaters: Heaters
    fleet: Fleet
    plain_rate: FloatArray
    """kg/year at theta = 1, by the physics."""
    flush_at: IntArray
    """Position in the history of each flush, (m,)."""
    noise_at: IntArray
    """The same of each time that a fired tank was listened to."""
    noise: IntArray
    """How loud it was then, on ``BY_EAR``."""
    openings: Openings
    taught: ComponentCalibration = ComponentCalibration()
    name = Component.SEDIMENT
    hears: ClassVar[tuple[str, ...]] = ("flushes", "looks")
    unit = "kg/year"
    future_spread = LEARNING.future_spread
    reading_error = SEDIMENT.depth_spread

    @staticmethod
    def rows_of(heaters: Heaters) -> IntArray:
        return np.flatnonzero(heaters.is_tank)

    @classmethod
    def of(cls, fleet: Fleet) -> "SedimentComponent":
        row = cls.rows_of(fleet.heaters)
        own = fleet.at(row)
        h, f, looks = own.heaters, own.flushes, own.looks
        heard = np.flatnonzero((looks.noise >= 0) & h.is_fired_from_below[looks.row])
        rate = plain_rate(h)
        if heard.size:
            # On the same day a tank is listened to before it is flushed.
            rows = np.concatenate([looks.row[heard], f.row])
            years = np.concatenate([looks.years[heard], f.years])
            is_flush = np.arange(rows.size) >= heard.size
            order = np.lexsort((is_flush, years, rows))
            method = np.concatenate([np.full(heard.size, -1), f.method])[order]
            flush_at, noise_at = np.flatnonzero(is_flush[order]), np.flatnonzero(~is_flush[order])
            noise = _LOUDNESS[looks.noise[heard][order[noise_at]]]
            openings = Openings(rows[order], years[order], method)
        else:
            openings = Openings(f.row, f.years, f.method)
            flush_at, noise_at, noise = np.arange(f.row.size), heard, heard
        return cls(row, h, own, rate, flush_at, noise_at, noise, openings)

    @cached_property
    def _opened(self) -> sediment.Openings:
        o = self.openings
        is_flush = o.method >= 0
        share = np.where(is_flush[:, None], sediment.flush_shares(self.taught.removal)[o.method], 0.0)
        return sediment.Openings(o.row, o.years, share[:, 0], share[:, 1], is_flush)

    @cached_property
    def history(self) -> sediment.History:
        """What the bed was and is at theta = 1."""
        return sediment.replayed(self.unit_rate, self.heaters.age_years, self.heaters.floor_m2, self._opened)

    @cached_property
    def levels(self) -> level.History:
        h, past = self.history, self.heaters.past_spread
        now = sediment.depth_m(h.bed, self.heaters.floor_m2)
        shift = np.log(SEDIMENT.unrecorded_left) * np.minimum(past / LEARNING.unknown_flushes_spread, 1.0)
        spread = self.taught.uneven * h.left_spread
        # Where it was measured what is left, that counts, however little a flush is thought to remove.
        f = self.fleet.flushes
        measured = self.flush_at[~np.isnan(f.depth_after_m)]
        spread[measured] = np.maximum(spread[measured], SEDIMENT.measured_left_spread)
        return level.History(self.openings.row, h.depth_before_m, h.depth_after_m, spread, now, shift, past)

    @property
    def zone_spread(self) -> FloatArray:
        h = self.heaters
        doubt = sediment.doubt(h.potential_mg_l, sediment.unsure_mg_l(h.hardness_mg_l, h.water_spread))
        return np.hypot(LEARNING.zone_spread, np.maximum(h.water_spread, doubt))

    @property
    def heater_spread(self) -> FloatArray:
        return self.heaters.heater_spread

    @cached_property
    def ceiling_m(self) -> FloatArray:
        """What a bed may reach, (n,)."""
        return np.asarray(SEDIMENT.ceiling_share * self.heaters.capacity_l / 1000 / self.heaters.floor_m2)

    @property
    def event_years(self) -> FloatArray:
        """When each event of ``levels`` was, years since installation."""
        return self.openings.years

    @cached_property
    def limit_driver(self) -> FloatArray:
        return ceiling.driver(self.heaters.sediment_limit_m, self.ceiling_m)

    @cached_property
    def _found(self) -> "_Found":
        """Each flush's finding, as its kind."""
        f = self.fleet.flushes
        measured = ~np.isnan(f.depth_m)
        nothing = measured & (f.depth_m < SEDIMENT.ruler_m)
        collected = ~measured & ~np.isnan(f.volume_l)
        no_volume = collected & (f.volume_l < SEDIMENT.bucket_l)
        graded = ~measured & ~collected & (f.removed >= 0)
        return _Found(measured & ~nothing, nothing, collected & ~no_volume, no_volume, graded)

    @cached_property
    def _values(self) -> FloatArray:
        """What a measured depth or a collected volume says of log theta, NaN where there is neither."""
        f, found, h, at = self.fleet.flushes, self._found, self.history, self.flush_at
        depth = log_of(ceiling.driver(np.nan_to_num(f.depth_m), self.ceiling_m[f.row])) - log_of(h.depth_before_m[at])
        volume = log_of(f.volume_l) - log_of(h.removed_l[at])
        return np.where(found.depth, depth, np.where(found.volume, volume, np.nan))

    def evidence(self) -> Evidence:
        return self.said

    @cached_property
    def said(self) -> Evidence:
        f, found, h, o = self.fleet.flushes, self._found, self.history, self.openings
        at, shift, blur = self.flush_at, self.unheard.shift, self.unheard.variance(self.year_spread)
        before, removed_l = log_of(h.depth_before_m) + shift, log_of(h.removed_l[at]) + shift[at]
        lowest = np.zeros(f.row.size, dtype=np.int64)

        def said(which: BoolArray, grade: IntArray, log_unit: FloatArray, scale: GradeScale) -> Grades:
            rows = np.flatnonzero(which)
            by = f.by[rows] if scale is BY_EYE else None
            return Grades(f.row[rows], f.years[rows], grade[rows], log_unit[rows], by, scale, blur[at[rows]])

        rings = np.where(self.heaters.is_fired_from_below, SEDIMENT.complaint_fired_m, SEDIMENT.complaint_other_m)
        of_rings = before - np.log(rings)[o.row]
        quiet = once(o.row, of_rings)
        noise = self.noise_at
        unknown = np.full(noise.size, -1)
        grades = (
            said(found.grade, f.removed, before[at], BY_EYE),
            said(found.no_depth, lowest, before[at], BY_RULER),
            said(found.no_volume, lowest, removed_l, BY_BUCKET),
            Grades(o.row[noise], o.years[noise], self.noise, before[noise], unknown, BY_EAR, blur[noise]),
            Grades(o.row[quiet], o.years[quiet], 0 * quiet, of_rings[quiet], None, NO_COMPLAINT, blur[quiet]),
        )
        read = np.flatnonzero(found.depth | found.volume)
        value = on_grid(self._values[read] - shift[at[read]])
        spread = np.where(found.depth, _ruled(np.nan_to_num(f.depth_m)), SEDIMENT.volume_spread)[read]
        return Evidence(
            grades,
            Readings(f.row[read], f.years[read], value, spread, found.depth[read], blur[at[read]], at[read]),
            tests=self._tests,
        )

    @property
    def _tests(self) -> Readings:
        """What a ruler said, nothing too, of beds of which more than nothing was foretold."""
        f, h, at = self.fleet.flushes, self.history, self.flush_at
        ruled = np.flatnonzero(self._found.depth | self._found.no_depth)
        where = at[ruled]
        depth = np.maximum(f.depth_m[ruled], SEDIMENT.ruler_m / 2)
        of_ceiling, unit = self.ceiling_m[f.row[ruled]], log_of(h.depth_before_m[where])
        value = log_of(ceiling.driver(depth, of_ceiling)) - unit - self.unheard.shift[where]
        least = log_of(ceiling.driver(np.full(ruled.size, SEDIMENT.tested_m), of_ceiling)) - unit
        return Readings(
            f.row[ruled],
            f.years[ruled],
            on_grid(value),
            _ruled(depth),
            event=where,
            least=least - self.unheard.shift[where],
        )

    @cached_property
    def looks(self) -> level.Looks:
        f, found, offsets, at = self.fleet.flushes, self._found, self.taught.offsets, self.flush_at
        low, high, spread = (np.full(self.openings.row.size, value) for value in (np.nan, np.nan, 1.0))
        before, nothing = log_of(self.history.depth_before_m), np.full(at.size, -np.inf)
        eye = np.zeros(at.size) if offsets is None else offsets[f.by]
        by_eye = bounds_of(np.array(BY_EYE.cuts), np.maximum(f.removed, 0), before[at] + eye)
        for which, lower, upper, error in (
            (found.depth, self._values, self._values, _ruled(np.nan_to_num(f.depth_m))),
            (found.volume, self._values, self._values, SEDIMENT.volume_spread + eye * 0),
            (found.no_depth, nothing, BY_RULER.cuts[0] - before[at], SEDIMENT.ruler_spread + eye * 0),
            (
                found.no_volume,
                nothing,
                BY_BUCKET.cuts[0] - log_of(self.history.removed_l[at]),
                SEDIMENT.ruler_spread + eye * 0,
            ),
            (found.grade, *by_eye, SEDIMENT.grade_spread / np.sqrt(self.heed(f.by))),
        ):
            low[at[which]], high[at[which]], spread[at[which]] = lower[which], upper[which], error[which]
        noise = self.noise_at
        low[noise], high[noise] = bounds_of(np.array(BY_EAR.cuts), self.noise, before[noise])
        spread[noise] = SEDIMENT.noise_spread
        left, after = np.full(low.size, np.nan), np.nan_to_num(f.depth_after_m)
        # A bed that a ruler hardly tells from nothing is as deep as that, give or take.
        rest = ceiling.driver(np.maximum(after, SEDIMENT.ruler_m / 2), self.ceiling_m[f.row])
        value = log_of(rest) - log_of(self.history.depth_after_m[at])
        left[at] = np.where(np.isnan(f.depth_after_m), np.nan, value)
        rough = np.full(low.size, SEDIMENT.depth_spread)
        rough[at] = _ruled(after)
        return level.Looks(low, high, spread, left, rough)

    def pairs(self) -> Pairs | None:
        f = self.fleet.flushes
        both = np.flatnonzero(self._found.depth & (f.removed >= 0))
        spread = np.full(both.size, SEDIMENT.depth_spread)
        return Pairs(f.row[both], np.log(f.depth_m[both]), spread, f.removed[both], f.by[both], BY_EYE)

    def cleanings(self) -> Cleanings | None:
        f, before = self.fleet.flushes, np.nan_to_num(self.fleet.flushes.depth_m)
        at = np.flatnonzero((before > 3 * SEDIMENT.ruler_m) & ~np.isnan(f.depth_after_m))
        if not at.size:
            return None
        after = np.maximum(f.depth_after_m[at], SEDIMENT.ruler_m / 2)
        loose, hardened = (part[self.flush_at[at]] for part in self.history.bed_before)
        whole = sediment.depth_m((loose, hardened), np.ones(at.size))

        def expected(log_odds: float) -> tuple[FloatArray, FloatArray]:
            share = sediment.flush_shares(log_odds)[f.method[at]]
            left = (loose * (1 - share[:, 0]), hardened * (1 - share[:, 1]))
            spread = sediment.left_spread((loose, hardened), share[:, 0], share[:, 1])
            return log_of(sediment.depth_m(left, np.ones(at.size)) / np.maximum(whole, 1e-12)), spread

        return Cleanings(np.log(after / before[at]), np.hypot(_ruled(before[at]), _ruled(after)), expected)

    @property
    def since_service(self) -> FloatArray:
        return self.heaters.age_years - self.history.last_years

    def years_from_service(self, log_theta: FloatArray) -> FloatArray:
        return self._years(self.history.bed_left, log_theta, log_theta)

    def years_to_limit(self, log_level: FloatArray, log_pace: FloatArray) -> FloatArray:
        return self._years(self.history.bed, log_level, log_pace)

    def _years(self, bed: sediment.Bed, log_level: FloatArray, log_pace: FloatArray) -> FloatArray:
        """All divided by the pace, so that only the level needs it."""
        ahead = np.exp(log_level - log_pace)
        scaled = (bed[0][:, None] * ahead, bed[1][:, None] * ahead)
        limit = self.limit_driver[:, None] * np.exp(-log_pace)
        years = sediment.years_to_depth(scaled, self.unit_rate[:, None], self.heaters.floor_m2[:, None], limit)
        return np.minimum(years, REACH_YEARS)

    def ahead(self, years: FloatArray) -> FloatArray:
        bed = (self.history.bed[0][:, None], self.history.bed[1][:, None])
        return sediment.depth_m(sediment.grown(bed, self.unit_rate[:, None], years), self.heaters.floor_m2[:, None])

    def due(self, by_risk: FloatArray, belief: Posterior) -> policy.Due:
        h = self.heaters
        due = policy.flush_due(by_risk, self.since_service, h.longest_flush_years, h.practice, h.hardness_mg_l)
        never, alone = np.full(self.row.size, REACH_YEARS), self.left_alone
        return policy.Due(
            np.where(alone, never, due.years),
            np.where(alone, never, due.latest_years),
            np.where(alone, code(DecidedBy.LEFT_ALONE), due.decided_by),
        )

    @cached_property
    def left_alone(self) -> BoolArray:
        """Whether the tank is old and was never flushed, (n,)."""
        flushed = np.zeros(self.row.size, dtype=bool)
        flushed[self.fleet.flushes.row] = True
        return np.asarray(~flushed & (self.heaters.age_years >= self.heaters.leave_years))

    def coming_year(self, belief: Posterior, due: policy.Due, ends: BoolArray) -> ComingYear:
        known = self.believed(belief)
        bed = (self.history.bed[0][:, None], self.history.bed[1][:, None])
        floor = self.heaters.floor_m2[:, None]
        shares = sediment.flush_shares(self.taught.removal)
        after = (bed[0] * (1 - shares[:, 0]), bed[1] * (1 - shares[:, 1]))
        left = sediment.depth_m(after, floor)
        cleaned = column(known.level).cleaned(
            self.taught.uneven * sediment.left_spread(bed, shares[:, 0], shares[:, 1])
        )
        over_after = self.over(belief, known, left, cleaned)
        unserviced = self.over(belief, known, *self.later(known, YEAR))
        usual = policy.usual_flush(self.heaters.flush_method, self.heaters.practice)
        may_soak = policy.may_soak(self.heaters.has_elements, self.heaters.alloy)
        chosen = policy.flush_method(usual, over_after.T, may_soak, ends)
        rows = np.arange(chosen.size)
        own = (after[0][rows, chosen][:, None], after[1][rows, chosen][:, None])
        later = sediment.depth_m(sediment.grown(own, self.unit_rate[:, None], YEAR[1:]), floor)
        then = column(cleaned.at_column(rows, chosen)).grown(weight(left[rows, chosen][:, None], later))
        serviced = np.concatenate([over_after[rows, chosen][:, None], self.over(belief, known, later, then)], axis=1)
        method = np.where(self.left_alone, code(Method.INSPECT), _AS_METHOD[chosen])
        return ComingYear(method, unserviced, np.where(self.left_alone[:, None], unserviced, serviced))

    def rate(self, log_theta: FloatArray) -> FloatArray:
        return np.asarray(self.unit_rate[:, None] * np.exp(log_theta))

    def state(self, belief: Posterior) -> dict[str, FloatArray]:
        known = self.believed(belief)
        driven = self.told(known, *self.later(known, YEAR[:1]), belief.standing(P10_P50_P90))[:, 0]
        depth = ceiling.bounded(driven, self.ceiling_m[:, None])
        mass = depth / np.maximum(self.ahead(YEAR[:1]), 1e-12)
        loose, hardened = self.history.bed
        return {
            "depth_mm": 1000 * depth,
            "loose_kg": loose[:, None] * mass,
            "hardened_kg": hardened[:, None] * mass,
        }

    def in_a_year(self, belief: Posterior) -> FloatArray:
        known = self.believed(belief)
        driven = self.told(known, *self.later(known, YEAR[-1:]), belief.standing(P10_P50_P90))[:, 0]
        return np.asarray(1000 * ceiling.bounded(driven, self.ceiling_m[:, None]))

    def limit(self) -> tuple[str, FloatArray]:
        return "depth_mm", 1000 * self.heaters.sediment_limit_m

    def log_factors(self) -> dict[str, FloatArray]:
        p, h = SEDIMENT, self.heaters
        plain = sediment.deposit_kg_m3(np.array(p.reference_potential_mg_l), np.array(0.5))
        unsure = sediment.unsure_mg_l(h.hardness_mg_l, h.water_spread)
        at_60 = sediment.deposit_kg_m3(h.potential_60_mg_l, h.suspended_mg_l, unsure)
        here = sediment.deposit_kg_m3(h.potential_mg_l, h.suspended_mg_l, unsure)
        return {
            "usage": np.log(h.volume_m3 / p.reference_volume_m3) + self.by_traits[:, 1],
            "hardness": log_of(at_60) - log_of(plain) + self.by_traits[:, 0],
            "temperature": log_of(here) - log_of(at_60) + self.by_traits[:, 2],
            "recirculation": np.where(h.recirculated, np.log(p.recirculation_factor), 0.0),
            "tank_size": np.log(p.reference_floor_m2 / h.floor_m2),
        }


def plain_rate(h: Heaters) -> FloatArray:
    """What settles in each tank at theta = 1, kg/year, (n,). Source: ``sediment.deposit_kg_m3``."""
    loop = np.where(h.recirculated, SEDIMENT.recirculation_factor, 1.0)
    unsure = sediment.unsure_mg_l(h.hardness_mg_l, h.water_spread)
    return np.asarray(loop * h.volume_m3 * sediment.deposit_kg_m3(h.potential_mg_l, h.suspended_mg_l, unsure))


def _ruled(depth_m: FloatArray) -> FloatArray:
    """Standard deviation of the logarithm of a measured depth: of what is read, and of rounding to the ruler's lines,
    whose error is even (a line over the root of twelve)."""
    return np.hypot(SEDIMENT.depth_spread, SEDIMENT.ruler_m / 12**0.5 / np.maximum(depth_m, SEDIMENT.ruler_m / 2))

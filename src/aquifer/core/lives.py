"""How long tanks last here: the handbook's law of age and stress, corrected by tanks that came into care and left it.

What is corrected: how often all fail, how steeply with age, how much each trait tells, makes, waters, and how far tanks
differ by what nobody sees. A tank counts from when it came into care, not from when it was new: those that had failed
before were never seen. One that still stands, or was replaced, sold or lost sight of, counts as long as it was seen.

Source: proportional hazards with left truncation and right censoring, symptoms as they were known at the time; a normal
prior about the handbook, its posterior at the mode (Laplace); spreads of groups by their expected squares (Fellner and
Schall); the frailty by the marginal likelihood. Textbooks of survival analysis.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.parameters import TANK
from aquifer.core.tank import HANDBOOK, SLOPES, Law

_LEVEL, _SHAPE, _FIRST = 0, 1, 2
"""Places of what is learned: the level, ln of the shape, then one slope a trait."""
SPREADS = np.array([TANK.level_spread, TANK.shape_spread, *TANK.slope_spreads.values()])
"""What is not known of each before anything was seen, standard deviation."""
_ROUNDS, _STEPS, _CLOSE = 4, 20, 1e-4
_TELLS = 0.5
"""By how much, ln of the likelihood, a frailty must fit better than the handbook, which has none. Assumption."""


@dataclass(frozen=True)
class Spans:
    """Time that tanks stood, cut where what they bore changed, each tank's in the order of time; (m,), and by tank
    (t,). What lies before a tank came into care is a span, too: it says how much of its life it had behind it."""

    tank: IntArray
    """Position in the columns by tank, increasing."""
    start: FloatArray
    """Effective age, years."""
    end: FloatArray
    traits: FloatArray
    """(m, traits): as they were known when the span began."""
    in_care: BoolArray
    build: IntArray
    """Of each tank, (t,); -1 is none."""
    zone: IntArray
    leaked: BoolArray
    """Whether its wall gave way at the end of its last span; all other ends say only that it had not."""

    def __post_init__(self) -> None:
        short = np.flatnonzero(self.end < self.start - 1e-9)
        if short.size:
            at = int(self.tank[short[0]])
            raise ValueError(f"tank {at} left care before it came; its end lies after its entry")

    def __len__(self) -> int:
        return int(self.leaked.size)

    def of(self, chosen: BoolArray) -> "Spans":
        """Those of these tanks, (t,)."""
        kept, place = chosen[self.tank], np.cumsum(chosen) - 1
        return Spans(
            place[self.tank[kept]], self.start[kept], self.end[kept], self.traits[kept], self.in_care[kept],
            self.build[chosen], self.zone[chosen], self.leaked[chosen],
        )  # fmt: skip


@dataclass(frozen=True)
class Group:
    """What makes, or waters, add to ln of the hazard."""

    effect: FloatArray
    variance: FloatArray
    """What is not known of each."""
    spread: float = TANK.group_spread
    """How far they differ; of one that was never seen that is all that is known."""

    def of(self, code: IntArray) -> tuple[FloatArray, FloatArray]:
        """Effect and variance of each code, (n,); of one that is not known, -1, nothing but the spread."""
        known = (code >= 0) & (code < self.effect.size)
        at = np.where(known, code, 0)
        unknown = np.full(code.size, self.spread**2)
        if not self.effect.size:
            return np.zeros(code.size), unknown
        return np.where(known, self.effect[at], 0.0), np.where(known, self.variance[at], unknown)


NO_GROUP = Group(np.zeros(0), np.zeros(0))


@dataclass(frozen=True)
class TankLife:
    """What is known of how tanks end here; by default what the handbook says."""

    law: Law = HANDBOOK
    level: float = 0.0
    """ln of how much oftener all fail than the handbook says."""
    slopes: FloatArray = field(default_factory=lambda: np.zeros(SLOPES.size))
    """By how much more each trait tells than the handbook says."""
    covariance: FloatArray = field(default_factory=lambda: np.diag(SPREADS**2))
    """Of level, ln of the shape, and slopes."""
    builds: Group = NO_GROUP
    zones: Group = NO_GROUP
    zone_ids: Mapping[int, int] = field(default_factory=dict)
    """Position in ``zones`` of each zone's name, where zones have names that outlast a fleet."""
    failures: int = 0
    """Of the company's own, behind it."""

    @property
    def level_sd(self) -> float:
        """Standard deviation of what is not known of the level."""
        return float(np.sqrt(self.covariance[_LEVEL, _LEVEL]))

    def log_ratio(self, traits: FloatArray) -> FloatArray:
        """ln of the hazard over an ordinary tank's by the handbook, groups left out, (n,)."""
        return np.asarray(self.level + traits @ (SLOPES + self.slopes))

    def variance(self, traits: FloatArray, effective_years: FloatArray) -> FloatArray:
        """What is not known of ln of the hazard by level, shape and slopes, (n,). Source: the delta method."""
        steeper = 1 + self.law.shape * np.log(np.maximum(effective_years, 0.5) / TANK.life_years)
        by = np.column_stack([np.ones(steeper.size), steeper, traits])
        return np.asarray(np.einsum("ni,ij,nj->n", by, self.covariance, by))


UNLEARNED = TankLife()
"""What the handbook says."""


def together(parts: list[Spans]) -> Spans:
    """The spans of several lots of tanks as one. Zones and builds are counted alike in all of them."""
    before = np.cumsum([0, *(len(part) for part in parts[:-1])])
    columns = {name: np.concatenate([getattr(part, name) for part in parts]) for name in Spans.__dataclass_fields__}
    columns["tank"] = np.concatenate([part.tank + n for part, n in zip(parts, before.tolist(), strict=True)])
    return Spans(**columns)


def learned(spans: Spans, frailties: tuple[float, ...] = TANK.frailties) -> TankLife:
    """What these tanks say of how tanks end here.

    Parameters: variances of what nobody sees, the first of which stands unless another fits better.
    """
    if not len(spans):
        return UNLEARNED
    plain, *others = [_Fit(spans, frailty).found() for frailty in frailties]
    likeliest = max(others, key=lambda fit: fit.evidence, default=plain)
    return (likeliest if likeliest.evidence > plain.evidence + _TELLS else plain).life


@dataclass(frozen=True)
class _Found:
    life: TankLife
    evidence: float
    """ln of the marginal likelihood, but for a constant."""


class _Fit:
    """The likeliest of all that is learned, at one frailty."""

    def __init__(self, spans: Spans, frailty: float) -> None:
        self._spans, self._frailty = spans, frailty
        self._tanks, self._died = len(spans), spans.leaked.astype(np.float64)
        last = np.zeros(self._tanks, dtype=np.int64)
        last[spans.tank] = np.arange(spans.tank.size)
        self._last = last
        self._builds, self._zones = int(spans.build.max()) + 1, int(spans.zone.max()) + 1
        # One more of each for those that have none; it stays at nothing.
        self._build, self._zone = spans.build % (self._builds + 1), spans.zone % (self._zones + 1)
        self._first_zone = SPREADS.size + self._builds + 1
        self._size = self._first_zone + self._zones + 1
        with np.errstate(divide="ignore"):
            self._log_start = np.log(np.maximum(spans.start, 0.0) / TANK.life_years)
            self._log_end = np.log(np.maximum(spans.end, 1e-6) / TANK.life_years)
        self._plain = spans.traits @ SLOPES

    def found(self) -> _Found:
        at, spreads = np.zeros(self._size), (TANK.group_spread, TANK.group_spread)
        for _ in range(_ROUNDS):
            precision = self._precision(*spreads)
            at, information = self._likeliest(at, precision)
            covariance = np.linalg.inv(information)
            variance = np.diag(covariance)
            spreads = (
                _spread(at[self._of_builds], variance[self._of_builds]),
                _spread(at[self._of_zones], variance[self._of_zones]),
            )
        _, volume = np.linalg.slogdet(information)
        evidence = self._likelihood(at, precision) + (np.log(precision).sum() - volume) / 2
        life = TankLife(
            Law(float(TANK.shape * np.exp(at[_SHAPE])), self._frailty),
            float(at[_LEVEL]),
            at[_FIRST : SPREADS.size],
            np.asarray(covariance[: SPREADS.size, : SPREADS.size], dtype=np.float64),
            Group(at[self._of_builds], variance[self._of_builds], spreads[0]),
            Group(at[self._of_zones], variance[self._of_zones], spreads[1]),
            failures=int(self._died.sum()),
        )
        return _Found(life, float(evidence))

    @property
    def _of_builds(self) -> slice:
        return slice(SPREADS.size, self._first_zone - 1)

    @property
    def _of_zones(self) -> slice:
        return slice(self._first_zone, self._size - 1)

    def _precision(self, of_builds: float, of_zones: float) -> FloatArray:
        groups = [np.full(self._builds + 1, of_builds**-2), np.full(self._zones + 1, of_zones**-2)]
        return np.concatenate([SPREADS**-2, *groups])

    def _likeliest(self, at: FloatArray, precision: FloatArray) -> tuple[FloatArray, FloatArray]:
        """By Newton's method with the expected information, each step halved until it is none backwards."""
        now = self._likelihood(at, precision)
        for _ in range(_STEPS):
            gradient, information = self._slope(at)
            gradient, information = gradient - precision * at, information + np.diag(precision)
            step = np.linalg.solve(information, gradient)
            share = 1.0
            while (then := self._likelihood(at + share * step, precision)) < now - 1e-9 and share > 1e-3:
                share /= 2
            at, now = at + share * step, then
            if np.abs(share * step).max() < _CLOSE:
                break
        return at, information

    def _hazards(self, at: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
        """ln of the ratio of each span, its hazard, and how that goes with ln of the shape."""
        s, shape = self._spans, TANK.shape * np.exp(at[_SHAPE])
        groups = at[SPREADS.size :][self._build] + at[self._first_zone :][self._zone]
        ratio = self._plain + at[_LEVEL] + s.traits @ at[_FIRST : SPREADS.size] + groups[s.tank]
        times = np.exp(np.minimum(ratio, 50.0))
        before, after = np.exp(shape * self._log_start), np.exp(shape * self._log_end)
        steeper = after * self._log_end - np.where(before > 0, before * np.maximum(self._log_start, -1e6), 0.0)
        return ratio, times * (after - before), shape * times * steeper

    def _lived(self, hazards: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Of each tank, until its end and until it came into care, (t,)."""
        s = self._spans
        before = np.bincount(s.tank, np.where(s.in_care, 0.0, hazards), self._tanks)
        until_end = np.bincount(s.tank, hazards, self._tanks)
        return np.asarray(until_end, dtype=np.float64), np.asarray(before, dtype=np.float64)

    def _likelihood(self, at: FloatArray, precision: FloatArray) -> float:
        ratio, hazards, _ = self._hazards(at)
        until_end, until_care = self._lived(hazards)
        shape, v = TANK.shape * np.exp(at[_SHAPE]), self._frailty
        of_end = ratio[self._last] + np.log(shape) + shape * self._log_end[self._last]
        if v:
            lived = (np.log1p(v * until_end) - np.log1p(v * until_care)) / v
            of_end = of_end - np.log1p(v * until_end)
        else:
            lived = until_end - until_care
        return float((self._died * of_end).sum() - lived.sum() - (precision * at * at).sum() / 2)

    def _slope(self, at: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Gradient of the likelihood, and its information."""
        s, v, died = self._spans, self._frailty, self._died
        _, hazards, steeper = self._hazards(at)
        until_end, until_care = self._lived(hazards)
        # What is expected of each tank's weakness, given that it stood so long.
        weak_at_end, weak_at_care = (1 + v * died) / (1 + v * until_end), 1 / (1 + v * until_care)
        weight = weak_at_end[s.tank] - np.where(s.in_care, 0.0, weak_at_care[s.tank])
        shape = TANK.shape * np.exp(at[_SHAPE])
        gradient = np.zeros(self._size)
        ones = np.ones((s.tank.size, 1))
        plain = np.hstack([ones, s.traits])
        places = [_LEVEL, *range(_FIRST, SPREADS.size)]
        gradient[places] = plain[self._last].T @ died - plain.T @ (weight * hazards)
        gradient[_SHAPE] = (died * (1 + shape * self._log_end[self._last])).sum() - (weight * steeper).sum()
        on = np.bincount(s.tank, weight * hazards, self._tanks)
        gradient[SPREADS.size : self._first_zone] = np.bincount(self._build, died - on, self._builds + 1)
        gradient[self._first_zone :] = np.bincount(self._zone, died - on, self._zones + 1)
        return gradient, self._information(hazards, steeper, until_end)

    def _information(self, hazards: FloatArray, steeper: FloatArray, until_end: FloatArray) -> FloatArray:
        s = self._spans
        worth = np.where(s.in_care, hazards / (1 + self._frailty * until_end[s.tank]), 0.0)
        by = np.hstack([np.ones((worth.size, 1)), (steeper / np.maximum(hazards, 1e-300))[:, None], s.traits])
        told = np.zeros((self._size, self._size))
        told[: SPREADS.size, : SPREADS.size] = by.T @ (by * worth[:, None])
        of_tank = np.bincount(s.tank, worth, self._tanks)
        weighed = np.column_stack([np.bincount(s.tank, worth * column, self._tanks) for column in by.T])
        groups = np.concatenate([self._build + SPREADS.size, self._zone + self._first_zone])
        for column, values in enumerate(weighed.T):
            told[column, SPREADS.size :] = np.bincount(groups, np.tile(values, 2), self._size)[SPREADS.size :]
        told[SPREADS.size :, : SPREADS.size] = told[: SPREADS.size, SPREADS.size :].T
        index = np.arange(SPREADS.size, self._size)
        told[index, index] = np.bincount(groups, np.tile(of_tank, 2), self._size)[SPREADS.size :]
        np.add.at(told, (self._build + SPREADS.size, self._zone + self._first_zone), of_tank)
        np.add.at(told, (self._zone + self._first_zone, self._build + SPREADS.size), of_tank)
        return told


def _spread(effect: FloatArray, variance: FloatArray) -> float:
    """How far groups differ, by what was found of them and what is not known of it."""
    squares = float((effect**2 + variance).sum()) + TANK.group_weight * TANK.group_spread**2
    return float(np.sqrt(squares / (effect.size + TANK.group_weight)))

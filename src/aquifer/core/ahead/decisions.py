"""What may be tried on the years ahead, and what it changes of a base."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from aquifer.core.ahead.luck import GOLDEN
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.assembly import KnownHeaters
from aquifer.core.vocabulary import FlushMethod, Practice, code
from aquifer.core.water import WaterProfile


class DecisionKind(StrEnum):
    PRACTICE = "practice"
    """When to clean, everywhere or on one water."""
    TOLERANCE = "tolerance"
    METHOD = "method"
    CREW = "crew"
    """So many technicians more or fewer."""
    SOFTENERS = "softeners"
    """Offered where the water is harder than so much, taken by a share."""
    REPLACE = "replace"
    """So many of the likeliest to fail, now."""
    PRICES = "prices"
    """All prices and plans by a factor."""
    WATER = "water"
    """A supply's hardness by a factor."""
    TAKE_OVER = "take_over"
    """So many heaters like the base's, today."""


@dataclass(frozen=True)
class Range:
    low: float
    high: float


ALLOWED: dict[DecisionKind, Range | None] = {
    DecisionKind.PRACTICE: None,
    DecisionKind.TOLERANCE: Range(0.01, 0.99),
    DecisionKind.METHOD: None,
    DecisionKind.CREW: Range(-50, 50),
    DecisionKind.SOFTENERS: Range(0, 1000),
    DecisionKind.REPLACE: Range(1, 100_000),
    DecisionKind.PRICES: Range(0.2, 5.0),
    DecisionKind.WATER: Range(0.1, 5.0),
    DecisionKind.TAKE_OVER: Range(1, 1_000_000),
}
"""What value each may have, None of one that has none. Assumption: what a company may mean in earnest."""


@dataclass(frozen=True)
class Decision:
    kind: DecisionKind
    value: float = 0.0
    """Of a tolerance, a share; of softeners, the hardness above which, mg/L; else a number or a factor."""
    word: str = ""
    """The practice, or the method."""
    zone: int | None = None
    """By the fleet's number of it; None is everywhere."""
    share: float = 1.0
    """Of those who are offered a softener, who take it."""


@dataclass(frozen=True)
class Tried:
    """What is known of heaters under some decisions."""

    known: KnownHeaters
    """With the practice that is tried; as the past was."""
    to_come: KnownHeaters
    """With the softeners that they will have besides."""
    waters: list[WaterProfile]
    """As they will be; those of the past are the caller's."""
    softened: BoolArray
    """Which get a softener, (n,)."""


def tried(
    known: KnownHeaters,
    waters: list[WaterProfile],
    site: IntArray,
    decisions: Sequence[Decision],
) -> Tried:
    """What decisions change of heaters and their waters; what they change of crew, prices and numbers is the caller's.

    Parameters: known, (n,) columns; site, of each, by a number that stays; decisions, in their order.
    Raises: ValueError for a word that names no practice or method.
    """
    to_come = waters
    softened = np.zeros(known.kind.size, dtype=bool)
    for one in decisions:
        here = np.ones(known.kind.size, dtype=bool) if one.zone is None else known.zone == one.zone
        if one.kind is DecisionKind.PRACTICE:
            known = replace(known, practice=np.where(here, code(Practice(one.word)), known.practice))
        elif one.kind is DecisionKind.TOLERANCE:
            known = replace(known, tolerance=np.where(here, one.value, known.tolerance))
        elif one.kind is DecisionKind.METHOD:
            known = replace(known, flush_method=np.where(here, code(FlushMethod(one.word)), known.flush_method))
        elif one.kind is DecisionKind.SOFTENERS:
            hardness = np.array([water.analysis.total_hardness_mg_l for water in waters])[known.water]
            softened |= here & ~known.softened & (hardness > one.value) & ((site * GOLDEN) % 1.0 < one.share)
        elif one.kind is DecisionKind.WATER:
            harder = set(np.unique(known.water[here]).tolist())
            to_come = [_harder(water, one.value) if n in harder else water for n, water in enumerate(to_come)]
    return Tried(known, replace(known, softened=known.softened | softened), to_come, softened)


def worst(probability: FloatArray, number: int) -> BoolArray:
    """Which are the likeliest to fail, so many of them at most; (n,). NaN is what has no tank."""
    chosen = np.zeros(probability.size, dtype=bool)
    order = np.argsort(-np.nan_to_num(probability, nan=-1.0), kind="stable")[: max(number, 0)]
    chosen[order] = ~np.isnan(probability[order])
    return chosen


def _harder(water: WaterProfile, factor: float) -> WaterProfile:
    """The same water with more or less hardness, its alkalinity in proportion. Source: dilution, assumption."""
    was = water.analysis
    harder = replace(
        was,
        total_hardness_mg_l=was.total_hardness_mg_l * factor,
        calcium_hardness_mg_l=was.calcium_hardness_mg_l * factor,
        alkalinity_mg_l=was.alkalinity_mg_l * factor,
    )
    return replace(water, analysis=harder)

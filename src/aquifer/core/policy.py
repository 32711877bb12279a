"""When a service is due: the risk that the company accepts, its practice, and caps that nothing lengthens.

Times are years from today; a past date is negative, so that an overdue service says since when.
"""

from dataclasses import dataclass

import numpy as np

from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.parameters import ANODE, EXPANSION_TANK, RELIEF_VALVE
from aquifer.core.vocabulary import Alloy, DecidedBy, FlushMethod, Practice, code

SHORTEST_FLUSH_YEARS = 0.25
"""Least time between two flushes: more often is not a flush's business but a softener's. Assumption."""
HALF_YEARLY_ABOVE_MG_L = 180.0
"""Hardness from which the half-yearly practice applies. Trade practice: 'very hard'."""
LONG_SERVICE_YEARS = 4.5
"""Full service with jetting and rods in the fourth or fifth year. Trade practice."""


@dataclass(frozen=True)
class Defaults:
    """What a company follows until it says otherwise. Each is a setting."""

    practice: Practice = Practice.CONDITION
    flush_method: FlushMethod = FlushMethod.DRAIN_AND_PULSE
    tolerance: float = 0.2
    """Accepted probability of being over the limit at the due date. Assumption."""
    longest_flush_months: int = 36
    """Assumption: nobody leaves a tank unopened for longer under condition-based practice."""
    valve_target: float = 0.015
    """Accepted average probability that a relief valve is stuck when needed. Assumption."""
    never_flushed_cutoff_years: float = 6.0
    """From this age a tank that was never flushed is better left alone. Trade practice differs from 3 to 10."""


DEFAULTS = Defaults()


@dataclass(frozen=True)
class Due:
    """When, at the latest, and what decided it; arrays of shape (n,)."""

    years: FloatArray
    latest_years: FloatArray
    decided_by: IntArray


def flush_due(
    by_risk: FloatArray,
    since_last: FloatArray,
    longest: FloatArray,
    practice: IntArray,
    hardness_mg_l: FloatArray,
) -> Due:
    """When to flush or descale.

    Parameters, (n,): by_risk, years until the accepted risk is reached; since_last service or installation, years;
    longest, the cap in years; practice, codes; hardness, mg/L.
    Returns: by condition, the risk's date within [a quarter after the last, the cap]; by calendar, the practice's date.
    """
    cap = longest - since_last
    earliest = SHORTEST_FLUSH_YEARS - since_last
    by_risk = np.maximum(np.maximum(by_risk, earliest), 0.0)
    by_condition = np.minimum(by_risk, cap)
    interval = calendar_years(practice, hardness_mg_l)
    by_calendar = ~np.isnan(interval)
    years = np.where(by_calendar, interval - since_last, by_condition)
    decided = np.where(
        by_calendar,
        code(DecidedBy.PRACTICE),
        np.where(cap <= by_risk, code(DecidedBy.CAP), code(DecidedBy.TOLERANCE)),
    )
    return Due(years, np.where(by_calendar, years, np.maximum(cap, years)), decided)


def calendar_years(practice: IntArray, hardness_mg_l: FloatArray) -> FloatArray:
    """Years from a flush to the next by each practice's calendar, (n,); NaN for the one that goes by condition.

    Source: trade practice; half-yearly where the water is very hard.
    """
    half_yearly = np.where(hardness_mg_l > HALF_YEARLY_ABOVE_MG_L, 0.5, 1.0)
    one = np.ones(practice.shape)
    intervals = {
        Practice.ANNUAL: one,
        Practice.HARD_WATER_HALF_YEARLY: half_yearly,
        Practice.LONG_SERVICE: LONG_SERVICE_YEARS * one,
    }
    is_of = [practice == code(each) for each in intervals]
    return np.asarray(np.select(is_of, list(intervals.values()), np.nan))


def rod_due(by_risk: FloatArray, tank_age: FloatArray, since_look: FloatArray) -> Due:
    """When to look at the rod.

    Parameters, (n,): by_risk, years until bare wire at the accepted risk; tank_age, years; since_look, years since a
    rod of this tank was seen or renewed, NaN if nobody ever looked.
    Returns: the risk's date, but a first look when the tank is a year old and never five years unseen.
    """
    seen = ~np.isnan(since_look)
    cap = np.where(seen, ANODE.longest_unseen_years - since_look, ANODE.first_look_years - tank_age)
    by_risk = np.maximum(by_risk, 0.0)
    decided = np.where(cap <= by_risk, code(DecidedBy.CAP), code(DecidedBy.TOLERANCE))
    return Due(np.minimum(by_risk, cap), cap, decided)


def valve_due(interval: FloatArray, since_run: FloatArray, valve_age: FloatArray, condemned: BoolArray) -> Due:
    """When to exercise the relief valve: at the proof interval, at most 12 months after it last ran, at once where a
    finding condemned it. Parameters, (n,): years; years; years; whether it stuck or wept last time."""
    cap = RELIEF_VALVE.cap_years - since_run
    by_risk = interval - since_run
    years = np.where(condemned, np.minimum(0.0, cap), np.minimum(by_risk, cap))
    decided = np.where(
        condemned, code(DecidedBy.FINDING), np.where(cap <= by_risk, code(DecidedBy.CAP), code(DecidedBy.TOLERANCE))
    )
    return Due(years, np.where(condemned, years, cap), decided)


ESCALATION = (FlushMethod.JETTING, FlushMethod.ACID_SOAK)
"""What is proposed, in this order, where the company's flush leaves the tank over its limit."""


def usual_flush(company: IntArray, practice: IntArray) -> IntArray:
    """The flush a heater gets unless it needs a stronger one, positions in ``FlushMethod``, (n,): the company's, or
    jetting under the long service, which is built around it."""
    return np.where(practice == code(Practice.LONG_SERVICE), code(FlushMethod.JETTING), company)


def flush_method(usual: IntArray, over_after: FloatArray, may_soak: BoolArray, ends: BoolArray) -> IntArray:
    """The flush to propose: the usual one unless the tank would more likely than not stay over its limit.

    Parameters: usual, codes (n,); over_after, the probability of being over the limit right after each method,
    (methods, n); may_soak, whether acid may go into the tank; ends, whether it is to be replaced: no labour is put into
    such a one. Returns: positions in ``FlushMethod``, (n,).
    """
    rows = np.arange(usual.size)
    chosen = usual
    for stronger in ESCALATION:
        stays = over_after[chosen, rows]
        may = may_soak if stronger is FlushMethod.ACID_SOAK else np.ones(usual.size, dtype=bool)
        better = may & ~ends & (stays > 0.5) & (over_after[code(stronger)] < stays)
        chosen = np.where(better, code(stronger), chosen)
    return chosen


def may_soak(has_elements: BoolArray, alloy: IntArray) -> BoolArray:
    """Whether acid may go into a tank unasked, (n,): it eats elements and aluminium rods. Source: trade practice."""
    aluminium = np.isin(alloy, [code(Alloy.ALUMINIUM), code(Alloy.ALUMINIUM_ZINC)])
    return np.asarray(~has_elements & ~aluminium)


def expansion_tank_due(since_check: FloatArray, by_risk: FloatArray, condemned: BoolArray) -> Due:
    """When to check an expansion tank: at the accepted risk, at most 12 months after the last check, at once where a
    finding condemned it. Parameters, (n,): years; years; whether water came out of its air valve."""
    cap = EXPANSION_TANK.cap_years - since_check
    years = np.where(condemned, np.minimum(0.0, cap), np.minimum(np.maximum(by_risk, 0.0), cap))
    decided = np.where(
        condemned, code(DecidedBy.FINDING), np.where(cap <= by_risk, code(DecidedBy.CAP), code(DecidedBy.TOLERANCE))
    )
    return Due(years, np.where(condemned, years, cap), decided)

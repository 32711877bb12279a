"""One pass over a fleet: findings to rates, rates to dates, dates to what to do and why."""

import datetime
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aquifer.core import components, learning
from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.components import Growing
from aquifer.core.fleet import Fleet
from aquifer.core.parameters import DAYS_PER_YEAR, HORIZON_YEARS
from aquifer.core.vocabulary import Component, Method

PROBABILITIES = np.array([0.02, 0.10, 0.25, 0.50, 0.75, 0.90, 0.98])
"""Of the quantiles that draw a window; the second, middle and sixth are P10, P50 and P90."""
P10_P50_P90 = np.array([0.10, 0.50, 0.90])
_QUARTERS = np.linspace(0.0, 1.0, 5)
REASON_HORIZON_YEARS = 10.0
"""A factor's days are counted between dates no further off than this: beyond, they mean nothing to a planner."""
LEARNED_FACTORS = ("neighbours", "findings")
"""The learned factors: what the rest of the supply says, and what this heater's own findings say."""


@dataclass(frozen=True)
class ComponentForecast:
    """One component of k heaters. Times in years from today; arrays of shape (k,) or (k, q)."""

    component: Component
    row: IntArray
    """Which heaters of the fleet."""
    reached_years: FloatArray
    """Quantiles of the time the limit is reached without service, at ``PROBABILITIES``."""
    due_years: FloatArray
    latest_years: FloatArray
    decided_by: IntArray
    method: IntArray
    """Position in ``Method``."""
    probability_today: FloatArray
    """Of being over the limit now; for a relief valve, of being stuck."""
    benefit: FloatArray
    """Expected share of the coming 12 months over the limit without the service, minus with it."""
    over_after_service: FloatArray
    unit: str
    rate: FloatArray
    """At P10, P50, P90."""
    state: dict[str, FloatArray]
    """Each at P10, P50, P90."""
    limit_name: str
    limit: FloatArray
    factors: tuple[str, ...]
    log_factors: FloatArray
    """ln of each factor of the rate over a plain heater's, (k, f)."""
    factor_days: FloatArray
    """By how many days each factor moves the date; negative is sooner."""
    log_theta: FloatArray
    """Mean of the learned log rate."""
    log_theta_sd: FloatArray


def forecast(fleet: Fleet, priors: dict[Component, learning.Prior] | None = None) -> list[ComponentForecast]:
    """Forecast every component of every heater.

    Parameters: fleet; priors, for components whose prior is given for each heater of the fleet, arrays of shape (n,);
    without one, a heater learns from its zone's others.
    Returns: one entry a component that occurs.
    """
    given = priors or {}
    return [_forecast(component, given.get(component.name)) for component in components.of(fleet)]


def _forecast(component: Growing, prior: learning.Prior | None) -> ComponentForecast:
    h = component.heaters
    n = component.row.size
    likelihood = learning.log_likelihood(component.evidence(), n)
    if prior is not None:
        own = learning.Prior(prior.mean[component.row], prior.spread[component.row])
        belief = learning.with_prior(likelihood, own)
    else:
        pool = learning.Pool(h.zone, h.zones, h.zone_spread, h.heater_spread)
        belief = learning.pooled(likelihood, pool)

    # The limit is reached sooner at a higher rate, so a late quantile of time is a low one of rate.
    future = belief.quantiles(1 - PROBABILITIES)
    accepted = _at_tolerance(belief, h.tolerance)
    since = component.since_service
    interval = component.years_from_service(accepted[:, None])[:, 0]
    by_risk = interval - since
    due = component.due(by_risk, belief)
    method = component.method(belief)
    now = component.over_limit(belief, np.zeros(1), None)[:, 0]
    unserviced = component.over_limit(belief, _QUARTERS, None)
    serviced = np.zeros_like(unserviced)
    for chosen in np.unique(method):
        with_it = component.over_limit(belief, _QUARTERS, list(Method)[chosen])
        serviced[method == chosen] = with_it[method == chosen]
    past = belief.quantiles_of_past(P10_P50_P90)

    factors = component.log_factors()
    factors[LEARNED_FACTORS[0]] = belief.zone_mean
    factors[LEARNED_FACTORS[1]] = belief.mean - belief.zone_mean
    log_factors = np.stack(list(factors.values()), axis=1)
    without = component.years_from_service(accepted[:, None] - log_factors)
    shift = np.minimum(interval, REASON_HORIZON_YEARS)[:, None] - np.minimum(without, REASON_HORIZON_YEARS)

    limit_name, limit = component.limit()
    return ComponentForecast(
        component=component.name,
        row=component.row,
        reached_years=np.maximum(component.years_from_service(future) - since[:, None], 0.0),
        due_years=due.years,
        latest_years=due.latest_years,
        decided_by=due.decided_by,
        method=method,
        probability_today=now,
        benefit=np.maximum(_mean_over_year(unserviced) - _mean_over_year(serviced), 0.0),
        over_after_service=serviced[:, 0],
        unit=component.unit,
        rate=component.rate(past),
        state=component.state(past),
        limit_name=limit_name,
        limit=limit,
        factors=tuple(factors),
        log_factors=log_factors,
        factor_days=shift * DAYS_PER_YEAR,
        log_theta=belief.mean,
        log_theta_sd=belief.sd,
    )


def _at_tolerance(belief: learning.Posterior, tolerance: FloatArray) -> FloatArray:
    """The log rate exceeded with probability ``tolerance``, (n,); few different tolerances occur."""
    different, position = np.unique(tolerance, return_inverse=True)
    return np.asarray(belief.quantiles(1 - different)[np.arange(position.size), position])


def _mean_over_year(quarterly: FloatArray) -> FloatArray:
    return np.asarray(np.trapezoid(quarterly, _QUARTERS, axis=1))


def dates(as_of: datetime.date, years: FloatArray) -> NDArray[np.datetime64]:
    """Dates ``years`` from ``as_of``, to the day; NaT beyond the horizon of 30 years."""
    days = np.rint(np.nan_to_num(years, nan=np.inf, posinf=1e6) * DAYS_PER_YEAR)
    within = days <= HORIZON_YEARS * DAYS_PER_YEAR
    day = np.datetime64(as_of, "D") + np.where(within, days, 0).astype("timedelta64[D]")
    return np.where(within, day, np.datetime64("NaT", "D"))


def years_between(start: datetime.date, end: datetime.date) -> float:
    """Years of 365.25 days from ``start`` to ``end``."""
    return (end - start).days / DAYS_PER_YEAR

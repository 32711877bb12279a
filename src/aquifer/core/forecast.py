"""One pass over a fleet: findings to rates, rates to dates, dates to what to do and why."""

import datetime
from collections.abc import Mapping
from dataclasses import dataclass, field, fields, replace

import numpy as np
from numpy.typing import NDArray

from aquifer.core import components, learning, policy
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.components import AnodeComponent, Deposit, ExpansionTankComponent, Growing, TankComponent, Wear
from aquifer.core.components.growing import P10_P50_P90
from aquifer.core.fleet import Fleet
from aquifer.core.learning import ComponentCalibration, Pairs, Posterior, ZoneBelief
from aquifer.core.lives import Spans
from aquifer.core.parameters import DAYS_PER_YEAR, HORIZON_YEARS
from aquifer.core.vocabulary import Component, DecidedBy, Method, code

PROBABILITIES = np.array([0.02, 0.10, 0.25, 0.50, 0.75, 0.90, 0.98])
"""Of the quantiles that draw a window; the second, middle and sixth are P10, P50 and P90."""
_SIMPSON = np.array([1.0, 4.0, 1.0]) / 6
REASON_HORIZON_YEARS = 10.0
"""A factor's days are counted between dates no further off than this: beyond, they mean nothing to a planner."""
LEARNED_FACTORS = ("neighbours", "cohort", "findings")
"""The learned factors: what the rest of the base and the supply say, what others of its build say, and its own
findings."""


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
    state_in_a_year: FloatArray
    """The first figure of the state in 12 months if nothing is done, at P10, P50, P90."""
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

    def at(self, rows: IntArray) -> "ComponentForecast":
        """The forecasts at these positions."""
        chosen = {
            f.name: getattr(self, f.name)[rows] for f in fields(self) if isinstance(getattr(self, f.name), np.ndarray)
        }
        return replace(self, **chosen, state={name: values[rows] for name, values in self.state.items()})


@dataclass(frozen=True)
class Context:
    """What the forecast takes as known besides the fleet itself."""

    calibration: Mapping[Component, ComponentCalibration] = field(default_factory=dict)
    priors: Mapping[Component, learning.Prior] = field(default_factory=dict)
    """Of each heater, where its zone's others are not at hand; arrays of shape (n,)."""
    zones: Mapping[Component, ZoneBelief] = field(default_factory=dict)
    """What was learned of the zones before, for a few heaters out of them."""
    prior_evidence: Fleet | None = None
    """Those heaters with the findings that went into ``zones``."""


@dataclass(frozen=True)
class FleetForecast:
    components: list[ComponentForecast]
    zones: dict[Component, ZoneBelief]
    """What the fleet's findings say of its zones; zones by their numbers in the fleet."""

    def of(self, component: Component) -> ComponentForecast | None:
        """A component's forecast, None if no heater of the fleet has one."""
        return next((forecast for forecast in self.components if forecast.component is component), None)


NOTHING = Context()


def forecast(fleet: Fleet, context: Context = NOTHING) -> FleetForecast:
    """Forecast every component of every heater.

    Parameters: fleet; context, what the base taught before. Without it a heater learns from its zone's others.
    Returns: one entry a component that occurs, and what was learned of the zones.
    """
    zones: dict[Component, ZoneBelief] = {}
    before = components.growing_before(context.prior_evidence, fleet) if context.prior_evidence is not None else []
    known_before = {one.name: one for one in before}
    rods: AnodeComponent | None = None
    wear: Wear | None = None
    believed: list[tuple[Growing, Posterior]] = []
    for one in components.growing(fleet):
        component = one.informed(context.calibration.get(one.name, ComponentCalibration()))
        belief, zone = _believed(component, known_before.get(component.name), context)
        if zone is not None:
            zones[component.name] = zone
        believed.append((component, belief))
        if isinstance(component, AnodeComponent):
            rods, wear = component, Wear(belief.mean, belief.sd)
    tank = TankComponent.of(fleet, rods, wear, context.calibration.get(Component.TANK, ComponentCalibration()).life)
    # What is done to a heater hangs on whether it stays.
    ends = np.zeros(len(fleet.heaters), dtype=bool)
    ends[tank.row] = tank.ends()
    forecasts = []
    for component, belief in believed:
        level = context.calibration.get(component.name, ComponentCalibration()).level
        forecasts.append(_forecast(component, belief, level, ends[component.row]))
    if tank.row.size:
        forecasts.append(_tank_forecast(tank))
    return FleetForecast(forecasts, zones)


def learners(component: Growing, fleet: Fleet) -> "learning.calibration.Learners":
    """The heaters of a component as those whose findings calibrate it."""
    h = component.heaters
    return learning.calibration.Learners(
        component.evidence(),
        component.pairs(),
        h.age_years,
        h.household_years,
        h.zone,
        h.cohort,
        component.zone_spread,
        component.heater_spread,
        component.future_spread,
        fleet.graders,
        fleet.cohorts,
        *(
            (component.strayed, component.taught.removal, component.taught.uneven, component.taught.slopes)
            if isinstance(component, Deposit)
            else ()
        ),
    )


MOST_LEARNERS = 20_000
"""Heaters that calibrate the whole base: more change no figure that is shown."""


def calibrate(fleet: Fleet, practised: Pairs | None = None) -> dict[Component, ComponentCalibration]:
    """What a fleet teaches of each component; the first zones, where it is larger than ``MOST_LEARNERS``. What was
    checked is told by the rows of the fleet. Parameters: practised, looks at deposit in practice, which tell of eyes
    before the first bucket (``components.sediment.practised``)."""
    chosen = np.arange(len(fleet.heaters))
    if len(fleet.heaters) > MOST_LEARNERS:
        chosen = next(fleet.partitions(MOST_LEARNERS))
        fleet = fleet.at(chosen)
    found = {}
    for component in components.growing(fleet):
        one = component.informed(_cleaned(component))
        if isinstance(one, Deposit):
            one = one.informed(replace(one.taught, slopes=learning.slopes(learners(one, fleet), one.traits)))
        those = learners(one, fleet)
        if practised is not None and practised.by.size and one.name is Component.SEDIMENT and those.pairs is not None:
            those = replace(those, pairs=learning.together(those.pairs, practised))
        taught = learning.calibrated(those)
        if taught.checked is not None:
            taught = replace(taught, checked=replace(taught.checked, row=chosen[one.row[taught.checked.row]]))
        found[one.name] = taught
    return found


def _cleaned(component: Growing) -> ComponentCalibration:
    """What measurements before and after cleanings teach; everything else of a component hangs on it."""
    cleanings = component.cleanings() if isinstance(component, Deposit) else None
    if cleanings is None:
        return ComponentCalibration()
    removed, uneven = learning.removal(cleanings)
    return ComponentCalibration(removal=round(removed, 2), uneven=round(uneven, 2))


def life_spans(fleet: Fleet, context: Context, entry: FloatArray, exit_: FloatArray, leaked: BoolArray) -> Spans:
    """What a fleet's tanks lived through, as ``lives.learned`` takes it.

    Parameters, (n,) by heater: given, what the base taught of its rods; ages at which each came into care and left it,
    or its age now, years; whether its wall gave way.
    """
    rods: AnodeComponent | None = None
    wear: Wear | None = None
    for one in components.growing(fleet):
        if isinstance(one, AnodeComponent):
            belief, _ = _believed(one, None, context)
            rods, wear = one, Wear(belief.mean, belief.sd)
    tank = TankComponent.of(fleet, rods, wear)
    return tank.spans(np.minimum(entry, exit_)[tank.row], exit_[tank.row], leaked[tank.row])


def narrowed_by_reading(fleet: Fleet, context: Context) -> FloatArray:
    """How much of what is not known of the date of its flush or descale a reading today would leave of each heater,
    (n,), 0 to 1; 1 if it has neither. Source: ``Deposit.narrowing``."""
    left = np.ones(len(fleet.heaters))
    for one in components.growing(fleet):
        if isinstance(one, Deposit):
            component = one.informed(context.calibration.get(one.name, ComponentCalibration()))
            left[one.row] = np.minimum(left[one.row], component.narrowing(_believed(component, None, context)[0]))
    return left


def default_spread(component: Component, fleet: Fleet) -> float:
    """Standard deviation of the log rate of the first heater that has the component, before any finding; 1 if none."""
    for one in components.growing(fleet):
        if one.name is component:
            return float(np.hypot(one.zone_spread[0], one.heater_spread[0]))
    return 1.0


def _believed(component: Growing, before: Growing | None, context: Context) -> tuple[Posterior, ZoneBelief | None]:
    """What is believed of each heater's log rate."""
    h = component.heaters
    calibration = context.calibration.get(component.name, ComponentCalibration())
    standpoint = calibration.standpoint(h.age_years, h.household_years, h.cohort)
    likelihood = learning.log_likelihood(component.evidence(), standpoint)
    pool = calibration.pool(h.zone, component.zone_spread, component.heater_spread)
    future, zone = calibration.future_spread or component.future_spread, None
    if component.name in context.priors:
        prior = context.priors[component.name]
        own = learning.Prior(prior.mean[component.row], prior.spread[component.row])
        belief = learning.with_prior(likelihood, own, future)
    elif component.name in context.zones:
        # Where nothing new was found, what was is all there is.
        evidence = np.zeros_like(likelihood) if context.prior_evidence is None else likelihood
        if before is not None:
            evidence = learning.log_likelihood(before.informed(calibration).evidence(), standpoint)
        belief = learning.with_zone(likelihood, evidence, context.zones[component.name], pool, future)
    else:
        belief, zone = learning.pooled(likelihood, pool, future)
    shift = 0.0 if standpoint.shift is None else standpoint.shift
    return replace(belief, shift=shift + calibration.shift), zone


def _forecast(component: Growing, belief: Posterior, level: float, ends: BoolArray) -> ComponentForecast:
    h = component.heaters
    since = component.since_service
    factors = component.log_factors()
    neighbours = belief.zone_mean + level
    cohort = np.broadcast_to(np.asarray(belief.shift - level, dtype=np.float64), since.shape)
    factors[LEARNED_FACTORS[0]] = neighbours
    factors[LEARNED_FACTORS[1]] = cohort
    factors[LEARNED_FACTORS[2]] = belief.mean - neighbours - cohort
    log_factors = np.stack(list(factors.values()), axis=1)

    # The limit is reached sooner at a higher rate, so a late quantile of time is a low one of rate.
    dates = component.dates(belief, 1 - PROBABILITIES, 1 - h.tolerance, log_factors)
    window, accepted = dates.window, dates.accepted
    soon = np.minimum(accepted[:, None] + since[:, None], REASON_HORIZON_YEARS)
    shift = soon - np.minimum(dates.without + since[:, None], REASON_HORIZON_YEARS)

    if isinstance(component, ExpansionTankComponent):
        window, at = np.split(_with_bladder(component, belief), [PROBABILITIES.size], axis=1)
        accepted = at[:, 0]
    due = component.due(accepted, belief)
    year = component.coming_year(belief, due, ends)
    limit_name, limit = component.limit()
    return ComponentForecast(
        component=component.name,
        row=component.row,
        reached_years=np.maximum(window, 0.0),
        due_years=due.years,
        latest_years=due.latest_years,
        decided_by=due.decided_by,
        method=year.method,
        probability_today=year.unserviced[:, 0],
        benefit=np.maximum((year.unserviced - year.serviced) @ _SIMPSON, 0.0),
        over_after_service=year.serviced[:, 0],
        unit=component.unit,
        rate=component.rate(belief.quantiles_of_past(P10_P50_P90)),
        state=component.state(belief),
        state_in_a_year=component.in_a_year(belief),
        limit_name=limit_name,
        limit=limit,
        factors=tuple(factors),
        log_factors=log_factors,
        factor_days=shift * DAYS_PER_YEAR,
        log_theta=belief.mean,
        log_theta_sd=belief.sd,
    )


def _with_bladder(expansion_tank: ExpansionTankComponent, belief: Posterior) -> FloatArray:
    """Years from today at which the first of two failures, the charge's and the bladder's, is as likely as each of
    ``PROBABILITIES`` and then the accepted risk, (n, q + 1). Source: P(neither by t) as a product, on a table."""
    times = np.concatenate([[0.0], np.geomspace(0.05, components.REACH_YEARS, 40)])
    failed = np.maximum.accumulate(
        expansion_tank.failed(belief, np.broadcast_to(times, (expansion_tank.row.size, times.size))), axis=1
    )
    wanted = np.concatenate([PROBABILITIES, [policy.DEFAULTS.tolerance]])
    return np.stack([_first_at(failed, times, float(p)) for p in wanted], axis=1)


def _first_at(cumulative: FloatArray, times: FloatArray, probability: float) -> FloatArray:
    """Where each row's cumulative probability first reaches ``probability``, linear between ``times``; (n,)."""
    reached = cumulative >= probability
    upper = np.where(reached.any(axis=1), reached.argmax(axis=1), times.size - 1)
    lower = np.maximum(upper - 1, 0)
    rows = np.arange(upper.size)
    below, above = cumulative[rows, lower], cumulative[rows, upper]
    share = np.clip((probability - below) / np.maximum(above - below, 1e-12), 0.0, 1.0)
    return np.where(upper == 0, 0.0, times[lower] + share * (times[upper] - times[lower]))


def _tank_forecast(tank: TankComponent) -> ComponentForecast:
    """The tank's end. It is due for replacement where failure within a year passes what is accepted."""
    n = tank.row.size
    age = tank.heaters.age_years
    window = np.maximum(tank.years_to(PROBABILITIES[None, :]), 0.0)
    risk = tank.failure_within(np.ones((n, 1)))
    # In the middle stands what is expected, which is what advice goes by.
    spread = tank.failure_within_a_year(P10_P50_P90)
    spread[:, 1] = risk[:, 0]
    due = np.minimum(np.maximum(tank.years_to_risk(), 0.0), components.REACH_YEARS)
    factors = tank.log_factors()
    log_factors = np.stack(list(factors.values()), axis=1)
    median = tank.years_to(np.full((1, 1), 0.5))
    # A hazard ratio r shortens a Weibull life by r^(1/k).
    without = (age[:, None] + median) * np.exp(log_factors / tank.life.law.shape) - age[:, None]
    shift = np.minimum(median, REASON_HORIZON_YEARS) - np.clip(without, 0.0, REASON_HORIZON_YEARS)
    relative = np.exp(log_factors.sum(axis=1))
    same = np.ones((1, 3))
    return ComponentForecast(
        component=tank.name,
        row=tank.row,
        reached_years=window,
        due_years=due,
        latest_years=np.full(n, components.REACH_YEARS),
        decided_by=np.full(n, code(DecidedBy.TOLERANCE)),
        method=np.full(n, code(Method.REPLACE)),
        probability_today=risk[:, 0],
        # A tank that fails stands failed for the rest of the year, half of it on average.
        benefit=risk[:, 0] / 2,
        over_after_service=np.zeros(n),
        unit=tank.unit,
        rate=spread,
        state={"failure_within_12_months": spread, "relative_risk": relative[:, None] * same},
        state_in_a_year=spread,
        limit_name="failure_within_12_months",
        limit=tank.heaters.replace_at,
        factors=tuple(factors),
        log_factors=log_factors,
        factor_days=shift * DAYS_PER_YEAR,
        log_theta=np.zeros(n),
        log_theta_sd=np.zeros(n),
    )


def dates(as_of: datetime.date, years: FloatArray) -> NDArray[np.datetime64]:
    """Dates ``years`` from ``as_of``, to the day; NaT beyond the horizon of 30 years."""
    days = np.rint(np.fmin(years, 1e6) * DAYS_PER_YEAR)
    within = days <= HORIZON_YEARS * DAYS_PER_YEAR
    day = np.datetime64(as_of, "D") + np.where(within, days, 0).astype("timedelta64[D]")
    return np.where(within, day, np.datetime64("NaT", "D"))


def years_between(start: datetime.date, end: datetime.date) -> float:
    """Years of 365.25 days from ``start`` to ``end``."""
    return (end - start).days / DAYS_PER_YEAR

"""Expansion tanks as the forecast sees them: a charge that creeps out at a learned rate, and a bladder that tears."""

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from aquifer.core import expansion_tank, learning, policy
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.components.growing import REACH_YEARS, YEAR, ComingYear, Paced, on_grid
from aquifer.core.fleet import Fleet, Heaters
from aquifer.core.learning import Evidence, Pairs, Posterior
from aquifer.core.parameters import EXPANSION_TANK, LEARNING
from aquifer.core.turns import by_rank
from aquifer.core.vocabulary import Component, ExpansionTankPin, Method, code


@dataclass(frozen=True)
class ExpansionTankComponent(Paced):
    row: IntArray
    heaters: Heaters
    fleet: Fleet
    charged_years: FloatArray
    """Age of the heater when the tank was last charged or fitted, (n,)."""
    charged_abs_kpa: FloatArray
    """What was in it then."""
    fitted_years: FloatArray
    least_abs_kpa: FloatArray
    """Charge below which what the heater expands by no longer fits."""
    need_l: FloatArray
    log_loss: FloatArray
    """ln of the loss of each reading over the usual rate's, (m,); NaN where it says nothing."""
    loss_error: FloatArray
    condemned: BoolArray
    name = Component.EXPANSION_TANK
    hears: ClassVar[tuple[str, ...]] = ("expansion_tank_checks",)
    unit = "share/year"
    future_spread = LEARNING.future_spread

    @staticmethod
    def rows_of(heaters: Heaters) -> IntArray:
        return np.flatnonzero(~np.isnan(heaters.expansion_tank_l))

    @classmethod
    def of(cls, fleet: Fleet) -> "ExpansionTankComponent":
        row = cls.rows_of(fleet.heaters)
        own = fleet.at(row)
        h, checks = own.heaters, own.expansion_tank_checks
        supply, most = _supply_and_most(h)
        need = expansion_tank.expansion_l(h.capacity_l, h.source_c, h.setpoint_c)
        charged, fitted = h.expansion_tank_fitted_years.copy(), h.expansion_tank_fitted_years.copy()
        charge = h.expansion_tank_precharge_kpa + expansion_tank.ATMOSPHERE_KPA
        condemned = np.zeros(row.size, dtype=bool)
        log_loss, error = np.full(checks.row.size, np.nan), np.full(checks.row.size, np.nan)
        for events in by_rank(checks.row):
            r, when, new = checks.row[events], checks.years[events], checks.replaced[events]
            found = checks.precharge_kpa[events] + expansion_tank.ATMOSPHERE_KPA
            torn = checks.pin[events] == code(ExpansionTankPin.WATER)
            waited = np.maximum(when - charged[r], 0.1)
            usual = EXPANSION_TANK.loss_per_year * waited
            loss = np.log(charge[r] / np.maximum(found, 1.0))
            says = ~np.isnan(found) & ~new & ~torn & (when >= charged[r])
            # A gauge cannot tell a loss of less than its own error from none.
            blur = EXPANSION_TANK.reading_error_kpa / np.maximum(charge[r], 1.0)
            seen = np.maximum(np.nan_to_num(loss), blur)
            log_loss[events] = np.where(says, np.log(seen / usual), np.nan)
            error[events] = np.hypot(0.2, blur / seen)
            condemned[r] = np.where(new, False, torn | (condemned[r] & ~new))
            fitted[r] = np.where(new, when, fitted[r])
            charged[r] = np.where(torn & ~new, charged[r], np.maximum(when, charged[r]))
            charge[r] = np.where(torn & ~new, charge[r], supply[r])
        least = expansion_tank.least_precharge_abs_kpa(h.expansion_tank_l, need, supply, most)
        return cls(row, h, own, charged, charge, fitted, least, need, log_loss, error, condemned)

    @property
    def zone_spread(self) -> FloatArray:
        return np.full(self.row.size, LEARNING.zone_spread)

    @property
    def heater_spread(self) -> FloatArray:
        return np.full(self.row.size, EXPANSION_TANK.own_spread)

    def evidence(self) -> Evidence:
        checks = self.fleet.expansion_tank_checks
        read = np.flatnonzero(~np.isnan(self.log_loss))
        return Evidence(
            readings=learning.Readings(
                checks.row[read], checks.years[read], on_grid(self.log_loss[read]), self.loss_error[read]
            )
        )

    def pairs(self) -> Pairs | None:
        return None

    @property
    def since_service(self) -> FloatArray:
        return np.maximum(self.heaters.age_years - self.charged_years, 0.0)

    def years_from_service(self, log_theta: FloatArray) -> FloatArray:
        """Until the charge is too low; the bladder is reckoned apart, since no rate brings it about."""
        years = expansion_tank.years_to_loss(self.charged_abs_kpa[:, None], self.least_abs_kpa[:, None], log_theta)
        return np.where(self.condemned[:, None], 0.0, np.minimum(years, REACH_YEARS))

    def torn(self, years: FloatArray) -> FloatArray:
        """Probability that the bladder has torn ``years`` from today, (n, t), given that it held when last checked."""
        h = self.heaters
        life = expansion_tank.bladder_life_years(h.free_chlorine_mg_l, h.chloramine)[:, None]
        held = expansion_tank.bladder_hazard(self.charged_years - self.fitted_years, life[:, 0])[:, None]
        then = expansion_tank.bladder_hazard((h.age_years - self.fitted_years)[:, None] + years, life)
        return np.where(self.condemned[:, None], 1.0, -np.expm1(np.minimum(held - then, 0.0)))

    def too_low(self, belief: Posterior, years: FloatArray, recharged: bool) -> FloatArray:
        """Probability that the charge is below the least ``years`` from today, (n, t)."""
        charge = np.where(recharged, _supply_and_most(self.heaters)[0], self.charged_abs_kpa)
        waited = years if recharged else self.since_service[:, None] + years
        room = np.log(np.maximum(charge / self.least_abs_kpa, 1 + 1e-9))[:, None]
        with np.errstate(divide="ignore"):
            threshold = np.log(room / (EXPANSION_TANK.loss_per_year * np.maximum(waited, 1e-6)))
        low: FloatArray = belief.exceeding(threshold, years / np.maximum(waited, 1e-6) * np.ones(threshold.shape))
        return np.where(room <= 1e-8, 1.0, low)

    def failed(self, belief: Posterior, years: FloatArray) -> FloatArray:
        """Probability that charge or bladder has failed ``years`` from today, (n, t)."""
        return 1 - (1 - self.too_low(belief, years, False)) * (1 - self.torn(years))

    def due(self, by_risk: FloatArray, belief: Posterior) -> policy.Due:
        return policy.expansion_tank_due(self.since_service, by_risk, self.condemned)

    def coming_year(self, belief: Posterior, due: policy.Due, ends: BoolArray) -> ComingYear:
        years = np.broadcast_to(YEAR, (self.row.size, YEAR.size))
        low, torn = self.too_low(belief, years, False), self.torn(years)
        # A check finds a torn bladder and renews the tank; what tears after that is the coming year's risk.
        serviced = 1 - (1 - self.too_low(belief, years, True)) * (1 - np.maximum(torn - torn[:, :1], 0.0))
        too_small = self.need_l > _acceptance(self.heaters, _supply_and_most(self.heaters)[0])
        usual = np.where(low[:, 0] > 0.5, code(Method.RECHARGE), code(Method.CHECK))
        renew = self.condemned | too_small | (torn[:, 0] > 0.5)
        return ComingYear(np.where(renew, code(Method.REPLACE), usual), 1 - (1 - low) * (1 - torn), serviced)

    def rate(self, log_theta: FloatArray) -> FloatArray:
        return np.asarray(EXPANSION_TANK.loss_per_year * np.exp(log_theta))

    def states(self, log_theta: FloatArray) -> dict[str, FloatArray]:
        waited = self.since_service[:, None]
        charge = self.charged_abs_kpa[:, None] * np.exp(-EXPANSION_TANK.loss_per_year * np.exp(log_theta) * waited)
        # Reversed, so that the first is still the 10 % quantile.
        room = _acceptance(self.heaters, charge[:, ::-1])
        failed = np.maximum(self.torn(np.zeros((self.row.size, 1))), (room < self.need_l[:, None])[:, ::-1])
        return {
            "probability_failed": failed,
            "acceptance_l": np.where(self.condemned[:, None], 0.0, room),
        }

    def states_in_a_year(self, log_theta: FloatArray) -> FloatArray:
        return self.torn(np.ones((self.row.size, 1))) * np.ones((1, log_theta.shape[1]))

    def limit(self) -> tuple[str, FloatArray]:
        return "acceptance_l", self.need_l

    def log_factors(self) -> dict[str, FloatArray]:
        return {}


def _supply_and_most(h: Heaters) -> tuple[FloatArray, FloatArray]:
    """Absolute static pressure, and the most that the house is let rise to, kPa, (n,)."""
    supply = h.pressure_kpa + expansion_tank.ATMOSPHERE_KPA
    most = h.relief_kpa - EXPANSION_TANK.margin_below_relief_kpa + expansion_tank.ATMOSPHERE_KPA
    return supply, np.maximum(most, supply + 10.0)


def _acceptance(h: Heaters, charge_abs_kpa: FloatArray) -> FloatArray:
    supply, most = _supply_and_most(h)
    if charge_abs_kpa.ndim == 2:
        return expansion_tank.acceptance_l(h.expansion_tank_l[:, None], charge_abs_kpa, supply[:, None], most[:, None])
    return expansion_tank.acceptance_l(h.expansion_tank_l, charge_abs_kpa, supply, most)

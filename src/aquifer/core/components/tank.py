"""The tank itself as the forecast sees it: how likely it is to give way, and what that hangs on.

No finding tells how fast one wall corrodes; what is learned is how long tanks last here (``lives``).
"""

from dataclasses import dataclass
from math import log

import numpy as np

from aquifer.core import anode, tank
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.components.anode import AnodeComponent
from aquifer.core.fleet import Fleet, Heaters
from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.lives import LifeFactor
from aquifer.core.parameters import TANK
from aquifer.core.vocabulary import Alloy, Component, Corrosion, Noise, code

_IS_LINED = np.array([KINDS[kind].is_lined for kind in HeaterKind])


@dataclass(frozen=True)
class TankComponent:
    row: IntArray
    heaters: Heaters
    spent_years: FloatArray
    """Without a working anode so far, (n,)."""
    spent_ahead: FloatArray
    """Share of the coming year without one."""
    stress: tank.Stress
    seam: BoolArray
    """Rust was seen at a seam."""
    loud: BoolArray
    """It was last heard to bubble, pop or kettle."""
    life: LifeFactor
    name = Component.TANK
    unit = "1/year"

    @classmethod
    def of(
        cls,
        fleet: Fleet,
        rods: AnodeComponent | None,
        log_theta: FloatArray | None,
        life: LifeFactor = LifeFactor(),  # noqa: B008  (frozen)
    ) -> "TankComponent":
        """Parameters: the fleet's rods and the median of their log rate, if it has any; what own tanks taught."""
        row = np.flatnonzero(fleet.heaters.is_tank)
        h = fleet.heaters
        lined = _IS_LINED[h.kind]
        bare = lined & (h.alloy == code(Alloy.NONE))
        spent = np.where(bare, h.age_years, 0.0)
        ahead = np.where(bare, 1.0, 0.0)
        if rods is not None and log_theta is not None:
            lasts = anode.years_to_consume(rods.rods, np.exp(-log_theta))
            since_gone = rods.rod_age - lasts
            spent[rods.row] = np.maximum(since_gone, 0.0) + _spent_before(rods, lasts)
            ahead[rods.row] = np.clip(since_gone + 1.0, 0.0, 1.0)
        stress = tank.Stress(h.hardness_mg_l[row], h.pressure_kpa[row], h.setpoint_c[row], _log_symptoms(fleet)[row])
        seam = _last(fleet, fleet.looks.corrosion) == code(Corrosion.SEAMS)
        loud = _last(fleet, fleet.looks.noise) >= code(Noise.BUBBLING)
        return cls(row, h.at(row), spent[row], ahead[row], stress, seam[row], loud[row], life)

    @property
    def log_ratio(self) -> FloatArray:
        return tank.log_hazard_ratio(self.stress) + log(self.life.mean)

    def failure_within(self, years: FloatArray) -> FloatArray:
        """Probability of failing within ``years`` from today, (n, t)."""
        age, spent, ahead = self._columns()
        return tank.failure_within(years, age, spent, ahead, self.log_ratio[:, None])

    def failure_within_a_year(self, probabilities: FloatArray) -> FloatArray:
        """The same within a year at quantiles of what is known of the factor, (n, q)."""
        age, spent, ahead = self._columns()
        factor = np.log(self.life.quantiles(probabilities)) - log(self.life.mean)
        return tank.failure_within(np.ones((1, 1)), age, spent, ahead, self.log_ratio[:, None] + factor[None, :])

    def hazard_at(self, years: FloatArray) -> FloatArray:
        """Cumulative hazard of the handbook's law at each tank's age of ``years``, (n,): spent years in proportion."""
        share = np.clip(years / np.maximum(self.heaters.age_years, 1e-9), 0.0, 1.0)
        return tank.hazard(tank.effective_age(years, share * self.spent_years), tank.log_hazard_ratio(self.stress))

    def years_to(self, probability: FloatArray) -> FloatArray:
        """Years until failure has each probability, (n, q)."""
        age, spent, ahead = self._columns()
        return tank.years_to_failure(probability, age, spent, ahead, self.log_ratio[:, None])

    def years_to_risk(self, probability: float) -> FloatArray:
        """Years until failing within the following 12 months is that likely, (n,)."""
        return tank.years_to_risk(
            probability, self.heaters.age_years, self.spent_years, self.spent_ahead, self.log_ratio
        )

    def ends(self) -> BoolArray:
        """Whether the tank is to be replaced, (n,): by its risk, by rust at a seam, or old, loud and on hard water."""
        return np.asarray(
            tank.is_due(self.failure_within(np.ones((self.row.size, 1)))[:, 0])
            | self.seam
            | tank.is_worn_out(self.heaters.age_years, self.heaters.hardness_mg_l, self.loud)
        )

    def log_factors(self) -> dict[str, FloatArray]:
        """ln of the hazard's factors against an ordinary tank of the same age."""
        age = self.heaters.age_years
        now, plain = tank.effective_age(age, self.spent_years), np.maximum(age, 0.5)
        bare = (TANK.shape - 1) * np.log(np.maximum(now, 0.5) / plain)
        own = np.full(age.size, log(self.life.mean))
        return {**tank.log_hazard_ratios(self.stress), "spent_anode": bare, "own_tanks": own}

    def _columns(self) -> tuple[FloatArray, FloatArray, FloatArray]:
        return self.heaters.age_years[:, None], self.spent_years[:, None], self.spent_ahead[:, None]


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


def _log_symptoms(fleet: Fleet) -> FloatArray:
    """ln of the hazard ratio of the latest that was heard and seen at each heater, (n,)."""
    looks, total = fleet.looks, np.zeros(len(fleet.heaters))
    for seen, value, ratio in (
        (looks.rusty, 1, TANK.rusty_water),
        (looks.corrosion, code(Corrosion.SEAMS), TANK.seam_corrosion),
        (looks.noise, code(Noise.POPPING), TANK.loud_bed),
    ):
        total += np.where(_last(fleet, seen) >= value, ratio, 0.0)
    return total


def _last(fleet: Fleet, seen: IntArray) -> IntArray:
    """The latest of what was seen on arrival at each heater, -1 where nothing was, (n,)."""
    last = np.full(len(fleet.heaters), -1)
    said = np.flatnonzero(seen >= 0)
    last[fleet.looks.row[said]] = seen[said]
    return last

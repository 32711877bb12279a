"""How long tanks last in each future, and those that follow them."""

from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri

from aquifer.core import tank
from aquifer.core.ahead.luck import Shared
from aquifer.core.ahead.scene import Scene
from aquifer.core.arrays import BoolArray, FloatArray
from aquifer.core.components import AnodeComponent, TankComponent, Wear
from aquifer.core.learning import ComponentCalibration
from aquifer.core.parameters import TANK
from aquifer.core.vocabulary import Component


@dataclass(frozen=True)
class Tanks:
    """Tanks whose rods are seen to from the first visit on; k tanks, f futures."""

    tanks: TankComponent
    log_ratio: FloatArray
    """ln of the hazard ratio, (k, f)."""
    is_kept: BoolArray
    """Whether there is a rod to be renewed, (k,)."""

    @classmethod
    def of(cls, scene: Scene, common: Shared) -> "Tanks":
        """The tanks of a scene, with what is not known of how long they last here drawn for each future."""
        rods = AnodeComponent.of(scene.to_come) if AnodeComponent.rows_of(scene.to_come.heaters).size else None
        wear = scene.found.of(Component.ANODE)
        life = scene.calibration.get(Component.TANK, ComponentCalibration()).life
        believed = None if wear is None else Wear(wear.log_theta, wear.log_theta_sd)
        tanks = TankComponent.of(scene.to_come, rods, believed, life)
        factor = ndtri(np.clip(common.life, 1e-6, 1 - 1e-6)) * life.level_sd + common.pace[Component.TANK]
        kept = np.zeros(scene.site.size, dtype=bool)
        if rods is not None:
            kept[rods.row] = True
        return cls(tanks, tanks.log_ratio[:, None] + factor[None, :], kept[tanks.row])

    def years_to(self, chance: FloatArray) -> FloatArray:
        """Years until each gives way, (k, f): a rod that is spent today counts until it is renewed within the year."""
        nothing = np.zeros((self.tanks.row.size, 1))
        effective = tank.Standing(
            self.tanks.heaters.age_years[:, None], self.tanks.spent_years[:, None], nothing, self.log_ratio,
            self.tanks.life.law, self._log_past,
        ).years_to_failure(chance)  # fmt: skip
        first = (1 + TANK.spent_weight * self.tanks.spent_ahead)[:, None]
        then = np.where(self.is_kept[:, None], 1.0, first)
        return np.where(effective <= first, effective / first, 1 + (effective - first) / then)

    def years_of_new(self, chance: FloatArray) -> FloatArray:
        """Years that a new one in its place lasts, (k, f): on the same water, without the old one's symptoms."""
        nothing = np.zeros((self.tanks.row.size, 1))
        new = tank.Standing(nothing, nothing, nothing, self._log_past, self.tanks.life.law)
        return new.years_to_failure(chance)

    @property
    def _log_past(self) -> FloatArray:
        return np.asarray(self.log_ratio + (self.tanks.log_past - self.tanks.log_ratio)[:, None])

"""Three laws, each of another family. Figures are assumptions of the simulation."""

import numpy as np

from aquifer.core.arrays import FloatArray, IntArray
from aquifer.study.foreign.base import GAS, TANKLESS, District


class Kinetic:
    """Surface kinetics: deposit by how far the water is past its own saturation, in grains of two sizes, held back by
    what already lies there; an exchanger sheds what the flow tears off.

    Saturation by Langelier's rule as handbooks print it; rates by a power of it.
    """

    name = "kinetic"
    aged = False
    dirty = False
    moves_a_year = 0.04
    median_life_years = 13.0

    def settle(self, district: District, random: np.random.Generator) -> None:
        district.own = (
            random.normal(0.0, 0.45, len(district)) + random.normal(0, 0.3, district.hardness.size)[district.zone]
        )
        softened = (district.hardness[district.zone] > 200) & (random.random(len(district)) < 0.08)
        district.softener, district.softener_on_record = softened, softened & (random.random(len(district)) < 0.7)

    def _speed(self, district: District, hotter: float) -> FloatArray:
        hard, kelvin = district.hardness[district.zone], district.setpoint_c + hotter + 273.0
        total_solids = 40 + 1.6 * hard
        saturated = (
            9.3 + (np.log10(total_solids) - 1) / 10 - 13.12 * np.log10(kelvin) + 34.55
            - (np.log10(0.7 * hard) - 0.4) - np.log10(district.alkalinity[district.zone])
        )  # fmt: skip
        past = np.maximum(district.ph[district.zone] - saturated, 0.0)
        drawn = (district.use_l_day / 150) ** 0.85
        return np.where(district.softener, 0.03, past**1.4) * drawn * np.exp(district.own)

    def grow(self, district: District, random: np.random.Generator) -> None:
        month = random.lognormal(0, 0.25, len(district))
        bed = 0.36 * self._speed(district, 0.0) * month / (1 + district.deposit_mm / 60)
        wall = 0.0085 * self._speed(district, 15.0) * month
        shed = 0.008 * district.deposit_mm * np.sqrt(district.use_l_day / 150)
        fresh = np.where(district.kind == TANKLESS, np.maximum(wall - shed, -district.deposit_mm), bed + 0.01)
        # Fine grains are carried out with the draw before they settle hard.
        total = np.maximum(district.deposit_mm + fresh, 0.0)
        soft = district.deposit_mm * district.soft_share * 0.955 + np.maximum(fresh, 0.0)
        district.soft_share = np.clip(soft / np.maximum(total, 1e-9), 0.05, 1.0)
        district.deposit_mm = total

    def clean(
        self, district: District, rows: IntArray, method: IntArray, skill: FloatArray, random: np.random.Generator
    ) -> None:
        fine = np.array([0.55, 0.7, 0.85, 0.9])[method] + 0.12 * skill
        coarse = np.array([0.1, 0.18, 0.5, 0.75])[method] + 0.08 * skill
        luck = random.uniform(0.65, 1.25, rows.size)
        fine, coarse = np.clip(fine * luck, 0.05, 0.98), np.clip(coarse * luck, 0.0, 0.95)
        fine = np.where(district.kind[rows] == TANKLESS, random.uniform(0.75, 0.98, rows.size), fine)
        coarse = np.where(district.kind[rows] == TANKLESS, fine, coarse)
        share = district.soft_share[rows]
        left = share * (1 - fine) + (1 - share) * (1 - coarse)
        district.soft_share[rows] = np.clip(share * (1 - fine) / np.maximum(left, 1e-9), 0.02, 1.0)
        district.deposit_mm[rows] *= left
        district.since_months[rows] = 0


class Households:
    """No chemistry at all: hardness and people set a pace, households move often, softeners are put in and fail, and
    what a flush brings out is a matter of whose hands and which tank."""

    name = "households"
    aged = False
    dirty = False
    moves_a_year = 0.16
    median_life_years = 9.0

    def settle(self, district: District, random: np.random.Generator) -> None:
        n = len(district)
        district.own = random.standard_t(4, n) * 0.4
        hard = district.hardness[district.zone] > 150
        district.softener = hard & (random.random(n) < 0.22)
        district.softener_on_record = district.softener & (random.random(n) < 0.75)
        self._stubborn = random.beta(4, 4, n)

    def grow(self, district: District, random: np.random.Generator) -> None:
        n = len(district)
        district.softener &= random.random(n) > 0.12 / 12
        hard = np.where(district.softener, 12.0, district.hardness[district.zone])
        season = 1 + 0.3 * np.sin(2 * np.pi * (district.month + district.zone) / 12)
        warm = 1.5 ** ((district.setpoint_c - 56) / 10)
        pace = (hard / 180) ** 1.25 * (district.use_l_day / 140) * warm * season * np.exp(district.own)
        burst = random.gamma(1.5, 1 / 1.5, n)
        per_month = np.where(district.kind == TANKLESS, 0.0095, np.where(district.kind == GAS, 0.42, 0.34))
        full = np.where(district.kind == TANKLESS, 2.4, 0.22 * district.tall_mm)
        district.deposit_mm += per_month * pace * burst * np.maximum(1 - (district.deposit_mm / full) ** 2, 0.0)
        baked = 1 - 1 / np.where(district.kind == GAS, 20.0, 45.0)
        district.soft_share = np.clip(district.soft_share * baked + 0.01, 0.1, 1.0)

    def clean(
        self, district: District, rows: IntArray, method: IntArray, skill: FloatArray, random: np.random.Generator
    ) -> None:
        mean = np.array([0.45, 0.55, 0.75, 0.82])[method] + 0.1 * skill - 0.25 * (self._stubborn[rows] - 0.5)
        mean = np.clip(mean * (0.55 + 0.5 * district.soft_share[rows]), 0.08, 0.93)
        mean = np.where(district.kind[rows] == TANKLESS, 0.86, mean)
        removed = random.beta(7 * mean, 7 * (1 - mean))
        district.deposit_mm[rows] *= 1 - removed
        district.since_months[rows] = 0


class Neglected:
    """An estate that nobody kept: heaters come into care old, growth slows as a bed seals itself off, tanks give way by
    a weakness of their own, and half of what is written down is wrong in some way."""

    name = "neglected"
    aged = True
    dirty = True
    moves_a_year = 0.08
    median_life_years = 17.0

    def settle(self, district: District, random: np.random.Generator) -> None:
        n = len(district)
        zones = district.hardness.size
        district.own = 0.5 * random.normal(0, 1, n) + random.normal(0, 0.35, zones)[district.zone]
        district.softener = random.random(n) < 0.06
        district.softener_on_record = district.softener & (random.random(n) < 0.4)

    def grow(self, district: District, random: np.random.Generator) -> None:
        load = np.where(district.softener, 15.0, district.hardness[district.zone]) * district.use_l_day
        pace = (load / 26_000) ** 0.9 * np.exp(0.035 * (district.setpoint_c - 56) + district.own)
        pace *= random.lognormal(-0.08, 0.4, len(district))
        # depth = (k t)^0.8, so its growth falls with what lies there.
        unit = np.where(district.kind == TANKLESS, 0.0105, 0.55)
        scaled = np.maximum(district.deposit_mm / unit, 0.2)
        district.deposit_mm += unit * 0.8 * pace * scaled ** (1 - 1 / 0.8) / 0.8
        ceiling = np.where(district.kind == TANKLESS, 3.0, 0.3 * district.tall_mm)
        district.deposit_mm = np.minimum(district.deposit_mm, ceiling)
        district.soft_share = np.clip(0.97 * district.soft_share + 0.012, 0.15, 1.0)

    def clean(
        self, district: District, rows: IntArray, method: IntArray, skill: FloatArray, random: np.random.Generator
    ) -> None:
        usual = np.array([0.35, 0.5, 0.72, 0.8])[method]
        odds = np.log(usual / (1 - usual)) + 0.8 * skill + random.normal(0, 0.7, rows.size)
        odds -= 1.2 * (district.deposit_mm[rows] > 60)
        odds = np.where(district.kind[rows] == TANKLESS, 2.0 + random.normal(0, 0.5, rows.size), odds)
        district.deposit_mm[rows] *= 1 - 1 / (1 + np.exp(-odds))
        district.since_months[rows] = 0


LAWS = (Kinetic, Households, Neglected)
SEEDS = (2, 5, 13, 17, 29, 31, 37, 41, 47, 59, 67, 71)
"""Bases of each law that the study runs; none was looked at while the core was changed but the first three."""

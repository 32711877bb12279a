"""The life of a tankless heater's exchanger, month by month, under one care and one luck or two hundred.

By the laws of the forecast, as ``lives`` has them for tanks: scale grows evenly, costs flow at full draw, makes the
wall run hot, and dissolves when it is descaled.
"""

from dataclasses import dataclass

import numpy as np

from aquifer.core import ceiling, scale
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.bench.lives import FLUSHES, MONTHS, MOST_LOST, ORDINARY, YEARS, Luck
from aquifer.core.components.scale import plain_rate
from aquifer.core.fleet import Heaters
from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.parameters import SCALE, USAGE
from aquifer.core.policy import SHORTEST_FLUSH_YEARS
from aquifer.core.usage import WATER_HEAT_KJ_KG_K

RISE_K = 35.0
"""At which flow at full draw is told. Handbook, rating practice."""
ENERGY_SHARE = 0.5
"""Of the output that scale costs at full draw, what it costs of all fuel: most draws are less than full, and at most as
much as a bed costs a tank. Assumption."""


AT_SHARE = 0.8
"""Of what an exchanger is taken to bear, where one by risk is descaled: the forecast's date lies before the limit for
four of five. Assumption."""


APART_MONTHS = round(MONTHS * SHORTEST_FLUSH_YEARS)
"""No exchanger is descaled sooner. Source: ``policy``."""


@dataclass(frozen=True)
class LivedExchanger:
    """What became of the exchangers; (lives, months + 1), the first column new."""

    thickness_m: FloatArray
    flow_l_min: FloatArray
    """At full draw, by a rise of ``RISE_K``."""
    energy_kwh: FloatArray
    """A year, at the pace of that month."""
    cuts_out: FloatArray
    """1 where the wall gets too hot at full draw: past what an exchanger is taken to bear."""

    descaled: BoolArray
    """Months in which each was descaled."""

    def cuts_out_from(self) -> IntArray:
        """The first month of each life in which it cuts out, -1 if it never does."""
        ever = self.cuts_out.any(axis=1)
        return np.where(ever, np.argmax(self.cuts_out > 0, axis=1), -1)


def live(heater: Heaters, descale_months: int, luck: Luck = ORDINARY, by_limit: bool = False) -> LivedExchanger:
    """Twenty years of one exchanger, descaled every so many months, 0 for never, for each luck.

    Parameters: heater, one row, a tankless heater; its age does not matter, it begins new; by_limit, descaled when its
    scale comes to ``AT_SHARE`` of what it is taken to bear.
    Raises: ValueError for anything but one tankless heater.
    Source: ``core.scale``; the rest is beside each figure.
    """
    if len(heater) != 1 or bool(heater.is_tank[0]):
        raise ValueError("one tankless heater is lived at a time; a tank has a life of its own")
    rate = plain_rate(heater)[0] * luck.deposit
    limit = scale.limit_m(heater.is_coil)
    kind = KINDS[list(HeaterKind)[int(heater.kind[0])]]
    full = kind.usual_input_kw * USAGE.recovery_efficiency * 60 / (RISE_K * WATER_HEAT_KJ_KG_K)
    heat = heater.volume_m3 * 1000 * WATER_HEAT_KJ_KG_K * (heater.setpoint_c - heater.source_c) / 3600
    driver, cleanings = np.zeros(len(luck)), np.zeros(len(luck), dtype=np.int64)
    descaled = np.zeros((len(luck), YEARS * MONTHS + 1), dtype=bool)
    everyone = np.arange(len(luck))
    columns: list[FloatArray] = []
    for month in range(YEARS * MONTHS + 1):
        if month:
            driver = driver + rate / MONTHS
            if by_limit:
                lately = descaled[:, max(month - APART_MONTHS, 0) : month].any(axis=1)
                thick = ceiling.bounded(driver, np.array(SCALE.ceiling_m)) >= AT_SHARE * limit
                descaled[:, month] = thick & ~lately
            elif descale_months and month % descale_months == 0:
                descaled[:, month] = True
        if descaled[:, month].any():
            odds = luck.flush_log_odds[everyone, np.minimum(cleanings, FLUSHES - 1)]
            shares = np.array([scale.removed_share(float(one)) for one in odds])
            driver = driver * (1 - shares * descaled[:, month])
            cleanings = cleanings + descaled[:, month]
        columns.append(driver)
    thickness = ceiling.bounded(np.stack(columns, axis=1), np.array(SCALE.ceiling_m))
    lost = np.minimum(scale.capacity_lost(thickness, limit), 0.9)
    burnt = heat / USAGE.recovery_efficiency / (1 - np.minimum(ENERGY_SHARE * lost, MOST_LOST))
    return LivedExchanger(thickness, full * (1 - lost), burnt, (thickness >= limit).astype(np.float64), descaled)

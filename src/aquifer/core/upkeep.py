"""Small things that are cleaned or changed at intervals: screens, burners, sensors, filters, batteries.

They need no chemistry: each has a usual interval, shorter where it is dusty or the water carries grit, and every
finding shortens or lengthens it.
"""

import datetime
from collections.abc import Sequence
from dataclasses import dataclass

from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.parameters import DAYS_PER_YEAR, WATER
from aquifer.core.vocabulary import Alloy, Fouling, Supply, UpkeepItem


@dataclass(frozen=True)
class Upkeep:
    item: UpkeepItem
    months: float
    """Usual interval. Trade practice where one is stated, else an assumption; the maker's own comes first."""
    dust: float = 1.0
    """What dust multiplies the interval by. Assumption."""
    grit: float = 1.0
    """The same for a supply that carries sand or iron."""
    longest_months: float = 24.0


TABLE = (
    Upkeep(
        UpkeepItem.INLET_SCREEN,
        12,
        grit=0.5,
    ),
    Upkeep(UpkeepItem.BURNER, 12, dust=0.6),
    Upkeep(UpkeepItem.FLAME_SENSOR, 12, dust=0.8),
    Upkeep(UpkeepItem.CONDENSATE, 12, dust=0.8),
    Upkeep(UpkeepItem.AIR_FILTER, 6, dust=0.4, longest_months=12),
    Upkeep(UpkeepItem.BATTERIES, 12, longest_months=18),
)
POWERED_ANODE = Upkeep(UpkeepItem.POWERED_ANODE, 12, longest_months=12)
"""A look at its light: unpowered it protects nothing."""
FACTORS = {Fouling.CLEAN: 1.25, Fouling.LIGHT: 1.0, Fouling.FOULED: 0.7, Fouling.FAULT: 0.5}
"""What each finding multiplies the interval by. Assumption: two clean finds lengthen a year to a year and a half."""
SHORTEST_SHARE = 0.25
"""Of the usual interval. Assumption."""


@dataclass(frozen=True)
class Done:
    on: datetime.date
    fouling: Fouling | None = None


@dataclass(frozen=True)
class UpkeepDue:
    item: UpkeepItem
    due_on: datetime.date
    interval_months: float
    because: tuple[str, ...]


def items(kind: HeaterKind, alloy: Alloy) -> list[Upkeep]:
    """What a heater of this kind and anode needs, in the table's order."""
    powered = [POWERED_ANODE] if alloy is Alloy.POWERED else []
    return [upkeep for upkeep in TABLE if upkeep.item in KINDS[kind].upkeep] + powered


def is_gritty(supply: Supply, suspended_solids_mg_l: float | None) -> bool:
    """Whether a supply carries sand or iron enough to foul a screen: every well, and mains with as many solids (mg/L).

    Source: ``parameters.WATER.well_solids_mg_l``, assumption."""
    return supply is Supply.WELL or (suspended_solids_mg_l or 0.0) > WATER.well_solids_mg_l


def due(upkeep: Upkeep, since: datetime.date, done: Sequence[Done], dusty: bool, gritty: bool) -> UpkeepDue:
    """When a thing is next cleaned or changed.

    Parameters: since, the heater's installation; done, in order of time; whether its room is dusty and its supply
    carries sand or iron. Returns: the date with what it rests on.
    Source: ``TABLE`` and ``FACTORS``; each finding multiplies the interval, which stays within a quarter of the usual
    one and the longest.
    """
    months, because = upkeep.months, [f"usually every {upkeep.months:g} months"]
    if dusty and upkeep.dust != 1.0:
        months *= upkeep.dust
        because.append("it stands in dust")
    if gritty and upkeep.grit != 1.0:
        months *= upkeep.grit
        because.append("the supply carries grit")
    for found in done:
        if found.fouling is not None:
            months = min(max(months * FACTORS[found.fouling], SHORTEST_SHARE * upkeep.months), upkeep.longest_months)
    if done and done[-1].fouling is not None:
        because.append(f"last found {done[-1].fouling.value}")
    last = done[-1].on if done else since
    return UpkeepDue(
        upkeep.item,
        last + datetime.timedelta(days=round(months / 12 * DAYS_PER_YEAR)),
        round(months, 1),
        tuple(because),
    )

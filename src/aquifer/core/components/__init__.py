"""Each component of a heater as the forecast sees it: findings as evidence, growth as time to a limit.

To add one, write its phenomenon as a module of the core, a class in a module here, and its name in
``vocabulary.Component``.
"""

from aquifer.core.components.anode import AnodeComponent
from aquifer.core.components.deposit import TRAITS, Deposit
from aquifer.core.components.expansion_tank import ExpansionTankComponent
from aquifer.core.components.growing import REACH_YEARS, ComingYear, Growing
from aquifer.core.components.relief_valve import ReliefValveComponent
from aquifer.core.components.scale import ScaleComponent
from aquifer.core.components.sediment import SedimentComponent
from aquifer.core.components.tank import TankComponent, Wear
from aquifer.core.fleet import EVENTS, Fleet


def growing(fleet: Fleet) -> list[Growing]:
    """Every component of a fleet that grows at a learned rate and has members, in the order of ``Component``."""
    return [component.of(fleet) for component in _GROWING if component.rows_of(fleet.heaters).size]


def growing_before(before: Fleet, now: Fleet) -> list[Growing]:
    """The components of a fleet as it was when less had been found of it, as far as that makes any difference.

    Parameters: before, the same heaters as ``now`` with some of its events.
    """
    new = {name for name in EVENTS if getattr(before, name).row.size != getattr(now, name).row.size}
    told = (component for component in _GROWING if not new.isdisjoint(component.hears))
    return [component.of(before) for component in told if component.rows_of(before.heaters).size]


_GROWING: tuple[type[Growing], ...] = (
    SedimentComponent,
    ScaleComponent,
    AnodeComponent,
    ReliefValveComponent,
    ExpansionTankComponent,
)


__all__ = [
    "REACH_YEARS",
    "AnodeComponent",
    "ComingYear",
    "TRAITS",
    "Deposit",
    "ExpansionTankComponent",
    "Growing",
    "ReliefValveComponent",
    "ScaleComponent",
    "SedimentComponent",
    "TankComponent",
    "Wear",
    "growing",
    "growing_as_heard",
]

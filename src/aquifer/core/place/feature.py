"""What a feature of a place is: its kind, its forms, and the conditions in which it is found."""

from dataclasses import dataclass
from enum import StrEnum

from aquifer.core.kinds import Fuel, HeaterKind, burning, having


class Severity(StrEnum):
    NOTE = "note"
    """Worth knowing."""
    DEFECT = "defect"
    """To be put right."""
    DANGER = "danger"
    """Someone can be scalded, gassed, shocked or flooded."""


class FeatureGroup(StrEnum):
    SHUT_OFF = "shut_off"
    WATER = "water"
    DRAIN = "drain"
    FLAME = "flame"
    ELECTRIC = "electric"
    SURROUNDINGS = "surroundings"


class FeatureKind(StrEnum):
    HEATER_SHUT_OFF = "heater_shut_off"
    HOUSE_SHUT_OFF = "house_shut_off"
    METER_VALVE = "meter_valve"
    HOT_OUTLET_VALVE = "hot_outlet_valve"
    GAS_SHUT_OFF = "gas_shut_off"
    BREAKER = "breaker"
    BOILER_SWITCH = "boiler_switch"
    REGULATOR = "regulator"
    TEMPERING_VALVE = "tempering_valve"
    RECIRCULATION_PUMP = "recirculation_pump"
    CONNECTORS = "connectors"
    DIELECTRIC_UNIONS = "dielectric_unions"
    PIPE_INSULATION = "pipe_insulation"
    INLET_FILTER = "inlet_filter"
    SOFTENER = "softener"
    WELL = "well"
    TANK_DRAIN = "tank_drain"
    DRAIN_ROUTE = "drain_route"
    DRAIN_PAN = "drain_pan"
    DISCHARGE_PIPE = "discharge_pipe"
    CONDENSATE_LINE = "condensate_line"
    GAS_CONNECTOR = "gas_connector"
    DRIP_LEG = "drip_leg"
    VENT = "vent"
    COMBUSTION_AIR = "combustion_air"
    CO_ALARM = "co_alarm"
    COMBUSTIBLES = "combustibles"
    WIRING = "wiring"
    STRAPS = "straps"
    ACCESS = "access"
    EXPOSURE = "exposure"
    PEOPLE_AT_RISK = "people_at_risk"
    LEAK_PATH = "leak_path"


BURNS_GAS = burning(Fuel.GAS)
TANKS = having("is_tank")
MAINS_POWERED = having("has_mains_power")
MAKES_CONDENSATE = having("makes_condensate")


@dataclass(frozen=True)
class Condition:
    value: str
    words: str
    severity: Severity | None = None
    """None: nothing is wrong with it."""
    advice: str = ""
    """What to do about it, or how to work around it."""


@dataclass(frozen=True)
class Feature:
    kind: FeatureKind
    group: FeatureGroup
    name: str
    conditions: tuple[Condition, ...]
    forms: tuple[str, ...] = ()
    of: frozenset[HeaterKind] = frozenset(HeaterKind)
    """Heaters for which it matters."""
    of_site: bool = False
    """One for the site and all its heaters, such as the house's shut-off."""

    @property
    def is_valve(self) -> bool:
        return self.group is FeatureGroup.SHUT_OFF

    def condition(self, value: str) -> Condition:
        """The condition of that name. Raises: ValueError, saying which are allowed."""
        for condition in self.conditions:
            if condition.value == value:
                return condition
        allowed = ", ".join(condition.value for condition in self.conditions)
        raise ValueError(f"{value[:40]!r} is no condition of a {self.name}; allowed: {allowed}")

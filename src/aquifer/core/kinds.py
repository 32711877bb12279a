"""The kinds of heater, and all that differs between them, in one table."""

from dataclasses import dataclass
from enum import StrEnum

from aquifer.core.vocabulary import UpkeepItem


class HeaterKind(StrEnum):
    GAS_TANK = "gas_tank"
    ELECTRIC_TANK = "electric_tank"
    HEAT_PUMP_TANK = "heat_pump_tank"
    INDIRECT_TANK = "indirect_tank"
    MOBILE_TANK = "mobile_tank"
    GAS_TANKLESS = "gas_tankless"
    CONDENSING_TANKLESS = "condensing_tankless"
    ELECTRIC_TANKLESS = "electric_tankless"
    SMALL_GAS_TANKLESS = "small_gas_tankless"

    @property
    def is_tank(self) -> bool:
        """Whether it stores what it heats."""
        return KINDS[self].is_tank


class Ignition(StrEnum):
    """How a heater is lit. A standing pilot burns on; the others light anew each time."""

    PILOT = "pilot"
    SPARK = "spark"
    HOT_SURFACE = "hot_surface"
    BATTERY = "battery"
    NONE = "none"


class Vent(StrEnum):
    """How exhaust leaves: by its own heat, by a fan, through a wall of its own, or there is none."""

    NATURAL = "natural"
    POWERED = "powered"
    DIRECT = "direct"
    NONE = "none"


class Fuel(StrEnum):
    """What heats it; an indirect tank is heated by a boiler's water."""

    GAS = "gas"
    ELECTRIC = "electric"
    BOILER = "boiler"


@dataclass(frozen=True, kw_only=True)
class Kind:
    """What the trade says of a kind of heater. No row has a default: whoever adds a kind decides every column.

    Source: the trade's list of equipment; a figure without another source is an assumption.
    """

    is_tank: bool
    fuel: Fuel
    ignitions: tuple[Ignition, ...]
    """How it may be lit where nobody has looked, the usual one first."""
    fired_from_below: bool
    """Its floor is the heating surface: sediment rumbles there long before it reaches a port."""
    has_elements: bool
    """Immersed in the tank, over each other: a bed buries the lower one."""
    has_exchanger: bool
    """It scales on a wall: of its own, or of a coil."""
    has_coil: bool
    is_lined: bool
    """Glass-lined steel with a rod, for which the handbook's lives of tanks hold."""
    has_plug: bool
    """Drained by a plug, without a valve."""
    makes_condensate: bool
    has_mains_power: bool
    licence: str
    """Without which nobody opens it: gas work by a gas license, wiring by an electrical one; local rules come first."""
    usual_capacity_l: float
    """Where nobody has read its plate."""
    usual_input_kw: float
    """The most that is usual, where nobody has read its plate: what it may heat meanwhile is reckoned by it."""
    fields: tuple[str, ...]
    """Figures of its record that matter, besides what every heater has."""
    parts: tuple[str, ...]
    """That it can have, those that are forecast first."""
    upkeep: tuple[UpkeepItem, ...]
    upkeep_procedures: tuple[str, ...]
    """By which those are looked after."""


_OF_EACH = ("setpoint_c", "control_setting")
_OF_A_TANK = (*_OF_EACH, "capacity_l", "height_mm", "diameter_mm", "drain_port_height_mm", "dip_tube", "anode_port")
_OF_GAS = ("input_kw", "burner_hours_per_day", "ignition", "vent")
_TANK_PARTS = ("anode", "relief_valve", "expansion_tank", "drain_valve", "tempering_valve")
_ELEMENTS = ("upper_element", "lower_element", "upper_thermostat", "lower_thermostat")
_TANKLESS_PARTS = ("relief_valve", "expansion_tank", "exchanger", "flow_switch")
_PUMP = "circulation_pump"
_BOARD = ("board", "limit_switch")
_MODULE = ("fan", "exhaust_sensor", "spark_unit", "insulation", "pressure_switch")
_U = UpkeepItem

KINDS: dict[HeaterKind, Kind] = {
    HeaterKind.GAS_TANK: Kind(
        is_tank=True, fuel=Fuel.GAS, ignitions=(Ignition.PILOT, Ignition.SPARK, Ignition.HOT_SURFACE),
        fired_from_below=True, has_elements=False, has_exchanger=False, has_coil=False, is_lined=True, has_plug=False,
        makes_condensate=False, has_mains_power=True, licence="gas", usual_capacity_l=189.0, usual_input_kw=11.0,
        fields=(*_OF_A_TANK, "probe_height_mm", *_OF_GAS),
        parts=(*_TANK_PARTS, "gas_control", "thermocouple", "burner", "igniter", "fan", "pressure_switch", _PUMP),
        upkeep=(_U.BURNER,), upkeep_procedures=("burner",),
    ),
    HeaterKind.ELECTRIC_TANK: Kind(
        is_tank=True, fuel=Fuel.ELECTRIC, ignitions=(Ignition.NONE,),
        fired_from_below=False, has_elements=True, has_exchanger=False, has_coil=False, is_lined=True, has_plug=False,
        makes_condensate=False, has_mains_power=True, licence="electrical", usual_capacity_l=189.0, usual_input_kw=4.5,
        fields=(*_OF_A_TANK, "lower_element_height_mm", "supply_volts", "input_kw"),
        parts=(*_TANK_PARTS, *_ELEMENTS, _PUMP),
        upkeep=(), upkeep_procedures=(),
    ),
    HeaterKind.HEAT_PUMP_TANK: Kind(
        is_tank=True, fuel=Fuel.ELECTRIC, ignitions=(Ignition.NONE,),
        fired_from_below=False, has_elements=True, has_exchanger=False, has_coil=False, is_lined=True, has_plug=False,
        makes_condensate=True, has_mains_power=True, licence="electrical", usual_capacity_l=189.0, usual_input_kw=4.5,
        fields=(*_OF_A_TANK, "lower_element_height_mm", "supply_volts", "input_kw"),
        parts=(*_TANK_PARTS, *_ELEMENTS, _PUMP),
        upkeep=(_U.CONDENSATE, _U.AIR_FILTER), upkeep_procedures=("heat_pump",),
    ),
    HeaterKind.INDIRECT_TANK: Kind(
        is_tank=True, fuel=Fuel.BOILER, ignitions=(Ignition.NONE,),
        fired_from_below=False, has_elements=False, has_exchanger=True, has_coil=True, is_lined=True, has_plug=False,
        makes_condensate=False, has_mains_power=False, licence="plumbing", usual_capacity_l=190.0, usual_input_kw=18.0,
        fields=(*_OF_A_TANK, "boiler", "exchanger_area_m2"),
        parts=(*_TANK_PARTS, _PUMP),
        upkeep=(), upkeep_procedures=(),
    ),
    HeaterKind.MOBILE_TANK: Kind(
        is_tank=True, fuel=Fuel.GAS, ignitions=(Ignition.SPARK, Ignition.PILOT),
        fired_from_below=True, has_elements=False, has_exchanger=False, has_coil=False, is_lined=False, has_plug=True,
        makes_condensate=False, has_mains_power=True, licence="gas", usual_capacity_l=23.0, usual_input_kw=11.0,
        fields=(*_OF_A_TANK, "probe_height_mm", *_OF_GAS),
        parts=(
            *_TANK_PARTS, "gas_control", "thermocouple", "burner", "igniter", *_BOARD, "fuse_link", "electrode",
            _PUMP,
        ),
        upkeep=(_U.BURNER, _U.FLAME_SENSOR), upkeep_procedures=("vehicle_gas",),
    ),
    HeaterKind.GAS_TANKLESS: Kind(
        is_tank=False, fuel=Fuel.GAS, ignitions=(Ignition.SPARK,),
        fired_from_below=False, has_elements=False, has_exchanger=True, has_coil=False, is_lined=False, has_plug=False,
        makes_condensate=False, has_mains_power=True, licence="gas", usual_capacity_l=2.0, usual_input_kw=24.0,
        fields=(*_OF_EACH, "exchanger_area_m2", "supply_volts", *_OF_GAS),
        parts=(*_TANKLESS_PARTS, "burner", "igniter", *_BOARD, *_MODULE, _PUMP),
        upkeep=(_U.INLET_SCREEN, _U.FLAME_SENSOR), upkeep_procedures=("upkeep_look",),
    ),
    HeaterKind.CONDENSING_TANKLESS: Kind(
        is_tank=False, fuel=Fuel.GAS, ignitions=(Ignition.SPARK,),
        fired_from_below=False, has_elements=False, has_exchanger=True, has_coil=False, is_lined=False, has_plug=False,
        makes_condensate=True, has_mains_power=True, licence="gas", usual_capacity_l=2.0, usual_input_kw=24.0,
        fields=(*_OF_EACH, "exchanger_area_m2", "supply_volts", *_OF_GAS),
        parts=(*_TANKLESS_PARTS, "burner", "igniter", "mixing_valve", *_BOARD, *_MODULE, "trap", _PUMP),
        upkeep=(_U.INLET_SCREEN, _U.FLAME_SENSOR, _U.CONDENSATE), upkeep_procedures=("upkeep_look",),
    ),
    HeaterKind.ELECTRIC_TANKLESS: Kind(
        is_tank=False, fuel=Fuel.ELECTRIC, ignitions=(Ignition.NONE,),
        fired_from_below=False, has_elements=False, has_exchanger=True, has_coil=False, is_lined=False, has_plug=False,
        makes_condensate=False, has_mains_power=True, licence="electrical", usual_capacity_l=2.0, usual_input_kw=24.0,
        fields=(*_OF_EACH, "exchanger_area_m2", "supply_volts", "input_kw"),
        parts=(*_TANKLESS_PARTS, *_BOARD, _PUMP),
        upkeep=(_U.INLET_SCREEN,), upkeep_procedures=(),
    ),
    HeaterKind.SMALL_GAS_TANKLESS: Kind(
        is_tank=False, fuel=Fuel.GAS, ignitions=(Ignition.BATTERY,),
        fired_from_below=False, has_elements=False, has_exchanger=True, has_coil=False, is_lined=False, has_plug=False,
        makes_condensate=False, has_mains_power=False, licence="gas", usual_capacity_l=2.0, usual_input_kw=24.0,
        fields=(*_OF_EACH, *_OF_GAS),
        parts=(
            *_TANKLESS_PARTS, "burner", "igniter", "thermocouple", "limit_switch", "jets", "pressure_valve", "solenoid",
            _PUMP,
        ),
        upkeep=(_U.INLET_SCREEN, _U.BURNER, _U.BATTERIES), upkeep_procedures=("small_tankless",),
    ),
}  # fmt: skip
"""One row a kind. A kind that has none stops the program when it starts, by name."""

if missing := [kind.value for kind in HeaterKind if kind not in KINDS]:
    raise ValueError(f"no row in KINDS for {', '.join(missing)}")


def having(column: str) -> frozenset[HeaterKind]:
    """The kinds for which a column of yes and no says yes. Raises: AttributeError for no such column."""
    return frozenset(kind for kind, row in KINDS.items() if getattr(row, column))


def burning(fuel: Fuel) -> frozenset[HeaterKind]:
    """The kinds that a fuel heats."""
    return frozenset(kind for kind, row in KINDS.items() if row.fuel is fuel)

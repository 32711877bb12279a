"""The words of the trade that the program computes with.

The order of the members of a grade is its order of severity; their codes in arrays are their positions.
"""

from enum import StrEnum
from functools import cache


def code(member: StrEnum) -> int:
    """Position of ``member`` in its enumeration, the integer by which arrays hold it."""
    # By type first: "none" of one enumeration equals "none" of another.
    return codes(type(member))[member]


@cache
def codes(kind: type[StrEnum]) -> dict[str, int]:
    """Position of each value of an enumeration, for turning a column of words into integers at once."""
    return {member.value: position for position, member in enumerate(kind)}


class Alloy(StrEnum):
    MAGNESIUM = "magnesium"
    ALUMINIUM = "aluminium"
    ALUMINIUM_ZINC = "aluminium_zinc"
    POWERED = "powered"
    NONE = "none"

    @property
    def is_sacrificial(self) -> bool:
        return self not in (Alloy.POWERED, Alloy.NONE)


class FlushMethod(StrEnum):
    PRESSURE_BLOWOUT = "pressure_blowout"
    DRAIN_AND_PULSE = "drain_and_pulse"
    JETTING = "jetting"
    ACID_SOAK = "acid_soak"


class Removed(StrEnum):
    """How much came out, graded by eye in the bucket."""

    NONE = "none"
    TRACE = "trace"
    MODERATE = "moderate"
    HEAVY = "heavy"
    BLOCKED = "blocked"


class Clarity(StrEnum):
    CLEAR = "clear"
    CLOUDY = "cloudy"
    MILKY = "milky"
    MURKY = "murky"


class Texture(StrEnum):
    SAND = "sand"
    FLAKES = "flakes"
    STONES = "stones"
    SLUDGE = "sludge"
    GRIT = "grit"
    """White and hard: lime."""
    CRUST = "crust"
    """Porous, baked onto the floor."""


class DrainFlow(StrEnum):
    FULL = "full"
    SLOW = "slow"
    TRICKLE = "trickle"
    NONE = "none"


class RodGrade(StrEnum):
    LIKE_NEW = "like_new"
    WORN = "worn"
    HALF = "half"
    MOSTLY_GONE = "mostly_gone"
    GONE = "gone"


class SensorTip(StrEnum):
    """What the flame leaves on the tip of a thermocouple or a flame rod."""

    CLEAN = "clean"
    CARBON = "carbon"
    CORRODED = "corroded"


class TapsAffected(StrEnum):
    """Where the hot water is not as it should be."""

    ONE = "one"
    ALL = "all"


class ValveOutcome(StrEnum):
    FLOWS_AND_RESEATS = "flows_and_reseats"
    FLOWS_AND_WEEPS = "flows_and_weeps"
    NO_FLOW = "no_flow"
    NOT_TESTED = "not_tested"


class ExpansionTankPin(StrEnum):
    """What comes out when the air valve of an expansion tank is pressed."""

    AIR = "air"
    WATER = "water"
    NOTHING = "nothing"


class Disinfectant(StrEnum):
    CHLORINE = "chlorine"
    CHLORAMINE = "chloramine"
    NONE = "none"


class Supply(StrEnum):
    MAINS = "mains"
    WELL = "well"


class Business(StrEnum):
    """What a site that is no household does with hot water."""

    OFFICE = "office"
    SHOP = "shop"
    SALON = "salon"
    RESTAURANT = "restaurant"
    BAKERY = "bakery"
    SCHOOL = "school"
    CLINIC = "clinic"
    LODGING = "lodging"
    CARE_HOME = "care_home"
    LAUNDRY = "laundry"
    CAMPING = "camping"


class Noise(StrEnum):
    """What a tank sounds like when it fires."""

    QUIET = "quiet"
    HISS = "hiss"
    BUBBLING = "bubbling"
    POPPING = "popping"
    KETTLING = "kettling"


class Corrosion(StrEnum):
    """Where rust was seen on a tank."""

    NONE = "none"
    FITTINGS = "fittings"
    SEAMS = "seams"


class UpkeepItem(StrEnum):
    """Small things that are cleaned or changed at intervals."""

    INLET_SCREEN = "inlet_screen"
    BURNER = "burner"
    FLAME_SENSOR = "flame_sensor"
    CONDENSATE = "condensate"
    AIR_FILTER = "air_filter"
    POWERED_ANODE = "powered_anode"
    BATTERIES = "batteries"


class Fouling(StrEnum):
    """How such a thing was found."""

    CLEAN = "clean"
    LIGHT = "light"
    FOULED = "fouled"
    FAULT = "fault"


class FlushHistory(StrEnum):
    """What is known of the years before our own record."""

    RECORDED = "recorded"
    NEVER = "never"
    """Never flushed, as far as known."""
    ABOUT = "about"
    """Last flushed in about a year that is known."""
    UNKNOWN = "unknown"


class Practice(StrEnum):
    """The schools of when to flush that a company may follow."""

    CONDITION = "condition"
    ANNUAL = "annual"
    HARD_WATER_HALF_YEARLY = "hard_water_half_yearly"
    LONG_SERVICE = "long_service"


class Task(StrEnum):
    FLUSH = "flush"
    ANODE_INSPECTION = "anode_inspection"
    ANODE_REPLACEMENT = "anode_replacement"
    RELIEF_VALVE_EXERCISE = "relief_valve_exercise"
    RELIEF_VALVE_REPLACEMENT = "relief_valve_replacement"
    DESCALE = "descale"
    EXPANSION_TANK_CHECK = "expansion_tank_check"
    EXPANSION_TANK_REPLACEMENT = "expansion_tank_replacement"
    PRESSURE_TEST = "pressure_test"
    LOOK_OVER = "look_over"
    UPKEEP = "upkeep"
    HOUSEHOLD_CHANGE = "household_change"


class Component(StrEnum):
    SEDIMENT = "sediment"
    SCALE = "scale"
    ANODE = "anode"
    RELIEF_VALVE = "relief_valve"
    EXPANSION_TANK = "expansion_tank"
    TANK = "tank"


LOOKED_AT = {
    Task.FLUSH: Component.SEDIMENT,
    Task.DESCALE: Component.SCALE,
    Task.ANODE_INSPECTION: Component.ANODE,
    Task.ANODE_REPLACEMENT: Component.ANODE,
    Task.RELIEF_VALVE_EXERCISE: Component.RELIEF_VALVE,
    Task.RELIEF_VALVE_REPLACEMENT: Component.RELIEF_VALVE,
    Task.EXPANSION_TANK_CHECK: Component.EXPANSION_TANK,
    Task.EXPANSION_TANK_REPLACEMENT: Component.EXPANSION_TANK,
    Task.LOOK_OVER: Component.TANK,
}
"""Which component a task looks at or renews."""
LEARNED = (Component.SEDIMENT, Component.SCALE, Component.ANODE, Component.RELIEF_VALVE, Component.EXPANSION_TANK)
"""Components whose own rate is learned from findings; a tank's end is not seen coming."""


class DecidedBy(StrEnum):
    TOLERANCE = "tolerance"
    CAP = "cap"
    PRACTICE = "practice"
    FINDING = "finding"
    FIRST_LOOK = "first_look"
    LEFT_ALONE = "left_alone"


class EndCause(StrEnum):
    """Why a heater left care."""

    LEAKED = "leaked"
    """Its tank gave way: the only end that tells how long tanks last."""
    REPLACED_BEFORE = "replaced_before"
    """A new one was fitted while it still held."""
    LEFT = "left"
    """Its customer, or the site, is not ours any more."""
    MERGED = "merged"
    """It was on record twice."""


class Method(StrEnum):
    """What the forecast proposes to do at the next service; the flush methods and these."""

    PRESSURE_BLOWOUT = "pressure_blowout"
    DRAIN_AND_PULSE = "drain_and_pulse"
    JETTING = "jetting"
    ACID_SOAK = "acid_soak"
    DESCALE = "descale"
    INSPECT = "inspect"
    EXERCISE = "exercise"
    CHECK = "check"
    RECHARGE = "recharge"
    REPLACE = "replace"
    CLEAN = "clean"


def values(kind: type[StrEnum]) -> list[str]:
    """The allowed values of an enumeration, in their order."""
    return [member.value for member in kind]

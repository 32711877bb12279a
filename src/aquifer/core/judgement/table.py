"""A decision table: rows read from the top, the first that holds decides."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import StrEnum

from aquifer.core.kinds import HeaterKind
from aquifer.core.vocabulary import (
    Alloy,
    Clarity,
    DrainFlow,
    ExpansionTankPin,
    Noise,
    RodGrade,
    SensorTip,
    TapsAffected,
    Texture,
    ValveOutcome,
)


class Verdict(StrEnum):
    FLUSH = "flush"
    FLUSH_GENTLY = "flush_gently"
    LEAVE_ALONE = "leave_alone"
    KEEP_VALVE = "keep_valve"
    EXERCISE_THEN_REPLACE = "exercise_then_replace"
    REPLACE_VALVE = "replace_valve"
    KEEP_ALLOY = "keep_alloy"
    CHANGE_ALLOY = "change_alloy"
    CHANGE_ELEMENT = "change_element"
    CHANGE_HEATER = "change_heater"
    KEEP_PRESSURE = "keep_pressure"
    KEEP_EXPANSION = "keep_expansion"
    FIT_EXPANSION_TANK = "fit_expansion_tank"
    RENEW_EXPANSION_TANK = "renew_expansion_tank"
    RECHARGE_EXPANSION_TANK = "recharge_expansion_tank"
    FIT_REGULATOR = "fit_regulator"
    KEEP_WATER = "keep_water"
    SOFTEN = "soften"
    COOLER_SETPOINT = "cooler_setpoint"
    ASK_ABOUT_SOFTENER = "ask_about_softener"
    KEEP_HEATER = "keep_heater"
    REPLACE_BEFORE_FAILURE = "replace_before_failure"
    WRONG_VALVE = "wrong_valve"
    VALVE_FITS = "valve_fits"
    TAP_SCALDS = "tap_scalds"
    TAP_COOL = "tap_cool"
    TAP_RIGHT = "tap_right"
    ELEMENT_SOUND = "element_sound"
    RENEW_THERMOCOUPLE = "renew_thermocouple"
    CARRY_THERMOCOUPLE = "carry_thermocouple"
    THERMOCOUPLE_SOUND = "thermocouple_sound"
    LOOK_AT_SUPPLY = "look_at_supply"
    SUPPLY_RIGHT = "supply_right"
    INPUT_OFF_PLATE = "input_off_plate"
    INPUT_RIGHT = "input_right"
    LOOK_AT_GAS_PRESSURE = "look_at_gas_pressure"
    GAS_PRESSURE_USUAL = "gas_pressure_usual"
    PUT_RIGHT = "put_right"
    AS_IT_SHOULD_BE = "as_it_should_be"
    FIND_THE_LEAK = "find_the_leak"
    GO_ON = "go_on"
    OPEN_IN_STEPS = "open_in_steps"
    BREATH_THEN_WIRE = "breath_then_wire"
    LEAVE_DRAIN = "leave_drain"
    FLUSH_ON = "flush_on"
    STOP_FLUSHING = "stop_flushing"
    FIT_FILTER = "fit_filter"
    TEST_HARDNESS = "test_hardness"
    LOOK_AT_ROD_AND_IRON = "look_at_rod_and_iron"
    KEEP_ROD = "keep_rod"
    RENEW_ROD = "renew_rod"
    KEEP_SENSOR = "keep_sensor"
    CLEAN_SENSOR = "clean_sensor"
    RENEW_SENSOR = "renew_sensor"
    LOOK_AT_FIXTURE = "look_at_fixture"
    LOOK_AT_HEATER = "look_at_heater"


class PracticeOption(StrEnum):
    """Sides that practitioners take; a company follows one in each question."""

    LEAVE_OLD = "leave_old"
    ALWAYS_FLUSH = "always_flush"
    EXERCISE_YEARLY = "exercise_yearly"
    REPLACE_OLD_UNTRIED = "replace_old_untried"
    REPLACE_DRIPPING = "replace_dripping"
    EXERCISE_DRIPPING = "exercise_dripping"
    ELEMENT_FIRST = "element_first"
    HEATER_AT_ONCE = "heater_at_once"
    CLEAR_DRAIN = "clear_drain"
    LEAVE_BLOCKED = "leave_blocked"


@dataclass(frozen=True)
class Seen:
    """What was found at a heater that no forecast carries; ``None`` is not looked at."""

    valve_drips: bool | None = None
    element_failures: int = 0
    """Within ``rules.ELEMENT_YEARS``: what failed long before says little."""
    closed_system: bool | None = None
    creep_kpa: float | None = None
    """Rise of the pressure in a closed system while nobody draws."""
    pressure_falls: bool | None = None
    """With the cold supply shut and no tap open."""
    others_excluded: bool = False
    """It leaks, and joints, relief valve and drain were looked at: it is the tank."""
    drain: DrainFlow | None = None
    clarity: Clarity | None = None
    texture: Texture | None = None
    rod: RodGrade | None = None
    bare_wire_mm: float | None = None
    rod_mm: float | None = None
    """Thickness of the rod where it looks average."""
    rusty_seam: bool | None = None
    sensor_tip: SensorTip | None = None
    taps: TapsAffected | None = None
    tap_burns: bool | None = None
    tap_is_hot: bool | None = None
    tap_is_cool: bool | None = None
    ohms_are_low: bool | None = None
    ohms_are_high: bool | None = None
    millivolts_fail: bool | None = None
    millivolts_are_low: bool | None = None
    supply_is_low: bool | None = None
    supply_is_high: bool | None = None
    amps_are_low: bool | None = None
    amps_are_high: bool | None = None
    gas_is_low: bool | None = None
    gas_is_high: bool | None = None
    input_is_low: bool | None = None
    input_is_high: bool | None = None
    beyond: frozenset[tuple[str, str]] = frozenset()
    """Readings beyond a bound of their kind of heater, with the side."""
    new_valve_rating_kw: float | None = None
    new_valve_opens_kpa: float | None = None
    new_probe_mm: float | None = None


@dataclass(frozen=True)
class Facts:
    """All that the tables ask for, of one heater."""

    kind: HeaterKind
    age_years: float
    was_flushed: bool
    cutoff_years: float
    """From this age the company leaves a tank that was never flushed."""
    depth_mm: float
    drain_port_mm: float
    over_after_service: float
    """Probability that the strongest cleaning proposed leaves it over its limit."""
    setpoint_c: float
    hardness_mg_l: float
    softened: bool
    softener_suspected: float
    """Probability that there is one that nobody recorded."""
    noise: Noise | None
    alloy: Alloy
    protection_ratio: float | None
    valve_age_years: float
    valve_replace_at_years: float
    valve_warn_at_years: float
    valve_outcome: ValveOutcome | None
    expansion_tank: bool
    """There is an expansion tank."""
    expansion_tank_pin: ExpansionTankPin | None
    pressure_kpa: float
    failure_12_months: float | None
    replace_at: float
    seen: Seen
    input_kw: float | None = None
    """Of its plate; ``None`` where nobody has read it."""
    supply_v: float | None = None
    """On record; ``None`` where nobody has read it."""
    probe_least_mm: float | None = None
    """That a relief valve's probe must have to reach the water; ``None`` where it needs none."""


@dataclass(frozen=True)
class Judgement:
    rule: str
    verdict: Verdict
    because: tuple[str, ...]
    ask_lead: bool = False
    licensed: bool = False
    """Work for a licensed person, where the local code says so."""


@dataclass(frozen=True)
class Row:
    when: Callable[[Facts], bool]
    verdict: Verdict
    because: Callable[[Facts], tuple[str, ...]]
    ask_lead: bool = False
    licensed: bool = False
    option: PracticeOption | None = None
    """Only where the company follows it; every company if None."""


@dataclass(frozen=True)
class Option:
    option: PracticeOption
    says: str


@dataclass(frozen=True)
class Table:
    rule: str
    question: str
    source: str
    applies: Callable[[Facts], bool]
    rows: tuple[Row, ...]
    options: tuple[Option, ...] = ()
    """Of the disagreement, the first being what a company follows until it says otherwise."""

    def decide(self, facts: Facts, practice_options: frozenset[PracticeOption]) -> Judgement:
        """The first row that holds. Parameters: facts; the options that the company follows."""
        for row in self.rows:
            if (row.option is None or row.option in practice_options) and row.when(facts):
                return Judgement(self.rule, row.verdict, row.because(facts), row.ask_lead, row.licensed)
        raise ValueError(f"no row of the table {self.rule} holds; its last must always hold")


@dataclass(frozen=True)
class Answer:
    """What is asked at a visit and bears on a table."""

    field: str
    """Where the answer stands, as devices name it."""
    words: tuple[str, ...]
    """What can be answered; a number's are ``below`` and ``above``."""
    puts: Callable[[Facts, str | None], Facts]
    above: float | Callable[[Facts], float] | None = None
    """Of a number, where it begins to matter, if need be for a heater."""

    def of(self, facts: Facts) -> "Answer":
        """The same for one heater."""
        return replace(self, above=self.above(facts)) if callable(self.above) else self

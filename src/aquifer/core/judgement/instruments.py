"""What a reading off an instrument means for the heater at which it was taken, each against the heater's own plate."""

from collections.abc import Callable
from dataclasses import replace

from aquifer.core.judgement.rules import LEAST_SETPOINT_C
from aquifer.core.judgement.table import Answer, Facts, Row, Table, Verdict
from aquifer.core.kinds import KINDS, Fuel
from aquifer.core.units import Quantity, figure

BURNS_C = 60.0
"""140 degF: 5 s burn an adult deeply. Trade's figures, as the calculator ``burn_seconds`` has them."""
READ_K = 1.0
"""By how much a thermometer in a cup may be off. Assumption."""
COOL_K = 8.0
"""Below the setting by more than losses on the way and a thermostat's band take. Assumption."""
SOUND_SHARE = 0.1
"""A sound element reads within a tenth of its plate. Trade practice."""
SUPPLY_SHARE = 0.1
"""EN 50160; ANSI C84.1 asks for half of it."""
RENEW_MV, SOUND_MV = 10.0, 12.0
"""Of a thermocouple under load. Trade practice; a thermopile gives hundreds."""
LEAST_GAS_KPA, MOST_GAS_KPA = 0.7, 3.0
"""At a manifold: 3.5 in wc (0.87 kPa) is usual for natural gas, 10 to 11 in (2.6) for LP. Trade practice; the plate
decides."""


def _above(name: str) -> Callable[[Facts, str | None], Facts]:
    return _told(name, "above")


def _below(name: str) -> Callable[[Facts, str | None], Facts]:
    return _told(name, "below")


def _told(name: str, when: str) -> Callable[[Facts, str | None], Facts]:
    return lambda f, word: replace(f, seen=replace(f.seen, **{name: None if word is None else word == when}))  # type: ignore[arg-type]


def _number(field: str, puts: Callable[[Facts, str | None], Facts], above: float | Callable[[Facts], float]) -> Answer:
    return Answer(field, ("below", "above"), puts, above)


def _plate_ohms(f: Facts) -> float:
    """Of a sound element. Source: Ohm's law, U^2 / P."""
    return (f.supply_v or 0.0) ** 2 / (1000 * (f.input_kw or 1.0))


def _plate_amps(f: Facts) -> float:
    """Source: P / U."""
    return 1000 * (f.input_kw or 0.0) / (f.supply_v or 1.0)


TAP = Table(
    "tap_temperature",
    "Is the water at the faucet as it should be?",
    "trade practice: 49 degC (120 degF) is the usual ceiling where there is no mixing valve",
    lambda f: True,
    (
        Row(
            lambda f: bool(f.seen.tap_burns),
            Verdict.TAP_SCALDS,
            lambda f: (
                f"from {figure(Quantity.TEMPERATURE, BURNS_C)} an adult is burned within 5 seconds, a child in half",
                "set it cooler or fit a mixing valve; stored so hot on purpose, only behind one",
            ),
        ),
        Row(
            lambda f: bool(f.seen.tap_is_hot),
            Verdict.TAP_SCALDS,
            lambda f: (
                f"over {figure(Quantity.TEMPERATURE, LEAST_SETPOINT_C)}, the usual ceiling at a faucet",
                "agree the setting with who lives there, children and frail people first, and say how soon it burns",
            ),
        ),
        Row(
            lambda f: bool(f.seen.tap_is_cool),
            Verdict.TAP_COOL,
            lambda f: (
                f"well under its setting of {figure(Quantity.TEMPERATURE, f.setpoint_c)}",
                "right behind a mixing valve or before it has recovered; else dip tube, crossover, a lost element",
            ),
        ),
        Row(lambda f: True, Verdict.TAP_RIGHT, lambda f: ("near its setting, and it scalds nobody at once",)),
    ),
)
OHMS = Table(
    "element_ohms",
    "Is the element sound?",
    "Ohm's law and the plate; trade practice for the tenth",
    lambda f: KINDS[f.kind].has_elements and bool(f.input_kw) and bool(f.supply_v),
    (
        Row(
            lambda f: bool(f.seen.ohms_are_high),
            Verdict.CHANGE_ELEMENT,
            lambda f: (
                f"its plate gives {_plate_ohms(f):.1f} ohm: burnt out, or one of another rating",
                "read it once more with its wires off",
            ),
        ),
        Row(
            lambda f: bool(f.seen.ohms_are_low),
            Verdict.CHANGE_ELEMENT,
            lambda f: (
                f"its plate gives {_plate_ohms(f):.1f} ohm: shorted, or one of another rating",
                "not energized until that is known",
            ),
        ),
        Row(
            lambda f: True,
            Verdict.ELEMENT_SOUND,
            lambda f: (f"its plate gives {_plate_ohms(f):.1f} ohm", "each leg against earth as well: open"),
        ),
    ),
)
THERMOCOUPLE = Table(
    "thermocouple",
    "Is the thermocouple sound?",
    "trade practice",
    lambda f: KINDS[f.kind].fuel is Fuel.GAS,
    (
        Row(
            lambda f: bool(f.seen.millivolts_fail),
            Verdict.RENEW_THERMOCOUPLE,
            lambda f: (f"under {RENEW_MV:.0f} mV under load; the valve drops at 3 to 4",),
        ),
        Row(
            lambda f: bool(f.seen.millivolts_are_low),
            Verdict.CARRY_THERMOCOUPLE,
            lambda f: (f"under {SOUND_MV:.0f} mV: it holds for now", "clean the pilot; carry one next time"),
        ),
        Row(lambda f: True, Verdict.THERMOCOUPLE_SOUND, lambda f: (f"{SOUND_MV:.0f} mV or more under load",)),
    ),
)
SUPPLY = Table(
    "supply_voltage",
    "Is the supply right?",
    "EN 50160: within a tenth of its nominal voltage",
    lambda f: bool(f.supply_v),
    (
        Row(
            lambda f: bool(f.seen.supply_is_low or f.seen.supply_is_high),
            Verdict.LOOK_AT_SUPPLY,
            lambda f: (
                f"more than a tenth off {f.supply_v or 0:.0f} V",
                "low: a loose terminal or a lost leg; nothing is energized before it is found",
            ),
            licensed=True,
        ),
        Row(lambda f: True, Verdict.SUPPLY_RIGHT, lambda f: (f"within a tenth of {f.supply_v or 0:.0f} V",)),
    ),
)
MANIFOLD = Table(
    "manifold_pressure",
    "Is the gas pressure as on the plate?",
    "trade practice; the plate decides, and who sets it is licensed for gas",
    lambda f: KINDS[f.kind].fuel is Fuel.GAS,
    (
        Row(
            lambda f: bool(f.seen.gas_is_low or f.seen.gas_is_high),
            Verdict.LOOK_AT_GAS_PRESSURE,
            lambda f: (
                f"usual is {figure(Quantity.GAS_PRESSURE, 0.87)} for natural gas, "
                f"{figure(Quantity.GAS_PRESSURE, 2.6)} for LP",
                "over it, soot and carbon monoxide; the heater stays off until it is set by the plate",
            ),
            licensed=True,
        ),
        Row(lambda f: True, Verdict.GAS_PRESSURE_USUAL, lambda f: ("hold it against the plate's own figure",)),
    ),
)
INPUT = Table(
    "gas_input",
    "Does it burn what its plate says?",
    "trade practice: within a tenth of the plate, at sea level; less is allowed at altitude",
    lambda f: KINDS[f.kind].fuel is Fuel.GAS and bool(f.input_kw),
    (
        Row(
            lambda f: bool(f.seen.input_is_high),
            Verdict.INPUT_OFF_PLATE,
            lambda f: (
                f"more than its plate's {figure(Quantity.POWER, f.input_kw or 0.0)}: soot and carbon monoxide follow",
                "it stays off until pressure and jet are right",
            ),
            licensed=True,
        ),
        Row(
            lambda f: bool(f.seen.input_is_low),
            Verdict.INPUT_OFF_PLATE,
            lambda f: (
                f"less than its plate's {figure(Quantity.POWER, f.input_kw or 0.0)}",
                "pressure under load, a small pipe, a blocked jet; less is usual at altitude",
            ),
            licensed=True,
        ),
        Row(lambda f: True, Verdict.INPUT_RIGHT, lambda f: ("within a tenth of its plate",)),
    ),
)
AMPS = Table(
    "element_amps",
    "Does the element draw what its plate says?",
    "Ohm's law and the plate; trade practice for the tenth",
    lambda f: KINDS[f.kind].has_elements and bool(f.input_kw) and bool(f.supply_v),
    (
        Row(
            lambda f: bool(f.seen.amps_are_low or f.seen.amps_are_high),
            Verdict.CHANGE_ELEMENT,
            lambda f: (
                f"its plate gives {_plate_amps(f):.1f} A",
                "none: burnt out, or no supply; other: another rating or supply",
            ),
        ),
        Row(lambda f: True, Verdict.ELEMENT_SOUND, lambda f: ("within a tenth of its plate",)),
    ),
)


INSTRUMENTS: tuple[tuple[Table, tuple[Answer, ...]], ...] = (
    (
        TAP,
        (
            _number("verify.tap_c", _above("tap_burns"), BURNS_C - READ_K),
            _number("verify.tap_c", _above("tap_is_hot"), LEAST_SETPOINT_C + READ_K),
            _number("verify.tap_c", _below("tap_is_cool"), lambda f: f.setpoint_c - COOL_K),
        ),
    ),
    (
        OHMS,
        (
            _number("look.ohms", _below("ohms_are_low"), lambda f: (1 - SOUND_SHARE) * _plate_ohms(f)),
            _number("look.ohms", _above("ohms_are_high"), lambda f: (1 + SOUND_SHARE) * _plate_ohms(f)),
        ),
    ),
    (
        THERMOCOUPLE,
        (
            _number("gas.millivolts", _below("millivolts_fail"), RENEW_MV),
            _number("gas.millivolts", _below("millivolts_are_low"), SOUND_MV),
        ),
    ),
    (
        SUPPLY,
        (
            _number("power.volts", _below("supply_is_low"), lambda f: (1 - SUPPLY_SHARE) * (f.supply_v or 0.0)),
            _number("power.volts", _above("supply_is_high"), lambda f: (1 + SUPPLY_SHARE) * (f.supply_v or 0.0)),
        ),
    ),
    (
        INPUT,
        (
            _number("gas.input_kw", _below("input_is_low"), lambda f: (1 - SOUND_SHARE) * (f.input_kw or 0.0)),
            _number("gas.input_kw", _above("input_is_high"), lambda f: (1 + SOUND_SHARE) * (f.input_kw or 0.0)),
        ),
    ),
    (
        AMPS,
        (
            _number("power.amps", _below("amps_are_low"), lambda f: (1 - SOUND_SHARE) * _plate_amps(f)),
            _number("power.amps", _above("amps_are_high"), lambda f: (1 + SOUND_SHARE) * _plate_amps(f)),
        ),
    ),
    (
        MANIFOLD,
        (
            _number("gas.gas_kpa", _below("gas_is_low"), LEAST_GAS_KPA),
            _number("gas.gas_kpa", _above("gas_is_high"), MOST_GAS_KPA),
        ),
    ),
)
"""Each with the readings that bear on it; a reading may be held against more than one bound."""

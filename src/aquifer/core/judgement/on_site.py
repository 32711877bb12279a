"""Judgement at the moment it is needed: what an answer given at a visit means for what is done next.

A device without a signal cannot run the tables. It is given, for every answer that can be given, what they say of this
heater; which row applies is then looked up.
"""

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from itertools import product

from aquifer.core.judgement import bounds
from aquifer.core.judgement.instruments import INSTRUMENTS
from aquifer.core.judgement.rules import (
    CREEP_KPA,
    ELEMENT,
    EXPANSION,
    HIGH_PRESSURE_KPA,
    HOUSE_PRESSURE,
    LEAK,
    PRACTICE_QUESTIONS,
    QUESTIONS,
    RELIEF_VALVE,
    followed,
    mm,
)
from aquifer.core.judgement.rules import TABLES as OF_A_HEATER
from aquifer.core.judgement.table import Answer, Facts, Judgement, Option, PracticeOption, Row, Table, Verdict
from aquifer.core.kinds import KINDS, Fuel
from aquifer.core.observations import BY_FIELD, OUTLET, RUNS
from aquifer.core.units import Quantity, figure
from aquifer.core.vocabulary import (
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

BLOCKED_DRAIN = Table(
    "blocked_drain",
    "The drain does not run: what now?",
    "trade practice; an old tank never flushed is left, since what is disturbed may be what keeps it tight",
    lambda f: f.kind.is_tank,
    (
        Row(
            lambda f: f.seen.drain in (None, DrainFlow.FULL),
            Verdict.GO_ON,
            lambda f: ("it runs",),
        ),
        Row(
            lambda f: not f.was_flushed and f.age_years >= f.cutoff_years,
            Verdict.LEAVE_DRAIN,
            lambda f: (
                f"{f.age_years:.0f} years old and never flushed: close it and leave it alone",
                "what blocks it may be what keeps it tight",
            ),
            ask_lead=True,
        ),
        Row(
            lambda f: f.seen.drain is DrainFlow.SLOW,
            Verdict.OPEN_IN_STEPS,
            lambda f: ("solids gather in the port: short openings, closed between, clear it better than one long one",),
        ),
        Row(
            lambda f: f.seen.drain is DrainFlow.NONE and f.depth_mm >= f.drain_port_mm,
            Verdict.LEAVE_DRAIN,
            lambda f: (f"about {mm(f.depth_mm)} of deposit stands over the port: it is buried, not blocked",),
            ask_lead=True,
            option=PracticeOption.LEAVE_BLOCKED,
        ),
        Row(
            lambda f: f.seen.drain is DrainFlow.NONE and f.depth_mm >= f.drain_port_mm,
            Verdict.BREATH_THEN_WIRE,
            lambda f: (
                f"about {mm(f.depth_mm)} of deposit stands over the port",
                "cooled first; one breath, then the wire; nothing even so: leave it",
            ),
            ask_lead=True,
        ),
        Row(
            lambda f: True,
            Verdict.BREATH_THEN_WIRE,
            lambda f: (
                "see first that air gets in; then one breath back, then the wire, with the water cooled",
                "a loose flake comes free; a buried port does not",
            ),
        ),
    ),
    (
        Option(PracticeOption.CLEAR_DRAIN, "Try breath, wire and a wider valve before giving it up."),
        Option(PracticeOption.LEAVE_BLOCKED, "A buried port is left and the heater's replacement proposed."),
    ),
)

STOP_FLUSHING = Table(
    "stop_flushing",
    "Is it flushed enough?",
    "trade practice: what still comes says more than the time",
    lambda f: f.kind.is_tank,
    (
        Row(
            lambda f: f.seen.clarity in (Clarity.MILKY, Clarity.MURKY),
            Verdict.FLUSH_ON,
            lambda f: ("solids still come: a pulse or two more; if nothing changes after several, stop and record it",),
        ),
        Row(
            lambda f: f.seen.clarity is Clarity.CLOUDY,
            Verdict.FLUSH_ON,
            lambda f: ("fine dust still hangs in it: once more through",),
        ),
        Row(lambda f: True, Verdict.STOP_FLUSHING, lambda f: ("it runs clear",)),
    ),
)

SOLIDS = Table(
    "kind_of_solids",
    "Where do these solids come from?",
    "trade practice: what comes out says what comes in",
    lambda f: f.kind.is_tank and f.seen.texture is not None,
    (
        Row(
            lambda f: f.seen.texture in (Texture.SAND, Texture.STONES),
            Verdict.FIT_FILTER,
            lambda f: (
                "it comes with the water: a well, works in the main, or a filter that is missing or torn",
                "a spin-down filter before the heater keeps it out; flushing alone does not",
            ),
        ),
        Row(
            lambda f: f.seen.texture is Texture.SLUDGE,
            Verdict.LOOK_AT_ROD_AND_IRON,
            lambda f: (
                "sludge is iron, what a rod leaves behind, or both",
                "see the rod; rusty after standing, test the cold water for iron",
            ),
        ),
        Row(
            lambda f: f.softened,
            Verdict.TEST_HARDNESS,
            lambda f: (
                "flakes, grit and crust are lime, and a softener is on record",
                "test the water behind it: is there salt, is it bypassed?",
            ),
        ),
        Row(
            lambda f: True,
            Verdict.TEST_HARDNESS,
            lambda f: (
                "flakes, grit and crust are lime: the hotter and the harder, the more",
                f"{figure(Quantity.HARDNESS, f.hardness_mg_l)} is on record; a strip in the cold water tells",
            ),
        ),
    ),
)

BARE_WIRE_MM = 100.0
"""4 in; others take 6 in (150 mm). Trade practice."""
THIN_ROD_MM = 10.0
"""3/8 in of a rod that was 3/4 to 7/8 in. Trade practice."""

ROD = Table(
    "keep_rod",
    "Does this rod go back in?",
    "trade practice; bare wire shows that what is left no longer reaches the whole tank",
    lambda f: f.kind.is_tank,
    (
        Row(
            lambda f: f.seen.rod in (RodGrade.MOSTLY_GONE, RodGrade.GONE),
            Verdict.RENEW_ROD,
            lambda f: (
                "it is bare wire: the tank itself is eaten from now on"
                if f.seen.rod is RodGrade.GONE
                else "it will not last until the next look",
                "never leave the port without a rod because of a smell",
            ),
        ),
        Row(
            lambda f: (f.seen.bare_wire_mm or 0.0) >= BARE_WIRE_MM,
            Verdict.RENEW_ROD,
            lambda f: (
                f"{mm(BARE_WIRE_MM)} of wire or more is bare: the lining there has nothing beside it",
                "some renew only at half as much again; a year is long where wire is bare",
            ),
        ),
        Row(
            lambda f: f.seen.rod_mm is not None and f.seen.rod_mm < THIN_ROD_MM,
            Verdict.RENEW_ROD,
            lambda f: (f"thinner than {mm(THIN_ROD_MM)}: under half, it will not last until the next look",),
        ),
        Row(
            lambda f: f.seen.rod is RodGrade.HALF,
            Verdict.KEEP_ROD,
            lambda f: ("half of it is left; carry a new one next time",),
        ),
        Row(lambda f: True, Verdict.KEEP_ROD, lambda f: ("enough is left",)),
    ),
)

SENSOR = Table(
    "flame_sensor_tip",
    "What does the tip say?",
    "trade practice",
    lambda f: KINDS[f.kind].fuel is Fuel.GAS,
    (
        Row(
            lambda f: f.seen.sensor_tip is SensorTip.CARBON,
            Verdict.CLEAN_SENSOR,
            lambda f: (
                "carbon means a flame short of air: clean it, then look at air, burner and flue",
                "soot, a yellow flame or a smell of exhaust: gas off, air the room, a licensed fitter",
            ),
            ask_lead=True,
            licensed=True,
        ),
        Row(
            lambda f: f.seen.sensor_tip is SensorTip.CORRODED,
            Verdict.RENEW_SENSOR,
            lambda f: ("its metal is eaten: it will fail again; renew it with the same rating",),
        ),
        Row(lambda f: True, Verdict.KEEP_SENSOR, lambda f: ("clean, so look at the flame and the connection",)),
    ),
)

SCOPE = Table(
    "fixture_or_heater",
    "One faucet or all?",
    "trade practice: the scope of a complaint decides; the younger the heater, the likelier the fixture",
    lambda f: True,
    (
        Row(
            lambda f: f.seen.taps is TapsAffected.ONE,
            Verdict.LOOK_AT_FIXTURE,
            lambda f: ("one faucet alone: its screen, cartridge or mixing valve, not the heater",),
        ),
        Row(
            lambda f: True,
            Verdict.LOOK_AT_HEATER,
            lambda f: (
                "every faucet: the heater, its screens, or what feeds it",
                "all lukewarm: dip tube, lower element, or cold that crosses over at a fixture",
            ),
        ),
    ),
)


TANKS_BEAR_KPA = 1034.0
"""150 psi, as most tanks' plates say. Trade practice."""

VALVE_FITS = Table(
    "valve_fits",
    "Does the new valve fit this heater?",
    "trade practice and codes: a valve passes at least what the heater puts in, opens below what the tank bears, and "
    "its probe sits in the water",
    lambda f: f.input_kw is not None or f.seen.new_valve_opens_kpa is not None or f.seen.new_probe_mm is not None,
    (
        Row(
            lambda f: (f.seen.new_valve_rating_kw or math.inf) < (f.input_kw or 0.0),
            Verdict.WRONG_VALVE,
            lambda f: (
                f"the heater puts in {figure(Quantity.POWER, f.input_kw or 0.0)}, more than this valve passes",
                "the old one may have been wrong too: go by the plate",
            ),
            licensed=True,
        ),
        Row(
            lambda f: (f.seen.new_valve_opens_kpa or 0.0) > TANKS_BEAR_KPA,
            Verdict.WRONG_VALVE,
            lambda f: (
                f"it opens above {figure(Quantity.PRESSURE, TANKS_BEAR_KPA)}, the most that tanks usually bear",
                "unless the tank's own plate allows more",
            ),
            licensed=True,
        ),
        Row(
            lambda f: f.seen.new_probe_mm is not None and f.seen.new_probe_mm < (f.probe_least_mm or 0.0),
            Verdict.WRONG_VALVE,
            lambda f: (
                f"its probe has to be {figure(Quantity.LENGTH, f.probe_least_mm or 0.0)} long to reach the water",
                "a short one never feels how hot it is; a nipple between needs more",
            ),
            licensed=True,
        ),
        Row(lambda f: True, Verdict.VALVE_FITS, lambda f: ("it passes what the heater puts in",)),
    ),
)


def _seen(name: str, of: Callable[[str], object]) -> Callable[[Facts, str | None], Facts]:
    return lambda f, word: replace(f, seen=replace(f.seen, **{name: None if word is None else of(word)}))  # type: ignore[arg-type]


def _rating(f: Facts, word: str | None) -> float | None:
    return None if word is None else (f.input_kw or 0.0) * (1.0 if word == "above" else 0.9)


def _probe(f: Facts, word: str | None) -> float | None:
    return None if word is None else (f.probe_least_mm or 0.0) * (1.0 if word == "above" else 0.9)


def _is(word: str) -> bool:
    return word == "true"


_OUTLETS = tuple(condition.value for condition in BY_FIELD[OUTLET].looks)
_LOST = Answer(
    "look.element_failed",
    ("true",),
    lambda f, word: replace(f, seen=replace(f.seen, element_failures=f.seen.element_failures + (word == "true"))),
)
_ASKED: tuple[tuple[Table, tuple[Answer, ...]], ...] = (
    (
        BLOCKED_DRAIN,
        (Answer("flush.drain_flow", tuple(DrainFlow), _seen("drain", DrainFlow)),),
    ),
    (SOLIDS, (Answer("flush.texture", tuple(Texture), _seen("texture", Texture)),)),
    (STOP_FLUSHING, (Answer("flush.clarity", tuple(Clarity), _seen("clarity", Clarity)),)),
    (
        RELIEF_VALVE,
        (
            Answer(
                "valve.outcome",
                tuple(valve_outcome for valve_outcome in ValveOutcome if valve_outcome is not ValveOutcome.NOT_TESTED),
                lambda f, word: replace(f, valve_outcome=ValveOutcome(word) if word else None),
            ),
            Answer(OUTLET, _OUTLETS, _seen("valve_drips", lambda word: word in RUNS)),
        ),
    ),
    (
        ROD,
        (
            Answer("rod.grade", tuple(RodGrade), _seen("rod", RodGrade)),
            Answer(
                "rod.bare_wire_mm",
                ("below", "above"),
                _seen("bare_wire_mm", lambda word: BARE_WIRE_MM if word == "above" else 0.0),
                BARE_WIRE_MM,
            ),
            Answer(
                "rod.diameter_mm",
                ("below", "above"),
                _seen("rod_mm", lambda word: THIN_ROD_MM * (1.1 if word == "above" else 0.9)),
                THIN_ROD_MM,
            ),
        ),
    ),
    (
        ELEMENT,
        (_LOST, Answer("look.noise", tuple(Noise), lambda f, word: replace(f, noise=Noise(word) if word else None))),
    ),
    (LEAK, (Answer("pressure.falls", ("true",), _seen("pressure_falls", _is)),)),
    (
        HOUSE_PRESSURE,
        (
            Answer(
                "pressure.static_kpa",
                ("below", "above"),
                lambda f, word: replace(f, pressure_kpa=HIGH_PRESSURE_KPA * (1.1 if word == "above" else 0.6)),
                HIGH_PRESSURE_KPA,
            ),
        ),
    ),
    (
        EXPANSION,
        (
            Answer(
                "pressure.creep_kpa",
                ("below", "above"),
                _seen("creep_kpa", lambda word: 2 * CREEP_KPA if word == "above" else 0.0),
                CREEP_KPA,
            ),
            Answer(
                "expansion_tank.at_valve",
                tuple(ExpansionTankPin),
                lambda f, word: replace(f, expansion_tank_pin=ExpansionTankPin(word) if word else None),
            ),
        ),
    ),
    (
        VALVE_FITS,
        (
            Answer(
                "valve.new_rating_kw",
                ("below", "above"),
                lambda f, word: replace(f, seen=replace(f.seen, new_valve_rating_kw=_rating(f, word))),
                # As much as the heater puts in is enough.
                lambda f: 0.999 * (f.input_kw or 0.0),
            ),
            Answer(
                "valve.new_probe_length_mm",
                ("below", "above"),
                lambda f, word: replace(f, seen=replace(f.seen, new_probe_mm=_probe(f, word))),
                lambda f: 0.999 * (f.probe_least_mm or 0.0),
            ),
            Answer(
                "valve.new_set_pressure_kpa",
                ("below", "above"),
                _seen(
                    "new_valve_opens_kpa",
                    lambda word: TANKS_BEAR_KPA * (1.1 if word == "above" else 1.0),
                ),
                1.001 * TANKS_BEAR_KPA,
            ),
        ),
    ),
    *INSTRUMENTS,
    *bounds.tables(),
    (SENSOR, (Answer("gas.sensor_tip", tuple(SensorTip), _seen("sensor_tip", SensorTip)),)),
    (SCOPE, (Answer("look.taps", tuple(TapsAffected), _seen("taps", TapsAffected)),)),
)


TABLES = tuple(table for table, _ in _ASKED)


@dataclass(frozen=True)
class Case:
    """What a table says where just these answers were given, None where none was."""

    at: tuple[str | None, ...]
    judgement: Judgement


@dataclass(frozen=True)
class OnSiteRule:
    """One table at a visit."""

    rule: str
    question: str
    answers: tuple[Answer, ...]
    cases: tuple[Case, ...]
    options: tuple[tuple[Option, bool], ...]
    """Where practitioners differ, and whether the company follows it."""


@dataclass(frozen=True)
class PracticeQuestion:
    """A question on which practitioners differ, with its options in words: the usual one first."""

    question: str
    options: tuple[Option, ...]


def practice_questions() -> list[PracticeQuestion]:
    """Every question in which a company takes a side, in the order of ``PRACTICE_QUESTIONS``."""
    words = {option.option: option for table in (*OF_A_HEATER, *TABLES) for option in table.options}
    return [
        PracticeQuestion(QUESTIONS[options[0]], tuple(words[option] for option in options))
        for options in PRACTICE_QUESTIONS
    ]


def on_site_rules(facts: Facts, practice_options: Iterable[str] = ()) -> list[OnSiteRule]:
    """What each table says of a heater for every answer that a visit can give.

    Parameters: facts, as known before the visit; practice_options, the company's. What earlier visits answered to the
    same questions does not count: it is asked anew.
    Raises: ValueError naming an unknown option.
    """
    follows = followed(practice_options)
    on_site_rules = []
    for table, answers in _ASKED:
        cases = []
        for words in product(*((None, *answer.words) for answer in answers)):
            if not any(words):
                continue
            there = facts
            for answer, word in zip(answers, words, strict=True):
                there = answer.puts(there, word)
            if table.applies(there):
                cases.append(Case(words, table.decide(there, follows)))
        if cases:
            options = tuple((option, option.option in follows) for option in table.options)
            own = tuple(answer.of(facts) for answer in answers)
            on_site_rules.append(OnSiteRule(table.rule, table.question, own, tuple(cases), options))
    return on_site_rules

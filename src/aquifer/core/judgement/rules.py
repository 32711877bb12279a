"""The tables of the trade. Each row reads: when this holds, that verdict, because of this."""

import datetime
from collections.abc import Iterable

import numpy as np

from aquifer.core import tank
from aquifer.core.judgement.table import Facts, Judgement, Option, PracticeOption, Row, Table, Verdict
from aquifer.core.kinds import KINDS
from aquifer.core.parameters import ANODE, DAYS_PER_YEAR
from aquifer.core.units import Quantity, figure
from aquifer.core.vocabulary import Alloy, ExpansionTankPin, Noise, ValveOutcome

GENTLE_AGE_SHARE = 0.5
"""From this share of the cut-off age a first flush is done gently, in short openings. Assumption."""
HIGH_PRESSURE_KPA = 552.0
"""80 psi: above it a regulator is wanted. Trade practice, and common in codes."""
CREEP_KPA = 20.0
"""A rise beyond a gauge's own error. Assumption."""
LEAST_SETPOINT_C = 49.0
"""120 degF: cooler than that lets bacteria grow. Trade practice."""
LONG_SETPOINT_C = 55.0
"""Above it a cooler setting is worth proposing; 49 degC (120 degF) is the trade's usual ceiling against scalding."""
ELEMENT_YEARS = 3.0
"""Two elements lost within it condemn the heater; over a tank's whole life they need not. Trade practice."""

_LOUD = (Noise.BUBBLING, Noise.POPPING, Noise.KETTLING)


def mm(length_mm: float) -> str:
    """A length within a sentence."""
    return figure(Quantity.LENGTH, round(length_mm))


def _celsius(temperature_c: float) -> str:
    return figure(Quantity.TEMPERATURE, round(temperature_c))


def _always(facts: Facts) -> bool:
    return True


def _is_tank(facts: Facts) -> bool:
    return facts.kind.is_tank


FLUSH_OR_LEAVE = Table(
    "flush_or_leave",
    "Is this tank flushed at all?",
    "trade practice; the cut-off is a setting, since practice differs from 3 to 10 years",
    _is_tank,
    (
        Row(
            lambda f: not f.was_flushed and f.age_years >= f.cutoff_years,
            Verdict.LEAVE_ALONE,
            lambda f: (
                f"{f.age_years:.0f} years old and no flush on record; the company leaves such tanks from "
                f"{f.cutoff_years:g}",
                "disturbed deposit may be what seals a flaw",
            ),
            ask_lead=True,
            option=PracticeOption.LEAVE_OLD,
        ),
        Row(
            lambda f: f.depth_mm >= f.drain_port_mm,
            Verdict.FLUSH_GENTLY,
            lambda f: (
                f"about {mm(f.depth_mm)} of deposit stands above the drain port at {mm(f.drain_port_mm)}",
                "expect the drain to block: open it in short steps",
            ),
            ask_lead=True,
        ),
        Row(
            lambda f: not f.was_flushed and f.age_years >= GENTLE_AGE_SHARE * f.cutoff_years,
            Verdict.FLUSH_GENTLY,
            lambda f: (f"first flush after {f.age_years:.0f} years",),
        ),
        Row(_always, Verdict.FLUSH, lambda f: ("sound, and flushed before or still new",)),
    ),
    (
        Option(
            PracticeOption.LEAVE_OLD,
            "An old tank that was never flushed is left alone: the deposit may be what keeps it tight.",
        ),
        Option(PracticeOption.ALWAYS_FLUSH, "Every tank is flushed; only a blocked drain stops it."),
    ),
)

RELIEF_VALVE = Table(
    "keep_valve",
    "Does the relief valve stay?",
    "trade practice; that it is exercised at least every 12 months is not in question here, since an untested valve "
    "protects nobody",
    _always,
    (
        Row(
            lambda f: f.valve_outcome is ValveOutcome.NO_FLOW,
            Verdict.REPLACE_VALVE,
            lambda f: (
                "it passed no water when last exercised: the heater is off until it is replaced",
                "same ratings, long enough probe",
            ),
            licensed=True,
        ),
        Row(
            lambda f: f.valve_outcome is ValveOutcome.FLOWS_AND_WEEPS,
            Verdict.EXERCISE_THEN_REPLACE,
            lambda f: ("it did not reseat: snap it once more, grit may hold it open; still weeping, replace it",),
            option=PracticeOption.EXERCISE_DRIPPING,
            licensed=True,
        ),
        Row(
            lambda f: f.valve_outcome is ValveOutcome.FLOWS_AND_WEEPS and _pressure_is_wrong(f),
            Verdict.REPLACE_VALVE,
            lambda f: (
                "it did not reseat when last exercised",
                "cure the pressure first, or the new one will weep too",
            ),
            licensed=True,
        ),
        Row(
            lambda f: f.valve_outcome is ValveOutcome.FLOWS_AND_WEEPS,
            Verdict.REPLACE_VALVE,
            lambda f: ("it did not reseat when last exercised, and a weep only grows",),
            licensed=True,
        ),
        Row(
            lambda f: bool(f.seen.valve_drips) and KINDS[f.kind].has_plug,
            Verdict.EXERCISE_THEN_REPLACE,
            lambda f: ("a vehicle tank weeps when its air cushion is lost: restore that first",),
        ),
        Row(
            lambda f: bool(f.seen.valve_drips) and _pressure_is_wrong(f),
            Verdict.KEEP_VALVE,
            lambda f: ("it drips because the pressure is too high: cure that, not the valve",),
            ask_lead=True,
        ),
        Row(
            lambda f: bool(f.seen.valve_drips),
            Verdict.EXERCISE_THEN_REPLACE,
            lambda f: ("grit may hold it open: exercise it once; still dripping, or no flow at all, replace it",),
            option=PracticeOption.EXERCISE_DRIPPING,
            licensed=True,
        ),
        Row(
            lambda f: bool(f.seen.valve_drips),
            Verdict.REPLACE_VALVE,
            lambda f: ("it drips, and a drip only grows",),
            licensed=True,
        ),
        Row(
            lambda f: f.valve_age_years >= f.valve_replace_at_years,
            Verdict.REPLACE_VALVE,
            lambda f: (
                f"{f.valve_age_years:.0f} years old; replaced at {f.valve_replace_at_years:g} on this water",
                "carry a spare: exercising an old valve may start a drip",
            ),
            licensed=True,
        ),
        Row(
            lambda f: f.valve_age_years >= f.valve_warn_at_years and f.valve_outcome is None,
            Verdict.REPLACE_VALVE,
            lambda f: (f"{f.valve_age_years:.0f} years old and never known to have run",),
            option=PracticeOption.REPLACE_OLD_UNTRIED,
            licensed=True,
        ),
        Row(_always, Verdict.KEEP_VALVE, lambda f: ("ran when last exercised, or is new",)),
    ),
    (
        Option(
            PracticeOption.EXERCISE_YEARLY,
            "Every valve is exercised yearly; one that drips afterwards had failed already.",
        ),
        Option(
            PracticeOption.REPLACE_OLD_UNTRIED,
            "An old valve that never ran is not tried but replaced: it would drip afterwards.",
        ),
        Option(PracticeOption.REPLACE_DRIPPING, "A dripping valve has failed."),
        Option(PracticeOption.EXERCISE_DRIPPING, "A dripping valve is exercised once, since grit may hold it open."),
    ),
)

ROD_ALLOY = Table(
    "rod_alloy",
    "Does the anode's alloy suit the water?",
    "Ohm's law in ``anode``; the threshold is an assumption. A port is never left without a rod because of a smell.",
    lambda f: f.protection_ratio is not None,
    (
        Row(
            lambda f: (f.protection_ratio or 0) < ANODE.weak_protection and f.alloy is not Alloy.MAGNESIUM,
            Verdict.CHANGE_ALLOY,
            lambda f: (
                f"only {f.protection_ratio or 0:.0%} of the wanted current flows: it lasts because it hardly protects",
                "magnesium or a powered anode suits this water",
            ),
        ),
        Row(
            lambda f: (f.protection_ratio or 0) < ANODE.weak_protection,
            Verdict.CHANGE_ALLOY,
            lambda f: (
                f"only {f.protection_ratio or 0:.0%} of the wanted current flows, even with magnesium",
                "a powered anode suits this water",
            ),
        ),
        Row(_always, Verdict.KEEP_ALLOY, lambda f: (f"{f.protection_ratio or 0:.0%} of the wanted current flows",)),
    ),
)

ELEMENT = Table(
    "element_or_heater",
    "A lower element burnt out: element or heater?",
    "trade practice",
    lambda f: KINDS[f.kind].has_elements and f.seen.element_failures > 0,
    (
        Row(
            lambda f: f.seen.element_failures >= 2,
            Verdict.CHANGE_HEATER,
            lambda f: (
                f"{f.seen.element_failures} elements lost within {ELEMENT_YEARS:.0f} years: the next will follow",
                "look for the bed first; dry firing, a surge or heat tape kill elements too",
            ),
            ask_lead=True,
        ),
        Row(
            lambda f: f.noise in _LOUD,
            Verdict.CHANGE_HEATER,
            lambda f: ("it gurgles whenever it heats: deposit covers the element",),
            ask_lead=True,
            option=PracticeOption.HEATER_AT_ONCE,
        ),
        Row(
            _always,
            Verdict.CHANGE_ELEMENT,
            lambda f: (
                "a first failure may be bridged with a new element; flush the bed away from it in the same visit",
            ),
        ),
    ),
    (
        Option(PracticeOption.ELEMENT_FIRST, "A new element gains time for little money."),
        Option(PracticeOption.HEATER_AT_ONCE, "It will recur: replace the heater."),
    ),
)


def _pressure_is_wrong(f: Facts) -> bool:
    return f.pressure_kpa > HIGH_PRESSURE_KPA or (f.seen.creep_kpa or 0) > CREEP_KPA


LEAK = Table(
    "pressure_holds",
    "Does it hold its pressure with the cold shut?",
    "trade practice",
    lambda f: f.seen.pressure_falls is not None or f.seen.others_excluded,
    (
        Row(
            lambda f: f.seen.others_excluded,
            Verdict.CHANGE_HEATER,
            lambda f: (
                *(("the pressure falls with the cold shut",) if f.seen.pressure_falls else ()),
                "it is wet below, and joints, relief valve and drain are dry",
            ),
            ask_lead=True,
            licensed=True,
        ),
        Row(
            lambda f: bool(f.seen.pressure_falls),
            Verdict.FIND_THE_LEAK,
            lambda f: (
                "the pressure falls with the cold shut",
                "exclude taps, joints, relief valve and drain before the tank",
            ),
        ),
        Row(_always, Verdict.KEEP_PRESSURE, lambda f: ("it held",)),
    ),
)

HOUSE_PRESSURE = Table(
    "house_pressure",
    "Is the house's pressure too high?",
    "trade practice; a regulator from 80 psi is common in codes",
    _always,
    (
        Row(
            lambda f: f.pressure_kpa > HIGH_PRESSURE_KPA,
            Verdict.FIT_REGULATOR,
            lambda f: (
                f"more than {figure(Quantity.PRESSURE, HIGH_PRESSURE_KPA)} stands on the house, the most that is usual",
                "before the expansion tank: its air is set to the pressure behind the regulator",
            ),
            licensed=True,
        ),
        Row(_always, Verdict.KEEP_PRESSURE, lambda f: ("nothing found against it",)),
    ),
)

EXPANSION = Table(
    "expansion",
    "Has the water room to expand?",
    "trade practice",
    _always,
    (
        Row(
            lambda f: f.expansion_tank_pin is ExpansionTankPin.WATER,
            Verdict.RENEW_EXPANSION_TANK,
            lambda f: ("water came out of its air valve: the bladder is torn",),
            licensed=True,
        ),
        Row(
            lambda f: f.expansion_tank_pin is ExpansionTankPin.NOTHING and f.expansion_tank,
            Verdict.RECHARGE_EXPANSION_TANK,
            lambda f: ("nothing came out of its air valve: pump it up; it does not hold, renew it",),
        ),
        Row(
            lambda f: (f.seen.creep_kpa or 0) > CREEP_KPA and f.expansion_tank,
            Verdict.RECHARGE_EXPANSION_TANK,
            lambda f: (
                "the pressure crept up while nobody drew: set its air to the house's pressure, then test again",
                "creep without firing is a leaking regulator; creep again with a sound charge, renew the tank",
            ),
        ),
        Row(
            lambda f: (
                ((f.seen.creep_kpa or 0) > CREEP_KPA or f.seen.closed_system is True)
                and not f.expansion_tank
                and f.kind.is_tank
            ),
            Verdict.FIT_EXPANSION_TANK,
            lambda f: ("the system is closed and has no expansion tank: each heating strains tank, valve and joints",),
            licensed=True,
        ),
        Row(_always, Verdict.KEEP_EXPANSION, lambda f: ("nothing found against it",)),
    ),
)

WATER = Table(
    "water_and_setting",
    "Should the water or the setting change?",
    "``sediment`` and ``scale``: where cleaning leaves a heater over its limit, more cleaning does not help",
    _always,
    (
        Row(
            lambda f: not f.softened and f.softener_suspected > 0.5,
            Verdict.ASK_ABOUT_SOFTENER,
            lambda f: (
                f"nothing came out time after time on water of {figure(Quantity.HARDNESS, f.hardness_mg_l)}",
                "is there a softener that nobody recorded?",
            ),
        ),
        Row(
            lambda f: f.over_after_service > 0.5 and not f.softened and f.setpoint_c > LONG_SETPOINT_C,
            Verdict.COOLER_SETPOINT,
            lambda f: (
                "the strongest cleaning would more likely than not leave it over its limit",
                f"set cooler than {_celsius(f.setpoint_c)} but not under {_celsius(LEAST_SETPOINT_C)}, or soften it",
                "not where it is stored hot on purpose and mixed down",
            ),
        ),
        Row(
            lambda f: f.over_after_service > 0.5 and not f.softened,
            Verdict.SOFTEN,
            lambda f: ("the strongest cleaning would more likely than not leave it over its limit",),
        ),
        Row(
            lambda f: f.over_after_service > 0.5,
            Verdict.ASK_ABOUT_SOFTENER,
            lambda f: (
                "a softener is on record, and yet the strongest cleaning would leave it over its limit",
                "test the water behind the softener: is there salt, is it bypassed?",
            ),
        ),
        Row(_always, Verdict.KEEP_WATER, lambda f: ("cleaning keeps up with this water",)),
    ),
)


def _is_worn_out(f: Facts) -> bool:
    loud = np.array(f.noise in _LOUD)
    return bool(tank.is_worn_out(np.array(f.age_years), np.array(f.hardness_mg_l), loud))


REPLACEMENT = Table(
    "replace_before_failure",
    "Is it time for a new heater?",
    "``tank``; trade practice for rust at a seam, and for old and noisy tanks on hard water",
    _is_tank,
    (
        Row(
            lambda f: bool(f.seen.rusty_seam),
            Verdict.REPLACE_BEFORE_FAILURE,
            lambda f: ("rust at a seam: the strongest sign that it will leak",),
            ask_lead=True,
            licensed=True,
        ),
        Row(
            lambda f: (f.failure_12_months or 0) >= f.replace_at,
            Verdict.REPLACE_BEFORE_FAILURE,
            lambda f: (
                f"{f.failure_12_months or 0:.0%} likely to fail within 12 months; we advise from {f.replace_at:.0%}",
            ),
            ask_lead=True,
            licensed=True,
        ),
        Row(
            _is_worn_out,
            Verdict.REPLACE_BEFORE_FAILURE,
            lambda f: (f"{f.age_years:.0f} years old on hard water, and noisy",),
            ask_lead=True,
            licensed=True,
        ),
        Row(_always, Verdict.KEEP_HEATER, lambda f: ("nothing speaks for a new one yet",)),
    ),
)

TABLES = (FLUSH_OR_LEAVE, RELIEF_VALVE, ROD_ALLOY, ELEMENT, LEAK, HOUSE_PRESSURE, EXPANSION, WATER, REPLACEMENT)
PRACTICE_QUESTIONS: tuple[tuple[PracticeOption, ...], ...] = (
    (PracticeOption.LEAVE_OLD, PracticeOption.ALWAYS_FLUSH),
    (PracticeOption.EXERCISE_YEARLY, PracticeOption.REPLACE_OLD_UNTRIED),
    (PracticeOption.REPLACE_DRIPPING, PracticeOption.EXERCISE_DRIPPING),
    (PracticeOption.ELEMENT_FIRST, PracticeOption.HEATER_AT_ONCE),
    (PracticeOption.CLEAR_DRAIN, PracticeOption.LEAVE_BLOCKED),
)
"""Questions of practice: a company follows one of each, the first until it says otherwise. "Never touch an old relief
valve" is not among them: no option may leave a valve untested for more than 12 months."""


QUESTIONS: dict[PracticeOption, str] = {
    PracticeOption.LEAVE_OLD: "An old tank that was never flushed?",
    PracticeOption.EXERCISE_YEARLY: "An old relief valve that was never tried?",
    PracticeOption.REPLACE_DRIPPING: "A relief valve that drips after its test?",
    PracticeOption.ELEMENT_FIRST: "A lower element burnt out: element or heater?",
    PracticeOption.CLEAR_DRAIN: "A drain that does not run?",
}
"""What each question is about, by its usual side."""


def followed(chosen: Iterable[str]) -> frozenset[PracticeOption]:
    """The options a company follows, one of each question.

    Parameters: chosen, names of options; what it does not say is the usual side.
    Raises: ValueError naming an unknown option.
    """
    names = {option.value for option in PracticeOption}
    wanted = set(chosen)
    if unknown := wanted - names:
        raise ValueError(f"unknown option {sorted(unknown)[0]!r}; allowed: {', '.join(sorted(names))}")
    return frozenset(
        next((option for option in options if option.value in wanted), options[0]) for options in PRACTICE_QUESTIONS
    )


def lately_lost(days: Iterable[datetime.date]) -> int:
    """How many elements failed within ``ELEMENT_YEARS`` before the last that did. Parameters: days of each failure."""
    lost = sorted(days)
    return sum((lost[-1] - on).days <= ELEMENT_YEARS * DAYS_PER_YEAR for on in lost)


def judge(facts: Facts, practice_options: Iterable[str] = ()) -> list[Judgement]:
    """The verdict of every table that concerns a heater. Parameters: facts; the company's options, by name."""
    follows = followed(practice_options)
    return [table.decide(facts, follows) for table in TABLES if table.applies(facts)]


DRAIN_PORT_MM = 50.0
"""Height of the drain port's lip where nobody measured it. Assumption."""

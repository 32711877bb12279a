"""The tables of judgement: which row decides, and that no school lengthens a safety cap."""

import datetime
import json
from dataclasses import replace

import pytest

from aquifer.core import case, judgement
from aquifer.core.case.fleet import as_fleet
from aquifer.core.judgement import Facts, PracticeOption, Seen, Verdict, judge, on_site, rules
from aquifer.core.judgement import facts as judged_facts
from aquifer.core.kinds import HeaterKind
from aquifer.core.parameters import LEARNING
from aquifer.core.vocabulary import Alloy, ExpansionTankPin, Noise, ValveOutcome
from tests.core.fleets import answer, document

PLAIN = Facts(
    kind=HeaterKind.GAS_TANK,
    age_years=3,
    was_flushed=True,
    cutoff_years=6,
    depth_mm=2,
    drain_port_mm=50,
    over_after_service=0.1,
    setpoint_c=55,
    hardness_mg_l=150,
    softened=False,
    softener_suspected=0.0,
    noise=Noise.QUIET,
    alloy=Alloy.MAGNESIUM,
    protection_ratio=0.8,
    valve_age_years=3,
    valve_replace_at_years=6,
    valve_warn_at_years=5,
    valve_outcome=ValveOutcome.FLOWS_AND_RESEATS,
    expansion_tank=True,
    expansion_tank_pin=ExpansionTankPin.AIR,
    pressure_kpa=400,
    failure_12_months=0.03,
    replace_at=0.2,
    seen=Seen(),
)


def verdict(rule: str, practice_options: tuple[PracticeOption, ...] = (), **facts) -> judgement.Judgement:
    return next(one for one in judge(replace(PLAIN, **facts), practice_options) if one.rule == rule)


@pytest.mark.parametrize(
    ("age", "flushed", "depth", "says", "asks"),
    [
        (1, False, 2, Verdict.FLUSH, False),
        (4, False, 2, Verdict.FLUSH_GENTLY, False),
        (7, False, 2, Verdict.LEAVE_ALONE, True),
        (15, True, 2, Verdict.FLUSH, False),
        (8, True, 70, Verdict.FLUSH_GENTLY, True),
        (8, False, 70, Verdict.LEAVE_ALONE, True),
    ],
)
def test_flush_or_leave_by_age_history_and_depth(age, flushed, depth, says, asks):
    found = verdict("flush_or_leave", age_years=age, was_flushed=flushed, depth_mm=depth)
    assert (found.verdict, found.ask_lead) == (says, asks)
    assert all(found.because)


def test_the_cut_off_and_the_school_are_the_companys():
    old = {"age_years": 7, "was_flushed": False}
    assert verdict("flush_or_leave", **old, cutoff_years=10).verdict is Verdict.FLUSH_GENTLY
    assert verdict("flush_or_leave", **old, cutoff_years=3).verdict is Verdict.LEAVE_ALONE
    assert verdict("flush_or_leave", (PracticeOption.ALWAYS_FLUSH,), **old).verdict is Verdict.FLUSH_GENTLY


def test_a_rod_that_hardly_protects_is_not_praised():
    weak = verdict("rod_alloy", protection_ratio=0.3, alloy=Alloy.ALUMINIUM)
    assert weak.verdict is Verdict.CHANGE_ALLOY and "30%" in weak.because[0] and "magnesium" in weak.because[1]
    assert "powered" in verdict("rod_alloy", protection_ratio=0.3).because[1]
    assert verdict("rod_alloy").verdict is Verdict.KEEP_ALLOY


@pytest.mark.parametrize(
    ("facts", "says"),
    [
        ({}, Verdict.KEEP_VALVE),
        ({"valve_outcome": None}, Verdict.KEEP_VALVE),
        ({"valve_outcome": ValveOutcome.FLOWS_AND_WEEPS}, Verdict.REPLACE_VALVE),
        ({"valve_outcome": ValveOutcome.NO_FLOW}, Verdict.REPLACE_VALVE),
        ({"valve_age_years": 7}, Verdict.REPLACE_VALVE),
        ({"seen": Seen(valve_drips=True)}, Verdict.REPLACE_VALVE),
        ({"seen": Seen(valve_drips=True), "pressure_kpa": 700}, Verdict.KEEP_VALVE),
        ({"seen": Seen(valve_drips=True), "kind": HeaterKind.MOBILE_TANK}, Verdict.EXERCISE_THEN_REPLACE),
    ],
)
def test_a_valve_stays_only_if_it_runs_reseats_and_is_not_old(facts, says):
    assert verdict("keep_valve", **facts).verdict is says


def test_schools_differ_about_a_drip_and_about_an_old_valve_that_never_ran():
    drips = {"seen": Seen(valve_drips=True)}
    assert verdict("keep_valve", (PracticeOption.EXERCISE_DRIPPING,), **drips).verdict is Verdict.EXERCISE_THEN_REPLACE
    weeps = {"valve_outcome": ValveOutcome.FLOWS_AND_WEEPS}
    assert verdict("keep_valve", (PracticeOption.EXERCISE_DRIPPING,), **weeps).verdict is Verdict.EXERCISE_THEN_REPLACE
    untried = {"valve_age_years": 5.5, "valve_outcome": None}
    assert verdict("keep_valve", **untried).verdict is Verdict.KEEP_VALVE
    assert verdict("keep_valve", (PracticeOption.REPLACE_OLD_UNTRIED,), **untried).verdict is Verdict.REPLACE_VALVE


def test_a_failed_valve_is_work_for_a_licence():
    assert verdict("keep_valve", valve_outcome=ValveOutcome.NO_FLOW).licensed


@pytest.mark.parametrize(
    ("facts", "says"),
    [
        ({}, [Verdict.KEEP_PRESSURE, Verdict.KEEP_EXPANSION]),
        ({"pressure_kpa": 600}, [Verdict.FIT_REGULATOR, Verdict.KEEP_EXPANSION]),
        ({"expansion_tank_pin": ExpansionTankPin.WATER}, [Verdict.KEEP_PRESSURE, Verdict.RENEW_EXPANSION_TANK]),
        ({"seen": Seen(creep_kpa=80)}, [Verdict.KEEP_PRESSURE, Verdict.RECHARGE_EXPANSION_TANK]),
        ({"expansion_tank_pin": ExpansionTankPin.NOTHING}, [Verdict.KEEP_PRESSURE, Verdict.RECHARGE_EXPANSION_TANK]),
        (
            {"expansion_tank_pin": ExpansionTankPin.NOTHING, "expansion_tank": False},
            [Verdict.KEEP_PRESSURE, Verdict.KEEP_EXPANSION],
        ),
        # Neither hides the other; the regulator first: an expansion tank's air is set to the pressure behind it.
        ({"pressure_kpa": 640, "seen": Seen(creep_kpa=80)}, [Verdict.FIT_REGULATOR, Verdict.RECHARGE_EXPANSION_TANK]),
        (
            {"pressure_kpa": 640, "expansion_tank_pin": ExpansionTankPin.WATER},
            [Verdict.FIT_REGULATOR, Verdict.RENEW_EXPANSION_TANK],
        ),
        (
            {"seen": Seen(creep_kpa=80), "expansion_tank": False, "expansion_tank_pin": None},
            [Verdict.KEEP_PRESSURE, Verdict.FIT_EXPANSION_TANK],
        ),
        (
            {"seen": Seen(closed_system=True), "expansion_tank": False, "expansion_tank_pin": None},
            [Verdict.KEEP_PRESSURE, Verdict.FIT_EXPANSION_TANK],
        ),
        (
            {
                "seen": Seen(pressure_falls=True, creep_kpa=0),
                "pressure_kpa": 640,
                "expansion_tank_pin": ExpansionTankPin.WATER,
            },
            [Verdict.FIND_THE_LEAK, Verdict.FIT_REGULATOR, Verdict.RENEW_EXPANSION_TANK],
        ),
        (
            {"seen": Seen(pressure_falls=True, others_excluded=True)},
            [Verdict.CHANGE_HEATER, Verdict.KEEP_PRESSURE, Verdict.KEEP_EXPANSION],
        ),
    ],
)
def test_pressure_is_judged_by_each_of_its_causes(facts, says):
    told = {one.rule: one.verdict for one in judge(replace(PLAIN, **facts))}
    assert [told[one] for one in ("pressure_holds", "house_pressure", "expansion") if one in told] == says


def test_an_element_is_bridged_once_and_then_the_heater_goes():
    electric = {"kind": HeaterKind.ELECTRIC_TANK}
    assert verdict("element_or_heater", **electric, seen=Seen(element_failures=1)).verdict is Verdict.CHANGE_ELEMENT
    assert verdict("element_or_heater", **electric, seen=Seen(element_failures=2)).verdict is Verdict.CHANGE_HEATER
    loud = {**electric, "seen": Seen(element_failures=1), "noise": Noise.POPPING}
    assert verdict("element_or_heater", (PracticeOption.HEATER_AT_ONCE,), **loud).verdict is Verdict.CHANGE_HEATER
    assert not any(one.rule == "element_or_heater" for one in judge(PLAIN))


def test_where_cleaning_does_not_help_the_water_or_the_setting_is_to_change():
    beyond = {"over_after_service": 0.7, "hardness_mg_l": 400}
    assert verdict("water_and_setting", **beyond, setpoint_c=65).verdict is Verdict.COOLER_SETPOINT
    assert verdict("water_and_setting", **beyond, setpoint_c=50).verdict is Verdict.SOFTEN
    # Where it is softened already, the softener is in doubt, and cleaning more is no answer either.
    assert verdict("water_and_setting", **beyond, softened=True).verdict is Verdict.ASK_ABOUT_SOFTENER
    assert verdict("water_and_setting", softened=True, hardness_mg_l=400).verdict is Verdict.KEEP_WATER


def test_a_tank_likely_to_fail_or_old_and_loud_is_replaced_before_it_floods():
    assert verdict("replace_before_failure", failure_12_months=0.3).verdict is Verdict.REPLACE_BEFORE_FAILURE
    loud = {"age_years": 11, "hardness_mg_l": 300, "noise": Noise.POPPING}
    assert verdict("replace_before_failure", **loud).verdict is Verdict.REPLACE_BEFORE_FAILURE
    assert verdict("replace_before_failure").verdict is Verdict.KEEP_HEATER
    assert verdict("replace_before_failure", seen=Seen(rusty_seam=True)).verdict is Verdict.REPLACE_BEFORE_FAILURE


def test_only_elements_lost_within_three_years_of_the_last_count_together():
    days = [datetime.date(2015, 4, 1), datetime.date(2024, 1, 10), datetime.date(2026, 3, 2)]
    assert [judgement.lately_lost(days[:n]) for n in range(4)] == [0, 1, 1, 2]
    assert judgement.lately_lost(reversed(days)) == 2


def test_a_test_of_one_pressure_says_nothing_of_the_others():
    def said(*findings: dict[str, object]) -> str:
        days = ("2026-02-01", "2026-06-01")
        events = [{"on": on, "task": "pressure_test", "finding": one} for on, one in zip(days, findings, strict=True)]
        told = answer(events=events)["judgements"]
        return next(one["verdict"] for one in told if one["rule"] == "pressure_holds")

    assert said({"falls": True}, {"static_kpa": 400}) == "find_the_leak"
    assert said({"falls": True}, {"static_kpa": 400, "falls": False}) == "keep_pressure"


def facts(**parts) -> Facts:
    """What the tables are shown of a case."""
    read = case.read(json.dumps(document(**parts)))
    return judgement.facts_of(as_fleet(read), {}, Seen(), 6.0, bool(read.water.softened), None)


def valve(on: str, **finding) -> dict:
    return {"on": on, "task": "relief_valve_exercise", "finding": finding}


def test_the_last_trial_of_the_valve_in_place_is_told_and_no_other():
    ran, stuck = {"outcome": "flows_and_reseats"}, {"outcome": "no_flow"}
    assert facts().valve_outcome is None
    assert facts(events=[valve("2026-05-01", **ran), valve("2026-06-01", **stuck)]).valve_outcome == "no_flow"
    assert facts(events=[valve("2026-06-01", **ran)]).valve_outcome == "flows_and_reseats"
    # Not tried says nothing; a new valve has not been tried.
    untried = {"outcome": "not_tested"}
    assert facts(events=[valve("2026-05-01", **stuck), valve("2026-06-01", **untried)]).valve_outcome == "no_flow"
    renewed = {"on": "2026-06-01", "task": "relief_valve_replacement"}
    assert facts(events=[valve("2026-05-01", **stuck), renewed]).valve_outcome is None


def test_what_the_pin_and_the_ear_last_said_is_told():
    heater = document()["heater"] | {"expansion_tank": {"volume_l": 8, "precharge_kpa": 400}}

    def pin(*said: str) -> object:
        events = [{"on": f"2026-0{n}-01", "task": "expansion_tank_check", "finding": {"at_valve": one}}
                  for n, one in enumerate(said, start=1)]  # fmt: skip
        return facts(heater=heater, events=events).expansion_tank_pin

    assert [pin(one.value) for one in ExpansionTankPin] == list(ExpansionTankPin)
    assert pin("water", "air") == ExpansionTankPin.AIR and pin() is None
    looks = [{"on": "2026-05-01", "task": "look_over", "finding": {"noise": one.value}} for one in Noise]
    assert [facts(events=[look]).noise for look in looks] == list(Noise)
    assert facts().noise is None and facts().expansion_tank is False and facts(heater=heater).expansion_tank is True


def test_a_softener_is_suspected_from_what_does_not_come_out():
    heater = document()["heater"] | {"installed_on": "2021-11-24"}
    hard = {"total_hardness_mg_l": 350, "alkalinity_mg_l": 260, "ph": 7.3}

    def suspected(*grades: str, **water) -> float:
        events = [{"on": f"{2026 - n}-10-01", "task": "flush", "finding": {"removed": one}}
                  for n, one in enumerate(reversed(grades))][::-1]  # fmt: skip
        return facts(heater=heater, events=events, water=hard | water).softener_suspected

    assert suspected("none", "none", "none", "none") > 0.5
    assert suspected("heavy", "heavy") < 0.05 and suspected(*["moderate"] * 4) < 0.05
    # The more often nothing comes out, the likelier; once says nothing.
    assert suspected("none", "none") < suspected("none", "none", "none") < suspected(*["none"] * 4)
    assert suspected("none") == suspected("none", "none", "none", "none", softened=True) == 0.0
    # Bayes' rule: who thinks a softener twice as likely beforehand has twice the odds and a little more afterwards.
    odds = [one / (1 - one) for one in (suspected("none", "none"), _suspected_at(0.1, ["none", "none"]))]
    prior = LEARNING.softener_prior
    assert odds[1] / odds[0] == pytest.approx((0.1 / 0.9) / (prior / (1 - prior)))


def _suspected_at(prior: float, grades: list[str]) -> float:
    """The same by somebody of another opinion beforehand."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(judged_facts, "LEARNING", replace(LEARNING, softener_prior=prior))
        heater = document()["heater"] | {"installed_on": "2021-11-24"}
        events = [{"on": f"{2026 - n}-10-01", "task": "flush", "finding": {"removed": one}}
                  for n, one in enumerate(grades)][::-1]  # fmt: skip
        water = {"total_hardness_mg_l": 350, "alkalinity_mg_l": 260, "ph": 7.3}
        return facts(heater=heater, events=events, water=water).softener_suspected


def test_nothing_time_after_time_on_hard_water_asks_for_a_softener():
    def asked(grade: str, **water) -> bool:
        heater = document()["heater"] | {"installed_on": "2021-11-24"}
        events = [{"on": f"{year}-10-01", "task": "flush", "finding": {"removed": grade}} for year in range(2022, 2027)]
        hard = {"total_hardness_mg_l": 350, "alkalinity_mg_l": 260, "ph": 7.3} | water
        found = answer(heater=heater, events=events, water=hard)["judgements"]
        return any(one["verdict"] == "ask_about_softener" for one in found)

    assert asked("none")
    assert not asked("moderate")
    assert not asked("none", softened=True)
    assert not asked("none", total_hardness_mg_l=40, alkalinity_mg_l=30)


def test_an_unknown_school_is_refused_by_name():
    text = json.dumps(document(policy={"schools": ["never_test_a_valve"]}))
    with pytest.raises(case.CaseError, match="never_test_a_valve") as caught:
        case.answer(case.read(text))
    assert caught.value.at == "/policy/schools" and "exercise_yearly" in caught.value.message


def test_every_table_decides_whatever_it_is_shown_and_every_school_has_its_side():
    tables = {*judgement.TABLES, *on_site.TABLES}
    options = {side.option for table in tables for side in table.options}
    assert options == {option for pair in judgement.PRACTICE_QUESTIONS for option in pair} == set(PracticeOption)
    for table in tables:
        assert table.rows[-1].when(PLAIN) and table.rows[-1].option is None and table.source


def at(rule, facts=PLAIN, practice_options=(), **answers):
    """The verdict of a rule where just these answers were given; fields with their dots as double underscores."""
    (one,) = [one for one in on_site.on_site_rules(facts, practice_options) if one.rule == rule]
    given = {name.replace("__", "."): word for name, word in answers.items()}
    wanted = tuple(given.get(answer.field) for answer in one.answers)
    return next(case.judgement for case in one.cases if case.at == wanted)


def test_a_drain_that_does_not_run_is_judged_by_age_history_and_what_lies_before_it():
    flushed = replace(PLAIN, was_flushed=True, age_years=6, depth_mm=10, drain_port_mm=50)
    assert at("blocked_drain", flushed, flush__drain_flow="full").verdict == "go_on"
    assert at("blocked_drain", flushed, flush__drain_flow="slow").verdict == "open_in_steps"
    assert at("blocked_drain", flushed, flush__drain_flow="none").verdict == "breath_then_wire"
    never = replace(flushed, was_flushed=False, cutoff_years=5)
    told = at("blocked_drain", never, flush__drain_flow="trickle")
    assert told.verdict == "leave_drain" and told.ask_lead
    buried = replace(flushed, depth_mm=80)
    assert at("blocked_drain", buried, flush__drain_flow="none").verdict == "breath_then_wire"
    leaves = at("blocked_drain", buried, ["leave_blocked"], flush__drain_flow="none")
    assert leaves.verdict == "leave_drain" and "{length_mm:80}" in leaves.because[0]


def test_what_is_seen_at_rod_valve_element_pressure_and_flame_has_its_verdict():
    assert at("keep_rod", rod__grade="gone").verdict == "renew_rod"
    assert at("keep_rod", rod__grade="half").verdict == "keep_rod"
    assert at("keep_rod", rod__grade="half", rod__bare_wire_mm="above").verdict == "renew_rod"
    assert at("keep_rod", rod__grade="half", rod__bare_wire_mm="below").verdict == "keep_rod"
    assert at("keep_rod", rod__diameter_mm="below").verdict == "renew_rod"
    indirect = replace(PLAIN, kind=HeaterKind.INDIRECT_TANK)
    assert not any(one.rule == "flame_sensor_tip" for one in on_site.on_site_rules(indirect))
    assert at("keep_valve", valve__outcome="flows_and_weeps").verdict == "replace_valve"
    assert (
        at("keep_valve", relief__outlet="drips", practice_options=["exercise_dripping"]).verdict
        == "exercise_then_replace"
    )
    electric = replace(PLAIN, kind=HeaterKind.ELECTRIC_TANK)
    assert at("element_or_heater", electric, look__element_failed="true").verdict == "change_element"
    once = replace(electric, seen=Seen(element_failures=1))
    assert at("element_or_heater", once, look__element_failed="true").verdict == "change_heater"
    assert at("pressure_holds", pressure__falls="true").verdict == "find_the_leak"
    assert at("house_pressure", pressure__static_kpa="above").verdict == "fit_regulator"
    assert at("expansion", expansion_tank__at_valve="water").verdict == "renew_expansion_tank"
    carbon = at("flame_sensor_tip", gas__sensor_tip="carbon")
    assert carbon.verdict == "clean_sensor" and carbon.ask_lead and carbon.licensed
    assert at("fixture_or_heater", look__taps="one").verdict == "look_at_fixture"
    assert at("stop_flushing", flush__clarity="murky").verdict == "flush_on"
    assert at("stop_flushing", flush__clarity="clear").verdict == "stop_flushing"
    solids = {word: at("kind_of_solids", flush__texture=word) for word in ("sand", "flakes", "stones", "sludge")}
    assert [one.verdict for one in solids.values()] == [
        "fit_filter", "test_hardness", "fit_filter", "look_at_rod_and_iron",
    ]  # fmt: skip
    assert "{hardness_mg_l:150}" in solids["flakes"].because[1]
    assert "softener" in at("kind_of_solids", replace(PLAIN, softened=True), flush__texture="flakes").because[0]


def test_a_new_relief_valve_is_held_against_the_heater_that_it_guards():
    plate = replace(PLAIN, input_kw=12.0, probe_least_mm=65.0)
    (fits,) = [one for one in on_site.on_site_rules(plate) if one.rule == "valve_fits"]
    assert fits.answers[0].above < 12.0 and fits.answers[0].above > 11.9
    assert at("valve_fits", plate, valve__new_rating_kw="above").verdict == "valve_fits"
    weak = at("valve_fits", plate, valve__new_rating_kw="below")
    assert weak.verdict == "wrong_valve" and "{power_kw:12}" in weak.because[0] and weak.licensed
    assert at("valve_fits", plate, valve__new_set_pressure_kpa="above").verdict == "wrong_valve"
    assert at("valve_fits", plate, valve__new_set_pressure_kpa="below").verdict == "valve_fits"
    short = at("valve_fits", plate, valve__new_probe_length_mm="below")
    assert short.verdict == "wrong_valve" and "{length_mm:65}" in short.because[0] and short.licensed
    assert at("valve_fits", plate, valve__new_probe_length_mm="above").verdict == "valve_fits"
    probe = next(one for one in fits.answers if one.field == "valve.new_probe_length_mm")
    assert 64 < probe.above < 65
    # Where nobody has read the plate, the pressure alone is judged.
    (unread,) = [one for one in on_site.on_site_rules(PLAIN) if one.rule == "valve_fits"]
    assert {case.judgement.verdict for case in unread.cases} == {"valve_fits", "wrong_valve"}
    assert at("valve_fits", valve__new_set_pressure_kpa="above").verdict == "wrong_valve"


def test_every_answer_has_one_verdict_and_an_unknown_school_is_told():
    for one in on_site.on_site_rules(PLAIN):
        options = 1
        for asked in one.answers:
            options *= len(asked.words) + 1
        assert len({case.at for case in one.cases}) == len(one.cases) <= options - 1
    with pytest.raises(ValueError, match="allowed"):
        on_site.on_site_rules(PLAIN, ["never_touch"])


def read(field: str, value: float, facts: Facts, rule: str) -> judgement.Judgement:
    """The verdict of a reading as a device looks it up: against each of its bounds."""
    (one,) = [one for one in on_site.on_site_rules(facts) if one.rule == rule]
    assert {answer.field for answer in one.answers} == {field}
    wanted = tuple("above" if value > answer.above else "below" for answer in one.answers)
    return next(case.judgement for case in one.cases if case.at == wanted)


@pytest.mark.parametrize(
    ("tap_c", "setpoint_c", "says"),
    [
        (75, 60, "tap_scalds"), (60, 60, "tap_scalds"), (55, 60, "tap_scalds"), (50, 49, "tap_right"),
        (49, 55, "tap_right"), (48, 60, "tap_cool"), (38, 49, "tap_cool"), (42, 49, "tap_right"),
    ],
)  # fmt: skip
def test_the_faucet_s_temperature_is_held_against_what_burns_and_what_is_set(tap_c, setpoint_c, says):
    told = read("verify.tap_c", tap_c, replace(PLAIN, setpoint_c=setpoint_c), "tap_temperature")
    assert told.verdict == says
    assert ("5 seconds" in " ".join(told.because)) == (tap_c >= 60)


@pytest.mark.parametrize(
    ("ohms", "says"),
    [(0, "change_element"), (11.4, "change_element"), (11.7, "element_sound"), (14.0, "element_sound"),
     (14.2, "change_element"), (1e6, "change_element")],
)  # fmt: skip
def test_ohms_are_held_against_the_plate(ohms, says):
    # 240 V and 4,500 W are 12.8 ohm: by Ohm's law, reckoned by hand.
    electric = replace(PLAIN, kind=HeaterKind.ELECTRIC_TANK, input_kw=4.5, supply_v=240)
    told = read("look.ohms", ohms, electric, "element_ohms")
    assert told.verdict == says and "12.8 ohm" in told.because[0]
    for unknown in ({"input_kw": None}, {"supply_v": None}):
        assert "element_ohms" not in {one.rule for one in on_site.on_site_rules(replace(electric, **unknown))}


def test_millivolts_supply_and_gas_pressure_have_their_verdicts():
    def said(field, value, rule, **facts):
        return read(field, value, replace(PLAIN, **facts), rule).verdict

    thermocouple = [said("gas.millivolts", mv, "thermocouple") for mv in (-2, 9.9, 11, 12.5, 25, 500)]
    assert thermocouple == ["renew_thermocouple"] * 2 + ["carry_thermocouple"] + ["thermocouple_sound"] * 3
    supply = [said("power.volts", v, "supply_voltage", supply_v=240) for v in (0, 120, 215, 217, 240, 263, 265)]
    assert supply == ["look_at_supply"] * 3 + ["supply_right"] * 3 + ["look_at_supply"]
    gas = [said("gas.gas_kpa", kpa, "manifold_pressure") for kpa in (0.0, 0.6, 0.87, 2.7, 3.1)]
    assert gas == ["look_at_gas_pressure"] * 2 + ["gas_pressure_usual"] * 2 + ["look_at_gas_pressure"]
    assert read("gas.gas_kpa", 5.0, PLAIN, "manifold_pressure").licensed
    burnt = [said("gas.input_kw", kw, "gas_input", input_kw=12) for kw in (0, 10.7, 10.9, 13.1, 13.3)]
    assert burnt == ["input_off_plate"] * 2 + ["input_right"] * 2 + ["input_off_plate"]
    plate = {"kind": HeaterKind.ELECTRIC_TANK, "input_kw": 4.5, "supply_v": 240}
    # 4,500 W at 240 V are 18.75 A, reckoned by hand.
    drawn = [said("power.amps", amps, "element_amps", **plate) for amps in (0, 16.8, 17, 20.5, 20.7)]
    assert drawn == ["change_element"] * 2 + ["element_sound"] * 2 + ["change_element"]
    electric = {one.rule for one in on_site.on_site_rules(replace(PLAIN, kind=HeaterKind.ELECTRIC_TANK))}
    assert not {"thermocouple", "manifold_pressure"} & electric


def test_a_weeping_outlet_is_no_dripping_valve():
    assert at("keep_valve", relief__outlet="weeps").verdict == at("keep_valve", relief__outlet="dry").verdict
    for word in ("drips", "puddle", "streams", "roared"):
        assert at("keep_valve", relief__outlet=word).verdict == "replace_valve"


# A reading on each side of its bound, by the trade's figure and not by the table's.
@pytest.mark.parametrize(
    ("rule", "field", "kind", "usual", "off", "says"),
    [
        ("gas_gap_mm", "gas.gap_mm", "mobile_tank", 3.2, 2.0, "narrow"),
        ("gas_gap_mm", "gas.gap_mm", "mobile_tank", 3.2, 5.0, "wide"),
        ("gas_tries", "gas.tries", "gas_tankless", 1, 4, "locks out"),
        ("gas_losses", "gas.losses", "gas_tankless", 0, 10, "flame rod"),
        ("limit_opens_c", "limit.opens_c", "mobile_tank", 82, 65, "early"),
        ("limit_opens_c", "limit.opens_c", "small_gas_tankless", 105, 120, "late"),
        ("limit_opens_c", "limit.opens_c", "condensing_tankless", 90, 105, "late"),
        ("mixing_inlet_c", "mixing.inlet_c", "gas_tank", 10, 48, "pump"),
        ("cells_volts", "cells.volts", "small_gas_tankless", 3.0, 2.3, "renew both"),
        ("drain_minutes", "drain.minutes", "gas_tank", 30, 70, "full-bore"),
        ("water_clear_min", "water.clear_min", "gas_tank", 4, 45, "jet"),
        ("verify_heat_up_min", "verify.heat_up_min", "electric_tank", 80, 200, "element"),
        ("pressure_static_kpa", "pressure.static_kpa", "gas_tankless", 350, 90, "not fire"),
    ],
)
def test_a_reading_beyond_its_bound_is_put_right_and_a_usual_one_is_not(rule, field, kind, usual, off, says):
    (one,) = [one for one in on_site.on_site_rules(replace(PLAIN, kind=HeaterKind(kind))) if one.rule == rule]

    def verdict(value):
        words = tuple("above" if value > answer.above else "below" for answer in one.answers)
        return next(case.judgement for case in one.cases if case.at == words)

    assert one.answers[0].field == field
    assert verdict(usual).verdict == "as_it_should_be"
    assert verdict(off).verdict == "put_right" and says in verdict(off).because[0]


def test_bounds_are_asked_only_of_heaters_that_they_are_for():
    rules = {kind: {one.rule for one in on_site.on_site_rules(replace(PLAIN, kind=kind))} for kind in HeaterKind}
    assert [kind for kind in HeaterKind if "cells_volts" in rules[kind]] == [HeaterKind.SMALL_GAS_TANKLESS]
    assert not any(rule in rules[HeaterKind.ELECTRIC_TANK] for rule in ("gas_tries", "gas_gap_mm", "limit_opens_c"))
    assert "pressure_static_kpa" not in rules[HeaterKind.GAS_TANK]


WHO_MAY = {
    "flush_or_leave": ["leave_alone A", "flush_gently A", "", ""],
    "keep_valve": [
        "replace_valve L", "exercise_then_replace L", "replace_valve L", "replace_valve L", "keep_valve A",
        "exercise_then_replace L", "replace_valve L", "replace_valve L", "replace_valve L", "", "",
    ],
    "rod_alloy": [""] * 3,
    "element_or_heater": ["change_heater A", "change_heater A", ""],
    "pressure_holds": ["change_heater LA", "", ""],
    "house_pressure": ["fit_regulator L", ""],
    "expansion": ["renew_expansion_tank L", "fit_expansion_tank L", "", "", ""],
    "water_and_setting": [""] * 5,
    "replace_before_failure": ["replace_before_failure LA"] * 3 + [""],
    "blocked_drain": ["leave_drain A", "leave_drain A", "breath_then_wire A", "", "", ""],
    "kind_of_solids": [""] * 4, "stop_flushing": [""] * 3, "keep_rod": [""] * 5,
    "valve_fits": ["wrong_valve L"] * 3 + [""],
    "tap_temperature": [""] * 4, "element_ohms": [""] * 3, "thermocouple": [""] * 3,
    "supply_voltage": ["look_at_supply L", ""],
    "gas_input": ["input_off_plate L", "input_off_plate L", ""],
    "element_amps": [""] * 2,
    "manifold_pressure": ["look_at_gas_pressure L", ""],
    "gas_gap_mm": [""] * 3, "gas_tries": [""] * 2, "gas_losses": [""] * 2,
    "limit_opens_c": ["put_right L", "put_right L", ""],
    "mixing_inlet_c": [""] * 2, "cells_volts": [""] * 2, "drain_minutes": [""] * 2, "water_clear_min": [""] * 2,
    "verify_heat_up_min": [""] * 2, "pressure_static_kpa": [""] * 2, "fixture_or_heater": [""] * 2,
    "flame_sensor_tip": ["clean_sensor LA", "", ""],
}  # fmt: skip
"""Row by row of each table, as the trade has it: what needs a license (L), and what the lead is asked about (A).

Work on gas, on the pressure's own safeguards and on the supply is licensed; what cannot be taken back is asked."""


def test_what_needs_a_license_and_what_the_lead_is_asked_is_as_the_trade_has_it():
    told = {}
    for table in (*rules.TABLES, *on_site.TABLES):
        marks = [("L" if row.licensed else "") + ("A" if row.ask_lead else "") for row in table.rows]
        rows = [f"{row.verdict.value} {mark}" if mark else "" for row, mark in zip(table.rows, marks, strict=True)]
        # A table that is asked at the heater and before the visit says the same in both.
        assert told.setdefault(table.rule, sorted(rows)) == sorted(rows)
    assert told == {rule: sorted(rows) for rule, rows in WHO_MAY.items()}


@pytest.mark.parametrize(("pressure_kpa", "creep_kpa", "wrong"), [
    (rules.HIGH_PRESSURE_KPA, None, False), (rules.HIGH_PRESSURE_KPA + 0.1, None, True),
    (400, rules.CREEP_KPA, False), (400, rules.CREEP_KPA + 0.1, True), (400, 0.0, False),
])  # fmt: skip
def test_a_pressure_is_wrong_beyond_its_limit_and_not_at_it(pressure_kpa, creep_kpa, wrong):
    facts = replace(PLAIN, pressure_kpa=pressure_kpa, seen=Seen(creep_kpa=creep_kpa))
    assert rules._pressure_is_wrong(facts) is wrong

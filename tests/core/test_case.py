"""The open format: what is refused, by what name, and that the command never breaks."""

import json
import subprocess
import sys

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from aquifer.__main__ import main
from aquifer.core import case
from aquifer.core.case.document import RodPart
from aquifer.core.case.fleet import _Rod, as_fleet, installed_on
from aquifer.core.readings import READINGS
from aquifer.core.vocabulary import Alloy
from tests.conftest import LONG, examples
from tests.core.fleets import answer, component, document


def fault(text: str | bytes | dict) -> case.CaseError:
    with pytest.raises(case.CaseError) as caught:
        case.answer(case.read(json.dumps(text) if isinstance(text, dict) else text))
    return caught.value


@pytest.mark.parametrize(
    ("parts", "at", "says"),
    [
        ({"format": "other/2"}, "/format", "aquifer-case/1"),
        ({"as_of": "2026-02-30"}, "/as_of", "2026-02-30"),
        ({"water": {"ph": 14.5}}, "/water/ph", "less than or equal to 11"),
        ({"water": {"ph": "7"}}, "/water/ph", "valid number"),
        ({"water": {"ph": True}}, "/water/ph", "valid number"),
        ({"water": {"colour": "red"}}, "/water/colour", "unknown field; allowed: total_hardness_mg_l"),
        ({"heater": {"kind": "kettle"}}, "/heater/kind", "gas_tank"),
        ({"heater": {}}, "/heater/kind", "required"),
        ({"heater": {"kind": "gas_tank", "anode": {"alloys": 1}}}, "/heater/anode/alloys", "allowed: alloy"),
        ({"water": {"total_hardness_mg_l": 100, "calcium_hardness_mg_l": 150}}, "/water/calcium_hardness_mg_l", "100"),
        ({"events": [{"on": "2020-01-01", "task": "flush"}]}, "/events/0/on", "before the heater's installation"),
        ({"events": [{"on": "2027-01-01", "task": "flush"}]}, "/events/0/on", "after as_of"),
        ({"events": [{"on": "2026-01-01", "task": "polish"}]}, "/events/0/task", "allowed: flush"),
        ({"events": [{"on": "2026-01-01"}]}, "/events/0/task", "required"),
        (
            {"events": [{"on": "2026-01-01", "task": "flush", "finding": {"removed": "lots"}}]},
            "/events/0/finding/removed",
            "none",
        ),
        ({"policy": {"tolerance": 0}}, "/policy/tolerance", "greater than or equal to 0.01"),
        ({"prior": {"sediment": {"log_sd": 0.01}}}, "/prior/sediment/log_sd", "0.08"),
    ],
)
def test_a_bad_case_is_refused_by_its_field(parts, at, says):
    found = fault(document(**parts))
    assert found.at == at
    assert says in found.message and "\n" not in str(found)


@pytest.mark.parametrize(
    "text",
    [
        "",
        "null",
        "[]",
        "{",
        "\x00",
        b"\xff\xfe{}",
        '{"format": NaN}',
        "[" * 100_000,
        '{"format": "aquifer-case/1", "as_of": "2026-11-24", "heater": {"kind": "gas_tank", "capacity_l": 1e999}}',
        '{"format": "aquifer-case/1", "as_of": "2026-11-24", "heater": {"kind": "gas_tank", "capacity_l": NaN}}',
        '{"format": "aquifer-case/1", "as_of": "2026-11-24", "heater": {"kind": "gas_tank", "capacity_l": -Infinity}}',
        '{"format": "aquifer-case/1", "as_of": ' + "9" * 5000 + "}",
    ],
)
def test_what_is_no_case_at_all_is_refused(text):
    assert fault(text).message


def test_a_huge_case_is_refused_before_it_is_read():
    assert "allowed" in fault(" " * (case.LARGEST_CASE_BYTES + 1)).message


def test_a_case_of_very_many_events_is_answered():
    event = {"on": "2026-05-01", "task": "flush", "finding": {"removed": "trace"}}
    found = answer(events=[event] * (10_000 if LONG else 1_000))
    assert found["components"][0]["component"] == "sediment"


@settings(max_examples=examples(25, of_long=500))
@given(
    st.recursive(
        st.none() | st.booleans() | st.floats() | st.integers() | st.text(max_size=20),
        lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=12), inner, max_size=4),
        max_leaves=12,
    )
)
def test_anything_in_place_of_a_part_is_a_named_error_or_an_answer(value):
    for place in ("water", "site", "heater", "policy", "events", "prior"):
        try:
            case.answer(case.read(json.dumps(document(**{place: value}))))
        except case.CaseError as error:
            assert error.at.startswith("/")


@settings(max_examples=examples(30, of_long=600))
@given(
    hardness=st.floats(0, 5000),
    alkalinity=st.floats(0, 5000),
    ph=st.floats(4, 11),
    conductivity=st.floats(1, 50_000),
    setpoint=st.floats(30, 95),
    litres=st.floats(0, 1_000_000),
    capacity=st.floats(0.1, 20_000),
)
def test_any_allowed_water_and_heater_is_answered_in_order(
    hardness, alkalinity, ph, conductivity, setpoint, litres, capacity
):
    water = {
        "total_hardness_mg_l": hardness,
        "alkalinity_mg_l": alkalinity,
        "ph": ph,
        "conductivity_us_cm": conductivity,
    }
    heater = document()["heater"] | {"setpoint_c": setpoint, "capacity_l": capacity}
    try:
        found = answer(water=water, heater=heater, site={"hot_water_l_per_day": litres})
    except case.CaseError as error:
        assert error.at == "/water"
        return
    for one in found["components"]:
        reached = [one["reached"][q] or "9999" for q in ("p10", "p50", "p90")]
        assert reached == sorted(reached)
        assert 0 <= one["probability_today"] <= 1 and 0 <= one["benefit_12_months"] <= 1


def test_the_same_case_gives_the_same_bytes():
    assert case.as_json(answer()) == case.as_json(answer())


def test_events_of_a_day_count_in_their_order():
    swap = {"on": "2026-06-01", "task": "anode_replacement"}
    look = {"on": "2026-06-01", "task": "anode_inspection", "finding": {"grade": "like_new"}}
    before = answer(events=[look, swap])["components"][1]["rate"]["p50"]
    after = answer(events=[swap, look])["components"][1]["rate"]["p50"]
    # A rod like new after half a year wears slowly; one like new on its first day says nothing.
    assert after > before


def test_what_is_missing_is_listed_as_assumed():
    found = answer(water={"total_hardness_mg_l": 250}, site={}, heater={"kind": "gas_tank"})
    assumed = {item["at"] for item in found["assumed"]}
    assert {"/water/ph", "/water/alkalinity_mg_l", "/heater/installed_on", "/site/hot_water_l_per_day"} <= assumed


LEFT_OPEN = {
    "/heater/installed_on": {"heater": {"installed_on": "2019-05-01"}},
    "/heater/capacity_l": {"heater": {"capacity_l": 151}},
    "/heater/setpoint_c": {"heater": {"setpoint_c": 55}},
    "/heater/anode/alloy": {"heater": {"anode": {"alloy": "aluminium"}}},
    "/site/hot_water_l_per_day": {"site": {"hot_water_l_per_day": 120}},
    "/site/static_pressure_kpa": {"site": {"static_pressure_kpa": 420}},
}


@pytest.mark.parametrize("at", [None, *LEFT_OPEN])
def test_each_thing_is_assumed_where_it_is_left_open_and_nowhere_else(at):
    told = LEFT_OPEN.get(at, {})
    heater = {"kind": "gas_tank", "expansion_tank": {}, **told.get("heater", {})}
    found = answer(heater=heater, site=told.get("site", {}))
    assumed = {item["at"] for item in found["assumed"] if not item["at"].startswith("/water")}
    assert assumed == set(LEFT_OPEN) - {at}


@pytest.mark.parametrize(
    ("site", "heater", "why"),
    [
        ({}, {}, "usual household"), ({"people": 3}, {}, "from the people of the site"),
        ({"people": 3}, {"burner_hours_per_day": 2, "input_kw": 10}, "from the hours that it fires"),
        ({"people": 3}, {"burner_hours_per_day": 2}, "from the people of the site"),
    ],
)  # fmt: skip
def test_litres_that_nobody_metered_say_whence_they_are(site, heater, why):
    found = answer(site=site, heater={"kind": "gas_tank", **heater})["assumed"]
    assert [item["why"] for item in found if item["at"] == "/site/hot_water_l_per_day"] == [why]


def test_a_rod_is_renewed_where_it_is_likelier_bare_than_not():
    """But in a tank that is old enough to be replaced itself."""
    by_age = {
        years: component("anode", heater=document()["heater"] | {"installed_on": f"{2026 - years}-11-24"})
        for years in (1, 3, 4, 5, 6, 7)
    }
    assert {years: one["method"] for years, one in by_age.items()} == {
        years: "replace" if one["probability_today"] > 0.5 else "inspect" for years, one in by_age.items()
    }
    assert {one["method"] for one in by_age.values()} == {"replace", "inspect"}


def test_the_water_behind_burner_hours_is_warmed_from_as_cold_as_it_comes():
    """2 kWh a day at 80 % are 5,760 kJ; from 12 to 60 degC each litre takes 201."""
    water = document()["water"] | {"source_temperature_c": 12}
    heater = document()["heater"] | {"burner_hours_per_day": 0.2, "input_kw": 10}
    fired = component("sediment", water=water, site={}, heater=heater)
    metered = component("sediment", water=water, site={"hot_water_l_per_day": 5760 / (4.186 * 48)})
    assert fired["rate"]["p50"] == pytest.approx(metered["rate"]["p50"], rel=0.02)


def test_a_prior_may_be_told_by_its_middle_or_by_its_width_alone():
    def rate(**prior):
        return component("sediment", prior={"sediment": prior} if prior else {})["rate"]

    usual, faster, surer = rate(), rate(log_mean=0.7), rate(log_sd=0.1)
    assert faster["p50"] == pytest.approx(2.01 * usual["p50"], rel=0.05)
    assert surer["p50"] == pytest.approx(usual["p50"], rel=0.05)
    assert surer["p90"] / surer["p10"] < 1.4 < usual["p90"] / usual["p10"]


def test_an_old_tank_that_was_never_flushed_is_judged_better_left_alone():
    old = document()["heater"] | {"installed_on": "2016-01-01"}
    verdicts = {j["rule"]: j for j in answer(heater=old)["judgements"]}
    assert verdicts["flush_or_leave"]["verdict"] == "leave_alone" and verdicts["flush_or_leave"]["ask_lead"]
    flushed = [{"on": "2026-01-05", "task": "flush", "finding": {"removed": "trace"}}]
    verdicts = {
        j["rule"]: j for j in answer(heater=old, events=flushed, water={"total_hardness_mg_l": 60})["judgements"]
    }
    assert verdicts["flush_or_leave"]["verdict"] == "flush"


def test_the_command_answers_lines_in_order_and_names_the_bad_one(tmp_path, capsys):
    good, bad = json.dumps(document()), json.dumps(document(water={"ph": 99}))
    path = tmp_path / "fleet.jsonl"
    path.write_text(f"{good}\n{bad}\n\n{good}\n")
    assert main(["forecast", "--lines", str(path)]) == 1
    lines = [json.loads(line) for line in capsys.readouterr().out.splitlines()]
    assert [line["format"] for line in lines] == ["aquifer-forecast/1", "aquifer-error/1", "aquifer-forecast/1"]
    assert lines[1]["line"] == 2 and lines[1]["at"] == "/water/ph"
    assert lines[0] == lines[2]


def test_the_command_ends_with_two_and_one_line_for_a_bad_case(tmp_path, capsys):
    path = tmp_path / "case.json"
    path.write_text(json.dumps(document(water={"ph": 99})))
    assert main(["forecast", str(path)]) == 2
    said = capsys.readouterr().err
    assert said.startswith("/water/ph: 99 is not allowed") and said.count("\n") == 1
    assert main(["forecast", str(tmp_path / "missing.json")]) == 2


def test_the_core_runs_without_django():
    code = (
        "import sys, aquifer.core.case, aquifer.core.trace, aquifer.core.reasons;"
        "sys.exit(any(name.split('.')[0] in ('django', 'ninja', 'psycopg') for name in sys.modules))"
    )
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0


READ = {"on": "2026-01-05", "reading": "gas.millivolts", "value": 12.5}


def test_readings_are_kept_with_a_case_and_move_no_date():
    plain = document(format="aquifer-case/3")
    told = plain | {"readings": [READ, {"on": "2026-01-05", "reading": "flame.look", "value": "steady"}]}
    assert [one.value for one in case.read(json.dumps(told)).readings] == [12.5, "steady"]
    answered = [case.as_json(case.answer(case.read(json.dumps(one)))) for one in (plain, told)]
    assert answered[0] == answered[1]


@pytest.mark.parametrize(
    ("reading", "at", "says"),
    [
        (READ | {"value": 9000}, "/readings/0", "between -100 and 1000"),
        (READ | {"value": "many"}, "/readings/0", "between -100 and 1000"),
        (READ | {"reading": "gas.volume"}, "/readings/0", "allowed: "),
        (READ | {"reading": "flush.removed_l", "value": 2}, "/readings/0", "unknown reading"),
        (READ | {"reading": "flame.look", "value": 3}, "/readings/0", "in words"),
        (READ | {"on": "2031-01-05"}, "/readings/0/on", "after as_of"),
        (READ | {"by": "T3"}, "/readings/0/by", "unknown field"),
    ],
)
def test_a_reading_that_cannot_be_is_refused_by_its_field(reading, at, says):
    error = fault(document(format="aquifer-case/3", readings=[reading]))
    assert error.at == at and says in error.message


def test_readings_are_not_known_in_an_older_case():
    error = fault(document(readings=[READ]))
    assert error.at == "/readings" and "aquifer-case/3" in error.message


@pytest.mark.parametrize(("name", "value"), [("ignition", "pilot"), ("vent", "powered")])
def test_how_it_is_lit_is_not_known_in_the_first_format(name, value):
    heater = {**document()["heater"], name: value}
    error = fault(document(heater=heater))
    assert error.at == f"/heater/{name}" and "aquifer-case/2" in error.message
    assert answer(format="aquifer-case/2", heater=heater)


def test_what_a_descale_dissolved_is_weighed_in_grams():
    """A quarter of a kilogram of scale, and the same a thousandfold: the first is a reading, the second none."""
    heater = {"kind": "gas_tankless", "installed_on": "2021-11-24", "setpoint_c": 60}
    told = {}
    for grams in (20, 400):
        event = {"on": "2026-06-01", "task": "descale", "finding": {"dissolved_g": grams}}
        read = case.read(json.dumps(document(heater=heater, events=[event])))
        assert as_fleet(read).descales.dissolved_kg.tolist() == [grams / 1000]
        told[grams] = component("scale", heater=heater, events=[event])["due_on"]
    assert told[400] < told[20]


def test_what_was_cleaned_moves_its_own_date_and_no_others():
    def due(*done):
        events = [{"on": on, "task": "upkeep", "item": item} for item, on in done]
        return {one["item"]: one["due_on"] for one in answer(heater=heater, events=events)["upkeep"]}

    heater = {"kind": "gas_tankless", "installed_on": "2021-11-24", "setpoint_c": 60}
    plain = due()
    assert {"inlet_screen", "flame_sensor"} <= set(plain)
    moved = due(("flame_sensor", "2026-06-01"))
    assert moved["flame_sensor"] > plain["flame_sensor"]
    assert {item: on for item, on in moved.items() if item != "flame_sensor"} == {
        item: on for item, on in plain.items() if item != "flame_sensor"
    }


def test_an_installation_that_nobody_noted_is_six_years_back_and_a_year_before_what_is_on_record():
    def day(**parts):
        heater = {"kind": "gas_tank", "capacity_l": 189, **parts.pop("heater", {})}
        return installed_on(case.read(json.dumps(document(heater=heater, **parts)))).isoformat()

    flushed = [{"on": "2019-03-01", "task": "flush"}, {"on": "2024-03-01", "task": "flush"}]
    assert day(heater={"installed_on": "2021-05-01"}) == "2021-05-01"
    # Six years of 365.25 days before 24 November 2026, half a day rounded up.
    assert day() == "2020-11-23"
    assert day(events=flushed[1:]) == "2020-11-23"
    assert day(events=flushed) == "2018-03-01"
    assert day(heater={"relief_valve": {"installed_on": "2017-06-15"}}) == "2016-06-15"
    assert day(heater={"anode": {"installed_on": "2018-06-15"}}) == "2017-06-15"


def test_a_rod_that_is_not_described_is_as_the_one_before_it():
    first = _Rod(Alloy.MAGNESIUM, 20.0, 900.0, 2, 0.0)
    same = first.followed_by(RodPart(), 4.0)
    told = (same.alloy, same.diameter_mm, same.length_mm, same.count, same.fitted_years)
    assert told == (Alloy.MAGNESIUM, 20.0, 900.0, 2, 4.0)
    other = first.followed_by(RodPart(alloy=Alloy.ALUMINIUM, diameter_mm=16.0, length_mm=1100.0, count=1), 5.0)
    told = (other.alloy, other.diameter_mm, other.length_mm, other.count, other.fitted_years)
    assert told == (Alloy.ALUMINIUM, 16.0, 1100.0, 1, 5.0)


def test_a_company_s_interval_is_told_in_months_and_kept_in_years():
    fleet = as_fleet(case.read(json.dumps(document(policy={"longest_flush_months": 30}))))
    assert fleet.heaters.longest_flush_years == pytest.approx([2.5])


def test_what_a_finding_measures_is_told_in_the_finding_and_not_beside_it():
    assert {name for name, one in READINGS.items() if one.finding} == {
        "pressure.static_kpa", "pressure.creep_kpa", "expansion_tank.precharge_kpa", "flush.removed_l",
        "flush.depth_before_mm", "flush.depth_after_mm", "rod.diameter_mm", "rod.bare_wire_mm", "descale.dissolved_g",
        "descale.flow_before_l_min", "descale.rise_before_k", "descale.flow_after_l_min", "descale.rise_after_k",
    }  # fmt: skip

"""What would change a heater's dates, and when small things are due."""

import datetime
import json

import numpy as np
import pytest

from aquifer.core import case, upkeep
from aquifer.core.alternatives import Change, alternatives
from aquifer.core.forecast import forecast
from aquifer.core.kinds import HeaterKind
from aquifer.core.vocabulary import Alloy, Component, FlushMethod, Fouling, Practice, UpkeepItem
from tests.core.fleets import answer, document

HARD = {"total_hardness_mg_l": 300, "alkalinity_mg_l": 220, "ph": 7.4}


def tried(*changes: Change, **parts):
    read = case.read(json.dumps(document(water=HARD, **parts)))
    fleet = case.as_fleet(read)
    found = forecast(fleet).components
    rates = {one.component: (float(one.log_theta[0]), float(one.log_theta_sd[0])) for one in found}
    every = alternatives(case.known_heaters(read), [case.profile(read)], fleet, rates, [Change(), *changes])
    return [{one.component: one for one in results} for results in every]


def test_a_softener_lengthens_the_flush_and_shortens_the_rod():
    plain, softened = tried(Change(softened=True))
    assert softened[Component.SEDIMENT].years_between > 3 * plain[Component.SEDIMENT].years_between
    assert softened[Component.ANODE].years_between < plain[Component.ANODE].years_between


def test_a_cooler_setting_and_less_use_lengthen_the_flush():
    plain, cooler, less = tried(Change(setpoint_c=49), Change(use_factor=0.5))
    for one in (cooler, less):
        assert one[Component.SEDIMENT].years_between > plain[Component.SEDIMENT].years_between


def test_a_stronger_flush_leaves_less_and_lasts_longer():
    heater = document()["heater"] | {"installed_on": "2021-11-24"}
    plain, soak = tried(Change(flush_method=FlushMethod.ACID_SOAK), heater=heater)
    assert soak[Component.SEDIMENT].over_after_service < plain[Component.SEDIMENT].over_after_service


def test_a_tankless_heater_is_descaled_more_seldom_at_a_cooler_setting():
    heater = {"kind": "gas_tankless", "installed_on": "2024-11-24", "setpoint_c": 60}
    plain, cooler = tried(Change(setpoint_c=49), heater=heater)
    assert set(plain) == {Component.SCALE}
    assert cooler[Component.SCALE].years_between > plain[Component.SCALE].years_between


START = datetime.date(2024, 1, 1)
BURNER = next(one for one in upkeep.TABLE if one.item is UpkeepItem.BURNER)
SCREEN = next(one for one in upkeep.TABLE if one.item is UpkeepItem.INLET_SCREEN)


def months(one, *findings, dusty=False, gritty=False) -> float:
    done = [upkeep.Done(START + datetime.timedelta(days=365 * (at + 1)), f) for at, f in enumerate(findings)]
    return upkeep.due(one, START, done, dusty, gritty).interval_months


def test_findings_dust_and_grit_shorten_or_lengthen_an_interval():
    assert months(BURNER) == 12
    assert months(BURNER, Fouling.FOULED) < 12 < months(BURNER, Fouling.CLEAN)
    assert months(BURNER, Fouling.FAULT) < months(BURNER, Fouling.FOULED)
    assert months(BURNER, dusty=True) < 12 == months(BURNER, gritty=True)
    assert months(SCREEN, gritty=True) == 6 and months(SCREEN, dusty=True) == 12


def test_an_interval_stays_within_its_bounds():
    assert months(BURNER, *[Fouling.CLEAN] * 9) == BURNER.longest_months
    assert months(BURNER, *[Fouling.FAULT] * 9) == pytest.approx(0.25 * BURNER.months)


def test_what_is_due_counts_from_the_last_time_it_was_done():
    done = [upkeep.Done(datetime.date(2025, 6, 1), Fouling.LIGHT)]
    found = upkeep.due(BURNER, START, done, False, False)
    assert abs((found.due_on - datetime.date(2026, 6, 1)).days) <= 1
    assert "last found light" in found.because


def test_each_kind_needs_its_own_things():
    names = {one.item for one in upkeep.items(HeaterKind.HEAT_PUMP_TANK, Alloy.MAGNESIUM)}
    assert names == {UpkeepItem.AIR_FILTER, UpkeepItem.CONDENSATE}
    assert UpkeepItem.POWERED_ANODE in {one.item for one in upkeep.items(HeaterKind.ELECTRIC_TANK, Alloy.POWERED)}
    assert upkeep.items(HeaterKind.ELECTRIC_TANK, Alloy.MAGNESIUM) == []


TANK = {"kind": "gas_tank", "installed_on": "2019-11-24", "capacity_l": 189, "setpoint_c": 60}
EXPANSION_TANK = {"expansion_tank": {"volume_l": 11, "precharge_kpa": 400, "installed_on": "2024-11-24"}}


def part(name: str, **parts):
    return next((one for one in answer(**parts)["components"] if one["component"] == name), None)


def test_an_expansion_tank_is_forecast_only_where_there_is_one():
    assert part("expansion_tank", heater=TANK) is None
    found = part("expansion_tank", heater=TANK | EXPANSION_TANK)
    assert found["decided_by"] == "cap" and found["due_on"] <= "2025-11-24"
    assert found["state"]["acceptance_l"]["p10"] <= found["state"]["acceptance_l"]["p90"]


def test_water_at_the_air_valve_condemns_and_a_new_one_resets():
    torn = {"on": "2026-10-01", "task": "expansion_tank_check", "finding": {"at_valve": "water"}}
    new = {"on": "2026-10-01", "task": "expansion_tank_replacement"}
    condemned = part("expansion_tank", heater=TANK | EXPANSION_TANK, events=[torn])
    assert condemned["method"] == "replace" and condemned["decided_by"] == "finding"
    assert condemned["state"]["probability_failed"]["p50"] == 1
    fresh = part("expansion_tank", heater=TANK | EXPANSION_TANK, events=[torn, new])
    assert fresh["method"] == "check" and fresh["state"]["probability_failed"]["p50"] < 0.05


def test_a_charge_that_fell_fast_is_learned():
    def rate(kpa: float) -> float:
        check = {
            "on": "2026-10-01",
            "task": "expansion_tank_check",
            "finding": {"at_valve": "air", "precharge_kpa": kpa},
        }
        return part("expansion_tank", heater=TANK | EXPANSION_TANK, events=[check])["rate"]["p50"]

    assert rate(330) > 1.5 * rate(385)


def test_an_expansion_tank_too_small_from_the_start_is_to_be_replaced():
    small = {"expansion_tank": {"volume_l": 2, "installed_on": "2026-11-01"}}
    assert part("expansion_tank", heater=TANK | small)["method"] == "replace"


def test_a_tanks_end_comes_nearer_with_age_hard_water_and_a_spent_anode():
    def risk(**parts) -> float:
        return part("tank", **parts)["state"]["failure_within_12_months"]["p50"]

    young, old = ({"heater": TANK | {"installed_on": on}} for on in ("2024-11-24", "2014-11-24"))
    assert risk(**young) < 0.03 < 0.2 < risk(**old)
    renewed = [{"on": f"{year}-11-24", "task": "anode_replacement"} for year in (2017, 2020, 2023)]
    assert risk(**old, events=renewed) < risk(**old)
    assert risk(**young, site={"static_pressure_kpa": 850}) > risk(**young)
    rusty = {"on": "2026-10-01", "task": "look_over", "finding": {"rusty_hot_water": True}}
    assert risk(**young, events=[rusty]) > 2 * risk(**young)


def test_a_loud_tank_is_believed_deeper_than_a_quiet_one():
    def depth(noise: str) -> float:
        look = {"on": "2026-11-01", "task": "look_over", "finding": {"noise": noise}}
        return part("sediment", heater=TANK, events=[look])["state"]["depth_mm"]["p50"]

    assert depth("quiet") < depth("bubbling") < depth("kettling")
    assert depth("quiet") == depth("hiss")


def test_an_indirect_tank_scales_on_its_coil_and_fills_with_sediment():
    heater = TANK | {"kind": "indirect_tank"}
    names = {one["component"] for one in answer(water=HARD, heater=heater)["components"]}
    assert {"sediment", "scale", "anode", "relief_valve", "tank"} <= names


def test_capacity_that_a_descale_brought_back_tells_the_scale():
    heater = {"kind": "gas_tankless", "installed_on": "2024-11-24", "setpoint_c": 55}

    def thickness(after: float) -> float:
        readings = {"flow_before_l_min": 10, "rise_before_k": 40, "flow_after_l_min": 10, "rise_after_k": after}
        event = {"on": "2026-10-24", "task": "descale", "finding": readings}
        return part("scale", water=HARD, heater=heater, events=[event])["rate"]["p50"]

    assert thickness(44) > thickness(41)


def test_a_port_that_could_not_be_opened_says_nothing_of_the_rod():
    look = {"on": "2026-10-01", "task": "anode_inspection", "finding": {"could_not_open": True}}
    silent, none = part("anode", heater=TANK, events=[look]), part("anode", heater=TANK)
    assert silent["rate"] == none["rate"] and silent["due_on"] == none["due_on"]


def test_new_people_make_earlier_findings_of_the_bed_count_less():
    flush = {"on": "2025-11-24", "task": "flush", "finding": {"removed": "heavy"}}
    moved = {"on": "2026-06-01", "task": "household_change"}
    stayed = part("sediment", heater=TANK, events=[flush])["rate"]
    left = part("sediment", heater=TANK, events=[flush, moved])["rate"]
    assert left["p90"] / left["p10"] > stayed["p90"] / stayed["p10"]


def test_the_answer_says_in_words_what_the_water_does_and_what_else_is_due():
    found = answer(water=HARD, heater=TANK)
    assert "very hard" in found["water"]["in_words"]
    assert [one["item"] for one in found["upkeep"]] == ["burner"]
    assert {one["with"] for one in found["alternatives"]} == {"as_it_is", "softener", "setpoint_49_c", "half_the_use"}


def test_one_of_several_rods_wears_as_long_as_all_together():
    one = part("anode", heater=TANK | {"anode": {"alloy": "magnesium", "length_mm": 1000, "count": 1}})
    two = part("anode", heater=TANK | {"anode": {"alloy": "magnesium", "length_mm": 1000, "count": 2}})
    assert two["rate"]["p50"] < 0.8 * one["rate"]["p50"]
    assert np.isfinite(two["rate"]["p90"])


def test_a_calendar_that_is_tried_comes_by_its_own_years():
    plain, yearly, half = tried(Change(practice=Practice.ANNUAL), Change(practice=Practice.HARD_WATER_HALF_YEARLY))
    assert yearly[Component.SEDIMENT].years_between == 1
    assert half[Component.SEDIMENT].years_between == 0.5
    # The later it comes, the likelier it is over the limit by then.
    ordered = sorted((plain, yearly, half), key=lambda one: one[Component.SEDIMENT].years_between)
    over = [one[Component.SEDIMENT].over_at_next for one in ordered]
    assert over == sorted(over)

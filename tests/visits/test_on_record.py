"""What is on record reaches the hand that needs it, at the step that is about it."""

import datetime
import itertools

from aquifer.customers.models import Site
from aquifer.heaters.models import Heater, Part
from aquifer.places.models import Feature
from aquifer.visiting.on_record import settings_measured
from tests.conftest import FLUSH
from tests.visits.test_readings import answer, log
from tests.visits.test_report import recorded


def guide(as_role, heater):
    return as_role("technician").get(f"heaters/{heater.pk}/guide").json()


def test_each_step_is_told_what_is_known_of_its_piece(as_role, forecasted):
    heater, today = forecasted["heaters"][0], forecasted["today"]
    Heater.objects.filter(pk=heater.pk).update(
        control_setting="dial at B", maker="Tarn", model="TN-50", serial="A1234", dip_tube="left, jets"
    )
    Part.objects.filter(heater=heater, kind="anode").update(length_mm=900, count=2)
    Feature.objects.create(
        site=heater.site, heater=heater, kind="heater_shut_off", form="gate", where="behind the panel",
        condition="brittle", do_not_operate=True, use_instead="the house valve", seen_on=today,
    )  # fmt: skip
    told = guide(as_role, heater)["on_record"]
    assert told["gas_control"] == "dial at B" and told["tank"] == "Tarn, TN-50, serial A1234"
    assert told["anode"] == "2 of them, magnesium, 900 mm long" and told["dip_tube"] == "left, jets"
    assert "behind the panel" in told["cold_valve"] and "don't touch it, use the house valve" in told["cold_valve"]
    # Of what nobody knows anything, nothing is told.
    assert not {"expansion_tank", "burner", "drain_port"} & set(told)
    other = next(one for one in forecasted["heaters"][1:] if one.site_id == heater.site_id)
    assert "cold_valve" not in guide(as_role, other)["on_record"]


def test_the_way_in_and_what_to_bring_is_told_before_the_first_step(as_role, forecasted):
    heater = forecasted["heaters"][0]
    Site.objects.filter(pk=heater.site_id).update(access="Gate code 4471, dog in the yard")
    Heater.objects.filter(pk=heater.pk).update(note="two people for the ladder")
    Feature.objects.create(
        site=heater.site, kind="drain_route", condition="rises", form="garden", seen_on=forecasted["today"]
    )
    # That there is none asks nothing of the visit.
    Feature.objects.create(
        site=heater.site, heater=heater, kind="drain_pan", condition="missing", seen_on=forecasted["today"]
    )
    assert guide(as_role, heater)["to_know"] == [
        "Gate code 4471, dog in the yard",
        "Drain route: rises on the way; bring a pump, or flush under pressure.",
        "two people for the ladder",
    ]


def test_a_setting_is_kept_as_found_and_as_left_and_shown_at_the_next_visit(as_role, forecasted):
    heater = forecasted["heaters"][0]
    steps = [
        answer("settings.found", "dial at C"),
        answer("settings.left", "dial at B"),
        answer("gas.sensor_tip", "carbon"),
    ]
    recorded(as_role, heater, FLUSH, steps=steps)
    told = log(as_role, heater)["entries"][-1]["readings"]
    assert told == ["Setting as found: dial at C", "Setting as left: dial at B", "Tip in the flame: carbon, black"]
    assert guide(as_role, heater)["on_record"]["gas_control"] == "dial at B"
    recorded(as_role, heater, FLUSH, steps=[answer("settings.found", "vacation")])
    assert Heater.objects.get(pk=heater.pk).control_setting == "vacation"


def test_how_the_water_looked_is_told_in_the_log(as_role, forecasted):
    heater = forecasted["heaters"][0]
    recorded(as_role, heater, {**FLUSH, "clarity": "milky"})
    assert "water milky" in log(as_role, heater)["entries"][-1]["lines"][0]["words"]


def test_a_dial_is_told_with_what_ran_at_it_by_a_thermometer(as_role, forecasted):
    """Found at one mark twice, 50 and 54 degrees, left at another with 58; and once with nothing measured."""
    heater = forecasted["heaters"][0]
    for days, steps in (
        (40, [answer("settings.found", "dial at B"), answer("arrival.tap_c", 50)]),
        (20, [answer("settings.found", "dial at B"), answer("arrival.tap_c", 54), answer("settings.left", "dial at C"),
              answer("verify.tap_c", 58)]),
        (5, [answer("settings.found", "dial at D"), answer("verify.tap_c", 61)]),
    ):  # fmt: skip
        day = forecasted["today"] - datetime.timedelta(days=days)
        recorded(as_role, heater, FLUSH, steps=steps, on=day.isoformat())
    told = settings_measured(Heater.objects.get(pk=heater.pk))
    assert told == ["dial at B: {temperature_c:52} at the faucet", "dial at C: {temperature_c:58} at the faucet"]


def test_another_setting_is_another_version_of_the_heater_and_the_same_is_not(as_role, forecasted):
    heater = forecasted["heaters"][0]
    Heater.objects.filter(pk=heater.pk).update(control_setting="dial at B", ignition="pilot")
    versions = [Heater.objects.get(pk=heater.pk).version]
    for setting in ("dial at B", "dial at C", "x" * 200):
        day = forecasted["today"] - datetime.timedelta(days=30 - len(versions))
        recorded(as_role, heater, FLUSH, steps=[answer("settings.left", setting)], on=day.isoformat())
        versions.append(Heater.objects.get(pk=heater.pk).version)
    assert [after - before for before, after in itertools.pairwise(versions)] == [0, 1, 1]
    assert Heater.objects.get(pk=heater.pk).control_setting == "x" * 80


def test_why_a_date_moved_names_the_part_that_was_renewed_beside_what_was_found(as_role, forecasted):
    heater = forecasted["heaters"][0]
    findings = [{"task": "anode_inspection", "grade": "gone"}, {"task": "anode_replacement"}]
    moved = {one["component"]: one for one in recorded(as_role, heater, *findings).moved}
    assert moved["anode"]["reasons"][0]["key"] == "new_rod"
    looked = {one["component"]: one for one in recorded(as_role, heater, {"task": "anode_inspection", "grade": "worn"},
              on=(forecasted["today"] - datetime.timedelta(days=3)).isoformat()).moved}  # fmt: skip
    assert looked["anode"]["reasons"][0]["key"] in ("rod_as_expected", "rod_unexpected")

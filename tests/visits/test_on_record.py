"""What is on record reaches the hand that needs it, at the step that is about it."""

from aquifer.customers.models import Site
from aquifer.heaters.models import Heater, Part
from aquifer.places.models import Feature
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

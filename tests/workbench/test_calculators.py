"""Calculators over HTTP, filled in for a usual tank or for one on record."""

from aquifer.core.procedures import calculators
from aquifer.heaters.models import Heater


def test_a_usual_tank_fills_in_all_of_them(as_role, base):
    told = as_role("apprentice").get("bench/calculators").json()
    assert {one["name"] for one in told} == set(calculators.calculators())


def test_a_heater_on_record_fills_in_its_own_figures_and_those_alone_that_fit(as_role, base):
    heater = Heater.objects.filter(kind="electric_tank").first()
    heater.capacity_l, heater.input_kw, heater.setpoint_c = 151.0, 3.8, 55.0
    heater.save()
    told = {one["name"]: one for one in as_role("technician").get(f"bench/calculators?heater_id={heater.pk}").json()}
    filled = {one["name"]: one["value"] for one in told["refill_minutes"]["inputs"]}
    assert filled["capacity_l"] == 151.0
    usual = {one["name"]: one for one in as_role("technician").get("bench/calculators").json()}
    assert set(told) < set(usual)
    assert all(calculators.calculators()[name].of in ("", "tank", "elements") for name in told)
    assert {"tank", "elements"} <= {calculators.calculators()[name].of for name in told}


def test_a_heater_that_there_is_not_is_told(as_role, base):
    answer = as_role("technician").get("bench/calculators?heater_id=999999")
    assert answer.status_code == 404 and answer.json()["fields"] == {"heater_id": "no such heater"}

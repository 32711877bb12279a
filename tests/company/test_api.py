import pytest
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction

from aquifer.company.models import Company
from aquifer.forecasts.models import Forecast
from aquifer.forecasts.recompute import recompute_all


def test_the_browser_is_sent_the_companys_units(as_role, db):
    metric = as_role("technician").get("company").json()["units"]
    assert metric["volume_l"] == {"label": "L", "factor": 1, "offset": 0, "decimals": 0}
    Company.objects.update(units="us", hardness_unit="gpg")
    us = as_role("technician").get("company").json()["units"]
    assert us["temperature_c"]["label"] == "°F" and us["temperature_c"]["offset"] == 32
    assert us["hardness_mg_l"]["label"] == "gpg"


def test_there_is_one_company(db):
    Company.current()
    with pytest.raises(IntegrityError, match="company_is_one"), transaction.atomic():
        Company.objects.create(pk=2)
    assert Company.current().pk == 1


def test_the_companys_practice_sets_the_dates_of_all(base):
    recompute_all()
    by_condition = dict(Forecast.objects.current().filter(component="sediment").values_list("heater_id", "due_on"))
    Company.objects.update(practice="annual")
    recompute_all()
    annual = Forecast.objects.current().filter(component="sediment")
    assert {one.decided_by for one in annual} == {"practice"}
    assert any(one.due_on != by_condition[one.heater_id] for one in annual)


def test_a_heaters_own_practice_outweighs_the_companys(base):
    heater = base["heaters"][0]
    heater.practice = "annual"
    heater.save()
    recompute_all()
    decided = dict(Forecast.objects.current().filter(component="sediment").values_list("heater_id", "decided_by"))
    assert decided.pop(heater.pk) == "practice"
    assert "practice" not in decided.values()


def test_a_company_that_accepts_less_risk_goes_sooner(base):
    dates = []
    for tolerance in (0.5, 0.2, 0.05):
        Company.objects.update_or_create(pk=1, defaults={"tolerance": tolerance, "longest_flush_months": 240})
        recompute_all()
        soft = Forecast.objects.current().filter(component="sediment", heater__site__zone__code="CHK")
        dates.append(min(one.due_on for one in soft))
    assert dates == sorted(dates, reverse=True)


def test_the_lead_takes_a_side_in_how_steps_are_done_and_the_next_guide_follows(as_role, forecasted):
    client, heater = as_role("lead"), forecasted["heaters"][0]
    told = client.get("company/step-practices").json()
    air = next(one for one in told["practices"] if one["name"] == "air_in")
    assert told["may_change"] and air["chosen"] == "faucet" and air["options"][0]["usual"]
    answer = client.raw.put("/api/company/step-practices", {"chosen": {"air_in": "relief"}}, "application/json")
    assert answer.status_code == 200
    assert client.get(f"heaters/{heater.pk}/guide").json()["facts"]["air_in"] == "relief"
    for bad in ({"air_in": "window"}, {"sofa": "left"}):
        refused = client.raw.put("/api/company/step-practices", {"chosen": bad}, "application/json")
        assert refused.status_code == 422 and "allowed" in refused.json()["message"]
    technician = as_role("technician")
    assert technician.get("company/step-practices").json()["may_change"] is False
    assert technician.raw.put("/api/company/step-practices", {"chosen": {}}, "application/json").status_code == 403


def test_a_time_zone_that_nobody_knows_is_refused_with_how_one_is_written():
    with pytest.raises(ValidationError, match="America/Denver"):
        Company(time_zone="Middle/Earth").clean()
    Company(time_zone="Europe/Lisbon").clean()

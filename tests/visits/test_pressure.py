"""The pressure that a visit measured is the house's: on its record, in the next guide, at every heater there."""

import datetime
import importlib
import uuid

from django.db import connection

from aquifer.core.units import KPA_PER_PSI
from aquifer.customers.models import Site
from aquifer.heaters.models import Heater
from aquifer.visits import pressure
from aquifer.visits.models import Finding, Visit
from tests.conftest import visit
from tests.places.test_places import site_body


def measured(kpa: float, **besides: object) -> dict[str, object]:
    return {"task": "pressure_test", "static_kpa": kpa, **besides}


def inputs(client, heater, calculator):
    told = client.get(f"heaters/{heater.pk}/guide").json()
    figure = next(one for one in told["figures"] if one["name"] == calculator)
    return {one["name"]: one["value"] for one in figure["inputs"]}


def test_what_was_measured_at_one_heater_is_said_of_the_house_and_used_at_the_other(as_role, forecasted):
    heater = forecasted["heaters"][0]
    other = next(one for one in forecasted["heaters"][1:] if one.site_id == heater.site_id)
    Site.objects.filter(pk=heater.site_id).update(static_pressure_kpa=344)
    client = as_role("technician")
    assert client.post("visits", visit(heater.pk, measured(640))).status_code == 201
    told = client.get(f"sites/{heater.site_id}").json()["site"]
    today = datetime.date.today().isoformat()
    assert (told["static_pressure_kpa"], told["pressure_on"], told["pressure_measured"]) == (640, today, True)
    for one in (heater, other):
        assert inputs(client, one, "precharge")["static_kpa"] == 640
        said = {one["rule"]: one["verdict"] for one in client.get(f"heaters/{one.pk}/log").json()["judgements"]}
        assert said["house_pressure"] == "fit_regulator"


def test_what_was_put_right_is_put_right_at_the_house(as_role, forecasted):
    heater, client = forecasted["heaters"][0], as_role("lead")
    made = client.post("visits", visit(heater.pk, measured(640))).json()["id"]
    body = {"client_id": "6f6c8e0e-2f43-4a52-9a0c-5b2f0f0f0a01", "findings": [measured(460)], "why": "read in psi"}
    assert client.post(f"visits/{made}/amendments", body).status_code in (200, 201)
    assert Site.objects.get(pk=heater.site_id).static_pressure_kpa == 460


def test_the_office_may_know_better_until_somebody_measures_again(as_role, forecasted):
    heater, client = forecasted["heaters"][0], as_role("lead")
    old = datetime.date.today() - datetime.timedelta(days=400)
    assert client.post("visits", visit(heater.pk, measured(640), on=old.isoformat())).status_code == 201
    body = {**site_body(forecasted), "static_pressure_kpa": 420}
    assert client.patch(f"sites/{heater.site_id}", body).status_code == 200
    site = Site.objects.get(pk=heater.site_id)
    assert not site.pressure_measured and pressure.keep([site.pk]) == []
    assert client.post("visits", visit(heater.pk, measured(500))).status_code == 201
    site.refresh_from_db()
    assert site.static_pressure_kpa == 500 and site.pressure_measured


def test_a_form_that_was_sent_back_untouched_does_not_unsay_a_measurement(as_role, forecasted):
    heater, client = forecasted["heaters"][0], as_role("lead")
    assert client.post("visits", visit(heater.pk, measured(640))).status_code == 201
    shown_psi = round(640 / KPA_PER_PSI, 1)
    body = {**site_body(forecasted), "static_pressure_kpa": shown_psi * KPA_PER_PSI}
    assert body["static_pressure_kpa"] != 640
    assert client.patch(f"sites/{heater.site_id}", body).status_code == 200
    site = Site.objects.get(pk=heater.site_id)
    assert (site.static_pressure_kpa, site.pressure_measured) == (640, True)
    newest = site.history.latest()
    assert newest.static_pressure_kpa == 640
    assert site.history.filter(static_pressure_kpa=640).earliest().history_user.username == "lead"
    assert client.patch(f"sites/{heater.site_id}", {**body, "static_pressure_kpa": None}).status_code == 200
    site.refresh_from_db()
    assert (site.static_pressure_kpa, site.pressure_measured) == (None, False)


def test_a_house_where_nobody_measured_keeps_what_was_said(base):
    site = base["sites"][0]
    Site.objects.filter(pk=site.pk).update(static_pressure_kpa=344)
    heater = Heater.objects.filter(site=site).first()
    made = Visit.objects.create(client_id="6f6c8e0e-2f43-4a52-9a0c-5b2f0f0f0a02", heater=heater, on=base["today"])
    Finding.objects.create(visit=made, heater=heater, on=base["today"], task="pressure_test", creep_kpa=80)
    assert pressure.keep([site.pk]) == []
    site.refresh_from_db()
    assert site.static_pressure_kpa == 344 and site.pressure_on is None


def test_the_supply_on_record_is_the_one_that_ohms_are_reckoned_with(as_role, forecasted):
    electric = next(one for one in forecasted["heaters"] if one.kind == "electric_tank")
    assert inputs(as_role("technician"), electric, "element_ohms")["volts"] == 230
    Heater.objects.filter(pk=electric.pk).update(supply_volts=120)
    assert inputs(as_role("technician"), electric, "element_ohms")["volts"] == 120
    assert inputs(as_role("technician"), electric, "element_amps")["volts"] == 120


def test_what_was_measured_before_sites_knew_of_it_is_put_on_their_record(base):
    """The migration's own words, on a base that had visits already."""
    migration = importlib.import_module("aquifer.visits.migrations.0011_pressure_of_sites")
    heater, today = base["heaters"][0], base["today"]
    other = next(one for one in base["heaters"][1:] if one.site_id == heater.site_id)
    Site.objects.update(static_pressure_kpa=344)

    def found(at: Heater, days: int, kpa: float | None, **more: object) -> Finding:
        on = today - datetime.timedelta(days=days)
        made = Visit.objects.create(client_id=uuid.uuid4(), heater=at, on=on)
        return Finding.objects.create(visit=made, heater=at, on=on, task="pressure_test", static_kpa=kpa, **more)

    found(heater, 300, 500)
    wrong = found(other, 20, 64)
    Finding.objects.create(
        visit=wrong.visit, heater=other, on=wrong.on, task="pressure_test", static_kpa=640, corrects=wrong, sequence=1
    )
    found(heater, 1, None, creep_kpa=20)
    with connection.cursor() as cursor:
        cursor.execute(migration.NEWEST)
    site = Site.objects.get(pk=heater.site_id)
    assert (site.static_pressure_kpa, site.pressure_on, site.pressure_measured) == (640, wrong.on, True)
    assert set(Site.objects.exclude(pk=site.pk).values_list("static_pressure_kpa", "pressure_on")) == {(344, None)}

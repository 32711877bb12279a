import datetime
import uuid

import pytest

from aquifer.customers.models import Site
from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Heater, Part
from aquifer.history import marks
from aquifer.rounds.models import Appointment
from tests.conftest import FLUSH, visit


def body(heater, **parts):
    return {
        "tag": heater.tag,
        "site_id": heater.site_id,
        "kind": heater.kind,
        "capacity_l": heater.capacity_l,
        "setpoint_c": heater.setpoint_c,
        "installed_on": heater.installed_on.isoformat(),
        "version": heater.version,
        **parts,
    }


def changed(client, heater, **parts):
    """Change a heater as the form does; returns the mark of the change."""
    heater.refresh_from_db()
    answer = client.patch(f"heaters/{heater.pk}", body(heater, **parts))
    assert answer.status_code == 200, answer.content
    return answer["X-Change"]


def test_history_tells_who_changed_what_from_what_to_what(as_role, forecasted):
    heater = forecasted["heaters"][0]
    mark = changed(as_role("planner"), heater, location="cellar", setpoint_c=55)
    told = as_role("apprentice").get(f"heaters/{heater.pk}/history").json()
    assert told[0]["change"] == mark and told[0]["by"] == "Planner"
    lines = {line["field"]: (line["before"], line["after"]) for line in told[0]["lines"]}
    assert lines == {"location": ("nothing", "cellar"), "setpoint c": ("60", "55")}
    assert told[-1]["lines"][0] == {
        "record": "heater", "named": "T-0", "done": "added", "field": "", "before": "", "after": "",
    }  # fmt: skip


def test_the_last_change_is_taken_back_and_the_dates_with_it(as_role, forecasted):
    client, heater = as_role("planner"), forecasted["heaters"][0]
    before = Forecast.objects.current().get(heater=heater, component="sediment").rate
    mark = changed(client, heater, setpoint_c=45, location="cellar")
    assert Forecast.objects.current().get(heater=heater, component="sediment").rate[1] < before[1]
    assert client.post(f"changes/{mark}/undo").json() == {"heaters": 1}
    heater.refresh_from_db()
    assert (heater.setpoint_c, heater.location) == (60, "")
    assert Forecast.objects.current().get(heater=heater, component="sediment").rate == pytest.approx(before, rel=1e-5)
    # Taking back is a change of its own, and somebody who had the heater open notices.
    assert heater.version == 3
    told = client.get(f"heaters/{heater.pk}/history").json()
    assert [line["after"] for line in told[0]["lines"]] == ["nothing", "60"]


def test_only_the_last_change_of_a_record_is_taken_back(as_role, forecasted):
    client, heater = as_role("planner"), forecasted["heaters"][0]
    first = changed(client, heater, location="cellar")
    second = changed(client, heater, location="garage")
    refused = client.post(f"changes/{first}/undo")
    assert refused.status_code == 409 and refused.json()["code"] == "change.not_the_last"
    assert client.post(f"changes/{second}/undo").status_code == 200
    heater.refresh_from_db()
    assert heater.location == "cellar"


def test_a_new_heater_is_taken_back_into_the_archive(as_role, forecasted):
    client = as_role("planner")
    answer = client.post("heaters", {"tag": "N-1", "site_id": forecasted["sites"][0].pk, "kind": "gas_tank"})
    assert client.post(f"changes/{answer['X-Change']}/undo").status_code == 200
    made = Heater.objects.get(tag="N-1")
    assert made.archived_at is not None
    assert not Forecast.objects.current().filter(heater=made).exists()


def test_a_fitted_part_is_taken_back_and_the_old_one_is_in_place_again(as_role, forecasted):
    client, heater = as_role("planner"), forecasted["heaters"][0]
    old = Part.objects.get(heater=heater, kind="anode")
    today = forecasted["today"].isoformat()
    rod = {"kind": "anode", "alloy": "aluminium", "fitted_on": today, "why": "gone"}
    answer = client.post(f"heaters/{heater.pk}/parts", rod)
    assert answer.status_code == 201 and answer.json()["past_parts"][0]["why_removed"] == "gone"
    assert client.post(f"changes/{answer['X-Change']}/undo").status_code == 200
    assert Part.objects.get(heater=heater, kind="anode", removed_on=None).pk == old.pk


def test_a_part_that_was_found_on_since_stays(as_role, forecasted):
    client, heater = as_role("planner"), forecasted["heaters"][0]
    rod = {"kind": "anode", "alloy": "aluminium", "fitted_on": forecasted["today"].isoformat()}
    mark = client.post(f"heaters/{heater.pk}/parts", rod)["X-Change"]
    look = {"task": "anode_inspection", "grade": "half"}
    assert as_role("technician").post("visits", visit(heater.pk, look)).status_code == 201
    refused = client.post(f"changes/{mark}/undo")
    assert refused.status_code == 409
    assert Part.objects.get(heater=heater, kind="anode", removed_on=None).alloy == "aluminium"


def test_a_bulk_change_is_taken_back_whole(as_role, forecasted):
    client = as_role("planner")
    asked = {"filters": {"q": "chalk"}, "field": "setpoint_c", "value": 52}
    expected = client.post("heaters/bulk/preview", asked).json()["changed"]
    answer = client.post("heaters/bulk", asked | {"expected": expected})
    assert Heater.objects.filter(setpoint_c=52).count() == expected == 4
    assert client.post(f"changes/{answer['X-Change']}/undo").json() == {"heaters": 4}
    assert not Heater.objects.filter(setpoint_c=52).exists()


def test_a_changed_site_is_taken_back_and_its_heaters_are_forecast_anew(as_role, forecasted):
    client, heater = as_role("planner"), forecasted["heaters"][0]
    rate = Forecast.objects.current().get(heater=heater, component="sediment").rate
    said = {"name": heater.site.name, "zone_id": heater.site.zone_id, "softened": True}
    mark = client.patch(f"sites/{heater.site_id}", said)["X-Change"]
    assert client.post(f"changes/{mark}/undo").json()["heaters"] == 2
    assert Site.objects.get(pk=heater.site_id).softened is False
    assert Forecast.objects.current().get(heater=heater, component="sediment").rate == pytest.approx(rate, rel=1e-5)


def test_a_zone_s_seasons_are_taken_back_with_it(as_role, forecasted):
    client, (zone, other) = as_role("lead"), forecasted["zones"]
    summer = {"name": "dry summer", "other_id": other.pk, "share_of_year": 0.3, "other_share": 0.5}
    said = {"name": "Chalk", "supply": "mains", "note": "", "seasons": [summer]}
    first = client.raw.put(f"/api/zones/{zone.pk}", said, content_type="application/json")
    assert first.json()["seasons"][0]["other"] == "Upland"
    second = client.raw.put(f"/api/zones/{zone.pk}", said | {"seasons": []}, content_type="application/json")
    assert second.json()["seasons"] == []
    assert client.post(f"changes/{second['X-Change']}/undo").status_code == 200
    assert client.get(f"zones/{zone.pk}").json()["seasons"][0]["name"] == "dry summer"
    done = [line["done"] for change in client.get(f"zones/{zone.pk}/history").json() for line in change["lines"]]
    assert done.count("removed") == 1 and done.count("added") >= 2


def test_an_unknown_change_is_told_and_others_may_not(as_role, forecasted):
    assert as_role("planner").post(f"changes/{uuid.uuid4()}/undo").status_code == 404
    assert as_role("planner").post("changes/not-one/undo").status_code == 422
    change = changed(as_role("planner"), forecasted["heaters"][0], location="attic")
    answer = as_role("apprentice").post(f"changes/{change}/undo")
    assert answer.status_code == 403 and "edit the register, nor take it back" in answer.json()["message"]


def test_a_planner_s_promise_is_not_a_technician_s_to_take_back(as_role, base, db):
    week = datetime.date(2026, 11, 30)
    one = Appointment.objects.create(site=base["sites"][0], week=week, minutes=60)
    with marks.one() as mark:
        one.minutes = 90
        one.save()
    assert as_role("technician").post(f"changes/{mark.uuid}/undo").status_code == 403
    assert Appointment.objects.get().minutes == 90
    assert as_role("planner").post(f"changes/{mark.uuid}/undo").status_code == 200
    assert Appointment.objects.get().minutes == 60


def test_an_answer_names_a_change_only_if_one_was_made(as_role, forecasted):
    client = as_role("technician")
    assert "X-Change" not in client.get("heaters")
    assert "X-Change" not in client.post("visits", visit(forecasted["heaters"][0].pk, FLUSH))


def test_what_is_written_inside_one_mark_is_one_change(base):
    with marks.one() as mark:
        for heater in base["heaters"][:2]:
            heater.location = "cellar"
            heater.save()
    assert mark.used
    assert Heater.history.filter(change=mark.uuid).count() == 2
    base["heaters"][2].save()
    assert Heater.history.filter(change=mark.uuid).count() == 2

import datetime

import numpy as np
import pytest
from django.utils import timezone

from aquifer.company.models import Company
from aquifer.core.forecast import Context, forecast
from aquifer.core.vocabulary import Component
from aquifer.forecasts import inputs
from aquifer.forecasts.calibrations import in_force
from aquifer.forecasts.models import DUE_ON, Calibration, Due, Forecast
from aquifer.forecasts.recompute import recompute_all, recompute_heaters, recompute_zones
from aquifer.heaters.models import Heater
from tests.conftest import FLUSH, ROD, VALVE, visit


def test_rows_come_by_what_is_due_first(as_role, forecasted):
    rows = as_role("planner").get("outlook").json()["rows"]
    first = [min(one["due_on"] for one in row["windows"]) for row in rows]
    assert len(rows) == 6 and first == sorted(first)


def test_rows_come_by_what_a_visit_is_worth(as_role, forecasted):
    rows = as_role("planner").get("outlook?order=benefit").json()["rows"]
    worth = [max(one["benefit"] for one in row["windows"]) for row in rows]
    assert worth == sorted(worth, reverse=True)


def test_hard_water_is_due_before_soft(as_role, forecasted):
    hard, soft = (
        Forecast.objects.current().filter(component="sediment", heater__site__zone=zone) for zone in forecasted["zones"]
    )

    def medians(forecasts):
        return [99_999 if one.reached_days[3] is None else one.reached_days[3] for one in forecasts]

    assert max(medians(hard)) < min(medians(soft))


def test_filters_narrow_rows_and_hours_alike(as_role, forecasted):
    client, zone = as_role("planner"), forecasted["zones"][1]
    narrowed = client.get(f"outlook?zone_id={zone.pk}&kind=gas_tank").json()
    assert {row["zone"] for row in narrowed["rows"]} == {"Upland"}
    weeks = [client.get(f"outlook/weeks{asked}").json() for asked in ("", f"?zone_id={zone.pk}&kind=gas_tank")]
    services = [sum(week["services"] for week in told) for told in weeks]
    due = [one for row in narrowed["rows"] for one in row["windows"] if one["component"] != "tank"]
    assert 0 < services[1] <= len(due) < services[0]


def test_what_is_overdue_lies_in_the_present_week(as_role, forecasted):
    weeks = as_role("planner").get("outlook/weeks").json()
    today = datetime.date.today()
    monday = today - datetime.timedelta(days=today.weekday())
    assert min(one["week"] for one in weeks) == monday.isoformat()


@pytest.mark.parametrize("limit", [1, 100])
def test_the_outlook_reads_in_a_fixed_number_of_queries(as_role, forecasted, django_assert_num_queries, limit):
    client = as_role("planner")
    with django_assert_num_queries(8):  # the clock, session, user, heaters, forecasts, hazards, left off, count
        assert client.get(f"outlook?limit={limit}").status_code == 200


def test_the_log_reads_in_a_fixed_number_of_queries(as_role, forecasted, django_assert_max_num_queries):
    client, heater = as_role("technician"), forecasted["heaters"][0]
    for _ in range(3):
        client.post("visits", visit(heater.pk, FLUSH, ROD, VALVE))
    with django_assert_max_num_queries(20):
        found = client.get(f"heaters/{heater.pk}/log").json()
    assert len(found["entries"]) == 3
    assert found["entries"][0]["lines"][0] == {"task": "flush", "words": "Pulsed drain: heavy, flakes"}
    rod = next(one for one in found["forecasts"] if one["component"] == "anode")
    assert rod["learned"].endswith("; three visits say so.")
    courses = {one["component"]: one for one in found["courses"]}
    present = courses["sediment"]["present"]
    future = courses["sediment"]["p50"][present:]
    assert future == sorted(future), "an untouched bed only grows"


def test_upkeep_counts_from_what_was_found(as_role, forecasted):
    client, heater = as_role("technician"), forecasted["heaters"][0]

    def burner():
        return next(one for one in client.get(f"heaters/{heater.pk}/log").json()["upkeep"] if one["item"] == "burner")

    assert burner()["because"] == ["usually every 12 months"]
    fouled = {"task": "upkeep", "item": "burner", "fouling": "fouled"}
    assert client.post("visits", visit(heater.pk, fouled)).status_code == 201
    after = burner()
    assert after["interval_months"] == 8.4 and after["because"][-1] == "last found fouled"
    days = (datetime.date.fromisoformat(after["due_on"]) - datetime.date.today()).days
    assert days == round(8.4 / 12 * 365.25)


def test_a_fleet_loads_in_a_fixed_number_of_queries(base, django_assert_num_queries):
    Company.current()
    with django_assert_num_queries(5):
        loaded = inputs.load(base["today"])
    assert loaded.heater_ids.size == 6


def test_what_is_stored_is_what_the_core_computed(forecasted):
    given, people = in_force()
    loaded = inputs.load(forecasted["today"], None, people)
    computed = {one.component: one for one in forecast(loaded.fleet, Context(calibration=given)).components}
    for stored in Forecast.objects.current():
        one = computed[stored.component]
        at = int(np.flatnonzero(loaded.heater_ids[one.row] == stored.heater_id)[0])
        assert stored.rate == pytest.approx(one.rate[at], abs=1e-4)
        assert stored.probability_today == pytest.approx(one.probability_today[at], abs=1e-4)


def test_recomputing_all_leaves_one_current_forecast_of_each_component(forecasted):
    before = Forecast.objects.current().count()
    recompute_all()
    assert Forecast.objects.current().count() == before
    # Nothing that went in has changed: they only aged, and nothing is kept of that.
    assert Forecast.objects.count() == before


def test_a_forecast_whose_inputs_changed_is_kept_to_be_held_against_what_is_found(forecasted):
    heater = forecasted["heaters"][0]
    own = Forecast.objects.filter(heater=heater)
    before = own.count()
    Heater.objects.filter(pk=heater.pk).update(version=heater.version + 1, setpoint_c=70)
    recompute_all()
    assert own.count() == 2 * before and own.current().count() == before
    assert Forecast.objects.exclude(heater=heater).filter(superseded_at__isnull=False).count() == 0


def test_some_heaters_anew_supersede_only_what_changed(forecasted):
    changed, aged = forecasted["heaters"][:2]
    Heater.objects.filter(pk=changed.pk).update(version=changed.version + 1, setpoint_c=70)
    of = {one.pk: set(Forecast.objects.filter(heater=one).values_list("pk", flat=True)) for one in (changed, aged)}
    recompute_heaters([changed.pk, aged.pk])
    superseded = Forecast.objects.filter(superseded_at__isnull=False)
    assert set(superseded.values_list("pk", flat=True)) == of[changed.pk]
    assert not Forecast.objects.filter(pk__in=of[aged.pk]).exists()
    for one in (changed, aged):
        assert Forecast.objects.current().filter(heater=one).count() == len(of[one.pk])
    assert Due.objects.filter(heater__in=[changed, aged]).count() == 2


def test_an_archived_heater_among_some_is_passed_over(forecasted):
    gone, stays = forecasted["heaters"][:2]
    before = set(Forecast.objects.filter(heater=gone).values_list("pk", flat=True))
    Heater.objects.filter(pk=gone.pk).update(archived_at=timezone.now())
    recompute_heaters([gone.pk, stays.pk])
    assert set(Forecast.objects.filter(heater=gone).values_list("pk", flat=True)) == before
    recompute_heaters([gone.pk])
    recompute_heaters([])
    assert Forecast.objects.current().filter(heater=stays).exists()


def test_partitions_give_the_same_bytes_as_one(forecasted):
    def stored() -> list[dict]:
        rows = Forecast.objects.current().order_by("heater_id", "component")
        return list(rows.values("heater_id", "component", "reached_days", "due_on", "state_values", "factor_days"))

    whole = stored()
    for zone in forecasted["zones"]:
        recompute_zones([zone.pk])
    assert stored() == whole


def test_one_heater_at_once_agrees_with_its_zones_job(as_role, forecasted):
    """What the technician is told on saving is what stands there after the night."""
    heater = forecasted["heaters"][0]
    as_role("technician").post("visits", visit(heater.pk, FLUSH, ROD, VALVE))
    at_once = {one.component: one for one in Forecast.objects.current().filter(heater=heater)}
    recompute_zones([heater.site.zone_id])
    for one in Forecast.objects.current().filter(heater=heater):
        assert one.rate == pytest.approx(at_once[one.component].rate, rel=0.02), one.component
        if one.due_on:
            assert abs((one.due_on - at_once[one.component].due_on).days) <= 3


def test_the_base_calibrates_the_forecasts_after_it(forecasted):
    assert set(Calibration.objects.values_list("component", flat=True)) >= {"sediment", "anode", "relief_valve"}
    given, people = in_force()
    assert given[Component.SEDIMENT].heater_scale > 0 and people.graders == ()
    before = Forecast.objects.current().filter(component="sediment").values_list("log_theta", flat=True).order_by("pk")
    before = list(before)
    Calibration.objects.filter(component="sediment").update(shift=0.5)
    recompute_zones([zone.pk for zone in forecasted["zones"]])
    after = Forecast.objects.current().filter(component="sediment").order_by("heater_id")
    assert [one.log_theta for one in after] == pytest.approx([value + 0.5 for value in before], abs=1e-3)


def test_an_archived_heater_is_forecast_no_more(forecasted, as_role):
    client, heater = as_role("planner"), forecasted["heaters"][0]
    client.post(f"heaters/{heater.pk}/archive")
    told = client.get("outlook").json()
    assert told["total"] == len(told["rows"]) == 5
    # The hours of its zone go with it: its short row is gone.
    assert not Due.objects.filter(heater=heater).exists()
    assert heater.pk not in inputs.load(forecasted["today"]).heater_ids


def test_an_empty_base_is_no_error(as_role, db):
    recompute_all()
    answer = as_role("planner").get("outlook").json()
    assert answer["total"] == 0 and answer["rows"] == []
    assert as_role("planner").get("outlook/weeks").json() == []


@pytest.mark.parametrize(
    "query", ["limit=0", "limit=x", "zone_id=-1", "until=soon", "order=alphabet", "offset=-1", "q=%00"]
)
def test_a_bad_question_is_told_its_field(as_role, db, query):
    answer = as_role("planner").get(f"outlook?{query}")
    assert answer.status_code == 422
    assert query.split("=")[0] in answer.json()["fields"]


def test_what_would_change_a_heater_is_recomputed(as_role, forecasted):
    heater = forecasted["heaters"][0]
    found = as_role("planner").get(f"heaters/{heater.pk}/changes").json()
    told = {change["change"]: {one["component"]: one for one in change["results"]} for change in found}
    assert list(told)[0] == "as_it_is" and "softener" in told
    cooler = next(one for one in found if one["change"] == "cooler")
    assert cooler["setpoint_c"] == 49 and found[0]["setpoint_c"] is None
    plain, softened, blown = (told[name]["sediment"] for name in ("as_it_is", "softener", "pressure_blowout"))
    assert softened["over_in_12_months"] < plain["over_in_12_months"]
    assert blown["over_after_service"] >= plain["over_after_service"]
    assert as_role("planner").get("heaters/999999/changes").status_code == 404


def test_what_would_change_a_tank_that_is_left_alone_is_told_too(as_role, base):
    heater = base["heaters"][0]
    heater.flush_history, heater.installed_on = "never", heater.installed_on.replace(year=2010)
    heater.save()
    recompute_all()
    assert Forecast.objects.current().get(heater=heater, component="sediment").decided_by == "left_alone"
    answer = as_role("planner").get(f"heaters/{heater.pk}/changes")
    assert answer.status_code == 200
    assert {"as_it_is", "softener", "jetting"} <= {change["change"] for change in answer.json()}


def test_the_short_rows_say_what_the_forecasts_say(forecasted):
    for one in Due.objects.all():
        stored = Forecast.objects.current().of_visits().filter(heater=one.heater_id)
        assert one.first_on == min(forecast.due_on for forecast in stored)
        assert one.worth == max(forecast.benefit for forecast in stored)
        assert {forecast.component: forecast.due_on for forecast in stored} == {
            component: day for component, name in DUE_ON.items() if (day := getattr(one, name)) is not None
        }
    assert Due.objects.count() == 6

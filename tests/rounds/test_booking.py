"""Visits booked by hand for whoever rings, with what is due riding along, and what a caller asks first."""

import datetime
import uuid

import pytest

from aquifer.forecasts.models import Forecast
from aquifer.rounds import run as runs
from aquifer.rounds.models import Appointment, AppointmentStatus, Reason, Run, Service


@pytest.fixture
def client(as_role, forecasted, crew):
    return as_role("planner")


@pytest.fixture
def site(forecasted):
    return forecasted["sites"][0]


def asked(site, **more):
    return {"site_id": site.pk, "reason": "complaint", "minutes": 60, "said": "lukewarm since Monday", **more}


def on_day(day, member, **more):
    return {"week": str(day), "on": str(day), "member_id": member.pk, **more}


def due(heater, component, on):
    """The forecast in force says so."""
    assert Forecast.objects.current().filter(heater=heater, component=component).update(due_on=on, latest_on=None)


def test_a_caller_is_told_what_is_free_what_it_costs_and_what_would_be_done(client, site, crew, next_week):
    Forecast.objects.update(due_on=datetime.date(2090, 1, 1))
    heater = site.heaters.first()
    due(heater, "sediment", next_week)
    told = client.post("rounds/slots", asked(site, first=str(next_week), days=7)).json()
    assert [one["component"] for one in told["rides_along"]] == ["sediment"] and told["minutes"] > 60
    free = [one for one in told["places"] if not one["faults"]]
    assert len(free) >= 3 and free[0]["driving"] == min(one["driving"] for one in free)
    alone = client.post("rounds/slots", asked(site, first=str(next_week), days=7, ride_along=False)).json()
    assert alone["rides_along"] == [] and alone["minutes"] == 60
    assert not Appointment.objects.exists()


def test_a_visit_is_booked_for_a_day_in_two_months_and_promised(client, site, crew, today):
    day = today + datetime.timedelta(days=61)
    body = asked(site, **on_day(day, crew[0], agreed=True), decides="Ida Brandt, 555 0141")
    made = client.post("rounds/appointments", body)
    assert made.status_code == 201, made.json()
    told = made.json()
    assert (told["on"], told["standing"], told["reason"]) == (str(day), "promised", "complaint")
    assert (told["said"], told["decides"]) == ("lukewarm since Monday", "Ida Brandt, 555 0141")
    assert told["earliest"] <= told["begins"] <= told["latest"] and told["technician"] == crew[0].user.name
    assert [one["id"] for one in client.get(f"rounds/sites/{site.pk}/appointments").json()] == [told["id"]]


def test_what_is_planned_there_rides_along_and_leaves_the_plan(client, site, crew, next_week):
    Forecast.objects.update(due_on=datetime.date(2090, 1, 1))
    heater = site.heaters.first()
    due(heater, "sediment", next_week)
    planned = Appointment.objects.create(site=site, week=next_week, minutes=150)
    for component in ("sediment", "tank"):
        Service.objects.create(appointment=planned, heater=heater, component=component, method="none", hours=1)
    told = client.post("rounds/appointments", asked(site, **on_day(next_week, crew[0]))).json()
    assert [one["component"] for one in told["services"]] == ["sediment"]
    planned.refresh_from_db()
    assert [one.component for one in planned.services.all()] == ["tank"] and planned.minutes == 78
    Service.objects.filter(component="tank").update(component="anode")
    due(heater, "anode", next_week)
    client.post("rounds/appointments", asked(site, **on_day(next_week + datetime.timedelta(days=1), crew[0])))
    assert not Appointment.objects.filter(pk=planned.pk).exists()


def test_what_was_promised_for_another_day_stays_there(client, site, crew, next_week):
    Forecast.objects.update(due_on=datetime.date(2090, 1, 1))
    heater = site.heaters.first()
    due(heater, "sediment", next_week)
    other = Appointment.objects.create(
        site=site,
        week=next_week,
        on=next_week,
        member=crew[0],
        begins=600,
        minutes=78,
        standing=AppointmentStatus.PROMISED,
    )
    Service.objects.create(appointment=other, heater=heater, component="sediment", method="none", hours=1)
    told = client.post(
        "rounds/appointments", asked(site, **on_day(next_week + datetime.timedelta(days=2), crew[0]))
    ).json()
    assert told["services"] == [] and other.services.count() == 1


def test_two_visits_of_one_day_at_one_house_are_one(client, site, crew, next_week):
    first = client.post("rounds/appointments", asked(site, **on_day(next_week, crew[0]), ride_along=False)).json()
    body = asked(site, **on_day(next_week, crew[1]), ride_along=False, minutes=45, said="and it smells", needs=["gas"])
    second = client.post("rounds/appointments", body).json()
    assert second["id"] == first["id"] and Appointment.objects.count() == 1
    # Settled in once: 60 and 45 minutes, less the 18 of the second arrival.
    assert second["minutes"] == 87 and second["said"] == "lukewarm since Monday; and it smells"
    assert second["member_id"] == crew[0].pk and second["needs"] == ["gas"]


def test_a_visit_is_not_joined_by_what_who_comes_there_may_not_do(client, site, crew, next_week):
    first = client.post("rounds/appointments", asked(site, **on_day(next_week, crew[0]), ride_along=False)).json()
    body = asked(site, **on_day(next_week, crew[1]), ride_along=False, needs=["electrical"])
    refused = client.post("rounds/appointments", body)
    assert refused.status_code == 422 and "electrical" in refused.json()["message"]
    assert crew[0].user.name in refused.json()["message"]
    assert Appointment.objects.get(pk=first["id"]).minutes == 60


def test_what_joins_a_planned_visit_in_agreement_makes_it_a_promise(client, site, crew, next_week):
    planned = Appointment.objects.create(
        site=site, week=next_week, on=next_week, member=crew[0], begins=600, minutes=60
    )
    told = client.post(
        "rounds/appointments", asked(site, **on_day(next_week, crew[0], agreed=True), ride_along=False)
    ).json()
    assert (told["id"], told["standing"]) == (planned.pk, "promised")
    assert told["earliest"] <= told["begins"] <= told["latest"]


def test_a_week_without_a_day_waits_among_its_unplaced_and_planning_leaves_it_there(client, site, next_week):
    told = client.post("rounds/appointments", asked(site, week=str(next_week), reason="estimate")).json()
    assert (told["on"], told["standing"], told["week"]) == (None, "kept", str(next_week))
    rows = client.get(f"rounds/unplaced?week={next_week}").json()["rows"]
    assert [one["id"] for one in rows] == [told["id"]]


@pytest.mark.parametrize(
    ("more", "status", "field"),
    [
        ({"site_id": 10**9}, 404, "site_id"),
        ({"minutes": 5}, 422, "minutes"),
        ({"reason": "because"}, 422, "reason"),
        ({"week": "2001-01-01", "on": None, "member_id": None}, 422, "on"),
        ({"member_id": None}, 422, "member_id"),
        ({"week": "2090-01-01", "on": "2090-01-02"}, 422, "on"),
        ({"said": "x" * 241}, 422, "said"),
    ],
)
def test_what_cannot_be_booked_is_refused_by_its_field(client, site, crew, next_week, more, status, field):
    answered = client.post("rounds/appointments", {**asked(site), **on_day(next_week, crew[0]), **more})
    assert answered.status_code == status
    assert any(field in name for name in answered.json()["fields"])
    assert not Appointment.objects.exists()


def test_nobody_is_sent_who_may_not_and_nothing_is_left_behind(client, site, crew, next_week):
    answered = client.post("rounds/appointments", asked(site, **on_day(next_week, crew[0]), needs=["electrical"]))
    assert answered.status_code == 422 and "electrical" in answered.json()["message"]
    assert not Appointment.objects.exists()


def test_only_who_plans_books(as_role, site, crew, next_week):
    for role in ("technician", "apprentice"):
        assert as_role(role).post("rounds/appointments", asked(site, week=str(next_week))).status_code == 403


@pytest.mark.parametrize("typed", ["555-0101", "5550101", "555 01 01", "(555) 0101", "+99 555 0101", "0101555 0101"])
def test_a_telephone_number_is_found_however_it_is_written_and_says_what_comes_next(client, site, crew, typed, today):
    customer = site.customer
    customer.phone, customer.second_phone = "555-0101", "555 0177"
    customer.save()
    day = today + datetime.timedelta(days=9)
    Appointment.objects.create(
        site=site, week=day, on=day, member=crew[1], begins=600, minutes=60, standing=AppointmentStatus.PROMISED,
        earliest=570, latest=660,
    )  # fmt: skip
    found = client.raw.get("/api/find", {"q": typed}).json()
    assert found["exact"]
    (next_visit,) = {
        (one["next_visit"]["on"], one["next_visit"]["technician"], one["next_visit"]["earliest"])
        for one in found["heaters"]
        if one["site_id"] == site.pk
    }
    assert next_visit == (str(day), crew[1].user.name, 570)
    assert any(
        one["kind"] == "site" and one["next_visit"]["on"] == str(day) for one in found["places"] if one["id"] == site.pk
    )
    assert client.raw.get("/api/find", {"q": "5550177"}).json()["places"]
    assert client.raw.get("/api/find", {"q": "5550199"}).json()["places"] == []


def test_a_tag_of_figures_is_no_telephone_number(client, site):
    heater = site.heaters.first()
    heater.tag = "12-345-678"
    heater.save()
    assert [one["tag"] for one in client.raw.get("/api/find", {"q": "12-345-678"}).json()["heaters"]] == ["12-345-678"]


def test_planning_the_season_keeps_the_time_of_what_was_asked_for(client, site, crew, people, next_week, today):
    """A booked hour stays an hour besides what is put onto it."""
    told = client.post("rounds/appointments", asked(site, **on_day(next_week, crew[0]), ride_along=False)).json()
    one = Appointment.objects.get(pk=told["id"])
    run = runs.ask("season", today, 26, people["lead"], today)
    runs.work_on(run.pk)
    assert Run.objects.get(pk=run.pk).state == "ready", Run.objects.get(pk=run.pk).message
    one.refresh_from_db()
    hours = sum(service.hours for service in one.services.all())
    assert one.minutes == (42 + 18 + round(60 * hours) if hours else 60)
    assert (one.reason, one.said) == (Reason.COMPLAINT, "lukewarm since Monday")


def test_photographs_that_came_with_a_call_stay_with_its_visit(client, site, crew, next_week):
    first, second = str(uuid.uuid4()), str(uuid.uuid4())
    made = client.post("rounds/appointments", asked(site, **on_day(next_week, crew[0]), photos=[first])).json()
    assert made["photos"] == [first]
    # Rung again about the same day: one visit, with what both calls showed.
    again = client.post("rounds/appointments", asked(site, **on_day(next_week, crew[0]), photos=[second, first])).json()
    assert again["id"] == made["id"] and again["photos"] == [first, second]
    day = client.get(f"rounds/days/{next_week}").json()
    shown = [call["appointment"]["photos"] for one in day["rounds"] for call in one["calls"]]
    assert [first, second] in shown
    wrong = asked(site, **on_day(next_week, crew[0]), photos=["x"])
    assert client.post("rounds/appointments", wrong).status_code == 422

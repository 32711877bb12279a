"""Projections over HTTP and by their jobs: asked for, lived in parts, compared, and held against what came."""

import datetime
import uuid

import numpy as np
import pytest
from django.utils import timezone

from aquifer.company.clock import week_of
from aquifer.core.ahead.scene import SERVED
from aquifer.core.follow_up import FollowUp
from aquifer.core.forecast import forecast
from aquifer.core.money import CALL_OUT
from aquifer.core.planning.hours import ASSUMED
from aquifer.core.vocabulary import Component, EndCause
from aquifer.customers.models import Customer, Site
from aquifer.errors import Conflict
from aquifer.forecasts.inputs import load
from aquifer.forecasts.models import Forecast
from aquifer.formats.sheet import Matched
from aquifer.heaters.models import Heater
from aquifer.imports import run as imports
from aquifer.money import prices
from aquifer.money.models import Contract, ContractPlan, MoneySettings, Price
from aquifer.projections import amounts, held, living, tasks
from aquifer.projections.models import Projection, ProjectionPart, ProjectionState
from aquifer.rounds.models import Appointment, CrewMember, Run, RunKind, RunState, Service
from aquifer.visits.models import Finding, Visit


def lived(projection):
    """All its parts lived, as workers would."""
    for part in list(projection.parts.all()):
        tasks.live(part_id=part.pk)
    projection.refresh_from_db()
    return projection


def asked(*decisions, years=2, on=None):
    return lived(
        tasks.ask(Projection(asked_on=on or timezone.localdate(), years=years, decisions=list(decisions), name="Tried"))
    )


def total(projection, name):
    """Of the middle future, over all years."""
    return sum(projection.found["series"][name][1])


@pytest.fixture
def priced(forecasted):
    MoneySettings.objects.update_or_create(pk=1, defaults={"currency": "¤", "hour_cost": "60"})
    every = [CALL_OUT, *(component.value for component in SERVED), *FollowUp]
    for n, key in enumerate(dict.fromkeys(map(str, every))):
        Price.objects.create(key=key, words=key, price=40 + n, cost=n)
    return forecasted


def test_the_lead_tries_a_decision_and_the_base_as_it_is_stands_beside_it(as_role, priced):
    lead = as_role("lead")
    decision = {"kind": "practice", "word": "annual"}
    told = lead.post("projections", {"name": "Yearly", "years": 2, "decisions": [decision]})
    assert told.status_code == 201
    rows = lead.get("projections").json()
    assert [(row["name"], row["state"]) for row in rows] == [("Yearly", "working"), ("", "working")]
    nothing = {"value": None, "zone_id": None, "zone": "", "share": None, "list_name": ""}
    assert rows[0]["decisions"] == [{**decision, **nothing}]
    for row in rows:
        assert lead.get(f"projections/{row['id']}").json()["series"] == []
        lived(Projection.objects.get(pk=row["id"]))
    tried, plain = (lead.get(f"projections/{row['id']}").json() for row in rows)
    assert (tried["state"], tried["heaters"], len(tried["until"])) == ("ready", 6, 2)
    for series in tried["series"]:
        for fan in series["by_year"]:
            assert fan["low"] <= fan["middle"] <= fan["high"], series["name"]
    beside = lead.get(f"projections/{plain['id']}/beside/{tried['id']}").json()["differences"]
    visits = next(one for one in beside if one["name"] == "visits")
    assert len(visits["by_year"]) == 2
    # Asked again on the same day the base as it is is not reckoned twice.
    lead.post("projections", {"years": 2, "decisions": []})
    assert Projection.objects.count() == 2


def test_parts_lived_in_any_order_come_to_the_same(priced, monkeypatch):
    monkeypatch.setattr(living, "PART_HEATERS", 1)
    one, other = (tasks.ask(Projection(asked_on=timezone.localdate(), years=2, decisions=[])) for _ in range(2))
    parts = list(one.parts.all())
    assert len(parts) == 2 and [len(part.zones) for part in parts] == [1, 1]
    lived(one)
    for part in reversed(list(other.parts.all())):
        tasks.live(part_id=part.pk)
        tasks.live(part_id=part.pk)
    other.refresh_from_db()
    assert one.found == other.found and one.found["heaters"] == 6
    assert not ProjectionPart.objects.exists()


def test_nothing_else_is_kept(priced):
    before = Forecast.objects.count()
    asked({"kind": "tolerance", "value": 0.05})
    assert Forecast.objects.count() == before


def test_what_comes_in_follows_the_price_book_and_each_contract(priced):
    plain = asked()
    assert plain.found["missing"] == []
    dearer = asked({"kind": "prices", "value": 1.25})
    income = [np.array(one.found["series"]["income"]) for one in (plain, dearer)]
    assert income[1] == pytest.approx(1.25 * income[0], abs=0.05)
    left = [np.array(one.found["futures"]["left"]) for one in (plain, dearer)]
    assert (left[1] > left[0]).all()
    Price.objects.filter(key=CALL_OUT).delete()
    assert asked().found["missing"] == [CALL_OUT]


def test_a_plan_pays_for_what_it_includes(priced):
    site = priced["sites"][0]
    plan = ContractPlan.objects.create(
        name="Care", yearly=300, includes=["sediment", "relief_valve"], call_out=True, parts_off="0.50"
    )
    Contract.objects.create(site=site, plan=plan, begins_on=timezone.localdate() - datetime.timedelta(days=9))
    inputs = load(timezone.localdate())
    found = forecast(inputs.fleet)
    on_plan, none = amounts.plans(timezone.localdate())[site.pk], amounts.SitePlan()
    n = inputs.heater_ids.size
    worth = [
        amounts.worth(
            inputs.fleet.heaters.kind,
            found,
            np.zeros(n, dtype=np.int64),
            [one],
            amounts.Amounts(prices.read().book, 1.0, ASSUMED),
        )
        for one in (none, on_plan)
    ]
    income = amounts.INCOME
    for component, paid in ((Component.SEDIMENT, 0), (Component.RELIEF_VALVE, 0), (Component.ANODE, 1)):
        rows = found.of(component).row
        without, within = (one.service[component][rows, income] for one in worth)
        assert (without > 0).all() and within == pytest.approx(paid * without)
    assert [one.visit[0, income] for one in worth] == [40, 0]
    assert [one.year[0, income] for one in worth] == [0, 300]
    assert worth[1].tank[:, income] == pytest.approx(0.5 * worth[0].tank[:, income])
    # What it costs us stays.
    assert (worth[0].service[Component.SEDIMENT] == worth[1].service[Component.SEDIMENT])[:, amounts.MATERIALS].all()
    rows = asked().found["groups"]["plan"]
    assert {row["name"]: row["heaters"] for row in rows} == {"Care": 2, "": 4}


def test_sites_that_cost_more_than_they_bring_are_told_with_their_plan(as_role, priced):
    MoneySettings.objects.update_or_create(pk=1, defaults={"hour_cost": 40})
    cheap = ContractPlan.objects.create(name="All in", yearly=1, includes=list(Component), call_out=True, parts_off=1)
    dear = ContractPlan.objects.create(name="Gold", yearly=9000, includes=[], call_out=False, parts_off=0)
    begun = timezone.localdate() - datetime.timedelta(days=9)
    on_cheap, on_dear = priced["sites"][:2]
    Contract.objects.create(site=on_cheap, plan=cheap, begins_on=begun)
    Contract.objects.create(site=on_dear, plan=dear, begins_on=begun)
    found = asked().found["losing"]
    sites = {row["site_id"]: row for row in found["rows"]}
    assert on_cheap.pk in sites and on_dear.pk not in sites and found["of"] == len(priced["sites"])
    assert found["sites"] == len(found["rows"]) and all(row["income"] < row["cost"] for row in found["rows"])
    lost = [row["income"] - row["cost"] for row in found["rows"]]
    assert lost == sorted(lost)
    told = as_role("planner").get(f"projections/{Projection.objects.latest('pk').pk}").json()["losing"]
    first = next(row for row in told["rows"] if row["site_id"] == on_cheap.pk)
    assert (first["plan"], first["heaters"]) == ("All in", on_cheap.heaters.count())
    assert first["site"].startswith(on_cheap.name)
    # A site that left since is nobody's to look at.
    Site.objects.filter(pk=on_cheap.pk).update(archived_at=timezone.now())
    again = as_role("planner").get(f"projections/{Projection.objects.latest('pk').pk}").json()["losing"]
    assert on_cheap.pk not in {row["site_id"] for row in again["rows"]}


def listed(people, *rows):
    """A list of another company's heaters, checked and not brought in."""
    head = "name,street,town,postcode,kind,litres,installed"
    run = imports.start("list", "bought.csv", "\n".join([head, *rows]).encode(), people["lead"])
    imports.check(run.pk)
    run.refresh_from_db()
    if run.state == "matching":
        said = {one["name"]: Matched(one["column"]) for one in run.columns if one["column"]}
        imports.match(run.pk, said)
        imports.check(run.pk)
        run.refresh_from_db()
    assert run.state == "checked", (run.state, run.message, run.columns)
    return run


def test_another_companys_heaters_are_lived_as_they_stand_in_its_list(as_role, priced, people):
    rows = [f"Holt {n},{n} Low Street,{priced['sites'][0].town},,gas tank,190,2014" for n in range(12)]
    run = listed(people, *rows)
    before = {model: set(model.objects.values_list("pk", flat=True)) for model in (Heater, Site, Customer)}
    client = as_role("lead")
    body = {"years": 2, "decisions": [{"kind": "take_over", "list_id": run.pk}], "name": "Bought"}
    told = client.post("projections", body).json()
    assert told["decisions"][0]["list_name"] == "bought.csv"
    plain, bought = (lived(one) for one in Projection.objects.order_by("pk"))
    assert (bought.found["taken_over"], bought.found["heaters"]) == (12, plain.found["heaters"] + 12)
    assert bought.found["losing"]["of"] == plain.found["losing"]["of"]
    ages = {row["name"]: row["heaters"] for row in bought.found["groups"]["age"]}
    was = {row["name"]: row["heaters"] for row in plain.found["groups"]["age"]}
    # Twelve years old: none of ours is, by so many.
    assert sum(ages.values()) - sum(was.values()) == 12 and max(ages[name] - was.get(name, 0) for name in ages) == 12
    # Old tanks leak: in one future of ten more than ours alone.
    worst = [sum(one.found["series"]["leaks"][2]) for one in (plain, bought)]
    assert worst[1] > worst[0] + 0.5
    # Nothing of the list is in the register, and it waits as it did.
    assert all(set(model.objects.values_list("pk", flat=True)) == there for model, there in before.items())
    run.refresh_from_db()
    assert run.state == "checked" and not run.made
    # The same luck: what is ours is lived as without it.
    assert total(bought, "visits") > total(plain, "visits")


def test_a_list_that_was_brought_in_or_is_none_of_heaters_is_not_taken_over(as_role, priced, people):
    run = listed(people, f"Holt,1 Low Street,{priced['sites'][0].town},,gas tank,190,2014")
    client = as_role("lead")

    def tried(**said):
        return client.post("projections", {"years": 1, "decisions": [{"kind": "take_over", **said}], "name": ""})

    assert tried(list_id=run.pk, value=3).status_code == 422
    assert tried(list_id=run.pk + 99).json()["code"] == "projection.no_list"
    assert client.get(f"imports/{run.pk}").json()["can_be_tried"]
    assert tried(list_id=run.pk).status_code == 201
    part = ProjectionPart.objects.get(of_list=run)
    imports.confirm(run.pk)
    with pytest.raises(Conflict, match="choose one that was checked"):
        living.live(part)
    assert tried(list_id=run.pk).status_code == 409
    assert not client.get(f"imports/{run.pk}").json()["can_be_tried"]


def test_the_season_in_force_stands_beside_the_first_year(as_role, priced, people):
    projection = asked()
    today, site, heater = timezone.localdate(), priced["sites"][0], priced["heaters"][0]
    client = as_role("planner")

    def told(one=projection):
        return client.get(f"projections/{one.pk}").json()["season"]

    assert told() is None
    run = Run.objects.create(kind=RunKind.SEASON, state=RunState.READY, first_week=week_of(today), weeks=52)
    weeks = [week_of(today) + datetime.timedelta(weeks=week) for week in (1, 1, 8, 60)]
    visits = [Appointment.objects.create(site=site, week=week, minutes=60, run=run) for week in weeks]
    for visit, component in zip(visits, ("sediment", "scale", "sediment", "sediment"), strict=True):
        Service.objects.create(appointment=visit, heater=heater, component=component, method="pulse", hours=1)
    # Two of one week at one site are one visit; what comes after the year is another's.
    assert told() == {"first_week": week_of(today).isoformat(), "visits": 2, "flushes": 2, "descales": 1}
    # A shorter one, one of another time and one that broke say nothing of this year.
    Run.objects.create(kind=RunKind.SEASON, state=RunState.READY, first_week=week_of(today), weeks=26)
    Run.objects.create(kind=RunKind.SEASON, state=RunState.FAILED, first_week=week_of(today), weeks=52)
    later = week_of(today) + datetime.timedelta(weeks=9)
    Run.objects.create(kind=RunKind.SEASON, state=RunState.READY, first_week=later, weeks=52)
    assert told()["visits"] == 2
    # What was only tried is nobody's plan.
    assert told(asked({"kind": "prices", "value": 1.2})) is None


def test_a_call_asks_for_the_licenses_that_the_base_does(priced):
    book = amounts.Amounts(prices.read().book, 1.0, ASSUMED)
    hours = np.array([1.0 if one == "electrical" else 3.0 if one == "gas" else 0.0 for one in amounts.LICENCES])
    called = dict(zip(amounts.NAMES, book.call(hours), strict=True))
    assert called["hours/gas"] == pytest.approx(0.75 * 1.65)
    assert called["hours/electrical"] == pytest.approx(0.25 * 1.65)
    assert called["hours/plumbing"] == 0 and called["income"] == 40


def test_each_hour_is_one_of_the_license_that_the_heater_asks_for(priced):
    found = asked().found
    by_licence = [np.array(found["series"][f"hours/{one}"]) for one in amounts.LICENCES]
    assert by_licence[amounts.LICENCES.index("plumbing")].max() == 0
    # Of one future they add up; of quantiles nearly.
    assert sum(by_licence)[1] == pytest.approx(np.array(found["series"]["hours"])[1], rel=0.05)
    assert sum(row["heaters"] for row in found["groups"]["kind"]) == 6
    assert sum(row["hours"] for row in found["groups"]["water"]) == pytest.approx(
        sum(row["hours"] for row in found["groups"]["age"]), abs=0.3
    )


@pytest.mark.parametrize(
    ("decision", "name", "more"),
    [
        ({"kind": "practice", "word": "hard_water_half_yearly"}, "flushes", 1),
        ({"kind": "softeners", "value": 100, "share": 1.0}, "flushes", -1),
        ({"kind": "water", "value": 0.2, "zone": True}, "flushes", -1),
        ({"kind": "replace", "value": 3}, "replacements", 1),
        ({"kind": "take_over", "value": 60}, "visits", 1),
    ],
)
def test_each_decision_does_what_it_says(priced, decision, name, more):
    if decision.pop("zone", False):
        decision["zone_id"] = priced["zones"][0].pk
    plain, tried = asked(years=4), asked(decision, years=4)
    assert np.sign(total(tried, name) - total(plain, name)) == more
    if decision["kind"] == "replace":
        assert tried.found["replaced"] == 3 and total(tried, "leaks") <= total(plain, "leaks")
    if decision["kind"] == "softeners":
        assert tried.found["softened"] > 0
    if decision["kind"] == "take_over":
        assert total(tried, "visits") == pytest.approx(11 * total(plain, "visits"), rel=0.1)


def test_one_person_more_is_so_many_hours_more(priced, people):
    CrewMember.objects.create(user=people["technician"], weekdays=[0, 1, 2, 3, 4])
    plain, two, none = asked(), asked({"kind": "crew", "value": 1}), asked({"kind": "crew", "value": -3})
    assert plain.found["crew_hours"] > 500
    assert two.found["crew_hours"] == pytest.approx(2 * plain.found["crew_hours"], abs=1)
    assert none.found["crew_hours"] == 0


@pytest.mark.parametrize(
    "decision",
    [
        {"kind": "practice", "word": "weekly"},
        {"kind": "tolerance", "value": 1.5},
        {"kind": "tolerance"},
        {"kind": "water", "value": 1.2},
        {"kind": "replace", "value": 0},
        {"kind": "wish"},
        {"kind": "crew", "value": 1, "cost": 3},
    ],
)
def test_what_cannot_be_tried_is_refused(as_role, priced, decision):
    assert as_role("lead").post("projections", {"decisions": [decision]}).status_code == 422
    assert not Projection.objects.exists()


def test_a_zone_that_there_is_not_is_named(as_role, priced):
    body = {"decisions": [{"kind": "practice", "word": "annual", "zone_id": 999_999}]}
    assert as_role("lead").post("projections", body).status_code == 404


def test_only_what_is_ready_and_of_the_same_years_stands_side_by_side(as_role, priced):
    lead, one, longer = as_role("lead"), asked(), asked(years=3)
    waiting = tasks.ask(Projection(asked_on=timezone.localdate(), years=2, decisions=[{"kind": "crew", "value": 1}]))
    assert lead.get(f"projections/{one.pk}/beside/{longer.pk}").status_code == 422
    assert "not ready" in lead.get(f"projections/{one.pk}/beside/{waiting.pk}").json()["message"]
    same = lead.get(f"projections/{one.pk}/beside/{one.pk}").json()["differences"]
    assert {row["same_share"] for row in same} == {1.0} and {row["less_share"] for row in same} == {0.0}


def test_it_comes_as_a_table(as_role, priced):
    one = asked()
    table = as_role("planner").get(f"projections/{one.pk}/table.csv").content.decode("utf-8-sig")
    lines = table.splitlines()
    assert lines[0] == "what,until,low,middle,high"
    hours = [line for line in lines if line.startswith("hours,")]
    assert len(hours) == 2 and hours[0].split(",")[1] == one.found["until"][0]
    assert any(line.startswith("hours a year by water: Chalk") for line in lines)


def test_a_part_that_is_given_up_ends_it_in_words(priced):
    one = tasks.ask(Projection(asked_on=timezone.localdate(), years=2, decisions=[]))
    part = one.parts.first()
    tasks.given_up("The program ended 3 times.", part_id=part.pk)
    one.refresh_from_db()
    assert (one.state, one.error) == (ProjectionState.FAILED, "The program ended 3 times.")
    tasks.live(part_id=part.pk)
    one.refresh_from_db()
    assert one.found is None


def test_a_base_without_heaters_is_ready_at_once(db):
    one = tasks.ask(Projection(asked_on=timezone.localdate(), years=3, decisions=[]))
    one.refresh_from_db()
    assert one.state == ProjectionState.READY and one.found["heaters"] == 0


def test_every_month_the_base_as_it_is_is_kept_once(priced):
    tasks.as_it_is(timestamp=0)
    tasks.as_it_is(timestamp=0)
    assert [one.decisions for one in Projection.objects.all()] == [[]]


def test_whoever_drops_one_drops_its_parts(as_role, priced):
    one = tasks.ask(Projection(asked_on=timezone.localdate(), years=2, decisions=[{"kind": "crew", "value": 1}]))
    assert as_role("planner").raw.delete(f"/api/projections/{one.pk}").status_code == 403
    assert as_role("lead").raw.delete(f"/api/projections/{one.pk}").status_code == 204
    assert not ProjectionPart.objects.exists()


def test_a_year_that_has_passed_is_held_against_what_came(as_role, priced):
    today = timezone.localdate()
    asked_on = living.in_years(today, -1)
    asked(on=asked_on)
    heaters = priced["heaters"]

    def came(heater, days, *tasks_done):
        visit = Visit.objects.create(client_id=uuid.uuid4(), heater=heater, on=asked_on + datetime.timedelta(days=days))
        for n, task in enumerate(tasks_done):
            Finding.objects.create(heater=heater, visit=visit, on=visit.on, task=task, sequence=n)

    came(heaters[0], 30, "flush", "relief_valve_replacement")
    # Another heater at the same site on the same day is the same visit.
    came(heaters[3], 30, "flush")
    came(heaters[1], 200, "anode_replacement")
    came(heaters[2], -5, "flush")
    gone = heaters[4]
    gone.ended_on, gone.end_cause = asked_on + datetime.timedelta(days=90), EndCause.LEAKED
    gone.save()
    told = {row["name"]: row for row in as_role("lead").get("projections/held").json()["rows"]}
    assert {name: row["came"] for name, row in told.items()} == {
        "visits": 2, "flushes": 2, "descales": 0, "rods": 1, "relief_valves": 1, "leaks": 1, "replacements": 1,
        "calls": 0,
    }  # fmt: skip
    assert told["visits"]["until"] == today.isoformat()
    assert told["visits"]["low"] <= told["visits"]["high"]


def test_what_was_only_tried_or_has_not_passed_is_not_held(priced):
    today = timezone.localdate()
    asked({"kind": "crew", "value": 1}, on=living.in_years(today, -1))
    asked(on=today - datetime.timedelta(days=300))
    assert held.read(today)["rows"] == []

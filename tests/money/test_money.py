"""Prices, contracts, what a day is worth, quotes raised by findings, and what goes to the books."""

import csv
import datetime
import io
import uuid
from decimal import Decimal

import pytest

from aquifer.company.clock import week_of
from aquifer.core.follow_up import FollowUp
from aquifer.heaters.models import Part
from aquifer.money import quotes, warranty
from aquifer.money.models import Contract, ContractPlan, MoneySettings, Price, Quote, QuoteState
from aquifer.rounds.models import Appointment, Service
from aquifer.visiting import report
from aquifer.visits.models import Visit
from tests.conftest import FLUSH, VALVE, visit
from tests.rounds.conftest import crew  # noqa: F401

STUCK = {"task": "relief_valve_exercise", "outcome": "no_flow"}


def put(client, path, body):
    return client.raw.put(f"/api/{path}", body, content_type="application/json")


@pytest.fixture
def book(db):
    MoneySettings.objects.create(pk=1, hour_cost=Decimal(40), currency="¤")
    for key, price, cost in (
        ("call_out", "30", "0"),
        ("sediment", "60", "2"),
        ("relief_valve/exercise", "12", "0"),
        ("relief_valve", "130", "37"),
        ("relief valve", "90", "37"),
    ):
        Price.objects.create(key=key, words=f"The {key}", price=Decimal(price), cost=Decimal(cost))
    return ContractPlan.objects.create(name="Yearly", includes=["sediment"], call_out=True, parts_off=Decimal("0.10"))


def recorded(client, heater, *findings, on=None):
    body = visit(heater.pk, *findings, **({"on": on.isoformat()} if on else {}))
    answer = client.post("visits", body)
    assert answer.status_code == 201, answer.json()
    return Visit.objects.get(pk=answer.json()["id"])


def test_a_stuck_valve_raises_one_quote_at_the_books_price(as_role, forecasted, book):
    heater = forecasted["heaters"][0]
    found = recorded(as_role("technician"), heater, STUCK)
    # At once, to be told at the door; the job finds it done.
    assert FollowUp.RELIEF_VALVE in {one.what for one in found.quotes.all()}
    assert quotes.raise_for(found.pk) == []
    told = as_role("planner").get(f"money/quotes?state=draft&heater_id={heater.pk}").json()
    one = next(one for one in told["quotes"] if one["what"] == "relief_valve")
    assert (one["total"], one["tag"], one["steps"]) == ("130.00", heater.tag, ["sent", "dropped"])
    assert "passed no water" in one["why"][0]
    assert told["stages"]["draft"]["quotes"] == len(told["quotes"])
    assert told["stages"]["draft"]["total"] == f"{sum(float(q['total']) for q in told['quotes']):.2f}"


def test_recording_a_visit_queues_its_quotes(as_role, forecasted, book):
    from procrastinate.contrib.django.models import ProcrastinateJob

    found = recorded(as_role("technician"), forecasted["heaters"][0], VALVE)
    job = ProcrastinateJob.objects.get(task_name="money.raise_quotes")
    assert job.args == {"visit_id": found.pk}


def test_a_new_valve_ends_its_quote_and_the_books_have_it_once(as_role, forecasted, book):
    heater, technician = forecasted["heaters"][0], as_role("technician")
    today = forecasted["today"]
    quotes.raise_for(recorded(technician, heater, STUCK, on=today - datetime.timedelta(days=3)).pk)
    planner = as_role("planner")
    quote = Quote.objects.get(what="relief_valve")
    for to in ("sent", "accepted"):
        body = {"version": quote.version, "to": to}
        assert planner.post(f"money/quotes/{quote.pk}/state", body).status_code == 200
        quote.refresh_from_db()
    done = recorded(technician, heater, FLUSH, {"task": "relief_valve_replacement"}, VALVE)
    quotes.raise_for(done.pk)
    quote.refresh_from_db()
    assert (quote.state, quote.done_on) == (QuoteState.DONE, today)
    Contract.objects.create(site=heater.site, plan=book, begins_on=today)
    answer = planner.get(f"money/books.csv?first={today}&last={today}")
    rows = list(csv.DictReader(io.StringIO(answer.content.decode())))
    assert [(one["what"], one["amount"], one["included"]) for one in rows] == [
        ("The call_out", "0.00", "30.00"),
        ("The sediment", "0.00", "60.00"),
        ("The relief_valve/exercise", "12.00", "0.00"),
        ("The relief_valve", "130.00", "0.00"),
    ]
    assert {one["plan"] for one in rows[:3]} == {"Yearly"} and rows[3]["quote"] == str(quote.pk)


def test_parts_fitted_without_a_quote_are_charged_by_the_contract(as_role, forecasted, book):
    heater, today = forecasted["heaters"][0], forecasted["today"]
    Contract.objects.create(site=heater.site, plan=book, begins_on=today)
    recorded(as_role("technician"), heater, {"task": "relief_valve_replacement"})
    answer = as_role("lead").get(f"money/books.csv?first={today}&last={today}")
    rows = list(csv.DictReader(io.StringIO(answer.content.decode())))
    assert [(one["what"], one["amount"]) for one in rows] == [("The call_out", "0.00"), ("The relief valve", "81.00")]


def ago(days):
    return datetime.date.today() - datetime.timedelta(days=days)


def entered(client, on):
    answer = client.get(f"money/books.csv?first={on}&last={on}")
    return list(csv.DictReader(io.StringIO(answer.content.decode())))


def test_a_valve_that_we_fitted_last_year_is_renewed_without_a_charge(as_role, forecasted, book):
    heater, technician, lead = forecasted["heaters"][0], as_role("technician"), as_role("lead")
    recorded(technician, heater, {"task": "relief_valve_replacement"}, on=ago(340))
    found = recorded(technician, heater, STUCK)
    quote = found.quotes.get(what="relief_valve")
    until = quote.warranty_until
    assert until is not None and until.day == ago(340).day and until.year == ago(340).year + 1
    assert [quote_line.price for quote_line in quote.lines.all()] == [0]
    told = technician.get(f"heaters/{heater.pk}").json()["parts"]
    assert [one["warranty_until"] for one in told if one["kind"] == "relief_valve"] == [str(until)]
    said = report.content(found)["proposed"]
    assert any("at no charge: we fitted it, and stand for it until" in one for one in said), said
    again = as_role("technician").post("visits", visit(forecasted["heaters"][1].pk, STUCK)).json()
    assert again["follow_ups"] and all(one["warranty_until"] is None for one in again["follow_ups"])
    # Renewed at once, without a quote: in the books at its price, and charged to nobody.
    quotes.step(quote.pk, quote.version, QuoteState.DROPPED, found.on)
    recorded(technician, heater, {"task": "relief_valve_replacement"})
    rows = {one["what"]: (one["amount"], one["included"], one["plan"]) for one in entered(lead, datetime.date.today())}
    assert rows["The relief valve"] == ("0.00", "90.00", "our warranty")
    assert rows["The call_out"][0] == "30.00"


@pytest.mark.parametrize(
    ("days", "months", "by_us", "task"),
    [
        (340, 6, True, "relief_valve_replacement"), (340, 0, True, "relief_valve_replacement"),
        (340, 12, False, "relief_valve_replacement"), (340, 12, True, "anode_replacement"),
        (400, 12, True, "relief_valve_replacement"),
    ],
)  # fmt: skip
def test_what_we_no_longer_or_never_stood_for_is_charged(as_role, forecasted, book, days, months, by_us, task):
    heater, technician = forecasted["heaters"][0], as_role("technician")
    MoneySettings.objects.update(part_warranty_months=months)
    if by_us:
        recorded(technician, heater, {"task": task}, on=ago(days))
    else:
        Visit.objects.create(client_id=uuid.uuid4(), heater=heater, on=ago(days), technician="Another company")
        Part.objects.filter(heater=heater, kind="relief_valve", removed_on=None).update(fitted_on=ago(days))
        assert Part.objects.filter(heater=heater, kind="relief_valve", fitted_on=ago(days)).exists()
    seen = STUCK if "valve" in task else {"task": "anode_inspection", "grade": "gone"}
    found = recorded(technician, heater, seen)
    assert found.quotes.exists() and not found.quotes.exclude(warranty_until=None).exists()
    recorded(technician, heater, {"task": task})
    assert {one["plan"] for one in entered(as_role("lead"), datetime.date.today())} == {""}


def test_the_last_day_of_a_warranty_is_a_day_of_the_calendar():
    day = datetime.date
    assert warranty.last_day(day(2027, 11, 29), 12) == day(2028, 11, 29)
    assert warranty.last_day(day(2024, 2, 29), 12) == day(2025, 2, 28)
    assert warranty.last_day(day(2026, 8, 31), 6) == day(2027, 2, 28)
    assert warranty.last_day(day(2026, 12, 31), 1) == day(2027, 1, 31)


@pytest.mark.parametrize(
    ("reason", "before", "free"),
    [("warranty", None, True), ("call_back", 20, True), ("call_back", 40, False), ("call_back", None, False),
     ("complaint", 20, False), ("due", 20, False)],
)  # fmt: skip
def test_a_call_back_after_our_own_work_is_free(as_role, forecasted, book, crew, reason, before, free):  # noqa: F811
    heater, technician, on = forecasted["heaters"][0], as_role("technician"), datetime.date.today()
    if before is not None:
        recorded(technician, heater, FLUSH, on=ago(before))
    # Somewhere else nothing is free for it.
    recorded(technician, next(one for one in forecasted["heaters"] if one.site_id != heater.site_id), FLUSH)
    recorded(technician, heater, FLUSH)
    one = Appointment.objects.create(
        site=heater.site, week=week_of(on), on=on, member=crew[0], begins=540, minutes=60, reason=reason
    )
    Service.objects.create(appointment=one, heater=heater, component="sediment", method="drain_and_pulse", hours=0.5)
    (row,) = as_role("planner").get(f"money/days/{on}").json()["visits"]
    assert (row["is_warranty"], row["charged"]) == (free, "0.00" if free else "90.00")
    rows = [one for one in entered(as_role("lead"), on) if one["site"] == heater.site.code]
    assert {(row["plan"], row["amount"] == "0.00") for row in rows} == {("our warranty", True) if free else ("", False)}
    others = [one for one in entered(as_role("lead"), on) if one["site"] != heater.site.code]
    assert others and all(one["plan"] == "" for one in others)
    one.standing = "called_off"
    one.save()
    assert {one["plan"] for one in entered(as_role("lead"), on)} == {""}


def test_a_quote_goes_only_where_it_may_and_a_late_change_is_told(as_role, forecasted, book):
    heater = forecasted["heaters"][0]
    quotes.raise_for(recorded(as_role("technician"), heater, STUCK).pk)
    quote, planner = Quote.objects.get(what="relief_valve"), as_role("planner")
    path = f"money/quotes/{quote.pk}"
    assert planner.post(f"{path}/state", {"version": 1, "to": "accepted"}).json()["code"] == "quote.no_such_step"
    lines = [{"key": "relief_valve", "words": "Valve", "quantity": "2", "price": None}]
    assert put(planner, f"{path}/lines", {"version": 1, "lines": lines}).json()["total"] == "0.00"
    unpriced = planner.post(f"{path}/state", {"version": 2, "to": "sent"})
    assert unpriced.status_code == 422 and "Valve" in unpriced.json()["message"]
    lines[0]["price"] = "10.50"
    assert put(planner, f"{path}/lines", {"version": 2, "lines": lines}).json()["total"] == "21.00"
    assert put(planner, f"{path}/lines", {"version": 2, "lines": lines}).status_code == 409
    sent = planner.post(f"{path}/state", {"version": 3, "to": "sent"}).json()
    assert sent["valid_until"] == (datetime.date.today() + datetime.timedelta(days=60)).isoformat()
    assert put(planner, f"{path}/lines", {"version": 4, "lines": lines}).json()["code"] == "quote.is_sent"
    assert quotes.lapse(datetime.date.today() + datetime.timedelta(days=60)) == 0
    assert quotes.lapse(datetime.date.today() + datetime.timedelta(days=61)) == 1
    assert Quote.objects.get(pk=quote.pk).state == QuoteState.LAPSED


def test_after_a_no_only_what_protects_is_proposed_again(as_role, forecasted, book):
    heater, technician = forecasted["heaters"][0], as_role("technician")
    rod = {"task": "anode_inspection", "grade": "gone"}
    first = recorded(technician, heater, STUCK, rod)
    assert {one.what for one in first.quotes.all()} >= {FollowUp.RELIEF_VALVE, FollowUp.ANODE}
    for one in Quote.objects.all():
        quotes.step(one.pk, one.version, QuoteState.DROPPED, first.on)
    again = {one.what for one in recorded(technician, heater, STUCK, rod).quotes.all()}
    assert FollowUp.RELIEF_VALVE in again and FollowUp.ANODE not in again


def test_a_day_in_money_counts_everybodys_hours_and_what_the_contract_pays(as_role, forecasted, book, crew):  # noqa: F811
    heater, on = forecasted["heaters"][0], forecasted["today"] + datetime.timedelta(days=3)
    Contract.objects.create(site=heater.site, plan=book, begins_on=on)
    # The lead rides with a helper: two people's hours.
    one = Appointment.objects.create(
        site=heater.site, week=week_of(on), on=on, member=crew[1], begins=540, minutes=90, needs=["gas"]
    )
    for component, method in (("sediment", "drain_and_pulse"), ("relief_valve", "exercise"), ("anode", "inspect")):
        Service.objects.create(appointment=one, heater=heater, component=component, method=method, hours=0.5)
    told = as_role("planner").get(f"money/days/{on}").json()
    (row,) = told["visits"]
    assert (row["charged"], row["included"], row["plan"]) == ("12.00", "90.00", "Yearly")
    driving = as_role("planner").get(f"rounds/days/{on}").json()["rounds"][1]["driving"]
    assert driving > 0
    assert float(row["cost"]) == pytest.approx(40 * 2 * (90 + driving) / 60 + 2, abs=0.02)
    assert row["unpriced"] == ["anode/inspect"] and told["total"]["charged"] == "12.00"


def test_prices_plans_and_contracts_are_kept(as_role, base):
    planner, site = as_role("planner"), base["sites"][0]
    price = {"key": "call_out", "words": "Coming", "price": "31.50", "cost": "0"}
    first = put(planner, "money/prices", price).json()
    again = put(planner, "money/prices", {**price, "price": "32"}).json()
    assert again == {**first, "price": "32.00", "version": again["version"]} and again["version"] > first["version"]
    plan = {"name": "Yearly", "yearly": "90", "includes": ["sediment"], "call_out": True, "parts_off": "0.1"}
    made = put(planner, "money/plans", plan).json()
    today = datetime.date.today()
    path = f"sites/{site.pk}/contract"
    assert put(planner, path, {"plan_id": made["id"], "on": str(today)}).json()["plan"] == "Yearly"
    assert put(planner, path, {"plan_id": None, "on": str(today)}).status_code == 422
    told = planner.get("money").json()
    assert told["plans"][0]["sites"] == 1
    assert "relief_valve" in told["missing"] and "call_out" not in told["missing"]
    tomorrow = today + datetime.timedelta(days=1)
    assert put(planner, path, {"plan_id": None, "on": str(tomorrow)}).json()["plan_id"] is None
    assert planner.get(path).json()["plan"] == "Yearly"
    assert planner.raw.delete(f"/api/money/prices/{first['id']}").status_code == 204
    assert planner.get("money").json()["prices"] == []


@pytest.mark.parametrize(
    ("path", "body"),
    [
        ("money/prices", {"key": "x", "words": "X", "price": "-1"}),
        ("money/prices", {"key": "x", "words": "X", "price": "1.999"}),
        ("money/plans", {"name": "P", "yearly": "1", "includes": ["sofa"], "call_out": True, "parts_off": "0"}),
        ("money/plans", {"name": "P", "yearly": "1", "includes": [], "call_out": True, "parts_off": "1.5"}),
        ("money/settings", {"currency": "", "hour_cost": "1", "quotes_last_days": 30}),
    ],
)
def test_what_is_no_price_is_told(as_role, path, body):
    assert put(as_role("planner"), path, body).status_code == 422
    assert put(as_role("technician"), path, body).status_code == 403


def test_the_books_take_a_fixed_number_of_queries(as_role, forecasted, book, django_assert_max_num_queries):
    client, today = as_role("technician"), forecasted["today"]
    for heater in forecasted["heaters"][:3]:
        recorded(client, heater, {"task": "relief_valve_replacement"}, VALVE)
    planner = as_role("planner")
    with django_assert_max_num_queries(16):
        assert len(planner.get(f"money/books.csv?first={today}&last={today}").content.splitlines()) == 10
    wrong = planner.get(f"money/books.csv?first={today}&last=2020-01-01")
    assert wrong.status_code == 422

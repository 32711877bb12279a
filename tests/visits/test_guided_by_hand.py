"""What a guide takes up, carries and asks again, and what a report says, piece by piece against figures by hand."""

import datetime
from decimal import Decimal
from types import SimpleNamespace

import pytest

from aquifer.core.follow_up import FollowUp
from aquifer.core.judgement import Judgement, Verdict
from aquifer.core.kinds import HeaterKind
from aquifer.core.vocabulary import Component, FlushMethod, Method
from aquifer.heaters.models import Part
from aquifer.money.models import MoneySettings, Quote, QuoteLine, QuoteState
from aquifer.rounds.models import Appointment, Service
from aquifer.visiting import guide, record, report, stand
from aquifer.visits.models import Extra
from tests.rounds.conftest import crew, today  # noqa: F401

DAY = datetime.timedelta(days=1)
TODAY = datetime.date(2031, 6, 10)
SEDIMENT, VALVE = Component.SEDIMENT, Component.RELIEF_VALVE


def judged(rule, verdict):
    return {rule: Judgement(rule, verdict, ())}


@pytest.mark.parametrize(
    ("due", "valve", "judgements", "then", "extras"),
    [
        ({SEDIMENT, VALVE}, Method.EXERCISE, {}, {SEDIMENT, VALVE}, []),
        ({SEDIMENT, VALVE}, Method.REPLACE, {}, {SEDIMENT, VALVE}, [Extra.REPLACE_VALVE]),
        ({SEDIMENT}, Method.REPLACE, {}, {SEDIMENT}, []),
        ({VALVE}, Method.EXERCISE, judged("keep_valve", Verdict.REPLACE_VALVE), {VALVE}, [Extra.REPLACE_VALVE]),
        ({VALVE}, Method.EXERCISE, judged("keep_valve", Verdict.KEEP_VALVE), {VALVE}, []),
        ({VALVE}, None, {}, {VALVE}, []),
        ({SEDIMENT, VALVE}, Method.EXERCISE, judged("flush_or_leave", Verdict.LEAVE_ALONE), {VALVE}, []),
        ({SEDIMENT, VALVE}, Method.EXERCISE, judged("flush_or_leave", Verdict.FLUSH), {SEDIMENT, VALVE}, []),
    ],
)
def test_what_is_advised_is_taken_up(due, valve, judgements, then, extras):
    forecasts = {} if valve is None else {VALVE: SimpleNamespace(method=valve)}
    assert guide._advised(HeaterKind.GAS_TANK, due, forecasts, judgements) == (then, extras)


def test_what_is_due_within_six_weeks_is_taken_up_and_never_the_tank_itself(forecasted, crew, today):  # noqa: F811
    heater = forecasted["heaters"][0]
    forecasts = {
        SEDIMENT: SimpleNamespace(due_on=today + 45 * DAY), VALVE: SimpleNamespace(due_on=today + 46 * DAY),
        Component.ANODE: SimpleNamespace(due_on=None), Component.TANK: SimpleNamespace(due_on=today),
    }  # fmt: skip
    assert guide._due(heater, forecasts, today) == {SEDIMENT}
    visits = {}
    for standing in ("planned", "done", "called_off"):
        visits[standing] = Appointment.objects.create(
            site=heater.site, week=today, on=today, member=crew[0], begins=540, minutes=60, standing=standing
        )
    Service.objects.create(appointment=visits["done"], heater=heater, component="anode", method="replace", hours=1)
    assert guide._due(heater, forecasts, today) == {SEDIMENT}
    for component in ("relief_valve", "tank"):
        Service.objects.create(
            appointment=visits["planned"], heater=heater, component=component, method="exercise", hours=1
        )
    assert guide._due(heater, forecasts, today) == {VALVE}
    assert guide._due(heater, forecasts, today + DAY) == {SEDIMENT, VALVE}


def test_what_is_flushed_with_follows_the_forecast_else_the_company(db):
    company = guide.Company.current()
    company.flush_method = "jetting"
    company.save()
    assert guide._flush(None) is FlushMethod.JETTING
    assert guide._flush(SimpleNamespace(method=Method.DRAIN_AND_PULSE)) is FlushMethod.DRAIN_AND_PULSE
    assert guide._flush(SimpleNamespace(method=Method.REPLACE)) is FlushMethod.JETTING


def test_what_was_said_when_today_s_visit_was_arranged_is_told(forecasted, crew, today):  # noqa: F811
    heater = forecasted["heaters"][0]

    def put(**more):
        told = {"on": today, "member": crew[0], "begins": 540, "minutes": 60, "week": today, "site": heater.site}
        return Appointment.objects.create(**{**told, **more})

    put(), put(reason="complaint", said="lukewarm", note="gate 12", decides="Ida Brandt")
    put(on=today + DAY, said="tomorrow"), put(standing="called_off", said="not any more")
    put(site=forecasted["sites"][0] if forecasted["sites"][0] != heater.site else forecasted["sites"][1], said="other")
    first, second = guide._called_for(heater, today)
    assert first.startswith("Said when it was arranged: ") and first.endswith("; lukewarm; gate 12.")
    assert second == "More work is decided by Ida Brandt."


def test_parts_are_carried_from_one_in_fifty_on_the_likeliest_first(monkeypatch):
    wants = {
        SEDIMENT: [("hose washer", 1.0), ("drain valve", 0.02), ("element", 0.019)],
        VALVE: [("valve 150 psi", 0.3), ("hose washer", 0.4), ("drain valve", 0.05)],
    }
    asked = []

    def wanted(kind, component, over, fitted):
        asked.append((component, over))
        return [SimpleNamespace(part=part, probability=share) for part, share in wants[component]]

    monkeypatch.setattr(guide, "wants", wanted)
    forecasts = {VALVE: SimpleNamespace(probability_today=1.0, state={})}
    told = guide._carried(HeaterKind.GAS_TANK, {SEDIMENT, VALVE}, forecasts, {})
    assert [(one["part"], one["probability"]) for one in told] == [
        ("hose washer", 1.0), ("valve 150 psi", 0.3), ("drain valve", 0.05),
    ]  # fmt: skip
    assert dict(asked) == {SEDIMENT: 0.0, VALVE: 0.999}


def test_how_a_heater_was_left_is_told_with_who_and_when():
    at = datetime.datetime(2031, 6, 9, 12, tzinfo=datetime.UTC)
    left = SimpleNamespace(title="The tank leaks", by="Petra", at=at)
    assert guide._left_words(None) == "" and guide._left_words(left) == "The tank leaks. Petra, 09 June 2031."
    left.title = ""
    assert guide._left_words(left).startswith("The last visit did not end with everything known to be right. Petra")


def test_beliefs_are_shares_of_their_limits():
    def told(component, state, limit=1.0):
        return SimpleNamespace(component=component, state=state, limit_value=limit)

    found = stand.beliefs([
        told("sediment", {"depth_mm": [5.0, 30.0, 60.0]}, 40.0), told("scale", {"thickness_mm": [1.0, 5.0, 9.0]}, 4.0),
        told("anode", {"fraction_left": [0.1, 0.3, 0.5]}), told("relief_valve", {}),
    ])  # fmt: skip
    assert found == {"deposit": 0.75, "scale": 1.0, "rod_gone": pytest.approx(0.7)}
    assert stand.beliefs([told("anode", {"fraction_left": [0.9, 1.2, 1.4]})]) == {"rod_gone": 0.0}


def test_a_heater_of_which_nothing_is_measured_heats_and_fills_as_is_usual(forecasted):
    heater = forecasted["heaters"][0]
    heater.capacity_l, heater.height_mm, heater.input_kw = 200, 1500, 12.0
    told = stand.rates(heater)
    assert told == stand.rates_of(capacity_l=200, height_m=1.5, input_kw=12.0, cold_c=12.0)
    heater.height_mm = heater.input_kw = heater.capacity_l = None
    kind = stand.KINDS[HeaterKind(heater.kind)]
    assert stand.rates(heater) == stand.rates_of(
        capacity_l=kind.usual_capacity_l, height_m=1.2, input_kw=kind.usual_input_kw, cold_c=12.0
    )


def test_a_complaint_is_looked_into_after_the_arrival():
    plan = {"complaint_steps": ["no_hot_water"], "extras": [Extra.REPLACE_VALVE], "upkeep": []}
    names = stand.order(HeaterKind.GAS_TANK, ["relief_valve"], plan)
    assert names[:2] == ("arrival", "no_hot_water") and "relief_replacement" in names
    assert "relief_replacement" not in stand.order(HeaterKind.GAS_TANK, ["relief_valve"], {})
    unseen = stand.order(HeaterKind.GAS_TANK, [], {**plan, "kind_seen": False})
    assert "no_hot_water" not in unseen
    partial = {"extras": [Extra.PARTIAL_DRAIN]}
    tank, tankless = (stand.order(kind, ["anode"], partial) for kind in (HeaterKind.GAS_TANK, HeaterKind.GAS_TANKLESS))
    assert tank != stand.order(HeaterKind.GAS_TANK, ["anode"], {})
    assert tankless == stand.order(HeaterKind.GAS_TANKLESS, ["anode"], {})


# What the report says


@pytest.mark.parametrize(("days", "says"), [
    (-31, ", sooner than we had thought"), (-30, ", sooner than we had thought"), (-29, ""), (0, ""), (None, ""),
    (29, ""), (30, ", later than we had thought"), (400, ", later than we had thought"),
])  # fmt: skip
def test_a_date_that_moved_by_a_month_is_told(days, says):
    assert report._moved({"days": days}) == says


@pytest.mark.parametrize(("iso", "says"), [
    ("2031-06-11", "about June 2031"), ("2031-06-10", "at our next visit"), ("2030-01-01", "at our next visit"),
    ("2033-12-31", "about December 2033"),
])  # fmt: skip
def test_a_day_that_has_passed_is_the_next_visit(iso, says):
    assert report._when(iso, TODAY) == says


def test_what_scalds_is_told_in_the_time_that_burns_a_child(monkeypatch):
    assert report._scalds(report.LEAST_SETPOINT_C - 0.1) == ""
    for adult_s, says in ((1.0, "1 seconds"), (10.0, "5 seconds"), (179.0, "90 seconds"), (180.0, "2 minutes"),
                          (600.0, "5 minutes")):  # fmt: skip
        monkeypatch.setattr(report, "burn_seconds", lambda tap_c, adult_s=adult_s: adult_s)
        assert report._scalds(report.LEAST_SETPOINT_C) == f": it can burn a child within {says}"


@pytest.fixture
def quote(forecasted):
    settings = MoneySettings.current()
    settings.currency = "USD"
    settings.save()
    return Quote.objects.create(
        heater=forecasted["heaters"][0], what=FollowUp.HEATER, raised_on=TODAY, state=QuoteState.SENT
    )


def test_a_proposal_is_priced_when_the_office_has_priced_all_of_it(quote):
    assert report._price(quote) == ""
    QuoteLine.objects.create(quote=quote, key="a", words="Valve", quantity=Decimal(2), price=Decimal("100.25"))
    assert report._price(quote) == ". It costs 200.50 USD, without tax"
    QuoteLine.objects.create(quote=quote, key="b", words="Work", quantity=Decimal("1.5"), price=Decimal("1000"))
    assert report._price(quote) == ". It costs 1,700.50 USD, without tax"
    last = QuoteLine.objects.create(quote=quote, key="c", words="Pan", quantity=Decimal(1), price=None)
    assert report._price(quote) == ""
    last.delete()
    quote.state = QuoteState.DRAFT
    assert report._price(quote) == ""


def test_what_we_stand_for_costs_nothing_unless_something_is_charged(quote):
    quote.warranty_until = datetime.date(2032, 5, 1)
    says = ", at no charge: we fitted it, and stand for it until 1 May 2032"
    assert report._price(quote) == says
    line = QuoteLine.objects.create(quote=quote, key="a", words="Valve", quantity=Decimal(1), price=Decimal(0))
    assert report._price(quote) == says
    line.price = Decimal(40)
    line.save()
    assert report._price(quote) == ". It costs 40.00 USD, without tax"


def test_what_was_left_out_is_told_with_its_reason_unless_it_was_taken_back(db):
    told = {"step": "hand_over.joints", "why": "no light"}
    visit = SimpleNamespace(steps=[
        {**told, "kind": "skipped"}, {**told, "kind": "skipped", "taken_back": True}, {**told, "kind": "done"},
        {"step": "hand_over.joints", "kind": "skipped", "why": ""},
    ])  # fmt: skip
    (line,) = report._left_out(visit)
    assert line.endswith(" Left out: no light.")


@pytest.mark.parametrize(("ending", "return_on", "last"), [
    ("tank_leaks", TODAY, "We are back by 10 June 2031."), ("tank_leaks", None, "Our office calls you about it."),
])  # fmt: skip
def test_how_a_visit_ended_is_told_with_when_we_are_back(ending, return_on, last):
    told = report._ended(SimpleNamespace(ending=ending, return_on=return_on))
    assert told[-1] == last and len(told) == 3
    assert report._ended(SimpleNamespace(ending="", return_on=return_on)) == []
    running = next(
        name for name, one in report.library().endings.items() if one.leaves not in ("left_off", "evacuated")
    )
    assert len(report._ended(SimpleNamespace(ending=running, return_on=return_on))) == 2


def test_a_depth_is_usual_within_what_is_believed_and_a_ruler_errs():
    bed = SimpleNamespace(state={"depth_mm": [10.0, 20.0, 40.0]})
    found = guide._usual_readings({SEDIMENT: bed})
    low, high = guide.measuring.likely([10.0, 20.0, 40.0], guide.SEDIMENT.depth_spread, 1000 * guide.SEDIMENT.ruler_m)
    assert found["flush.depth_before_mm"] == [round(low, 1), round(high, 1)] and low < 10 < 40 < high
    usual = dict(guide.calculators.USUAL_READINGS)
    assert found["flush.depth_after_mm"] == [0.0, round(high, 1)]
    for nothing in ({}, {SEDIMENT: SimpleNamespace(state={})}):
        assert guide._usual_readings(nothing) == {name: list(span) for name, span in usual.items()}


def test_what_was_told_of_a_part_is_put_right_and_nothing_else_of_it(base):
    part = Part.objects.get(heater=base["heaters"][0], kind="anode")
    part.length_mm, part.diameter_mm = 900.0, 21.0
    record._put_right(part, {"alike": True, "alloy": "", "length_mm": 1000.0})
    part.refresh_from_db()
    assert (part.alloy, part.length_mm, part.diameter_mm) == ("magnesium", 1000.0, 21.0) and not hasattr(part, "alike")

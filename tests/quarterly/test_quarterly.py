"""A quarter on four pages: what is told of it, by hand, and who may have it."""

import datetime
import re
import uuid

import pytest
from django.utils import timezone

from aquifer.core.vocabulary import Component, EndCause
from aquifer.forecasts.models import Check, Forecast
from aquifer.open_ends.models import OpenEnd
from aquifer.projections import tasks
from aquifer.projections.models import Projection
from aquifer.quarterly import content, paper
from aquifer.quarterly.content import Quarter
from aquifer.rounds.models import Appointment, CrewMember
from aquifer.visits.models import Finding, Visit

TODAY = datetime.date(2026, 11, 24)


def test_a_quarter_has_its_days_and_neighbours():
    last = Quarter(2026, 4)
    assert (last.first, last.last) == (datetime.date(2026, 10, 1), datetime.date(2026, 12, 31))
    assert last.after == Quarter(2027, 1) and last.year_before == Quarter(2025, 4)
    assert Quarter(2028, 1).last == datetime.date(2028, 3, 31)
    assert Quarter.of(datetime.date(2026, 3, 31)) == Quarter(2026, 1)
    assert Quarter.last_full(TODAY) == Quarter(2026, 3)
    assert Quarter.last_full(datetime.date(2026, 2, 1)) == Quarter(2025, 4)


def came(heater, on, outcome="", *done):
    visit = Visit.objects.create(client_id=uuid.uuid4(), heater=heater, on=on)
    for n, task in enumerate(done):
        Finding.objects.create(heater=heater, visit=visit, on=on, task=task, sequence=n, outcome=outcome)


@pytest.fixture
def quarter(forecasted):
    """The third of 2026, with something of the same quarter a year ago."""
    one, two, three = forecasted["heaters"][:3]
    came(one, datetime.date(2026, 7, 1), "no_flow", "relief_valve_exercise")
    came(two, datetime.date(2026, 9, 30), "flows_and_reseats", "relief_valve_exercise")
    came(three, datetime.date(2026, 8, 3), "", "flush")
    came(three, datetime.date(2026, 10, 1), "", "flush")
    came(three, datetime.date(2025, 8, 3), "", "flush")
    two.ended_on, two.end_cause = datetime.date(2026, 8, 8), EndCause.LEAKED
    two.save()
    return Quarter(2026, 3)


def test_it_counts_what_was_done_in_its_days_and_in_those_of_a_year_ago(quarter):
    told = content.read(quarter, TODAY)
    assert (told["done"]["visits"], told["year_before"]["visits"]) == (3, 1)
    assert (told["done"]["flushes"], told["done"]["leaks"]) == (1, 1)
    assert told["valves"] == {"tried": 2, "stuck": 1}
    months = {one["first"]: one["visits"] for one in told["months"]}
    assert len(months) == content.MONTHS_SHOWN and max(months) == datetime.date(2026, 9, 1)
    assert months[datetime.date(2026, 7, 1)] == months[datetime.date(2026, 8, 1)] == 1
    assert months[datetime.date(2025, 8, 1)] == 1
    assert told["standing"]["left"] == 1


def test_it_says_what_is_overdue_and_what_falls_due_in_which_quarter(quarter, forecasted):
    current = Forecast.objects.current()
    valves = list(current.filter(component=Component.RELIEF_VALVE).order_by("heater_id").values_list("pk", flat=True))
    for pk, on in zip(valves, (TODAY - datetime.timedelta(days=3), TODAY, datetime.date(2027, 2, 2)), strict=False):
        Forecast.objects.filter(pk=pk).update(due_on=on)
    Forecast.objects.filter(pk__in=valves[3:]).update(due_on=datetime.date(2030, 1, 1))
    standing = content.read(quarter, TODAY)["standing"]
    assert standing["overdue"][Component.RELIEF_VALVE] == 1
    assert standing["due"][Component.RELIEF_VALVE] == [1, 1, 0, 0]
    assert [tank[2] for tank in standing["tanks"]] == sorted((tank[2] for tank in standing["tanks"]), reverse=True)


def test_it_counts_what_is_open_and_what_was_measured(quarter, forecasted):
    heater = forecasted["heaters"][0]
    for severity, closed in (("danger", None), ("defect", None), ("defect", TODAY)):
        OpenEnd.objects.create(
            heater=heater, site=heater.site, kind="other", severity=severity, words="A thing.", raised_on=TODAY,
            state="closed" if closed else "open", closed_on=closed,
        )  # fmt: skip
    for heater, place in zip(forecasted["heaters"], (0.5, 0.95, 0.05, 0.1), strict=False):
        Check.objects.create(
            heater=heater, component=Component.SEDIMENT, on=datetime.date(2026, 9, 1), ratio=1.0, place=place
        )
    told = content.read(quarter, TODAY)
    assert told["standing"]["open_issues"] == {"danger": 1, "defect": 1}
    assert told["measured"] == (4, 2)


def test_a_week_with_more_than_the_crew_can_is_named(quarter, forecasted, people):
    CrewMember.objects.create(user=people["technician"], weekdays=[0, 1, 2, 3, 4])
    week = datetime.date(2026, 12, 7)
    for minutes in (1000, 1200):
        Appointment.objects.create(site=forecasted["sites"][0], week=week, minutes=minutes)
    Appointment.objects.create(site=forecasted["sites"][1], week=datetime.date(2026, 12, 14), minutes=600)
    full = content.read(quarter, TODAY)["full_weeks"]
    # To each a way of 0.2 h, as nobody has located any.
    assert [one["first"] for one in full] == [week] and full[0]["planned"] == pytest.approx(2200 / 60 + 0.4, abs=0.05)


def test_it_is_four_pages_with_what_was_reckoned_and_tried(quarter, forecasted):
    for decisions in ([], [{"kind": "crew", "value": 1.0}]):
        one = tasks.ask(Projection(asked_on=TODAY, years=5, decisions=decisions, name="One more & <more>"))
        for part in one.parts.all():
            tasks.live.func(part_id=part.pk)
    told = content.read(quarter, TODAY)
    assert told["ahead_on"] == TODAY and [name for name, _, _ in told["tried"]] == ["One more & <more>"]
    assert told["tried"][0][1:] == (0, 0)
    written = paper.pdf(told, TODAY)
    assert len(re.findall(rb"/Type /Page\b", written)) == 4
    # Of a base of which nothing is known yet there are four as well.
    Projection.objects.all().delete()
    assert len(re.findall(rb"/Type /Page\b", paper.pdf(content.read(Quarter(1990, 1), TODAY), TODAY))) == 4


def test_whoever_keeps_the_prices_may_have_it_and_nobody_else(as_role, quarter):
    for role, may in (("lead", 200), ("planner", 200), ("technician", 403)):
        assert as_role(role).get("quarterly.pdf?year=2026&quarter=3").status_code == may
    answer = as_role("planner").get("quarterly.pdf")
    last = Quarter.last_full(timezone.localdate())
    assert f"quarter-{last.year}-{last.number}.pdf" in answer["Content-Disposition"]


@pytest.mark.parametrize("asked", ["year=2026", "quarter=3", "year=2026&quarter=5", "year=2150&quarter=1"])
def test_a_quarter_that_there_is_not_is_refused(as_role, quarter, asked):
    assert as_role("lead").get(f"quarterly.pdf?{asked}").status_code == 422

"""What a season is made of and what is stored of it, against figures that are written out."""

import datetime

import numpy as np
import pytest

from aquifer.company.clock import week_of
from aquifer.core.forecast import PROBABILITIES
from aquifer.core.kinds import HeaterKind
from aquifer.core.planning import level, season
from aquifer.core.planning.hours import ASSUMED
from aquifer.core.vocabulary import Component, DecidedBy, Method
from aquifer.customers.models import Site
from aquifer.forecasts.models import Forecast
from aquifer.rounds import booked, planned_visits, ways, work
from aquifer.rounds import crew as crews
from aquifer.rounds import run as runs
from aquifer.rounds.models import Appointment, Run, RunKind, Service
from aquifer.travel.service import Point

DAY, WEEK = datetime.timedelta(days=1), datetime.timedelta(weeks=1)
MONDAY = datetime.date(2031, 6, 9)
GAS, TWO = frozenset({"gas"}), frozenset({"gas", "two people"})


class AlongALine:
    """A degree of longitude is an hour's way, whatever else."""

    def minutes(self, points):
        at = np.array([point.longitude for point in points])
        return np.round(60 * abs(at[:, None] - at)).astype(int)


def wants(heater_id=1, site_id=1, component=Component.SEDIMENT, hours=1.0, needs=GAS, **more):
    told = {"due_on": None, "latest_on": None, "asked_on": None, "is_proven": False} | more
    return work.Wanted(heater_id, site_id, component, Method.DRAIN_AND_PULSE, hours, needs, **told)


def test_the_ways_of_a_zone_are_to_its_nearest_three_and_from_the_yard(base, crew, monkeypatch):
    monkeypatch.setattr(ways, "times", AlongALine)
    hard, soft = base["zones"]
    Site.objects.update(longitude=None, latitude=None)
    here = [
        Site.objects.create(
            code=f"W{n}", customer=base["sites"][0].customer, name=f"Way {n}", zone=hard, longitude=at, latitude=0.0
        )
        for n, at in enumerate((1.0, 1.1, 1.3, 1.7, 3.3))
    ]
    lost = Site.objects.create(code="L", customer=base["sites"][0].customer, name="Lost", zone=soft)
    for member, at in zip(crew, (0.0, 0.5), strict=True):
        member.longitude, member.latitude = at, 0.0
    zone, way, haul = ways.to([lost.pk, *(site.pk for site in here)], crew)
    sites = [lost.pk, *(site.pk for site in here)]
    assert [zone[pk] for pk in sites] == [1, 0, 0, 0, 0, 0] and list(zone) == list(way)
    hop = [way[pk] - 2 * haul[zone[pk]] / 5 for pk in sites]
    # To the nearest three: 0.1 0.3 0.7, 0.1 0.2 0.6, 0.2 0.3 0.4, 0.4 0.6 0.7, 1.6 2.0 2.2.
    assert hop[1:] == pytest.approx([(1.1 + 0.9 + 0.9 + 1.7 + 5.8) / 15] * 5, abs=0.01)
    assert hop[0] == pytest.approx(0.2), "of a zone that nobody has located"
    # From yards at 0 and 0.5 the middle of ten ways: 0.5 0.6 0.8 1.0 1.1 | 1.2 1.3 1.7 2.8 3.3.
    assert haul == pytest.approx([1.15, 0.25], abs=0.01)
    assert ways.to([], crew)[0] == {} and ways.to([here[0].pk], [])[2].tolist() == [0.0]


def test_a_site_without_a_place_stands_in_the_middle_of_its_zone(base):
    first, second, third = base["sites"]
    first.longitude, first.latitude = -28.0, -41.0
    other = Site(pk=99, zone=first.zone, longitude=-27.0, latitude=-40.0)
    second.longitude, second.latitude = -30.0, None
    found = ways.places([first, second, other])
    assert found == {first.pk: Point(-28.0, -41.0), 99: Point(-27.0, -40.0), second.pk: Point(-27.5, -40.5)}
    assert ways.places([third], [Point(1.0, 2.0), Point(3.0, 6.0)]) == {third.pk: Point(2.0, 4.0)}
    assert ways.places([third]) == {third.pk: crews.AWAY}


def test_days_are_told_in_weeks_and_years_from_the_season_s_first():
    wanted = [
        wants(due_on=MONDAY + 73 * DAY, asked_on=MONDAY + 20 * DAY),
        wants(component=Component.RELIEF_VALVE, latest_on=MONDAY + 6 * DAY, is_proven=True, due_on=MONDAY - 365 * DAY),
        wants(component=Component.RELIEF_VALVE, latest_on=MONDAY - DAY, is_proven=True),
        wants(component=Component.RELIEF_VALVE, latest_on=MONDAY + 7 * DAY),
    ]
    zeros = np.zeros(4)
    likelihood = work._Likelihood(np.zeros((4, 3)), zeros, zeros)
    visit = np.array([5.0, 6.0, 7.0, 8.0])
    needs = work._needs(wanted, likelihood, np.arange(4), MONDAY, visit)
    assert needs.due.tolist() == pytest.approx([73 / 365.25, -365 / 365.25, np.inf, np.inf])
    assert needs.cap.tolist() == [season.NEVER, 0, -1, 1]
    assert needs.asked.tolist() == [2, season.NEVER, season.NEVER, season.NEVER]
    # Only a proven valve whose cap is not past waits for the next visit.
    assert needs.visit.tolist() == [0.0, 6.0, 0.0, 0.0]
    assert needs.interval[1:].tolist() == [work.INTERVAL_YEARS[Component.RELIEF_VALVE]] * 3
    assert needs.hours.tolist() == [1.0] * 4


@pytest.fixture
def current(forecasted):
    return Forecast.objects.current().of_visits().order_by("heater_id", "component")


def row(**more):
    told = {
        "heater_id": 1, "component": "sediment", "as_of": MONDAY, "reached_days": [100.0] * PROBABILITIES.size,
        "due_on": MONDAY, "latest_on": None, "method": "drain_and_pulse", "over_after_service": 0.25, "benefit": 0.05,
        "probability_today": 0.0, "decided_by": DecidedBy.TOLERANCE, "heater__kind": HeaterKind.GAS_TANK,
        "heater__capacity_l": 189.0, "heater__site_id": 1,
    }  # fmt: skip
    return work._Row(**{**told, **more})


def test_a_forecast_of_some_days_ago_is_so_much_nearer():
    then = row(as_of=MONDAY - 30 * DAY, reached_days=[130.0] * PROBABILITIES.size)
    now, never = row(), row(reached_days=[None] * PROBABILITIES.size)
    by_practice = row(decided_by=DecidedBy.PRACTICE, probability_today=0.9)
    valve = row(component="relief_valve", probability_today=0.5, over_after_service=0.1)
    told = work._likelihood([then, now, never, by_practice, valve], MONDAY, 30)
    assert told.over.shape == (5, 31)
    assert told.over[0] == pytest.approx(told.over[1]) and told.over[1, 30] > told.over[1, 10] >= 0
    assert told.over[2].max() < 1e-4
    assert not told.over[3].any() and told.over_after[3] == 0 and told.over_year[3] == 0
    assert told.over_after.tolist() == [0.25, 0.25, 0.25, 0.0, 0.1]
    assert told.over_year[1] > 0 == told.over_year[4]


def test_what_a_forecast_wants_is_read_with_what_it_takes():
    spring = MONDAY + 100 * DAY
    flush = work._wanted(row(latest_on=spring, method="jetting", heater__capacity_l=800.0), ASSUMED)
    assert (flush.latest_on, flush.asked_on, flush.is_proven) == (None, spring, False)
    assert flush.needs >= {"gas", "two people"} and work._wanted(row(), ASSUMED).needs >= {"gas"}
    assert "two people" not in work._wanted(row(), ASSUMED).needs
    valve = work._wanted(
        row(component="relief_valve", latest_on=spring, decided_by=DecidedBy.CAP, method="exercise"), ASSUMED
    )
    assert (valve.latest_on, valve.asked_on, valve.is_proven) == (spring, None, True)
    first = work._wanted(row(component="relief_valve", latest_on=spring, decided_by=DecidedBy.FIRST_LOOK), ASSUMED)
    assert not first.is_proven


def test_what_is_due_at_a_site_by_a_day_is_read_to_that_day(current, forecasted, today):
    site = forecasted["sites"][0]
    own = [one for one in current if one.heater.site_id == site.pk]
    current.update(due_on=today + 90 * DAY)
    assert work.due_at(site.pk, today + 89 * DAY) == []
    found = work.due_at(site.pk, today + 90 * DAY)
    assert [(one.heater_id, one.component) for one in found] == [(one.heater_id, one.component) for one in own]
    own[0].heater.archived_at = "2026-01-01T00:00Z"
    own[0].heater.save()
    left = work.due_at(site.pk, today + 90 * DAY)
    assert {one.heater_id for one in left} == {one.heater_id for one in own} - {own[0].heater_id}


def test_what_a_site_wants_beyond_four_hours_is_another_visit_and_a_heater_stays_whole(base, crew, today, monkeypatch):
    first, second, *_ = base["sites"]
    a, b, c, *_ = (heater.pk for heater in base["heaters"])
    wanted = [
        wants(a, first.pk, hours=2.5), wants(a, first.pk, Component.ANODE, hours=2.0),
        wants(b, first.pk, hours=1.0), wants(c, second.pk, hours=1.0, needs=TWO),
    ]  # fmt: skip
    zeros = np.zeros(4)
    monkeypatch.setattr(
        work,
        "_read_wanted",
        lambda start, weeks, hours: (wanted, work._Likelihood(np.zeros((4, weeks + 1)), zeros, zeros)),
    )
    found = work.read(week_of(today) + WEEK, 8, today, 8.0)
    # 2.5 h, 4.5 h with the rod of the same heater; the next heater makes 5.5 and comes another time.
    assert found.problem.needs.group.tolist() == [0, 0, 1, 2]
    assert found.sites == [first.pk, first.pk, second.pk]
    assert found.needs == [GAS, GAS, TWO] and found.firm == {}
    assert (found.problem.groups.promised == -1).all() and found.problem.groups.allowed.all()
    assert found.problem.groups.setup.shape == (3, 8) and found.problem.groups.people.tolist() == [1, 1, 1]
    assert [found.problem.crew.sets[kind] for kind in found.problem.groups.kind] == [GAS, GAS, TWO]
    monkeypatch.setattr(ways, "times", AlongALine)
    _, way, _ = ways.to(found.sites, crew)
    setup = work.read(week_of(today) + WEEK, 8, today, 8.0).problem.groups.setup[:, 0]
    assert setup == pytest.approx([0.3 + way[site_id] for site_id in found.sites])
    assert found.haul.shape == (1,) and found.again.tolist() == [False] * 4


def test_the_first_visit_that_stays_at_a_site_is_the_season_s(base, crew, today):
    site, other, third = base["sites"]
    first = week_of(today) + WEEK

    def kept(at, week, **more):
        return Appointment.objects.create(site=at, week=week, minutes=60, **{"standing": "kept", **more})

    later, sooner = kept(site, first + 3 * WEEK), kept(site, first)
    last = kept(other, first + 7 * WEEK, needs=["gas"], people=2)
    kept(third, first - WEEK), kept(third, first + 8 * WEEK), kept(third, first + WEEK, standing="planned")
    assert booked.staying(first, 8) == [sooner, later, last]
    found = work.read(first, 8, today, 8.0)
    rows = {found.sites[group]: group for group in found.firm}
    assert {found.sites[group]: pk for group, pk in found.firm.items()} == {site.pk: sooner.pk, other.pk: last.pk}
    assert found.problem.groups.promised[[rows[site.pk], rows[other.pk]]].tolist() == [0, 7]
    assert found.needs[rows[other.pk]] == TWO and found.needs[rows[site.pk]] == frozenset()


@pytest.fixture
def small(base, crew, today, monkeypatch):
    """Three services at two sites, eight weeks from the next on, and one visit that stays."""
    site, other, _ = base["sites"]
    a, b, c, *_ = (heater.pk for heater in base["heaters"])
    first = week_of(today) + WEEK
    cap = first + 10 * WEEK
    stays = Appointment.objects.create(
        site=site, week=first + 2 * WEEK, minutes=60, asked_minutes=60, standing="kept", needs=["gas"]
    )
    wanted = [
        wants(a, site.pk, hours=1.0), wants(b, other.pk, Component.RELIEF_VALVE, hours=0.4, needs=TWO, latest_on=cap),
        wants(c, other.pk, hours=1.2, needs=TWO),
    ]  # fmt: skip
    zeros = np.zeros(3)
    monkeypatch.setattr(
        work,
        "_read_wanted",
        lambda start, weeks, hours: (wanted, work._Likelihood(np.zeros((3, weeks + 1)), zeros, zeros)),
    )
    return work.read(first, 8, today, 8.0, 0.0), stays, first


def plan_of(found, weeks):
    week = np.array(weeks)
    visits = np.zeros(found.problem.groups.allowed.shape, dtype=bool)
    for need, one in enumerate(weeks):
        if one >= 0:
            visits[found.problem.needs.group[need], one] = True
    return season.Plan(week, visits, 0.0, 0.0, np.zeros(1))


def test_a_plan_is_stored_as_visits_with_their_services(small, people, base):
    found, stays, first = small
    run = Run.objects.create(kind=RunKind.SEASON, first_week=first, weeks=8)
    site, other, third = base["sites"]

    def planned(week):
        return Appointment.objects.create(site=third, week=week, minutes=60)

    before, inside, inside_last, after = (planned(first + n * WEEK) for n in (-1, 0, 7, 8))
    count = planned_visits.store(found, plan_of(found, [2, 5, 5]), run, first)
    left = set(Appointment.objects.values_list("pk", flat=True))
    assert {before.pk, after.pk, stays.pk} < left and not {inside.pk, inside_last.pk} & left
    stays.refresh_from_db()
    # An hour asked for with settling in, and an hour's service: 60 + 60.
    assert stays.minutes == 120 and [one.component for one in stays.services.all()] == ["sediment"]
    made = Appointment.objects.get(run=run)
    assert (made.site_id, made.week, made.people, made.needs) == (other.pk, first + 5 * WEEK, 2, ["gas"])
    assert made.minutes == round(60 * (0.3 + 0.4 + 1.2)) and made.latest_on == first + 10 * WEEK and made.note == ""
    assert [(one.component, one.hours) for one in made.services.order_by("pk")] == [
        ("relief_valve", 0.4),
        ("sediment", 1.2),
    ]
    assert count == 2
    # Planned anew without the service, what stays keeps what it had; with it, it is not had twice.
    planned_visits.store(found, plan_of(found, [2, -1, 5]), run, first)
    stays.refresh_from_db()
    assert stays.minutes == 120 and stays.services.count() == 1
    made = Appointment.objects.get(run=run)
    assert made.latest_on is None and made.services.count() == 1


def test_what_was_due_alone_lasts_as_long_as_its_services(small, people):
    found, stays, first = small
    run = Run.objects.create(kind=RunKind.SEASON, first_week=first, weeks=8)
    for asked, lasts in ((0, 78), (18, 78), (10, 78), (60, 120)):
        Appointment.objects.filter(pk=stays.pk).update(asked_minutes=asked)
        Service.objects.all().delete()
        planned_visits.store(found, plan_of(found, [2, -1, -1]), run, first)
        stays.refresh_from_db()
        assert stays.minutes == lasts, asked


def test_a_second_visit_long_before_its_cap_says_that_it_is_early(small, people):
    found, _, first = small
    run = Run.objects.create(kind=RunKind.SEASON, first_week=first, weeks=8)
    twice = work.replace(found, again=np.array([False, True, True]))
    for week, note in ((1, planned_visits.EARLY), (2, ""), (5, "")):
        planned_visits.store(twice, plan_of(found, [-1, week, week]), run, first)
        assert Appointment.objects.get(run=run).note == note, week
    half = work.replace(found, again=np.array([False, True, False]))
    planned_visits.store(half, plan_of(found, [-1, 1, 1]), run, first)
    assert Appointment.objects.get(run=run).note == ""


def test_what_found_no_week_is_told_by_what_it_is_worth(small, base, monkeypatch):
    found, _, first = small
    plan = plan_of(found, [-1, -1, -1])
    reasons = [season.Why.NO_HOURS, season.Why.CLOSED, season.Why.NOT_WORTH]
    skip, do = np.array([1.0, 3.0, 9.0]), np.array([[0.8, 0.7], [1.0, 2.0], [0.0, 0.0]])
    monkeypatch.setattr(runs.season, "reasons", lambda problem, plan: reasons)
    monkeypatch.setattr(runs.season, "costs_of", lambda problem: season.Costs(do, skip))
    closed = work.replace(found, closed=["let to guests"] * len(found.closed))
    told = runs._left_out(closed, plan)
    assert [(one["why"], one["worth"]) for one in told] == [
        ("closed: let to guests", 2.0), (f"{season.Why.NO_HOURS} (gas)", 0.3),
    ]  # fmt: skip
    assert told[0]["latest_on"] == (first + 10 * WEEK).isoformat() and told[1]["latest_on"] is None
    assert told[0]["site"] == base["sites"][1].name and told[0]["component"] == "relief_valve"
    skip[0] = 0.95 - 1e-9
    assert len(runs._left_out(found, plan)) == 1, "a quarter of an hour is not told of"
    assert runs._left_out(found, plan)[0]["why"] == season.Why.CLOSED
    monkeypatch.setattr(runs, "MOST_LEFT_OUT", 0)
    assert runs._left_out(found, plan) == []


def test_a_season_is_told_by_its_sums(small, monkeypatch):
    found, *_ = small
    plan = plan_of(found, [2, 5, -1])
    monkeypatch.setattr(runs.season, "reasons", lambda problem, plan: ["", "", season.Why.NO_HOURS])
    monkeypatch.setattr(runs.season, "parts_of", lambda problem, plan: {"risk": 10.0, "driving": 2.44})
    told = runs._figures(found, work.replace(plan, bound=12.0))
    assert (told["cost"], told["bound"], told["gap"]) == (12.4, 12.0, 0.0367)
    assert told["parts"] == {"risk": 10.0, "driving": 2.4}
    assert (told["services"], told["visits"], told["left_out"]) == (2, 2, 1)
    # An hour asked for and its way in the third week, and what the plan does at it and elsewhere.
    wanted = season.hours_of(found.problem, plan).sum(axis=0)
    wanted[2] += 1.0 + found.problem.groups.setup[0, 0] - 0.3
    assert told["hours"] == [round(one, 1) for one in wanted] and sum(hours > 0 for hours in told["hours"]) == 2
    assert len(told["capacity"]) == 8 and told["capacity"][3] == pytest.approx(14 * 7.82, abs=0.06)
    assert told["one_more"] is None or told["one_more"] >= 0
    assert "next_year" not in told, "with no hours that one over the mean costs nothing is told of the year after"


def test_the_year_after_is_told_in_hours_a_week(small, today):
    found, *_ = small
    needs = work.replace(found.problem.needs, hours=np.array([100.0, 40.0, 120.0]), interval=np.array([2.0, 1.0, 0.5]))
    setup = found.problem.groups.setup.mean(axis=1)
    of_year = level.of(
        needs.group, needs.hours, needs.interval, work.safety_of(found.wanted), found.problem.groups.people, setup,
        found.problem.crew.hours.sum(axis=0), 1.0,
    )  # fmt: skip
    levelled = work.replace(found, problem=work.replace(found.problem, needs=needs, level=of_year))
    plan = plan_of(found, [2, 5, 5])
    told = runs._for_ever(levelled, plan)
    assert told["next_year"] == [round(float(one), 1) for one in level.next_year(of_year, plan.week)]
    assert told["crew_hours"] == pytest.approx(14 * 7.82, abs=0.06)
    assert told["technician_hours"] == pytest.approx(7 * 7.82, abs=0.06)
    assert told["steady_hours"] == pytest.approx(found.year_hours / 52, abs=0.06)
    # Weeks in which nobody works say nothing of how level they are.
    rooms = of_year.room > 0
    assert told["variation"] == round(level.variation(level.next_year(of_year, plan.week)[rooms]), 2)
    # What is booked there already is told with it.
    booked_there = np.where(np.arange(52) == 9, 4.0, 0.0)
    more = runs._for_ever(work.replace(levelled, next_year=booked_there), plan)
    assert more["next_year"][9] == told["next_year"][9] + 4.0 and sum(more["next_year"]) == sum(told["next_year"]) + 4.0


def test_a_year_asks_for_what_is_due_and_for_what_is_booked_already(small, base, today):
    found, stays, first = small
    # A flush every two years, there and at the other house, where a valve is tried every year: so are its visits.
    one, other = (found.problem.groups.setup[group, 0] for group in (0, 1))
    a_year = one / 2 + 1.0 / 2 + other + 0.4 + 1.2 / 2
    assert found.year_hours == pytest.approx(a_year)
    wanted = found.wanted
    Service.objects.create(
        appointment=stays, heater_id=wanted[0].heater_id, component="sediment", method="drain_and_pulse", hours=1.0
    )
    again = work.read(first, 8, today, 8.0, 0.0)
    assert len(again.wanted) == 2 and again.year_hours == pytest.approx(a_year)


def test_what_is_booked_takes_its_room_in_next_year_s_weeks(base, today):
    site, first = base["sites"][0], week_of(today)
    valve, flush = (
        Appointment.objects.create(site=site, week=first + n * WEEK, minutes=90, standing="kept") for n in (2, 3)
    )
    late = Appointment.objects.create(site=site, week=first + 54 * WEEK, minutes=60, standing="kept")
    for visit, component in ((valve, "relief_valve"), (flush, "sediment"), (late, "expansion_tank")):
        Service.objects.create(
            appointment=visit, heater=base["heaters"][0], component=component, method="check", hours=1
        )
    asked = booked.next_year([valve, flush, late], {site.pk: 0.5}, first)
    assert asked.shape == (52,) and asked.sum() == 3.5 and asked[2] == 2.0 + 1.5
    # An hour a week on the mean, and two of them are gone already.
    even = level.of(
        np.array([0]), np.array([50.0]), np.array([1.0]), np.array([True]), np.array([1]), np.array([0.0]),
        np.full(52, 8.0), asked=np.where(np.arange(52) == 2, 2.0, 0.0),
    )  # fmt: skip
    assert even.room[0] == pytest.approx(1.05) and even.room[2] == 0.0


def test_services_are_written_of_each_visit(small):
    found, stays, _ = small
    planned_visits._write_services(found, [(stays.pk, [2, 0])])
    made = Service.objects.filter(appointment=stays).order_by("pk")
    assert [(one.heater_id, one.component, one.method, one.hours) for one in made] == [
        (found.wanted[need].heater_id, "sediment", "drain_and_pulse", found.wanted[need].hours) for need in (2, 0)
    ]
    assert planned_visits.minutes_of([found.wanted[0], found.wanted[2]], ASSUMED) == 150
    assert planned_visits.minutes_of([], ASSUMED) == 18
    assert planned_visits.first_cap(found.wanted) == found.wanted[1].latest_on
    assert planned_visits.first_cap(found.wanted[:1]) == datetime.date.max

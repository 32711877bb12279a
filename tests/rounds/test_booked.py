"""What a planning leaves where it is, by visits that are put down by hand: their hours, what they are for, and what a
person does while it is planned."""

import datetime

import numpy as np
import pytest

from aquifer.company.clock import week_of
from aquifer.core.planning import season
from aquifer.core.vocabulary import Component
from aquifer.rounds import board, booked, booking, planned_visits, rounds, shifting, work
from aquifer.rounds.models import Absence, Appointment, Run, RunKind, Service
from tests.rounds.test_season_by_hand import plan_of, wants

DAY, WEEK = datetime.timedelta(days=1), datetime.timedelta(weeks=1)
GAS, WIRES = frozenset({"gas"}), frozenset({"electrical"})
MONDAY = datetime.date(2031, 6, 9)


def put(site, week, **more):
    return Appointment.objects.create(site=site, week=week, **{"minutes": 60, "needs": ["gas"], **more})


def serves(visit, heater, component="sediment", hours=1.0):
    Service.objects.create(appointment=visit, heater=heater, component=component, method="exercise", hours=hours)


def test_what_was_asked_for_stays_and_what_is_only_planned_does_not(base, today):
    site, week = base["sites"][0], week_of(today)
    kept, promised = put(site, week + WEEK, standing="kept"), put(site, week, standing="promised", on=week)
    asked = put(site, week + WEEK, asked_minutes=60)
    for other in ({}, {"standing": "done", "asked_minutes": 60}, {"standing": "called_off", "asked_minutes": 60}):
        put(site, week, **other)
    put(site, week - WEEK, standing="kept"), put(site, week + 2 * WEEK, standing="kept")
    assert booked.staying(week, 2) == [promised, kept, asked]


def test_what_stays_is_seen_to_and_so_is_what_is_planned_before_the_season(base, crew, today):
    site, (a, b, *_), week = base["sites"][0], base["heaters"], week_of(today)
    serves(put(site, week + 3 * WEEK, standing="kept"), a)
    serves(put(site, week + 5 * WEEK, standing="promised", on=week + 5 * WEEK + 2 * DAY), a)
    serves(put(site, week, asked_minutes=60), b)
    serves(put(site, week + WEEK), b, "anode")
    serves(put(site, week + 2 * WEEK), b, "relief_valve")
    serves(put(site, week - WEEK, standing="kept"), b, "expansion_tank")
    serves(put(site, week, on=week, member=crew[0], begins=480), b, "scale")
    found = booked.seen_to(week + 2 * WEEK, week + DAY)
    assert found == {
        (a.pk, "sediment"): week + 5 * WEEK + 2 * DAY, (b.pk, "sediment"): week, (b.pk, "anode"): week + WEEK,
    }  # fmt: skip


@pytest.mark.parametrize(
    ("needs", "minutes", "member", "left"),
    [
        # Whoever has most left of those who may; a way of half an hour each.
        ([["gas"]], [60], [None], [10.0, 18.5]),
        ([["electrical"]], [60], [None], [10.0, 18.5]),
        ([["gas"]], [60], [0], [8.5, 20.0]),
        # With both, and what is given to somebody comes before what is anybody's: 20 - 9 is still the more.
        ([["gas"], ["gas"]], [60, 510], [None, 1], [10.0, 9.5]),
        # More than one has: the rest is the other's, as far as they may.
        ([["gas"]], [25 * 60], [None], [4.5, 0.0]),
        ([["electrical"]], [25 * 60], [None], [10.0, 0.0]),
        # What nobody may takes no hours, and what is with somebody takes theirs alone.
        ([["plumbing"]], [60], [None], [10.0, 20.0]),
        ([["gas"]], [25 * 60], [0], [0.0, 20.0]),
    ],
)
def test_what_stays_takes_the_hours_of_whoever_does_it(base, crew, needs, minutes, member, left):
    held = [GAS, GAS | WIRES]
    visits = [
        put(base["sites"][0], MONDAY + WEEK, needs=need, minutes=lasts, member=None if who is None else crew[who],
            on=None if who is None else MONDAY + WEEK, begins=None if who is None else 480)
        for need, lasts, who in zip(needs, minutes, member, strict=True)
    ]  # fmt: skip
    whole = np.array([[5.0, 10.0], [5.0, 20.0]])
    found = booked.hours(crew, held, visits, {base["sites"][0].pk: 0.5}, whole, MONDAY)
    assert found.left[:, 1].tolist() == pytest.approx(left) and found.left[:, 0].tolist() == [5.0, 5.0]
    assert found.whole is whole and found.booked.tolist() == [0.0, sum(minutes) / 60 + 0.5 * len(visits)]


def test_weeks_whose_visits_pass_what_is_worked_are_named_with_the_fewest(base, crew, next_week):
    one, two, three = (site.pk for site in base["sites"])
    sites = base["sites"]
    held = [GAS, GAS | WIRES]
    week = next_week + datetime.timedelta(weeks=1)
    Absence.objects.create(member=crew[1], first_on=week, last_on=week + 6 * DAY, why="ill")
    # 7 days of 8.5 h: 59.5 h for gas, nobody for wires.
    visits = [
        put(sites[0], next_week, standing="kept", needs=["electrical"]),
        put(sites[1], week, standing="kept", minutes=3600), put(sites[0], week, standing="kept", minutes=600),
    ]  # fmt: skip
    assert booked.clashes(crew, held, visits, next_week, 3, next_week) == [(week, [two])]
    wires = put(sites[2], week, standing="kept", needs=["electrical"])
    visits[1].minutes = 3000
    assert booked.clashes(crew, held, [*visits, wires], next_week, 3, next_week) == [(week, [three])]
    assert booked.clashes(crew, held, visits[:1], next_week, 3, next_week) == []
    visits[1].minutes = 3540
    assert booked.clashes(crew, held, visits, next_week, 3, next_week) == [(week, [two, one])]
    assert booked.clashes(crew, held, [], next_week, 3, next_week) == []


def test_a_visit_takes_up_what_its_length_its_day_and_who_comes_after_leave(base, crew):
    site, (first, second) = base["sites"][0], crew
    on = MONDAY + DAY
    loose, long = put(site, MONDAY, standing="kept"), put(site, MONDAY, standing="kept", minutes=300)
    early = put(site, MONDAY, on=on, member=first, begins=480, standing="kept")
    after = put(site, MONDAY, on=on, member=first, begins=600, standing="promised", earliest=570, latest=630)
    alone = put(site, MONDAY, on=on, member=second, begins=480, standing="kept", minutes=360)
    # A day of 8.5 h, of which 92 % are planned: 7.82 h, less two hours, shared by two; after the first half an hour.
    found = booked.room([loose, long, early, after, alone], crew, 4.0)
    assert found[loose.pk] == 3.0 and found[long.pk] == 0.0 and found[early.pk] == 0.5
    assert found[after.pk] == pytest.approx((7.82 - 2) / 2) and found[alone.pk] == 0.0
    alone.minutes = 120
    assert booked.room([alone], crew, 4.0)[alone.pk] == 2.0
    alone.minutes = 120 + 60 * 4
    assert booked.room([alone], crew, 9.0)[alone.pk] == pytest.approx(7.82 - 6)


def test_what_is_seen_to_is_left_to_it_and_a_safety_service_comes_again_in_a_long_season():
    wanted = [
        wants(1), wants(1, component=Component.RELIEF_VALVE, latest_on=MONDAY), wants(2),
        wants(2, component=Component.RELIEF_VALVE, latest_on=MONDAY),
    ]  # fmt: skip
    ones = np.arange(1.0, 5.0)
    likelihood = work._Likelihood(np.repeat(ones[:, None], 3, axis=1), ones, ones)
    done = {(1, "sediment"): MONDAY, (1, "relief_valve"): MONDAY + 3 * DAY}
    left, risk = work._besides(wanted, likelihood, done, MONDAY + 52 * WEEK)
    assert left == wanted[2:] and risk.over_after.tolist() == [3.0, 4.0]
    left, risk = work._besides(wanted, likelihood, done, MONDAY + 53 * WEEK)
    again = MONDAY + 3 * DAY + 52 * WEEK
    assert [(one.heater_id, one.due_on, one.latest_on, one.is_proven) for one in left] == [
        (1, again, again, True), (2, None, None, False), (2, None, MONDAY, False),
    ]  # fmt: skip
    assert [one.not_before for one in left] == [MONDAY + 3 * DAY + 39 * WEEK, None, None]
    # Nothing is at risk until then.
    assert risk.over.tolist() == [[0.0] * 3, [3.0] * 3, [4.0] * 3]
    assert risk.over_after.tolist() == risk.over_year.tolist() == [0.0, 3.0, 4.0]


def test_a_visit_that_stays_takes_up_a_heater_whole_or_not_at_all():
    """Half an hour of room: a valve and a flush of one heater are another visit."""
    wanted = [
        wants(1, component=Component.RELIEF_VALVE, hours=0.25), wants(1, hours=1.0),
        wants(2, component=Component.RELIEF_VALVE, hours=0.25),
    ]  # fmt: skip
    together = {(1, GAS): GAS}
    for room, numbers in ((0.5, [1, 1, 1]), (1.25, [0, 0, 1]), (1.6, [0, 0, 0])):
        keys = work._keys(wanted, together, {1: GAS}, {(1, GAS): work.LONGEST_VISIT_HOURS - room})
        assert [number for *_, number in keys] == numbers, room
    only = work._keys(wanted[2:], together, {1: GAS}, {(1, GAS): work.LONGEST_VISIT_HOURS - 0.3})
    assert only == [(1, GAS, 0)]


def test_each_service_knows_its_other_time():
    wanted = [wants(1), wants(2), wants(1), wants(1, component=Component.ANODE)]
    assert work.other_times(wanted).tolist() == [2, -1, 0, -1]


@pytest.fixture
def small(base, crew, today, monkeypatch):
    """Two services at a site where a visit stays, as a season reads them."""
    site, first = base["sites"][0], week_of(today) + WEEK
    stays = put(site, first + 2 * WEEK, standing="kept", asked_minutes=60, latest_on=first + 20 * WEEK)
    a, b, *_ = base["heaters"]
    wanted = [wants(a.pk, site.pk, hours=1.0), wants(b.pk, site.pk, hours=0.5, latest_on=first + 9 * WEEK)]
    zeros = np.zeros(2)
    likelihood = work._Likelihood(np.zeros((2, 9)), zeros, zeros)
    monkeypatch.setattr(work, "_read_wanted", lambda start, weeks, hours: (wanted, likelihood))
    run = Run.objects.create(kind=RunKind.SEASON, first_week=first, weeks=8)
    return work.read(first, 8, today, 8.0, 0.0), stays, run


def stored(small, weeks):
    found, _, run = small
    return planned_visits.store(found, plan_of(found, weeks), run, run.first_week)


def test_a_visit_that_stays_takes_up_more_and_keeps_what_it_was_for(small, base):
    found, stays, _ = small
    rod = base["heaters"][2]
    serves(stays, rod, "anode", 0.5)
    version = stays.version
    assert found.problem.groups.setup[0, 2] == 0.0 < found.problem.groups.setup[0, 1], "it is driven to anyway"
    stored(small, [2, 2])
    stays.refresh_from_db()
    assert stays.minutes == 60 + 120 and stays.services.count() == 3 and stays.version == version + 1
    assert stays.latest_on == found.wanted[1].latest_on
    assert [(row.minutes, row.version) for row in stays.history.all()] == [(180, version + 1), (60, version)]
    # What it takes up no longer is wanted by the next.
    assert work.read(*reading(small)).wanted == []


def test_who_comes_after_a_visit_that_takes_up_more_comes_later(small, base, crew):
    found, stays, run = small
    on = stays.week + 4 * DAY
    for visit, begins in ((stays, 480), (put(base["sites"][1], stays.week, standing="kept"), 560)):
        visit.on, visit.member, visit.begins, visit.standing = on, crew[0], begins, "kept"
        visit.save()
    stored(small, [2, -1])
    stays.refresh_from_db()
    visit.refresh_from_db()
    assert stays.minutes == 120 and visit.begins >= stays.begins + 120


def reading(small):
    found, _, run = small
    return run.first_week, 8, run.first_week - WEEK, 8.0, 0.0


def test_what_somebody_moves_while_it_is_planned_takes_up_nothing(small):
    found, stays, run = small
    Appointment.objects.filter(pk=stays.pk).update(standing="called_off")
    assert stored(small, [2, -1]) == 1
    made = Appointment.objects.get(run=run)
    assert made.week == run.first_week + 2 * WEEK and made.services.count() == 1 and not stays.services.exists()


def test_what_somebody_books_while_it_is_planned_is_not_planned_besides(small, base):
    found, stays, run = small
    serves(put(base["sites"][1], run.first_week, standing="promised", on=run.first_week), base["heaters"][0])
    assert stored(small, [4, 4]) == 1
    made = Appointment.objects.get(run=run)
    assert [service.heater_id for service in made.services.all()] == [base["heaters"][1].pk]


def test_what_went_by_undone_is_planned_anew_and_what_was_asked_for_waits_in_this_week(small, base, crew, today):
    _, stays, run = small
    site, week = base["sites"][0], week_of(today)
    due = put(site, week - 2 * WEEK)
    asked = put(site, week - 2 * WEEK, asked_minutes=60, said="drips", on=week - 2 * WEEK, member=crew[0], begins=480)
    this_week, promised = put(site, week), put(site, week - WEEK, standing="promised", on=week - WEEK)
    stored(small, [-1, -1])
    left = set(Appointment.objects.values_list("pk", flat=True))
    assert left == {asked.pk, this_week.pk, promised.pk, stays.pk} and due.pk not in left
    asked.refresh_from_db()
    assert (asked.week, asked.on, asked.begins, asked.said) == (week, None, None, "drips")


@pytest.mark.parametrize("way", ["to a day", "to a week", "with others"])
@pytest.mark.parametrize("went_by", [True, False])
def test_what_went_by_undone_and_comes_after_all_is_not_planned_besides(base, crew, next_week, today, way, went_by):
    """The season planned its services anew meanwhile: the flush in three weeks, the valve there and again next year."""
    site, (a, b, *_) = base["sites"][0], base["heaters"]
    on = today - WEEK if went_by else next_week
    late = put(site, week_of(on), standing="kept", on=on, member=crew[0], begins=480)
    serves(late, a), serves(late, a, "relief_valve")
    anew, next_year = put(site, next_week + 2 * WEEK), put(site, next_week + 52 * WEEK)
    serves(anew, a), serves(anew, a, "relief_valve"), serves(anew, b, hours=2.0), serves(next_year, a, "relief_valve")
    for_nothing, asked = put(site, next_week + 4 * WEEK), put(site, next_week + 5 * WEEK, asked_minutes=60)
    serves(for_nothing, a), serves(asked, a)
    if way == "with others":
        shifting.shift({late.pk: late.version}, next_week + WEEK, today, dry=True)
        assert anew.services.count() == 3
        shifting.shift({late.pk: late.version}, next_week + WEEK, today, dry=False)
    else:
        day, who = (next_week + WEEK, crew[0].pk) if way == "to a day" else (None, None)
        rounds.move(late.pk, rounds.Target(next_week + WEEK, day, who), late.version, override=True)
    assert late.services.count() == 2 and next_year.services.count() == asked.services.count() == 1
    if went_by:
        anew.refresh_from_db()
        assert [one.heater_id for one in anew.services.all()] == [b.pk] and anew.version == 2
        assert anew.minutes == 120 + booking.arriving_minutes()
        assert not Appointment.objects.filter(pk=for_nothing.pk).exists()
    else:
        assert anew.services.count() == 3 and for_nothing.services.count() == 1


@pytest.mark.parametrize(("on", "weeks", "gone"), [(-1, -1, True), (0, -1, False), (None, -1, True), (None, 0, False)])
def test_a_visit_went_by_when_its_day_did_or_without_one_its_week(base, crew, today, on, weeks, gone):
    day = None if on is None else today + on * DAY
    one = put(base["sites"][0], week_of(today) + weeks * WEEK, standing="kept", on=day)
    assert board.went_by(one, today) is gone is Appointment.objects.filter(board.left_over(today)).exists()


def test_a_week_s_rounds_take_up_what_days_before_left_over_and_nobody_was_promised(base, crew, today, monkeypatch):
    monkeypatch.setattr(rounds, "SECONDS_A_WEEK", 0.1)
    one, two, three = base["sites"]
    week = week_of(today)
    before = {"on": week - 4 * DAY, "member": crew[0], "begins": 480}
    undone, waiting = put(one, week - WEEK, **before), put(two, week - WEEK, asked_minutes=60)
    promised = put(three, week - WEEK, standing="promised", **before)
    rounds.plan_week(week + WEEK, today)
    assert not Appointment.objects.filter(on__gte=today).exists(), "the next week's leave them to this one's"
    rounds.plan_week(week, today)
    on = dict(Appointment.objects.values_list("pk", "on"))
    assert week + 6 * DAY >= on[undone.pk] >= today <= on[waiting.pk] and on[promised.pk] == week - 4 * DAY


def test_clashes_are_no_reason_for_a_season_to_want_hours(forecasted, base, crew, today):
    """A season whose only member is booked up has no hours left, and none below nothing."""
    first = week_of(today) + WEEK
    for member in crew:
        put(base["sites"][0], first, standing="kept", minutes=600 * 9, on=first, member=member, begins=480)
    found = work.read(first, 4, today, 8.0)
    assert (found.problem.crew.hours[:, 0] == 0).all() and (found.problem.crew.hours[:, 1:] > 0).all()
    assert season.capacity(found.problem.crew).hours.min() == 0.0

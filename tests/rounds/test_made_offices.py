"""Plans of offices that were made by chance, with a telephone that rings: whatever is planned, moved and planned anew,
nothing is lost, nothing is done twice, and every day can be driven."""

import datetime
from collections.abc import Callable

import pytest

from aquifer.company.clock import week_of
from aquifer.errors import AquiferError
from aquifer.rounds import booking, disturbance, own_day, promise, rounds, shifting
from aquifer.rounds import run as runs
from aquifer.rounds.models import Absence, Appointment, AppointmentStatus, Reason, RunKind, RunState
from aquifer.rounds.schemas import PromiseIn
from tests.conftest import examples
from tests.rounds.made_offices import DAY, WEEK, Office, faults, faults_of_any, office, open_visits

BEGIN = datetime.date(2031, 6, 11)
SHORT = 0.15


@pytest.fixture(autouse=True)
def quick(monkeypatch):
    monkeypatch.setattr(rounds, "SECONDS_A_WEEK", SHORT)
    monkeypatch.setattr(disturbance, "SECONDS_A_DAY", SHORT)


@pytest.fixture
def made(db, people, seed, monkeypatch) -> Office:
    """An office on its first day; the clock is its own."""
    there = office(seed, BEGIN)
    there.planner = people["planner"]
    monkeypatch.setattr("django.utils.timezone.localdate", lambda *given: there.today)
    return there


def rings(made: Office) -> None:
    """Somebody rings and is given a time, or a week."""
    rng = made.rng
    site, on = rng.choice(made.sites), made.today + rng.randint(0, 90) * DAY
    asked = booking.Asked(
        site.pk, rng.choice([Reason.COMPLAINT, Reason.WISH, Reason.CALL_BACK]), rng.choice([45, 60, 120, 300]),
        said=f"call {rng.randrange(10**6)}", ride_along=rng.random() < 0.7,
    )  # fmt: skip
    to = rounds.Target(week_of(on))
    if rng.random() < 0.7:
        free = [place for place in booking.slots(asked, on, 7).places if not place.faults]
        if not free:
            return
        place = rng.choice(free[:3])
        to = rounds.Target(week_of(place.on), place.on, place.member_id, place.position, rng.random() < 0.7)
    visit = booking.book(asked, to, made.today, override=False)
    made.asked.setdefault(visit.pk, []).append(asked.said)


def plans(made: Office) -> datetime.date:
    """The season is planned anew; returns its first day."""
    first = made.today + made.rng.choice([0, 0, 1, 3]) * WEEK
    run = runs.ask(RunKind.SEASON, first, made.rng.choice([8, 26, 52, 78]), made.planner, made.today)
    runs.work_on(run.pk)
    run.refresh_from_db()
    assert run.state == RunState.READY, run.message
    return week_of(first)


def orders(made: Office) -> None:
    """This week's rounds are put in order, or the next one's."""
    rounds.plan_week(week_of(made.today) + made.rng.choice([0, 1]) * WEEK, made.today)


def moves(made: Office) -> None:
    """A visit is put elsewhere, or among those of a week that have no day."""
    visit = made.rng.choice(open_visits())
    made.moved.add(visit.pk)
    on = made.today + made.rng.randint(0, 40) * DAY
    to = rounds.Target(week_of(on))
    free = [place for place in rounds.possible(visit.pk, on, 7) if not place.faults]
    if free and made.rng.random() < 0.7:
        place = made.rng.choice(free[:3])
        to = rounds.Target(week_of(place.on), place.on, place.member_id, place.position, made.rng.random() < 0.5)
    rounds.move(visit.pk, to, visit.version, override=True)


def shifts(made: Office) -> None:
    """Several are put into another week."""
    visits = made.rng.sample(open_visits(), k=min(3, len(open_visits())))
    made.moved |= {visit.pk for visit in visits}
    week = made.today + made.rng.randint(0, 10) * WEEK
    shifting.shift({visit.pk: visit.version for visit in visits}, week, made.today, dry=False)


def stands(made: Office) -> None:
    """A visit is promised, offered, kept or let go."""
    visit = made.rng.choice(open_visits())
    made.moved.add(visit.pk)
    standing = made.rng.choice(["planned", "kept", "offered", "promised"])
    promise.stand(visit.pk, PromiseIn(version=visit.version, standing=standing), made.today)


def calls_off(made: Office) -> None:
    """A customer wants nothing any more."""
    visit = made.rng.choice(open_visits())
    promise.stand(visit.pk, PromiseIn(version=visit.version, standing="called_off"), made.today)
    made.asked.pop(visit.pk, None)


def goes_wrong(made: Office) -> None:
    """Of a day that runs: nobody is in, it takes longer, something bursts, somebody falls ill, or a technician says so
    from the road."""
    rng, running = made.rng, [one for one in open_visits() if one.on == made.today and one.member]
    kind = rng.choice(["overrun", "nobody_home", "emergency", "away", "late", "not_done"])
    if kind == "emergency":
        said = f"burst {rng.randrange(10**6)}"
        site = rng.choice(made.sites)
        there = set(Appointment.objects.values_list("pk", flat=True))
        disturbance.disturb(made.today, disturbance.Disturbance(kind, 600, site_id=site.pk, words=said))
        (new,) = Appointment.objects.exclude(pk__in=there)
        made.asked[new.pk] = [said]
        return
    visit = rng.choice(running)
    if kind == "late":
        own_day.late(visit.member.user, visit.pk, 20, made.today)
    elif kind == "not_done":
        why = rng.choice([one for one in own_day.NotDone if one is not own_day.NotDone.DECLINED])
        own_day.not_done(visit.member.user, visit.pk, why, "", made.today)
    else:
        what = disturbance.Disturbance(
            kind, rng.randint(480, 900), appointment_id=visit.pk, minutes=40, member_id=visit.member_id
        )
        disturbance.disturb(made.today, what)


def falls_ill(made: Office) -> None:
    """Somebody is away for some days."""
    first = made.today + made.rng.randint(0, 5) * DAY
    Absence.objects.create(member=made.rng.choice(made.crew), first_on=first, last_on=first + 3 * DAY, why="ill")


def days_pass(made: Office) -> None:
    """Some days go by; most of what had its day is done."""
    until = made.today + made.rng.choice([1, 1, 2, 7]) * DAY
    for visit in open_visits():
        if visit.on and made.today <= visit.on < until and visit.member and made.rng.random() < 0.7:
            Appointment.objects.filter(pk=visit.pk).update(standing=AppointmentStatus.DONE)
            for service in visit.services.all():
                made.served(service, visit.on)
    made.today = until


ACTS: list[Callable[[Office], object]] = [
    rings, rings, plans, orders, orders, moves, moves, shifts, stands, stands, calls_off, goes_wrong, goes_wrong,
    falls_ill, days_pass, days_pass, days_pass,
]  # fmt: skip


@pytest.mark.parametrize("seed", range(examples(10, 400)))
def test_a_plan_of_an_office_made_by_chance_has_no_fault(made):
    for _ in range(made.rng.randint(0, 8)):
        try:
            rings(made)
        except AquiferError:
            continue
    assert list(faults(made, plans(made))) == []


@pytest.mark.parametrize("seed", range(examples(8, 300)))
def test_whatever_happens_nothing_is_lost_and_nothing_is_done_twice(made):
    told = [plans(made)]
    for _ in range(25):
        act = made.rng.choice(ACTS)
        try:
            act(made)
        except (AquiferError, IndexError) as refused:
            told.append(f"{act.__name__} refused: {refused}")
        else:
            told.append(act.__name__)
        if found := list(faults_of_any(made)):
            pytest.fail(f"{found}\nafter {told}")
    plans(made)
    assert list(faults_of_any(made)) == []

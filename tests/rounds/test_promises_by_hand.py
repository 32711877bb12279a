"""What is promised, offered and kept, put off by the week and told to nobody, edge by edge."""

import datetime

import pytest

from aquifer.company.clock import week_of
from aquifer.core.planning.rounds import Breach, Fault
from aquifer.errors import Conflict, Invalid, NotFound
from aquifer.rounds import board, done, promise, rounds, shifting
from aquifer.rounds.models import Appointment, Closed
from aquifer.rounds.promise import Promise
from aquifer.rounds.schemas import PromiseIn
from aquifer.visits.models import Finding, Visit

DAY, WEEK = datetime.timedelta(days=1), datetime.timedelta(weeks=1)
TUESDAY = datetime.date(2031, 6, 10)


@pytest.mark.parametrize(("on", "begins", "holds"), [
    (TUESDAY, 540, True), (TUESDAY, 539, False), (TUESDAY, 630, True), (TUESDAY, 631, False), (TUESDAY, None, True),
    (TUESDAY + DAY, 600, False), (TUESDAY + DAY, None, False), (None, None, False),
])  # fmt: skip
def test_a_promise_holds_within_its_times(on, begins, holds):
    assert Promise(TUESDAY, 540, 630).holds(on, begins) is holds


@pytest.mark.parametrize("times", [(None, None), (540, None), (None, 630)])
def test_a_promise_of_a_day_alone_holds_on_that_day(times):
    assert Promise(TUESDAY, *times).holds(TUESDAY, 1) and not Promise(TUESDAY, *times).holds(TUESDAY + DAY, 600)


@pytest.mark.parametrize(("begins", "times"), [
    (540, (510, 600)), (541, (510, 615)), (554, (510, 615)), (555, (525, 615)), (10, (0, 75)), (30, (0, 90)),
    (1379, (1335, 1439)), (1365, (1335, 1425)), (1439, (1395, 1439)),
])  # fmt: skip
def test_a_time_is_offered_half_an_hour_before_to_an_hour_after_in_quarters(begins, times):
    assert promise.around(begins) == times


@pytest.fixture
def one(base, crew, next_week):
    return Appointment.objects.create(
        site=base["sites"][0], week=next_week, on=next_week + DAY, member=crew[0], begins=545, minutes=60
    )


def stood(one, today, standing, **more):
    one.refresh_from_db()
    return promise.stand(one.pk, PromiseIn(version=one.version, standing=standing, **more), today)


@pytest.fixture
def heard():
    """Who was told within the program: what was agreed, and of what nobody knows."""
    told = {"agreed": [], "unknown": []}

    def agreed(sender, appointment, **_):
        told["agreed"].append(appointment.pk)

    def unknown(sender, appointment, **_):
        told["unknown"].append(appointment.pk)

    promise.agreed.connect(agreed)
    promise.unknown.connect(unknown)
    yield told
    promise.agreed.disconnect(agreed)
    promise.unknown.disconnect(unknown)


def test_a_promise_without_times_is_of_half_an_hour_before_to_an_hour_after(one, today, heard):
    made = stood(one, today, "promised", why="as they wished")
    assert (made.earliest, made.latest, made.version, made.why) == (515, 605, 2, "as they wished")
    assert heard == {"agreed": [one.pk], "unknown": []}
    for begins, times in ((20, (0, 80)), (1400, (1370, 1439))):
        Appointment.objects.filter(pk=one.pk).update(begins=begins)
        made = stood(one, today, "offered")
        assert (made.earliest, made.latest) == times
    assert heard["agreed"] == [one.pk], "an offer is agreed with nobody"


def test_a_promise_of_another_day_takes_it_off_its_round(one, today, next_week):
    made = stood(one, today, "promised", on=next_week + 8 * DAY, earliest=480, latest=480)
    assert (made.on, made.week) == (next_week + 8 * DAY, next_week + WEEK)
    assert (made.member, made.begins, made.earliest, made.latest) == (None, None, 480, 480)
    same = stood(one, today, "promised", on=today, earliest=500, latest=600)
    assert same.on == today
    for on, says in ((today - DAY, "is past"),):
        with pytest.raises(Invalid, match=says):
            stood(one, today, "promised", on=on, earliest=480, latest=500)
    with pytest.raises(Invalid, match="before it may"):
        stood(one, today, "promised", earliest=500, latest=499)
    with pytest.raises(Invalid, match="between which times"):
        stood(one, today, "promised", earliest=500)


def test_what_has_no_day_is_neither_promised_nor_kept(base, crew, next_week, today):
    waiting = Appointment.objects.create(site=base["sites"][0], week=next_week, minutes=60)
    with pytest.raises(Invalid, match="which day"):
        stood(waiting, today, "promised", earliest=480, latest=500)
    with pytest.raises(Invalid, match="no day"):
        stood(waiting, today, "kept")


def test_what_is_let_go_keeps_its_place_and_what_is_called_off_has_none(one, today, heard, next_week):
    stood(one, today, "promised")
    kept = stood(one, today, "kept", agreed=True)
    assert (kept.on, kept.begins, kept.earliest, kept.latest) == (next_week + DAY, 545, None, None)
    assert heard == {"agreed": [one.pk], "unknown": [one.pk]}
    stood(one, today, "promised")
    planned = stood(one, today, "planned")
    assert (planned.on, planned.begins, planned.earliest) == (next_week + DAY, 545, None)
    stood(one, today, "promised", on=next_week + 2 * DAY, earliest=480, latest=500)
    planned = stood(one, today, "planned")
    assert (planned.on, planned.member, planned.begins) == (None, None, None), "without a time it has no day either"
    off = stood(one, today, "called_off")
    assert (off.on, off.standing) == (None, "called_off")
    with pytest.raises(NotFound):
        stood(one, today, "planned")


def test_a_new_customer_of_a_site_was_promised_nothing(base, crew, next_week, one, heard):
    site, other = base["sites"][:2]
    Appointment.objects.filter(pk=one.pk).update(standing="promised", earliest=500, latest=600, note="gate 4")
    offered = Appointment.objects.create(
        site=site, week=next_week, on=next_week, member=crew[0], begins=700, minutes=60, standing="offered",
        earliest=690, latest=720,
    )  # fmt: skip
    untouched = [
        Appointment.objects.create(site=site, week=next_week, minutes=60, standing="planned"),
        Appointment.objects.create(
            site=other, week=next_week, on=next_week, member=crew[0], begins=800, minutes=60, standing="promised"
        ),
    ]
    assert promise.agreed_with_nobody(site.pk) == 2
    for appointment, note in ((one, "gate 4; new customer: agree it anew"), (offered, "new customer: agree it anew")):
        before = appointment.version
        appointment.refresh_from_db()
        assert (appointment.standing, appointment.earliest, appointment.latest) == ("kept", None, None)
        assert appointment.note == note and appointment.version == before + 1 and appointment.on is not None
    assert sorted(heard["unknown"]) == sorted([one.pk, offered.pk])
    for appointment in untouched:
        before = appointment.standing
        appointment.refresh_from_db()
        assert appointment.standing == before and appointment.note == ""


def test_a_move_in_agreement_is_a_promise_and_another_that_breaks_one_an_offer(one, heard):
    was = Promise(one.on, 500, 600)
    same = promise.after_move(one, was, False, "late")
    assert (same.standing, same.version, same.why) == ("planned", 1, "")
    one.begins = 700
    moved = promise.after_move(one, was, False, "late")
    assert (moved.standing, moved.earliest, moved.latest, moved.why, moved.version) == ("offered", 660, 765, "late", 2)
    assert heard["agreed"] == []
    agreed = promise.after_move(one, None, True, "")
    assert (agreed.standing, agreed.version) == ("promised", 3) and heard["agreed"] == [one.pk]
    one.begins = None
    assert promise.after_move(one, None, True, "").version == 3


@pytest.fixture
def several(base, crew, next_week):
    def put(site, **more):
        told = {"week": next_week, "minutes": 90, "site": base["sites"][site]}
        return Appointment.objects.create(**{**told, **more})

    on = {"on": next_week + 4 * DAY, "member": crew[0], "begins": 480}
    return [
        put(0, **on, latest_on=next_week + WEEK - DAY), put(1, latest_on=next_week), put(2, standing="promised", **on),
        put(0, latest_on=next_week - DAY), put(1, week=next_week + WEEK, minutes=30),
    ]  # fmt: skip


def versions(*of):
    return {one.pk: one.version for one in of}


def test_visits_are_put_off_with_what_it_does(several, crew, next_week, today, quarter_of_an_hour):
    placed, kept, bound, late, there = several
    told = shifting.shift(versions(*several), next_week + WEEK + 3 * DAY, today, dry=True)
    # Two of them had their latest day before the week that takes them and were in time till then.
    assert (told.moved, told.stay) == (3, [bound.site.name])
    assert told.past_latest == [placed.site.name, kept.site.name]
    # Three of an hour and a half and one of half an hour, each with its way.
    assert told.hours == 6.0 and told.capacity == pytest.approx(14 * 7.82, abs=0.06) and told.over_days == 0
    placed.refresh_from_db()
    assert placed.week == next_week and placed.version == 1
    shifting.shift(versions(*several), next_week + WEEK, today, dry=False)
    for one in (placed, kept, late):
        one.refresh_from_db()
        assert (one.week, one.on, one.member, one.begins) == (next_week + WEEK, None, None, None)
        assert (one.standing, one.version) == ("kept", 2)
    for one in (bound, there):
        one.refresh_from_db()
        assert one.version == 1 and one.standing != "kept"


def test_what_is_closed_all_of_that_week_is_told_before_it_is_put_there(several, next_week, today):
    placed, kept, *_ = several
    week = next_week + WEEK
    Closed.objects.create(site=placed.site, first_on=week, last_on=week + 5 * DAY, why="painters")
    Closed.objects.create(site=kept.site, first_on=week - 30 * DAY, last_on=week + 6 * DAY, why="let to guests")

    def closed(now):
        return shifting.shift(versions(placed, kept), week, now, dry=True).closed

    assert closed(today) == [kept.site.name]
    Closed.objects.create(site=placed.site, first_on=week + 6 * DAY, last_on=week + 6 * DAY, why="painters")
    assert closed(today) == sorted([kept.site.name, placed.site.name])
    # Of a week that has begun the days to come count.
    Closed.objects.filter(site=placed.site, first_on=week).update(first_on=week + 3 * DAY)
    assert closed(today) == [kept.site.name] and closed(week + 3 * DAY) == sorted([kept.site.name, placed.site.name])
    told = rounds.cost(kept.pk, rounds.Target(week))
    assert told.faults == [f"{kept.site.name} is closed all that week"] and not told.refused
    with pytest.raises(Conflict, match="closed all that week"):
        rounds.move(kept.pk, rounds.Target(week), kept.version, override=False)
    assert rounds.cost(kept.pk, rounds.Target(week + WEEK)).faults == []


def test_a_week_that_has_begun_has_the_days_that_are_left(several, next_week, quarter_of_an_hour):
    told = shifting.shift(versions(several[4]), next_week, next_week + 3 * DAY, dry=True)
    assert told.capacity == pytest.approx(8 * 7.82, abs=0.06) and told.hours == 7.8


@pytest.mark.parametrize(("number", "fine"), [(0, False), (1, True), (300, True), (301, False)])
def test_as_many_are_put_off_as_are_listed_at_once(base, crew, next_week, today, number, fine):
    made = Appointment.objects.bulk_create(
        Appointment(site=base["sites"][0], week=next_week, minutes=60) for _ in range(number)
    )
    if fine:
        assert shifting.shift(versions(*made), next_week + WEEK, today, dry=True).moved == number
    else:
        with pytest.raises(Invalid, match="1 to 300 visits"):
            shifting.shift(versions(*made), next_week + WEEK, today, dry=True)


def test_a_shift_into_a_past_week_or_of_what_was_moved_is_refused(several, next_week, today):
    shifting.shift(versions(several[0]), week_of(today), today, dry=True)
    with pytest.raises(Invalid, match="is past"):
        shifting.shift(versions(several[0]), week_of(today) - DAY, today, dry=True)
    with pytest.raises(Conflict):
        shifting.shift({several[0].pk: 2}, next_week + WEEK, today, dry=True)
    Appointment.objects.filter(pk=several[1].pk).update(standing="done")
    with pytest.raises(Conflict):
        shifting.shift(versions(*several[:2]), next_week + WEEK, today, dry=True)


def test_a_visit_is_done_when_the_last_of_its_heaters_was(base, crew, today):
    first, second = base["heaters"][0], base["heaters"][3]
    assert first.site_id == second.site_id

    def put(**more):
        told = {"site": first.site, "week": week_of(today), "on": today, "member": crew[0], "begins": 480}
        made = Appointment.objects.create(**{**told, "minutes": 60, **more})
        for heater in (first, second):
            made.services.create(heater=heater, component="sediment", method="drain_and_pulse", hours=1)
        return made

    mine, tomorrow = put(), put(on=today + DAY)
    Visit.objects.create(client_id="11111111-1111-1111-1111-111111111111", heater=first, on=today)
    Visit.objects.create(client_id="11111111-1111-1111-1111-111111111112", heater=second, on=today - DAY)

    def states():
        done.complete_appointment(first.pk, today)
        return [(one.standing, one.version) for one in Appointment.objects.order_by("pk")]

    assert states() == [("planned", 1), ("planned", 1)]
    Visit.objects.create(client_id="11111111-1111-1111-1111-111111111113", heater=second, on=today)
    assert states() == [("done", 2), ("planned", 1)] == states()
    assert {mine.pk, tomorrow.pk} == set(Appointment.objects.values_list("pk", flat=True))


def test_what_was_asked_for_is_done_once_somebody_was_there(base, crew, today):
    """A complaint at which nothing is due: any heater of its house, on its day."""
    heater = base["heaters"][0]
    there = {"minutes": 60, "asked_minutes": 60, "week": week_of(today), "member": crew[0], "begins": 480}
    asked, tomorrow, elsewhere = (
        Appointment.objects.create(site=site, on=on, **there)
        for site, on in ((heater.site, today), (heater.site, today + DAY), (base["sites"][1], today))
    )
    assert elsewhere.site != heater.site
    Visit.objects.create(client_id="11111111-1111-1111-1111-111111111114", heater=heater, on=today)
    done.complete_appointment(heater.pk, today)
    stand = dict(Appointment.objects.values_list("pk", "standing"))
    assert stand == {asked.pk: "done", tomorrow.pk: "planned", elsewhere.pk: "planned"}


def test_what_was_due_is_done_on_whatever_day_somebody_did_it(base, crew, today):
    """Yesterday's visit that was done today, and this week's that had no day; not what waits for a promised day, what
    somebody asked for, nor what was only looked at in part."""
    heater, other = base["heaters"][0], base["heaters"][1]
    week = week_of(today)
    day = {"on": today - WEEK, "week": week - WEEK, "member": crew[0], "begins": 480}

    def put(heater, components=("sediment",), **told):
        made = Appointment.objects.create(site=heater.site, minutes=60, **{"week": week, **told})
        for component in components:
            made.services.create(heater=heater, component=component, method="drain_and_pulse", hours=1)
        return made

    late, without = put(heater, **day), put(heater)
    broken_promise = put(heater, **day | {"standing": "promised", "earliest": 480, "latest": 600})
    stays = [
        put(heater, on=today + DAY, week=week_of(today + DAY), member=crew[0], begins=480, standing="promised"),
        put(heater, week=week + WEEK),
        put(heater, asked_minutes=30, **day),
        put(heater, ("sediment", "anode"), **day),
        put(other, **day),
    ]
    visit = Visit.objects.create(client_id="11111111-1111-1111-1111-111111111115", heater=heater, on=today)
    done.complete_appointment(heater.pk, today)
    assert set(Appointment.objects.values_list("standing", flat=True)) == {"planned", "promised"}
    # Of the year before, and of another component.
    for on, task in ((today - 60 * DAY, "flush"), (today, "anode_inspection")):
        Finding.objects.create(visit=visit, heater=heater, on=on, task=task, sequence=(today - on).days)
    done.complete_appointment(heater.pk, today)
    assert not Appointment.objects.filter(standing="done").exists()
    Finding.objects.create(visit=visit, heater=heater, on=today, task="flush", sequence=1)
    done.complete_appointment(heater.pk, today)
    # Both tasks of the one with a rod were found by now.
    finished = set(Appointment.objects.filter(standing="done").values_list("pk", flat=True))
    assert finished == {late.pk, without.pk, broken_promise.pk, stays.pop(3).pk}
    assert not Appointment.objects.filter(pk__in=[one.pk for one in stays], standing="done").exists()


@pytest.mark.parametrize(("fault", "says"), [
    (Fault(Breach.HOURS, 0, None, 25), "Technician is back 25 min after the day's end"),
    (Fault(Breach.LUNCH, 0, None, 12), "Technician's lunch is 12 min late"),
    (Fault(Breach.PROMISE, 0, 0, 7), "the promise to Site 1 is missed by 7 min"),
    (Fault(Breach.PEOPLE, 0, 0, 0), "Site 1 takes two, and Technician goes alone"),
    (Fault(Breach.ABILITY, 0, 0, 0), "Site 1 takes electrical, jetting lance, which Technician has not"),
])  # fmt: skip
def test_what_a_plan_would_break_is_told_in_words(base, crew, next_week, fault, says):
    Appointment.objects.create(
        site=base["sites"][0], week=next_week, on=next_week, member=crew[0], begins=480, minutes=60,
        earliest=470, latest=500, standing="promised", needs=["gas", "jetting lance", "electrical"],
    )  # fmt: skip
    assert rounds.fault_words(board.read(next_week, next_week), fault) == says


def test_who_would_wait_for_another_day_is_told_so(base, crew, next_week):
    one = Appointment.objects.create(
        site=base["sites"][0], week=next_week, on=next_week, member=crew[0], begins=480, minutes=60, standing="kept"
    )
    found = board.read(next_week, next_week)
    waits, hardly = (Fault(Breach.HOURS, 0, None, minutes) for minutes in (720, 719))
    day = f"{next_week.day} {next_week:%B}"
    assert rounds.fault_words(found, waits, one) == f"the promise to Site 1 is of {day}"
    assert rounds.fault_words(found, hardly, one) == "Technician is back 719 min after the day's end"
    one.standing = "planned"
    assert rounds.fault_words(found, waits, one) == "Site 1 is closed on that day"
    assert rounds.fault_words(found, waits) == "Technician is back 720 min after the day's end"
    found.appointments[0].on, found.appointments[0].earliest = next_week + DAY, 480
    tomorrow = next_week + DAY
    missed = Fault(Breach.PROMISE, 0, 0, 5)
    assert rounds.fault_words(found, missed) == f"the promise to Site 1 is of {tomorrow.day} {tomorrow:%B}"
    found.appointments[0].earliest = None
    assert rounds.fault_words(found, missed) == "Site 1 is closed on that day"

"""How long visits took: by a device's taps, and what is learned from many of them, counted by hand."""

import datetime
import uuid

import pytest

from aquifer.core.planning.hours import ASSUMED, Work
from aquifer.core.vocabulary import Component, Method
from aquifer.rounds import booking, work
from aquifer.visits import hours
from aquifer.visits.models import Finding, LearnedHours, Visit
from tests.conftest import VALVE, visit
from tests.visits.devices import Device

AT = {one: number for number, one in enumerate(Work)}


def kept(heater, days_ago, minutes, *tasks, who="Ada", began=None, ending="", **more):
    on = datetime.date.today() - datetime.timedelta(days=days_ago)
    made = Visit.objects.create(
        client_id=uuid.uuid4(), heater=heater, on=on, technician=who, minutes=minutes, began_at=began, ending=ending
    )
    for sequence, task in enumerate(tasks):
        Finding.objects.create(visit=made, heater=heater, on=on, task=task, sequence=sequence, **more)
    return made


def read():
    return hours.read(datetime.date.today())


def done(timed):
    """Of each visit, its minutes and what was done."""
    rows = zip(timed.taken.hours.tolist(), timed.taken.work.tolist(), strict=True)
    return sorted(
        (round(60 * took), {one for one, at in AT.items() if row[at]} - {Work.ARRIVING}) for took, row in rows
    )


class TestByItsTaps:
    @pytest.fixture
    def phone(self, as_role, forecasted):
        return Device(as_role("technician"), forecasted["heaters"][0])

    def record(self, phone):
        assert phone.client.post("visits", visit(phone.heater.pk, VALVE, client_id=phone.visit)).status_code == 201
        return Visit.objects.get()

    def test_a_visit_took_from_its_first_tap_to_its_last(self, phone):
        phone.says(*[phone.tap() for _ in range(33)])
        recorded = self.record(phone)
        assert recorded.minutes == 32
        assert recorded.began_at == datetime.datetime(2026, 11, 25, 9, 1, tzinfo=datetime.UTC)

    def test_a_pause_is_left_out_and_a_wait_is_not(self, phone):
        taps = [phone.tap()]
        phone.seconds += 3600  # a tank drains
        taps.append(phone.tap())
        phone.seconds += 3 * 3600  # somebody fetches a part
        taps += [phone.tap(), phone.tap()]
        phone.says(*taps)
        assert self.record(phone).minutes == 61 + 1

    def test_what_was_told_at_once_tells_nothing_of_it(self, phone):
        phone.says(*[phone.tap() for _ in range(5)])
        recorded = self.record(phone)
        assert (recorded.minutes, recorded.began_at) == (None, None)

    def test_of_two_devices_the_longer_counts_by_its_own_clock(self, phone, as_role):
        helper = Device(as_role("lead"), phone.heater, phone.visit)
        phone.says(*[phone.tap() for _ in range(13)])
        helper.seconds = 9 * 3600  # its clock is hours off
        helper.says(*[helper.tap() for _ in range(26)])
        assert self.record(phone).minutes == 25

    def test_without_taps_nobody_knows(self, phone):
        assert self.record(phone).minutes is None


def test_what_was_done_in_one_house_on_one_day_is_one_visit(base):
    one, two = base["heaters"][0], base["heaters"][3]  # of one site
    assert one.site_id == two.site_id
    kept(one, 10, 50, "flush", "anode_inspection")
    kept(two, 10, 40, "descale")
    kept(one, 10, 30, "relief_valve_exercise", who="Bo")
    kept(one, 40, 25, "relief_valve_exercise", "relief_valve_replacement")
    assert done(read()) == [
        (25, {Work.RELIEF_VALVE, Work.NEW_RELIEF_VALVE}),
        (30, {Work.RELIEF_VALVE}),
        (90, {Work.FLUSH, Work.ROD, Work.DESCALE}),
    ]
    assert set(read().taken.person.tolist()) == {0, 1}
    assert (read().taken.work[:, AT[Work.ARRIVING]] == 1).all()


def test_two_heaters_served_at_once_are_counted_once(base):
    one, two = base["heaters"][0], base["heaters"][3]
    nine = datetime.datetime(2026, 3, 2, 9, tzinfo=datetime.UTC)
    kept(one, 10, 60, "flush", began=nine)
    kept(two, 10, 50, "descale", began=nine + datetime.timedelta(minutes=40))
    kept(one, 11, 60, "flush", began=nine)
    kept(two, 11, 20, "descale", began=nine + datetime.timedelta(minutes=20))
    kept(one, 12, 60, "flush", began=nine)
    kept(two, 12, 20, "descale", began=nine + datetime.timedelta(minutes=90))
    assert [minutes for minutes, _ in done(read())] == [60, 80, 90]


def test_who_renews_has_looked_and_a_slow_way_is_told_apart(base):
    heater = base["heaters"][0]
    kept(heater, 5, 60, "anode_replacement")
    kept(heater, 6, 90, "flush", method="jetting")
    kept(heater, 7, 95, "flush", method="acid_soak")
    kept(heater, 8, 55, "flush", method="drain_and_pulse")
    assert [works for _, works in done(read())] == [
        {Work.FLUSH}, {Work.ROD, Work.NEW_ROD}, {Work.FLUSH, Work.SLOW_FLUSH}, {Work.FLUSH, Work.SLOW_FLUSH},
    ]  # fmt: skip


def test_what_tells_nothing_of_the_work_is_left_out(base):
    heater = base["heaters"][0]
    kept(heater, 5, None, "flush")
    kept(heater, 6, 4, "flush")
    kept(heater, 7, 601, "flush")
    kept(heater, 800, 60, "flush")
    kept(heater, -3, 60, "flush")
    kept(heater, 8, 60, "look_over")
    kept(heater, 9, 60, "anode_inspection", could_not_open=True)
    kept(heater, 10, 5, "flush")
    kept(heater, 11, 600, "flush")
    kept(heater, 13, 80, "anode_inspection", ending="no_time")
    wrong = kept(heater, 12, 70, "anode_inspection")
    Finding.objects.create(
        visit=wrong, heater=heater, on=wrong.on, task="relief_valve_exercise", sequence=1, corrects=wrong.findings.get()
    )
    assert done(read()) == [(5, {Work.FLUSH}), (70, {Work.RELIEF_VALVE}), (600, {Work.FLUSH})]


def test_only_the_latest_are_asked(base, monkeypatch):
    monkeypatch.setattr(hours, "MOST_VISITS", 2)
    for days, minutes in ((3, 63), (1, 61), (2, 62)):
        kept(base["heaters"][0], days, minutes, "flush")
    assert [minutes for minutes, _ in done(read())] == [61, 62]


def test_nights_learn_and_what_is_planned_follows(forecasted):
    today = datetime.date.today()
    heater = forecasted["heaters"][0]
    assert hours.in_force() is ASSUMED
    assert hours.renew(today) == 0 and not LearnedHours.objects.exists()

    def wanted():
        due = work.due_at(heater.site_id, today + datetime.timedelta(days=1095))
        (one,) = [one for one in due if one.heater_id == heater.pk and one.component is Component.SEDIMENT]
        return one

    assert (wanted().method, wanted().hours) == (Method.ACID_SOAK, 1.5)
    assert booking.arriving_minutes() == 18
    for days in range(60):
        kept(heater, days + 1, 150, "flush")
    assert hours.renew(today) == 60
    learned = hours.in_force()
    assert learned.arriving + learned.of(Component.SEDIMENT) == pytest.approx(2.5, rel=0.05)
    assert wanted().hours == learned.of(Component.SEDIMENT, Method.ACID_SOAK)
    assert wanted().hours > 1.9
    assert booking.arriving_minutes() == round(60 * learned.arriving) > 18
    # What was learned before is dropped.
    assert hours.renew(today) == 60 and LearnedHours.objects.count() == 1


def test_what_a_later_program_learned_besides_is_passed_over(db):
    from django.utils import timezone

    LearnedHours.objects.create(
        computed_at=timezone.now(), of_work={"flush": 1.5, "painting": 2}, renewed={"new_rod": 0.5, "painting": 1},
        spread=0.25,
    )  # fmt: skip
    told = hours.in_force()
    assert told.of(Component.SEDIMENT) == 1.5 and told.of(Component.ANODE) == 0.5 + 0.5 * 0.25
    assert told.spread == 0.25 and set(told.of_work) == set(Work)

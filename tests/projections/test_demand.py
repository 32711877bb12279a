"""What came by the month over HTTP: counted, carried on by the job, held against what came, and warned of."""

import csv
import datetime
import io

import pytest
from django.utils import timezone

from aquifer.company.clock import week_of
from aquifer.core.demand import Fan
from aquifer.projections import demand, tasks
from aquifer.projections.amounts import TRAVEL_HOURS
from aquifer.projections.models import MonthsAhead, Projection, ProjectionState
from aquifer.rounds.models import Appointment, AppointmentStatus, CrewMember, Reason
from tests.conftest import FLUSH, VALVE, visit

TODAY = datetime.date.today()
THIS_MONTH = TODAY.replace(day=1)


def came(site, on, reason=Reason.EMERGENCY, standing=AppointmentStatus.DONE, minutes=60, member=None):
    return Appointment.objects.create(
        site=site, week=week_of(on), on=on, reason=reason, standing=standing, minutes=minutes, member=member,
        begins=None if member is None else 540,
    )  # fmt: skip


@pytest.fixture
def member(people):
    return CrewMember.objects.create(user=people["technician"], weekdays=[0, 1, 2, 3, 4])


@pytest.fixture
def three_years(base, member):
    """Two emergencies a month, three in winter."""
    for back in range(1, 38):
        month = demand.later(THIS_MONTH, -back)
        for day in range(3 if month.month in (12, 1, 2) else 2):
            came(base["sites"][0], month + datetime.timedelta(days=3 + day), member=member)
    return base["sites"][0]


def of(told, kind):
    return next(one for one in told["kinds"] if one["kind"] == kind)


def test_what_came_is_counted_by_the_month_from_the_second_on(three_years, member):
    found = demand.reckon(TODAY)
    calls = of(found, "calls")
    assert calls["first"] == demand.later(THIS_MONTH, -36).isoformat() and len(calls["counts"]) == 36
    winters = [month for month in range(36) if demand.later(THIS_MONTH, month - 36).month in (12, 1, 2)]
    assert [month for month, n in enumerate(calls["counts"]) if n == 3] == winters
    assert set(calls["counts"]) == {2, 3} and len(calls["months"]) == 12
    # What never came has no line, nor has a month that is not over.
    assert {one["kind"] for one in found["kinds"]} == {"calls", "emergencies"}
    came(three_years, TODAY, member=member)
    assert of(demand.reckon(TODAY), "calls")["counts"] == calls["counts"]


def test_each_reason_is_of_its_kind_and_what_was_called_off_of_none(three_years, member):
    month = demand.later(THIS_MONTH, -1) + datetime.timedelta(days=9)
    before = of(demand.reckon(TODAY), "calls")["counts"][-1]
    for reason in (Reason.COMPLAINT, Reason.CALL_BACK, Reason.WARRANTY, Reason.ESTIMATE, Reason.DUE):
        for back in (0, 40):
            came(three_years, month - datetime.timedelta(days=back), reason, member=member)
    came(three_years, month, Reason.EMERGENCY, AppointmentStatus.CALLED_OFF)
    found = demand.reckon(TODAY)
    assert of(found, "calls")["counts"][-1] == before + 2
    last = {kind: of(found, kind)["counts"][-1] for kind in ("complaints", "call_backs", "new_work")}
    assert last == {"complaints": 1, "call_backs": 2, "new_work": 1}


def test_visits_of_one_day_at_one_site_are_one(as_role, forecasted):
    technician, on = as_role("technician"), demand.later(THIS_MONTH, -1) + datetime.timedelta(days=4)
    first = forecasted["heaters"][0]
    second = next(one for one in forecasted["heaters"][1:] if one.site_id == first.site_id)
    for heater, done, days in ((first, FLUSH, 60), (first, FLUSH, 0), (second, VALVE, 0)):
        body = visit(heater.pk, done, on=(on - datetime.timedelta(days=days)).isoformat())
        answer = technician.post("visits", body)
        assert answer.status_code == 201, answer.json()
    found = demand.reckon(TODAY)
    assert (of(found, "visits")["counts"][-1], of(found, "flushes")["counts"][-1]) == (1, 1)


def test_the_lead_has_it_reckoned_and_everybody_reads_it(as_role, three_years):
    lead, technician = as_role("lead"), as_role("technician")
    assert technician.get("demand").json()["reckoned_on"] is None
    assert technician.post("demand").status_code == 403
    assert lead.post("demand").status_code == 202
    for _ in range(2):
        tasks.reckon_months.func()
    assert MonthsAhead.objects.count() == 1
    told = technician.get("demand").json()
    assert told["reckoned_on"] == TODAY.isoformat() and told["first"] == THIS_MONTH.isoformat()
    calls = of(told, "calls")
    assert calls["year"]["low"] < 27 < calls["year"]["high"] and calls["by_the_base"] is None
    Projection.objects.create(
        asked_on=TODAY, years=2, state=ProjectionState.READY, found={"series": {"calls": [[50, 0], [61, 0], [70, 0]]}}
    )
    assert of(technician.get("demand").json(), "calls")["agree"] is False
    assert of(technician.get("demand").json(), "calls")["by_the_base"] == {"low": 50, "middle": 61, "high": 70}
    table = list(csv.DictReader(io.StringIO(technician.get("demand.csv").content.decode("utf-8-sig"))))
    mine = [row for row in table if row["kind"] == "calls"]
    assert len(mine) == 36 + 12 and mine[0]["came"] and not mine[0]["low"] and mine[-1]["high"]
    assert mine[35]["month"] < mine[36]["month"] == THIS_MONTH.isoformat()[:7]


def test_hours_of_a_month_are_the_crews_the_plans_and_what_calls_take(as_role, three_years, member):
    tasks.reckon_months.func()
    month = demand.later(THIS_MONTH, 2)
    before = as_role("lead").get("demand").json()["hours"]
    assert [one["month"] for one in before] == [demand.later(THIS_MONTH, n).isoformat() for n in range(4)]
    assert before[2]["planned"] == 0 and before[2]["short"] < 0.01
    workdays = sum(
        (month + datetime.timedelta(days=n)).weekday() < 5 for n in range((demand.later(month, 1) - month).days)
    )
    # By the day that the crew's own page shows: nine hours less lunch, of which a part is left free.
    assert before[2]["crew"] == pytest.approx(workdays * demand.crew.Working(member, month, frozenset()).hours, abs=0.1)
    inside = month + datetime.timedelta(days=10)
    came(three_years, inside, Reason.DUE, AppointmentStatus.PLANNED, 600, member)
    came(three_years, inside, Reason.DUE, AppointmentStatus.CALLED_OFF, 600)
    Appointment.objects.create(site=three_years, week=week_of(inside), minutes=300)
    after = as_role("lead").get("demand").json()["hours"][2]
    assert after["planned"] == pytest.approx(15 + 2 * TRAVEL_HOURS, abs=0.06)
    for _ in range(round(before[2]["crew"] / (10 + TRAVEL_HOURS)) + 1):
        came(three_years, inside, Reason.DUE, AppointmentStatus.PLANNED, 600, member)
    full = as_role("lead").get("demand").json()["hours"][2]
    assert full["short"] > 0.9 and (before[2]["so"], full["so"]) == ("fits", "sure")
    assert after["call_hours"] == pytest.approx(1.0 + 0.3 + 0.35, abs=0.01)


@pytest.mark.parametrize(
    ("hours", "short", "so"),
    [(0, 1.0, "nobody"), (9, 0.09, "fits"), (9, 0.1, "may_be"), (9, 0.5, "likely"), (9, 0.94, "likely"),
     (9, 0.95, "sure")],
)  # fmt: skip
def test_a_months_hours_are_told_in_a_word(hours, short, so):
    assert demand._shortness(hours, short) == so


def test_record_and_heaters_agree_if_they_have_anything_in_common():
    year = {"low": 10, "middle": 12, "high": 15}
    told = [
        demand.agree(year, {"low": low, "middle": low, "high": high}) for low, high in ((15, 20), (16, 20), (2, 9.9))
    ]
    assert told == [True, False, False]


def test_a_month_that_has_begun_counts_with_its_rest(three_years, member):
    half = THIS_MONTH + datetime.timedelta(days=15)
    found = {"first": THIS_MONTH.isoformat(), "kinds": [
        {"kind": "calls", "months": [{"low": 8, "middle": 12, "high": 16}] * 12}]}  # fmt: skip
    days = (demand.later(THIS_MONTH, 1) - THIS_MONTH).days
    share = (days - 15) / days
    told = demand.hours(found, half)[0]["calls"]
    assert told == {"low": round(8 * share), "middle": round(12 * share), "high": round(16 * share)}
    # Told two months ago, it is the third of its months.
    found["kinds"][0]["months"] = [{"low": n, "middle": n, "high": n} for n in range(12)]
    assert demand.hours(found, demand.later(THIS_MONTH, 2))[0]["calls"]["middle"] == 2
    assert demand.hours(found, demand.later(THIS_MONTH, 11))[1]["calls"]["high"] == 0


def test_months_that_were_told_are_held_against_what_came(as_role, three_years):
    then = demand.later(THIS_MONTH, -4)
    wide, narrow = Fan(0, 2, 9), Fan(7, 8, 9)
    kinds = [{"kind": "calls", "months": [vars(fan) for fan in (wide, wide, narrow, wide, narrow)]},
             {"kind": "descales", "months": [vars(wide)]}]  # fmt: skip
    MonthsAhead.objects.create(reckoned_on=then, found={"first": then.isoformat(), "kinds": kinds})
    # Four of its months are over, of which three lay inside; of descales nothing is on record.
    assert demand.held(timezone.localdate()) == {"inside": 3, "of": 4}

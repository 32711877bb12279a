"""What the owner is told to do once a year fits the heater, and leaves alone what practitioners leave alone."""

import datetime
from urllib.parse import urlsplit

import pytest
from django.test import Client
from django.utils import timezone
from icalendar import Calendar

from aquifer.heaters.models import Part, PartKind
from aquifer.places.models import Feature
from aquifer.visiting import owners_calendar, owners_drawings, owners_year, report
from aquifer.visits.models import Visit
from tests.conftest import FLUSH, visit

ON = datetime.date(2026, 11, 24)


def year(heater, tried="flows_and_reseats", *features):
    parts = {PartKind(one.kind): one for one in Part.objects.filter(heater=heater, removed_on=None)}
    return [task.says for task in owners_year.tasks(heater, parts, features, tried, ON)]


def seen(heater, kind, condition, **more):
    return Feature(site=heater.site, heater=heater, kind=kind, condition=condition, seen_on=ON, **more)


@pytest.fixture
def tank(forecasted):
    heater = forecasted["heaters"][0]
    heater.installed_on = ON - datetime.timedelta(days=300)
    return heater


def test_a_young_tank_with_all_in_order_has_its_four_tasks(tank):
    Part.objects.create(heater=tank, kind="expansion_tank")
    first, *tasks = year(tank, "flows_and_reseats", seen(tank, "discharge_pipe", "sound"))
    assert first.startswith("Each November")
    assert [one.partition(":")[0] for one in tasks] == ["Expansion tank", "Safety valve", "Tank", "Pressure"]


@pytest.mark.parametrize(
    ("tried", "pipe", "old"),
    [("", "sound", False), ("flows_and_weeps", "sound", False), ("flows_and_reseats", "ends_indoors", False),
     ("flows_and_reseats", None, False), ("flows_and_reseats", "sound", True)],
)  # fmt: skip
def test_the_lever_is_left_alone_unless_all_speaks_for_it(tank, tried, pipe, old):
    if old:
        tank.installed_on = ON - datetime.timedelta(days=365 * 9)
    told = year(tank, tried, *([seen(tank, "discharge_pipe", pipe)] if pipe else []))
    assert any(one.startswith("Leave the lever of the safety valve alone") for one in told)
    assert not any("lift the lever" in one for one in told)


def test_a_drain_that_may_not_shut_again_is_left_shut_and_a_tankless_has_none(tank, forecasted):
    for drain in (seen(tank, "tank_drain", "brittle"), seen(tank, "tank_drain", "sound", do_not_operate=True)):
        assert any("Leave the tank's drain shut" in one for one in year(tank, "", drain))
    parts = {PartKind(one.kind): one for one in Part.objects.filter(heater=tank, removed_on=None)}
    told = owners_year.tasks(tank, parts, [seen(tank, "tank_drain", "sound")], "", ON, leave_tank=True)
    assert any("Leave the tank's drain shut" in task.says for task in told)
    tankless = next(one for one in forecasted["heaters"] if one.kind == "gas_tankless")
    assert not any("drain" in one for one in year(tankless))
    assert not any("Expansion tank" in one for one in year(tankless))


def ink(drawing):
    """Which lines and shapes it has, and where."""
    at = ("x", "y", "x1", "y1", "x2", "y2", "cx", "cy")
    return {(type(one).__name__, *(round(getattr(one, name, 0), 1) for name in at)) for one in drawing.contents}


def test_each_task_is_drawn_and_no_two_alike(tank):
    drawn = {picture: ink(owners_drawings.drawn(picture)) for picture in owners_year.Picture}
    assert all(len(lines) >= 4 for lines in drawn.values())
    assert len({frozenset(lines) for lines in drawn.values()}) == len(drawn)
    # Nothing is drawn outside of its place in the report.
    for picture in owners_year.Picture:
        left, low, right, high = owners_drawings.drawn(picture).getBounds()
        assert left >= 0 and low >= 0, picture
        assert right <= owners_drawings.WIDTH + 1 and high <= owners_drawings.HEIGHT + 1, picture
    left_alone = owners_year.tasks(tank, {}, [seen(tank, "tank_drain", "brittle")], "", ON)
    assert [task.picture for task in left_alone] == [
        None, owners_year.Picture.PIPE_END, owners_year.Picture.DRAIN_SHUT, owners_year.Picture.GAUGE,
    ]  # fmt: skip


def test_an_owner_is_reminded_once_a_year_by_their_own_calendar(as_role, tank):
    assert as_role("technician").post("visits", visit(tank.pk, FLUSH)).status_code == 201
    one = Visit.objects.get()
    address = urlsplit(owners_calendar.address(one)).path
    answer = Client().get(address)
    assert answer.status_code == 200 and answer["Content-Type"].startswith("text/calendar")
    (event,) = Calendar.from_ical(answer.content).walk("VEVENT")
    assert event.decoded("dtstart") == one.on.replace(year=one.on.year + 1)
    assert event["rrule"] == {"FREQ": ["YEARLY"]}
    for task in report.year(one):
        assert task.says in event["description"]
    assert [alarm["action"] for alarm in event.walk("VALARM")] == ["DISPLAY"]
    # It names nobody, opens nothing else, and ends with the heater.
    assert tank.site.customer.name not in answer.content.decode()
    assert Client().get(address.replace("/year/", "/")).status_code == 404
    assert Client().get(address[:-8] + "x.ics").status_code == 404
    tank.archived_at = timezone.now()
    tank.save()
    assert Client().get(address).status_code == 404
    # A link stands beside the packed pages, in plain bytes.
    assert b"/calendar/year/" in report.pdf(one)


def test_who_was_here_on_a_leap_day_is_reminded_on_the_day_before():
    assert owners_calendar.a_year_on(datetime.date(2028, 2, 29)) == datetime.date(2029, 2, 28)

"""What the owner is told to do once a year fits the heater, and leaves alone what practitioners leave alone."""

import datetime

import pytest

from aquifer.heaters.models import Part, PartKind
from aquifer.places.models import Feature
from aquifer.visiting import owners_year

ON = datetime.date(2026, 11, 24)


def year(heater, tried="flows_and_reseats", *features):
    parts = {PartKind(one.kind): one for one in Part.objects.filter(heater=heater, removed_on=None)}
    return owners_year.tasks(heater, parts, features, tried, ON)


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
    assert any("Leave the tank's drain shut" in one for one in told)
    tankless = next(one for one in forecasted["heaters"] if one.kind == "gas_tankless")
    assert not any("drain" in one for one in year(tankless))
    assert not any("Expansion tank" in one for one in year(tankless))

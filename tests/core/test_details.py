"""What else can be told: refused with what is allowed, worded, and what it asks of whoever comes."""

import pytest

from aquifer.core import details
from aquifer.core.equipment import parts_of
from aquifer.core.kinds import HeaterKind
from aquifer.core.place import FeatureKind
from aquifer.core.units import METRIC, HardnessUnit, System, worded
from aquifer.core.units import table as units_table

US = units_table(System.US, HardnessUnit.GPG)

TANK = details.of_heater(HeaterKind.GAS_TANK)


@pytest.mark.parametrize(
    ("values", "wrong"),
    [
        ({"insulation_mm": 0, "lining": "glass", "nearest_tap": "laundry"}, {}),
        ({"insulation_mm": 900}, {"insulation_mm": "900 is no number between 0 and 200"}),
        ({"insulation_mm": "thick"}, {"insulation_mm": "'thick' is no number between 0 and 200"}),
        ({"insulation_mm": True}, {"insulation_mm": "True is no number between 0 and 200"}),
        ({"lining": "gold"}, {"lining": "'gold' is none of: glass, stainless, copper, plastic"}),
        ({"nearest_tap": 3}, {"nearest_tap": "3 is no word"}),
        ({"repairs": "x" * 121}, {"repairs": "longer than 120 letters"}),
    ],
)
def test_what_cannot_be_so_is_refused_with_what_is_allowed(values, wrong):
    assert details.refused(TANK, values) == wrong


def test_what_nobody_asks_of_such_a_thing_is_refused_by_name():
    (said,) = details.refused(details.of_heater(HeaterKind.ELECTRIC_TANKLESS), {"lining": "glass"}).values()
    assert said.startswith("no such detail; allowed: nearest_tap, ")
    assert details.refused(details.of_part("exchanger"), {"grip": "slot"}) == {"grip": "no such detail; allowed: none"}


def test_figures_are_told_in_the_units_of_the_company():
    pipe = details.of_feature(FeatureKind.DISCHARGE_PIPE)
    assert worded(details.worded(pipe, {"end_mm": 150})[0], US) == "its end above the floor 5.91 in"
    assert details.to_know(pipe, {"end_mm": 150}) == []
    (said,) = details.to_know(pipe, {"end_mm": 600})
    assert worded(said, METRIC) == "The discharge pipe ends 600 mm above the floor; 150 mm is usual."


def test_a_detail_asks_something_only_where_it_is_wrong():
    drain = details.of_part("drain_valve")
    assert details.to_know(drain, {"grip": "handle", "cap": "fitted"}) == []
    assert details.to_know(drain, {"grip": "slot", "cap": "none"}) == [
        "The drain is turned by its slot: bring a flat screwdriver.", "The drain has no cap: bring one.",
    ]  # fmt: skip


def test_every_part_with_details_is_one_that_some_heater_can_have():
    can_have = {part for kind in HeaterKind for part in parts_of(kind)}
    assert set(details.OF_PART) <= can_have


def test_names_are_once_in_each_table_and_figures_have_bounds():
    tables = [details.OF_HEATER, *details.OF_PART.values(), *details.OF_FEATURE.values()]
    for table in tables:
        assert len({one.name for one in table}) == len(table)
        for one in table:
            assert not (one.unit and one.words), one.name
            assert one.high > one.low if one.unit else one.high == one.low == 0, one.name

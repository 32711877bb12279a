"""What a new heater asks for that the old one did not, by hand."""

from dataclasses import replace

import pytest

from aquifer.core.kinds import HeaterKind
from aquifer.core.successor import Body, differences

OLD = Body(HeaterKind.GAS_TANK, 189, 11.7, None, 1250, 520, "natural")


def test_like_for_like_asks_for_nothing_and_what_nobody_read_says_nothing():
    assert differences(OLD, replace(OLD, height_mm=1270, capacity_l=195)) == []
    assert differences(Body(HeaterKind.GAS_TANK), OLD) == []


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"height_mm": 1500}, "Taller by {length_mm:250}"),
        ({"diameter_mm": 610}, "Wider by {length_mm:90}"),
        ({"capacity_l": 300}, "size the expansion tank anew"),
        ({"capacity_l": 120}, "{volume_l:69} less"),
        ({"input_kw": 22}, "{power_kw:10.3} more input"),
        ({"vent": "powered"}, "Another vent: powered where natural was."),
        ({"kind": HeaterKind.ELECTRIC_TANK}, "Another fuel"),
        ({"kind": HeaterKind.GAS_TANKLESS}, "Another kind"),
    ],
)
def test_each_difference_is_said_once_with_what_it_asks_for(change, says):
    (told,) = differences(OLD, replace(OLD, **change))
    assert says in told


def test_a_valve_that_passes_less_than_the_new_input_and_another_supply_are_said():
    assert differences(OLD, replace(OLD, input_kw=12), valve_kw=10.0) == [
        "The relief valve passes {power_kw:10}: fit one that passes its input."
    ]
    electric = Body(HeaterKind.ELECTRIC_TANK, supply_v=240)
    assert "never on the old circuit" in differences(electric, replace(electric, supply_v=120))[0]

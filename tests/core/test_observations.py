"""What is looked at: for every kind of heater something, and for everything that is wrong something to do."""

import pytest

from aquifer.core import observations
from aquifer.core.kinds import HeaterKind
from aquifer.core.observations import OBSERVATIONS
from aquifer.core.place import Severity
from aquifer.core.procedures.library import ASKS, library


def test_the_first_look_alone_is_right_and_every_other_says_what_to_do():
    for one in OBSERVATIONS:
        right, *others = one.looks
        assert right.severity is None and not right.advice, one.field
        assert others, one.field
        for look in others:
            assert look.severity is not None and look.advice, (one.field, look.value)
        assert len({look.value for look in one.looks}) == len(one.looks)


def test_a_tank_is_not_asked_for_its_flow_switch_nor_electricity_for_its_flame():
    fields = {kind: {one.field for one in observations.looked_at(kind)} for kind in HeaterKind}
    assert "flow_switch.turns" in fields[HeaterKind.GAS_TANKLESS] - fields[HeaterKind.GAS_TANK]
    assert "flame.look" in fields[HeaterKind.GAS_TANK] - fields[HeaterKind.ELECTRIC_TANK]
    assert "water.first" in fields[HeaterKind.INDIRECT_TANK] - fields[HeaterKind.SMALL_GAS_TANKLESS]
    assert "wiring.state" not in fields[HeaterKind.INDIRECT_TANK]


@pytest.mark.parametrize(
    ("field", "value", "severity", "says"),
    [
        ("relief.outlet", "drips", Severity.DEFECT, "never cap it"),
        ("flame.look", "yellow", Severity.DANGER, "carbon monoxide"),
        ("wiring.state", "scorched", Severity.DANGER, "licensed"),
        ("exchanger.inside", "lumps", Severity.DANGER, "renew the exchanger"),
        ("exchanger.inside", "little_water", Severity.NOTE, "harmless"),
        ("mixing.head", "grease", Severity.DEFECT, "renew the valve"),
    ],
)
def test_how_bad_a_look_is_and_what_to_do(field, value, severity, says):
    told = observations.fault(field, value)
    assert told is not None and told[0] is severity and says in told[1]


def test_what_is_right_and_what_nobody_knows_is_no_fault():
    assert observations.fault("relief.outlet", "dry") is None
    assert observations.fault("relief.outlet", "of another version") is None
    assert observations.fault("no.such", "dry") is None


def test_every_observation_can_be_asked_and_most_are_asked_at_a_step():
    asked = {ask for one in library().procedures.values() for step in one.steps for ask in step.asks}
    seen = {f"seen:{one.field}" for one in OBSERVATIONS}
    assert seen <= ASKS
    assert seen - asked == set()

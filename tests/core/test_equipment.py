"""What is asked of each kind of heater, and what is taken while nobody has answered."""

import pytest

from aquifer.core import equipment
from aquifer.core.kinds import HeaterKind
from aquifer.core.parameters import EXPANSION_TANK, GEOMETRY, SEDIMENT
from aquifer.core.procedures.library import ASKS


def test_a_tankless_heater_is_asked_for_no_anode_and_no_drain_port():
    assert "anode" not in equipment.parts_of(HeaterKind.GAS_TANKLESS)
    assert "drain_port_height_mm" not in equipment.fields_of(HeaterKind.GAS_TANKLESS)
    assert "exchanger_area_m2" in equipment.fields_of(HeaterKind.GAS_TANKLESS)


def test_an_indirect_tank_is_asked_for_its_boiler_and_no_input():
    fields = equipment.fields_of(HeaterKind.INDIRECT_TANK)
    assert "boiler" in fields and "input_kw" not in fields and "burner_hours_per_day" not in fields


@pytest.mark.parametrize("kind", HeaterKind)
def test_every_kind_has_a_relief_valve_and_asks_nothing_twice(kind):
    parts, fields = equipment.parts_of(kind), equipment.fields_of(kind)
    assert "relief_valve" in parts
    assert ("anode" in parts) == kind.is_tank == ("capacity_l" in fields)
    assert len(set(parts)) == len(parts) and len(set(fields)) == len(fields)


def test_elements_are_asked_of_electric_tanks_alone():
    having = {kind for kind in HeaterKind if "lower_element" in equipment.parts_of(kind)}
    assert having == {HeaterKind.ELECTRIC_TANK, HeaterKind.HEAT_PUMP_TANK}


def test_what_is_taken_for_a_tank_follows_its_size():
    small, large = (equipment.assumed(HeaterKind.GAS_TANK, capacity) for capacity in (100.0, 300.0))
    assert small["capacity_l"] == 100
    # Tanks are alike: a width by the cube root of the volume.
    assert large["diameter_mm"] / small["diameter_mm"] == pytest.approx(3 ** (1 / 3), rel=0.01)
    assert small["setpoint_c"] == GEOMETRY.setpoint_c
    assert small["sediment_limit_mm"] == pytest.approx(1000 * SEDIMENT.limit_fired_m)
    assert small["static_pressure_kpa"] == EXPANSION_TANK.usual_pressure_kpa


def test_an_electric_tank_may_hold_more_than_one_fired_from_below():
    electric = equipment.assumed(HeaterKind.ELECTRIC_TANK, None)["sediment_limit_mm"]
    fired = equipment.assumed(HeaterKind.GAS_TANK, None)["sediment_limit_mm"]
    assert electric == pytest.approx(1000 * SEDIMENT.limit_other_m) and electric != fired


def test_nothing_of_a_tank_is_taken_for_a_tankless():
    taken = equipment.assumed(HeaterKind.GAS_TANKLESS, None)
    assert "exchanger_area_m2" in taken and not {"capacity_l", "rod_length_mm", "sediment_limit_mm"} & set(taken)


@pytest.mark.parametrize("kind", list(HeaterKind))
def test_what_is_measured_besides_fits_the_heater_and_is_a_question_of_the_guide(kind):
    measured = set(equipment.measured_of(kind))
    assert measured <= ASKS and "co_ppm" in measured
    burns = kind in {
        HeaterKind.GAS_TANK, HeaterKind.MOBILE_TANK, HeaterKind.GAS_TANKLESS, HeaterKind.CONDENSING_TANKLESS,
        HeaterKind.SMALL_GAS_TANKLESS,
    }  # fmt: skip
    assert ("gas_kpa" in measured) == burns
    assert ("amps" in measured) == (not burns and kind is not HeaterKind.INDIRECT_TANK)
    assert ("gap_mm" in measured) == (kind is HeaterKind.MOBILE_TANK)
    assert ("cells_v" in measured) == (kind is HeaterKind.SMALL_GAS_TANKLESS)
    assert ("drain_min" in measured) != ("fan_rpm" in measured)

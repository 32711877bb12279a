"""One table of kinds: no look-up has a default, and each says of every kind what the rest of the program can do."""

import dataclasses

import pytest

from aquifer.core import equipment, kinds, upkeep
from aquifer.core.fleet import capacity_or_default
from aquifer.core.judgement import rules
from aquifer.core.kinds import KINDS, Fuel, HeaterKind, Kind
from aquifer.core.planning.parts import Fitted, wants
from aquifer.core.planning.preparing import preparation
from aquifer.core.planning.work import licence_of
from aquifer.core.procedures.library import library
from aquifer.core.procedures.sequence import procedures_for
from aquifer.core.procedures.state import LICENCES, as_found, facts_of, fuel_of, ignitions_of, rates_of
from aquifer.core.procedures.visit import steps_of
from aquifer.core.vocabulary import Alloy, Component, FlushMethod, UpkeepItem

EVERY = pytest.mark.parametrize("kind", list(HeaterKind))


def test_a_row_has_no_default_and_a_kind_without_one_is_refused_by_name():
    assert all(one.default is dataclasses.MISSING for one in dataclasses.fields(Kind))
    assert set(KINDS) == set(HeaterKind)


@EVERY
def test_a_row_is_of_what_the_program_knows(kind):
    row = KINDS[kind]
    assert len(set(row.parts)) == len(row.parts) and len(set(row.fields)) == len(row.fields)
    assert row.licence in LICENCES
    assert set(row.upkeep_procedures) <= set(library().procedures)
    assert row.usual_capacity_l > 0 and row.usual_input_kw > 0


@EVERY
def test_a_row_does_not_contradict_itself(kind):
    row = KINDS[kind]
    assert row.is_tank == kind.value.endswith("tank") and row.is_tank == kind.is_tank
    assert row.has_exchanger == (row.has_coil or not row.is_tank)
    assert ("anode" in row.parts) == row.is_tank and ("ignition" in row.fields) == (row.fuel is Fuel.GAS)
    assert (row.licence == "gas") == (row.fuel is Fuel.GAS) and (row.licence == "electrical") == (
        row.fuel is Fuel.ELECTRIC
    )
    assert not row.fired_from_below or (row.is_tank and row.fuel is Fuel.GAS)
    assert bool(row.upkeep_procedures) or set(row.upkeep) <= {UpkeepItem.INLET_SCREEN}
    assert row.usual_capacity_l > 10 if row.is_tank else row.usual_capacity_l < 10


@EVERY
def test_every_look_up_answers_for_every_kind(kind):
    row = KINDS[kind]
    assert equipment.fields_of(kind) and equipment.parts_of(kind) and equipment.assumed(kind, None)
    assert capacity_or_default(kind, None) == row.usual_capacity_l
    assert licence_of(kind) == row.licence and fuel_of(kind) == row.fuel and ignitions_of(kind) == row.ignitions
    assert {one.item for one in upkeep.items(kind, Alloy.NONE)} == set(row.upkeep)
    assert preparation([(kind, Component.RELIEF_VALVE)], 1.0)
    rates = rates_of(row.usual_capacity_l, 1.0, row.usual_input_kw, 12.0)
    state = as_found(kind, rates)
    assert set(state.words["ignition"]) <= {one.value for one in row.ignitions}
    facts = facts_of(kind)
    for component in Component:
        if component is not Component.TANK:
            assert wants(kind, component, 0.5, Fitted())
    for method in FlushMethod:
        due = [Component.SEDIMENT if row.is_tank else Component.SCALE, Component.RELIEF_VALVE]
        names = procedures_for(kind, due, method, upkeep=row.upkeep)
        # What a procedure of another fuel would do has no step here.
        assert set(row.upkeep_procedures) <= set(names) and steps_of(library(), names, facts)
    assert all(callable(table.applies) for table in rules.TABLES)


@EVERY
def test_a_kind_s_own_procedures_are_of_its_fuel(kind):
    facts = facts_of(kind)
    for name in KINDS[kind].upkeep_procedures:
        assert steps_of(library(), [name], facts), f"{name} has no step for a {kind.value}"


def test_a_column_is_asked_by_its_name():
    assert kinds.having("has_plug") == {HeaterKind.MOBILE_TANK}
    assert HeaterKind.INDIRECT_TANK in kinds.burning(Fuel.BOILER)
    with pytest.raises(AttributeError):
        kinds.having("has_wings")


def test_what_the_trade_says_of_each_kind():
    """Written down from the trade's list of equipment, and not from the table."""
    told = {
        # A blower or a control may hang on the mains, so that a tank is switched off there, too.
        "gas_tank": {"fired_from_below", "is_lined", "has_mains_power"},
        "electric_tank": {"has_elements", "is_lined", "has_mains_power"},
        "gas_tankless": {"has_exchanger", "has_mains_power"},
        "condensing_tankless": {"has_exchanger", "makes_condensate", "has_mains_power"},
        "electric_tankless": {"has_exchanger", "has_mains_power"},
        "small_gas_tankless": {"has_exchanger"},
        "heat_pump_tank": {"has_elements", "is_lined", "makes_condensate", "has_mains_power"},
        "indirect_tank": {"has_exchanger", "has_coil", "is_lined"},
        "mobile_tank": {"fired_from_below", "has_plug", "has_mains_power"},
    }
    flags = set.union(*told.values())
    assert {kind.value: {flag for flag in flags if getattr(row, flag)} for kind, row in KINDS.items()} == told
    assert {kind.value for kind, row in KINDS.items() if row.is_tank} == {
        kind for kind in told if kind.endswith("_tank")
    }

"""The columns of each file against what the database takes, and what a row cannot do without, written out."""

import datetime

import pytest
from django.core.exceptions import FieldDoesNotExist

from aquifer.formats.cells import BadCell
from aquifer.imports.models import ImportRun, ImportState
from aquifer.imports.tables import EARLIEST, tables
from aquifer.imports.towns import places_table

TODAY = datetime.date(2031, 6, 10)
TABLES = tables(TODAY)
REQUIRED = {
    "zones": {"code", "name"},
    "customers": {"code", "name"},
    "sites": {"code", "customer", "name", "zone"},
    "heaters": {"tag", "site", "kind"},
    "water_tests": {"zone", "taken_on"},
    "visits": {"visit", "heater", "on"},
    "features": {"site", "kind", "condition", "seen_on"},
}
LONGEST = {
    ("sites", "customer"): 40, ("sites", "zone"): 40, ("heaters", "site"): 40, ("water_tests", "zone"): 40,
    ("water_tests", "site"): 40, ("visits", "visit"): 60, ("visits", "heater"): 40, ("visits", "technician"): 80,
    ("visits", "fitted_build"): 80, ("visits", "value"): 120, ("visits", "unit"): 20, ("features", "site"): 40,
    ("features", "heater"): 40,
}  # fmt: skip
"""Of texts that are no field of the model's own: codes, and what stands in parts of a row."""


def test_a_row_cannot_do_without_what_names_it_and_where_it_belongs():
    assert {kind: {one.name for one in table.columns if one.required} for kind, table in TABLES.items()} == REQUIRED
    assert {one.name for one in places_table().columns if one.required} == {"town", "latitude", "longitude"}


def texts():
    for kind, table in TABLES.items():
        for column in table.columns:
            if "text_up_to" in column.read.__qualname__:
                yield kind, column


@pytest.mark.parametrize(("kind", "column"), list(texts()), ids=lambda one: getattr(one, "name", one))
def test_a_text_is_as_long_as_its_field_and_no_longer(kind, column):
    try:
        longest = LONGEST.get((kind, column.name)) or TABLES[kind].model._meta.get_field(column.name).max_length
    except FieldDoesNotExist:
        pytest.fail(f"{kind}.{column.name} is no field; say above how long it may be")
    assert column.read("x" * longest) == "x" * longest
    with pytest.raises(BadCell, match=f"at most {longest}"):
        column.read("x" * (longest + 1))


DAYS = [(kind, one.name) for kind, table in TABLES.items() for one in table.columns if one.name.split("_")[-1] == "on"]


@pytest.mark.parametrize(("kind", "name"), DAYS)
def test_a_day_is_from_1950_to_today(kind, name):
    (column,) = (one for one in TABLES[kind].columns if one.name == name)
    assert column.read(EARLIEST.isoformat()) == EARLIEST == datetime.date(1950, 1, 1)
    assert column.read(TODAY.isoformat()) == TODAY
    for day in (EARLIEST - datetime.timedelta(days=1), TODAY + datetime.timedelta(days=1)):
        with pytest.raises(BadCell):
            column.read(day.isoformat())


@pytest.mark.parametrize(("name", "fine", "wrong"), [
    ("latitude", ("-90", "90"), ("-90.1", "90.1")), ("longitude", ("-180", "180"), ("-180.1", "180.1")),
])  # fmt: skip
def test_a_place_lies_on_the_globe(name, fine, wrong):
    (column,) = (one for one in places_table().columns if one.name == name)
    assert [column.read(one) for one in fine] == [float(one) for one in fine]
    for one in wrong:
        with pytest.raises(BadCell):
            column.read(one)


def test_a_year_of_the_last_flush_is_whole_and_past():
    (column,) = (one for one in TABLES["heaters"].columns if one.name == "last_flush_year")
    assert (column.read("1950"), column.read("2031")) == (1950, 2031)
    for year in ("1949", "2032", "2000.5"):
        with pytest.raises(BadCell):
            column.read(year)


@pytest.mark.parametrize("kind", ["list", "heaters", "customers", "visits", "water_tests", "jobs"])
@pytest.mark.parametrize("state", ImportState.values)
def test_only_heaters_that_wait_to_be_confirmed_can_be_tried(kind, state):
    run = ImportRun(kind=kind, state=state, made={"heaters": [1]})
    assert run.can_be_tried is (state == "checked" and kind in ("list", "heaters"))
    assert run.can_undo is (state == "applied")
    run.made = {}
    assert not run.can_undo


@pytest.mark.parametrize(("matches", "matched"), [
    (None, False), ({}, False), ({"Code": {"column": "code", "written": ""}}, False),
    ({"Nr": {"column": "code", "written": ""}}, True),
    ({"capacity_l": {"column": "capacity_l", "written": "gal"}}, True),
])  # fmt: skip
def test_a_file_with_names_of_its_own_was_matched(matches, matched):
    assert ImportRun(matches=matches).matched is matched

"""What somebody else's column names are guessed to be, before a person says."""

import datetime

import pytest

from aquifer.core.units import METRIC
from aquifer.formats.csv_table import csv_sheet
from aquifer.imports import column_names, columns
from aquifer.imports.entry import How
from aquifer.imports.tables import tables

HOW = How(datetime.date(2026, 11, 25), False, METRIC)
TABLES = tables(datetime.date(2026, 11, 25))


def guessed(kind: str, *header: str) -> list[tuple[str, str]]:
    sheet = csv_sheet(";".join(header) + "\n" + ";".join("x" for _ in header) + "\n")
    return [(one["column"], one["written"]) for one in columns.asked(TABLES[kind], sheet, HOW)]


@pytest.mark.parametrize(
    ("name", "column", "written"),
    [
        ("Tank size (gal)", "capacity_l", "gal"),
        ("Capacity [L]", "capacity_l", "l"),
        ("Gallons", "capacity_l", "gal"),
        ("SETPOINT °F", "setpoint_c", "°f"),
        ("Install date", "installed_on", ""),
        ("Serial No.", "serial", ""),
        ("Make", "maker", ""),
        ("Height (in)", "height_mm", "in"),
        ("Relief-valve date", "relief_valve_fitted_on", ""),
        ("Colour", "", ""),
        ("Notes", "", ""),
    ],
)
def test_a_heaters_column_is_known_by_the_names_that_people_give_it(name, column, written):
    assert guessed("heaters", name) == [(column, written)]


@pytest.mark.parametrize(
    ("kind", "name", "column", "written"),
    [
        ("sites", "Address", "street", ""),
        ("sites", "Occupants", "people", ""),
        ("sites", "Water pressure psi", "static_pressure_kpa", "psi"),
        ("customers", "Telephone", "phone", ""),
        ("water_tests", "Hardness gpg", "total_hardness_mg_l", "gpg"),
        ("water_tests", "Test date", "taken_on", ""),
    ],
)
def test_so_are_those_of_the_other_files(kind, name, column, written):
    assert guessed(kind, name) == [(column, written)]


def test_no_two_columns_are_guessed_to_be_the_same():
    assert guessed("heaters", "Kind", "Type", "Tag") == [("kind", ""), ("", ""), ("tag", "")]


def test_every_other_name_belongs_to_a_column_that_there_is():
    ours = {column.name for table in TABLES.values() for column in table.columns}
    assert set(column_names.OTHER_NAMES) <= ours
    for table in TABLES.values():
        told = [name for one in table.columns for name in column_names.OTHER_NAMES.get(one.name, ())]
        assert len(told) == len(set(told)), f"two columns of {table.kind} answer to one name"


def test_a_list_alone_needs_somebody_and_its_columns_say_which_tell_it(as_role):
    def told(kind: str) -> set[str]:
        return {one["name"] for one in as_role("planner").get(f"import-columns?kind={kind}").json() if one["is_whose"]}

    assert told("list") == {"customer", "company", "address", "street"}
    assert told("jobs") == told("sites") == set()

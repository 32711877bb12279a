import datetime

import pytest

from aquifer.core.units import WRITTEN, Quantity
from aquifer.formats.cells import DAY_FIRST, MONTH_FIRST, BadCell, dated, measured, quantity, word

EARLIEST, LATEST = datetime.date(2000, 1, 1), datetime.date(2026, 12, 31)
VOLUME = measured("capacity_l", Quantity.VOLUME, 0.1, 20_000)


def test_figures_of_several_units_stand_in_one_column():
    assert VOLUME.read("189") == 189
    assert VOLUME.read("50 gal") == pytest.approx(189.27, abs=0.01)
    assert VOLUME.read("189 L") == 189
    assert VOLUME.ways["gal"]("50") == pytest.approx(189.27, abs=0.01)
    assert VOLUME.ways["gal"]("189 l") == 189  # what the cell says goes before the column


@pytest.mark.parametrize(
    ("kind", "text", "stored"),
    [
        (Quantity.PRESSURE, "5 bar", 500),
        (Quantity.PRESSURE, "150 psi", 1034.2),
        (Quantity.TEMPERATURE, "140 °F", 60),
        (Quantity.LENGTH, "4 in", 101.6),
        (Quantity.LENGTH, "15.5cm", 155),
        (Quantity.HARDNESS, "10 gpg", 171.2),
        (Quantity.HARDNESS, "10 °dH", 178.5),
        (Quantity.POWER, "40 kBTU/h", 11.72),
    ],
)
def test_every_unit_that_files_have_is_known(kind, text, stored):
    assert quantity(kind, 0, 5000)(text) == pytest.approx(stored, rel=1e-3)


@pytest.mark.parametrize(
    ("text", "says"),
    [("50 buckets", "allowed: l, gal"), ("1,234", "is not a number"), ("nan", "is not a number"), ("9e9", "outside")],
)
def test_a_figure_that_cannot_be_says_what_can(text, says):
    with pytest.raises(BadCell, match=says):
        VOLUME.read(text)


def test_bounds_hold_in_the_stored_unit():
    with pytest.raises(BadCell, match=r"90000 gal is outside 0.1 to 20000"):
        VOLUME.read("90000 gal")


def test_the_units_of_files_are_those_of_the_screen_and_more():
    steps_alone = {
        Quantity.TEMPERATURE_DIFFERENCE,
        Quantity.GAS_PRESSURE,
        Quantity.FLOW,
        Quantity.DOSE,
        Quantity.VOLTAGE,
        Quantity.HEIGHT,
        Quantity.GAS_VOLUME,
        Quantity.HEATING_VALUE,
    }
    assert set(WRITTEN) == set(Quantity) - steps_alone
    for units in WRITTEN.values():
        for unit in units.values():
            assert unit.stored(unit.shown(37.5)) == pytest.approx(37.5)


def test_a_date_is_read_as_the_column_is_written():
    column = dated("installed_on", EARLIEST, LATEST)
    assert column.read("2024-03-09") == datetime.date(2024, 3, 9)
    assert column.ways[DAY_FIRST]("9/3/2024") == datetime.date(2024, 3, 9)
    assert column.ways[DAY_FIRST]("09.03.2024") == datetime.date(2024, 3, 9)
    assert column.ways[MONTH_FIRST]("9/3/2024") == datetime.date(2024, 9, 3)
    assert column.ways[MONTH_FIRST]("2024-03-09") == datetime.date(2024, 3, 9)


@pytest.mark.parametrize("text", ["9/3/2024", "31/31/2024", "soon", "9/3", "2024-13-01", "9/3/24"])
def test_a_date_that_could_be_two_is_asked_about(text):
    column = dated("installed_on", EARLIEST, LATEST)
    with pytest.raises(BadCell):
        column.read(text)
    if text != "9/3/2024":
        with pytest.raises(BadCell):
            column.ways[DAY_FIRST](text)


def test_words_may_have_spaces_and_capitals():
    assert word(["gas_tank", "heat_pump_tank"])("Heat-pump  Tank") == "heat_pump_tank"

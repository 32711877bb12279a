"""What people write into cells, against what was meant by it; none of it from the readers themselves."""

import datetime

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from aquifer.core.units import Quantity
from aquifer.formats import day_said, heater_said, said
from aquifer.formats.cells import BadCell
from tests.conftest import examples

TODAY = datetime.date(2026, 11, 27)


@pytest.mark.parametrize(
    ("text", "on", "certainty", "margin"),
    [
        ("2019-06-02", "2019-06-02", "known", None),
        ("6/2/19", "2019-06-02", "known", None),
        ("13/2/2020", "2020-02-13", "known", None),
        ("07/28/2013", "2013-07-28", "known", None),
        ("21.06.2003", "2003-06-21", "known", None),
        ("04.2017", "2017-04-15", "known", None),
        ("Jun 2025", "2025-06-15", "known", None),
        ("March 5, 2011", "2011-03-05", "known", None),
        ("5 March 2011", "2011-03-05", "known", None),
        ("Sept. 98", "1998-09-15", "known", None),
        ("2015", "2015-07-02", "estimated", 0.5),
        ("~2019", "2019-07-02", "estimated", 2.0),
        ("2014?", "2014-07-02", "estimated", 2.0),
        ("about 2013", "2013-07-02", "estimated", 2.0),
        ("0815", "2015-08-16", "known", None),
        ("1298", "1998-12-16", "known", None),
        ("Week 23 2015", "2015-06-04", "known", None),
        ("2019-W14", "2019-04-04", "known", None),
        ("KW 23/15", "2015-06-04", "known", None),
        ("Q3 2019", "2019-08-15", "estimated", 0.5),
        ("late 2018", "2018-10-31", "estimated", 0.5),
        ("2019ish", "2019-07-02", "estimated", 2.0),
        ("pre 2000", "1996-12-31", "estimated", 3.0),
        ("<2000", "1996-12-31", "estimated", 3.0),
        ("15+ yrs", "2008-12-31", "estimated", 3.0),
        ("over 15 years", "2008-12-31", "estimated", 3.0),
        ("06/01/2017 12:00:00 AM", "2017-06-01", "known", None),
        ("2019-05-05T00:00:00Z", "2019-05-05", "known", None),
        ("2019-05-05 08:14", "2019-05-05", "known", None),
        ("0000-00-00", None, "unknown", None),
        ("1/1/1900", None, "unknown", None),
        ("??", None, "unknown", None),
        ("before we came", None, "unknown", None),
        ("unbekannt", None, "unknown", None),
    ],
)
def test_a_day_is_as_sure_as_it_was_written(text, on, certainty, margin):
    found = day_said.day(text, TODAY, day_first=False)
    assert (str(found.on) if found.on else None, found.certainty, found.margin_years) == (on, certainty, margin)


def test_the_day_stands_first_where_the_company_writes_so():
    assert day_said.day("3/4/2019", TODAY, day_first=True).on == datetime.date(2019, 4, 3)
    assert day_said.day("3/4/2019", TODAY, day_first=False).on == datetime.date(2019, 3, 4)
    assert day_said.day("3/25/2019", TODAY, day_first=True).on == datetime.date(2019, 3, 25)
    assert day_said.day("nie", TODAY, day_first=True).never


@pytest.mark.parametrize(
    "text", ["2031", "1332", "week 54 2020", "13/13/2019", "soon", "1/2/3/4", "1899-01-01", "30 February 2020"]
)
def test_what_is_no_day_says_so(text):
    with pytest.raises(BadCell):
        day_said.day(text, TODAY, day_first=False)


@given(st.dates(datetime.date(1950, 1, 1), TODAY))
def test_every_day_of_the_calendar_is_read_back_in_each_way_of_writing(on):
    for text in (on.isoformat(), f"{on.day}.{on.month}.{on.year}", f"{on:%B} {on.day}, {on.year}"):
        assert day_said.day(text, TODAY, day_first=False).on == on
    assert day_said.day(f"{on.month}/{on.day}/{on.year}", TODAY, day_first=False).on == on


@pytest.mark.parametrize(
    ("text", "kind", "unit", "value", "count"),
    [
        ("50", Quantity.VOLUME, "gal", 189.271, 1),
        ("50 gal.", Quantity.VOLUME, "l", 189.271, 1),
        ("75g", Quantity.VOLUME, "gal", 283.906, 1),
        ("2 x 50", Quantity.VOLUME, "gal", 189.271, 2),
        ("(2) 50", Quantity.VOLUME, "gal", 189.271, 2),
        ("3 @ 50 gal", Quantity.VOLUME, "gal", 189.271, 3),
        ("50 x2", Quantity.VOLUME, "gal", 189.271, 2),
        ("50 gal (2)", Quantity.VOLUME, "gal", 189.271, 2),
        ("2-50", Quantity.VOLUME, "gal", 189.271, 2),
        ("40-60", Quantity.VOLUME, "gal", 189.271, 1),
        ("80,0", Quantity.VOLUME, "l", 80.0, 1),
        ("200 Liter", Quantity.VOLUME, "gal", 200.0, 1),
        ("140F", Quantity.TEMPERATURE, "°c", 60.0, 1),
        ("49 °C", Quantity.TEMPERATURE, "°f", 49.0, 1),
        ("49", Quantity.TEMPERATURE, "°f", 49.0, 1),  # At 49 degF nobody sets a heater.
        ("95+", Quantity.PRESSURE, "psi", 655.0, 1),
        ("5,5 bar", Quantity.PRESSURE, "kpa", 550.0, 1),
        ("18 gr", Quantity.HARDNESS, "mg/l", 308.12, 1),
        ("300 ppm", Quantity.HARDNESS, "gpg", 300.0, 1),
        ("21,0 °dH", Quantity.HARDNESS, "gpg", 374.81, 1),
    ],
)
def test_a_figure_is_in_its_own_unit_else_in_the_column_s(text, kind, unit, value, count):
    bounds = {Quantity.VOLUME: (2, 10_000), Quantity.TEMPERATURE: (30, 95), Quantity.PRESSURE: (50, 2000)}
    found = said.amount(text, kind, unit, *bounds.get(kind, (0, 3000)))
    assert found.value == pytest.approx(value, rel=1e-3) and found.count == count


@pytest.mark.parametrize("text", ["hot", "very", "50 apples", "1.2.3", "9999999"])
def test_what_is_no_figure_says_so(text):
    with pytest.raises(BadCell):
        said.amount(text, Quantity.VOLUME, "gal", 2, 10_000)
    assert said.amount("n/a", Quantity.VOLUME, "gal", 2, 10_000) is None


@pytest.mark.parametrize(
    ("text", "kind"),
    [
        ("NG", "gas_tank"),
        ("LP 50", "gas_tank"),
        ("nat. gas", "gas_tank"),
        ("gas power vent", "gas_tank"),
        ("Electric 240V", "electric_tank"),
        ("elec.", "electric_tank"),
        ("HP / hybrid", "heat_pump_tank"),
        ("Wärmepumpe", "heat_pump_tank"),
        ("indirect off boiler", "indirect_tank"),
        ("tankless", "gas_tankless"),
        ("tankless - condensing", "condensing_tankless"),
        ("electric tankless", "electric_tankless"),
        ("Durchlauferhitzer el.", "electric_tankless"),
        ("RV", "mobile_tank"),
        ("TKLS", "gas_tankless"),
        ("WH-G", "gas_tank"),
        ("NG50", "gas_tank"),
        ("E40 lowboy", "electric_tank"),
        ("HP80", "heat_pump_tank"),
        ("Kleinspeicher 5 l", "electric_tank"),
        ("Solarspeicher 300 Liter", "indirect_tank"),
        ("gas 50, T&P new", "gas_tank"),
        ("elec 40, new gasket", "electric_tank"),
        ("WH-T", "gas_tankless"),
        ("WH - E", "electric_tank"),
        ("Elektroboiler", "electric_tank"),
        ("WP-Boiler", "heat_pump_tank"),
        ("Gasspeicher", "gas_tank"),
        ("Gasdurchlauferhitzer", "gas_tankless"),
        ("?", None),
        ("teal", None),
    ],
)
def test_a_kind_is_told_by_the_words_of_the_trade(text, kind):
    found = heater_said.kind(text)
    assert (found.kind.value if found else None) == kind


def test_people_addresses_and_telephones():
    assert said.person("WEXCOMBE, Lorne") == "Lorne Wexcombe"
    assert said.person("ETTA  FARROWGATE") == "Etta Farrowgate"
    assert said.person("Tamarack Grill, LLC") == "Tamarack Grill, LLC"
    assert said.address("4 A St, Springvale, UT 84001") == said.Address("4 A St", "Springvale", "UT", "84001")
    assert said.address("1072 Juniper Ct, Ferrybank 00017") == said.Address("1072 Juniper Ct", "Ferrybank", "", "00017")
    assert said.address("Lindenweg 5, 01234 Kesselau") == said.Address("Lindenweg 5", "Kesselau", "", "01234")
    assert said.phone("+1 555 555 0196 (text only)") == ("+1 555 555 0196", "text only")
    with pytest.raises(BadCell):
        said.phone("call daughter")


def test_a_cell_may_have_two_telephones_or_one_with_a_stroke_in_it():
    assert said.phones("01555 550102 / 07700 555012") == ["01555 550102", "07700 555012"]
    assert said.phones("555-555-0101 or 555 555 0177") == ["555-555-0101", "555 555 0177"]
    assert said.phones("0555/550101") == ["0555/550101"] and said.phones("call son") == ["call son"]


def test_yes_no_and_nobody_knows():
    assert all(said.yes(one) is True for one in ("Y", "y - 2 gal", "whole house"))
    assert all(said.yes(one) is False for one in ("N", "city", "nein")) and said.yes("?") is None
    with pytest.raises(BadCell):
        said.yes("broken")
    assert said.is_gone("SKIP - sold 2024") and not said.is_gone("soldered in 2019")


def test_what_is_said_of_a_rod():
    def rod(text):
        return heater_said.rod(text, TODAY, False, "mm")

    assert (rod("mag 2019").alloy, rod("mag 2019").fitted_on.year) == ("magnesium", 2019)
    assert [rod(one).alloy for one in ("alum", "powered", "none")] == ["aluminium", "powered", "none"]
    assert rod("orig.").original and rod("verbraucht").used_up and rod("18,5").diameter_mm == 18.5
    assert rod("?") is None
    with pytest.raises(BadCell):
        rod("blue")


@given(st.text(max_size=60))
def test_no_text_at_all_breaks_a_reader(text):
    readers = (
        lambda: day_said.day(text, TODAY, False), lambda: said.amount(text, Quantity.VOLUME, "gal", 2, 1e4),
        lambda: said.yes(text), lambda: said.phone(text), lambda: said.phones(text),
        lambda: heater_said.rod(text, TODAY, False, "mm"),
        lambda: said.number(text, 0, 100),
    )  # fmt: skip
    for read in readers:
        try:
            read()
        except BadCell as error:
            assert str(error)
    heater_said.kind(text), said.person(text), said.address(text), said.is_gone(text), heater_said.is_kind_alone(text)


@given(st.text("0123456789-/.' ~?ymosprfal", max_size=14), st.booleans(), st.booleans())
@settings(max_examples=examples(600, of_long=20_000))
def test_whatever_looks_like_a_day_is_one_of_the_past_or_is_told(text, day_first, of_this_year):
    for read in (
        lambda: day_said.day(text, TODAY, day_first, of_this_year),
        lambda: day_said.age(text, TODAY, day_first),
    ):
        try:
            when = read()
        except BadCell:
            continue
        assert when.on is None or datetime.date(day_said.EARLIEST_YEAR, 1, 1) <= when.on <= TODAY


@pytest.mark.parametrize(
    ("text", "minutes"),
    [
        ("1:15", 75), ("0:45:00", 45), ("75", 75), ("1.25", 75), ("1,5", 90), ("10", 600), ("11", 11),
        ("1 h 15 min", 75), ("1h15", 75), ("75 min.", 75), ("1,5 Std.", 90), ("2 Stunden", 120),
        ("2 hrs", 120), ("90 MINS", 90), ("?", None), ("", None), ("all day", None), ("12-1", None),
        ("3 men 2 h", None), ("1:75", None), ("$90", None),
    ],
)  # fmt: skip
def test_how_long_something_took_as_people_write_it(text, minutes):
    assert said.minutes(text) == minutes


@pytest.mark.parametrize(
    ("text", "street", "town"),
    [
        ("14 Kiln Rd Ashcombe", "14 Kiln Rd", "Ashcombe"),
        ("14 Kiln Rd. Lower Ashcombe 00412", "14 Kiln Rd.", "Lower Ashcombe"),
        # What belongs to the house or the street is no town.
        ("12 Park Place Apts", "12 Park Place Apts", ""),
        ("4 Summit Ave North", "4 Summit Ave North", ""),
        ("9 Court St Rear", "9 Court St Rear", ""),
        ("100 Avenue Rd", "100 Avenue Rd", ""),
        ("4 place du Marché", "4 place du Marché", ""),
        ("12 rue de la Place Verte", "12 rue de la Place Verte", ""),
        ("Church Rd Netherwold", "Church Rd Netherwold", ""),
    ],
)
def test_a_town_may_stand_behind_its_street_without_a_comma(text, street, town):
    found = said.address(text)
    assert (found.street, found.town) == (street, town)

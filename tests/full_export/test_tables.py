"""Each value of a whole base is read back as it was written."""

import datetime

import pytest
from django.core.exceptions import ValidationError
from hypothesis import given
from hypothesis import strategies as st

from aquifer.accounts.models import User
from aquifer.company.models import Company
from aquifer.full_export.tables import TABLES, is_person, read, times_kept, written
from aquifer.heaters.models import Heater
from aquifer.water.models import Zone

TEXT = st.text(st.characters(blacklist_categories=["Cs"], blacklist_characters="\x00"), max_size=40)
MOMENT = st.datetimes(timezones=st.just(datetime.UTC))


@pytest.mark.parametrize(
    ("field", "values"),
    [
        (Heater._meta.get_field("maker"), TEXT),
        (Heater._meta.get_field("capacity_l"), st.none() | st.floats(allow_nan=False, allow_infinity=False)),
        (Heater._meta.get_field("supply_volts"), st.none() | st.integers(0, 32_000)),
        (Heater._meta.get_field("installed_on"), st.none() | st.dates()),
        (Heater._meta.get_field("archived_at"), st.none() | MOMENT),
        (Heater._meta.get_field("recirculated"), st.booleans()),
        (Zone._meta.get_field("outline"), st.none() | st.lists(st.lists(st.floats(-180, 180), min_size=2, max_size=2))),
        (Company._meta.get_field("practice_options"), st.lists(TEXT, max_size=3)),
        (Heater._meta.get_field("site"), st.integers(1, 2**40)),
    ],
    ids=lambda value: getattr(value, "name", ""),
)
def test_a_value_reads_back(field, values):
    @given(values)
    def reads_back(value):
        cell = written(field, value)
        assert not cell.startswith(("=", "@", "+"))
        assert read(field, cell) == value

    reads_back()


def test_a_cell_that_cannot_be_is_refused():
    for name, text in (("capacity_l", "much"), ("installed_on", "soon"), ("recirculated", "perhaps")):
        with pytest.raises((ValueError, ValidationError)):
            read(Heater._meta.get_field(name), text)


def test_every_record_comes_after_those_it_refers_to():
    seen: set[type] = set()
    for table in TABLES:
        for field in table.fields:
            if field.is_relation and not is_person(field) and not table.name.startswith("history_of_"):
                assert field.related_model in seen | {table.model}, f"{table.name}.{field.name}"
        seen.add(table.model)


def test_people_are_told_apart_by_their_names_not_their_numbers():
    by_person = [(table.name, field.name) for table in TABLES for field in table.fields if is_person(field)]
    assert ("visits", "recorded_by") in by_person and ("history_of_heaters", "history_user") in by_person
    assert User not in {table.model for table in TABLES}


def test_times_are_kept_while_a_base_comes_in_and_set_again_after_it():
    field = Heater._meta.get_field("updated_at")
    with times_kept():
        assert not field.auto_now
    assert field.auto_now

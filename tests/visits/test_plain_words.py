"""What was recorded when kinds and readings had other names reads as ever, and stays as protected as it was."""

from importlib import import_module

import pytest
from django.db import DatabaseError, connection, transaction

from aquifer.visits.models import Event, Visit, VisitSession
from tests.conftest import visit
from tests.visits.devices import Device

renamed = import_module("aquifer.visits.migrations.0017_plain_words").renamed
kept = import_module("aquifer.visits.migrations.0018_reasons").kept


def told():
    """Every name that an event, a step or a reading has."""
    kinds = list(Event.objects.order_by("pk").values_list("kind", flat=True))
    fields = [field for field in Event.objects.values_list("body__field", flat=True) if field]
    (record,) = Visit.objects.all()
    return kinds, fields, [step["kind"] for step in record.steps], sorted(record.readings), record.note


@pytest.fixture
def recorded(as_role, forecasted):
    heater = forecasted["heaters"][0]
    phone = Device(as_role("technician"), heater)
    phone.says(
        first := phone.tap(), phone.tap("", "undo", of=first["client_id"]), phone.tap(),
        phone.tap("arrival.shut_off", "deviation", choice=1),
        phone.tap("", "answered", field="expansion_tank.precharge_kpa", value=310),
    )  # fmt: skip
    found = [{"task": "expansion_tank_check", "at_valve": "air", "precharge_kpa": 310}]
    body = visit(heater.pk, *found, note='It read "despite" on the plate') | {"client_id": phone.visit}
    assert phone.client.post("visits", body).status_code == 201


def test_what_was_written_before_has_the_names_of_today_and_still_cannot_be_changed(recorded):
    now = told()
    assert {"undo", "deviation"} <= set(now[0]) and "expansion_tank.precharge_kpa" in now[1]
    with connection.cursor() as cursor:
        # What a migration finds was written, and checked, long before.
        cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
        cursor.execute(renamed(back=True))
        before = told()
        assert {"took_back", "otherwise"} <= set(before[0]) and "vessel.precharge_kpa" in before[1] + before[3]
        cursor.execute(renamed())
    assert told() == now and now[4] == 'It read "despite" on the plate'
    with pytest.raises(DatabaseError), transaction.atomic():
        Event.objects.update(step="")


def test_why_a_date_moved_stays_in_the_words_in_which_it_was_kept(as_role, recorded):
    """Of a record of before: its sentence, with figures in the company's units, and after it new ones by key."""
    record = Visit.objects.get()
    assert all(one["reasons"] and "sentence" not in one for one in record.moved)
    was = [{"component": "sediment", "before_on": None, "after_on": None, "days": None,
            "sentence": "Measured {length_mm:18} where about {length_mm:6} was believed."}]  # fmt: skip
    with connection.cursor() as cursor:
        cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
        cursor.execute("ALTER TABLE visits_visit DISABLE TRIGGER USER")
        Visit.objects.update(moved=was)
        cursor.execute("ALTER TABLE visits_visit ENABLE TRIGGER USER")
        cursor.execute(kept())
    (one,) = Visit.objects.get().moved
    assert one.keys() == {"component", "before_on", "after_on", "days", "reasons"}
    body = visit(record.heater_id) | {"client_id": str(record.client_id)}
    (told,) = as_role("technician").post("visits", body).json()["moved"]
    assert told["sentence"] == "Measured 18 mm where about 6 mm was believed."


def test_a_page_that_was_opened_before_the_server_was_renewed_is_understood(as_role, forecasted):
    phone = Device(as_role("technician"), forecasted["heaters"][0])
    first = phone.tap("arrival.shut_off", "otherwise", choice=1)
    assert phone.says(first, phone.tap("", "took_back", of=first["client_id"]))["refused"] == []
    assert [one.kind for one in VisitSession.objects.get().events.all()] == ["deviation", "undo"]
    assert len(phone.says(phone.tap(kind="sideways"))["refused"]) == 1

"""What a file brings in is what the ORM would have made of the same values."""

import datetime

import pytest
from django.db import DataError, IntegrityError, models, transaction

from aquifer.accounts.models import Role, User
from aquifer.core.kinds import HeaterKind
from aquifer.customers.models import Customer, Site
from aquifer.heaters.models import Heater, Part, PartKind
from aquifer.imports.origin import Origin
from aquifer.imports.records import created
from aquifer.water.models import Supply, Zone

AWKWARD = 'a\tb\nc\\d "e" \\N ü 水, {f}'
"""Tab, line end, backslash, quotes and the database's own mark for nothing."""


def kept(model: type[models.Model], pk: int) -> dict:
    own = model._default_manager.filter(pk=pk).values().get()
    return {name: value for name, value in own.items() if name not in ("id", "created_at", "updated_at")}


def both(model: type[models.Model], told: dict, other: dict) -> None:
    """The same values by the ORM, where ``other`` is what has to differ."""
    (copied,) = created(model, [told], Origin(None, "list.csv"))
    by_orm = model._default_manager.create(**{**told, **other})
    found, expected = kept(model, copied), kept(model, by_orm.pk)
    assert {name for name in found if found[name] != expected[name]} <= {*other, "words"}
    assert {name: found[name] for name in other} == {name: told[name] for name in other}


def test_a_copied_record_is_that_of_the_orm(base):
    both(Zone, {"code": "A", "name": AWKWARD, "supply": Supply.WELL}, {"code": "B"})
    both(Customer, {"code": "CA", "name": AWKWARD, "phone": ""}, {"code": "CB"})
    zone, customer = Zone.objects.get(code="A"), Customer.objects.get(code="CA")
    place = {"customer_id": customer.pk, "zone_id": zone.pk, "name": AWKWARD, "street": "", "people": 2.5}
    both(Site, {"code": "SA", **place, "softened": True}, {"code": "SB"})
    site = Site.objects.get(code="SA")
    day = datetime.date(2019, 2, 28)
    heater = {
        "site_id": site.pk,
        "kind": HeaterKind.GAS_TANK,
        "installed_on": day,
        "capacity_l": 189.5,
        "note": AWKWARD,
    }
    both(Heater, {"tag": "HA", **heater, "details": {"a": [1, None, AWKWARD]}}, {"tag": "HB"})
    both(Heater, {"tag": "HC", **heater, "installed_on": None, "kind_seen": False}, {"tag": "HD"})
    one, other = (Heater.objects.get(tag=tag).pk for tag in ("HA", "HB"))
    both(Part, {"heater_id": one, "kind": PartKind.ANODE, "count": 0}, {"heater_id": other})
    # Whole numbers are whole however they are written, and a day may be text.
    both(Heater, {"tag": "HE", **heater, "supply_volts": 240.0, "installed_on": "2020-02-29"}, {"tag": "HF"})
    # The database found words for it, as it does for every heater.
    assert "a\tb" in Heater.objects.get(tag="HA").words


def test_keys_come_in_the_order_of_the_records_and_history_says_who_brought_them(base):
    by = User.objects.create(username="brings", role=Role.PLANNER)
    told = [{"code": f"K{n}", "name": f"Number {n}"} for n in (3, 1, 2)]
    # What one says and the others leave open is as usual for those.
    told[1]["phone"] = "555-0101"
    keys = created(Customer, told, Origin(by, "list.csv"))
    found = [Customer.objects.get(pk=pk) for pk in keys]
    assert [(one.code, one.phone) for one in found] == [("K3", ""), ("K1", "555-0101"), ("K2", "")]
    assert Customer.objects.create(code="K4", name="After them").pk > max(keys)
    for customer in found:
        entry = customer.history.get()
        assert (entry.history_type, entry.history_user, entry.history_change_reason) == ("+", by, "list.csv")
        assert entry.name == customer.name
    assert created(Customer, [], Origin(by, "list.csv")) == []


@pytest.mark.parametrize(
    ("told", "refused"),
    [
        ({"code": "C1", "name": "Has that code"}, IntegrityError),
        ({"code": "K", "name": None}, IntegrityError),
        ({"code": "K" * 500, "name": "Long"}, DataError),
    ],
)
def test_what_the_database_refuses_is_raised_as_by_the_orm(base, told, refused):
    before = set(Customer.objects.values_list("pk", flat=True))
    with pytest.raises(refused), transaction.atomic():
        created(Customer, [{"code": "K0", "name": "Right"}, told], Origin(None, "list.csv"))
    assert set(Customer.objects.values_list("pk", flat=True)) == before


def test_a_name_that_is_no_column_is_said(base):
    with pytest.raises(ValueError, match="Customer has no surname"):
        created(Customer, [{"code": "K", "name": "N", "surname": "S"}], Origin(None, "list.csv"))

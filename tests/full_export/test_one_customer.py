"""What is kept of one customer is all in their archive, and nothing of anybody else."""

import csv
import io
import zipfile

import pytest

from aquifer.accounts.models import Deed, Noted, User
from aquifer.company.models import Company
from aquifer.customers.models import Customer, Site
from aquifer.full_export.one_customer import path_to_customer
from aquifer.full_export.tables import TABLES
from aquifer.heaters.models import Heater
from aquifer.outbox.models import Answer
from aquifer.visits.models import Finding
from tests.full_export.test_round_trip import lived_in, storage

__all__ = ["lived_in", "storage"]


@pytest.mark.parametrize(
    ("model", "path"),
    [
        (Customer, "pk"),
        (Site, "customer"),
        (Heater, "site__customer"),
        (Answer, "message__customer"),
        (Company, None),
        (User, None),
    ],
)
def test_a_record_is_a_customers_by_the_shortest_way(model, path):
    assert path_to_customer(model) == path


def archive_of(client, customer: Customer) -> dict[str, list[dict[str, str]]]:
    answer = client.raw.get(f"/api/customers/{customer.pk}/data.zip")
    assert answer.status_code == 200
    found = zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content)))
    return {
        name: list(csv.DictReader(io.StringIO(found.read(name).decode(), newline=""))) if name.endswith(".csv") else []
        for name in found.namelist()
    }


def test_everything_of_a_customer_comes_and_of_nobody_else(lived_in, as_role):
    ours = lived_in["sites"][0].customer
    other = Customer.objects.create(code="C9", name="Sallow Mill", phone="555-0199")
    Site.objects.filter(pk=lived_in["sites"][1].pk).update(customer=other)
    lead = as_role("lead")
    of_ours, of_other = archive_of(lead, ours), archive_of(lead, other)
    mine = Heater.objects.filter(site__customer=ours)
    assert {row["tag"] for row in of_ours["heaters.csv"]} == set(mine.values_list("tag", flat=True))
    assert len(of_ours["findings.csv"]) == Finding.objects.filter(heater__in=mine).count() > 0
    assert [row["way"] for row in of_ours["contacts.csv"]] == ["text"] and len(of_ours["answers.csv"]) == 1
    assert sorted(name for name in of_ours if name.startswith("files/"))[0].startswith("files/document")
    # How it was before is kept, so it is told too.
    assert len(of_ours["history_of_heaters.csv"]) > len(of_ours["heaters.csv"])
    assert [row["name"] for row in of_other["customers.csv"]] == ["Sallow Mill"]
    assert not {"messages.csv", "contacts.csv"} & set(of_other)
    assert "Sallow" not in str(of_ours) and ours.name not in str(of_other)
    assert [one.about for one in Noted.objects.filter(deed=Deed.TOOK_OUT).order_by("pk")][0].endswith(ours.name)


def test_no_table_that_names_a_customers_things_is_forgotten():
    of_nobody = {table.name for table in TABLES if not hasattr(table.model, "instance_type")
                 and path_to_customer(table.model) is None}  # fmt: skip
    assert of_nobody == {
        "company", "zones", "seasons", "campaigns", "crew", "absences", "loans", "runs", "held_parts", "moved_parts",
        "stock_settings", "practised", "money_settings", "prices", "contract_plans", "saved_views",
        "remembered_columns", "sign_offs",
        "asked_before_sign_off", "written_to_practise", "practised_looks",
    }  # fmt: skip

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from aquifer.customers.models import Customer
from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Heater, Part
from aquifer.imports import run as imports
from aquifer.imports.models import ImportRun, ImportState
from tests.conftest import JsonClient

HEATERS = "tag,site,kind,installed_on,capacity_l,anode_alloy,anode_fitted_on\n"


def send(client: JsonClient, text: str | bytes, kind: str = "heaters"):
    data = text.encode() if isinstance(text, str) else text
    return client.raw.post("/api/imports", {"kind": kind, "file": SimpleUploadedFile("file.csv", data)})


def checked(client: JsonClient, text: str | bytes, kind: str = "heaters"):
    """Send a file and run its check, as the worker would."""
    run_id = send(client, text, kind).json()["id"]
    imports.check(run_id)
    return client.get(f"imports/{run_id}").json()


def rows(client: JsonClient, run_id: int) -> dict[int, dict]:
    return {row["number"]: row for row in client.get(f"imports/{run_id}/rows").json()["rows"]}


def test_a_dry_run_tells_each_row_and_writes_nothing(as_role, base):
    client = as_role("planner")
    found = checked(
        client,
        HEATERS
        + "N-1,S1,gas_tank,2024-05-01,189,magnesium,2024-05-01\n"
        + "T-1,S2,electric_tank,2020-01-01,151,magnesium,\n"
        + "N-1,S1,gas_tank,,,,\n"
        + "N-2,S9,gas_tank,,,,\n"
        + "N-3,S1,kettle,,,,\n"
        + "N-4,S1,gas_tank,2999-01-01,,,\n"
        + "N-5,S1,gas_tank,2024-05-01,,,2020-01-01\n",
    )
    assert found["state"] == "checked"
    assert found["counts"] == {"create": 1, "change": 1, "refuse": 5}
    told = rows(client, found["id"])
    assert told[2]["action"] == "create"
    assert told[3]["detail"]["capacity_l"] == [189.0, 151.0]
    assert told[4]["detail"]["tag"] == "N-1 stands already in row 2"
    assert told[5]["detail"]["site"] == "there is no site with the code S9"
    assert "allowed: gas_tank" in told[6]["detail"]["kind"]
    assert "outside" in told[7]["detail"]["installed_on"]
    assert "before the heater was installed" in told[8]["detail"]["anode_fitted_on"]
    assert Heater.objects.count() == 6


def test_a_file_with_a_refused_row_is_brought_in_not_at_all(as_role, base):
    client = as_role("planner")
    found = checked(client, HEATERS + "N-1,S1,gas_tank,,,,\nN-2,S9,gas_tank,,,,\n")
    refused = client.post(f"imports/{found['id']}/confirm")
    assert refused.status_code == 409
    assert Heater.objects.count() == 6


def test_a_confirmed_file_is_brought_in_whole_and_forecast(as_role, base):
    client = as_role("planner")
    lines = "".join(f"N-{n},S1,gas_tank,2024-05-01,189,aluminium,2025-05-01\n" for n in range(50))
    found = checked(client, HEATERS + lines)
    assert client.post(f"imports/{found['id']}/confirm").json()["state"] == "applying"
    imports.bring_in(found["id"])
    assert client.get(f"imports/{found['id']}").json()["state"] == "applied"
    assert Heater.objects.filter(tag__startswith="N-").count() == 50
    assert Part.objects.filter(heater__tag="N-7", kind="anode", alloy="aluminium").exists()
    assert Forecast.objects.current().filter(heater__tag="N-7").count() == 4
    # The same file again changes nothing.
    assert checked(client, HEATERS + lines)["counts"] == {"same": 50}


def test_a_crash_half_way_leaves_the_register_as_it_was(as_role, base, monkeypatch):
    client = as_role("planner")
    found = checked(client, HEATERS + "N-1,S1,gas_tank,,,,\nT-1,S2,gas_tank,2020-01-01,151,,\n")
    client.post(f"imports/{found['id']}/confirm")
    monkeypatch.setattr("aquifer.imports.apply._parts", lambda *args: 1 / 0)
    with pytest.raises(ZeroDivisionError):
        imports.bring_in(found["id"])
    assert Heater.objects.count() == 6
    assert Heater.objects.get(tag="T-1").capacity_l == 189
    monkeypatch.undo()
    imports.bring_in(found["id"])  # the job runs again
    assert Heater.objects.count() == 7


def test_a_register_changed_since_the_check_is_not_written_over(as_role, base):
    client = as_role("planner")
    found = checked(client, HEATERS + "N-1,S1,gas_tank,,,,\n")
    client.post(f"imports/{found['id']}/confirm")
    Heater.objects.create(tag="N-1", site=base["sites"][0], kind="gas_tank")
    imports.bring_in(found["id"])
    run = ImportRun.objects.get(pk=found["id"])
    assert run.state == ImportState.REFUSED and "changed since" in run.message


def test_an_import_raises_the_version_so_that_an_open_edit_notices(as_role, base):
    client = as_role("planner")
    found = checked(client, HEATERS + "T-1,S2,electric_tank,2020-01-01,151,,\n")
    client.post(f"imports/{found['id']}/confirm")
    imports.bring_in(found["id"])
    assert Heater.objects.get(tag="T-1").version == 2


def test_cancelling_writes_nothing(as_role, base):
    client = as_role("planner")
    found = checked(client, HEATERS + "N-1,S1,gas_tank,,,,\n")
    assert client.post(f"imports/{found['id']}/cancel").json()["state"] == "cancelled"
    assert client.post(f"imports/{found['id']}/confirm").status_code == 409
    assert Heater.objects.count() == 6


@pytest.mark.parametrize(
    ("data", "says"),
    [
        ("tag,site,kind\nA,S1,gas_tank\n".encode("utf-16"), "UTF-16"),
        (b"tag,site,kind\nA\xe9,S1,gas_tank\n", "row 2, column 1"),
        (b"tag,site\nA,S1\n", "'kind' is missing"),
        (b"%PDF-1.7\n\x00\x01", "no table"),
        (b"tag,site,kind,colour\nA,S1,gas_tank,red\n", "Unknown column 'colour'"),
    ],
)
def test_a_file_that_is_no_table_is_refused_with_the_reason(as_role, base, data, says):
    found = checked(as_role("planner"), data)
    assert found["state"] == "refused" and says in found["message"]


def test_an_empty_file_or_unknown_kind_is_refused_at_once(as_role, base):
    assert send(as_role("planner"), "", "heaters").status_code == 422
    assert send(as_role("planner"), "a\n1\n", "visits").status_code == 422


def test_customers_are_checked_for_their_e_mail(as_role, base):
    client = as_role("planner")
    found = checked(client, "code,name,email\nC2,Quillan,not-an-address\nC1,Marram Bakery,m@example.com\n", "customers")
    assert found["counts"] == {"refuse": 1, "change": 1}
    assert "not an e-mail" in rows(client, found["id"])[2]["detail"]["email"]
    assert Customer.objects.get(code="C1").email == ""

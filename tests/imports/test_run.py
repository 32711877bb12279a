import csv
import datetime
import io

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from aquifer.customers.models import Customer
from aquifer.forecasts.models import Forecast
from aquifer.forecasts.recompute import recompute_all
from aquifer.heaters.models import Heater, Part
from aquifer.imports import run as imports
from aquifer.imports.models import ImportRun, ImportState
from aquifer.water.models import Season, WaterTest
from tests.conftest import JsonClient
from tests.workbooks import workbook

LONG_AGO = datetime.datetime(2020, 1, 1, tzinfo=datetime.UTC)
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
    refused = client.post(f"imports/{found['id']}/confirm", {})
    assert refused.status_code == 409
    assert Heater.objects.count() == 6


def test_a_confirmed_file_is_brought_in_whole_and_forecast(as_role, base):
    client = as_role("planner")
    lines = "".join(f"N-{n},S1,gas_tank,2024-05-01,189,aluminium,2025-05-01\n" for n in range(50))
    found = checked(client, HEATERS + lines)
    assert client.post(f"imports/{found['id']}/confirm", {}).json()["state"] == "applying"
    imports.bring_in(found["id"])
    assert client.get(f"imports/{found['id']}").json()["state"] == "applied"
    assert Heater.objects.filter(tag__startswith="N-").count() == 50
    assert Part.objects.filter(heater__tag="N-7", kind="anode", alloy="aluminium").exists()
    assert Forecast.objects.current().filter(heater__tag="N-7").count() == 4
    # The same file again changes nothing.
    assert checked(client, HEATERS + lines)["counts"] == {"same": 50}


def brought_in(client: JsonClient, text: str, kind: str) -> set[str]:
    """The tags of the heaters that were forecast anew for a file."""
    Forecast.objects.update(computed_at=LONG_AGO)
    found = checked(client, text, kind)
    assert client.post(f"imports/{found['id']}/confirm", {}).json()["state"] == "applying", found
    imports.bring_in(found["id"])
    assert client.get(f"imports/{found['id']}").json()["state"] == "applied"
    return set(Forecast.objects.current().exclude(computed_at=LONG_AGO).values_list("heater__tag", flat=True))


def stored() -> list[tuple]:
    """All that is forecast, but for when it was."""
    names = [one.name for one in Forecast._meta.concrete_fields if one.name not in ("id", "computed_at")]
    return list(Forecast.objects.current().order_by("heater", "component").values_list(*names))


def test_a_file_of_the_register_has_those_zones_forecast_anew_that_it_has_to_do_with(as_role, forecasted):
    client = as_role("planner")
    by_zone = [
        set(Heater.objects.filter(site__zone=zone).values_list("tag", flat=True)) for zone in forecasted["zones"]
    ]
    chalk, upland = forecasted["zones"]
    there = {site.zone_id: site.code for site in forecasted["sites"]}
    new = f"N-1,{there[chalk.pk]},gas_tank,2024-05-01,189,magnesium,\n"
    assert brought_in(client, HEATERS + new, "heaters") == by_zone[0] | {"N-1"}
    assert (
        brought_in(client, f"zone,taken_on,total_hardness_mg_l\n{upland.code},2026-10-01,222\n", "water_tests")
        == (by_zone[1])
    )
    # Whoever moves is missed where it was.
    site = forecasted["sites"][0]
    moved = f"code,customer,name,zone\n{site.code},{site.customer.code},{site.name},{upland.code}\n"
    assert site.zone == chalk
    assert brought_in(client, moved, "sites") == by_zone[0] | by_zone[1] | {"N-1"}
    # A water that is mixed into another's is its, too.
    Season.objects.create(zone=upland, other=chalk, name="summer", share_of_year=0.5, other_share=0.4)
    tested = f"zone,taken_on,total_hardness_mg_l\n{chalk.code},2026-10-02,333\n"
    assert brought_in(client, tested, "water_tests") == by_zone[0] | by_zone[1] | {"N-1"}
    customer = site.customer.code
    assert brought_in(client, f"code,name\n{customer},Somebody Else\n", "customers") == set()
    as_it_is = stored()
    recompute_all()
    assert stored() == as_it_is


def test_a_file_of_findings_teaches_the_whole_base(as_role, forecasted):
    visits = "visit,heater,on,technician,task,depth_before_mm\nv1,T-0,2026-11-01,,flush,12\n"
    heaters = set(Heater.objects.values_list("tag", flat=True))
    assert brought_in(as_role("planner"), visits, "visits") == heaters


def test_a_crash_half_way_leaves_the_register_as_it_was(as_role, base, monkeypatch):
    client = as_role("planner")
    found = checked(client, HEATERS + "N-1,S1,gas_tank,,,,\nT-1,S2,gas_tank,2020-01-01,151,,\n")
    client.post(f"imports/{found['id']}/confirm", {})
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
    client.post(f"imports/{found['id']}/confirm", {})
    Heater.objects.create(tag="N-1", site=base["sites"][0], kind="gas_tank")
    imports.bring_in(found["id"])
    run = ImportRun.objects.get(pk=found["id"])
    assert run.state == ImportState.REFUSED and "changed since" in run.message


def test_an_import_raises_the_version_so_that_an_open_edit_notices(as_role, base):
    client = as_role("planner")
    found = checked(client, HEATERS + "T-1,S2,electric_tank,2020-01-01,151,,\n")
    client.post(f"imports/{found['id']}/confirm", {})
    imports.bring_in(found["id"])
    assert Heater.objects.get(tag="T-1").version == 2


def test_cancelling_writes_nothing(as_role, base):
    client = as_role("planner")
    found = checked(client, HEATERS + "N-1,S1,gas_tank,,,,\n")
    assert client.post(f"imports/{found['id']}/cancel").json()["state"] == "cancelled"
    assert client.post(f"imports/{found['id']}/confirm", {}).status_code == 409
    assert Heater.objects.count() == 6


@pytest.mark.parametrize(
    ("data", "says"),
    [
        ("tag,site,kind\nA,S1,gas_tank\n".encode("utf-16"), "UTF-16"),
        (b"tag,site,kind\nA\xe9,S1,gas_tank\n", "row 2, column 1"),
        (b"tag,site\nA,S1\n", "'kind' is missing"),
        (b"%PDF-1.7\n\x00\x01", "has none"),
        (b"tag,site,kind," + b",".join(b"c%d" % n for n in range(300)) + b"\n", "303 columns"),
        (b"PK\x03\x04 not a workbook", "CSV UTF-8"),
    ],
)
def test_a_file_that_is_no_table_is_refused_with_the_reason(as_role, base, data, says):
    found = checked(as_role("planner"), data)
    assert found["state"] == "refused" and says in found["message"]


def test_an_empty_file_or_unknown_kind_is_refused_at_once(as_role, base):
    assert send(as_role("planner"), "", "heaters").status_code == 422
    assert send(as_role("planner"), "a\n1\n", "invoices").status_code == 422


def test_customers_are_checked_for_their_e_mail(as_role, base):
    client = as_role("planner")
    found = checked(client, "code,name,email\nC2,Quillan,not-an-address\nC1,Marram Bakery,m@example.com\n", "customers")
    assert found["counts"] == {"refuse": 1, "change": 1}
    assert "not an e-mail" in rows(client, found["id"])[2]["detail"]["email"]
    assert Customer.objects.get(code="C1").email == ""


THEIRS = [
    ["Asset No", "Property", "Heater Type", "Tank size (gal)", "Installed", "Colour"],
    ["N-1", "S1", "Gas tank", 50, "9/3/2024", "white"],
    ["N-2", "S2", "electric tank", "151 L", "28/2/2020", "grey"],
]
MATCHES = [
    {"name": "Asset No", "column": "tag"},
    {"name": "Property", "column": "site"},
    {"name": "Heater Type", "column": "kind"},
    {"name": "Tank size (gal)", "column": "capacity_l", "written": "gal"},
    {"name": "Installed", "column": "installed_on", "written": "day first: 9/3/2026"},
    {"name": "Colour", "column": ""},
]


def test_a_workbook_with_its_own_column_names_is_matched_once_and_remembered(as_role, base):
    client = as_role("planner")
    found = checked(client, workbook(*THEIRS))
    assert found["state"] == "matching"
    guessed = {column["name"]: (column["column"], column["written"]) for column in found["columns"]}
    assert guessed == {
        "Asset No": ("tag", ""),
        "Property": ("site", ""),
        "Heater Type": ("kind", ""),
        "Tank size (gal)": ("capacity_l", "gal"),
        "Installed": ("installed_on", ""),
        "Colour": ("", ""),
    }
    assert found["columns"][3]["samples"] == ["50", "151 L"]
    assert client.post(f"imports/{found['id']}/columns", {"matches": MATCHES}).json()["state"] == "checking"
    imports.check(found["id"])
    assert client.get(f"imports/{found['id']}").json()["counts"] == {"create": 2}
    client.post(f"imports/{found['id']}/confirm", {})
    imports.bring_in(found["id"])
    made = Heater.objects.get(tag="N-1")
    assert made.capacity_l == pytest.approx(189.27, abs=0.01)
    assert (made.kind, str(made.installed_on)) == ("gas_tank", "2024-03-09")
    assert Heater.objects.get(tag="N-2").capacity_l == 151
    # The next such file, its columns in another order, is not asked about.
    again = checked(client, workbook(THEIRS[0][::-1], ["white", "9/3/2024", 50, "Gas tank", "S1", "N-1"]))
    assert again["counts"] == {"same": 1}
    asked = client.post(f"imports/{again['id']}/columns/again").json()
    assert asked["state"] == "matching" and asked["columns"][2]["written"] == "gal"


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"name": "Asset No", "column": ""}, "tag, which is needed"),
        ({"name": "Colour", "column": "tag"}, "cannot both be tag"),
        ({"name": "Colour", "column": "hue"}, "cannot be 'hue'"),
        ({"name": "Heater Type", "column": "kind", "written": "gal"}, "cannot be written"),
        ({"name": "Shade", "column": "model"}, "no column 'Shade'"),
    ],
)
def test_a_match_that_cannot_be_is_told(as_role, base, change, says):
    client = as_role("planner")
    found = checked(client, workbook(*THEIRS))
    matches = [match for match in MATCHES if match["name"] != change["name"]] + [change]
    answer = client.post(f"imports/{found['id']}/columns", {"matches": matches})
    assert answer.status_code == 422 and says in answer.json()["message"]
    assert client.get(f"imports/{found['id']}").json()["state"] == "matching"


def test_refused_rows_come_back_as_a_file_that_mends_and_comes_in(as_role, base):
    client = as_role("planner")
    found = checked(client, "tag,site,kind,maker\nN-1,S1,gas_tank,=cmd()\nN-2,S9,gas_tank,=cmd()\n")
    file = b"".join(client.raw.get(f"/api/imports/{found['id']}/refused.csv").streaming_content).decode()
    # A mark by which a spreadsheet knows what it reads; it is no part of the first name.
    assert file.startswith("\ufeff")
    lines = list(csv.reader(io.StringIO(file.removeprefix("\ufeff"))))
    assert lines[0] == ["tag", "site", "kind", "maker", "why refused"]
    assert lines[1] == ["N-2", "S9", "gas_tank", "'=cmd()", "site: there is no site with the code S9"]
    # The right rows come in when somebody says so; the mended file brings the rest.
    assert client.post(f"imports/{found['id']}/confirm", {}).status_code == 409
    client.post(f"imports/{found['id']}/confirm", {"without_refused": True})
    imports.bring_in(found["id"])
    assert "Without 1 refused" in client.get(f"imports/{found['id']}").json()["message"]
    mended = checked(client, file.replace("S9", "S2"))
    assert mended["counts"] == {"create": 1}
    client.post(f"imports/{mended['id']}/confirm", {})
    imports.bring_in(mended["id"])
    assert set(Heater.objects.filter(tag__startswith="N-").values_list("maker", flat=True)) == {"=cmd()"}


def test_a_file_too_large_is_told_so_and_not_kept(as_role, base):
    answer = send(as_role("planner"), b"x" * (32 * 1024 * 1024 + 1))
    assert answer.status_code == 413 and "Split it" in answer.json()["message"]
    assert ImportRun.objects.count() == 0


def test_a_file_is_one_change_in_the_history_and_is_not_taken_back(as_role, base):
    client = as_role("planner")
    found = checked(client, HEATERS + "N-1,S1,gas_tank,,,,\nN-2,S1,gas_tank,,,,\n")
    client.post(f"imports/{found['id']}/confirm", {})
    imports.bring_in(found["id"])
    one, other = (client.get(f"heaters/{Heater.objects.get(tag=tag).pk}/history").json() for tag in ("N-1", "N-2"))
    assert one[0]["change"] == other[0]["change"]
    assert (one[0]["by"], one[0]["file"]) == ("Planner", "file.csv")
    refused = client.post(f"changes/{one[0]['change']}/undo")
    assert refused.status_code == 409 and "file" in refused.json()["message"]


def test_the_columns_that_a_kind_of_file_may_have_are_told(as_role, base):
    told = as_role("planner").get("import-columns?kind=heaters").json()
    by_name = {column["name"]: column for column in told}
    assert by_name["tag"]["required"] and by_name["capacity_l"]["ways"] == ["", "l", "gal"]
    assert as_role("planner").get("import-columns?kind=invoices").status_code == 422


@pytest.mark.parametrize("kind", ["customers", "sites", "heaters", "zones", "water_tests"])
def test_what_is_taken_out_comes_in_again_as_it_is(as_role, base, kind):
    client = as_role("planner")
    Heater.objects.filter(tag="T-0").update(maker="=cmd()", setpoint_c=1 / 3 + 48, recirculated=True)
    own = {"site": base["sites"][0], "zone": base["zones"][0], "taken_on": "2026-01-05", "method": "strip"}
    WaterTest.objects.create(**own, total_hardness_mg_l=250.125)
    file = b"".join(client.raw.get(f"/api/records/{kind}.csv").streaming_content)
    assert b",=cmd()" not in file
    count = {"customers": 1, "sites": 3, "heaters": 6, "zones": 2, "water_tests": 3}[kind]
    assert checked(client, file, kind)["counts"] == {"same": count}


def test_what_was_measured_is_appended_and_never_changed(as_role, base):
    client = as_role("planner")
    header = "zone,taken_on,method,total_hardness_mg_l\n"
    text = header + "CHK,2026-03-09,drop test,17 gpg\nCHK,2026-03-09,strip,290\n"
    found = checked(client, text, "water_tests")
    assert found["counts"] == {"create": 2}
    client.post(f"imports/{found['id']}/confirm", {})
    imports.bring_in(found["id"])
    assert WaterTest.objects.get(method="drop test").total_hardness_mg_l == pytest.approx(291, abs=0.1)
    assert checked(client, text, "water_tests")["counts"] == {"same": 2}
    other = checked(
        client, header + "CHK,2026-03-09,strip,100\nCHK,2026-03-10,strip,1\nCHK,2026-03-10,strip,2\n", "water_tests"
    )
    assert other["counts"] == {"refuse": 2, "create": 1}
    told = rows(client, other["id"])
    assert told[2]["detail"]["total_hardness_mg_l"] == "is 290.0 on record; what was measured is never changed"
    assert "stands already in row 3" in told[4]["detail"]["zone"]


def test_only_who_may_bring_in_may_take_out(as_role, base):
    assert as_role("technician").get("records/heaters.csv").status_code == 403
    assert as_role("planner").get("records/invoices.csv").status_code == 422

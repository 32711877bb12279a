"""Past visits and what stands at a place, as files: appended whole, once, and out again as they came in."""

import datetime

import pytest

from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Heater, Part, PartKind
from aquifer.imports import run as imports
from aquifer.open_ends.models import OpenEnd
from aquifer.places.models import Feature
from aquifer.visits.models import Finding, Visit
from tests.imports.test_run import checked, rows, send

TODAY = datetime.date.today()
YEAR_AGO, MONTH_AGO = TODAY - datetime.timedelta(days=365), TODAY - datetime.timedelta(days=30)
VISITS = "visit,heater,on,technician,task,method,removed,depth_before_mm,outcome\n"
FEATURES = "site,heater,kind,form,condition,where,do_not_operate,seen_on\n"


def bring_in(client, text: str, kind: str, **how):
    run = checked(client, text, kind)
    client.post(f"imports/{run['id']}/confirm", how)
    imports.bring_in(run["id"])
    return client.get(f"imports/{run['id']}").json()


def taken_out(client, kind: str) -> str:
    return b"".join(client.raw.get(f"/api/records/{kind}.csv").streaming_content).decode()


def test_visits_come_in_once_move_the_forecast_and_go_out_as_they_came(as_role, forecasted):
    client, heater = as_role("planner"), forecasted["heaters"][0]
    before = Forecast.objects.current().get(heater=heater, component="sediment").state
    text = VISITS + (
        f"V1,{heater.tag},{YEAR_AGO},R. Ames,flush,drain_and_pulse,heavy,1.2 in,\n"
        f"V1,{heater.tag},{YEAR_AGO},R. Ames,relief_valve_exercise,,,,no_flow\n"
    )
    assert bring_in(client, text, "visits")["state"] == "applied"
    visit = Visit.objects.get()
    assert (visit.on, visit.technician, visit.findings.count()) == (YEAR_AGO, "R. Ames", 2)
    flush = visit.findings.get(task="flush")
    assert flush.depth_before_mm == pytest.approx(30.48) and flush.removed == "heavy"
    assert Forecast.objects.current().get(heater=heater, component="sediment").state != before
    # The same file again, and what is taken out: all of it as it is.
    assert checked(client, text, "visits")["counts"] == {"same": 2}
    assert checked(client, taken_out(client, "visits"), "visits")["counts"] == {"same": 2}
    assert Finding.objects.count() == 2


def test_a_visit_comes_in_whole_or_not_at_all(as_role, base):
    client, heater = as_role("planner"), base["heaters"][0]
    text = VISITS + (
        f"V1,{heater.tag},{YEAR_AGO},,flush,drain_and_pulse,moderate,,\n"
        f"V1,{heater.tag},{YEAR_AGO},,relief_valve_exercise,,,,exploded\n"
        f"V2,{heater.tag},{MONTH_AGO},,flush,drain_and_pulse,moderate,,\n"
    )
    run = checked(client, text, "visits")
    assert run["counts"] == {"refuse": 2, "create": 1}
    told = rows(client, run["id"])
    assert "row 3 of the same visit" in told[2]["detail"]["visit"] and "exploded" in told[3]["detail"]["outcome"]
    client.post(f"imports/{run['id']}/confirm", {"without_refused": True})
    imports.bring_in(run["id"])
    assert Visit.objects.get().on == MONTH_AGO
    mended = text.replace("exploded", "flows_and_reseats")
    assert bring_in(client, mended, "visits")["counts"] == {"create": 2, "same": 1}


@pytest.mark.parametrize(
    ("line", "column", "why"),
    [
        ("V1,NONE,{on},,flush,,,,", "heater", "no heater in service"),
        ("V1,{tag},2999-01-01,,flush,,,,", "on", "outside"),
        ("V1,{tag},1960-01-01,,flush,,,,", "on", "before the heater was installed"),
        ("V1,{tag},{on},,polish,,,,", "task", "unknown"),
        (",{tag},{on},,flush,,,,", "visit", "needed"),
        ("V1,{tag},{on},,flush,,,many,", "depth_before_mm", "not a number"),
    ],
)
def test_what_cannot_be_is_told_by_its_column(as_role, base, line, column, why):
    client, heater = as_role("planner"), base["heaters"][0]
    run = checked(client, VISITS + line.format(tag=heater.tag, on=MONTH_AGO) + "\n", "visits")
    assert run["counts"] == {"refuse": 1}
    assert why in rows(client, run["id"])[2]["detail"][column]


def test_rows_of_one_visit_agree_on_heater_and_day(as_role, base):
    client, (one, other, *_) = as_role("planner"), base["heaters"]
    text = VISITS + f"V1,{one.tag},{YEAR_AGO},,flush,,,,\nV1,{other.tag},{MONTH_AGO},,flush,,,,\n"
    run = checked(client, text, "visits")
    assert set(rows(client, run["id"])[3]["detail"]) == {"heater", "on"}


def test_parts_follow_what_visits_changed_and_what_the_register_knows(as_role, base):
    client, heater = as_role("planner"), base["heaters"][0]
    Part.objects.filter(heater=heater, kind=PartKind.ANODE).delete()
    now = Part.objects.create(heater=heater, kind=PartKind.ANODE, alloy="aluminium", fitted_on=YEAR_AGO)
    earlier = YEAR_AGO - datetime.timedelta(days=300)
    text = VISITS + (
        f"V1,{heater.tag},{earlier},,anode_replacement,,,,\n"
        f"V2,{heater.tag},{YEAR_AGO},,anode_replacement,,,,\n"
        f"V3,{heater.tag},{MONTH_AGO},,anode_replacement,,,,\n"
    )
    assert bring_in(client, text, "visits")["counts"] == {"create": 3}
    rods = Part.objects.filter(heater=heater, kind=PartKind.ANODE).order_by("fitted_on")
    assert [(rod.fitted_on, rod.removed_on) for rod in rods] == [
        (earlier, YEAR_AGO),
        (YEAR_AGO, MONTH_AGO),
        (MONTH_AGO, None),
    ]
    # The rod on record is the one of its day, not fitted a second time; the newest is of the same alloy.
    assert rods[1].pk == now.pk and rods[2].alloy == "aluminium"
    assert [finding.part_id for finding in Finding.objects.order_by("on")] == [rod.pk for rod in rods]
    assert rods[2].history.get().history_change_reason == "file.csv"


def test_features_come_in_once_with_what_they_leave_open(as_role, base):
    client, heater = as_role("planner"), base["heaters"][0]
    code = heater.site.code
    text = FEATURES + (
        f"{code},,house_shut_off,gate,brittle,cellar,yes,{MONTH_AGO}\n"
        f"{code},{heater.tag},tank_drain,,sound,,no,{MONTH_AGO}\n"
    )
    assert bring_in(client, text, "features")["counts"] == {"create": 2}
    assert OpenEnd.objects.get().feature.kind == "house_shut_off"
    assert Feature.objects.get(kind="tank_drain").heater == heater
    assert checked(client, text, "features")["counts"] == {"same": 2}
    assert checked(client, taken_out(client, "features"), "features")["counts"] == {"same": 2}


@pytest.mark.parametrize(
    ("line", "column"),
    [
        ("NONE,,house_shut_off,gate,sound,,no,{on}", "site"),
        ("{site},NONE,tank_drain,,sound,,no,{on}", "heater"),
        ("{site},,tank_drain,,sound,,no,{on}", "heater"),
        ("{site},,house_shut_off,gate,purple,,no,{on}", "condition"),
        ("{site},,house_shut_off,braided,sound,,no,{on}", "form"),
        ("{site},{tankless},tank_drain,,sound,,no,{on}", "kind"),
        ("{site},{elsewhere},tank_drain,,sound,,no,{on}", "heater"),
    ],
)
def test_a_feature_that_cannot_be_is_told_by_its_column(as_role, base, line, column):
    client, (heater, elsewhere, _, tankless, *_) = as_role("planner"), base["heaters"]
    said = line.format(site=heater.site.code, elsewhere=elsewhere.tag, tankless=tankless.tag, on=MONTH_AGO)
    run = checked(client, FEATURES + said + "\n", "features")
    assert run["counts"] == {"refuse": 1} and column in rows(client, run["id"])[2]["detail"]
    assert not Feature.objects.exists()


def test_a_kind_that_no_file_has_is_refused_with_those_it_may_have(as_role, base):
    answer = send(as_role("planner"), VISITS, "invoices")
    assert answer.status_code == 422 and "visits, features" in answer.json()["message"]
    assert Heater.objects.count() == len(base["heaters"])


READ = "visit,heater,on,task,grade,fitted_alloy,fitted_length_mm,reading,value,unit\n"


def test_what_was_read_and_seen_comes_in_with_its_visit_and_goes_out_again(as_role, base):
    client, heater = as_role("planner"), base["heaters"][0]
    text = READ + (
        f"V1,{heater.tag},{YEAR_AGO},anode_inspection,half,,,,,\n"
        f"V1,{heater.tag},{YEAR_AGO},,,,,verify.tap_c,131,°F\n"
        f"V1,{heater.tag},{YEAR_AGO},,,,,drain.minutes,12,min\n"
        f"V1,{heater.tag},{YEAR_AGO},,,,,relief.outlet,drips steadily,\n"
        f"V1,{heater.tag},{YEAR_AGO},,,,,settings.left,at the mark,\n"
    )
    assert bring_in(client, text, "visits")["counts"] == {"create": 5}
    visit = Visit.objects.get()
    assert visit.findings.count() == 1
    assert visit.readings == {
        "verify.tap_c": pytest.approx(55.0), "drain.minutes": 12, "relief.outlet": "drips",
        "settings.left": "at the mark",
    }  # fmt: skip
    log = str(client.get(f"heaters/{heater.pk}/log").json())
    assert "drips steadily" in log and "Ran empty in 12 min" in log
    open_end = OpenEnd.objects.get(heater=heater)
    assert (open_end.observation, open_end.severity, open_end.raised_on) == ("relief.outlet", "defect", YEAR_AGO)
    assert open_end.history.get().history_change_reason == "file.csv"
    out = taken_out(client, "visits")
    assert "relief.outlet,drips," in out and "drain.minutes,12.0," in out
    assert checked(client, out, "visits")["counts"] == {"same": 5}


def test_a_look_that_was_right_since_leaves_nothing_open(as_role, base):
    client, heater = as_role("planner"), base["heaters"][0]
    text = READ + (
        f"V1,{heater.tag},{YEAR_AGO},,,,,relief.outlet,streams,\nV2,{heater.tag},{MONTH_AGO},,,,,relief.outlet,dry,\n"
    )
    assert bring_in(client, text, "visits")["counts"] == {"create": 2}
    assert not OpenEnd.objects.exists()
    # An older one that comes in afterwards does not open it either.
    earlier = YEAR_AGO - datetime.timedelta(days=90)
    bring_in(client, READ + f"V0,{heater.tag},{earlier},,,,,relief.outlet,roared,\n", "visits")
    assert Visit.objects.count() == 3 and not OpenEnd.objects.exists()


@pytest.mark.parametrize(
    ("line", "column", "why"),
    [
        (",,,,,,", "task", "needed, or a reading"),
        (",,,,verify.tap_c,hot,", "value", "not a number"),
        (",,,,verify.tap_c,150,", "value", "outside"),
        (",,,,drain.minutes,3,h", "value", "not a number"),
        (",,,,relief.outlet,green,", "value", "allowed: dry, weeps"),
        (",,,,relief.outlet,dry,mm", "value", "no unit"),
        (",,,,relief.outlet,,", "value", "needed"),
        (",,,,settings.left,,", "value", "needed"),
        ("flush,,,,,12,", "reading", "of what the value is"),
        (",,,,smell,dry,", "reading", "unknown"),
        (",,,,flush.depth_before_mm,12,", "reading", "unknown"),
        ("flush,,magnesium,,,,", "fitted_alloy", "nothing is fitted"),
        ("relief_valve_replacement,,magnesium,,,,", "fitted_alloy", "allowed: fitted_set_pressure_kpa"),
    ],
)
def test_what_cannot_have_been_read_or_fitted_is_told_by_its_column(as_role, base, line, column, why):
    client, heater = as_role("planner"), base["heaters"][0]
    run = checked(client, READ + f"V1,{heater.tag},{MONTH_AGO},{line}\n", "visits")
    assert run["counts"] == {"refuse": 1}
    assert why in rows(client, run["id"])[2]["detail"][column]


def test_the_same_reading_stands_once_in_a_visit(as_role, base):
    client, heater = as_role("planner"), base["heaters"][0]
    one = f"V1,{heater.tag},{MONTH_AGO},,,,,drain.minutes,12,\n"
    run = checked(client, READ + one + one, "visits")
    assert "row 2 of the same visit" in rows(client, run["id"])[3]["detail"]["reading"]


def test_a_new_part_is_what_the_file_says_it_is_and_else_like_the_old_one(as_role, base):
    client, (one, other, *_) = as_role("planner"), base["heaters"]
    for heater in (one, other):
        Part.objects.filter(heater=heater, kind=PartKind.ANODE).delete()
        Part.objects.create(heater=heater, kind=PartKind.ANODE, alloy="magnesium", length_mm=1100, count=2)
    text = READ + (
        f"V1,{one.tag},{YEAR_AGO},anode_replacement,,aluminium,900,,,\n"
        f"V2,{other.tag},{YEAR_AGO},anode_replacement,,,,,,\n"
    )
    assert bring_in(client, text, "visits")["counts"] == {"create": 2}
    told, untold = (Part.objects.get(heater=heater, kind=PartKind.ANODE, removed_on=None) for heater in (one, other))
    assert (told.alloy, told.length_mm, told.count, told.fitted_on) == ("aluminium", 900, 1, YEAR_AGO)
    assert (untold.alloy, untold.length_mm, untold.count) == ("magnesium", 1100, 2)
    assert checked(client, taken_out(client, "visits"), "visits")["counts"] == {"same": 2}


def test_a_visit_that_was_entered_twice_is_asked_about_and_comes_in_all_the_same(as_role, base):
    client, heater = as_role("planner"), base["heaters"][0]
    near = YEAR_AGO + datetime.timedelta(days=3)
    first = f"V1,{heater.tag},{YEAR_AGO},,flush,drain_and_pulse,moderate,30,\n"
    assert bring_in(client, VISITS + first, "visits")["state"] == "applied"
    again = (
        f"V2,{heater.tag},{near},,flush,drain_and_pulse,moderate,30,\n"
        f"V3,{heater.tag},{MONTH_AGO},,flush,drain_and_pulse,moderate,30,\n"
        f"V4,{heater.tag},{MONTH_AGO},,flush,drain_and_pulse,moderate,30,\n"
        f"V5,{base['heaters'][1].tag},{near},,flush,drain_and_pulse,moderate,30,\n"
    )
    run = checked(client, VISITS + again, "visits")
    told = {one["key"]: one["detail"].get("entered twice?") for one in rows(client, run["id"]).values()}
    assert told == {
        "V2": f"the visit of {YEAR_AGO.day} {YEAR_AGO:%B %Y} says the same", "V3": None,
        "V4": f"the visit of {MONTH_AGO.day} {MONTH_AGO:%B %Y} says the same", "V5": None,
    }  # fmt: skip
    assert bring_in(client, VISITS + again, "visits")["counts"]["create"] == 4 and Visit.objects.count() == 5

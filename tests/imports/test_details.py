"""What else is told of sites, heaters, parts and features, as a file: in, and out again."""

import datetime

import pytest

from aquifer.heaters.models import Heater, Part, PartKind
from aquifer.places.models import Feature
from tests.imports.test_run import checked, rows
from tests.imports.test_visits_and_features import bring_in, taken_out

HEAD = "site,heater,of,kind,detail,value,unit\n"


@pytest.fixture
def place(base):
    heater = base["heaters"][0]
    Part.objects.get_or_create(heater=heater, kind=PartKind.DRAIN_VALVE, removed_on=None)
    Feature.objects.create(
        site=heater.site, heater=heater, kind="discharge_pipe", form="", condition="sound",
        seen_on=datetime.date(2025, 3, 1),
    )  # fmt: skip
    return heater


def test_details_come_in_and_go_out_as_they_came(as_role, place):
    client, code, tag = as_role("planner"), place.site.code, place.tag
    text = HEAD + (
        f"{code},,site,,pays,tenant,\n"
        f",{tag},heater,,insulation_mm,2,in\n"
        f",{tag},heater,,altitude_m,420,m\n"
        f",{tag},part,drain_valve,grip,slot,\n"
        f",{tag},feature,discharge_pipe,end_mm,70,cm\n"
    )
    version = place.version
    assert bring_in(client, text, "details")["counts"] == {"change": 5}
    heater = Heater.objects.select_related("site").get(pk=place.pk)
    assert heater.site.details == {"pays": "tenant"}
    assert heater.details == {"insulation_mm": pytest.approx(50.8), "altitude_m": 420}
    assert heater.version == version + 1
    assert heater.history.first().history_change_reason == "file.csv"
    assert Part.objects.get(heater=heater, kind=PartKind.DRAIN_VALVE).details == {"grip": "slot"}
    assert Feature.objects.get().details == {"end_mm": 700}
    # What they ask of whoever comes reaches the guide.
    guide = as_role("technician").get(f"heaters/{heater.pk}/guide?component=sediment").json()
    assert "turned by its slot" in str(guide)
    assert checked(client, taken_out(client, "details"), "details")["counts"] == {"same": 5}


def test_a_detail_that_is_told_otherwise_is_shown_before_it_is_changed(as_role, place):
    client = as_role("planner")
    bring_in(client, HEAD + f",{place.tag},heater,,lining,glass,\n", "details")
    run = checked(client, HEAD + f",{place.tag},heater,,lining,copper,\n", "details")
    assert rows(client, run["id"])[2]["detail"] == {"lining": "glass → copper"}


@pytest.mark.parametrize(
    ("line", "column", "why"),
    [
        (",NONE,heater,,lining,glass,", "heater", "no heater in service"),
        ("NONE,,site,,pays,owner,", "site", "no site with the code"),
        (",,heater,,lining,glass,", "heater", "needed"),
        (",,site,,pays,owner,", "site", "needed"),
        (",,feature,discharge_pipe,end_mm,12,", "site", "needed"),
        (",{tag},heater,,colour,red,", "detail", "allowed: lining"),
        (",{tag},heater,,lining,gold,", "value", "none of: glass"),
        (",{tag},heater,,insulation_mm,thick,", "value", "not a number"),
        (",{tag},heater,,insulation_mm,900,", "value", "outside"),
        (",{tag},heater,,altitude_m,4,ft", "value", "not a number"),
        (",{tag},part,igniter,form,spark,", "kind", "no part of it; in place are"),
        (",{tag},feature,drain_line,marks,marked,", "kind", "0 of 'drain_line'"),
        (",{tag},house,,lining,glass,", "of", "allowed: site, heater, part, feature"),
    ],
)
def test_what_cannot_be_is_told_by_its_column(as_role, place, line, column, why):
    client = as_role("planner")
    run = checked(client, HEAD + line.format(tag=place.tag) + "\n", "details")
    assert run["counts"] == {"refuse": 1}
    assert why in rows(client, run["id"])[2]["detail"][column]


def test_the_same_detail_stands_once_in_a_file_and_at_its_own_site(as_role, place, base):
    client, other = as_role("planner"), next(one for one in base["heaters"] if one.site_id != place.site_id)
    text = HEAD + (
        f",{place.tag},heater,,lining,glass,\n,{place.tag},heater,,lining,copper,\n"
        f"{other.site.code},{place.tag},heater,,drain_place,left,\n"
    )
    told = rows(client, checked(client, text, "details")["id"])
    assert "row 2" in told[3]["detail"]["detail"]
    assert "does not stand at" in told[4]["detail"]["heater"]

"""Which plan fits a site, against what follows from a plan's own words whatever comes."""

import pytest

from aquifer.core.vocabulary import Component
from aquifer.heaters.models import Heater
from aquifer.money.models import Contract, ContractPlan
from tests.projections.test_projections import priced  # noqa: F401

EVERYTHING = [str(component) for component in Component]


@pytest.fixture
def plans(priced):  # noqa: F811
    for name, yearly, includes, call_out, off in (
        ("Nothing for it", "50", [], False, "0"), ("All of it", "100", EVERYTHING, True, "1"),
        ("Dear", "5000", EVERYTHING, True, "1"), ("Half off parts", "0", [], False, "0.5"),
    ):  # fmt: skip
        ContractPlan.objects.create(name=name, yearly=yearly, includes=includes, call_out=call_out, parts_off=off)
    return priced


def fit(client, site):
    told = client.get(f"sites/{site.pk}/plan-fit")
    assert told.status_code == 200, told.json()
    return told.json(), {row["plan"]: row for row in told.json()["rows"]}


def test_each_plan_comes_to_what_its_words_say(as_role, plans):
    site = plans["heaters"][0].site
    told, by = fit(as_role("planner"), site)
    assert list(by) == ["", "All of it", "Dear", "Half off parts", "Nothing for it"]
    for end in ("low", "middle", "high"):
        # A fee that pays for nothing comes on top, in each of the same futures; one that pays for all is all.
        assert by["Nothing for it"]["pays"][end] == pytest.approx(by[""]["pays"][end] + 50, abs=0.02)
        assert by["All of it"]["pays"][end] == pytest.approx(100, abs=0.02)
        other = {"low": "high", "high": "low"}.get(end, end)
        assert by["Dear"]["left"][end] == pytest.approx(5000 - told["costs"][other], abs=0.02)
    assert 0 < by["Half off parts"]["pays"]["middle"] < by[""]["pays"]["middle"]
    assert told["costs"]["low"] > 0 and told["costs"]["low"] <= told["costs"]["middle"] <= told["costs"]["high"]
    assert told["missing"] == []


def test_that_fits_of_which_the_customer_pays_least_and_we_lose_nothing(as_role, plans):
    site, planner = plans["heaters"][0].site, as_role("planner")
    told, by = fit(planner, site)
    paying = [row for row in told["rows"] if row["pays_off"] >= 0.8]
    (chosen,) = [row for row in told["rows"] if row["fits"]]
    assert chosen["pays"]["middle"] == min(row["pays"]["middle"] for row in paying)
    assert by["Dear"]["pays_off"] == 1 and by["Dear"]["plan_id"] == ContractPlan.objects.get(name="Dear").pk
    # Where the work costs more than anybody pays, none fits.
    ContractPlan.objects.exclude(name="All of it").delete()
    ContractPlan.objects.update(yearly="0")
    _, by = fit(planner, site)
    assert by["All of it"]["pays_off"] == 0 and not by["All of it"]["fits"]


def test_the_plan_in_force_is_marked_and_a_site_without_heaters_has_none(as_role, plans):
    first, other = plans["heaters"][0], as_role("technician")
    Contract.objects.create(site=first.site, plan=ContractPlan.objects.get(name="Dear"), begins_on=plans["today"])
    assert [row["plan"] for row in fit(other, first.site)[0]["rows"] if row["is_now"]] == ["Dear"]
    Heater.objects.filter(site=first.site).update(archived_at="2026-01-01T00:00Z")
    assert fit(other, first.site)[0]["rows"] == []
    assert other.get("sites/999999/plan-fit").status_code == 404

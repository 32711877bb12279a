"""The years ahead over HTTP: the company's practice beside another, whole sites, and nothing kept."""

import pytest

from aquifer.company.models import Company
from aquifer.forecasts.models import Forecast
from aquifer.review import ahead


def test_the_companys_practice_stands_beside_another_with_the_same_luck(as_role, base):
    told = as_role("planner").get("review/ahead?years=3&practice=hard_water_half_yearly").json()
    now, other = told["sides"]
    assert (now["practice"], other["practice"]) == (Company.current().practice, "hard_water_half_yearly")
    assert len(told["until"]) == len(now["hours"]) == len(told["hours_more"]) == 3
    assert told["asked_of"] == told["heaters"] > 0
    for side in told["sides"]:
        for fan in [*side["hours"], *(fan for count in side["counts"] for fan in count["by_year"])]:
            assert fan["low"] <= fan["middle"] <= fan["high"]
    same = as_role("planner").get(f"review/ahead?practice={now['practice']}").json()
    assert same["hours_more"] == [{"low": 0, "middle": 0, "high": 0}] * 3 and same["fewer_share"] == 0
    assert Company.current().practice == now["practice"]


def test_a_large_base_is_answered_for_by_some_of_its_sites(as_role, base, monkeypatch):
    whole = as_role("lead").get("review/ahead").json()
    monkeypatch.setattr(ahead, "MOST_HEATERS", max(whole["heaters"] // 2, 1))
    some = as_role("lead").get("review/ahead").json()
    assert some["heaters"] == whole["heaters"] and 0 < some["asked_of"] < whole["asked_of"]


@pytest.mark.parametrize("query", ["years=0", "years=9", "practice=weekly"])
def test_what_cannot_be_asked_is_refused(as_role, base, query):
    assert as_role("lead").get(f"review/ahead?{query}").status_code == 422


def test_nothing_is_stored(as_role, forecasted):
    before = Forecast.objects.count()
    as_role("lead").get("review/ahead")
    assert Forecast.objects.count() == before

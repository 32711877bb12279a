"""Searches for a fault over HTTP: told in the company's units, graded, kept, and no record is touched."""

import pytest

from aquifer.company.models import Company
from aquifer.core.bench.scenario import scenarios
from aquifer.core.bench.trouble.trouble import troubles
from aquifer.core.units import System
from aquifer.visits.models import Visit
from aquifer.workbench.models import Practised
from tests.core.searcher import Searcher


def told(client, acts=(), at_s=0, path="bench/search", **more):
    body = {
        "trouble": "stone_cold",
        "acts": [{"at_s": at, "handle": handle, "to": to} for at, handle, to in acts],
        "at_s": at_s,
        **more,
    }
    return client.post(path, body)


def test_what_a_deed_shows_is_told_with_the_time_it_took(as_role, base):
    answer = told(as_role("apprentice"), [(0, "covers", "off"), (120, "upper_element", "volts")]).json()
    assert [(one["point"], one["says"]) for one in answer["shown"]] == [
        ("covers", "Off. Terminals are bare."),
        ("upper_element", "240.0 V."),
    ]
    assert answer["at_s"] == 240 and answer["shown"][1]["at_s"] == 240
    assert answer["guide"] is None and answer["cause"] == "" and answer["harms"] == []


def test_it_is_told_in_the_units_of_the_company(as_role, base):
    Company.current()
    Company.objects.update(units=System.US)
    answer = told(as_role("apprentice"), [(0, "faucet", "read it")], guided=True).json()
    assert answer["shown"][0]["says"] == "54 °F at its hottest."
    assert answer["guide"]["step"] == "arrival.air"


def test_what_hurts_names_its_deed_and_the_step_to_read_again(as_role, base):
    answer = told(as_role("technician"), [(0, "covers", "off"), (120, "upper_element", "ohms")], seed=3).json()
    assert [(one["name"], one["act"]) for one in answer["harms"]] == [("shock", 1)]
    assert answer["harms"][0]["read"]["do"] == "Test meter on a live outlet, terminals, live outlet again."


def test_what_the_hidden_fault_is_stands_in_no_answer_before_the_end(as_role, base):
    client = as_role("apprentice")
    offered = next(one for one in client.get("bench/troubles").json() if one["name"] == "stone_cold")
    assert "fault" not in offered and len(offered["causes"]) > 10
    assert "upper element is open" not in str(told(client).json())


def test_it_is_graded_and_kept_and_no_record_changes(as_role, base):
    searcher = Searcher("stone_cold", 3)
    done = searcher.follows()
    acts = [(one.at_s, one.handle, one.to) for one in done.acts]
    client, before = as_role("apprentice"), Visit.objects.count()
    answer = told(client, acts, done.now_s, "bench/searched", seed=3, guided=True)
    assert answer.status_code == 201 and answer.json()["grade"]["passed"]
    assert answer.json()["search"]["guide"]["step"] == ""
    kept = Practised.objects.get()
    assert (kept.scenario, kept.passed, kept.guided, len(kept.acts)) == ("stone_cold", True, True, len(acts))
    assert Visit.objects.count() == before
    offered = next(one for one in client.get("bench/troubles").json() if one["name"] == "stone_cold")
    assert offered["tries"] == 1 and offered["passed_guided"] and offered["passed_free"] is None
    # A wrong note of the cause passes nothing, and says what to read again.
    noted = [*acts, (acts[-1][0], "cause", "wire_burnt")]
    grade = told(client, noted, done.now_s, "bench/searched", seed=3).json()["grade"]
    assert not grade["passed"]
    wrong = next(one for one in grade["marks"] if one["name"] == "cause")
    assert wrong["read"]["title"] == "What is wrong with the hot water"


@pytest.mark.parametrize(
    ("acts", "said"),
    [
        ([(0, "flue", "look")], "there is no flue"),
        ([(0, "cold", "half")], "cold = 'half'; allowed: shut, open"),
        ([(9, "cold", "shut"), (3, "cold", "open")], "in the order of their seconds"),
        ([(0, "cause", "ghosts")], "cause = 'ghosts'"),
        ([(0, "deviation", "arrival.air")], "arrival.air"),
    ],
)
def test_what_cannot_be_is_refused_in_words(as_role, base, acts, said):
    answer = told(as_role("technician"), acts, guided=True)
    assert answer.status_code == 422 and said in answer.json()["message"], answer.json()


def test_a_complaint_that_there_is_not_is_refused_with_those_that_there_are(as_role, base):
    answer = told(as_role("technician"), trouble="ghosts")
    assert answer.status_code == 404 and "pilot_again" in answer.json()["fields"]["trouble"]


def test_no_complaint_is_called_as_a_visit_is():
    assert not set(troubles()) & set(scenarios()) and len(troubles()) + len(scenarios()) >= 40

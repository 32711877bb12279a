"""Practice over HTTP: reckoned from its acts, stopped where it hurts, graded, kept; no record is touched."""

from time import perf_counter

import pytest

from aquifer.company.models import Company
from aquifer.core.units import System
from aquifer.heaters.models import Heater
from aquifer.visits.models import Event, Visit
from aquifer.workbench import practice
from aquifer.workbench.models import Practised
from tests.core.apprentice import follows


@pytest.fixture(autouse=True)
def _nothing_kept_ready():
    practice._kept.clear()


def told(client, acts=(), at_s=60, path="bench/practice", **more):
    body = {
        "scenario": "gas_yearly",
        "acts": [{"at_s": at, "handle": handle, "to": to} for at, handle, to in acts],
        "at_s": at_s,
        **more,
    }
    return client.post(path, body)


def test_an_apprentice_sees_what_is_seen_and_what_is_hidden_only_in_a_cut_tank(as_role, base):
    client = as_role("apprentice")
    shut = told(client, [(5, "tap", "open")]).json()
    assert shut["inside"] is None and shut["guide"] is None
    assert shut["seen"]["tap_runs"] == "runs" and shut["seen"]["tap_c"] > 50 and shut["seen"]["outlet"] == ""
    cut = told(client, [(5, "tap", "open"), (50, "look", "relief pipe")], cut=True).json()
    assert cut["inside"]["share"] == 1 and cut["inside"]["loose_share"] > 0
    assert cut["seen"]["outlet"] == "floor drain"


def test_the_clock_stops_where_something_goes_wrong_and_goes_on_when_it_is_known(as_role, base):
    client = as_role("apprentice")
    acts = [(20, "drain", "open")]
    stopped = told(client, acts, 600).json()
    assert [(one["name"], one["act"]) for one in stopped["harms"]] == [("scalded", 0)]
    assert stopped["at_s"] < 30 and stopped["harms"][0]["read"]["do"] == "Lay its end in a drain. Somebody watches it."
    later = told(client, acts, 600, harms=1).json()
    assert later["at_s"] > stopped["at_s"] and [one["name"] for one in later["harms"]] == ["scalded", "flooded"]
    # Back to before that act: nothing has happened.
    assert told(client, [], 19).json()["harms"] == []


def test_what_is_kept_ready_is_what_would_be_reckoned_anew(as_role, base):
    client = as_role("technician")
    acts = [(20, "dial", "pilot"), (30, "hose", "on"), (40, "drain", "open"), (200, "cold", "shut")]
    pieces = [told(client, acts[:count], 60 * count + 30).json() for count in range(5)]
    practice._kept.clear()
    assert told(client, acts, 270).json() == pieces[-1]
    # An act more is not a practice anew.
    began = perf_counter()
    told(client, [*acts, (3000, "cold", "open")], 3000)
    long = perf_counter() - began
    began = perf_counter()
    told(client, [*acts, (3000, "cold", "open"), (3001, "cold", "shut")], 3002)
    assert perf_counter() - began < long / 3


def test_it_is_graded_kept_and_shown_to_the_lead_and_no_record_changes(as_role, base):
    done, _ = follows("gas_yearly", 3)
    acts = [(one.at_s, one.handle, one.to) for one in done.acts]
    client = as_role("apprentice")
    before = (Heater.objects.count(), Visit.objects.count(), Event.objects.count())
    answer = told(client, acts, done.now_s, "bench/practised", seed=3, guided=True)
    assert answer.status_code == 201
    grade = answer.json()["grade"]
    assert grade["passed"] and all(one["read"] is None for one in grade["marks"])
    assert answer.json()["practice"]["guide"]["step"] == ""
    assert (Heater.objects.count(), Visit.objects.count(), Event.objects.count()) == before
    kept = Practised.objects.get()
    assert (kept.by.username, kept.passed, kept.guided, len(kept.acts)) == ("apprentice", True, True, len(acts))
    mine = client.get("bench/scenarios").json()[0]
    assert (mine["tries"], mine["best_share"]) == (1, 1.0) and mine["passed_guided"] and mine["passed_free"] is None
    free = told(
        client, [act for act in acts if act[1] not in ("done", "deviation")], done.now_s, "bench/practised", seed=3
    )
    assert free.json()["grade"]["passed"]
    people = {one["name"]: one for one in as_role("lead").get("bench/people").json()}
    assert people[kept.by.name]["passed"] == ["gas_yearly"] and people[kept.by.name]["tries"] == 2


def test_a_look_inside_passes_nothing_and_nothing_done_is_graded_with_what_to_read(as_role, base):
    done, _ = follows("gas_yearly", 3)
    acts = [(one.at_s, one.handle, one.to) for one in done.acts]
    told(as_role("apprentice"), acts, done.now_s, "bench/practised", seed=3, cut=True)
    assert not Practised.objects.get().passed
    grade = told(as_role("technician"), [], 60, "bench/practised").json()["grade"]
    assert not grade["passed"]
    missed = {one["name"]: one for one in grade["marks"] if not one["good"]}
    assert missed["tap_c"]["says"] == "The first hot water was not noted."
    assert missed["energy_first"]["read"]["do"].startswith("Turn the dial to PILOT")


def test_figures_come_in_the_companys_units(as_role, base):
    Company.current()
    Company.objects.update(units=System.US)
    acts = [(5, "tap", "open"), (50, "tap_c", "40"), (60, "tap", "shut")]
    marks = told(as_role("apprentice"), acts, 70, "bench/practised").json()["grade"]["marks"]
    assert "°F off" in next(one["says"] for one in marks if one["name"] == "tap_c")


@pytest.mark.parametrize(
    ("said", "status", "words"),
    [
        ({"scenario": "mine"}, 404, "no such scenario"),
        ({"acts": [(5, "breaker", "off")]}, 422, "there is no breaker to turn; allowed: cold"),
        ({"acts": [(5, "drain", "wide")]}, 422, "drain = 'wide'; allowed: open, cracked, shut"),
        ({"acts": [(5, "hammer", "on")]}, 422, "allowed: cold, main"),
        ({"acts": [(50, "tap", "open"), (5, "tap", "shut")]}, 422, "order of their seconds"),
        ({"acts": [(5, "done", "nothing.at_all")], "guided": True}, 422, "there is no step 'nothing.at_all'"),
        ({"at_s": 10**6}, 422, "less than or equal"),
    ],
)
def test_what_cannot_be_is_refused_with_what_is_allowed(as_role, base, said, status, words):
    answer = told(as_role("apprentice"), **said)
    assert answer.status_code == status
    assert words in str(answer.json())

"""Heaters to practise on that the company writes itself, and one made of a heater on record."""

import tomllib
import uuid

import pytest

from aquifer.core.bench.scenario import read, scenarios, written
from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Heater
from aquifer.visits.models import Finding, Visit
from aquifer.workbench.models import Practised, Written

OURS = """
[our_cellar]
title = "Our cellar"
says = "A gas tank under the office. Flush it."
kind = "gas_tank"
due = ["sediment", "relief_valve"]
asks = ["tap_c"]
build = { litres = 150, loose_l = [0.5, 1.5], relief_weeps = true }

[our_shop]
title = "In our shop"
says = "No hot water."
kind = "gas_tank"
ignition = "pilot"
vent = "natural"
complaint = "none_gas_pilot"
fault = "magnet"
"""


def keeps(client, text):
    return client.raw.put("/api/bench/written", {"text": text}, "application/json")


def test_what_is_written_is_offered_practised_and_taken_out(as_role, base):
    lead, apprentice = as_role("lead"), as_role("apprentice")
    kept = keeps(lead, OURS)
    assert [(one["name"], one["is_trouble"]) for one in kept.json()] == [("our_cellar", False), ("our_shop", True)]
    assert "our_cellar" in [one["name"] for one in apprentice.get("bench/scenarios").json()]
    assert "our_shop" in [one["name"] for one in apprentice.get("bench/troubles").json()]
    body = {"scenario": "our_cellar", "acts": [{"at_s": 5, "handle": "lever", "to": "up"}], "at_s": 60}
    assert apprentice.post("bench/practice", body).json()["seen"]["relief_runs"] == "runs"
    ended = apprentice.post("bench/searched", {"trouble": "our_shop", "acts": [], "at_s": 60})
    assert ended.status_code == 201 and Practised.objects.get().scenario == "our_shop"
    # Written anew it is another heater, even for who stands at it.
    dead = keeps(lead, OURS.replace("relief_weeps", "relief_stuck"))
    assert dead.status_code == 200
    assert apprentice.post("bench/practice", body).json()["seen"]["relief_runs"] == "dry"
    left = lead.raw.delete("/api/bench/written/our_cellar").json()
    assert [one["name"] for one in left] == ["our_shop"]
    assert apprentice.post("bench/practice", body).status_code == 404
    assert lead.raw.delete("/api/bench/written/our_cellar").status_code == 404


def test_nobody_but_who_keeps_people_reads_what_is_hidden(as_role, base):
    keeps(as_role("lead"), OURS)
    assert as_role("apprentice").get("bench/written").status_code == 403
    assert "magnet" not in str(as_role("apprentice").get("bench/scenarios").json())


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [
        ('kind = "gas_tank"\ndue', 'kind = "kettle"\ndue', "kind = kettle; allowed: gas_tank"),
        ("litres = 150", "litres = 5", "build.litres = 5; allowed: 20 to 2000"),
        ("[0.5, 1.5]", "[0.5, -1]", "build.loose_l = [0.5, -1]; allowed: 0 to 100"),
        ("relief_weeps = true", "relief_weeps = 1", "build.relief_weeps allowed: true, false"),
        ("relief_weeps = true", 'outlet = "river"', "build.outlet allowed: floor drain, open, capped"),
        ('fault = "magnet"', 'fault = "ghosts"', "fault allowed: cartridge"),
        ("[our_cellar]", "[gas_yearly]", "gas_yearly ships with Aquifer"),
        ("[our_cellar]", "[our_cellar", "That is not TOML"),
        ("[our_cellar]\n", "", "title stands in no table"),
        ("[our_cellar]", '["our cellar"]', "our cellar is no name"),
        ("[our_cellar]", '["unser_käller"]', "unser_käller is no name"),
        ('says = "No hot water."', "says = 2026-11-27", "Trouble our_shop: says is missing"),
        ('title = "In our shop"', 'title = "In our shop\\u007f"', "Illegal character '\\x7f'"),
        (OURS, "# nothing", "There is no heater in it"),
    ],
)
def test_what_cannot_be_is_refused_in_words_and_nothing_is_kept(as_role, base, old, new, said):
    assert old in OURS
    answer = keeps(as_role("lead"), OURS.replace(old, new))
    assert answer.status_code == 422 and said in answer.json()["message"], answer.json()
    assert not Written.objects.exists()


def test_a_name_with_a_smile_is_kept_as_it_was_written(as_role, base):
    lead = as_role("lead")
    told = OURS.replace("Our cellar", "Our cellar \U0001f600").replace("In our shop", 'Größe \\"L\\" \U0001f525')
    assert keeps(lead, told).status_code == 200
    assert "Our cellar \U0001f600" in str(lead.get("bench/scenarios").json())
    assert 'Größe "L" \U0001f525' in str(as_role("apprentice").get("bench/troubles").json()).replace("\\", "")


def test_what_no_longer_reads_is_not_offered_and_can_be_mended(as_role, base):
    lead = as_role("lead")
    assert keeps(lead, OURS).status_code == 200
    Written.objects.filter(name="our_cellar").update(text='[our_cellar]\nkind = "a kind of another year"')
    Written.objects.filter(name="our_shop").update(text="[our_shop")
    assert "our_cellar" not in [one["name"] for one in lead.get("bench/scenarios").json()]
    assert "our_shop" not in [one["name"] for one in lead.get("bench/troubles").json()]
    assert "another year" in str(lead.get("bench/written").json())
    assert keeps(lead, OURS).status_code == 200
    assert "our_shop" in [one["name"] for one in lead.get("bench/troubles").json()]


def test_a_heater_on_record_becomes_one_to_practise_on_without_its_names(as_role, base):
    heater = Heater.objects.filter(kind="gas_tank").select_related("site__customer").first()
    heater.capacity_l, heater.height_mm, heater.setpoint_c = 151.0, 1200.0, 55.0
    heater.save()
    found(heater, base["today"], task="flush", depth_before_mm=40.0)
    found(heater, base["today"], task="relief_valve_exercise", outcome="no_flow")
    lead = as_role("lead")
    text = lead.get(f"bench/written/of-heater?heater_id={heater.pk}").json()["text"]
    build = tomllib.loads(text)[f"as_found_{heater.pk}"]["build"]
    assert (build["litres"], build["set_c"], build["relief_stuck"]) == (151, 55, True)
    # Forty millimetres on the floor of 151 L, 1.2 m high.
    assert build["loose_l"] + build["hard_l"] == pytest.approx(40 * 0.151 / 1.2, abs=0.02)
    site = heater.site
    for name in (site.street, site.customer.name, heater.tag, heater.serial):
        assert not name or name not in text
    assert keeps(lead, text).status_code == 200
    answer = as_role("apprentice").post("bench/practice", {"scenario": f"as_found_{heater.pk}", "at_s": 30})
    assert answer.status_code == 200 and answer.json()["seen"]["mark_c"] == 55


def found(heater, on, **values):
    visit = Visit.objects.create(client_id=uuid.uuid4(), heater=heater, on=on)
    return Finding.objects.create(visit=visit, heater=heater, on=on, **values)


def test_where_nobody_measured_what_is_believed_lies_in_it(as_role, base, forecasted):
    heater = Heater.objects.filter(kind="electric_tank").first()
    believed = Forecast.objects.current().get(heater=heater, component="sediment").state["depth_mm"][1]
    text = as_role("lead").get(f"bench/written/of-heater?heater_id={heater.pk}").json()["text"]
    build = tomllib.loads(text)[f"as_found_{heater.pk}"]["build"]
    bed_l = build["loose_l"] + build["hard_l"]
    assert bed_l == pytest.approx(believed * build["litres"] / 1000 / build["height_m"], rel=0.06, abs=0.02)


@pytest.mark.parametrize("kind", ["gas_tankless"])
def test_a_kind_that_is_not_practised_whole_is_told(as_role, base, kind):
    heater = Heater.objects.filter(kind="gas_tank").first()
    Heater.objects.filter(pk=heater.pk).update(kind=kind)
    answer = as_role("lead").get(f"bench/written/of-heater?heater_id={heater.pk}")
    assert answer.status_code == 422 and answer.json()["fields"] == {"heater_id": "another kind"}
    assert as_role("lead").get("bench/written/of-heater?heater_id=999999").status_code == 404


def test_what_ships_is_read_back_as_it_is_written():
    for name, scenario in scenarios().items():
        assert read(tomllib.loads(written(scenario)))[name] == scenario

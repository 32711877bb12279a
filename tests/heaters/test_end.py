"""A heater goes: why, when and what came after it is kept, and what leaked tells how long tanks last."""

import datetime

import pytest

from aquifer.core.lives import SPREADS
from aquifer.core.vocabulary import Component
from aquifer.forecasts import calibrations, recompute
from aquifer.forecasts.models import Calibration, Forecast
from aquifer.heaters.models import Heater

pytestmark = pytest.mark.django_db


def end(**parts) -> dict:
    return {"cause": "leaked", "on": datetime.date.today().isoformat(), **parts}


def test_why_and_when_a_heater_goes_is_kept_and_told(as_role, base):
    client, (heater, other, *_) = as_role("planner"), base["heaters"]
    said = end(note="a hand of lime, pitted at the weld", weight_kg=71.5, successor_tag=other.tag.lower())
    told = client.post(f"heaters/{heater.pk}/archive", said).json()
    assert told["archived"] and (told["end_cause"], told["end_weight_kg"]) == ("leaked", 71.5)
    assert told["ended_on"] == said["on"] and told["successor"]["tag"] == other.tag
    # Put back, nothing of it stays.
    told = client.post(f"heaters/{heater.pk}/restore").json()
    assert not told["archived"] and not told["end_cause"] and told["ended_on"] is told["successor"] is None
    # Nobody has to know why.
    assert client.post(f"heaters/{heater.pk}/archive").json()["end_cause"] == ""


def test_an_end_that_cannot_be_is_refused_by_name_and_changes_nothing(as_role, base):
    client, heater = as_role("planner"), base["heaters"][0]
    tomorrow = (datetime.date.today() + datetime.timedelta(days=1)).isoformat()
    wrong = [
        (end(on=tomorrow), "on"),
        (end(on="1950-01-01"), "on"),
        (end(successor_tag="nobody"), "successor_tag"),
        (end(successor_tag=heater.tag), "successor_tag"),
        (end(cause="stolen"), "cause"),
        (end(weight_kg=0), "weight_kg"),
    ]
    for said, field in wrong:
        refused = client.post(f"heaters/{heater.pk}/archive", said)
        assert refused.status_code == 422 and field in str(refused.json()), said
    assert Heater.objects.in_service().filter(pk=heater.pk).exists()


def test_tanks_that_leaked_make_the_others_likelier_to(as_role, base):
    today, heaters = base["today"], base["heaters"]
    tanks = [one for one in heaters if one.kind == heaters[0].kind]
    recompute.recompute_all()
    kept = tanks[-1]
    before = Forecast.objects.current().get(heater=kept, component="tank").state["failure_within_12_months"]
    for one in tanks[:-1]:
        for at in range(4):
            made = Heater.objects.create(
                tag=f"OLD-{one.pk}-{at}", kind=one.kind, site=one.site,
                installed_on=today - datetime.timedelta(days=1500),
                archived_at=datetime.datetime.now(datetime.UTC), ended_on=today, end_cause="leaked",
            )  # fmt: skip
            assert made.pk
    calibrations.renew(today)
    row = Calibration.objects.filter(component="tank").latest("computed_at")
    assert row.failures == 4 * len(tanks[:-1]) > 0 and row.life["level"] > 0.4
    life = calibrations.in_force()[0][Component.TANK].life
    assert (life.level, life.failures) == (row.life["level"], row.failures)
    assert life.zone_ids.keys() == {one.site.zone_id for one in heaters}
    assert life.zones.effect.size == len(life.zone_ids)
    assert life.covariance[0, 0] == pytest.approx(SPREADS[0] ** 2, rel=0.05)
    assert life.slopes.size == SPREADS.size - 2
    recompute.recompute_all()
    after = Forecast.objects.current().get(heater=kept, component="tank").state["failure_within_12_months"]
    assert after[1] > 1.4 * before[1] and after[0] < after[1] < after[2]
    # What leaked before anybody kept a record is only what somebody remembers of.
    Heater.objects.filter(end_cause="leaked").update(ended_on=today - datetime.timedelta(days=400))
    calibrations.renew(today)
    assert Calibration.objects.filter(component="tank").latest("computed_at").failures == 0
    Heater.objects.filter(end_cause="leaked").update(ended_on=today)
    # One that was sold, or replaced while it held, is no failure.
    Heater.objects.filter(end_cause="leaked").update(end_cause="left")
    calibrations.renew(today)
    newest = Calibration.objects.filter(component="tank").latest("computed_at")
    assert newest.failures == 0
    # A base that came on record today has lived through nothing with us: the handbook stands.
    assert newest.life["level"] == pytest.approx(0.0, abs=0.05)


def test_a_successor_says_where_it_is_not_like_the_one_before(as_role, forecasted):
    planner, old = as_role("planner"), forecasted["heaters"][0]
    planner.patch(f"heaters/{old.pk}", {"tag": old.tag, "site_id": old.site_id, "kind": "gas_tank", "height_mm": 1250,
                                        "capacity_l": 189, "version": 1})  # fmt: skip
    body = {"tag": "NEW-9", "site_id": old.site_id, "kind": "gas_tank", "height_mm": 1500, "capacity_l": 300}
    new = planner.post("heaters", body).json()
    assert new["unlike"] == []
    end = {"on": str(forecasted["today"]), "cause": "replaced_before", "successor_tag": "NEW-9"}
    assert planner.post(f"heaters/{old.pk}/archive", end).status_code == 200
    told = planner.get(f"heaters/{new['id']}").json()["unlike"]
    assert told == [
        "Taller by 250 mm: pipes, vent and head room for the rod.", "Holds 111 L more: size the expansion tank anew.",
    ]  # fmt: skip

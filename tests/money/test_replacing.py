"""From when on a new tank is advised follows the price book and where the tank stands."""

import datetime

import numpy as np
import pytest

from aquifer.company.models import Company
from aquifer.core.replacement import advised_from
from aquifer.core.vocabulary import Component
from aquifer.forecasts import export, inputs, recompute
from aquifer.forecasts.models import Forecast
from aquifer.history.versions import version_of
from aquifer.money.models import MoneySettings
from aquifer.places.models import Feature

pytestmark = pytest.mark.django_db

SETTINGS = {"currency": "¤", "hour_cost": "40", "quotes_last_days": 60}


def put(client, path: str, body: dict):
    return client.raw.put(f"/api/{path}", body, content_type="application/json")


def accepted(heater) -> float:
    recompute.recompute_all()
    return Forecast.objects.current().get(heater=heater, component=Component.TANK).limit_value


def test_prices_say_from_when_on_a_new_tank_is_advised(as_role, base, monkeypatch):
    lead, heater = as_role("lead"), base["heaters"][0]
    said = []
    monkeypatch.setattr("aquifer.changed.everything", lambda: said.append("everything"))
    assert accepted(heater) == pytest.approx(0.2)
    # A leak alone says nothing, nor does a price alone.
    assert put(lead, "money/settings", {**SETTINGS, "leak_damage": "4000"}).status_code == 200
    assert Company.current().heater_over_leak is None and not said
    told = put(lead, "money/prices", {"key": "heater", "words": "New heater, fitted", "price": "1600", "cost": "900"})
    assert told.status_code == 200 and said == ["everything"]
    assert Company.current().heater_over_leak == pytest.approx(0.4)
    dear = accepted(heater)
    assert dear == pytest.approx(float(advised_from(0.4, np.array([0.6]))[0]), abs=1e-6) and dear < 0.15
    # Another line of the book moves no date.
    put(lead, "money/prices", {"key": "call_out", "words": "Coming", "price": "60", "cost": "30"})
    assert said == ["everything"]
    put(lead, "money/settings", {**SETTINGS, "leak_damage": "400"})
    assert said == ["everything"] * 2 and accepted(heater) > 2 * dear
    assert lead.raw.delete(f"/api/money/prices/{told.json()['id']}").status_code == 204
    assert Company.current().heater_over_leak is None and accepted(heater) == pytest.approx(0.2)


def test_where_its_water_runs_and_who_is_without_moves_the_advice_at_once(as_role, forecasted):
    planner, heater = as_role("planner"), forecasted["heaters"][0]
    Company.objects.update_or_create(pk=1, defaults={"heater_over_leak": 0.4})

    def limit() -> float:
        return Forecast.objects.current().get(heater=heater, component=Component.TANK).limit_value

    def see(kind: str, condition: str, feature=None):
        said = {"kind": kind, "condition": condition, "heater_id": heater.pk}
        if feature is None:
            told = planner.post(f"sites/{heater.site_id}/features", said)
        else:
            told = planner.patch(f"features/{feature.pk}", {**said, "version": version_of(feature)})
        assert told.status_code in (200, 201), told.content
        return Feature.objects.get(kind=kind)

    way = see("leak_path", "below")
    below = limit()
    see("leak_path", "floor", way)
    floor = limit()
    assert below < 0.08 < floor < 0.3
    pan = see("drain_pan", "sound")
    caught = limit()
    assert caught == pytest.approx(0.5)
    assert planner.raw.delete(f"/api/features/{pan.pk}").status_code in (200, 204)
    assert limit() == pytest.approx(floor)
    heater.site.business = "care_home"
    heater.site.save()
    without = accepted(heater)
    assert without < floor
    # A case says the same.
    case = export.case_of(heater, datetime.date.today())
    assert case["policy"]["replace_at"] == pytest.approx(without, rel=1e-3)


def test_of_two_looks_the_later_counts(base):
    heater, other = base["heaters"][:2]
    for on, condition in ((5, "below"), (9, "sound"), (2, "rooms")):
        Feature.objects.create(
            site=heater.site, heater=heater, kind="leak_path", condition=condition, seen_on=datetime.date(2026, 1, on)
        )
    Feature.objects.create(
        site=heater.site, heater=heater, kind="leak_path", condition="below", seen_on=datetime.date(2026, 2, 1),
        gone=True,
    )  # fmt: skip
    loaded = inputs.load(base["today"])
    at = dict(zip(loaded.heater_ids.tolist(), loaded.fleet.heaters.replace_at.tolist(), strict=True))
    assert at[heater.pk] == pytest.approx(0.5) and at[other.pk] == pytest.approx(0.2)
    assert MoneySettings.objects.count() == 0

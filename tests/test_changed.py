"""What changes on record is announced once, and the browser is told which pages are stale."""

import datetime

from aquifer import changed
from aquifer.forecasts.models import Forecast
from aquifer.forecasts.tasks import is_pending


class Listener:
    def __init__(self):
        self.heard = []

    def heaters(self, ids):
        self.heard.append(("heaters", tuple(ids)))

    def zone(self, zone_id):
        self.heard.append(("zone", zone_id))

    def everything(self):
        self.heard.append(("everything",))

    def out_of_service(self, ids, when):
        self.heard.append(("out of service", tuple(ids)))


def test_every_subscriber_hears_every_change(monkeypatch):
    one, other = Listener(), Listener()
    monkeypatch.setattr(changed, "_SUBSCRIBERS", [one, other])
    with changed.heard() as said:
        changed.heaters([4, 5])
        assert said == {changed.AT_ONCE}
        changed.zone(7)
        changed.everything()
        changed.out_of_service([4], datetime.datetime(2026, 3, 1, tzinfo=datetime.UTC))
    assert said == {changed.AT_ONCE, changed.SOON}
    assert one.heard == other.heard == [("heaters", (4, 5)), ("zone", 7), ("everything",), ("out of service", (4,))]


def test_an_answer_names_what_is_stale_and_reading_names_nothing(as_role, forecasted):
    heater, zone = forecasted["heaters"][0], forecasted["zones"][0]
    lead = as_role("lead")
    assert "X-Stale" not in lead.get(f"heaters/{heater.pk}")
    archived = lead.post(f"heaters/{heater.pk}/archive")
    assert archived["X-Stale"] == "at once" and not Forecast.objects.current().filter(heater=heater).exists()
    assert lead.get("forecasts/pending").json() == {"pending": False}
    test = {"taken_on": "2026-01-05", "method": "strip", "total_hardness_mg_l": 320}
    assert lead.post(f"zones/{zone.pk}/tests", test)["X-Stale"] == "soon"
    assert lead.get("forecasts/pending").json() == {"pending": True} and is_pending()
    refused = lead.post(f"zones/{zone.pk}/tests", test)
    assert refused.status_code == 409 and "X-Stale" not in refused

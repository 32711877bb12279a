"""The invented district is the import's test at once: simulated, written, read, forecast."""

import datetime

import pytest
from django.core.files.storage import default_storage
from django.core.management import call_command
from django.db import transaction
from django.test import override_settings

from aquifer.attachments.models import Attachment
from aquifer.customers.models import Site
from aquifer.demo.simulate import simulate
from aquifer.forecasts.models import Forecast, Gap
from aquifer.heaters import duplicates
from aquifer.heaters.models import Heater
from aquifer.open_ends.models import OpenEnd
from aquifer.places.models import Feature
from aquifer.visits.models import Finding
from aquifer.water.models import Season, Zone

TODAY = datetime.date(2026, 11, 24)


@pytest.fixture(scope="module")
def loaded(django_db_setup, django_db_blocker, tmp_path_factory):
    """The district, loaded once; what a test does to it is taken back at its end. Its folder."""
    folder = tmp_path_factory.mktemp("district")
    with django_db_blocker.unblock(), override_settings(MEDIA_ROOT=folder / "media"), transaction.atomic():
        call_command("load_demo", folder=folder, sites=100, heaters=140, unplanned=True)
        yield folder
        transaction.set_rollback(True)


def test_the_same_seed_gives_the_same_district():
    first, again = simulate(TODAY, 5, 40, 60), simulate(TODAY, 5, 40, 60)
    assert first == again
    assert first != simulate(TODAY, 6, 40, 60)


def test_five_supplies_all_kinds_and_five_years_are_there():
    district = simulate(TODAY)
    assert len(district.zones) == 5 and len(district.sites) == 300 and len(district.heaters) == 400
    assert len({heater["kind"] for heater in district.heaters}) == 9
    span = max(v["on"] for v in district.visits) - min(v["on"] for v in district.visits)
    assert span.days > 4.5 * 365
    assert all(visit["on"] < TODAY and visit["on"].weekday() < 5 for visit in district.visits)


def test_its_files_are_brought_in_and_forecast(loaded, db):
    assert Heater.objects.count() == 142 and Zone.objects.count() == 5
    assert Finding.objects.count() > 300
    assert set(Forecast.objects.current().values_list("heater_id", flat=True)) == set(
        Heater.objects.values_list("pk", flat=True)
    )
    # A second load leaves what people have done since.
    call_command("load_demo", folder=loaded, unplanned=True)
    assert Heater.objects.count() == 142


def test_its_places_are_written_down_to_the_depth_of_a_real_register(loaded, db):
    kinds = set(Feature.objects.values_list("kind", flat=True))
    assert kinds >= {"house_shut_off", "tank_drain", "vent", "softener", "well"}
    softened = set(Site.objects.filter(softened=True).values_list("pk", flat=True))
    assert set(Feature.objects.filter(kind="softener").values_list("site_id", flat=True)) <= softened
    # What was seen in bad order left an open end, and a valve not to be touched says what to use instead.
    assert OpenEnd.objects.filter(feature__isnull=False).exists()
    assert not Feature.objects.filter(do_not_operate=True, use_instead="").exists()
    assert OpenEnd.objects.filter(campaign__isnull=False).exists()
    assert len(duplicates.suspected()) == 2
    assert Season.objects.get().zone.code == "BLD"
    plates = Attachment.objects.all()
    assert plates and all(default_storage.exists(one.path) for one in plates)
    assert Heater.objects.exclude(flush_history="recorded").exists() and Gap.objects.exists()
    assert all(len(zone.outline) > 10 for zone in Zone.objects.all())


def test_the_forecast_learns_what_the_simulator_did(loaded, db):
    """The softened estate builds next to nothing, the chalk much: the simulator knows no chemistry, the findings do."""

    def median_rate(zone: str) -> float:
        rates = [
            one.rate[1]
            for one in Forecast.objects.current().filter(component="sediment", heater__site__zone__code=zone)
        ]
        return sorted(rates)[len(rates) // 2]

    assert median_rate("LIN") < 0.2 * median_rate("CHK")
    assert median_rate("UPL") < 0.3 * median_rate("CHK")

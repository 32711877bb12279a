"""A heater on record, exported as a case, is forecast from outside as from inside."""

import json

import pytest
from django.core.management import CommandError, call_command

from aquifer.company.models import Company
from aquifer.core import case
from aquifer.core.forecast import forecast
from aquifer.customers.models import Site
from aquifer.forecasts import inputs
from aquifer.forecasts.export import case_of
from tests.conftest import FLUSH, ROD, VALVE, visit
from tests.visits.test_readings import answer
from tests.visits.test_report import recorded


def exported(heater, today) -> case.Case:
    return case.read(json.dumps(case_of(heater, today)))


def test_the_case_holds_what_the_forecast_takes_in(as_role, forecasted):
    heater, today = forecasted["heaters"][0], forecasted["today"]
    as_role("technician").post("visits", visit(heater.pk, FLUSH, ROD, {"task": "anode_replacement"}, VALVE))
    Site.objects.filter(pk=heater.site_id).update(hot_water_l_per_day=500)
    heater.refresh_from_db()
    loaded = inputs.load(today)
    inside = loaded.fleet.heaters.at(loaded.heater_ids.searchsorted([heater.pk]))
    outside = case.as_fleet(exported(heater, today)).heaters
    for name in ("age_years", "volume_m3", "potential_mg_l", "setpoint_c", "rod_fitted_years", "sediment_limit_m"):
        assert getattr(outside, name) == pytest.approx(getattr(inside, name), rel=1e-6, abs=1e-9), name


def test_a_heater_alone_on_its_water_is_dated_alike_from_outside(as_role, forecasted):
    zone = forecasted["zones"][1]
    alone, *others = (h for h in forecasted["heaters"] if h.site.zone_id == zone.pk)
    for other in others:
        other.site = forecasted["sites"][0]
        other.save()
    as_role("technician").post("visits", visit(alone.pk, FLUSH, VALVE))
    today = forecasted["today"]
    loaded = inputs.load(today)
    at = int(loaded.heater_ids.searchsorted(alone.pk))
    inside = {one.component: one for one in forecast(loaded.fleet).components}
    outside = case.answer(exported(alone, today))
    for told in outside["components"]:
        one = inside[told["component"]]
        row = int((one.row == at).nonzero()[0][0])
        assert told["rate"]["p50"] == pytest.approx(one.rate[row, 1], rel=0.01)


def test_nothing_in_the_case_names_a_person_or_a_place(forecasted, capsys):
    call_command("export_case", "T-0")
    text = capsys.readouterr().out
    case.read(text)
    for private in ("Marram", "Weir Street", "Site 1", "T-0"):
        assert private not in text


def test_an_unknown_tag_is_told(db):
    with pytest.raises(CommandError, match="no heater with the tag X-9"):
        call_command("export_case", "X-9")


def test_what_was_read_and_seen_goes_along_and_what_somebody_wrote_does_not(as_role, forecasted):
    heater = forecasted["heaters"][0]
    assert case_of(heater, forecasted["today"])["format"] == "aquifer-case/2"
    steps = [answer("verify.tap_c", 52), answer("flame.look", "yellow"), answer("settings.left", "dial at B")]
    recorded(as_role, heater, FLUSH, steps=steps)
    told = exported(heater, forecasted["today"])
    assert {(one.reading, one.value) for one in told.readings} == {("verify.tap_c", 52), ("flame.look", "yellow")}


def test_a_case_follows_the_practice_that_stands_nearest(forecasted):
    heater = forecasted["heaters"][0]
    site, zone, company = heater.site, heater.site.zone, Company.current()
    company.practice = "annual"
    company.save()
    for holder, practice in ((zone, "hard_water_half_yearly"), (site, "condition"), (heater, "annual")):
        assert case_of(heater, forecasted["today"])["policy"]["practice"] != practice
        holder.practice = practice
        holder.save()
        assert case_of(heater, forecasted["today"])["policy"]["practice"] == practice

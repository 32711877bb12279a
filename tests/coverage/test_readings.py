"""Measurements (M01 to M25): read, in the log and over the years, taken out, and judged by what the trade says."""

import datetime

import pytest

from aquifer.forecasts.recompute import recompute_all
from aquifer.heaters.models import Heater
from tests.coverage.walk import Walk, verdict

FLUSHED = {"task": "flush", "method": "drain_and_pulse"}
ROWS = [
    # entry, kind, field, read, words of the log, the verdict on it
    ("M02", "gas_tank", "verify.tap_c", 63, "Hottest water at a faucet 63 °C", "tap_scalds"),
    ("M03", "gas_tank", "pressure.static_kpa", 640, "640 kPa", "fit_regulator"),
    ("M03", "gas_tankless", "pressure.static_kpa", 90, "90 kPa", "put_right"),
    ("M04", "gas_tank", "pressure.creep_kpa", 90, "90 kPa", "fit_expansion_tank"),
    ("M05", "gas_tank", "pressure.falls", True, "fell", "find_the_leak"),
    ("M09", "gas_tank", "drain.drained_l", 40, "Ran out of the tank 40 L", None),
    ("M10", "electric_tank", "power.volts", 190, "Supply 190", "look_at_supply"),
    ("M11", "electric_tank", "look.ohms", 900, "Across the element 900 ohm", "change_element"),
    ("M12", "gas_tank", "gas.millivolts", 7.5, "Thermocouple, lit 7.5 mV", "renew_thermocouple"),
    ("M13", "gas_tank", "gas.held_s", 45, "Button held until the pilot stayed 45 s", None),
    ("M14", "gas_tankless", "gas.tries", 4, "Lit after 4 tries", "put_right"),
    ("M14", "gas_tankless", "gas.losses", 10, "Flame lost 10 times", "put_right"),
    ("M15", "mobile_tank", "gas.gap_mm", 5, "Spark gap 5", "put_right"),
    ("M16", "condensing_tankless", "limit.opens_c", 105, "Limit opened at 105 °C", "put_right"),
    ("M17", "small_gas_tankless", "pressure.static_kpa", 80, "80 kPa", "put_right"),
    ("M18", "gas_tank", "mixing.inlet_c", 48, "Cold feed of the mixing valve 48 °C", "put_right"),
    ("M19", "small_gas_tankless", "cells.volts", 2.3, "Cells 2.3", "put_right"),
    ("M19", "condensing_tankless", "fan.rpm", 4200, "Fan 4200 rpm", None),
    ("M20", "gas_tank", "rod.bare_wire_mm", 120, "120 mm", "renew_rod"),
    ("M21", "gas_tank", "drain.minutes", 70, "Ran empty in 70 min", "put_right"),
    ("M22", "gas_tank", "flush.depth_before_mm", 35, "35 mm", None),
    ("M24", "gas_tank", "verify.heat_up_min", 200, "Hot again after 200 min", "put_right"),
    ("M24", "gas_tank", "energy.year_kwh", 4100, "Energy of twelve months, by the bills 4100 kWh", None),
]
PLATE = {"electric_tank": {"supply_volts": 240, "input_kw": 4.5}}


@pytest.mark.parametrize(("entry", "kind", "name", "read", "words", "judged"), ROWS)
def test_readings(entry, kind, name, read, words, judged, as_role, forecasted):
    walk = Walk(as_role, forecasted)
    walk.heater(kind=kind, **PLATE.get(kind, {}))
    guide = as_role("technician").get(f"heaters/{walk.at.pk}/guide").json()
    if judged:
        assert judged in verdict(guide, name, read)
    walk.visit(**{name.replace(".", "__"): read})
    assert words in walk.found("log")
    if read is True:
        # Seen, not read: it is told among the findings of the visits.
        assert "yes" in walk.taken("records/visits.csv")
        return
    (series,) = [
        one for one in as_role("planner").get(f"heaters/{walk.at.pk}/log").json()["readings"] if one["field"] == name
    ]
    assert [point["value"] for point in series["points"]] == [read]
    assert f"{name},{read:g}" in walk.taken("readings.csv")


def test_a_setpoint_scalds_and_says_so(as_role, forecasted):
    """M01."""
    walk = Walk(as_role, forecasted)
    walk.heater(setpoint_c=71)
    assert '"setpoint_c": 71' in walk.found("heater") and ",71" in walk.taken("records/heaters.csv")
    burns = next(one for one in as_role("technician").get(f"heaters/{walk.at.pk}/guide").json()["figures"]
                 if one["name"] == "burn_seconds")  # fmt: skip
    assert burns["inputs"][0]["value"] == 71
    tried = as_role("technician").get(f"heaters/{walk.at.pk}/what-if?setpoint_c=71").json()
    assert "Scalds within seconds: a mixing valve at the faucet is a must." in tried["cautions"]


def test_the_charge_is_held_against_the_house_and_the_forecast_moves(as_role, forecasted):
    """M06."""
    walk = Walk(as_role, forecasted)
    walk.heater()
    walk.part("expansion_tank", volume_l=12, precharge_kpa=300)
    walk.visit(expansion_tank__at_valve="air", expansion_tank__precharge_kpa=180)
    assert "180 kPa" in walk.found("log") and "expansion_tank.precharge_kpa,180" in walk.taken("readings.csv")
    assert '"component": "expansion_tank"' in walk.found("log")


def test_rating_and_probe_of_a_new_valve_are_held_against_the_heater(as_role, forecasted):
    """M07 and M08."""
    walk = Walk(as_role, forecasted)
    walk.heater(input_kw=40)
    walk.visit(valve__outcome="no_flow", valve__replaced=True, valve__new_rating_kw=25,
               valve__new_set_pressure_kpa=1034, valve__new_probe_length_mm=100)  # fmt: skip
    assert "The new relief valve passes 25.0 kW, the heater puts in 40.0 kW" in walk.found("open")
    assert '"probe_length_mm": 100' in walk.found("heater") and "probe 100 mm" in walk.found("guide")
    assert any(one["name"] == "probe_length" for one in
               as_role("technician").get(f"heaters/{walk.at.pk}/guide").json()["figures"])  # fmt: skip
    # The commonest probe, 2 1/2 in, is wrong for nobody whose jacket was not measured.
    new = {"valve__outcome": "no_flow", "valve__replaced": True, "valve__new_rating_kw": 45,
           "valve__new_set_pressure_kpa": 1034}  # fmt: skip
    walk.visit(**new, valve__new_probe_length_mm=64)
    assert "probe has" not in walk.found("open")
    # Through 40 mm of jacket 50 mm do not reach the water.
    Heater.objects.filter(pk=walk.at.pk).update(details={"insulation_mm": 40})
    walk.visit(**new, valve__new_probe_length_mm=50)
    assert "The new relief valve's probe has 50 mm, and 65 mm reach the water: fit a longer one." in walk.found("open")


def test_the_end_of_the_discharge_pipe_and_the_straps_are_measured(as_role, forecasted):
    """M23."""
    walk = Walk(as_role, forecasted)
    walk.feature("discharge_pipe", "sound", details={"end_mm": 700})
    walk.feature("straps", "one")
    assert "end_mm" in walk.taken("records/details.csv") and "ends 700 mm above the floor" in walk.found("guide")
    assert "Earthquake straps: only one" in walk.found("open")


def test_a_tested_hardness_moves_the_date_and_is_taken_along(as_role, forecasted):
    """M25."""
    planner, heater = as_role("planner"), forecasted["heaters"][0]
    zone = heater.site.zone

    def depth():
        told = planner.get(f"heaters/{heater.pk}/forecast").json()
        return next(one["state"]["depth_mm"]["p50"] for one in told if one["component"] == "sediment")

    before = depth()
    lately = (datetime.date.today() - datetime.timedelta(days=8)).isoformat()
    body = {"taken_on": lately, "total_hardness_mg_l": 600, "alkalinity_mg_l": 480, "ph": 7.6, "method": "drops"}
    assert planner.post(f"zones/{zone.pk}/tests", body).status_code in (200, 201)
    recompute_all()
    assert depth() > before and "600" in planner.get(f"zones/{zone.pk}").content.decode()
    file = planner.raw.get("/api/records/water_tests.csv")
    assert "600" in b"".join(file.streaming_content).decode("utf-8-sig")

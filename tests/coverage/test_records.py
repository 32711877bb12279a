"""Records (R01 to R16): what used to be in heads and on stickers, kept and used."""

import datetime

from aquifer.heaters.models import Heater
from aquifer.money.models import Price
from aquifer.rounds.models import Appointment, Service
from tests.attachments.test_attachments import picture, send
from tests.conftest import FLUSH
from tests.coverage.walk import Walk


def walked(as_role, base, **fields):
    walk = Walk(as_role, base)
    walk.heater(**fields)
    return walk


def figure(as_role, walk, name):
    told = as_role("technician").get(f"heaters/{walk.at.pk}/guide").json()["figures"]
    return next(one for one in told if one["name"] == name)


def test_r01_age_from_the_serial_or_from_memory(as_role, forecasted):
    told = {"maker": "Thornfell", "year_at": 2, "year_digits": 2}
    assert as_role("planner").raw.put("/api/serial-patterns", told, content_type="application/json").status_code == 200
    walk = walked(as_role, forecasted, maker="Thornfell", serial="K14", installed_on="2012-05-01")
    assert "installed before it was made" in walk.found("heater")
    unknown = walked(as_role, forecasted, installed_on=None, install_certainty="unknown")
    assert "age not known" in unknown.found("heater")
    assert "install_certainty" in unknown.taken("records/heaters.csv")


def test_r02_age_and_history_decide_by_one_rule_of_the_company(as_role, forecasted):
    old = walked(as_role, forecasted, installed_on="2004-05-01", flush_history="never")
    assert "leave_alone" in old.found("log")
    assert "sediment" not in as_role("technician").get(f"heaters/{old.at.pk}/guide").json()["components"]
    young = walked(as_role, forecasted, installed_on="2025-05-01")
    assert "leave_alone" not in young.found("log")


def test_r03_what_ran_out_is_counted_against_what_should(as_role, forecasted):
    walk = walked(as_role, forecasted)
    assert figure(as_role, walk, "litres_to_port")["inputs"]
    walk.visit(drain__drained_l=42)
    assert "Ran out of the tank 42 L" in walk.found("log") and "drain.drained_l,42" in walk.taken("readings.csv")


def test_r04_sediment_is_graded_by_pictures_measured_and_compared(as_role, forecasted):
    walk = walked(as_role, forecasted)
    walk.visit(flush__removed="heavy", flush__depth_before_mm=40, flush__depth_after_mm=6)
    walk.visit(flush__removed="trace", flush__depth_before_mm=11)
    told = as_role("planner").get(f"heaters/{walk.at.pk}/log").json()["readings"]
    depth = next(one for one in told if one["field"] == "flush.depth_before_mm")
    assert [point["value"] for point in depth["points"]] == [40, 11]


def test_r05_the_date_follows_the_tested_water_and_the_household(as_role, forecasted):
    hard, soft = forecasted["heaters"][0], forecasted["heaters"][2]

    def over(heater):
        told = as_role("planner").get(f"heaters/{heater.pk}/forecast").json()
        return next(one["state"]["depth_mm"]["p50"] for one in told if one["component"] == "sediment")

    assert over(hard) > over(soft)
    as_role("planner").get(f"heaters/{hard.pk}/forecast")
    walk = Walk(as_role, forecasted)
    before = over(hard)
    walk.site(people=9)
    assert over(hard) > before


def test_r06_times_are_reckoned_for_this_heater(as_role, forecasted):
    small, large = walked(as_role, forecasted, capacity_l=100), walked(as_role, forecasted, capacity_l=300)

    def minutes(walk, name):
        one = figure(as_role, walk, name)
        return next(given["value"] for given in one["inputs"] if given["name"] == "capacity_l")

    assert minutes(large, "drain_minutes") > minutes(small, "drain_minutes")
    assert minutes(large, "heat_up_minutes") > minutes(small, "heat_up_minutes")


def test_r07_the_expansion_tank_is_sized(as_role, forecasted):
    walk = walked(as_role, forecasted)
    walk.site(static_pressure_kpa=400)
    told = as_role("technician").get(f"heaters/{walk.at.pk}/guide").json()["figures"]
    assert any(
        "static_kpa" in {given["name"] for given in one["inputs"]} and "xpansion" in one["title"] for one in told
    )


def test_r08_repair_service_and_a_new_heater_are_told_over_ten_years(as_role, forecasted):
    for key, price in (("call_out", 40), ("sediment", 60), ("element", 90), ("heater", 1200)):
        Price.objects.create(key=key, words=key, price=price)
    walk = walked(as_role, forecasted, installed_on="2014-05-01")
    as_role("planner").get(f"heaters/{walk.at.pk}/forecast")
    walk.visit(energy__year_kwh=4100)
    told = as_role("planner").get(f"heaters/{walk.at.pk}/ten-years?energy_price=0.2&damage=2500").json()
    assert [one["name"] for one in told["courses"]] == ["as_it_is", "yearly", "new", "later"]
    assert told["energy_kwh"] == 4100 and told["courses"][1]["energy"] == 8200
    assert told["courses"][0]["failures"] >= told["courses"][1]["failures"] > told["courses"][2]["failures"]
    assert "energy.year_kwh,4100" in walk.taken("readings.csv")


def test_r09_a_dial_is_read_by_the_thermometer(as_role, forecasted):
    walk = walked(as_role, forecasted, details={"dial_scale": "A 49, B 54"})
    walk.visit(settings__left="dial at B", verify__tap_c=52)
    assert "A 49, B 54" in walk.found("guide") and "dial at B: 52 °C at the faucet" in walk.found("guide")


def test_r10_what_was_photographed_is_shown_again_at_its_piece(as_role, forecasted, settings, tmp_path):
    settings.MEDIA_ROOT = tmp_path
    walk = walked(as_role, forecasted)
    about = {"heater_id": walk.at.pk, "piece": "breaker", "caption": "wires as they were"}
    assert send(as_role("technician"), picture(), **about).status_code == 201
    shown = as_role("technician").get(f"attachments?heater_id={walk.at.pk}").json()
    assert [one["piece"] for one in shown] == ["breaker"]


def test_r11_repairs_before_us_are_told_at_the_visit(as_role, forecasted):
    walk = walked(as_role, forecasted, details={"repairs": "taped switch, 2018"})
    assert "Repaired before us: taped switch, 2018." in walk.found("guide")
    assert "taped switch, 2018" in walk.taken("records/details.csv")


def test_r12_failures_are_counted_by_build_and_proven_for_the_maker(as_role, forecasted):
    from tests.open_ends.test_open_ends import (
        test_a_campaign_by_the_build_of_a_part_draws_in_what_comes_later_and_proves_what_was_seen as proven,
    )

    proven(as_role, forecasted)
    assert as_role("planner").get("builds").status_code == 200


def test_r13_what_is_not_in_order_is_on_a_list_until_it_is_closed(as_role, forecasted):
    walk = walked(as_role, forecasted)
    walk.visit(FLUSH, noted="scorched switch, re-taped")
    assert "scorched switch, re-taped" in walk.found("open")
    (one,) = as_role("planner").get(f"open-ends?heater_id={walk.at.pk}").json()["rows"]
    as_role("planner").post(f"open-ends/{one['id']}/state", {"state": "closed", "how": "renewed"})
    assert "scorched switch" not in walk.found("open")


def test_r14_a_missed_year_is_overdue_and_the_customer_is_reminded(as_role, forecasted):
    Heater.objects.filter(pk=forecasted["heaters"][0].pk).update(installed_on=datetime.date(2008, 5, 1))
    from aquifer.forecasts.recompute import recompute_all

    recompute_all()
    rows = as_role("planner").get("outlook?limit=100").json()["rows"]
    late = next(one for one in rows if one["tag"] == forecasted["heaters"][0].tag)
    assert min(one["due_on"] for one in late["windows"] if one["due_on"]) < datetime.date.today().isoformat()


def test_r15_the_work_of_past_years_and_the_hours_ahead_are_shown(as_role, forecasted):
    walk = walked(as_role, forecasted)
    walk.visit(FLUSH)
    year = as_role("planner").get("review/work").json()[-1]
    assert year["visits"] == 1 and year["flushes"] == 1
    assert as_role("planner").get("outlook/weeks").status_code == 200


def test_r16_steps_for_the_very_unit_are_written_and_a_label_hangs_on_it(as_role, forecasted):
    walk = walked(as_role, forecasted)
    walk.visit(FLUSH)
    report = walk.found("report")
    assert "Once" not in report and "a bucket under its drain" in report
    label = as_role("planner").raw.get(f"/api/labels.pdf?q={walk.at.tag}")
    assert label.status_code == 200 and label.content.startswith(b"%PDF")


def test_a_visit_called_for_is_no_word_in_a_note(as_role, forecasted):
    """Beside R15: emergencies are counted as such."""
    site, today = forecasted["sites"][0], datetime.date.today()
    monday = today - datetime.timedelta(days=today.weekday())
    made = Appointment.objects.create(
        site=site, week=monday, on=today, minutes=60, standing="promised", reason="emergency"
    )
    Service.objects.filter(appointment=made).delete()
    assert as_role("planner").get("review/work").json()[-1]["emergencies"] == 1

"""What is read of a heater's record, part by part and unit by unit, against what was written there."""

import datetime

import numpy as np
import pytest

from aquifer.core.parameters import GEOMETRY, LEARNING
from aquifer.core.planning.hours import ASSUMED, Hours, Work
from aquifer.core.vocabulary import Alloy, Business, FlushMethod, Removed, code
from aquifer.customers.models import Site
from aquifer.forecasts import calibrations, inputs, outlook, sign
from aquifer.heaters.models import Heater, Part
from aquifer.water.models import WaterTest
from tests.forecasts.test_inputs import found, row

DAY = datetime.timedelta(days=1)


def of(loaded, heater, name):
    return getattr(loaded.known, name)[row(loaded, heater)]


def test_what_a_heater_and_its_site_say_reaches_the_core_in_its_units(base):
    heater = base["heaters"][0]
    Heater.objects.filter(pk=heater.pk).update(
        capacity_l=151, setpoint_c=57, input_kw=11.7, floor_area_m2=0.19, drain_port_height_mm=85,
        lower_element_height_mm=310, burner_hours_per_day=3.5, recirculated=True, install_certainty="known",
    )  # fmt: skip
    Site.objects.filter(pk=heater.site_id).update(
        people=3, fixtures=7, occupied_share=0.6, static_pressure_kpa=420, business="laundry"
    )
    loaded = inputs.load(base["today"])
    told = {name: of(loaded, heater, name) for name in (
        "capacity_l", "setpoint_c", "input_kw", "floor_m2", "drain_port_m", "lower_element_m", "burner_hours", "people",
        "fixtures", "occupied_share", "pressure_kpa", "heaters_on_site", "recirculated",
    )}  # fmt: skip
    assert told == {
        "capacity_l": 151, "setpoint_c": 57, "input_kw": 11.7, "floor_m2": 0.19, "drain_port_m": 0.085,
        "lower_element_m": 0.31, "burner_hours": 3.5, "people": 3, "fixtures": 7, "occupied_share": 0.6,
        "pressure_kpa": 420, "heaters_on_site": 2.0, "recirculated": True,
    }  # fmt: skip
    assert of(loaded, heater, "business") == code(Business.LAUNDRY)
    other = base["heaters"][1]
    assert np.isnan(of(loaded, other, "drain_port_m")) and not of(loaded, other, "recirculated")
    assert of(loaded, other, "business") == -1


def test_the_company_s_choices_reach_the_core(base):
    company = inputs.Company.current()
    company.tolerance, company.longest_flush_months, company.relief_valve_target = 0.07, 30, 0.03
    company.flush_method, company.never_flushed_cutoff_years = "jetting", 9.0
    company.practice_options = ["leave_old"]
    loaded = inputs.load(base["today"], company=company)
    heater = base["heaters"][2]
    assert of(loaded, heater, "tolerance") == 0.07 and of(loaded, heater, "longest_flush_years") == 2.5
    assert of(loaded, heater, "valve_target") == 0.03 and of(loaded, heater, "leave_years") == 9.0
    assert of(loaded, heater, "flush_method") == code(FlushMethod.JETTING)
    company.practice_options = ["always_flush"]
    assert np.isinf(of(inputs.load(base["today"], company=company), heater, "leave_years"))
    company.first_round_weeks = 52
    assert inputs.load(base["today"], company=company).first_round_years == pytest.approx(364 / 365.25)


def test_parts_in_place_are_told_by_their_kind(base):
    heater, other = base["heaters"][0], base["heaters"][1]
    put_in = heater.installed_on
    Part.objects.filter(heater=heater, kind="anode").update(
        alloy="aluminium", diameter_mm=21, length_mm=900, count=2, fitted_on=put_in + 730 * DAY
    )
    Part.objects.filter(heater=heater, kind="relief_valve").update(
        fitted_on=put_in + 1096 * DAY, set_pressure_kpa=700, diameter_mm=55
    )
    Part.objects.create(heater=heater, kind="expansion_tank", fitted_on=put_in - 40 * DAY, precharge_kpa=350)
    loaded = inputs.load(base["today"])
    told = {name: of(loaded, heater, name) for name in (
        "alloy", "rod_diameter_m", "rod_length_m", "rod_count", "relief_kpa", "expansion_tank_l",
        "expansion_tank_fitted_years", "expansion_tank_precharge_kpa",
    )}  # fmt: skip
    assert told == {
        "alloy": code(Alloy.ALUMINIUM), "rod_diameter_m": 0.021, "rod_length_m": 0.9, "rod_count": 2, "relief_kpa": 700,
        "expansion_tank_l": GEOMETRY.expansion_tank_l, "expansion_tank_fitted_years": 0.0,
        "expansion_tank_precharge_kpa": 350,
    }  # fmt: skip
    assert of(loaded, heater, "rod_fitted_years") == pytest.approx(730 / 365.25)
    assert of(loaded, heater, "valve_fitted_years") == pytest.approx(1096 / 365.25)
    assert np.isnan(of(loaded, other, "expansion_tank_l")) and np.isnan(of(loaded, other, "relief_kpa"))
    assert of(loaded, other, "rod_count") == 1
    # A part that was taken out is none in place.
    Part.objects.filter(heater=heater, kind="expansion_tank").update(removed_on=base["today"])
    assert np.isnan(of(inputs.load(base["today"]), heater, "expansion_tank_l"))


def test_a_look_at_a_rod_of_which_nothing_is_on_record_is_at_one_rod(base):
    heater, other = base["heaters"][0], base["heaters"][2]
    rods = Part.objects.get(heater=other, kind="anode")
    rods.count, rods.alloy = 3, "aluminium_zinc"
    rods.save()
    found(heater, base["today"], task="anode_inspection", grade="half")
    found(other, base["today"], task="anode_inspection", grade="half", part=rods)
    looks = inputs.load(base["today"]).findings
    at = {int(heater_row): n for n, heater_row in enumerate(looks.row)}
    loaded = inputs.load(base["today"])
    told = [at[row(loaded, one)] for one in (heater, other)]
    assert looks.column("part__count")[told].tolist() == [1, 3]
    assert looks.column("part__alloy")[told].tolist() == [-1, code(Alloy.ALUMINIUM_ZINC)]
    assert np.isnan(looks.column("part__length_mm")[told[0]])


def test_a_flush_that_is_said_to_have_been_stands_in_the_middle_of_its_year(base):
    tank, tankless, never = base["heaters"][0], base["heaters"][3], base["heaters"][1]
    Heater.objects.filter(pk__in=[tank.pk, tankless.pk]).update(flush_history="about", last_flush_year=2024)
    Heater.objects.filter(pk=never.pk).update(flush_history="never", last_flush_year=2024)
    loaded = inputs.load(datetime.date(2025, 3, 1))
    assert loaded.fleet.flushes.row.tolist() == [row(loaded, tank)]
    assert loaded.fleet.descales.row.tolist() == [row(loaded, tankless)]
    since = (datetime.date(2024, 6, 30) - tank.installed_on).days / 365.25
    assert loaded.fleet.flushes.years == pytest.approx([since], abs=0.005)
    # Of this year it is no later than today.
    Heater.objects.filter(pk=tank.pk).update(last_flush_year=2025)
    loaded = inputs.load(datetime.date(2025, 3, 1))
    since = (datetime.date(2025, 3, 1) - tank.installed_on).days / 365.25
    assert loaded.fleet.flushes.years == pytest.approx([since], abs=0.002)
    spread = of(loaded, tank, "flushes_log_sd"), of(loaded, never, "flushes_log_sd")
    assert spread == (LEARNING.dated_by_year_spread, 0.0)
    Heater.objects.filter(pk=tank.pk).update(flush_history="unknown", last_flush_year=None)
    loaded = inputs.load(datetime.date(2025, 3, 1))
    assert of(loaded, tank, "flushes_log_sd") == LEARNING.unknown_flushes_spread and not loaded.fleet.flushes.row.size


def test_a_finding_that_was_corrected_stands_no_longer(base):
    heater = base["heaters"][0]
    first = found(heater, base["today"], task="flush", removed="trace")
    found(heater, base["today"], task="flush", removed="heavy", corrects=first)
    assert inputs.load(base["today"]).fleet.flushes.removed.tolist() == [code(Removed.HEAVY)]


def test_a_tankless_descale_tells_what_capacity_was_lost(base):
    found(
        base["heaters"][3], base["today"], task="descale", flow_before_l_min=8.0, rise_before_k=30.0,
        flow_after_l_min=10.0, rise_after_k=40.0,
    )  # fmt: skip
    findings = inputs.load(base["today"]).findings
    assert findings.column("capacity_lost").tolist() == pytest.approx([1 - 240 / 400])


def test_a_build_of_eight_is_a_cohort_and_one_of_seven_is_none(base):
    template = base["heaters"][0]
    for maker, number in (("Ostrand", 8), ("Kelmarsh", 7), ("", 9)):
        for n in range(number):
            Heater.objects.create(
                tag=f"B-{maker}{n}", site=base["sites"][0], kind=template.kind, maker=maker, model="X" if maker else ""
            )
    Heater.objects.filter(tag="B-Kelmarsh0").update(archived_at=None)
    people = inputs.People.on_record()
    assert people.builds == ("Ostrand/X",)
    loaded = inputs.load(base["today"], people=people)
    cohort = loaded.known.cohort
    assert (cohort == 0).sum() == 8 and (cohort == -1).sum() == cohort.size - 8
    assert loaded.builds == ("Ostrand/X",)


def test_the_water_of_a_zone_and_its_chlorine_are_its_heaters(base):
    hard, soft = base["zones"]
    WaterTest.objects.create(
        zone=hard, taken_on=base["today"], total_hardness_mg_l=310, free_chlorine_mg_l=1.5, disinfectant="chloramine"
    )
    loaded = inputs.load(base["today"])
    for heater in base["heaters"]:
        mine = heater.site.zone_id == hard.pk
        assert loaded.zone_ids[of(loaded, heater, "zone")] == heater.site.zone_id
        assert bool(of(loaded, heater, "chloramine")) is mine
        chlorine = of(loaded, heater, "free_chlorine_mg_l")
        assert chlorine == 1.5 if mine else np.isnan(chlorine)


def test_what_was_looked_at_since_it_came_into_care_is_known(base):
    heater, other = base["heaters"][0], base["heaters"][2]
    since = base["today"] - 100 * DAY
    Heater.objects.filter(pk__in=[heater.pk, other.pk]).update(in_care_since=since)
    found(heater, since, task="flush", removed="trace")
    found(other, since - DAY, task="flush", removed="trace")
    loaded = inputs.load(base["today"])
    looked = loaded._looked(inputs.Component.SEDIMENT)
    assert looked[[row(loaded, heater), row(loaded, other)]].tolist() == [True, False]
    assert not loaded._looked(inputs.Component.ANODE).any()


def test_the_small_drawing_shows_shares_of_the_limit_and_no_more_than_three():
    def standing(component, name, values, limit):
        return sign.SignRow(1, component, None, [name], values, limit)

    bed = standing("sediment", "depth_mm", [10.0, 30.0, 50.0], 40.0)
    rod = standing("anode", "fraction_left", [0.1, 0.35, 0.6], 0.2)
    assert sign.sign([bed, rod]) == {"depth_share": 0.75, "anode_left": 0.35}
    full = standing("scale", "thickness_mm", [1.0, 9.0, 12.0], 2.0)
    assert sign.sign([full]) == {"depth_share": 3.0, "anode_left": None}
    assert sign.sign([standing("scale", "thickness_mm", [1.0, 5.9, 12.0], 2.0)])["depth_share"] == 2.95
    assert sign.sign([]) == {"depth_share": None, "anode_left": None}


@pytest.mark.parametrize(("start", "weeks"), [
    ("monday", ["2031-06-09", "2031-06-16"]), ("sunday", ["2031-06-08", "2031-06-15"]),
    ("saturday", ["2031-06-07", "2031-06-14"]),
])  # fmt: skip
def test_services_are_counted_by_the_company_s_weeks(db, start, weeks):
    """Days from a Thursday on: one overdue, two of today, three of the week after, one too far away."""
    outlook.Company.objects.update_or_create(pk=outlook.Company.current().pk, defaults={"week_start": start})
    today, until = datetime.date(2031, 6, 12), datetime.date(2031, 6, 20)
    days = ["2031-05-01", "2031-06-12", "2031-06-13", "2031-06-17", "2031-06-18", "2031-06-19", "2031-06-20"]
    due = np.array(days, dtype="datetime64[D]")
    told = outlook.by_week(inputs.Component.SEDIMENT, due, today, until, ASSUMED)
    assert [(str(one["week"]), one["services"]) for one in told] == [*zip(weeks, [3, 3], strict=True)]
    assert [one["hours"] for one in told] == [3.0] * 2
    slower = Hours({**ASSUMED.of_work, Work.FLUSH: 1.4})
    doubled = outlook.by_week(inputs.Component.SEDIMENT, due, today, until, slower, weight=2.5)
    assert [(one["services"], one["hours"]) for one in doubled] == [(round(7.5), 10.5)] * 2


def test_each_filter_narrows_what_is_chosen(forecasted):
    every = forecasted["heaters"]
    zone = forecasted["zones"][1]

    def chosen(**more):
        return {heater.pk for heater in outlook.chosen(outlook.Filters(**more))}

    assert chosen() == {one.pk for one in every}
    assert chosen(zone_id=zone.pk) == {one.pk for one in every if one.site.zone_id == zone.pk}
    assert chosen(kind="gas_tank") == {one.pk for one in every if one.kind == "gas_tank"}
    assert chosen(words=every[0].tag) == {every[0].pk}
    due = {one.pk: one.due.first_on for one in Heater.objects.select_related("due")}
    first = min(due.values())
    assert chosen(until=first) == {pk for pk, on in due.items() if on == first}
    assert chosen(until=first - DAY) == set()


def test_what_is_known_of_groups_is_kept_by_their_names():
    group = calibrations.Group(np.array([0.12344, -0.5]), np.array([0.04, 0.0100004]), 0.3)
    assert calibrations._told_of(group, ["a/x", "b/y"]) == {"a/x": [0.1234, 0.04], "b/y": [-0.5, 0.01]}
    told = {
        "shape": 3.1, "frailty": 0.2, "level": 2.4, "slopes": [0.1, 0.2], "covariance": [[1.0, 0.0], [0.0, 1.0]],
        "builds": {"b/y": [0.4, 0.01]}, "build_spread": 0.3, "zones": {"7": [0.1, 0.02], "9": [-0.1, 0.03]},
        "zone_spread": 0.5,
    }  # fmt: skip
    life = calibrations._life(told, ("a/x", "b/y"), 12)
    # Of a build of which nothing was learned the spread of builds is all that is known.
    assert life.builds.effect.tolist() == [0.0, 0.4] and life.builds.variance == pytest.approx([0.09, 0.01])
    assert life.zones.effect.tolist() == [0.1, -0.1] and life.failures == 12 and life.level == 2.4
    assert (life.law.shape, life.law.frailty, life.zones.spread) == (3.1, 0.2, 0.5)


def test_the_last_finding_that_went_in_is_each_heater_s_own(base):
    assert inputs.load(base["today"]).last_finding.tolist() == [0] * 6
    one = found(base["heaters"][4], base["today"], task="flush", removed="trace")
    loaded = inputs.load(base["today"])
    assert loaded.last_finding[row(loaded, base["heaters"][4])] == one.pk and loaded.last_finding.sum() == one.pk

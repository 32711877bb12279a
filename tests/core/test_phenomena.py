"""Each phenomenon against closed forms, and against what cannot be otherwise."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aquifer.core import anode, expansion_tank, relief_valve, scale, sediment, tank
from aquifer.core.parameters import RELIEF_VALVE, SCALE, TANK
from aquifer.core.vocabulary import Alloy, FlushMethod, code
from tests.core.fleets import log_ratio
from tests.core.references import CASES

METHODS = {
    "blowout": FlushMethod.PRESSURE_BLOWOUT,
    "pulsed": FlushMethod.DRAIN_AND_PULSE,
    "jetting": FlushMethod.JETTING,
    "acid": FlushMethod.ACID_SOAK,
}
ALLOYS = {"Mg": Alloy.MAGNESIUM, "Al": Alloy.ALUMINIUM, "AlZn": Alloy.ALUMINIUM_ZINC}


def one(*values: float) -> np.ndarray:
    return np.array(values, dtype=float)


def deposit_rate(given: dict) -> np.ndarray:
    return given["V_m3_per_year"] * sediment.deposit_kg_m3(one(given["ccpp"]), one(0.5))


@pytest.mark.parametrize("name", ["sed_grow_1", "sed_grow_3"])
def test_deposit_grows_as_the_differential_equation_says(name):
    given, expected = CASES[name]["input"], CASES[name]["expected"]
    rate = deposit_rate(given)
    bed = sediment.grown((one(0), one(0)), rate, one(given["t"]))
    assert rate == pytest.approx(expected["rate"], rel=1e-5)
    assert bed[0] == pytest.approx(expected["loose"], rel=1e-5)
    assert bed[1] == pytest.approx(expected["hard"], rel=1e-5)
    assert sediment.depth_m(bed, one(given["floor_area"])) == pytest.approx(expected["depth_m"], rel=1e-5)


def opened(row, years, method) -> sediment.Openings:
    shares = sediment.flush_shares()[method]
    every = np.ones(len(row), dtype=bool)
    return sediment.Openings(np.array(row, dtype=int), np.array(years), shares[:, 0], shares[:, 1], every)


@pytest.mark.parametrize("name", ["sed_history_1", "sed_history_2"])
def test_a_history_of_flushes_is_replayed(name):
    given, expected = CASES[name]["input"], CASES[name]["expected"]
    rate, floor = deposit_rate(given), one(given["floor_area"])
    events = given["events"]
    methods = np.array([code(METHODS[method]) for _, method in events])
    history = sediment.replayed(
        rate, one(given["t_now"]), floor, opened([0] * len(events), [on for on, _ in events], methods)
    )
    assert history.depth_before_m == pytest.approx(expected["depth_before_events"], rel=1e-4)
    assert history.bed[0] == pytest.approx(expected["loose"], rel=1e-4)
    assert history.bed[1] == pytest.approx(expected["hard"], rel=1e-4)
    years = sediment.years_to_depth(history.bed, rate, floor, one(given["limit_m"]))
    assert years == pytest.approx(expected["years_to_limit"], rel=1e-4)


def test_a_fleet_is_replayed_as_each_heater_alone():
    rng = np.random.default_rng(3)
    n, rate, age, floor = 40, rng.uniform(0.1, 3, 40), rng.uniform(3, 9, 40), rng.uniform(0.1, 0.3, 40)
    rows = np.sort(rng.integers(0, n, 130))
    years = np.concatenate([np.sort(rng.uniform(0, age[row], (rows == row).sum())) for row in np.unique(rows)])
    method = rng.integers(0, 4, 130)
    together = sediment.replayed(rate, age, floor, opened(rows, years, method))
    for row in range(n):
        own = rows == row
        alone = sediment.replayed(
            rate[[row]],
            age[[row]],
            floor[[row]],
            opened(np.zeros(own.sum()), years[own], method[own]),
        )
        assert together.depth_before_m[own] == pytest.approx(alone.depth_before_m)
        assert together.bed[0][row] == pytest.approx(alone.bed[0][0])


@given(rate=st.floats(1e-3, 50), loose=st.floats(0, 5), hardened=st.floats(0, 20), limit=st.floats(1e-4, 0.5))
def test_the_years_to_a_depth_lead_to_that_depth(rate, loose, hardened, limit):
    bed, floor = (one(min(loose, 1.5 * rate)), one(hardened)), one(0.16)
    years = sediment.years_to_depth(bed, one(rate), floor, one(limit))
    reached = sediment.depth_m(sediment.grown(bed, one(rate), years), floor)
    assert reached[0] == pytest.approx(limit, rel=1e-5) if years[0] > 0 else reached[0] >= limit * (1 - 1e-9)


def test_no_flush_leaves_more_than_there_was():
    bed = (one(2.0), one(3.0))
    for method in FlushMethod:
        after = sediment.flushed(bed, np.array([code(method)]))
        assert 0 <= after[0][0] < 2.0 and 0 <= after[1][0] < 3.0


@pytest.mark.parametrize("name", ["scale_60_66.9", "scale_100_20"])
def test_scale_reaches_its_limit_and_comes_back_after_a_descale(name):
    given, expected = CASES[name]["input"], CASES[name]["expected"]
    growth = scale.growth_m_per_year(
        one(given["V_m3_per_year"]), one(given["ccpp_film"]), one(SCALE.exchanger_m2), one(SCALE.deposit_share)
    )
    assert SCALE.limit_m == pytest.approx(expected["limit_m"])
    assert growth == pytest.approx(expected["growth_m_per_year"], rel=1e-5)
    first = expected["years_first"]
    assert SCALE.limit_m / growth == pytest.approx(first, rel=1e-5)
    history = scale.replayed(growth, one(first), np.array([0]), one(first))
    assert (SCALE.limit_m - history.left_m) / growth == pytest.approx(expected["years_between_descales"], rel=1e-5)


def test_every_descale_counts_and_only_what_grew_since_the_last():
    # By hand, at 0.1 mm a year: 0.10 at one year, a tenth stays; 0.16 at two and a half; and 0.166 at four.
    history = scale.replayed(one(1e-4), one(4.0), np.array([0, 0]), one(1.0, 2.5))
    assert history.before_m == pytest.approx([1.0e-4, 1.6e-4])
    assert (history.left_m[0], history.now_m[0], history.last_years[0]) == pytest.approx((1.6e-5, 1.66e-4, 2.5))


def test_what_scale_costs_grows_with_it_to_the_limits_share():
    limit = one(SCALE.limit_m)
    assert scale.capacity_lost(limit, limit) == pytest.approx([SCALE.capacity_loss_at_limit])
    assert scale.capacity_lost(limit / 2, limit) == pytest.approx([SCALE.capacity_loss_at_limit / 2])


def test_what_flushes_bring_out_is_what_the_bed_loses():
    floor = one(0.159)
    methods = np.array([code(FlushMethod.DRAIN_AND_PULSE), code(FlushMethod.JETTING)])
    history = sediment.replayed(one(2.0), one(6.0), floor, opened([0, 0], [2.0, 5.0], methods))
    lost = 1000 * (history.depth_before_m - history.depth_after_m) * floor
    assert history.removed_l == pytest.approx(lost) and (history.removed_l > 1).all()


def rods(name: str) -> anode.Rods:
    given = CASES[name]["input"]
    return anode.Rods(
        np.array([code(ALLOYS[given["alloy"]])]),
        one(given["d0"]),
        one(given["rod_length"]),
        one(0),
        one(given["wetted_area"]),
        one(given["tank_radius"]),
        one(given["conductivity"]),
        one(given["ccpp"]),
        one(given["temp"]),
    )


@pytest.mark.parametrize("name", ["anode_mod_Mg", "anode_soft_Al"])
def test_a_rod_wears_by_faradays_law(name):
    rod, expected = rods(name), CASES[name]["expected"]
    assert anode.mass_kg(rod) == pytest.approx(expected["mass_kg"], rel=1e-6)
    assert anode.current_a(rod, 0.0) == pytest.approx(expected["current_A_at_0"], rel=1e-5)
    assert anode.consumed(rod, one(2.0)) == pytest.approx(expected["consumed_at_2y"], rel=0.002)
    assert anode.years_to_consume(rod, one(anode.BARE_LIMIT)) == pytest.approx(expected["years_to_replace"], rel=0.002)
    assert anode.years_to_consume(rod, one(1.0)) == pytest.approx(expected["years_to_gone"], rel=0.002)


def test_a_lasting_aluminium_rod_in_soft_water_hardly_protects():
    assert (
        anode.protection_ratio(rods("anode_soft_Al"), 0.0)[0]
        < 0.5
        < anode.protection_ratio(rods("anode_mod_Mg"), 0.0)[0]
    )


def test_bare_wire_and_diameter_tell_the_consumed_share():
    given, expected = CASES["anode_exposed"]["input"], CASES["anode_exposed"]["expected"]
    found = anode.consumed_by_bare_wire(one(*given["exposed_m"]), one(given["rod_length"]))
    assert found == pytest.approx(expected["consumed"], rel=1e-6)
    given, expected = CASES["anode_diameter"]["input"], CASES["anode_diameter"]["expected"]
    found = anode.consumed_by_diameter(one(given["d"]), one(given["d0"]))
    assert found == pytest.approx(expected["consumed"], rel=1e-6)


@pytest.mark.parametrize("name", ["valve_30", "valve_400"])
def test_a_valve_sticks_by_weibulls_law(name):
    hardness, expected = one(CASES[name]["input"]["th"]), CASES[name]["expected"]
    stuck = 1 - np.exp(-relief_valve.hazard(one(1, 5), hardness))
    assert stuck == pytest.approx([expected["p_stuck_1y"], expected["p_stuck_5y"]], rel=1e-4)
    average = relief_valve.average_unavailability(one(1), hardness)
    assert average == pytest.approx(expected["pfd_avg_1y"], rel=1e-4)
    interval = relief_valve.proof_interval_years(one(0.015), hardness, one(0))
    assert interval == pytest.approx(expected["interval_uncapped"], rel=1e-4)


def test_a_valve_that_sticks_twice_as_fast_is_tried_the_sooner():
    interval = relief_valve.proof_interval_years(one(0.015), one(250.0), np.log(one(1, 2, 0.5)))
    by = 2 ** (1 / RELIEF_VALVE.shape)
    assert interval[0] / interval == pytest.approx([1, by, 1 / by])


def test_only_above_very_hard_water_a_valve_is_renewed_sooner():
    hard, usual = RELIEF_VALVE.replace_after_years_hard, RELIEF_VALVE.replace_after_years
    assert hard < usual
    ages = relief_valve.replacement_age_years(one(0, RELIEF_VALVE.very_hard_mg_l, RELIEF_VALVE.very_hard_mg_l + 1))
    assert ages.tolist() == [usual, usual, hard]


def test_the_average_of_a_proof_interval_is_its_target():
    for target in (0.002, 0.015, 0.2):
        years = relief_valve.proof_interval_years(one(target), one(250.0), one(0.0))
        steps = np.linspace(0, years[0], 20_001)
        quadrature = np.trapezoid(1 - np.exp(-relief_valve.hazard(steps, one(250.0))), steps) / years[0]
        assert quadrature == pytest.approx(target, rel=1e-3)


def test_water_expands_as_its_density_says():
    given, expected = CASES["exp_volume_190_60"]["input"], CASES["exp_volume_190_60"]["expected"]
    found = expansion_tank.expansion_l(one(given["V_L"]), one(given["t_cold"]), one(given["t_hot"]))
    assert found == pytest.approx(expected["expansion_L"], rel=0.003)
    # Handbook densities of water at 4, 25 and 60 degC.
    assert expansion_tank.density_kg_m3(one(4, 25, 60)) == pytest.approx([999.97, 997.05, 983.20], abs=0.02)


@pytest.mark.parametrize("name", ["exp_accept_8_515.3", "exp_accept_11.4_600"])
def test_a_cushion_takes_in_what_boyle_says(name):
    given, expected = CASES[name]["input"], CASES[name]["expected"]
    pressures = (one(given[f"{what}_abs_kPa"]) for what in ("precharge", "supply", "max"))
    found = expansion_tank.acceptance_l(one(given["Vt_L"]), *pressures)
    assert found == pytest.approx(expected["acceptance_L"], rel=1e-6)


def test_a_charge_creeps_out_until_the_expansion_no_longer_fits():
    given, expected = CASES["exp_years"]["input"], CASES["exp_years"]["expected"]
    tank_l, supply, most = one(given["Vt_L"]), one(given["supply_abs_kPa"]), one(given["max_abs_kPa"])
    least = expansion_tank.least_precharge_abs_kpa(tank_l, one(given["need_L"]), supply, most)
    assert least == pytest.approx(expected["min_precharge_abs_kPa"], rel=1e-4)
    years = expansion_tank.years_to_loss(one(given["precharge_abs_kPa"]), least, one(0.0))
    assert years == pytest.approx(expected["years"], rel=1e-4)
    assert expansion_tank.acceptance_l(tank_l, least, supply, most) == pytest.approx(given["need_L"])
    # One that loses its charge twice as fast is soft in half the time; one that is soft already, now.
    twice = expansion_tank.years_to_loss(one(given["precharge_abs_kPa"]), least, np.log(one(2.0)))
    assert twice == pytest.approx(years / 2)
    assert expansion_tank.years_to_loss(0.9 * least, least, one(0.0)) == [0.0]


def test_chlorine_and_more_so_chloramine_shorten_a_bladders_life():
    lives = expansion_tank.bladder_life_years(one(0, 1, 1), np.array([False, False, True]))
    assert lives[0] > lives[1] > lives[2] > 0


def stressed(given: dict) -> np.ndarray:
    return log_ratio(one(given["th"]), one(given["pressure_kPa"]), one(given["setpoint"]))


@pytest.mark.parametrize("name", ["tank_p12_age9_th250", "tank_p12_age4_th450"])
def test_a_tanks_end_follows_from_its_age_and_its_stresses(name):
    given, expected = CASES[name]["input"], CASES[name]["expected"]
    standing = tank.Standing(
        one(given["age"]), one(given["spent_years"]), one(given["spent_fraction_next_year"]), stressed(given)
    )
    assert standing.failure_within(one(1.0)) == pytest.approx(expected["p_fail_12m"], rel=1e-6)
    assert standing.failure_within(standing.years_to_failure(one(0.5))) == pytest.approx(0.5)


def test_the_years_to_a_risk_lead_to_that_risk():
    bears = one(0.0), one(0.0), one(0.2)
    years = tank.Standing(one(5.0), *bears).years_to_risk(one(TANK.replace_at))
    then = tank.Standing(5.0 + years, *bears)
    assert then.failure_within(one(1.0)) == pytest.approx(TANK.replace_at, rel=0.01)

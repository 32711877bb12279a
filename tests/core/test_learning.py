from dataclasses import replace

import numpy as np
import pytest
from scipy.stats import dirichlet_multinomial, multinomial

from aquifer.core import learning
from aquifer.core.components.sediment import BY_EYE
from aquifer.core.learning import Demands, Evidence, Grades, Pairs, Pool, Prior, Readings, Standpoint, grid
from aquifer.core.learning.calibration import (
    ComponentCalibration,
    Learners,
    Verdict,
    calibrated,
    corrections,
    grader_bias,
    heeded,
    usual_inside,
    verdict,
)
from aquifer.core.parameters import HALF_WIDTH_80, LEARNING
from tests.core.references import CASES

GRADES = ["none", "trace", "moderate", "heavy", "blocked"]
TEN_FIFTY_NINETY = np.array([0.1, 0.5, 0.9])


def graded(findings_by_heater: list[list[dict]]) -> Evidence:
    row, grade, unit = [], [], []
    for heater, findings in enumerate(findings_by_heater):
        for finding in findings:
            row.append(heater)
            grade.append(GRADES.index(finding["grade"]))
            unit.append(np.log(finding["unit_rate_depth_m"]))
    m = len(row)
    rows, grades = np.array(row, dtype=int), np.array(grade, dtype=int)
    return Evidence((Grades(rows, np.zeros(m), grades, np.array(unit), np.full(m, -1), BY_EYE),))


def read(row, values, spread) -> Evidence:
    return Evidence(readings=Readings(np.array(row), np.zeros(len(values)), np.array(values), np.array(spread)))


def today(n: int) -> Standpoint:
    """All findings were made today, by the household that lives there."""
    return Standpoint(np.zeros(n), np.zeros(n))


def likelihood_of(evidence: Evidence, n: int):
    return learning.log_likelihood(evidence, today(n))


@pytest.mark.parametrize("name", ["post_ordinal_none_twice", "post_ordinal_blocked", "post_ordinal_conflict"])
def test_grades_move_the_rate_as_brute_force_says(name):
    given, expected = CASES[name]["input"], CASES[name]["expected"]
    likelihood = likelihood_of(graded([given["findings"]]), 1)
    found = learning.with_prior(likelihood, Prior(np.array([given["prior_mean"]]), np.array([given["prior_sd"]])))
    assert found.mean[0] == pytest.approx(expected["mean"], abs=0.01)
    assert found.sd[0] == pytest.approx(expected["sd"], abs=0.01)
    quantiles = found.quantiles_of_past(TEN_FIFTY_NINETY)[0]
    assert quantiles == pytest.approx([expected["p10"], expected["p50"], expected["p90"]], abs=0.015)


def test_readings_move_the_rate_as_the_conjugate_normal_does():
    given, expected = CASES["post_numeric"]["input"], CASES["post_numeric"]["expected"]
    values = np.array([f["log_ratio_observed_to_unit_rate"] for f in given["findings"]])
    spread = np.array([f["sd_log"] for f in given["findings"]])
    evidence = read([0, 0], values, spread)
    found = learning.with_prior(likelihood_of(evidence, 1), Prior(np.zeros(1), np.array([given["prior_sd"]])))
    assert found.mean[0] == pytest.approx(expected["mean"], abs=0.01)
    assert found.sd[0] == pytest.approx(expected["sd"], abs=0.01)


def pool(n: int, given: dict) -> Pool:
    return Pool(np.zeros(n, dtype=int), np.full(n, given["tau_zone"]), np.full(n, given["tau_heater"]))


def test_two_hundred_heaters_of_a_zone_agree_with_the_multivariate_normal():
    given, expected = CASES["post_zone_gauss_200"]["input"], CASES["post_zone_gauss_200"]["expected"]
    values, spread = np.array(given["observed_log_theta"]), np.array(given["sd"])
    found, zones = learning.pooled(likelihood_of(read(np.arange(200), values, spread), 200), pool(200, given))
    mass = np.exp(zones.logs[0]) / np.exp(zones.logs[0]).sum()
    assert np.sqrt(mass @ (learning.ZONE_GRID - mass @ learning.ZONE_GRID) ** 2) == pytest.approx(
        expected["zone_sd"], abs=0.005
    )
    assert found.mean[:3] == pytest.approx(expected["mean"], abs=0.01)
    assert found.zone_mean[0] == pytest.approx(expected["zone_mean"], abs=0.01)


def test_a_heater_without_findings_learns_from_its_neighbours():
    given, expected = CASES["post_zone_ordinal"]["input"], CASES["post_zone_ordinal"]["expected"]
    found, _ = learning.pooled(likelihood_of(graded(given["heaters"]), 4), pool(4, given))
    assert found.mean == pytest.approx(expected["mean"], abs=0.015)
    assert found.zone_mean[3] == pytest.approx(expected["zone_mean"], abs=0.015)


def test_pooled_means_agree_with_a_plain_double_sum():
    """Own findings are not counted twice: compared with the joint posterior of three heaters and their zone."""
    evidence = graded(
        [
            [{"unit_rate_depth_m": 0.006, "grade": "heavy"}],
            [{"unit_rate_depth_m": 0.02, "grade": "none"}],
            [],
        ]
    )
    likelihood = likelihood_of(evidence, 3)
    found, _ = learning.pooled(likelihood, Pool(np.zeros(3, dtype=int), np.full(3, 0.7), np.full(3, 0.8)))
    z, x = np.linspace(-4, 4, 401), learning.GRID
    given_z = np.exp(-0.5 * ((x[None, :] - z[:, None]) / 0.8) ** 2)
    given_z /= given_z.sum(axis=1, keepdims=True)
    weight = np.exp(-0.5 * (z / 0.7) ** 2)
    marginal = [given_z @ np.exp(row) for row in likelihood]
    for heater in range(3):
        others = weight * np.prod([marginal[i] for i in range(3) if i != heater], axis=0)
        joint = (others[:, None] * given_z * np.exp(likelihood[heater])).sum(axis=0)
        assert found.mean[heater] == pytest.approx((joint / joint.sum()) @ x, abs=0.01)


def test_an_outlying_grade_does_not_wreck_a_heater():
    steady = [{"unit_rate_depth_m": 0.006, "grade": "moderate"}] * 5
    odd = [*steady, {"unit_rate_depth_m": 0.006, "grade": "blocked"}]
    likelihood = likelihood_of(graded([steady, odd]), 2)
    found = learning.with_prior(likelihood, Prior(np.zeros(2), np.full(2, 0.87)))
    assert found.mean[1] - found.mean[0] < 0.35


def test_demands_tell_a_sticking_valve_from_a_free_one():
    hazards = np.full(6, 0.03)
    failed = np.array([True, True, True, False, False, False])
    evidence = Evidence(demands=Demands(np.array([0, 0, 0, 1, 1, 1]), np.zeros(6), hazards, failed))
    found = learning.with_prior(likelihood_of(evidence, 2), Prior(np.zeros(2), np.full(2, 0.87)))
    assert found.mean[0] > 1.0 and found.mean[1] < 0.0


def test_the_future_is_less_sure_than_the_past_and_its_quantiles_are_a_normals():
    likelihood = np.zeros((1, learning.GRID.size))
    found = learning.with_prior(likelihood, Prior(np.zeros(1), np.array([0.5])), future_spread=0.3)
    width = np.hypot(0.5, 0.3)
    assert found.quantiles(TEN_FIFTY_NINETY)[0] == pytest.approx([-1.28155 * width, 0, 1.28155 * width], abs=0.003)
    assert found.exceeding(np.array([[0.0, 1.28155 * width]]))[0] == pytest.approx([0.5, 0.1], abs=0.002)


def test_a_finding_fades():
    assert learning.faded(np.array([0.0, 1.0, 2.0])) == pytest.approx([1.0, 0.8, 0.64])


def test_an_old_finding_is_vague_but_no_likelier_a_slip():
    evidence = read([0], [1.0], [0.15])
    prior = Prior(np.zeros(1), np.array([0.87]))

    def after(years: float):
        return learning.with_prior(learning.log_likelihood(evidence, Standpoint(np.array([years]), np.zeros(1))), prior)

    fresh, old = after(0.0), after(6.0)
    assert old.sd[0] > 1.5 * fresh.sd[0]
    # Still one peak near what was read, drawn in a little by the prior.
    assert 0.7 < old.quantiles_of_past(np.array([0.5]))[0, 0] < fresh.quantiles_of_past(np.array([0.5]))[0, 0]


def test_a_new_household_makes_earlier_findings_vague():
    evidence = read([0, 1], [1.5, 1.5], [0.2, 0.2])
    moved = Standpoint(np.full(2, 1.0), np.array([0.0, 0.5]))
    found = learning.with_prior(learning.log_likelihood(evidence, moved), Prior(np.zeros(2), np.full(2, 0.87)))
    assert found.sd[1] > 1.3 * found.sd[0] and found.mean[1] < found.mean[0]


def test_a_reading_far_from_all_others_is_taken_for_a_slip():
    steady = [0.0] * 4
    found = learning.with_prior(
        likelihood_of(read([0] * 5, [*steady, 3.0], [0.15] * 5), 1), Prior(np.zeros(1), np.full(1, 0.87))
    )
    assert abs(found.mean[0]) < 0.1


def test_one_heater_against_its_stored_zone_is_as_in_the_whole_zone():
    """What a visit's request computes at once agrees with what the zone's job computes after it."""
    rng = np.random.default_rng(4)
    values = rng.normal(0.4, 0.7, 60)
    old, new = read(np.arange(60), values, np.full(60, 0.3)), read([*range(60), 59], [*values, 1.2], np.full(61, 0.3))
    whole = Pool(np.zeros(60, dtype=int), np.full(60, 0.35), np.full(60, 0.8))
    _, zone = learning.pooled(likelihood_of(old, 60), whole)
    wanted, _ = learning.pooled(likelihood_of(new, 60), whole)
    alone = Pool(np.zeros(1, dtype=int), np.full(1, 0.35), np.full(1, 0.8))
    heard = likelihood_of(read([0], values[-1:], [0.3]), 1)
    found = learning.with_zone(likelihood_of(read([0, 0], [values[-1], 1.2], [0.3, 0.3]), 1), heard, zone, alone)
    assert found.mean[0] == pytest.approx(wanted.mean[59], abs=1e-4)
    assert found.quantiles(TEN_FIFTY_NINETY)[0] == pytest.approx(wanted.quantiles(TEN_FIFTY_NINETY)[59], abs=1e-3)


def simulated_pairs(offsets: list[float], each: int) -> Pairs:
    rng = np.random.default_rng(8)
    by = np.repeat(np.arange(len(offsets)), each)
    depth = np.log(rng.uniform(0.001, 0.05, by.size))
    seen = depth + np.array(offsets)[by] + rng.normal(0, 0.5, by.size)
    grade = np.searchsorted(BY_EYE.cuts, seen)
    return Pairs(np.zeros(by.size, dtype=int), depth, np.full(by.size, 0.15), grade, by, BY_EYE)


def test_peoples_eyes_are_told_apart_where_states_were_measured():
    truth = [-0.5, 0.0, 0.6]
    found, unknown = grader_bias(simulated_pairs(truth, 120), 3)
    assert (unknown[:3] < 0.02).all()
    assert found[:3] == pytest.approx(truth, abs=0.15)


def test_a_person_with_no_measured_visit_sees_as_the_others_do():
    found, unknown = grader_bias(simulated_pairs([0.4, 0.4, 0.4], 80), 4)
    assert (
        unknown[3] == pytest.approx(LEARNING.grader_spread**2, rel=0.01) and unknown[4] < LEARNING.common_eye_spread**2
    )
    assert found[3] == pytest.approx(found[4], abs=0.01) and found[4] == pytest.approx(0.4, abs=0.15)


def test_who_always_says_the_same_counts_little_and_who_has_said_little_counts():
    rng = np.random.default_rng(4)
    by = np.repeat(np.arange(4), [60, 60, 60, 6])
    grade = rng.choice(5, by.size, p=[0.15, 0.25, 0.35, 0.2, 0.05])
    grade[by == 1] = 2
    grade[(by == 1).nonzero()[0][:1]] = 3
    grade[by == 3] = 2
    none = np.zeros(by.size)
    said = Grades(np.arange(by.size), none, grade, none, by, BY_EYE)
    heed = heeded([said], 4)
    assert heed[1] < 0.3 and heed[0] > 0.95 and heed[2] > 0.95
    # Six alike are no habit yet, and what nobody signed is nobody's.
    assert heed[3] > 0.5 and heed[4] == 1.0
    assert heeded([replace(said, by=None)], 4) is None
    # Where everybody says so, it is the water and not the eye.
    assert (heeded([replace(said, grade=np.full(by.size, 2))], 4) > 0.6).all()
    # What counts little moves little.
    heavy = graded([[{"grade": "heavy", "unit_rate_depth_m": 0.002}]])
    heavy = replace(heavy, grades=[replace(one, by=np.array([1])) for one in heavy.grades])
    now = today(1)
    full, little = (np.ptp(learning.log_likelihood(heavy, replace(now, heed=h))) for h in (None, heed))
    assert little < 0.9 * full


def test_how_much_a_person_counts_is_what_two_textbook_distributions_say():
    """Between a Dirichlet-multinomial about the company's grades, and 97 of 100 times the same."""
    counts = np.array([[9, 14, 22, 12, 3], [0, 1, 11, 0, 0], [2, 2, 3, 1, 0]])
    by, grade = np.nonzero(counts)
    times = counts[by, grade]
    said = Grades(
        np.arange(times.sum()), np.zeros(times.sum()), np.repeat(grade, times), np.zeros(times.sum()),
        np.repeat(by, times), BY_EYE,
    )  # fmt: skip
    company = 8.0 * (counts.sum(axis=0) + 0.5) / (counts.sum() + 2.5)
    for person, own in enumerate(counts):
        same = np.full(5, 0.03 / 4)
        same[own.argmax()] = 0.97
        looks = dirichlet_multinomial.pmf(own, company, own.sum())
        does_not = multinomial.pmf(own, own.sum(), same)
        share = 0.02 * does_not / (0.02 * does_not + 0.98 * looks)
        assert heeded([said], 3)[person] == pytest.approx(1 - 0.9 * share, abs=0.001)
    assert 0.2 < heeded([said], 3)[1] < 0.9


def base(own_spread: float, zone_spread: float, cohort_effect: float = 0.0, bias: float = 0.0) -> Learners:
    """Three hundred heaters of thirty zones, each read four times; half of them of one build."""
    rng = np.random.default_rng(5)
    n, each = 300, 4
    zone = np.repeat(np.arange(30), 10)
    cohort = np.where(np.arange(n) % 2, 0, -1)
    theta = (
        rng.normal(0, zone_spread, 30)[zone] + rng.normal(0, own_spread, n) + np.where(cohort == 0, cohort_effect, 0)
    )
    row = np.repeat(np.arange(n), each)
    years = np.tile([1.0, 2.0, 3.0, 4.0], n)
    value = theta[row] + rng.normal(0, 0.2, row.size)
    value[3::4] += bias
    evidence = Evidence(readings=Readings(row, years, value, np.full(row.size, 0.2)))
    age = np.full(n, 4.0)
    widths = np.full(n, 0.35), np.full(n, 0.80)
    return Learners(evidence, None, age, np.zeros(n), zone, cohort, *widths, 0.30, 0, 1)


def test_spreads_are_fitted_from_the_evidence():
    alike, unlike = calibrated(base(0.35, 0.2)), calibrated(base(1.1, 0.5))
    assert alike.heater_scale < 0.75 < 1.1 < unlike.heater_scale
    assert alike.zone_scale <= unlike.zone_scale


def test_a_build_that_fouls_faster_is_recognised():
    assert calibrated(base(0.5, 0.3, cohort_effect=0.5)).cohorts[0] == pytest.approx(0.5, abs=0.25)
    assert abs(calibrated(base(0.5, 0.3)).cohorts[0]) < 0.15
    # What a build is known for goes to each of it, and to no other.
    found = calibrated(base(0.5, 0.3, cohort_effect=0.5))
    assert found.prior_shift(np.array([0, -1])) == pytest.approx([found.level + found.cohorts[0], found.level])
    assert ComponentCalibration().prior_shift(np.array([0, -1])) is None


def test_how_far_valves_differ_is_not_read_off_how_many_stuck():
    """Many more stuck than the model expects: that is a higher level, whatever the spread."""
    n = 400
    learners = base(0.5, 0.3)
    demands = Demands(np.arange(n) % 300, np.ones(n), np.full(n, 0.02), np.arange(n) % 4 == 0)
    taught = calibrated(replace(learners, evidence=Evidence(demands=demands)))
    assert (taught.heater_scale, taught.zone_scale) == (1.0, 1.0) and taught.checked is None


@pytest.mark.parametrize(("times", "low", "high"), [(3.0, 2.4, 3.3), (1.0, 0.8, 1.25), (1 / 3, 0.3, 0.45)])
def test_how_often_valves_stick_is_learned_from_two_thousand_trials(times, low, high):
    rng = np.random.default_rng(31)
    n, each = 500, 4
    hazard = np.full(n * each, 0.03)
    own = rng.normal(0, 0.5, n)
    row = np.repeat(np.arange(n), each)
    failed = rng.random(n * each) < -np.expm1(-times * np.exp(own[row]) * hazard)
    evidence = Evidence(demands=Demands(row, np.tile([1.0, 2, 3, 4], n), hazard, failed))
    widths = np.full(n, 0.35), np.full(n, 0.50)
    valves = Learners(
        evidence, None, np.full(n, 5.0), np.zeros(n), np.arange(n) // 20, np.full(n, -1), *widths, 0.3, 0, 0
    )
    taught = calibrated(valves)
    # As told of a new heater of this base: level and neighbours.
    likelihood = learning.log_likelihood(evidence, taught.standpoint(valves.now, valves.household_years, valves.cohort))
    belief, _ = learning.pooled(likelihood, taught.pool(valves.zone, valves.zone_spread, valves.heater_spread))
    typical = np.exp(np.mean(taught.level + belief.zone_mean))
    assert low <= typical <= high, (typical, taught.level)


def test_each_latest_measurement_is_told_with_what_it_was_off_by():
    taught = calibrated(base(0.8, 0.35))
    checked = taught.checked
    assert checked is not None and checked.row.tolist() == list(range(300)) and set(checked.years) == {4.0}
    inside = np.abs(checked.off) <= HALF_WIDTH_80 * checked.told
    assert inside.mean() == pytest.approx(taught.inside) and checked.told.min() > 0.2
    higher = calibrated(base(0.8, 0.35, bias=0.9)).checked
    assert higher is not None and np.allclose(higher.off - checked.off, 0.9, atol=0.25)
    nothing = base(0.8, 0.35)
    assert calibrated(replace(nothing, evidence=Evidence())).checked is None


def test_the_share_inside_that_is_usual_closes_in_on_eight_in_ten():
    assert usual_inside(1) == (0.0, 1.0)
    # Of ten, six to ten lie inside nine times in ten: P(X <= 5) is 0.033, P(X <= 9) is 0.893.
    assert usual_inside(10) == (0.6, 1.0)
    low, high = usual_inside(10_000)
    assert low == pytest.approx(0.8 - 1.645 * 0.004, abs=1e-3) and high == pytest.approx(0.8 + 1.645 * 0.004, abs=1e-3)
    with pytest.raises(ValueError, match="at least one"):
        usual_inside(0)


@pytest.mark.parametrize(
    ("inside", "checks", "said"),
    [
        (0.8, 400, Verdict.HOLDS),
        (0.7, 400, Verdict.TOO_NARROW),
        (0.9, 400, Verdict.TOO_WIDE),
        (0.6, 10, Verdict.HOLDS),
        (None, 0, Verdict.UNMEASURED),
    ],
)
def test_few_measurements_condemn_no_window(inside, checks, said):
    assert verdict(inside, checks) is said


@pytest.mark.parametrize("checks", [1, 10, 53, 400])
def test_a_share_at_the_edge_of_what_is_usual_holds(checks):
    low, high = usual_inside(checks)
    assert verdict(low, checks) is verdict(high, checks) is Verdict.HOLDS
    assert verdict(low - 1e-9, checks) is Verdict.TOO_NARROW and verdict(high + 1e-9, checks) is Verdict.TOO_WIDE
    with pytest.raises(ValueError, match="at least one"):
        usual_inside(0)


def test_windows_that_measurements_missed_are_moved_and_widened():
    held, missed = calibrated(base(0.8, 0.35)), calibrated(base(0.8, 0.35, bias=0.9))
    assert abs(held.shift) < 0.15 and 0.6 < held.inside <= 1.0
    assert missed.shift > 0.4 and missed.inside < held.inside
    assert missed.checks == 300
    # These heaters never stray: the future is found surer than it is usually taken to be.
    assert held.future_spread < 0.30


def test_a_measurements_own_error_widens_nothing():
    rng = np.random.default_rng(6)
    sd, error = np.full(800, 0.2), np.full(800, 0.4)
    shift, future, _ = corrections(rng.normal(0.1, np.sqrt(0.2**2 + 0.25**2 + 0.4**2), 800), sd, error, 0.30)
    assert shift == pytest.approx(0.1, abs=0.06) and future == pytest.approx(0.25, abs=0.08)
    assert corrections(np.zeros(0), sd[:0], error[:0], 0.30) == (0.0, 0.30, 1.0)


def residuals(known: float, unknown: float, future: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """What a base's measurements were off by: few heaters that were measured before, many that never were."""
    rng = np.random.default_rng(12)
    sd, true = np.repeat([0.15, 0.6], [120, 480]), np.repeat([known, unknown], [120, 480])
    error = np.full(600, 0.15)
    return rng.normal(0, np.sqrt(true**2 + future**2 + error**2)), sd, error


def test_a_belief_that_is_too_wide_where_nothing_was_measured_does_not_make_the_future_look_sure():
    _, right, _ = corrections(*residuals(0.15, 0.6, 0.35), 0.30)
    _, wide, _ = corrections(*residuals(0.15, 0.4, 0.35), 0.30)
    assert right == pytest.approx(0.35, abs=0.06) and wide == pytest.approx(0.35, abs=0.08)


def test_few_measurements_leave_the_future_about_as_unsure_as_usual():
    sd, error = np.full(4, 0.2), np.full(4, 0.2)
    shift, future, _ = corrections(np.zeros(4), sd, error, 0.30)
    assert shift == pytest.approx(0.0, abs=0.02) and 0.2 < future < 0.36


def test_what_tells_of_the_part_alone_neither_fades_nor_ends_with_a_household():
    once = read([0], [1.0], [0.3])
    later = Standpoint(np.full(1, 6.0), np.full(1, 3.0))
    fresh = learning.log_likelihood(once, today(1))
    assert np.ptp(learning.log_likelihood(once, later)) < 0.8 * np.ptp(fresh)
    lasting = Evidence(readings=once.readings, lasts=True)
    assert np.allclose(learning.log_likelihood(lasting, later), fresh)


def test_a_figure_of_one_heater_is_the_same_to_the_last_bit_beside_any_others():
    rng = np.random.default_rng(2)
    mass = rng.random((900, 61)).astype(np.float32)
    matrix, weights = rng.random((61, 82)).astype(np.float32), rng.random(61).astype(np.float32)
    products, sums = grid.product(mass, matrix), grid.weighed(mass, weights)
    for first, last in ((0, 1), (3, 4), (5, 12), (1, 320), (7, 899)):
        assert np.array_equal(grid.product(mass[first:last], matrix), products[first:last])
        assert np.array_equal(grid.weighed(mass[first:last], weights), sums[first:last])


def test_few_findings_add_up_to_the_same_bits_as_many():
    rng = np.random.default_rng(3)
    row = np.sort(rng.integers(0, 40, 400))
    evidence = read(row, rng.normal(0, 1, 400), rng.uniform(0.1, 0.5, 400))
    together = likelihood_of(evidence, 40)
    for heater in (0, 7, 39):
        own = row == heater
        readings = evidence.readings
        alone = read(np.zeros(own.sum(), dtype=int), readings.value[own], readings.spread[own])
        assert np.array_equal(likelihood_of(alone, 1)[0], together[heater])


def test_a_heater_of_which_nothing_new_was_heard_is_as_its_zone_left_it():
    rng = np.random.default_rng(9)
    old = read(np.arange(30), rng.normal(0.3, 0.6, 30), np.full(30, 0.3))
    whole = Pool(np.zeros(30, dtype=int), np.full(30, 0.35), np.full(30, 0.8))
    wanted, zone = learning.pooled(likelihood_of(old, 30), whole)
    alone = Pool(np.zeros(1, dtype=int), np.full(1, 0.35), np.full(1, 0.8))
    own = likelihood_of(read([0], old.readings.value[:1], [0.3]), 1)
    found = learning.with_zone(own, own.copy(), zone, alone)
    assert found.mean[0] == pytest.approx(wanted.mean[0], abs=1e-4)
    # A hair's breadth beside it is heard as new, and comes to the same.
    nearly = learning.with_zone(own, own + np.float32(1e-5), zone, alone)
    assert nearly.quantiles(TEN_FIFTY_NINETY) == pytest.approx(found.quantiles(TEN_FIFTY_NINETY), abs=1e-3)


def test_a_future_that_strays_further_widens_what_is_told_and_moves_no_centre():
    likelihood = likelihood_of(read([0, 1], [0.2, -0.4], [0.3, 0.5]), 2)
    prior = Prior(np.zeros(2), np.full(2, 0.8))
    widths = []
    for spread in (0.1, 0.3, 0.6):
        found = learning.with_prior(likelihood, prior, spread)
        low, middle, high = found.quantiles(TEN_FIFTY_NINETY).T
        past = found.quantiles_of_past(TEN_FIFTY_NINETY)
        assert (high - low > past[:, 2] - past[:, 0]).all()
        assert middle == pytest.approx(past[:, 1], abs=0.02)
        widths.append(high - low)
    assert (np.diff(widths, axis=0) > 0).all()
    with pytest.raises(ValueError, match="must be above 0"):
        learning.with_prior(likelihood, prior, 0.0).quantiles(TEN_FIFTY_NINETY)


def test_measurements_say_alike_whichever_way_they_are_off():
    sd, error = np.full(200, 0.3), np.full(200, 0.2)
    off = np.random.default_rng(14).normal(0.0, 0.5, 200)
    up, down = corrections(off, sd, error, 0.30), corrections(-off, sd, error, 0.30)
    assert up[0] == pytest.approx(-down[0], abs=1e-9) and up[1] == pytest.approx(down[1], abs=1e-9)
    moved = corrections(off + 0.2, sd, error, 0.30)
    assert moved[0] > up[0] + 0.1 and moved[1] == pytest.approx(up[1], abs=0.05)


def test_coarse_points_share_each_fine_one_among_them():
    """A straight line told at the coarse points is the same line at the fine ones, and all of each is shared out."""
    hats, coarse = grid._hats(), grid.GRID[:: grid._COARSE]
    assert hats.sum(axis=1) == pytest.approx(np.ones(grid.GRID.size), abs=1e-6)
    assert hats @ coarse == pytest.approx(grid.GRID, abs=1e-5)


def test_a_point_spread_by_a_normal_lies_where_the_normal_says():
    below = grid._spreading(0.5)
    middle = grid.GRID.size // 2
    at = {sigma: int(np.abs(grid.EDGES - grid.GRID[middle] - 0.5 * sigma).argmin()) for sigma in (-1, 0, 1)}
    for sigma, share in ((-1, 0.1587), (0, 0.5), (1, 0.8413)):
        off = (grid.EDGES[at[sigma]] - grid.GRID[middle]) / 0.5 - sigma
        assert below[middle, at[sigma]] == pytest.approx(share + 0.3 * off, abs=0.03)
    with pytest.raises(ValueError, match="above 0"):
        grid._spreading(0.0)


def test_what_measurements_say_of_windows_is_the_mean_of_a_posterior_added_up_anew():
    """One residual and one combination of the three unknowns at a time, in plain numbers."""
    from math import exp, log, pi, sqrt

    def normal(x: float, mean: float, sd: float) -> float:
        return exp(-0.5 * ((x - mean) / sd) ** 2) / (sd * sqrt(2 * pi))

    off, sd, error = [0.4, -0.1, 0.9, 0.2, 3.0], [0.3, 0.2, 0.5, 0.1, 0.3], [0.1, 0.3, 0.2, 0.15, 0.1]
    years_open, usual = [1.0, 0.4, 1.0, 2.0, 0.7], 0.30
    total = shift = squared = misjudged = 0.0
    for future in np.exp(np.linspace(np.log(0.08), np.log(0.9), 31)).tolist():
        for by in np.exp(np.linspace(-0.15, 0.6, 9)).tolist():
            for centre in np.linspace(-1.2, 1.2, 49).tolist():
                weight = normal(log(future / usual), 0, 0.5) * normal(log(by), 0, 0.25)
                weight *= normal(centre, 0, 0.15)
                for one, own, read, lies in zip(off, sd, error, years_open, strict=True):
                    wide = sqrt((by * own) ** 2 + future**2 * lies + read**2)
                    # A slip may be anywhere in the 7.2 that pace may be off.
                    weight *= (1 - LEARNING.slip) * normal(one, centre, wide) + LEARNING.slip / 7.2
                total += weight
                shift += weight * centre
                misjudged += weight * by
                squared += weight * (future**2 + centre**2)
    shift, misjudged, squared = shift / total, misjudged / total, squared / total
    told = corrections(np.array(off), np.array(sd), np.array(error), usual, np.array(years_open))
    assert told.shift == pytest.approx(shift, abs=1e-6) and told.misjudged == pytest.approx(misjudged, abs=1e-6)
    # The mean of the shift's square about its own mean goes to the spread.
    assert told.future_spread == pytest.approx(np.sqrt(squared - shift**2), abs=1e-6)

import numpy as np
import pytest

from aquifer.core import learning
from aquifer.core.learning import Demands, Evidence, Intervals, Pool, Prior, Readings
from aquifer.core.parameters import SEDIMENT
from tests.core.references import CASES

GRADES = ["none", "trace", "moderate", "heavy", "blocked"]
EDGES = np.log([0.001, 0.004, 0.012, 0.040])
TEN_FIFTY_NINETY = np.array([0.1, 0.5, 0.9])


def graded(findings_by_heater: list[list[dict]]) -> Evidence:
    bounds = np.concatenate([[-np.inf], EDGES, [np.inf]])
    row, low, high = [], [], []
    for heater, findings in enumerate(findings_by_heater):
        for finding in findings:
            grade = GRADES.index(finding["grade"])
            row.append(heater)
            low.append(bounds[grade] - np.log(finding["unit_rate_depth_m"]))
            high.append(bounds[grade + 1] - np.log(finding["unit_rate_depth_m"]))
    m = len(row)
    spread, misgrade = np.full(m, SEDIMENT.grade_spread), np.full(m, SEDIMENT.misgrade)
    return Evidence(intervals=Intervals(np.array(row), np.array(low), np.array(high), spread, misgrade, np.ones(m)))


@pytest.mark.parametrize("name", ["post_ordinal_none_twice", "post_ordinal_blocked", "post_ordinal_conflict"])
def test_grades_move_the_rate_as_brute_force_says(name):
    given, expected = CASES[name]["input"], CASES[name]["expected"]
    likelihood = learning.log_likelihood(graded([given["findings"]]), 1)
    found = learning.with_prior(likelihood, Prior(np.array([given["prior_mean"]]), np.array([given["prior_sd"]])))
    assert found.mean[0] == pytest.approx(expected["mean"], abs=0.01)
    assert found.sd[0] == pytest.approx(expected["sd"], abs=0.01)
    quantiles = found.quantiles_of_past(TEN_FIFTY_NINETY)[0]
    assert quantiles == pytest.approx([expected["p10"], expected["p50"], expected["p90"]], abs=0.015)


def test_readings_move_the_rate_as_the_conjugate_normal_does():
    given, expected = CASES["post_numeric"]["input"], CASES["post_numeric"]["expected"]
    values = np.array([f["log_ratio_observed_to_unit_rate"] for f in given["findings"]])
    spread = np.array([f["sd_log"] for f in given["findings"]])
    evidence = Evidence(readings=Readings(np.zeros(2, dtype=int), values, spread, np.ones(2)))
    found = learning.with_prior(learning.log_likelihood(evidence, 1), Prior(np.zeros(1), np.array([given["prior_sd"]])))
    assert found.mean[0] == pytest.approx(expected["mean"], abs=0.01)
    assert found.sd[0] == pytest.approx(expected["sd"], abs=0.01)


def pool(n: int, given: dict) -> Pool:
    return Pool(np.zeros(n, dtype=int), 1, np.full(n, given["tau_zone"]), np.full(n, given["tau_heater"]))


def test_two_hundred_heaters_of_a_zone_agree_with_the_multivariate_normal():
    given, expected = CASES["post_zone_gauss_200"]["input"], CASES["post_zone_gauss_200"]["expected"]
    values, spread = np.array(given["observed_log_theta"]), np.array(given["sd"])
    evidence = Evidence(readings=Readings(np.arange(200), values, spread, np.ones(200)))
    found = learning.pooled(learning.log_likelihood(evidence, 200), pool(200, given))
    assert found.mean[:3] == pytest.approx(expected["mean"], abs=0.01)
    assert found.zone_mean[0] == pytest.approx(expected["zone_mean"], abs=0.01)


def test_a_heater_without_findings_learns_from_its_neighbours():
    given, expected = CASES["post_zone_ordinal"]["input"], CASES["post_zone_ordinal"]["expected"]
    found = learning.pooled(learning.log_likelihood(graded(given["heaters"]), 4), pool(4, given))
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
    likelihood = learning.log_likelihood(evidence, 3)
    found = learning.pooled(likelihood, Pool(np.zeros(3, dtype=int), 1, np.full(3, 0.7), np.full(3, 0.8)))
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
    likelihood = learning.log_likelihood(graded([steady, odd]), 2)
    found = learning.with_prior(likelihood, Prior(np.zeros(2), np.full(2, 0.87)))
    assert found.mean[1] - found.mean[0] < 0.35


def test_demands_tell_a_sticking_valve_from_a_free_one():
    hazards = np.full(6, 0.03)
    failed = np.array([True, True, True, False, False, False])
    evidence = Evidence(demands=Demands(np.array([0, 0, 0, 1, 1, 1]), hazards, failed, np.ones(6)))
    found = learning.with_prior(learning.log_likelihood(evidence, 2), Prior(np.zeros(2), np.full(2, 0.87)))
    assert found.mean[0] > 1.0 and found.mean[1] < 0.0


def test_the_future_is_less_sure_than_the_past_and_its_quantiles_are_a_normals():
    likelihood = np.zeros((1, learning.GRID.size))
    found = learning.with_prior(likelihood, Prior(np.zeros(1), np.array([0.5])), future_spread=0.3)
    width = np.hypot(0.5, 0.3)
    assert found.quantiles(TEN_FIFTY_NINETY)[0] == pytest.approx([-1.28155 * width, 0, 1.28155 * width], abs=0.003)
    assert found.exceeding(np.array([[0.0, 1.28155 * width]]))[0] == pytest.approx([0.5, 0.1], abs=0.002)


def test_a_finding_fades():
    assert learning.faded(np.array([0.0, 1.0, 2.0])) == pytest.approx([1.0, 0.8, 0.64])

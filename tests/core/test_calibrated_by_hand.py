"""What a base teaches, worked out anew for eight heaters: each integral as a plain sum, one heater and one value of
what is unknown at a time."""

from dataclasses import replace
from math import exp, hypot, log, pi, sqrt

import numpy as np
import pytest
from scipy.stats import norm

from aquifer.core import learning
from aquifer.core.components.sediment import BY_EYE
from aquifer.core.learning import Evidence, Grades, Pairs, Readings, calibration
from aquifer.core.learning.calibration import Cleanings, Learners, calibrated, corrections, grader_bias, removal, slopes
from aquifer.core.parameters import LEARNING

N, ZONE, COHORT = 8, [0, 0, 0, 1, 1, 2, 2, 2], [0, 1, 0, -1, 1, 0, -1, 1]
OWN, COMMON = 0.8, 0.6
VALUES = [0.9, -0.2, 1.4, 0.1, -1.1, 0.6, 0.4, -0.5, 1.1, 0.2, 1.2, 0.3, -0.7, 0.9, 0.1, -0.9]
HEATER_SCALES = [0.3, 0.4, 0.55, 0.7, 0.85, 1.0, 1.2, 1.45, 1.8, 2.2]
ZONE_SCALES = [0.4, 0.6, 1.0, 1.5, 2.2, 3.0]


def normal(x: float, mean: float, sd: float) -> float:
    return exp(-0.5 * ((x - mean) / sd) ** 2) / (sd * sqrt(2 * pi))


def chance_of(value: float, x: float, sd: float) -> float:
    """Of a reading, given a pace: normal about it, or a slip anywhere in the 7.2 that a pace may be off."""
    return (1 - LEARNING.slip) * normal(value, x, sd) + LEARNING.slip / 7.2


def learners(**other) -> Learners:
    """Two readings of each heater, made today."""
    row = np.tile(np.arange(N), 2)
    order = np.argsort(row, kind="stable")
    readings = Readings(row[order], np.full(2 * N, 3.0), np.array(VALUES)[order], np.full(2 * N, 0.25))
    given = {
        "evidence": Evidence(readings=readings), "pairs": None, "now": np.full(N, 3.0), "household_years": np.zeros(N),
        "zone": np.array(ZONE), "cohort": np.array(COHORT), "zone_spread": np.full(N, COMMON),
        "heater_spread": np.full(N, OWN), "future_spread": 0.3, "graders": 0, "cohorts": 2,
    }  # fmt: skip
    return Learners(**{**given, **other})


GRID = [-3.6 + 0.12 * at for at in range(61)]


def likelihoods(of: Learners, level: float = 0.0, cohorts=(0.0, 0.0)) -> list[list[float]]:
    """Of each heater, by pace: what its two readings say, each a slip in so many."""
    readings, found = of.evidence.readings, []
    for heater in range(N):
        shift = level + (cohorts[COHORT[heater]] if COHORT[heater] >= 0 else 0.0)
        mine = np.flatnonzero(readings.row == heater)
        found.append([
            np.prod([
                chance_of(readings.value[at] - shift, x, readings.spread[at])
                for at in mine
            ])
            for x in GRID
        ])  # fmt: skip
    return found


def kernel(z: float, sd: float) -> list[float]:
    """How paces lie about what a zone has in common, on the grid."""
    weight = [normal(x, z, sd) for x in GRID]
    return [one / sum(weight) for one in weight]


ZONES = [-2.4 + 0.08 * at for at in range(61)]


def log_evidence(given: list[list[float]], own: float, common: float) -> float:
    """ln of the probability of all findings: over zones, over what each has in common, over its heaters' paces."""
    told, total = [kernel(z, own) for z in ZONES], 0.0
    weight = [normal(z, 0.0, common) for z in ZONES]
    for zone in sorted(set(ZONE)):
        over = 0.0
        for at in range(len(ZONES)):
            product = weight[at] / sum(weight)
            for heater in range(N):
                if ZONE[heater] == zone:
                    product *= float(np.dot(told[at], given[heater]))
            over += product
        total += log(over)
    return total


def believed(given: list[list[float]], heater: int, own: float, common: float) -> tuple[float, float, float]:
    """Mean and deviation of a heater's pace, and the mean of what its zone has in common, by the findings of all."""
    total = pace = square = zone_mean = 0.0
    for z in ZONES:
        told = kernel(z, own)
        others = normal(z, 0.0, common)
        for other in range(N):
            if ZONE[other] == ZONE[heater] and other != heater:
                others *= float(np.dot(told, given[other]))
        for x, share, said in zip(GRID, told, given[heater], strict=True):
            weight = others * share * said
            total += weight
            pace += weight * x
            square += weight * x * x
            zone_mean += weight * z
    return pace / total, sqrt(square / total - (pace / total) ** 2), zone_mean / total


def mean_of(logs: dict[float, float]) -> float:
    most = max(logs.values())
    weight = {at: exp(one - most) for at, one in logs.items()}
    return sum(at * one for at, one in weight.items()) / sum(weight.values())


def scales(given: list[list[float]], owns: list[float], commons: list[float]) -> tuple[float, float]:
    """By how much heaters and zones differ more than is assumed: geometric means, weighed by the evidence at each."""
    logs = {}
    for own in owns:
        for common in commons:
            usual = -0.5 * (log(own) ** 2 + log(common) ** 2) / 0.35**2
            logs[own, common] = log_evidence(given, OWN * own, COMMON * common) + usual
    most = max(logs.values())
    weight = {at: exp(one - most) for at, one in logs.items()}
    total = sum(weight.values())
    return tuple(exp(sum(log(at[which]) * one for at, one in weight.items()) / total) for which in (0, 1))


def test_how_far_heaters_and_zones_differ_is_weighed_by_the_evidence_at_each():
    of = learners()
    given = likelihoods(of)
    own, common = scales(given, HEATER_SCALES, ZONE_SCALES)
    taught = calibrated(of)
    assert (taught.heater_scale, taught.zone_scale) == pytest.approx((own, common), abs=0.011)
    # It is neither the usual nor a stop of the grids.
    assert abs(own - 1) > 0.03 and 0.31 < own < 2.1


def test_a_build_is_told_by_what_its_heaters_are_beyond_their_zones_as_far_as_findings_tell():
    of = learners()
    taught = calibrated(of)
    own, common = OWN * taught.heater_scale, COMMON * taught.zone_scale
    given = likelihoods(of)
    weight, pull = [0.0, 0.0], [0.0, 0.0]
    for heater in range(N):
        if COHORT[heater] < 0:
            continue
        mean, sd, zone_mean = believed(given, heater, own, common)
        weight[COHORT[heater]] += max(1 - sd**2 / own**2, 0) / own**2
        pull[COHORT[heater]] += (mean - zone_mean) / own**2
    by_hand = [pull[one] / (weight[one] + 1 / LEARNING.cohort_spread**2) for one in (0, 1)]
    assert taught.cohorts == pytest.approx(by_hand, abs=0.004)
    assert by_hand[0] > 0.02 > -0.02 > by_hand[1]


def test_the_level_of_a_base_is_weighed_by_the_evidence_at_each():
    of = learners(evidence=Evidence(readings=replace(learners().evidence.readings, value=np.array(VALUES) + 0.8)))
    taught = calibrated(of)
    own, common = OWN * taught.heater_scale, COMMON * taught.zone_scale
    logs = {
        level: log_evidence(likelihoods(of, level, taught.cohorts), own, common) - 0.5 * (level / 0.8) ** 2
        for level in np.linspace(-2.0, 2.0, 21).tolist()
    }
    assert taught.level == pytest.approx(mean_of(logs), abs=0.004) and taught.level > 0.3


def test_eyes_are_as_sharp_as_the_evidence_of_all_findings_says():
    """Two grades of each of what wears evenly."""
    row = np.repeat(np.arange(N), 2)
    grade = np.array([2, 3, 1, 2, 3, 3, 2, 1, 0, 2, 3, 2, 2, 2, 1, 3])
    unit = np.full(2 * N, log(0.009))
    grades = Grades(row, np.full(2 * N, 3.0), grade, unit, np.zeros(2 * N, int), BY_EYE)
    of = learners(evidence=Evidence((grades,), lasts=True), graders=1, cohorts=0)
    taught = calibrated(of)
    own, common = OWN * taught.heater_scale, COMMON * taught.zone_scale
    standpoint = replace(taught.standpoint(of.now, of.household_years, of.cohort), fades=False, shift=None)

    def given(sharp):
        return np.exp(learning.log_likelihood(of.evidence, replace(standpoint, eye_scale=sharp)).astype(float)).tolist()

    # The spreads were fitted once before it and once after; before it by the usual eye.
    first = calibration._with_spreads(
        replace(taught, heater_scale=1.0, zone_scale=1.0),
        learning.log_likelihood(of.evidence, replace(standpoint, eye_scale=1.0)), of,
    )  # fmt: skip
    scales = [0.5, 0.6, 0.7, 0.85, 1.0, 1.2, 1.45, 1.8]
    logs = {
        log(sharp): log_evidence(given(sharp), OWN * first.heater_scale, COMMON * first.zone_scale)
        - 0.5 * log(sharp) ** 2 / 0.35**2
        for sharp in scales
    }
    assert taught.eye_scale == pytest.approx(exp(mean_of(logs)), abs=0.011) and taught.eye_scale != 1.0
    again = calibration._with_spreads(
        first, learning.log_likelihood(of.evidence, replace(standpoint, eye_scale=taught.eye_scale)), of
    )
    assert (taught.heater_scale, taught.zone_scale) == (again.heater_scale, again.zone_scale)
    assert own == OWN * again.heater_scale and common == COMMON * again.zone_scale


def test_what_each_sees_over_the_truth_is_the_mean_of_what_all_their_pairs_leave_likely():
    """Three people; the last measured nothing, and so sees as the others do."""
    by = np.array([0, 0, 0, 0, 0, 0, 1, 1, 1, -1])
    depth_mm = np.array([2.0, 5.0, 11.0, 18.0, 30.0, 3.0, 3.0, 8.0, 20.0, 6.0])
    grade = np.array([2, 3, 3, 4, 4, 2, 0, 1, 2, 2])
    spread = np.full(10, 0.3)
    pairs = Pairs(np.zeros(10, int), np.log(depth_mm / 1000), spread, grade, by, BY_EYE)
    eyes = np.linspace(-1.5, 1.5, 61).tolist()
    wide = hypot(BY_EYE.spread, 0.3)

    def chance(at: int, eye: float) -> float:
        """That this grade is given of this depth: between its cuts, or by mistake any of five."""
        seen = log(depth_mm[at] / 1000) + eye
        low = norm.cdf((BY_EYE.cuts[grade[at] - 1] - seen) / wide) if grade[at] > 0 else 0.0
        high = norm.cdf((BY_EYE.cuts[grade[at]] - seen) / wide) if grade[at] < 4 else 1.0
        return (1 - BY_EYE.misgrade) * (high - low) + BY_EYE.misgrade / 5

    common, g, c = 0.0, LEARNING.grader_spread, LEARNING.common_eye_spread
    for _ in range(4):
        found = []
        for person in range(4):
            mine = [at for at in range(10) if (by[at] if by[at] >= 0 else 3) == person]
            weight = [normal(eye, common, g) * float(np.prod([chance(at, eye) for at in mine])) for eye in eyes]
            mean = sum(w * eye for w, eye in zip(weight, eyes, strict=True)) / sum(weight)
            variance = sum(w * (eye - mean) ** 2 for w, eye in zip(weight, eyes, strict=True)) / sum(weight)
            found.append((mean, variance))
        says = [max(1 - variance / g**2, 0) / g**2 for _, variance in found]
        common = sum(one * mean for one, (mean, _) in zip(says, found, strict=True)) / (sum(says) + 1 / c**2)
    told, unknown = grader_bias(pairs, 3)
    assert told == pytest.approx([*(mean for mean, _ in found[:3]), common], abs=0.002)
    assert unknown == pytest.approx([*(variance for _, variance in found[:3]), 1 / (sum(says) + 1 / c**2)], abs=0.002)
    assert told[0] > 0.2 > -0.2 > told[1] and told[2] == pytest.approx(common, abs=0.06)


def test_how_good_and_how_even_cleanings_are_is_added_up_over_both():
    left, error, usual = [-1.2, -0.4, -2.3, -0.9], [0.2, 0.3, 0.15, 0.25], [-0.7, -0.9, -0.8, -1.0]
    spread = [0.3, 0.35, 0.4, 0.3]
    cleanings = Cleanings(
        np.array(left), np.array(error), lambda odds: (np.array(usual) - 0.4 * odds, np.array(spread) + 0.02 * odds)
    )
    total = better = rough = 0.0
    for odds in np.linspace(-2.0, 2.0, 17).tolist():
        for uneven in np.exp(np.linspace(-0.7, 0.7, 9)).tolist():
            weight = exp(-0.5 * (odds / 0.7) ** 2) * exp(-0.5 * (log(uneven) / 0.35) ** 2)
            for one, read, centre, by in zip(left, error, usual, spread, strict=True):
                wide = hypot(uneven * (by + 0.02 * odds), read)
                weight *= chance_of(one, centre - 0.4 * odds, wide)
            total, better, rough = total + weight, better + weight * odds, rough + weight * uneven
    assert removal(cleanings) == pytest.approx((better / total, rough / total))
    assert better / total > 0.2 and abs(rough / total - 1) > 0.02


def test_what_traits_tell_is_a_least_squares_written_in_whole_matrices():
    of = learners(cohorts=0, cohort=np.full(N, -1))
    traits = np.array(
        [[0.5, 0.0], [-0.3, 0.2], [0.9, -0.4], [0.0, 0.5], [-0.8, 0.1], [0.4, 0.3], [0.1, -0.6], [-0.5, 0.0]]
    )
    given = likelihoods(of)
    own, common = scales(given, HEATER_SCALES[::2], ZONE_SCALES[::2])
    own, common = OWN * round(own, 2), COMMON * round(common, 2)
    prior = own**2 + common**2
    said, error = [], []
    for heater in range(N):
        both = [normal(x, 0.0, sqrt(prior)) * one for x, one in zip(GRID, given[heater], strict=True)]
        mean = sum(w * x for w, x in zip(both, GRID, strict=True)) / sum(both)
        variance = sum(w * (x - mean) ** 2 for w, x in zip(both, GRID, strict=True)) / sum(both)
        heard = 1 - variance / prior
        said.append(mean / heard)
        error.append(prior * (1 - heard) / heard)
    covariance = np.diag([own**2 + one for one in error])
    covariance += common**2 * np.equal.outer(ZONE, ZONE)
    design = np.column_stack([np.ones(N), traits])
    known = np.diag([1 / 0.8**2, 1 / 0.4**2, 1 / 0.4**2])
    inverse = np.linalg.inv(covariance)
    fitted = np.linalg.solve(design.T @ inverse @ design + known, design.T @ inverse @ np.array(said))
    assert slopes(of, traits) == pytest.approx(fitted[1:], abs=0.004)
    assert fitted[1] > 0.1


def test_each_last_measurement_is_held_against_what_all_others_and_the_earlier_ones_said():
    """Of what wears evenly, so that nothing fades: read at one year and at three, and one of them read but once."""
    row = np.array([0, 0, 1, 1, 2, 2, 3, 3, 4, 4, 5, 5, 6, 6, 7])
    years = np.array([1.0, 3.0] * 7 + [2.0])
    value, spread = np.array(VALUES[:15]), np.linspace(0.2, 0.34, 15)
    drawn = np.ones(15, dtype=bool)
    drawn[3] = False  # the second of heater 1 was nobody's choice: its first is the test
    of = learners(
        evidence=Evidence(readings=Readings(row, years, value, spread, drawn), lasts=True), cohorts=0,
        cohort=np.full(N, -1),
    )  # fmt: skip
    taught = calibrated(of)
    own, common = OWN * taught.heater_scale, COMMON * taught.zone_scale

    def said(heater: int, before: float) -> list[float]:
        mine = [at for at in range(15) if row[at] == heater and years[at] < before]
        return [
            float(np.prod([
                chance_of(value[at] - taught.level, x, spread[at]) for at in mine
            ]))
            for x in GRID
        ]  # fmt: skip

    tested = {0: 1, 1: 2, 2: 5, 3: 7, 4: 9, 5: 11, 6: 13, 7: 14}
    off, told = [], []
    for heater, at in tested.items():
        given = [said(one, years[at] if one == heater else 9.0) for one in range(N)]
        mean, sd, _ = believed(given, heater, own, common)
        off.append(value[at] - taught.level - mean)
        told.append(sqrt(sd**2 + 0.3**2 + spread[at] ** 2))
    checked = taught.checked
    assert checked.row.tolist() == list(tested) and checked.years.tolist() == [years[at] for at in tested.values()]
    assert checked.off == pytest.approx(off, abs=0.01) and checked.told == pytest.approx(told, abs=0.01)
    assert taught.checks == 8
    inside = [abs(one) <= 1.2816 * wide for one, wide in zip(off, told, strict=True)]
    assert taught.inside == pytest.approx(sum(inside) / 8) and 0 < sum(inside) < 8
    by_hand = corrections(np.array(off), np.sqrt(np.array(told) ** 2 - 0.09 - spread[list(tested.values())] ** 2),
                          spread[list(tested.values())], 0.3)  # fmt: skip
    assert (taught.shift, taught.misjudged) == pytest.approx((by_hand.shift, by_hand.misjudged), abs=0.01)
    # A window looks a little further ahead than the visit that tested the last one.
    assert taught.future_spread == pytest.approx(1.03 * by_hand.future_spread, abs=0.01)


def test_what_is_not_known_of_eyes_is_as_much_of_a_heater_as_their_grades_are_of_all_that_is_known():
    """Three heaters: graded by two people, by nobody in particular, by what needs no eye; the first was read, too."""
    row, by = np.array([0, 0, 0, 1, 1]), np.array([0, 1, 1, -1, 0])
    none = np.zeros(5)
    eyes = Grades(row, none, np.full(5, 2), none, by, BY_EYE, blur=0.04)
    plain = Grades(np.array([2, 2]), none[:2], np.full(2, 2), none[:2], None, BY_EYE)
    readings = Readings(np.array([0, 2]), none[:2], none[:2], np.array([0.3, 0.2]), blur=np.array([0.01, 0.0]))
    standpoint = learning.Standpoint(np.zeros(3), np.zeros(3), fades=False)
    prior, variance = np.array([0.9, 1.0, 1.1]), np.array([0.02, 0.05, 0.03])
    told = learning.evidence.eyes_say(Evidence((eyes, plain), readings), standpoint, prior, variance)
    graded = 1 / (BY_EYE.spread**2 + 0.04)
    own = [0.02 + LEARNING.eye_drift**2, 0.05 + LEARNING.eye_drift**2, LEARNING.grader_spread**2]
    # The first: one grade of one, two of the other, a reading and what heaters are.
    whole = 1 / 0.9**2 + 1 / (0.3**2 + 0.01) + 3 * graded
    shares = [graded / whole, 2 * graded / whole]
    first = 0.03 * sum(shares) ** 2 + shares[0] ** 2 * own[0] + shares[1] ** 2 * own[1]
    # The second: one of nobody in particular, who may be anybody.
    whole = 1 / 1.0**2 + 2 * graded
    second = 0.03 * (2 * graded / whole) ** 2 + (graded / whole) ** 2 * (own[2] + own[0])
    assert told == pytest.approx([first, second, 0.0])
    # What needs no eye makes what eyes say less of the whole.
    seen = Grades(np.array([2]), none[:1], np.array([2]), none[:1], np.array([0]), BY_EYE)
    with_plain = learning.evidence.eyes_say(Evidence((seen, plain), readings), standpoint, prior, variance)[2]
    graded = 1 / BY_EYE.spread**2
    whole = 1 / 1.1**2 + 2 * graded / 4 + 1 / 0.2**2 + graded
    assert with_plain == pytest.approx((graded / whole) ** 2 * (0.03 + own[0]))

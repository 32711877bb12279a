"""What components take from the record and add up, worked out here figure by figure."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.stats import norm

from aquifer.core import anode
from aquifer.core.assembly import complete
from aquifer.core.components import AnodeComponent, ExpansionTankComponent, ScaleComponent, SedimentComponent
from aquifer.core.components import scale as of_scale
from aquifer.core.components import sediment as of_sediment
from aquifer.core.components.tank import TankComponent
from aquifer.core.expansion_tank import ATMOSPHERE_KPA
from aquifer.core.fleet import DescaleEvents, ExpansionTankEvents, RodEvents
from aquifer.core.forecast import LEARNED_FACTORS, Context, forecast
from aquifer.core.kinds import HeaterKind
from aquifer.core.learning import ComponentCalibration
from aquifer.core.parameters import ANODE, EXPANSION_TANK, TANK
from aquifer.core.vocabulary import Alloy, Component, ExpansionTankPin, FlushMethod, Removed, RodGrade, code
from aquifer.core.water import Blend, WaterTest, profile
from tests.core.fleets import flushes, known, without_events

MAGNESIUM, NONE = code(Alloy.MAGNESIUM), code(Alloy.NONE)


def heaters(n, **columns):
    return complete(known(n, zone=np.zeros(n, int), **columns), [profile(WaterTest(total_hardness_mg_l=220))])


def rods(*looks, age=6.0):
    """One tank whose first rod, of 20 mm and 1 m, was looked at: years, diameter, bare wire and grade of each."""
    h = replace(heaters(1, age_years=np.array([age])), rod_diameter_m=np.array([0.020]), rod_length_m=np.array([1.0]))
    m = len(looks)
    years, diameter, bare, grade = (np.array(one, dtype=float) for one in zip(*looks, strict=True))
    events = RodEvents(
        np.zeros(m, int), years, np.arange(m), np.full(m, MAGNESIUM), np.full(m, 0.020), np.full(m, 1.0), np.zeros(m),
        diameter, bare, grade.astype(int),
    )  # fmt: skip
    return AnodeComponent.of(replace(without_events(h), rod_looks=events))


NOT, NO_GRADE = np.nan, -1


class TestRods:
    def test_a_diameter_is_as_sure_as_its_calliper_against_what_is_expected_to_be_gone(self):
        one = rods((3.0, 0.016, NOT, NO_GRADE))
        read = one.evidence().readings
        expected = float(anode.consumed(one.rods, np.array([3.0]))[0])
        gone = (0.020**2 - 0.016**2) / (0.020**2 - ANODE.core_diameter_m**2)
        assert read.value[0] == pytest.approx(np.log(gone) - np.log(expected), abs=0.03)
        # A diameter d read d +- e moves the share by 2 d e over what the metal was, and its logarithm by that over it.
        blur = 2 * 0.016 * ANODE.diameter_error_m / (0.020**2 - ANODE.core_diameter_m**2) / expected
        assert read.spread[0] == pytest.approx(np.hypot(ANODE.reading_spread, blur))

    def test_bare_wire_is_read_by_its_length_and_blurred_by_no_calliper(self):
        one = rods((3.0, NOT, 0.25, NO_GRADE), (4.0, 0.012, 0.25, NO_GRADE))
        read = one.evidence().readings
        assert read.spread == pytest.approx([ANODE.reading_spread] * 2)
        share = anode.consumed_by_bare_wire(np.array([0.25]), np.array([1.0]))[0]
        expected = anode.consumed(one.rods.column(), np.array([[3.0, 4.0]]))[0]
        assert read.value == pytest.approx(np.log(share) - np.log(expected), abs=0.03)

    def test_what_looks_untouched_is_under_a_twentieth_gone(self):
        one = rods((3.0, 0.020, NOT, NO_GRADE))
        expected = float(anode.consumed(one.rods, np.array([3.0]))[0])
        assert one.evidence().readings.value[0] == pytest.approx(np.log(0.05 / expected), abs=0.03)

    def test_a_look_is_read_or_graded_and_no_wire_is_no_reading(self):
        one = rods(
            (1.0, NOT, NOT, 1), (2.0, NOT, 0.0, 2), (3.0, 0.014, NOT, 2), (4.0, NOT, 0.1, 3), (5.0, NOT, NOT, -1)
        )
        (graded,), read = one.evidence().grades, one.evidence().readings
        assert read.drawn.tolist() == [True, False]
        assert graded.grade.tolist() == [1, 2] and graded.years.tolist() == [1.0, 2.0]
        assert read.years.tolist() == [3.0, 4.0]

    def test_what_went_since_the_look_before_is_what_a_reading_adds(self):
        one = rods((1.0, 0.019, NOT, -1), (3.0, 0.016, NOT, -1), (3.0, 0.016, NOT, -1), (4.0, NOT, 0.1, -1))
        gone = anode.consumed(one.rods.column(), np.array([[1.0, 3.0, 3.0, 4.0]]))[0]
        told = one.evidence().readings.to_come
        # The first has all of it to tell, and so has one of the same day as the look before it.
        assert told == pytest.approx([1.0, 1 - gone[0] / gone[1], 1.0, 1 - gone[2] / gone[3]])

    def test_an_eye_is_judged_where_the_calliper_is_surer_than_it(self):
        sharp, blunt = (3.0, 0.012, NOT, int(code(RodGrade.HALF))), (0.2, 0.0199, NOT, int(code(RodGrade.HALF)))
        one = rods(blunt, sharp, (4.0, 0.010, NOT, -1), (5.0, NOT, 0.2, 3))
        pairs = one.pairs()
        assert pairs.grade.tolist() == [int(code(RodGrade.HALF))] and pairs.by.tolist() == [1]
        gone = (0.020**2 - 0.012**2) / (0.020**2 - ANODE.core_diameter_m**2)
        assert pairs.log_state[0] == pytest.approx(np.log(gone))

    def test_its_pace_and_what_is_left_follow_from_its_current(self):
        one = rods((3.0, 0.016, NOT, -1), age=4.0)
        log_theta = np.log(np.array([[0.5, 1.0, 2.0]]))
        a_year = float(anode.current_a(one.rods, np.array([4.0]))[0] / one.rods.charge[0])
        assert one.rate(log_theta)[0] == pytest.approx([0.5 * a_year, a_year, 2 * a_year])
        now, next_year = (float(anode.consumed(one.rods, np.array([at]))[0]) for at in (4.0, 5.0))
        left = [max(1 - 2 * now, 0), 1 - now, 1 - 0.5 * now]
        assert one.states(log_theta)["fraction_left"][0] == pytest.approx(left)
        later = [max(1 - 2 * next_year, 0), max(1 - next_year, 0), 1 - 0.5 * next_year]
        assert one.states_in_a_year(log_theta)[0] == pytest.approx(later)
        assert one.limit()[0] == "fraction_left" and one.limit()[1] == pytest.approx([1 - anode.BARE_LIMIT])


class TestTankYears:
    def test_time_in_care_is_cut_into_half_years_behind_the_years_before_it(self):
        h = heaters(3, age_years=np.array([9.0, 9.0, 9.0]), alloy=np.array([MAGNESIUM, NONE, MAGNESIUM]))
        tanks = TankComponent.of(without_events(h), None, None)
        leaked = np.array([True, False, False])
        told = tanks.spans(np.array([2.0, 4.0, 9.0]), np.array([3.2, 5.0, 9.0]), leaked)
        by_hand = [
            (0, 0.0, 2.0, False), (0, 2.0, 2.5, True), (0, 2.5, 3.0, True), (0, 3.0, 3.2, True),
            (1, 0.0, 4.0, False), (1, 4.0, 4.5, True), (1, 4.5, 5.0, True),
            # Who came into care today has a span of no time.
            (2, 0.0, 9.0, False), (2, 9.0, 9.0, True),
        ]  # fmt: skip
        assert told.tank.tolist() == [row for row, *_ in by_hand]
        assert told.in_care.tolist() == [cared for *_, cared in by_hand]
        # The second never had a rod: its years count for more.
        weigh = [1.0, 1.0 + TANK.spent_weight, 1.0]
        assert told.start == pytest.approx([weigh[row] * start for row, start, _, _ in by_hand])
        assert told.end == pytest.approx([weigh[row] * end for row, _, end, _ in by_hand])
        assert told.leaked.tolist() == leaked.tolist()


class TestFactors:
    def test_what_was_learned_is_told_apart_and_adds_up(self):
        fleet = without_events(heaters(4, age_years=np.array([2.0, 4.0, 6.0, 8.0])))
        cohort = ComponentCalibration(level=0.4, shift=0.1)
        found = forecast(fleet, Context(calibration={Component.SEDIMENT: cohort})).of(Component.SEDIMENT)
        at = {name: found.log_factors[:, found.factors.index(name)] for name in LEARNED_FACTORS}
        plain = forecast(fleet, Context()).of(Component.SEDIMENT)
        before = {name: plain.log_factors[:, plain.factors.index(name)] for name in LEARNED_FACTORS}
        # Nothing was found at any: what the whole base is above what was assumed is its neighbours', not its build's.
        assert at["neighbours"] - before["neighbours"] == pytest.approx(np.full(4, 0.4), abs=0.02)
        assert sum(at.values()) == pytest.approx(found.log_theta)


def test_a_year_of_two_waters_is_the_mean_of_its_seasons():
    """A third of the year half of it comes from elsewhere."""
    water, soft = (profile(WaterTest(total_hardness_mg_l=hardness)) for hardness in (300, 60))
    blended = replace(water, blends=(Blend(1 / 3, soft.analysis, 0.5),))
    plain, mixed = (
        water.heated(60.0, False),
        replace(water, blends=(Blend(1.0, soft.analysis, 0.5),)).heated(60.0, False),
    )
    year = blended.heated(60.0, False)
    for name in ("saturation_index", "precipitation_potential_mg_l", "ph", "conductivity_us_cm"):
        told = getattr(year, name)
        assert told == pytest.approx(2 / 3 * getattr(plain, name) + 1 / 3 * getattr(mixed, name)), name
        assert getattr(plain, name) != pytest.approx(getattr(mixed, name), rel=1e-3), name


def test_the_years_of_a_normal_are_what_scipy_says():
    tanks = TankComponent.of(without_events(heaters(1, age_years=np.array([9.0]))), None, None)
    told = tanks.failure_within_a_year(np.array([0.1, 0.5, 0.9]))[0]
    off = tanks.spread[0] * norm.ppf([0.1, 0.5, 0.9])
    ratio = np.log(1 - told) / np.log(1 - told[1])
    # Of a young tank the hazard of a year is as its ratio, but for the frailty of those that stand.
    assert np.log(ratio) == pytest.approx(off, rel=0.25)
    assert told[0] < told[1] < told[2]


def test_what_a_precharge_lost_is_counted_from_when_it_was_charged_last():
    """Charged to 400 kPa as it was fitted, found at 330 after three years and charged to the house's 450, found at 420
    two years later; what a torn one loses says nothing of the creep."""
    h = replace(
        heaters(1, age_years=np.array([9.0])), expansion_tank_l=np.array([12.0]), pressure_kpa=np.array([450.0]),
        expansion_tank_fitted_years=np.array([0.0]), expansion_tank_precharge_kpa=np.array([400.0]),
    )  # fmt: skip
    air, water = code(ExpansionTankPin.AIR), code(ExpansionTankPin.WATER)
    checks = ExpansionTankEvents(
        np.zeros(3, int), np.array([3.0, 5.0, 6.0]), np.array([air, air, water]),
        np.array([330.0, 420.0, 200.0]), np.zeros(3, bool),
    )  # fmt: skip
    found = ExpansionTankComponent.of(replace(without_events(h), expansion_tank_checks=checks))
    first, second = (np.log((then + ATMOSPHERE_KPA) / (now + ATMOSPHERE_KPA)) for then, now in ((400, 330), (450, 420)))
    a_year = EXPANSION_TANK.loss_per_year
    assert found.log_loss[:2] == pytest.approx([np.log(first / (a_year * 3)), np.log(second / (a_year * 2))])
    assert np.isnan(found.log_loss[2]) and found.condemned.tolist() == [True]
    # A gauge is off by ten kilopascals, and a share of a fifth is left open.
    blur = 10.0 / (450 + ATMOSPHERE_KPA)
    assert found.loss_error[1] == pytest.approx(np.hypot(0.2, blur / second))


class TestGrades:
    """Whose eye it was counts for what an eye judged, and for nothing else."""

    def test_of_a_flush(self):
        grades = [code(Removed.HEAVY), code(Removed.NONE), -1]
        done = flushes([0, 0, 0], [0.5, 1.5, 2.5], np.full(3, code(FlushMethod.DRAIN_AND_PULSE)), grades,
                       np.array([np.nan, np.nan, 0.0]), by=[4, 7, 5])  # fmt: skip
        told = SedimentComponent.of(replace(without_events(heaters(1)), flushes=done)).evidence().grades
        eye = next(one for one in told if one.scale is of_sediment.BY_EYE)
        instrument = next(one for one in told if one.scale is of_sediment.BY_RULER)
        assert eye.by.tolist() == [4, 7] and instrument.by is None and instrument.row.size

    def test_of_a_descale(self):
        removed, mass = np.array([code(Removed.HEAVY), -1]), np.array([np.nan, 0.0])
        done = DescaleEvents(
            np.zeros(2, int), np.array([0.5, 2.5]), np.array([4, 5]), removed, mass, np.full(2, np.nan)
        )
        tankless = heaters(1, kind=np.full(1, code(HeaterKind.GAS_TANKLESS)))
        told = ScaleComponent.of(replace(without_events(tankless), descales=done)).evidence().grades
        eye = next(one for one in told if one.scale is of_scale.BY_EYE)
        instrument = next(one for one in told if one.scale is of_scale.BY_WEIGHT)
        assert eye.by.tolist() == [4] and instrument.by is None and instrument.row.size


def test_what_is_expected_of_a_tank_stands_between_its_tenth_and_its_ninetieth_part():
    tank = next(one for one in forecast(without_events(heaters(2))).components if one.component is Component.TANK)
    # What raises a hazard brings the end nearer, by the root of it that the law has: a life goes as 1 / ratio^(1 / k).
    raises, days = tank.log_factors, tank.factor_days
    assert (raises != 0).any() and (np.sign(days[raises != 0]) == -np.sign(raises[raises != 0])).all()
    low, middle, high = tank.rate.T
    assert (middle == tank.probability_today).all() and (low < middle).all() and (middle < high).all()

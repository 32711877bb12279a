"""How much lies in a heater: against a crowd of possible heaters, by hand, and within what holds it."""

from dataclasses import replace

import numpy as np
import pytest

from aquifer.core import assembly, ceiling, sediment
from aquifer.core import forecast as engine
from aquifer.core.components import ScaleComponent, SedimentComponent
from aquifer.core.components.deposit import once
from aquifer.core.components.sediment import BY_EYE, NO_COMPLAINT
from aquifer.core.forecast import Context
from aquifer.core.learning import Cleanings, ComponentCalibration, Posterior, Prior, level, removal
from aquifer.core.parameters import LEARNING, SCALE, SEDIMENT
from aquifer.core.vocabulary import Component, FlushMethod, Removed, code
from aquifer.core.water import WaterTest, profile
from tests.core.fleets import flushes, known, without_events

SPREAD = 0.7
"""Of the pace, before anything is found."""


def base(age: float = 5.0, **columns):
    heaters = assembly.complete(known(1, **columns), [profile(WaterTest(250.0, None, 185.0, 7.5))])
    return replace(heaters, age_years=np.array([age]))


def fleet_of(years=(), depth=None, after=None, graded=None, heaters=None):
    n = len(years)
    return replace(
        without_events(base() if heaters is None else heaters),
        flushes=flushes(
            np.zeros(n), years, np.full(n, code(FlushMethod.DRAIN_AND_PULSE)),
            np.full(n, -1) if graded is None else [code(one) for one in graded],
            None if depth is None else np.array(depth) / 1000,
            after_m=None if after is None else np.array(after) / 1000,
        ),
    )  # fmt: skip


def forecast_of(fleet):
    prior = {Component.SEDIMENT: Prior(np.zeros(1), np.array([SPREAD]))}
    return engine.forecast(fleet, Context(priors=prior)).components[0]


class Crowd:
    """Two hundred thousand tanks that differ in pace, in what each flush leaves, and from year to year."""

    def __init__(self, fleet, seed=3):
        self.random = np.random.default_rng(seed)
        self.component = SedimentComponent.of(fleet)
        self.n = 200_000
        self.pace = self.random.normal(0, SPREAD, self.n)
        self.depth, self.weight, self.at = np.zeros(self.n), np.ones(self.n), 0.0

    def grows(self, until: float) -> None:
        """At its own pace, by what the bed at theta = 1 grows in that time, astray by the usual spread."""
        unit = self._unit(until)
        gained = max(unit - self._left, 0.0) if self.at else unit
        self.depth += np.exp(self.pace + LEARNING.future_spread * self.random.normal(size=self.n)) * gained
        self.at = until

    def _unit(self, years: float) -> float:
        """Depth at theta = 1 before the event of that time, or now."""
        events = self.component.openings.years
        at = np.flatnonzero(np.isclose(events, years))
        h = self.component.history
        return float(h.depth_before_m[at[0]]) if at.size else float(self.component.ahead(np.zeros(1))[0, 0])

    @property
    def _left(self) -> float:
        at = np.flatnonzero(np.isclose(self.component.openings.years, self.at))[0]
        return float(self.component.history.depth_after_m[at])

    def graded(self, grade: Removed) -> None:
        with np.errstate(divide="ignore"):
            self.weight *= np.exp(BY_EYE.log_likelihood(code(grade), np.log(self.depth)))

    def measured(self, mm: float) -> None:
        self.weight *= np.exp(-0.5 * (np.log(1000 * self.depth / mm) / SEDIMENT.depth_spread) ** 2)

    def flushed(self) -> None:
        # Whoever comes to flush was not called for what is heard.
        with np.errstate(divide="ignore"):
            self.weight *= np.exp(NO_COMPLAINT.log_likelihood(0, np.log(self.depth / SEDIMENT.complaint_fired_m)))
        at = np.flatnonzero(np.isclose(self.component.openings.years, self.at))[0]
        h = self.component.history
        left = np.log(h.depth_after_m[at] / h.depth_before_m[at])
        self.depth *= np.exp(left + h.left_spread[at] * self.random.normal(size=self.n))

    def years_to(self, limit_m: float) -> np.ndarray:
        """Until the bed is that deep, if nobody comes: years astray once more."""
        times = np.linspace(0, 60, 2401)
        unit = self.component.ahead(times)[0]
        pace = np.exp(self.pace + LEARNING.future_spread * self.random.normal(size=self.n))
        missing = np.maximum((limit_m - self.depth) / pace, 0.0)
        return np.interp(missing, np.maximum.accumulate(unit - unit[0]), times)

    def share(self, those) -> float:
        return float(self.weight[those].sum() / self.weight.sum())

    def quantiles(self, of) -> np.ndarray:
        order = np.argsort(of)
        cumulated = np.cumsum(self.weight[order])
        return of[order][np.searchsorted(cumulated / cumulated[-1], [0.1, 0.5, 0.9])]


@pytest.fixture(autouse=True)
def findings_do_not_fade(monkeypatch):
    monkeypatch.setattr("aquifer.core.learning.evidence.faded", lambda years: np.ones_like(years))


@pytest.mark.parametrize(
    "story",
    [
        [(2.0, None), (4.0, None)],
        [(4.9, None)],
        [(2.0, Removed.MODERATE), (4.0, Removed.HEAVY)],
        [(1.0, Removed.TRACE), (2.0, Removed.TRACE), (3.0, Removed.MODERATE), (4.9, Removed.MODERATE)],
        [(2.0, 9.0), (4.5, 20.0)],
        [(4.9, 30.0)],
        [(3.0, 4.0), (4.0, Removed.MODERATE)],
    ],
)  # fmt: skip
def test_a_level_is_what_a_crowd_of_possible_heaters_says(story):
    years = [on for on, _ in story]
    found = [seen for _, seen in story]
    depth = [seen if isinstance(seen, float) and not isinstance(seen, Removed) else np.nan for seen in found]
    fleet = fleet_of(years, depth=depth)
    grades = [code(seen) if isinstance(seen, Removed) else -1 for seen in found]
    fleet = replace(fleet, flushes=replace(fleet.flushes, removed=np.array(grades)))
    crowd = Crowd(fleet)
    for on, seen in story:
        crowd.grows(on)
        if isinstance(seen, Removed):
            crowd.graded(seen)
        elif seen is not None:
            crowd.measured(seen)
        crowd.flushed()
    crowd.grows(5.0)
    forecast = forecast_of(fleet)
    told = forecast.state["depth_mm"][0]
    wanted = 1000 * crowd.quantiles(crowd.depth)
    # A grid of 0.12, moments for tails, and the ruler's half millimetre: a tenth of the window's width.
    off, width = np.log(told / wanted), np.log(wanted[2] / wanted[0])
    assert np.abs(off).max() < 0.12 * width + 0.02, (told, wanted)
    years = crowd.years_to(float(fleet.heaters.sediment_limit_m[0]))
    assert forecast.probability_today[0] == pytest.approx(crowd.share(years <= 0), abs=0.04)
    for chance, date in zip((0.1, 0.5, 0.9), forecast.reached_years[0, [1, 3, 5]], strict=True):
        if date > 0:
            assert crowd.share(years <= date) == pytest.approx(chance, abs=0.04)


def test_what_lies_there_after_a_flush_is_unsure_though_the_pace_is_known():
    paced = ComponentCalibration(future_spread=0.08)
    component = SedimentComponent.of(fleet_of([4.999])).informed(paced)
    now = component.followed(np.zeros(1)).now
    share = sediment.flush_shares()[code(FlushMethod.DRAIN_AND_PULSE)]
    bed = tuple(part[:1] for part in component.history.bed_before)
    assert np.sqrt(now.left_open) == pytest.approx(sediment.left_spread(bed, *share), rel=0.01)
    assert np.sqrt(now.left_open)[0] > 0.25
    # Before any flush there is nothing of that.
    assert SedimentComponent.of(fleet_of()).followed(np.zeros(1)).now.left_open[0] == 0.0


def test_a_depth_measured_after_a_flush_is_what_lies_there():
    for after in (2.0, 12.0):
        state = forecast_of(fleet_of([4.999], depth=[20.0], after=[after])).state["depth_mm"][0]
        assert state[1] == pytest.approx(after, rel=0.25)
        assert np.log(state[2] / state[0]) < 0.9
    # Nothing left is told as hardly anything, and never as none.
    nothing = forecast_of(fleet_of([4.999], depth=[20.0], after=[0.0])).state["depth_mm"][0]
    assert 0 < nothing[1] < 2.5


@pytest.mark.parametrize("none", [0.0, 0.4])
def test_nothing_measured_is_a_finding(none):
    unheard = forecast_of(fleet_of([0.9], heaters=base(1.0)))
    found = forecast_of(fleet_of([0.9], depth=[none], heaters=base(1.0)))
    assert found.log_theta[0] < unheard.log_theta[0] - 0.8
    assert found.state["depth_mm"][0, 1] < 0.5 * unheard.state["depth_mm"][0, 1]


def test_years_that_nobody_recorded_leave_less_and_unsure_beds():
    plain, unknown = (
        forecast_of(without_events(replace(base(8.0), past_spread=np.array([spread])))) for spread in (0.0, 0.5)
    )
    assert unknown.state["depth_mm"][0, 1] == pytest.approx(
        SEDIMENT.unrecorded_left * plain.state["depth_mm"][0, 1], rel=0.02
    )
    widths = [np.log(one.state["depth_mm"][0, 2] / one.state["depth_mm"][0, 0]) for one in (plain, unknown)]
    assert widths[1] > 1.1 * widths[0]


def test_a_bed_that_nobody_complained_of_is_no_deeper_than_people_bear():
    gritty = replace(base(15.0), potential_mg_l=np.array([150.0]), volume_m3=np.array([120.0]))
    heard_of = replace(without_events(gritty), flushes=fleet_of([14.0], heaters=gritty).flushes)
    never = forecast_of(without_events(gritty)).state["depth_mm"][0]
    visited = forecast_of(heard_of)
    assert visited.log_theta[0] < 0 and visited.state["depth_mm"][0, 2] < never[2]


def test_a_ceiling_bends_only_what_comes_near_it():
    most = np.array(100.0)
    assert ceiling.bounded(np.array([1.0, 10.0]), most) == pytest.approx([1.0, 10.0], rel=1e-3)
    assert ceiling.bounded(np.array([1e3, 1e6, 1e300]), most) == pytest.approx([100.0] * 3, rel=1e-3)
    levels = np.linspace(0, 98, 50)
    assert ceiling.bounded(ceiling.driver(levels, most), most) == pytest.approx(levels, abs=1e-9)
    assert (np.diff(ceiling.bounded(np.geomspace(1e-3, 1e5, 200), most)) > 0).all()


def test_no_state_passes_what_holds_it_however_extreme():
    rng = np.random.default_rng(17)
    n = 3000
    capacity = rng.uniform(10, 500, n)
    kind = rng.integers(0, 9, n)
    columns = {"kind": kind, "capacity_l": capacity, "litres_per_day": rng.lognormal(6.5, 1.2, n)}
    columns["setpoint_c"] = rng.uniform(45, 88, n)
    heaters = assembly.complete(known(n, **columns), [profile(WaterTest(900.0, 800.0, 700.0, 8.2))])
    heaters = replace(heaters, age_years=rng.uniform(0.1, 40, n))
    for one in engine.forecast(without_events(heaters)).components:
        if one.component is Component.SEDIMENT:
            tall = 1000 * heaters.capacity_l[one.row] / 1000 / heaters.floor_m2[one.row]
            for told in (one.state["depth_mm"], one.state_in_a_year):
                assert (told < tall[:, None]).all() and np.isfinite(told).all()
        if one.component is Component.SCALE:
            most = 1000 * np.where(heaters.is_coil[one.row], SCALE.coil_ceiling_m, SCALE.ceiling_m)
            for told in (one.state["thickness_mm"], one.state_in_a_year):
                assert (told <= most[:, None]).all() and np.isfinite(told).all()


def test_how_good_and_how_even_cleanings_are_is_learned_from_before_and_after():
    rng = np.random.default_rng(5)

    def cleanings(better: float, uneven: float, n: int) -> Cleanings:
        def expected(log_odds: float):
            share = sediment.flush_shares(log_odds)[code(FlushMethod.DRAIN_AND_PULSE), 0]
            return np.full(n, np.log(1 - share)), np.full(n, SEDIMENT.odds_spread * share)

        centre, spread = expected(better)
        off = rng.normal(0, np.hypot(uneven * spread, 0.2))
        return Cleanings(centre + off, np.full(n, 0.2), expected)

    for better, uneven in ((-1.0, 1.0), (0.8, 0.6), (0.0, 1.6)):
        found = removal(cleanings(better, uneven, 400))
        assert found == pytest.approx((better, uneven), abs=0.17)
    # Few say little.
    few = removal(cleanings(-1.0, 1.0, 2))
    assert abs(few[0]) < 0.9


def test_looks_weigh_what_is_likely_and_a_slip_weighs_little():
    plain = level.Level(np.zeros(1), np.ones(1), np.array([0.3]), np.zeros(1))
    at = np.array([0.5])
    near = plain.looked_at(at, at, np.array([0.2]), np.zeros(1), 0.3)
    # By hand: gain 0.3 / (0.3 + 0.04); a normal density of 0.6 against a slip's 0.003.
    assert near.shift[0] == pytest.approx(0.5 * 0.3 / 0.34, rel=0.02)
    assert near.left_open[0] == pytest.approx(0.3 * 0.04 / 0.34, rel=0.06)
    far = plain.looked_at(at + 5, at + 5, np.array([0.2]), np.zeros(1), 0.3)
    assert abs(far.shift[0]) < 0.1 and far.left_open[0] > 0.29
    nothing = plain.looked_at(at * np.nan, at * np.nan, np.array([0.2]), np.zeros(1), 0.3)
    assert nothing == plain


def test_an_exchanger_that_was_descaled_twice_is_followed_through_both():
    heaters = base(4.0, kind=np.array([code_of_tankless()]), capacity_l=np.array([2.0]))
    fleet = without_events(heaters)
    none = np.full(2, np.nan)
    descales = replace(
        fleet.descales, row=np.zeros(2, dtype=int), years=np.array([1.0, 2.5]), by=np.full(2, -1),
        removed=np.full(2, -1), dissolved_kg=none, capacity_lost=none,
    )  # fmt: skip
    component = ScaleComponent.of(replace(fleet, descales=descales))
    open_now = component.followed(np.zeros(1)).now.left_open[0]
    spread, left = SCALE.odds_spread * SCALE.removed_share, 1 - SCALE.removed_share
    # By hand, in years of growth: 1 before the first, 0.1 after; 1.6 before the second, 0.16 after; 1.66 now.
    after_second = (0.1 / 1.6 * spread) ** 2 + spread**2
    assert open_now == pytest.approx((left * 1.6 / 1.66) ** 2 * after_second, rel=1e-6)


def code_of_tankless() -> int:
    from aquifer.core.kinds import HeaterKind

    return code(HeaterKind.GAS_TANKLESS)


def test_that_a_household_never_rang_is_one_thing_to_hear_however_often_somebody_came():
    """Who is silent is silent at every visit: five visits without a complaint do not make a deep bed five times as
    unlikely."""
    years = [2.0, 2.2, 2.4, 2.6, 2.8]
    heaters = base(age=3.0, litres_per_day=np.array([900.0]))
    often, seldom = (SedimentComponent.of(fleet_of(when, heaters=heaters)) for when in (years, years[:1]))
    quiet = [
        next(one for one in component.evidence().grades if one.scale is NO_COMPLAINT) for component in (often, seldom)
    ]
    assert [one.row.size for one in quiet] == [1, 1]
    # The one at which most would have lain there.
    assert quiet[0].log_unit[0] == pytest.approx(quiet[1].log_unit[0])


def test_the_contact_that_counts_is_where_most_lay_and_none_where_nobody_would_ring():
    row, heard = np.array([0, 0, 0, 1, 1, 3]), np.array([-1.0, 2.0, 0.5, -9.0, -8.0, 0.0])
    assert once(row, heard).tolist() == [1, 5]
    assert once(row[:0], heard[:0]).tolist() == []


@pytest.mark.parametrize("log_odds", [-1.3, 0.0, 0.8])
def test_flushes_that_are_better_than_assumed_are_so_by_the_same_odds(log_odds):
    assumed = np.array([[SEDIMENT.flush[m].loose, SEDIMENT.flush[m].hardened] for m in FlushMethod])
    share = sediment.flush_shares(log_odds)
    assert np.log(share / (1 - share)) - np.log(assumed / (1 - assumed)) == pytest.approx(log_odds)
    assert (sediment.flush_shares() == pytest.approx(assumed)) and (share < 1).all()


def test_how_uneven_a_flush_is_goes_by_what_each_method_takes_of_loose_and_of_hardened(monkeypatch):
    """Methods that leave the hardened are told apart from those that take it."""
    seen = {}

    def left_spread(bed, loose, hardened):
        seen["shares"] = np.stack([np.asarray(loose), np.asarray(hardened)], axis=-1)
        return spread(bed, loose, hardened)

    spread = sediment.left_spread
    monkeypatch.setattr("aquifer.core.components.sediment.sediment.left_spread", left_spread)
    heaters = assembly.complete(known(2), [profile(WaterTest(total_hardness_mg_l=220))])
    engine.forecast(without_events(heaters))
    assert seen["shares"] == pytest.approx(sediment.flush_shares())


def one_level(shift=0.2, share=0.6, left_open=0.1, years_open=0.4):
    return level.Level(*(np.array([value]) for value in (shift, share, left_open, years_open)))


@pytest.mark.parametrize("weight", [0.0, 0.3, 0.8, 1.0])
def test_what_grows_on_top_is_unsure_as_far_as_it_is_part_of_the_whole(weight):
    """By differences of the logarithm of the sum: what was goes its own way, what came goes with the pace."""
    at = one_level()

    def log_sum(own: float, came: float) -> float:
        return float(np.log(weight * np.exp(0.2 + own) + (1 - weight) * np.exp(came)))

    h = 1e-5
    kept, fresh = ((log_sum(*up) - log_sum(*down)) / (2 * h) for up, down in (((h, 0), (-h, 0)), ((0, h), (0, -h))))
    grown = at.grown(np.array([weight]))
    assert grown.shift[0] == pytest.approx(log_sum(0, 0))
    assert grown.share[0] == pytest.approx(0.6 * kept + fresh, abs=1e-6)
    assert grown.left_open[0] == pytest.approx(kept**2 * 0.1, abs=1e-6)
    assert grown.years_open[0] == pytest.approx(kept**2 * 0.4 + fresh**2, abs=1e-6)
    # A year's spread counts by its square; what a cleaning leaves is added to what was open.
    assert grown.variance(0.5) == pytest.approx(grown.left_open + 0.25 * grown.years_open)
    assert at.cleaned(np.array([0.3])).left_open[0] == pytest.approx(0.1 + 0.09)


@pytest.mark.parametrize(
    ("low", "high", "spread"),
    [
        (0.3, 0.9, 0.25), (-np.inf, -0.4, 0.5), (1.1, np.inf, 0.3), (-0.2, 0.1, 0.05), (-np.inf, np.inf, 0.4),
        (2.0, 2.6, 0.4),
    ],
)  # fmt: skip
def test_a_grade_is_heard_as_an_integral_over_all_levels_hears_it(low, high, spread):
    from scipy.stats import norm

    at, mean, year = one_level(), 0.1, 0.5
    own = 0.1 + 0.25 * 0.4
    x = np.linspace(-6, 6, 240_001)
    density = norm.pdf(x, mean + 0.2, np.sqrt(own)) * (norm.cdf((high - x) / spread) - norm.cdf((low - x) / spread))
    density /= density.sum()
    middle = float(density @ x)
    variance = float(density @ (x - middle) ** 2)
    heard = at.looked_at(*(np.array([value]) for value in (low, high, spread, mean)), year)
    assert heard.shift[0] == pytest.approx(middle - mean, abs=1e-4)
    # All that was unsure is less by the same share.
    for before, after in ((at.left_open, heard.left_open), (at.years_open, heard.years_open), (at.share, heard.share)):
        assert after[0] / before[0] == pytest.approx(variance / own, abs=1e-4)


def test_a_reading_is_heard_by_its_error_and_by_how_likely_it_is_no_slip():
    from math import exp, pi, sqrt

    at, mean, year, error = one_level(), 0.1, 0.5, 0.2
    own = 0.1 + 0.25 * 0.4
    for read in (0.3, 0.5, -0.4, 2.5):
        off, total = read - (mean + 0.2), own + error**2
        likely = 0.98 * exp(-0.5 * off**2 / total) / sqrt(2 * pi * total)
        # A slip may be anywhere in the 7.2 that pace may be off.
        trusted = likely / (likely + 0.02 / 7.2)
        heard = at.looked_at(*(np.array([value]) for value in (read, read, error, mean)), year)
        assert heard.shift[0] == pytest.approx(0.2 + trusted * own / total * off)
        assert heard.left_open[0] == pytest.approx(0.1 * (1 - trusted * own / total))
    nothing = at.looked_at(*(np.array([value]) for value in (np.nan, np.nan, error, mean)), year)
    sure = one_level(left_open=0.0, years_open=0.0).looked_at(
        *(np.array([value]) for value in (2.0, 2.0, error, mean)), year
    )
    assert (nothing.shift[0], nothing.left_open[0], nothing.share[0]) == (0.2, 0.1, 0.6) and sure.shift[0] == 0.2


def test_traits_are_told_from_a_plain_heater_in_logarithms_and_tens_of_degrees():
    plain = [LEARNING.farthest_trait, SEDIMENT.reference_hardness_mg_l, SEDIMENT.reference_volume_m3]
    heaters = base()
    as_plain = replace(
        heaters,
        hardness_mg_l=np.array([plain[1]]),
        volume_m3=np.array([plain[2]]),
        setpoint_c=np.array([SEDIMENT.reference_setpoint_c]),
    )

    def traits(**columns):
        told = replace(as_plain, **{name: np.array([value]) for name, value in columns.items()})
        return SedimentComponent.of(without_events(told)).traits[0].tolist()

    assert traits() == [0, 0, 0]
    twice = {"hardness_mg_l": 2 * plain[1], "volume_m3": plain[2] / 2}
    assert traits(**twice) == pytest.approx([np.log(2), -np.log(2), 0])
    assert traits(setpoint_c=SEDIMENT.reference_setpoint_c - 8)[2] == pytest.approx(-0.8)
    # No further than anything was ever learned from.
    assert traits(hardness_mg_l=1e9, setpoint_c=999.0)[::2] == [plain[0]] * 2


@pytest.mark.parametrize(
    ("depths", "at", "least", "most"),
    [([8.0, 14.0], 0.2, 1.0, 1.0), ([30.0, 40.0], -1.0, 0.5, 0.6), ([0.3, 0.5], -1.0, 0.3, 0.4)],
)
def test_how_much_a_reading_would_narrow_a_date_is_a_filter_written_in_matrices(depths, at, least, most):
    component = SedimentComponent.of(fleet_of((2.0, 4.0), depth=depths))
    mass = np.exp(-0.5 * ((level.GRID - at) / 0.5) ** 2)
    belief = Posterior((mass / mass.sum())[None, :].astype(np.float32), np.zeros(1), LEARNING.future_spread)
    known, pace = component.believed(belief), float(belief.sd[0]) ** 2
    share, own = float(known.level.share[0]), float(known.level.variance(known.year_spread)[0])
    # Logarithms of what lies there, and of what comes a year; the level follows the pace in part.
    unsure = np.array([[share**2 * pace + own, share * pace], [share * pace, pace]])
    sees, error = np.array([[1.0, 0.0]]), SEDIMENT.depth_spread**2
    gain = unsure @ sees.T / (sees @ unsure @ sees.T + error)
    after = unsure - gain @ sees @ unsure
    there = float(np.exp(known.mean[0] + known.level.shift[0]) * component.ahead(np.zeros(1))[0, 0])
    held = min(there / float(component.limit_driver[0]), 1.0)
    assert least <= held <= most
    weighs, year = np.array([held, 1 - held]), ((1 - held) * known.year_spread) ** 2
    wanted = np.sqrt((weighs @ after @ weighs + year) / (weighs @ unsure @ weighs + year))
    assert component.narrowing(belief)[0] == pytest.approx(wanted, rel=1e-4) and wanted < 1


def test_what_is_believed_of_a_level_goes_by_the_pace_that_is_asked_for():
    """It is kept for one pace, and another asks anew."""
    component = SedimentComponent.of(fleet_of((2.0, 4.0), depth=[8.0, 14.0]))

    def pace(at):
        mass = np.exp(-0.5 * ((level.GRID - at) / 0.5) ** 2)
        return Posterior((mass / mass.sum())[None, :].astype(np.float32), np.zeros(1), LEARNING.future_spread)

    slow, fast = pace(-0.8), pace(0.6)
    first = component.believed(slow)
    assert component.believed(slow) is first
    other = component.believed(fast)
    assert other.mean[0] == pytest.approx(0.6, abs=0.01) and first.mean[0] == pytest.approx(-0.8, abs=0.01)
    assert component.believed(slow).mean[0] == pytest.approx(-0.8, abs=0.01)

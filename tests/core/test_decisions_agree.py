"""What is proposed for one heater does not contradict itself: dates, methods and verdicts are one decision."""

import datetime
from dataclasses import replace

import numpy as np
import pytest

from aquifer.core import assembly, judgement
from aquifer.core import forecast as engine
from aquifer.core.judgement import Seen, Verdict, facts_of, judge
from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.parameters import TANK
from aquifer.core.vocabulary import Alloy, Component, Corrosion, DecidedBy, FlushMethod, Method, Noise, Removed, code
from aquifer.core.water import WaterTest, profile
from tests.core.fleets import flushes, known, without_events

N = 400
CUTOFF = 6.0
AS_OF = datetime.date(2026, 11, 24)


@pytest.fixture(scope="module", params=[judgement.PracticeOption.LEAVE_OLD, judgement.PracticeOption.ALWAYS_FLUSH])
def advised(request):
    """Heaters of every kind and age on waters soft to very hard, flushed or not, some loud and some rusty."""
    rng = np.random.default_rng(41)
    kinds = rng.integers(0, len(HeaterKind), N)
    waters = [profile(WaterTest(float(h), None, 0.8 * h, 7.6)) for h in (60, 180, 300, 480)]
    leaves = request.param is judgement.PracticeOption.LEAVE_OLD
    softened = rng.random(N) < 0.15
    of = known(
        N, kind=kinds, age_years=rng.uniform(0.2, 18, N), water=np.sort(rng.integers(0, 4, N)), softened=softened,
        alloy=rng.integers(0, len(Alloy), N), litres_per_day=rng.lognormal(6.2, 0.8, N),
        leave_years=np.full(N, CUTOFF if leaves else np.inf),
        flush_method=np.full(N, code(FlushMethod.DRAIN_AND_PULSE)),
    )  # fmt: skip
    heaters = assembly.complete(replace(of, zone=of.water), waters)
    plain = without_events(heaters)
    row = np.sort(rng.choice(np.flatnonzero(heaters.is_tank), 120, replace=False))
    fleet = replace(
        plain,
        flushes=flushes(row, 0.7 * heaters.age_years[row], np.ones(120, dtype=int), rng.integers(0, len(Removed), 120)),
        looks=replace(
            plain.looks,
            row=np.arange(N),
            years=0.9 * heaters.age_years,
            noise=rng.choice([-1, *range(len(Noise))], N),
            corrosion=np.where(rng.random(N) < 0.05, code(Corrosion.SEAMS), -1),
            rusty=np.full(N, -1),
        ),
    )
    found = {one.component: one for one in engine.forecast(fleet).components}
    told = []
    for heater in range(N):
        alone = fleet.at(np.array([heater]))
        own = {c: one.at(np.flatnonzero(one.row == heater)) for c, one in found.items() if (one.row == heater).any()}
        states = {
            c: {
                **{name: float(v[0, 1]) for name, v in one.state.items()},
                "over_after_service": one.over_after_service[0],
            }
            for c, one in own.items()
        }
        seam = bool((alone.looks.corrosion == code(Corrosion.SEAMS)).any())
        facts = facts_of(alone, states, Seen(rusty_seam=seam), CUTOFF, bool(softened[heater]), None)
        told.append((alone, own, {one.rule: one.verdict for one in judge(facts, (request.param.value,))}))
    return told


def test_nothing_is_put_into_a_tank_that_is_to_be_replaced(advised):
    replaced = 0
    for _, own, verdicts in advised:
        if verdicts.get("replace_before_failure") is not Verdict.REPLACE_BEFORE_FAILURE:
            continue
        replaced += 1
        method = list(Method)[own[Component.SEDIMENT].method[0]]
        assert method in (Method.DRAIN_AND_PULSE, Method.INSPECT)
        if Component.ANODE in own:
            assert list(Method)[own[Component.ANODE].method[0]] is Method.INSPECT
    assert replaced > 20


def test_a_tank_that_is_advised_to_be_replaced_by_its_risk_is_due_now(advised):
    for _, own, verdicts in advised:
        if Component.TANK in own and own[Component.TANK].probability_today[0] >= TANK.replace_at:
            assert verdicts["replace_before_failure"] is Verdict.REPLACE_BEFORE_FAILURE
            assert own[Component.TANK].due_years[0] < 0.05


def test_acid_is_proposed_for_nothing_that_it_eats(advised):
    soaked = 0
    for alone, own, _ in advised:
        if Component.SEDIMENT in own and list(Method)[own[Component.SEDIMENT].method[0]] is Method.ACID_SOAK:
            soaked += 1
            assert not KINDS[list(HeaterKind)[alone.heaters.kind[0]]].has_elements
            assert list(Alloy)[alone.heaters.alloy[0]] not in (Alloy.ALUMINIUM, Alloy.ALUMINIUM_ZINC)
    assert soaked > 0


def test_leave_alone_is_one_decision(advised):
    left = 0
    for _, own, verdicts in advised:
        if Component.SEDIMENT not in own:
            continue
        one = own[Component.SEDIMENT]
        alone = verdicts["flush_or_leave"] is Verdict.LEAVE_ALONE
        assert alone is (list(DecidedBy)[one.decided_by[0]] is DecidedBy.LEFT_ALONE)
        if alone:
            left += 1
            assert list(Method)[one.method[0]] is Method.INSPECT
            assert one.benefit[0] == 0.0
            assert np.isnat(engine.dates(AS_OF, one.due_years)[0])
    assert left == 0 or left > 40


def test_where_cleaning_leaves_it_over_its_limit_something_else_is_said(advised):
    beyond = 0
    for _, own, verdicts in advised:
        over = max((own[c].over_after_service[0] for c in (Component.SEDIMENT, Component.SCALE) if c in own), default=0)
        if over > 0.5:
            beyond += 1
            assert verdicts["water_and_setting"] is not Verdict.KEEP_WATER
    assert beyond > 10

"""From what chance of leaking on a new tank is advised: held against years lived one by one."""

import numpy as np
import pytest

from aquifer.core import replacement
from aquifer.core.parameters import TANK
from aquifer.core.place import BY_KIND, FeatureKind
from aquifer.core.replacement import LEAST, MOST, advised_from, harm_at
from aquifer.core.vocabulary import Business
from tests.core.fleets import answer, component


def test_a_leak_costs_by_where_its_water_runs_and_what_catches_it():
    assert [harm_at(path) for path in ("sound", "floor", "rooms", "below", None)] == [0.05, 0.2, 1.0, 2.0, 0.6]
    assert harm_at("below", True) == pytest.approx(0.2) and harm_at("rooms", True) == pytest.approx(0.1)
    with pytest.raises(ValueError, match="path 'cellar'; allowed: sound, floor, rooms, below"):
        harm_at("cellar")
    # Each condition of the place has its figure.
    assert {one.value for one in BY_KIND[FeatureKind.LEAK_PATH].conditions} == set(replacement.DAMAGE_BY_PATH)


def test_who_cannot_be_without_hot_water_counts_beside_what_the_water_does():
    assert harm_at("sound", False, Business.CARE_HOME) == pytest.approx(0.65)
    assert harm_at("floor", True, Business.RESTAURANT) == pytest.approx(0.42)
    assert harm_at("rooms", False, Business.OFFICE) == harm_at("rooms")


def cost_a_year(renewed_at: float, new: float, leak: float, seed: int = 4) -> float:
    """What a tank costs a year in the long run if it is renewed at that age or when it leaks, lived by chance."""
    life = TANK.life_years * np.random.default_rng(seed).weibull(TANK.shape, 200_000)
    leaks = life < renewed_at
    return float((new + leak * leaks.mean()) / np.minimum(life, renewed_at).mean())


@pytest.mark.parametrize(("new", "leak"), [(1700, 4200), (1700, 2520), (1200, 840), (3000, 8000)])
def test_a_tank_is_renewed_when_its_year_costs_more_than_one_of_the_cheapest_course(new, leak):
    chance = float(advised_from(new / 4200, np.array([leak / 4200]))[0])
    best = min(cost_a_year(age, new, leak) for age in np.arange(2, 40, 0.5))
    assert chance == pytest.approx(1 - np.exp(-best / leak), rel=0.02)
    # The age at which a plain tank runs that chance is the one at which renewing costs least.
    ages = np.arange(1, 35, 0.1)
    runs = 1 - np.exp((ages / TANK.life_years) ** TANK.shape - ((ages + 1) / TANK.life_years) ** TANK.shape)
    age = float(ages[runs >= chance][0]) + 0.5
    assert cost_a_year(age, new, leak) < 1.01 * best


def test_no_price_makes_a_new_tank_advised_on_a_guess_or_kept_until_it_must_leak():
    harm = np.array([0.05, 0.2, 0.6, 1.0, 2.0, 50.0])
    for over in (None, 0.01, 0.4, 20.0):
        told = advised_from(over, harm)
        assert (told >= LEAST).all() and (told <= MOST).all() and (np.diff(told) <= 0).all()
    assert advised_from(None, np.array([0.6]))[0] == pytest.approx(TANK.replace_at)
    assert advised_from(None, np.array([1.2]))[0] == pytest.approx(TANK.replace_at / 2)
    assert advised_from(0.4, np.array([0.0001]))[0] == MOST


def test_advice_date_and_verdict_follow_what_is_accepted_where_it_stands():
    old = {"heater": {"kind": "gas_tank", "installed_on": "2016-06-01", "capacity_l": 189, "setpoint_c": 60}}
    chance = component("tank", **old)["state"]["failure_within_12_months"]["p50"]
    for accepted, is_due in ((chance * 0.9, True), (min(chance * 1.3, 0.9), False)):
        told = answer(**old, policy={"replace_at": accepted})
        tank = next(one for one in told["components"] if one["component"] == "tank")
        verdicts = {one["verdict"] for one in told["judgements"]}
        assert (tank["due_on"] <= "2026-11-24") is is_due
        assert ("replace_before_failure" in verdicts) is is_due

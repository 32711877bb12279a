"""A complaint's ladder: Bayes by hand, each question once, and every cause found by who answers truly."""

import random
from math import log

import pytest

from aquifer.core.kinds import HeaterKind
from aquifer.core.procedures import ladder, visit
from aquifer.core.procedures.condition import possible
from aquifer.core.procedures.ladder import Outcome, after, complaints, entropy, next_test, priors, with_ladders, worth
from aquifer.core.procedures.library import PARTS, library, practices_followed
from aquifer.core.procedures.state import as_found, facts_of, ignitions_of, rates_of
from aquifer.core.procedures.visit import Event

ALL = ("gas", "electrical", "plumbing")
RATES = rates_of(190.0, 1.2, 11.0, 12.0)
LIT = [pytest.param(kind, lit, id=f"{kind.value}-{lit}") for kind in HeaterKind for lit in ignitions_of(kind)]


def led(kind, lit, beliefs=None):
    words = {**facts_of(kind, ALL, practices_followed({})), "ignition": frozenset({lit})}
    return with_ladders(library(), words, beliefs or {})


def test_belief_moves_as_bayes_says():
    belief = {"a": 0.5, "b": 0.3, "c": 0.2}
    moved = after(belief, Outcome("seen", {"a": 0.9, "b": 0.1}, 0.5))
    whole = 0.5 * 0.9 + 0.3 * 0.1 + 0.2 * 0.5
    assert moved == pytest.approx({"a": 0.45 / whole, "b": 0.03 / whole, "c": 0.1 / whole})
    assert entropy({"a": 0.5, "b": 0.5}) == pytest.approx(log(2)) and entropy({"a": 1.0}) == 0


def test_what_is_believed_of_the_heater_moves_the_prior():
    lukewarm = complaints().complaints["lukewarm"]
    clean, buried = priors(lukewarm, {}), priors(lukewarm, {"deposit": 1.0})
    assert buried["deposit"] > 2 * clean["deposit"] and sum(buried.values()) == pytest.approx(1)
    assert priors(lukewarm, {"deposit": 9.0}) == buried


def test_the_next_test_is_the_one_that_tells_most_for_its_minutes():
    none = complaints().complaints["none_gas_pilot"]
    tests = {
        name: one for name, one in complaints().tests.items() if name in ("pilot_burns", "pilot_stays", "delivered")
    }
    belief = priors(none, {})
    best = next_test(belief, tests)
    assert best is not None and worth(belief, best) == max(worth(belief, one) for one in tests.values())
    assert next_test({"a": 0.9, "b": 0.1}, tests) is None and next_test(belief, {}) is None


def verdicts(belief):
    procedures = {}
    name, *then = ladder._told(procedures, "complaint_x", complaints().complaints["lukewarm"], belief)
    return procedures[name].steps, then


def test_what_is_told_at_the_end_is_the_likeliest_and_who_finds_otherwise_goes_on_with_the_next():
    causes = complaints().causes
    with_work = [name for name in sorted(causes) if causes[name].then]
    first, second, third = with_work[:3]
    steps, then = verdicts({third: 0.1, first: 0.5, second: 0.4})
    assert [step.id for step in steps] == ["verdict_a", "verdict_b"]
    assert steps[0].do == f"Likely: {causes[first].verdict}." and steps[1].do == f"Or: {causes[second].verdict}."
    assert "Believed in 50 of 100" in steps[0].why and "Believed in 40 of 100" in steps[1].why
    assert (steps[0].joins, steps[1].joins) == (False, True)
    (other,) = steps[0].deviations
    assert other.then == causes[second].then and other.instead and steps[1].deviations == ()
    assert tuple(then) == causes[first].then
    # Of two as likely the name decides, and where there is but one nothing else is gone on with.
    steps, _ = verdicts({second: 0.5, first: 0.5})
    assert steps[0].do == f"Likely: {causes[first].verdict}."


def test_who_is_sure_hears_one_verdict():
    causes = complaints().causes
    first, second = sorted(causes)[:2]
    for share, words in ((0.79, "Likely: "), (0.8, "")):
        steps, then = verdicts({first: share, second: 1 - share})
        assert steps[0].do == f"{words}{causes[first].verdict}."
        assert len(steps) == (2 if words else 1) and bool(steps[0].deviations) is bool(words)
        assert tuple(then) == causes[first].then and steps[0].part == causes[first].part
    (alone,), _ = verdicts({first: 1.0})
    assert alone.deviations == ()


@pytest.mark.parametrize(("kind", "lit"), LIT)
def test_each_question_comes_once_on_every_way_and_every_way_ends_in_a_verdict(kind, lit):
    led_library = led(kind, lit)
    names = [name for name in led_library.found if name.startswith("complaint_")]
    assert len(names) >= 7

    def ways(then, asked):
        own = [name for name in then if name.startswith("complaint_")]
        assert len(own) == 1
        for step in led_library.procedures[own[0]].steps:
            if step.id != "test":
                yield asked, step
                continue
            assert step.do not in asked and step.part in PARTS | {""}
            for other in step.deviations:
                yield from ways(other.then, (*asked, step.do))

    for name in names:
        every = list(ways(led_library.found[name].then, ()))
        assert every and all(len(asked) <= ladder.DEEPEST for asked, _ in every)
        assert all("Believed in" in step.why for _, step in every)


@pytest.mark.parametrize("name", sorted(complaints().complaints))
def test_who_answers_truly_mostly_hears_the_true_cause(name):
    """Drawn from the causes and what each shows, against chance: the likeliest cause told blindly."""
    complaint = complaints().complaints[name]
    whole = {"fuel": frozenset({"gas", "electric", "boiler"}), "store": frozenset({"tank", "tankless"})}
    whole["ignition"] = frozenset({"pilot", "spark", "hot_surface", "battery", "none"})
    tests = {one.name: one for one in complaints().tests.values() if possible(one.when, whole)}
    prior, chance, right = priors(complaint, {}), random.Random(name), 0
    for _ in range(400):
        cause = chance.choices(list(prior), list(prior.values()))[0]
        belief, left = prior, dict(tests)
        for _ in range(ladder.DEEPEST):
            if (test := next_test(belief, left)) is None:
                break
            del left[test.name]
            belief = after(belief, chance.choices(test.outcomes, [one.of(cause) for one in test.outcomes])[0])
        right += max(belief, key=belief.get) == cause
    assert right / 400 > max(prior.values()) + 0.1


@pytest.mark.parametrize(("kind", "lit"), LIT)
def test_every_way_of_a_ladder_can_be_gone_to_its_end(kind, lit):
    led_library, facts = led(kind, lit), facts_of(kind, ALL, practices_followed({}))
    chance = random.Random(kind.value)
    for name in [one for one in led_library.found if one.startswith("complaint_")]:
        for _ in range(6):
            order = ("arrival", *led_library.found[name].then, *visit.CLOSE_UP)
            told = visit.Visit(
                led_library, visit.begun(led_library, order, facts, as_found(kind, RATES, lit)), facts, RATES
            )
            for number in range(200):
                if (now := told.stand.now) is None:
                    break
                at = {"step": now.id, "id": str(number), "device": "a", "at_s": 600.0 * number}
                held = [one for one in visit.holding(led_library, told.stand, facts) if one.way_out]
                if held:
                    told.tell(Event("settled", name=held[0].rule, **at))
                elif now.id.endswith(".test"):
                    told.tell(Event("deviation", choice=chance.randrange(len(now.step.deviations)), **at))
                else:
                    told.tell(Event("done", **at))
            assert told.stand.now is None, f"{name}: {told.stand.now and told.stand.now.id}"

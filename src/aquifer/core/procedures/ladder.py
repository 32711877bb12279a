"""A complaint's ladder: which test comes next, by what it tells and what it costs, until a cause stands out.

Each question comes once on a way. A ladder is computed beforehand as steps like all others, so that a device without a
signal leads through it; today's belief about the heater is its prior.
"""

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cache, lru_cache
from importlib.resources import files
from math import log

from aquifer.core.procedures.condition import Condition, Words, possible
from aquifer.core.procedures.interlock import Deviation, Step
from aquifer.core.procedures.library import Found, Library, Procedure, condition_of
from aquifer.core.procedures.state import BANDS, FIELDS

SURE = 0.8
"""From this share of belief on a cause is told as the verdict. Assumption."""
DEEPEST = 4
"""Tests on one way at most; then the likeliest causes are told. Assumption: nobody asks a fifth."""
RAREST = 0.05
"""Ways that fewer complaints go end with the likeliest causes. Assumption."""
GROWS = 4.0
"""A cause that grows with a belief is at most so many times likelier by it, beyond as it is. Assumption."""
MOST_VERDICTS = 2
"""Causes told at the end of a way that is not sure."""


@dataclass(frozen=True)
class Outcome:
    says: str
    likely: Mapping[str, float]
    others: float

    def of(self, cause: str) -> float:
        """How often a cause shows this."""
        return self.likely.get(cause, self.others)


@dataclass(frozen=True)
class Test:
    name: str
    do: str
    minutes: float
    outcomes: tuple[Outcome, ...]
    when: Condition
    first: tuple[str, ...]
    """Procedures before it."""
    after: tuple[str, ...]
    """Procedures that put right what it needed."""
    step: Step
    """What it is besides, for the guide."""


@dataclass(frozen=True)
class Cause:
    name: str
    verdict: str
    why: str
    part: str
    licence: str
    then: tuple[str, ...]
    grows_with: str
    when: Condition
    """At which heaters it can be."""


@dataclass(frozen=True)
class Complaint:
    name: str
    says: str
    when: Condition
    causes: Mapping[str, float]
    """Weights before anything is known."""


@dataclass(frozen=True)
class Complaints:
    causes: Mapping[str, Cause]
    tests: Mapping[str, Test]
    complaints: Mapping[str, Complaint]


@cache
def complaints() -> Complaints:
    """All that is written down of complaints. Raises: ValueError naming what is not known."""
    read = tomllib.loads(files("aquifer.core.procedures").joinpath("data", "complaints.toml").read_text())
    causes = {
        name: Cause(
            name, one["verdict"], one["why"], one.get("part", ""), one.get("licence", ""), tuple(one.get("then", ())),
            one.get("grows_with", ""), condition_of(one.get("when", []), f"cause {name}"),
        )
        for name, one in read["cause"].items()
    }  # fmt: skip
    tests = {
        name: Test(
            name, one["do"], one["minutes"],
            tuple(Outcome(o["says"], o["likely"], o["else"]) for o in one["outcome"]),
            condition_of(one.get("when", []), f"test {name}"), tuple(one.get("first", ())), tuple(one.get("after", ())),
            Step(
                "test", one["do"], minutes=one["minutes"], asks=tuple(one.get("asks", ())),
                **{key: one[key] for key in ("caution", "tool", "part", "licence") if key in one},
            ),
        )
        for name, one in read["test"].items()
    }  # fmt: skip
    told = {
        name: Complaint(name, one["says"], condition_of(one.get("when", []), f"complaint {name}"), one["causes"])
        for name, one in read["complaint"].items()
    }
    named = {cause for complaint in told.values() for cause in complaint.causes}
    named |= {cause for test in tests.values() for outcome in test.outcomes for cause in outcome.likely}
    if missing := named - set(causes):
        raise ValueError(f"complaints.toml: no cause {', '.join(sorted(missing))}")
    return Complaints(causes, tests, told)


def priors(complaint: Complaint, beliefs: Mapping[str, float]) -> dict[str, float]:
    """The belief in each cause before the first test, adding up to 1.

    Parameters: beliefs, shares 0 to 1 of what grows: ``deposit`` and ``scale`` against their limits, ``rod_gone``.
    """
    weights = {}
    for name, weight in complaint.causes.items():
        share = min(max(beliefs.get(complaints().causes[name].grows_with, 0.0), 0.0), 1.0)
        weights[name] = weight * (1 + GROWS * share)
    return _normal(weights)


def after(belief: Mapping[str, float], outcome: Outcome) -> dict[str, float]:
    """The belief after an outcome. Source: Bayes' rule."""
    return _normal({cause: share * outcome.of(cause) for cause, share in belief.items()})


def _normal(weights: Mapping[str, float]) -> dict[str, float]:
    total = sum(weights.values())
    return {name: weight / total for name, weight in weights.items()}


def entropy(belief: Mapping[str, float]) -> float:
    """What is not known, nats. Source: Shannon."""
    return -sum(share * log(share) for share in belief.values() if share > 0)


def worth(belief: Mapping[str, float], test: Test) -> float:
    """What a test tells for each minute that it takes, nats a minute."""
    told = 0.0
    for outcome in test.outcomes:
        chance = sum(share * outcome.of(cause) for cause, share in belief.items())
        if chance > 0:
            told += chance * entropy(after(belief, outcome))
    whole = sum(sum(share * one.of(cause) for cause, share in belief.items()) for one in test.outcomes)
    return (entropy(belief) - told / max(whole, 1e-9)) / (test.minutes + 1)


LEAST_WORTH = 0.004
"""Below it a test is not worth asking, nats a minute. Assumption."""


def next_test(belief: Mapping[str, float], left: Mapping[str, Test]) -> Test | None:
    """The test that tells most for its time; None where a cause is sure or nothing tells."""
    if not left or max(belief.values()) >= SURE:
        return None
    best = max(left.values(), key=lambda test: (worth(belief, test), test.name))
    return best if worth(belief, best) >= LEAST_WORTH else None


def with_ladders(library: Library, words: Words, beliefs: Mapping[str, float]) -> Library:
    """A library with the ladders of the complaints that this heater can have.

    Parameters: words, of the heater; beliefs, as ``priors``'. Returns: procedures ``complaint_…`` besides, and an entry
    for each complaint among what can be found.
    """
    procedures, found = _ladders(tuple(sorted(words.items())), tuple(sorted(beliefs.items())))
    asked = _asked(library, found)
    return replace(
        library,
        procedures={**library.procedures, **procedures, "complaint": asked},
        found={**library.found, **found},
    )


# A visit asks for the same ladders at each of its taps, and what they follow from is kept with it.
@lru_cache(maxsize=128)
def _ladders(
    words: tuple[tuple[str, frozenset[str]], ...], beliefs: tuple[tuple[str, float], ...]
) -> tuple[dict[str, Procedure], dict[str, Found]]:
    whole = {**{field: frozenset(every) for field, every in FIELDS.items()}, **_ANY, **dict(words)}
    procedures: dict[str, Procedure] = {}
    found: dict[str, Found] = {}
    for name, complaint in complaints().complaints.items():
        if not possible(complaint.when, whole):
            continue
        causes = {c: w for c, w in complaint.causes.items() if possible(complaints().causes[c].when, whole)}
        complaint = replace(complaint, causes=causes)
        tests = {test.name: test for test in complaints().tests.values() if possible(test.when, whole)}
        top = _grown(procedures, f"complaint_{name}", complaint, priors(complaint, dict(beliefs)), tests, DEEPEST)
        found[f"complaint_{name}"] = Found(f"complaint_{name}", complaint.says, top, complaint.when)
    return procedures, found


_ANY = {field: frozenset(name for name, *_ in bands) for field, bands in BANDS.items()}


def _asked(library: Library, found: Mapping[str, Found]) -> Procedure:
    """The question of what it does, answered by the ladders there are."""
    whole = library.procedures["complaint"]
    which = Step(
        "which",
        "Ask what it does.",
        deviations=tuple(Deviation(one.says, one.then, instead=True, when=one.when) for one in found.values()),
    )
    return replace(whole, steps=(whole.steps[0], which))


def _grown(
    procedures: dict[str, Procedure],
    name: str,
    complaint: Complaint,
    belief: Mapping[str, float],
    left: Mapping[str, Test],
    depth: int,
    chance: float = 1.0,
) -> tuple[str, ...]:
    """The names of the procedures that go on from a belief; they are put among the others."""
    test = next_test(belief, left) if depth > 0 and chance >= RAREST else None
    if test is None:
        return _told(procedures, name, complaint, belief)
    rest = {one: other for one, other in left.items() if one != test.name}
    ways = []
    for number, outcome in enumerate(test.outcomes):
        often = chance * sum(share * outcome.of(cause) for cause, share in belief.items())
        way = f"{name}_{'abcd'[number]}"
        then = _grown(procedures, way, complaint, after(belief, outcome), rest, depth - 1, often)
        ways.append(Deviation(outcome.says, (*test.after, *then), instead=True))
    step = replace(test.step, deviations=tuple(ways))
    procedures[name] = Procedure(name, complaint.says, 1, (), "", (step,))
    return (*test.first, name)


def _told(
    procedures: dict[str, Procedure], name: str, complaint: Complaint, belief: Mapping[str, float]
) -> tuple[str, ...]:
    """The verdicts, the likeliest first, and what is done about the first."""
    ranked = sorted(belief.items(), key=lambda one: (-one[1], one[0]))
    sure = ranked[0][1] >= SURE
    # Who finds that it is not the likeliest goes on with the next.
    other = complaints().causes[ranked[1][0]].then if len(ranked) > 1 else ()
    steps = []
    for place, (cause_name, share) in enumerate(ranked[: 1 if sure else MOST_VERDICTS]):
        cause = complaints().causes[cause_name]
        steps.append(
            Step(
                f"verdict_{'ab'[place]}",
                f"{'' if sure else 'Likely: ' if place == 0 else 'Or: '}{cause.verdict}.",
                why=f"{cause.why} Believed in {round(100 * share)} of 100.",
                part=cause.part,
                joins=place > 0,
                deviations=(Deviation("It is not", other, instead=True),) if place == 0 and not sure else (),
            )
        )
    then = complaints().causes[ranked[0][0]].then
    procedures[name] = Procedure(name, complaint.says, 1, (), "", tuple(steps))
    return (name, *then)

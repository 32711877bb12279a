"""Readings that are held against the same bounds at every heater of a kind: below, above, and what to do then."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from aquifer.core.judgement.table import Answer, Facts, Row, Table, Verdict
from aquifer.core.kinds import Fuel, HeaterKind, burning, having
from aquifer.core.units import Quantity, figure

At = float | Callable[[Facts], float] | None
"""Where a reading begins to matter, if need be for a heater; ``None`` where it is open to that side."""


@dataclass(frozen=True)
class Bound:
    """What is usual of a reading."""

    field: str
    question: str
    source: str
    of: frozenset[HeaterKind]
    right: str
    low: At = None
    when_low: str = ""
    high: At = None
    when_high: str = ""
    licensed: bool = False


_TANKLESS = frozenset(HeaterKind) - having("is_tank")
_LIMITS_C = {
    HeaterKind.MOBILE_TANK: 82.0,
    HeaterKind.SMALL_GAS_TANKLESS: 105.0,
    HeaterKind.CONDENSING_TANKLESS: 90.0,
}
"""Where an over-temperature switch opens. Trade practice: 180 degF, 105 degC, 194 degF."""
_LIMIT_K = 8.0
"""By which one may open beside its mark. Assumption."""

BOUNDS = (
    Bound(
        "gas.gap_mm",
        "Is the spark gap right?",
        "trade practice: an eighth of an inch, unless its maker sets none",
        frozenset({HeaterKind.MOBILE_TANK}),
        f"near {figure(Quantity.LENGTH, 3)}",
        2.5,
        "too narrow: a weak spark, and it bridges with soot",
        4.0,
        "too wide: it does not jump when damp",
    ),
    Bound(
        "gas.tries",
        "Does it light at once?",
        "trade practice: a vehicle's board gives up after 3 tries, a tankless heater after 5",
        burning(Fuel.GAS),
        "at the first or second try",
        high=2,
        when_high="gap, lead, gas pressure, air in the line; it soon locks out",
    ),
    Bound(
        "gas.losses",
        "Does the flame stay?",
        "trade practice: a tankless heater locks out after 10 losses in a row",
        burning(Fuel.GAS),
        "hardly ever lost",
        high=2,
        when_high="clean the flame rod; ground, gas pressure, wind at the terminal",
    ),
    Bound(
        "limit.opens_c",
        "Does the limit open where it should?",
        "trade practice; its mark decides",
        frozenset(_LIMITS_C),
        "near where one of its kind opens",
        lambda f: _LIMITS_C[f.kind] - _LIMIT_K,
        "early: it stops a heater that is well; renew it",
        lambda f: _LIMITS_C[f.kind] + _LIMIT_K,
        "late: it does not protect; off until it is renewed",
        licensed=True,
    ),
    Bound(
        "mixing.inlet_c",
        "Is the mixing valve's cold feed cold?",
        "trade practice: near 10 degC (50 degF) is usual; near the outlet's, the valve hunts and dies",
        frozenset(HeaterKind),
        "cold enough to mix with",
        high=40,
        when_high="hot water comes back through the cold: a pump without control, a missing check valve",
    ),
    Bound(
        "cells.volts",
        "Are the cells good?",
        "trade practice: two cells of 1.5 V",
        frozenset({HeaterKind.SMALL_GAS_TANKLESS}),
        "enough to light",
        2.6,
        "renew both: it sparks late, and gas gathers",
    ),
    Bound(
        "drain.minutes",
        "Did it run empty in time?",
        "trade practice: 15 to 45 minutes for a household tank by gravity",
        having("is_tank"),
        "as a tank of its kind drains",
        high=45,
        when_high="port or valve half shut by deposit: a full-bore valve next time",
    ),
    Bound(
        "water.clear_min",
        "Did it run clear in time?",
        "assumption: a rinse is three minutes, the deposit is stirred up to twenty",
        having("is_tank"),
        "as little lay in it",
        high=20,
        when_high="much lies in it yet: look sooner, or jet it",
    ),
    Bound(
        "verify.heat_up_min",
        "Does it heat up in time?",
        "trade practice: an hour to an hour and a half for a household tank",
        having("is_tank"),
        "as a tank of its kind heats up",
        high=120,
        when_high="an element, deposit over the floor, a lazy burner; hold it against the calculator",
    ),
    Bound(
        "pressure.static_kpa",
        "Is there pressure enough to fire?",
        "trade practice: 15 psi standing, or a tankless heater locks so as not to fire dry",
        _TANKLESS,
        "enough",
        103.4,
        "it may not fire, or fire in fits: filter, valves, booster",
    ),
)


def _told(field: str, side: str) -> Callable[[Facts, str | None], Facts]:
    def puts(facts: Facts, word: str | None) -> Facts:
        beyond = facts.seen.beyond - {(field, side)}
        if word == side:
            beyond |= {(field, side)}
        return replace(facts, seen=replace(facts.seen, beyond=beyond))

    return puts


def _table(bound: Bound) -> Table:
    def row(side: str, because: str) -> Row:
        return Row(
            lambda f: (bound.field, side) in f.seen.beyond,
            Verdict.PUT_RIGHT,
            lambda f: (because,),
            licensed=bound.licensed,
        )

    rows = [row(side, why) for side, why in (("below", bound.when_low), ("above", bound.when_high)) if why]
    rows.append(Row(lambda f: True, Verdict.AS_IT_SHOULD_BE, lambda f: (bound.right,)))
    rule = bound.field.replace(".", "_")
    return Table(rule, bound.question, bound.source, lambda f: f.kind in bound.of, tuple(rows))


def tables() -> Iterator[tuple[Table, tuple[Answer, ...]]]:
    """A decision table for each bound, with the answers that bear on it."""
    for bound in BOUNDS:
        sides = [(side, at) for side, at in (("below", bound.low), ("above", bound.high)) if at is not None]
        yield (
            _table(bound),
            tuple(Answer(bound.field, ("below", "above"), _told(bound.field, s), at) for s, at in sides),
        )

"""Every state that any steps can lead to, in any order, as long as the interlock lets each pass.

It holds for every visit of every kind and practice at once, since each is one of these orders.
"""

from collections.abc import Callable, Iterable

import numpy as np

from aquifer.core.arrays import BoolArray, IntArray
from aquifer.core.procedures.condition import Condition, Words, holds
from aquifer.core.procedures.interlock import Rule, Step
from aquifer.core.procedures.library import Library
from aquifer.core.procedures.state import FIELDS, State

NAMES = tuple(FIELDS)
_AT = {name: number for number, name in enumerate(NAMES)}
_SIZES = np.array([len(words) for words in FIELDS.values()], dtype=np.int64)
_PLACES = np.concatenate([[1], np.cumprod(_SIZES)[:-1]])
Judge = Callable[[IntArray, IntArray, Step], None]
"""Called with the states before and after (or during) a step, (n, fields), for every step that can be done."""


def coded(states: Iterable[State]) -> IntArray:
    """States as positions of their words, (n, fields)."""
    return np.array([[FIELDS[name].index(state[name]) for name in NAMES] for state in states], dtype=np.int64)


def word(states: IntArray, field: str, *words: str) -> BoolArray:
    """Which states have one of these words in a field, (n,)."""
    has = np.array([one in words for one in FIELDS[field]])
    return np.asarray(has[states[:, _AT[field]]])


def reached(library: Library, facts: Words, starts: Iterable[State], judge: Judge | None = None) -> IntArray:
    """All states that steps for this heater lead to from the starts, (n, fields), each step in any order, any number
    of times. Parameters: judge, told of every change; it may raise."""
    steps = {
        repr((step.through, step.sets, step.needs, step.licence)): step
        for procedure in library.procedures.values()
        if holds(procedure.when, facts)
        for step in procedure.steps
        if holds(step.when, facts)
    }
    able = [s for s in steps.values() if not s.licence or facts.get(f"licence_{s.licence}") == "yes"]
    front = coded(starts)
    known = np.unique(front @ _PLACES)
    every = [front]
    while front.size:
        harmful = [_holds(rule.forbids, front, facts) for rule in library.rules]
        found = [_after(step, front, facts, library.rules, harmful, judge) for step in able]
        new, first = np.unique(np.concatenate([one @ _PLACES for one in found]), return_index=True)
        fresh = ~np.isin(new, known)
        front = np.concatenate(found)[first[fresh]]
        known = np.union1d(known, new)
        every.append(front)
    return np.concatenate(every)


def _after(
    step: Step, states: IntArray, facts: Words, rules: Iterable[Rule], harmful: list[BoolArray], judge: Judge | None
) -> IntArray:
    """The states after a step, of those in which it is not held. Parameters: harmful, by each rule, of the states."""
    during = _settled(_set(states, step.through)) if step.through else states
    pressed = states.copy()
    pressed[:, _AT["pressure"]] = during[:, _AT["pressure"]]
    new = _settled(_set(pressed, step.sets))
    free = _holds(step.needs, states, facts)
    for rule, already in zip(rules, harmful, strict=True):
        hurts = _holds(rule.forbids, new, facts)
        if step.through:
            hurts |= _holds(rule.forbids, during, facts)
        free &= already | ~hurts
    if judge is not None and free.any():
        judge(states[free], during[free], step)
        judge(during[free], new[free], step)
    return new[free]


def _set(states: IntArray, sets: tuple[tuple[str, str], ...]) -> IntArray:
    new = states.copy()
    for field, to in sets:
        position = FIELDS[field].index(to)
        if field == "level" and to == "low":
            new[~word(states, "level", "empty"), _AT[field]] = position
        else:
            new[:, _AT[field]] = position
    return new


def _settled(states: IntArray) -> IntArray:
    """As ``state.after``: the supply keeps the pressure up, any opening lets it off."""
    supplied = word(states, "cold", "open")
    opened = np.any([word(states, name, "open") for name in ("drain", "tap", "relief", "air")], axis=0)
    pressure = states[:, _AT["pressure"]]
    off, on = FIELDS["pressure"].index("off"), FIELDS["pressure"].index("on")
    states[:, _AT["pressure"]] = np.where(supplied, on, np.where(opened, off, pressure))
    return states


def _holds(condition: Condition, states: IntArray, facts: Words) -> BoolArray:
    if not condition:
        return np.ones(len(states), dtype=bool)
    any_of = np.zeros(len(states), dtype=bool)
    for one in condition:
        fits = np.ones(len(states), dtype=bool)
        for field, words in one.items():
            fits &= word(states, field, *words) if field in _AT else facts.get(field, "unknown") in words
        any_of |= fits
    return any_of

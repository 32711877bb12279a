"""Conditions as data: alternatives, each a set of fields with the words that they may have.

A field may have several words at once where nobody knows which of them is so. Then a condition is possible, certain,
or neither.
"""

from collections.abc import Mapping, Sequence
from typing import Any

Told = dict[str, Any]
"""A table of one of the files of ``data``; whoever reads it checks it."""
Words = Mapping[str, frozenset[str]]
"""Facts and states alike: for each field the words that may be so."""
Alternative = Mapping[str, Sequence[str]]
Condition = Sequence[Alternative]
UNKNOWN = frozenset({"unknown"})


def possible(condition: Condition, words: Words) -> bool:
    """Whether one alternative may hold. No alternative at all always holds."""
    return not condition or any(may_fit(one, words) for one in condition)


def certain(condition: Condition, words: Words) -> bool:
    """Whether one alternative holds whatever is so. No alternative at all always holds."""
    return not condition or any(fits(one, words) for one in condition)


def may_fit(alternative: Alternative, words: Words) -> bool:
    """Whether each field may have one of its words."""
    for field, allowed in alternative.items():  # noqa: SIM110 - the hottest line of the fold: a generator costs twice
        if words.get(field, UNKNOWN).isdisjoint(allowed):
            return False
    return True


def fits(alternative: Alternative, words: Words) -> bool:
    """Whether each field has one of its words whatever is so."""
    return all(words.get(field, UNKNOWN) <= set(allowed) for field, allowed in alternative.items())

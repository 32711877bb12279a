"""Conditions as data: alternatives, each a set of fields with the words that they may have."""

from collections.abc import Mapping, Sequence

Words = Mapping[str, str]
"""Facts and states alike: a word for each field."""
Alternative = Mapping[str, Sequence[str]]
Condition = Sequence[Alternative]


def holds(condition: Condition, words: Words) -> bool:
    """Whether one alternative holds: each of its fields has one of its words. No alternative at all always holds.

    A field that nobody has told of has the word ``unknown``.
    """
    return not condition or any(fits(one, words) for one in condition)


def fits(alternative: Alternative, words: Words) -> bool:
    """Whether each field has one of its words."""
    return all(words.get(field, "unknown") in allowed for field, allowed in alternative.items())

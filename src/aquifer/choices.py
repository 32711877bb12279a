"""An enumeration of the core as choices of a column."""

from enum import StrEnum


def choices(kind: type[StrEnum]) -> list[tuple[str, str]]:
    """An enumeration of the core as choices of a column."""
    return [(member.value, member.value.replace("_", " ")) for member in kind]

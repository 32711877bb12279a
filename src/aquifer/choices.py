"""An enumeration of the core as choices of a column."""


def choices(kind: type) -> list[tuple[str, str]]:
    """An enumeration of the core as choices of a column."""
    return [(member.value, member.value.replace("_", " ")) for member in kind]

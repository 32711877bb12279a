"""Who brings in what, for the history of each record."""

from dataclasses import dataclass

from aquifer.accounts.models import User


@dataclass(frozen=True)
class Origin:
    by: User | None
    file: str


NOBODY = Origin(None, "a file")

"""One thing that is judged of a practice, and when something was done in it."""

from dataclasses import dataclass

from aquifer.core.bench.practice import Practice


@dataclass(frozen=True)
class Mark:
    """One thing that was judged."""

    name: str
    good: bool
    says: str
    """With its figures as ``units.figure`` writes them."""
    must: bool
    """Without it nothing is passed."""
    read: str
    """The step of the trade to read again, ``procedure.step``."""


def first(practice: Practice, handle: str, *to: str) -> int | None:
    """The second at which something was first turned so."""
    return next(
        (
            act.at_s
            for place, act in enumerate(practice.acts)
            if act.handle == handle and act.to in to and place not in practice.refusals
        ),
        None,
    )


def before(one: int | None, other: int | None) -> bool:
    """Whether one was done, and no later than the other, if that was."""
    return one is not None and (other is None or one <= other)

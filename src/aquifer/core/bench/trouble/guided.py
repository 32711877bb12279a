"""A search with the guide beside it: the ladder of the complaint, its verdict, and what is done about it."""

from collections.abc import Mapping

from aquifer.core.bench.guided import Guided, told_of
from aquifer.core.bench.trouble.search import Search
from aquifer.core.kinds import KINDS
from aquifer.core.procedures import visit
from aquifer.core.procedures.ladder import with_ladders
from aquifer.core.procedures.library import library
from aquifer.core.procedures.state import LICENCES, as_found, facts_of, rates_of

HEIGHT_M, COLD_C = 1.2, 12.0
"""Of a usual tank, and of its supply. Assumption."""


def guided(search: Search, practices: Mapping[str, str]) -> Guided:
    """Where the guide stands after what a search told it. Parameters: practices, the company's sides.

    Raises: ValueError for a telling that cannot be read.
    """
    trouble = search.trouble
    kind = KINDS[trouble.kind]
    facts = facts_of(trouble.kind, LICENCES, practices)
    rates = rates_of(kind.usual_capacity_l, HEIGHT_M, kind.usual_input_kw, COLD_C)
    start = as_found(trouble.kind, rates, trouble.ignition.value, trouble.vent.value)
    every = with_ladders(library(), {**facts, **start.words}, {})
    names = ("arrival", *every.found[f"complaint_{trouble.complaint}"].then, *visit.CLOSE_UP)
    return told_of(search.acts, every, visit.begun(every, names, facts, start), facts, rates)

"""What a base asks for in the years ahead: one future after another, each with paces and lives of its own.

- ``luck``: what differs between the futures, drawn so that any part of a base may be lived anywhere
- ``scene``: a part of a base, the practice and the water under which it is lived, and what each thing counts for
- ``due``: when each component is due, and how long a service of it lasts
- ``tanks``: how long tanks last
- ``services``: who is visited when, what is done there, and what gives way
- ``turnover``: who joins and who calls, over the whole base
- ``decisions``: what may be tried on it
- ``sums``: what all of it comes to, and how two bases with the same luck compare
"""

from aquifer.core.ahead.decisions import Decision, DecisionKind, Tried, tried
from aquifer.core.ahead.luck import Shared, shared
from aquifer.core.ahead.scene import Scene, Worth, plain_worth
from aquifer.core.ahead.services import lived
from aquifer.core.ahead.sums import COUNTED, Ahead, added, better, fan
from aquifer.core.ahead.turnover import Calls, Turnover, with_calls, with_turnover

__all__ = [
    "COUNTED",
    "Ahead",
    "Calls",
    "Decision",
    "DecisionKind",
    "Scene",
    "Shared",
    "Tried",
    "Turnover",
    "Worth",
    "added",
    "better",
    "fan",
    "lived",
    "plain_worth",
    "shared",
    "tried",
    "with_calls",
    "with_turnover",
]

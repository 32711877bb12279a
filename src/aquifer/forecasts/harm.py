"""What a leak does where each heater stands: by where its water runs, what catches it, and who is without hot water."""

import numpy as np

from aquifer.core import replacement
from aquifer.core.arrays import Column, FloatArray, IntArray
from aquifer.core.vocabulary import Business
from aquifer.forecasts.columns import Reading, day, position, whole
from aquifer.places import leaks

_PATHS = tuple(replacement.DAMAGE_BY_PATH)
WAYS = Reading(
    leaks.ways().order_by(),
    {
        "pk": whole("pk"),
        "heater": whole("heater_id"),
        "on": day("seen_on"),
        "kind": position("kind", leaks.KINDS),
        "path": position("condition", _PATHS),
        "pan": position("condition", ["sound"]),
    },
    by="heater",
)
"""Where a leak would run, and what catches it."""
_HARM = np.array(
    [
        [
            [replacement.harm_at(path, has_piped_pan, business) for business in (*Business, None)]
            for has_piped_pan in (False, True)
        ]
        for path in (*_PATHS, None)
    ]
)


def harm(ways: dict[str, Column], ids: IntArray, business: IntArray) -> FloatArray:
    """What a leak does where each heater stands, (n,)."""
    path, has_pan = np.full(ids.size, -1), np.zeros(ids.size, dtype=np.int64)
    order = np.lexsort((ways["pk"], ways["on"]))
    row = np.searchsorted(ids, ways["heater"][order])
    is_path = ways["kind"][order] == 0
    path[row[is_path]] = ways["path"][order][is_path]
    has_pan[row[~is_path]] = ways["pan"][order][~is_path] == 0
    return np.asarray(_HARM[path, has_pan, business])

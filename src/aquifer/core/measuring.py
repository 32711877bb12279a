"""Which visits are asked for a measurement: about one in twenty, drawn by the program and not by whoever is there.

Grades alone rank heaters well but date them badly, and measurements taken where something looked bad would lean the
scale: only a draw anchors it.
"""

import hashlib

SHARE = 0.05
"""Of visits. Fitted in simulation: with one in twenty the windows hold, with none they do not."""


def is_drawn(secret: bytes, heater: int, visits_before: int, share: float = SHARE) -> bool:
    """Whether the coming visit at a heater is asked for a measurement.

    Parameters: a secret of the installation, so that nobody can tell ahead; the heater's number; how many visits it has
    had; the share of visits to draw, 0 to 1. Returns: the same answer however often it is asked before that visit.
    Source: a keyed hash, even over its range.
    """
    told = hashlib.blake2b(f"{heater}:{visits_before}".encode(), key=secret[:64], digest_size=8).digest()
    return int.from_bytes(told, "big") < share * 2**64

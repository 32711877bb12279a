"""Which heater a visit is of, when the office changed what is on record while somebody stood before it."""

from aquifer.core.vocabulary import EndCause
from aquifer.errors import NotFound
from aquifer.heaters.models import Heater


def of_visit(heater_id: int, lock: bool = False) -> Heater:
    """The heater of a visit: the one that it was made one with, where that was done meanwhile.

    One that was archived meanwhile is still visited: whoever stands before it does what they do. Parameters: lock, so
    that whatever else is told of the heater waits. Raises: NotFound for no such heater.
    """
    heater = _read(heater_id, lock)
    # Each was archived before the next: no chain of them comes back to where it began.
    while heater.archived_at is not None and heater.end_cause == EndCause.MERGED and heater.successor_id is not None:
        heater = _read(heater.successor_id, lock)
    return heater


def _read(heater_id: int, lock: bool) -> Heater:
    heaters = Heater.objects.select_related("site")
    heater = (heaters.select_for_update(of=("self",)) if lock else heaters).filter(pk=heater_id).first()
    if heater is None:
        raise NotFound("There is no such heater.", fields={"heater_id": "no such heater"})
    return heater

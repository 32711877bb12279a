"""Two heaters that were one: what is kept here of the other becomes that of the one that stays."""

from aquifer.heaters.duplicates import Merge
from aquifer.open_ends.models import OpenEnd


def move(merge: Merge) -> None:
    """One by one, so that each keeps its history."""
    for open_end in OpenEnd.objects.filter(heater=merge.other):
        open_end.heater, open_end.site_id = merge.kept, merge.kept.site_id
        open_end.save()

"""Two heaters that were one: their visits become those of the one that stays."""

from aquifer.heaters.duplicates import Merge
from aquifer.visits.models import Finding, Visit, VisitSession


def move(merge: Merge) -> None:
    """Visits and findings go over; a finding at a part that both said to be in place is one of the part that stays."""
    for part_id, standing in merge.same_parts.items():
        Finding.objects.filter(part=part_id).update(part=standing)
    Visit.objects.filter(heater=merge.other).update(heater=merge.kept)
    Finding.objects.filter(heater=merge.other).update(heater=merge.kept)
    VisitSession.objects.filter(heater=merge.other).update(heater=merge.kept)

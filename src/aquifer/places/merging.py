"""Two heaters that were one: what is kept here of the other becomes that of the one that stays."""

from aquifer.heaters.duplicates import Merge
from aquifer.places.models import Feature


def move(merge: Merge) -> None:
    """One by one, so that each keeps its history."""
    for feature in Feature.objects.filter(heater=merge.other, gone=False):
        feature.heater, feature.site_id = merge.kept, merge.kept.site_id
        feature.save()

"""Two heaters that were one: what is kept here of the other becomes that of the one that stays."""

from aquifer.attachments.models import Attachment
from aquifer.heaters.duplicates import Merge


def move(merge: Merge) -> None:
    """One by one, so that each keeps its history."""
    for attachment in Attachment.objects.filter(heater=merge.other):
        attachment.heater, attachment.site_id = merge.kept, merge.kept.site_id
        attachment.save()

"""Two heaters that were one: what is kept here of the other becomes that of the one that stays."""

from aquifer.heaters.duplicates import Merge
from aquifer.open_ends.models import OpenEnd, OpenEndState


def move(merge: Merge) -> None:
    """One by one, so that each keeps its history. What is open of one thing at both is open once."""
    open_now = OpenEnd.objects.exclude(state=OpenEndState.CLOSED).exclude(observation="")
    there = set(open_now.filter(heater=merge.kept).values_list("observation", flat=True))
    for twice in open_now.filter(heater=merge.other, observation__in=there):
        twice.state, twice.closed_on, twice.how_closed = OpenEndState.CLOSED, twice.raised_on, "open at the one it is"
        twice.save()
    for open_end in OpenEnd.objects.filter(heater=merge.other):
        open_end.heater, open_end.site_id = merge.kept, merge.kept.site_id
        open_end.save()

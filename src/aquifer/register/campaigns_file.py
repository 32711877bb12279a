"""A campaign as a table for the maker: a row a heater, with what was seen and by what that is shown."""

from collections import defaultdict
from collections.abc import Iterator

from django.utils import timezone

from aquifer.attachments.models import Attachment, AttachmentKind
from aquifer.heaters.models import Part
from aquifer.open_ends.models import Campaign, OpenEnd, OpenEndState

COLUMNS = (
    "heater", "maker", "model", "serial", "installed_on", "part", "build_now", "fitted_on", "state", "result",
    "seen_on", "photographs",
)  # fmt: skip


def rows(campaign: Campaign) -> Iterator[dict[str, object]]:
    """Every heater of it, those still to see too; no name and no street goes to the maker. Three queries."""
    open_ends = OpenEnd.objects.filter(campaign=campaign, heater__isnull=False).select_related("heater")
    ids = open_ends.values("heater")
    parts = Part.objects.filter(heater__in=ids, kind=campaign.part_kind, removed_on__isnull=True)
    in_place = {one.heater_id: one for one in parts}
    pictures: dict[int, list[Attachment]] = defaultdict(list)
    for attachment in Attachment.objects.filter(kind=AttachmentKind.PHOTOGRAPH, gone=False, heater__in=ids).order_by(
        "pk"
    ):
        pictures[attachment.heater_id or 0].append(attachment)
    for end in open_ends.order_by("heater__tag"):
        heater = end.heater
        assert heater is not None
        part = in_place.get(heater.pk)
        since = [
            attachment.pk
            for attachment in pictures[heater.pk]
            if timezone.localdate(attachment.added_at) >= end.raised_on
        ]
        closed = end.state == OpenEndState.CLOSED
        yield {
            "heater": heater.tag, "maker": heater.maker, "model": heater.model, "serial": heater.serial,
            "installed_on": heater.installed_on or "", "part": campaign.part, "build_now": part.build if part else "",
            "fitted_on": (part and part.fitted_on) or "", "state": "seen" if closed else "still to see",
            "result": end.how_closed, "seen_on": end.closed_on or "", "photographs": " ".join(map(str, since)),
        }  # fmt: skip

"""Jobs of stored files. Running one twice reads them twice."""

import hashlib

from django.core.files.storage import default_storage
from django.utils import timezone
from procrastinate.contrib.django import app

from aquifer.attachments.models import Attachment
from aquifer.jobs import WHEN_BACK

WEEK = 7


class NotAsKept(Exception):
    """Stored files are missing, or are not what was stored; the message says which."""


@app.periodic(cron="50 4 * * *")
@app.task(name="attachments.look_over", queue="jobs", retry=WHEN_BACK)
def look_over(timestamp: int) -> None:
    """Nightly a seventh of all: whether the file of each photograph and document is as it was stored. Fails if one is
    not, so that it is seen while a backup still has it."""
    today = timezone.localdate().weekday()
    amiss = [f"{one.path} {why}" for one in Attachment.objects.order_by("pk") if one.pk % WEEK == today
             and (why := amiss_with(one))]  # fmt: skip
    if amiss:
        raise NotAsKept(f"{len(amiss)} files: {'; '.join(amiss[:20])}. Restore them from a backup.")


def amiss_with(attachment: Attachment) -> str:
    """What is wrong with its file; empty if it is as it was stored."""
    if not default_storage.exists(attachment.path):
        return "is missing"
    digest = hashlib.sha256()
    with default_storage.open(attachment.path) as file:
        for piece in file.chunks(1 << 20):
            digest.update(piece)
    return "" if digest.hexdigest() == attachment.digest else "is not as it was stored"

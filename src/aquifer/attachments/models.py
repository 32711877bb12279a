"""Photographs and documents that belong to a site or one of its heaters."""

from typing import ClassVar

from django.conf import settings
from django.db import models

from aquifer.history.marks import kept_history


class AttachmentKind(models.TextChoices):
    PHOTOGRAPH = "photograph", "photograph"
    DOCUMENT = "document", "document"


class Attachment(models.Model):
    """The file lies in the storage under the digest of its bytes; the same file twice lies there once."""

    kind = models.CharField(max_length=12, choices=AttachmentKind.choices)
    site = models.ForeignKey("customers.Site", on_delete=models.PROTECT, related_name="attachments")
    heater = models.ForeignKey(
        "heaters.Heater", null=True, blank=True, on_delete=models.PROTECT, related_name="attachments"
    )
    client_id = models.UUIDField(null=True, blank=True, unique=True, help_text="Sent twice by a device, it is one.")
    visit_client_id = models.UUIDField(null=True, blank=True, db_index=True, help_text="Taken at this visit.")
    piece = models.CharField(
        max_length=20, blank=True, help_text="Which of the heater it shows, as a step names it: anode, deposit, tank."
    )
    caption = models.CharField(max_length=160, blank=True)
    taken_on = models.DateField(null=True, blank=True, help_text="As the camera said.")
    digest = models.CharField(max_length=64, help_text="SHA-256 of the stored file.")
    bytes = models.PositiveIntegerField()
    width = models.PositiveIntegerField(null=True, blank=True)
    height = models.PositiveIntegerField(null=True, blank=True)
    added_at = models.DateTimeField(auto_now_add=True)
    added_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, blank=True, on_delete=models.PROTECT)
    gone = models.BooleanField(default=False, help_text="Shown no longer; the file is kept.")

    history = kept_history()

    class Meta:
        ordering: ClassVar = ["-added_at", "-pk"]
        indexes: ClassVar = [models.Index(fields=["site", "gone"]), models.Index(fields=["heater", "gone"])]

    def __str__(self) -> str:
        return self.caption or self.kind

    @property
    def path(self) -> str:
        """Where the file lies in the storage."""
        return (
            f"attachments/{self.digest[:2]}/{self.digest}.{'jpg' if self.kind == AttachmentKind.PHOTOGRAPH else 'pdf'}"
        )

    @property
    def small_path(self) -> str:
        """Where its small picture lies, of a photograph."""
        return f"attachments/{self.digest[:2]}/{self.digest}-small.jpg"

"""Files brought in: what each would do, row by row, and what became of it."""

from django.conf import settings
from django.db import models
from django.db.models import Q


class ImportState(models.TextChoices):
    CHECKING = "checking", "being checked"
    MATCHING = "matching", "waiting for its columns to be matched"
    CHECKED = "checked", "checked, waiting for confirmation"
    APPLYING = "applying", "being brought in"
    APPLIED = "applied", "brought in"
    REFUSED = "refused", "refused"
    CANCELLED = "cancelled", "cancelled"
    UNDONE = "undone", "taken out again"


class RowAction(models.TextChoices):
    CREATE = "create", "new"
    CHANGE = "change", "changed"
    SAME = "same", "as it is"
    REFUSE = "refuse", "refused"
    LEFT_OUT = "left_out", "left out"


LISTS_OF_HEATERS = ("list", "heaters")
"""Kinds of file that bring heaters in."""


class ImportRun(models.Model):
    kind = models.CharField(max_length=16)
    file_name = models.CharField(max_length=200)
    data = models.BinaryField()
    state = models.CharField(max_length=12, choices=ImportState.choices, default=ImportState.CHECKING)
    message = models.CharField(max_length=500, blank=True)
    rows_total = models.PositiveIntegerField(default=0)
    rows_done = models.PositiveIntegerField(default=0)
    counts = models.JSONField(default=dict)
    columns = models.JSONField(default=list, help_text="Of the file: name, the first cells, what it may be.")
    matches = models.JSONField(null=True, help_text="By column of the file: what it is, and how it is written.")
    sheets = models.JSONField(default=list, help_text="Of a workbook: the names of its sheets.")
    sheet = models.CharField(max_length=200, blank=True, help_text="The one that is read; empty is the usual one.")
    decided = models.JSONField(
        default=dict, help_text="By number of the row: whether its customer is the same as one of that name."
    )
    made = models.JSONField(default=dict, help_text="What it made, ids by table, so that it can be taken out again.")
    started_at = models.DateTimeField(auto_now_add=True)
    finished_at = models.DateTimeField(null=True)
    started_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT)

    class Meta:
        constraints = [
            models.CheckConstraint(condition=Q(state__in=ImportState.values), name="import_state_is_known"),
        ]

    def __str__(self) -> str:
        return f"{self.kind}: {self.file_name}"

    @property
    def can_be_tried(self) -> bool:
        """Whether its heaters can be lived as if they were taken over: it brings some, and waits to be confirmed."""
        return self.state == ImportState.CHECKED and self.kind in LISTS_OF_HEATERS

    @property
    def by(self) -> str:
        """Who sent it."""
        return self.started_by.name if self.started_by else ""

    @property
    def can_undo(self) -> bool:
        """Whether what it made can be taken out again, as far as it is known by itself."""
        return self.state == ImportState.APPLIED and bool(self.made)

    @property
    def matched(self) -> bool:
        """Whether its columns had other names than ours, or were written another way."""
        return any(match["column"] != name.lower() or match["written"] for name, match in (self.matches or {}).items())


class RememberedColumns(models.Model):
    """What the columns of a kind of file were matched with the last time that such a file came."""

    kind = models.CharField(max_length=16)
    header = models.CharField(max_length=64, help_text="Digest of the column names, in any order.")
    matches = models.JSONField()
    at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["kind", "header"], name="remembered_columns_once")]

    def __str__(self) -> str:
        return self.kind


class ImportRow(models.Model):
    """What one row of a file would do."""

    run = models.ForeignKey(ImportRun, on_delete=models.CASCADE, related_name="rows")
    number = models.PositiveIntegerField()
    action = models.CharField(max_length=8, choices=RowAction.choices)
    key = models.CharField(max_length=200)
    detail = models.JSONField(default=dict, help_text="By column: what is wrong, or [before, after].")

    class Meta:
        ordering = ["number"]
        indexes = [models.Index(fields=["run", "action", "number"])]

    def __str__(self) -> str:
        return f"{self.run_id} row {self.number}"

"""Whole bases written to a file: asked for, being written, there to fetch."""

from pathlib import Path
from typing import ClassVar

from django.conf import settings
from django.db import models
from django.db.models import Q


class BaseFileState(models.TextChoices):
    WRITING = "writing", "being written"
    READY = "ready", "ready"
    FAILED = "failed", "failed"


class BaseFile(models.Model):
    state = models.CharField(max_length=8, choices=BaseFileState.choices, default=BaseFileState.WRITING)
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    bytes = models.BigIntegerField(default=0)
    asked_at = models.DateTimeField(auto_now_add=True)
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)

    class Meta:
        ordering: ClassVar = ["-asked_at", "-pk"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(state__in=BaseFileState.values), name="base_file_state_is_known")
        ]

    def __str__(self) -> str:
        return f"base {self.pk}"

    @property
    def path(self) -> Path:
        return Path(settings.DATA) / "bases" / f"aquifer-base-{self.pk}.zip"

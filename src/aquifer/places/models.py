"""What stands and lies around the heaters of a site, as it was last seen."""

from typing import ClassVar

from django.db import models
from django.db.models import Q

from aquifer.choices import choices
from aquifer.core.place import FeatureKind, Seen
from aquifer.history.marks import kept_history


class Feature(models.Model):
    """A valve, a drain, a flue; of the site, or of one of its heaters."""

    site = models.ForeignKey("customers.Site", on_delete=models.PROTECT, related_name="features")
    heater = models.ForeignKey(
        "heaters.Heater", null=True, blank=True, on_delete=models.PROTECT, related_name="features"
    )
    kind = models.CharField(max_length=24, choices=choices(FeatureKind))
    form = models.CharField(max_length=24, blank=True)
    condition = models.CharField(max_length=16)
    where = models.CharField(max_length=120, blank=True)
    do_not_operate = models.BooleanField(default=False)
    use_instead = models.CharField(max_length=120, blank=True)
    note = models.CharField(max_length=240, blank=True)
    details = models.JSONField(default=dict, blank=True, help_text="By the core's table of details.")
    seen_on = models.DateField()
    seen_by = models.CharField(max_length=80, blank=True)
    gone = models.BooleanField(default=False, help_text="It is there no longer; its history is kept.")

    history = kept_history()

    class Meta:
        indexes: ClassVar = [models.Index(fields=["site", "kind"])]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(kind__in=[k.value for k in FeatureKind]), name="feature_kind_is_known"),
        ]

    def __str__(self) -> str:
        return f"{self.kind} of site {self.site_id}"

    def seen(self, about: str = "") -> Seen:
        return Seen(
            FeatureKind(self.kind),
            self.condition,
            self.form,
            self.where,
            self.do_not_operate,
            self.use_instead,
            about,
        )

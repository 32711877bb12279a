"""What Review tells of a large base is reckoned once a night, and kept."""

from django.core.serializers.json import DjangoJSONEncoder
from django.db import models


class KeptFigures(models.Model):
    """What one of Review's questions was answered with. Derived: it can be thrown away and reckoned again."""

    question = models.CharField(max_length=20, primary_key=True)
    computed_at = models.DateTimeField()
    answer = models.JSONField(encoder=DjangoJSONEncoder)

    def __str__(self) -> str:
        return f"{self.question} of {self.computed_at:%Y-%m-%d}"

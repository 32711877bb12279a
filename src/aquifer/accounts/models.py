"""People who sign in."""

from django.contrib.auth.models import AbstractUser
from django.contrib.postgres.fields import ArrayField
from django.db import models


class Role(models.TextChoices):
    LEAD = "lead", "Lead"
    PLANNER = "planner", "Planner"
    TECHNICIAN = "technician", "Technician"
    APPRENTICE = "apprentice", "Apprentice"


class Licence(models.TextChoices):
    GAS = "gas", "Gas"
    ELECTRICAL = "electrical", "Electrical"
    PLUMBING = "plumbing", "Plumbing"


class User(AbstractUser):
    role = models.CharField(max_length=12, choices=Role.choices, default=Role.APPRENTICE)
    licences = ArrayField(models.CharField(max_length=12, choices=Licence.choices), default=list, blank=True)

    class Meta(AbstractUser.Meta):
        constraints = [
            models.CheckConstraint(condition=models.Q(role__in=Role.values), name="user_role_is_known"),
        ]

    @property
    def name(self) -> str:
        return self.get_full_name() or self.username

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


class Place(models.TextChoices):
    REGISTER = "register", "register"
    OUTLOOK = "outlook", "outlook"
    OPEN_ENDS = "open_ends", "open ends"


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


class SavedView(models.Model):
    """A sentence of a list, kept under a name; a shared one is everybody's."""

    owner = models.ForeignKey(User, on_delete=models.CASCADE, related_name="views")
    place = models.CharField(max_length=12, choices=Place.choices)
    name = models.CharField(max_length=60)
    query = models.CharField(max_length=500, blank=True, help_text="As in the address, without the question mark.")
    shared = models.BooleanField(default=False)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(fields=["owner", "place", "name"], name="saved_view_once"),
        ]

    def __str__(self) -> str:
        return self.name

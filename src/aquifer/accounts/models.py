"""People who sign in."""

import datetime
from typing import TYPE_CHECKING, Any

from django.contrib.auth.models import AbstractUser
from django.contrib.postgres.fields import ArrayField
from django.contrib.sessions.base_session import AbstractBaseSession
from django.db import models
from django.utils import timezone

from aquifer.choices import choices
from aquifer.core.vocabulary import Component
from aquifer.history.marks import kept_history

if TYPE_CHECKING:
    from aquifer.accounts.sessions import SessionStore


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

    licence_ends = models.JSONField(default=dict, blank=True, help_text="The last day of each license that ends.")
    password_set_at = models.DateTimeField(null=True, blank=True, editable=False)
    is_new = models.BooleanField(default=False, help_text="Works under supervision until signed off, of any role.")

    history = kept_history("password", "last_login")

    class Meta(AbstractUser.Meta):
        constraints = [
            models.CheckConstraint(condition=models.Q(role__in=Role.values), name="user_role_is_known"),
        ]

    @property
    def name(self) -> str:
        return self.get_full_name() or self.username

    def licences_on(self, day: datetime.date) -> list[str]:
        """The licenses held on a day: one that ends is held through its last day."""
        return [one for one in self.licences if day.isoformat() <= self.licence_ends.get(one, "9999")]

    @property
    def licences_held(self) -> list[str]:
        """Those held today."""
        return self.licences_on(timezone.localdate())

    def set_password(self, raw_password: str | None) -> None:
        """The password itself is in no history; that it was set is."""
        super().set_password(raw_password)
        self.password_set_at = timezone.now()

    def save(self, *args: Any, **named: Any) -> None:
        """Signing in is no change of the account."""
        if set(named.get("update_fields") or ()) == {"last_login"}:
            type(self).objects.filter(pk=self.pk).update(last_login=self.last_login)
            return
        super().save(*args, **named)


class SignOff(models.Model):
    """Somebody may do some work alone: who said so, and until when. It ends by its day or is taken back, and stays."""

    person = models.ForeignKey(User, on_delete=models.PROTECT, related_name="sign_offs")
    work = models.CharField(max_length=16, choices=choices(Component))
    by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    until = models.DateField(null=True, blank=True, help_text="The last day.")
    why = models.CharField(max_length=300, blank=True, help_text="Why before all that is asked for was done.")
    ended_at = models.DateTimeField(null=True, blank=True)
    ended_by = models.ForeignKey(User, null=True, blank=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-at"]
        constraints = [
            models.UniqueConstraint(
                fields=["person", "work"], condition=models.Q(ended_at=None), name="signed_off_once_at_a_time"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.person_id} {self.work}"


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


class Token(models.Model):
    """By which another program asks in somebody's name. Only its digest is kept."""

    owner = models.ForeignKey(User, on_delete=models.CASCADE, related_name="tokens")
    name = models.CharField(max_length=60, help_text="Which program has it.")
    begins = models.CharField(max_length=8, help_text="How it begins, to know it by.")
    digest = models.CharField(max_length=64, unique=True)
    may_write = models.BooleanField(default=False)
    expires_on = models.DateField()
    made_at = models.DateTimeField(auto_now_add=True)
    used_on = models.DateField(null=True)
    revoked_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-made_at"]

    def __str__(self) -> str:
        return self.name


class Passkey(models.Model):
    """A key on somebody's device that lets them in. Only its public half is here."""

    person = models.ForeignKey(User, on_delete=models.CASCADE, related_name="passkeys")
    name = models.CharField(max_length=60, help_text="What they call the device.")
    credential = models.CharField(max_length=1400, unique=True, help_text="By which the device knows it; base64url.")
    public_key = models.BinaryField()
    count = models.PositiveBigIntegerField(default=0, help_text="Of its uses, where the device counts: a copy is told.")
    made_at = models.DateTimeField(auto_now_add=True)
    used_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["made_at"]

    def __str__(self) -> str:
        return self.name


class Session(AbstractBaseSession):
    """Where somebody is signed in: since when, by what device and from where."""

    user = models.ForeignKey(User, null=True, on_delete=models.CASCADE, related_name="sessions")
    began = models.DateTimeField(null=True)
    seen = models.DateTimeField(null=True, help_text="To within some minutes.")
    agent = models.CharField(max_length=200, blank=True)
    address = models.CharField(max_length=45, blank=True)

    class Meta(AbstractBaseSession.Meta):
        abstract = False

    @classmethod
    def get_session_store_class(cls) -> "type[SessionStore]":
        """Whose rows these are."""
        from aquifer.accounts.sessions import SessionStore

        return SessionStore


class Deed(models.TextChoices):
    SIGNED_IN = "signed_in", "signed in"
    NOT_SIGNED_IN = "not_signed_in", "was not let in"
    SIGNED_OUT = "signed_out", "signed out"
    ENDED_SESSION = "ended_session", "ended a session"
    SET_PASSWORD = "set_password", "set a password"
    SET_SECOND_STEP = "set_second_step", "set up a second step"
    DROPPED_SECOND_STEP = "dropped_second_step", "dropped a second step"
    TOOK_OUT = "took_out", "took records out"
    MADE_TOKEN = "made_token", "made a token"
    FORGOT = "forgot", "had a customer forgotten"
    ADDED_PASSKEY = "added_passkey", "added a key in place of a password"
    DROPPED_PASSKEY = "dropped_passkey", "took away a key"


class Noted(models.Model):
    """What somebody did that no record's history shows; appended, never changed."""

    at = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="noted")
    name = models.CharField(max_length=80, blank=True, help_text="As they were called, or called themselves.")
    deed = models.CharField(max_length=20, choices=Deed.choices)
    about = models.CharField(max_length=160, blank=True)
    address = models.CharField(max_length=45, blank=True)

    class Meta:
        ordering = ["-pk"]
        indexes = [models.Index(fields=["deed", "at"])]

    def __str__(self) -> str:
        return f"{self.name} {self.get_deed_display()}"

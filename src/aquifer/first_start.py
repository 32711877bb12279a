"""An empty installation: the company and its first lead, before anybody can sign in."""

from typing import Any
from zoneinfo import available_timezones

from django import forms
from django.conf import settings
from django.contrib.auth.password_validation import validate_password
from django.core import signing
from django.core.exceptions import ValidationError
from django.db import connection, transaction
from django.utils.crypto import constant_time_compare, salted_hmac

from aquifer.accounts.models import Licence, Role, User
from aquifer.company.models import Clock, Company, WeekStart
from aquifer.core.units import HardnessUnit, System
from aquifer.money.models import MoneySettings
from aquifer.rounds.models import EQUIPMENT, CrewMember

WORKDAYS = [0, 1, 2, 3, 4]
_HARDNESS = [
    (HardnessUnit.GPG.value, "grains per gallon"),
    (HardnessUnit.MG_L.value, "mg/L or ppm"),
    (HardnessUnit.DH.value, "°dH"),
    (HardnessUnit.FH.value, "°fH"),
]
_LOCK = 7_340_021
"""Of the one act that makes the first lead; any number that no other lock has."""


def is_needed() -> bool:
    """Whether nobody can run this installation yet."""
    return not User.objects.filter(role=Role.LEAD, is_active=True).exists()


def key() -> str:
    """What is typed to show that whoever sets it up is whoever started the server."""
    return salted_hmac("aquifer.first-start", settings.SECRET_KEY).hexdigest()[:12]


def is_key(given: str) -> bool:
    """Whether it is the key, in constant time."""
    return constant_time_compare(given.strip().lower(), key())


class FirstStart(forms.Form):
    """What the company is and who leads it."""

    company = forms.CharField(max_length=120, label="Company")
    units = forms.ChoiceField(choices=[("us", "gallons, °F, psi"), ("metric", "litres, °C, kPa")], label="Units")
    hardness_unit = forms.ChoiceField(choices=_HARDNESS, label="Water hardness in")
    time_zone = forms.ChoiceField(label="Time zone")
    clock = forms.ChoiceField(choices=[("24", "15:30"), ("12", "3:30 pm")], required=False, label="Clock")
    week_start = forms.ChoiceField(
        choices=[(week_start.value, week_start.value.capitalize()) for week_start in WeekStart],
        required=False,
        label="Weeks begin on",
    )
    currency = forms.CharField(
        max_length=8, required=False, label="Currency", help_text="As it stands beside an amount."
    )
    yard = forms.CharField(max_length=160, required=False, label="Yard address")
    yard_at = forms.CharField(
        max_length=60, required=False, label="Yard on the map", help_text="Latitude, longitude: 44.112, -112.871",
    )  # fmt: skip
    first_name = forms.CharField(max_length=60, label="Your name")
    username = forms.CharField(max_length=60, label="Sign-in name")
    password = forms.CharField(max_length=200, widget=forms.PasswordInput(render_value=True), label="Password")
    goes_out = forms.BooleanField(required=False, initial=True, label="I go out to heaters myself")
    licences = forms.MultipleChoiceField(
        choices=Licence.choices, required=False, widget=forms.CheckboxSelectMultiple, label="Licenses that I hold"
    )
    equipment = forms.MultipleChoiceField(
        choices=[(one, one) for one in EQUIPMENT], required=False, widget=forms.CheckboxSelectMultiple,
        label="On my truck",
    )  # fmt: skip

    def __init__(self, *args: Any, **named: Any) -> None:
        super().__init__(*args, **named)
        zones = sorted(one for one in available_timezones() if "/" in one and not one.startswith(("Etc/", "posix/")))
        field = self.fields["time_zone"]
        assert isinstance(field, forms.ChoiceField)
        field.choices = [("UTC", "UTC"), *((one, one.replace("_", " ")) for one in zones)]
        field.initial = settings.TIME_ZONE

    def clean_username(self) -> str:
        """A name that nobody has."""
        name: str = self.cleaned_data["username"].strip()
        if User.objects.filter(username__iexact=name).exists():
            raise ValidationError("Somebody has this name already.")
        return name

    def clean_yard_at(self) -> tuple[float, float] | None:
        """Longitude and latitude."""
        said = self.cleaned_data["yard_at"].strip()
        if not said:
            return None
        parts = [part for part in said.replace(";", ",").replace(" ", ",").split(",") if part]
        try:
            latitude, longitude = (float(part) for part in parts)
        except ValueError:
            raise ValidationError("Write it as latitude, longitude: 44.112, -112.871.") from None
        if not (-90 <= latitude <= 90 and -180 <= longitude <= 180):
            raise ValidationError("A latitude lies between -90 and 90, a longitude between -180 and 180.")
        return longitude, latitude

    def clean(self) -> dict[str, Any]:
        """The password is judged against the name."""
        told: dict[str, Any] = super().clean() or {}
        if told.get("password") and told.get("username"):
            somebody = User(username=told["username"], first_name=told.get("first_name", ""))
            try:
                validate_password(told["password"], somebody)
            except ValidationError as error:
                self.add_error("password", error)
        return told


def begin(told: dict[str, Any]) -> User:
    """Make the company and its first lead. Raises: signing.BadSignature if there is a lead by now."""
    with transaction.atomic():
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_xact_lock(%s)", [_LOCK])
        if not is_needed():
            raise signing.BadSignature("There is a lead already.")
        company = Company.current()
        company.name, company.units = told["company"], System(told["units"])
        company.hardness_unit, company.time_zone = told["hardness_unit"], told["time_zone"]
        company.clock = told["clock"] or Clock.TWENTY_FOUR
        company.week_start = told["week_start"] or WeekStart.MONDAY
        company.yard, at = told["yard"], told["yard_at"]
        company.yard_longitude, company.yard_latitude = at or (None, None)
        company.save()
        if told["currency"]:
            MoneySettings.objects.update_or_create(pk=1, defaults={"currency": told["currency"]})
        lead = User(username=told["username"], first_name=told["first_name"], role=Role.LEAD)
        lead.licences = told["licences"]
        lead.set_password(told["password"])
        lead.save()
        if told["goes_out"]:
            place = told["yard"][:80] or "the yard"
            CrewMember.objects.create(user=lead, weekdays=WORKDAYS, place=place, equipment=told["equipment"])
    return lead

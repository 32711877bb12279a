"""A second step at signing in: a code that changes every half minute, by RFC 6238, or one of ten kept on paper.

The codes are made and checked by django-otp, which also slows down whoever guesses.
"""

import io

import segno
from django.db import transaction
from django_otp import match_token
from django_otp.plugins.otp_static.models import StaticDevice, StaticToken
from django_otp.plugins.otp_totp.models import TOTPDevice

from aquifer.accounts.models import User
from aquifer.company.models import Company
from aquifer.errors import Conflict, Invalid

CODES = 10
"""For the day on which the telephone is lost. Assumption."""


def is_on(person: User) -> bool:
    """Whether somebody's password alone lets nobody in."""
    return bool(TOTPDevice.objects.filter(user=person, confirmed=True).exists())


def with_one() -> set[int]:
    """Whose password alone lets nobody in, by their ids; one query."""
    return set(TOTPDevice.objects.filter(confirmed=True).values_list("user_id", flat=True))


def is_asked(person: User) -> bool:
    """Whether the company lets nobody of their role in by a password alone."""
    return person.role in roles_asked()


def roles_asked() -> frozenset[str]:
    """Of whom it is asked."""
    return frozenset(Company.current().second_step_roles)


def begin(person: User) -> tuple[str, str]:
    """A new secret for somebody's telephone, not in force until a code of it was typed: its address, and that as a
    picture to be scanned, SVG. Raises: Conflict where one is in force."""
    if is_on(person):
        raise Conflict("A second step is set up already: drop it first.", "second_step.is_on")
    with transaction.atomic():
        TOTPDevice.objects.filter(user=person, confirmed=False).delete()
        device = TOTPDevice.objects.create(user=person, name="telephone", confirmed=False)
    return _shown(device)


def begun(person: User) -> tuple[str, str]:
    """What was begun last, once more, so that a wrong code costs no second scan. Raises: Conflict as ``begin``."""
    device = TOTPDevice.objects.filter(user=person, confirmed=False).first()
    return begin(person) if device is None else _shown(device)


def _shown(device: TOTPDevice) -> tuple[str, str]:
    drawn = io.BytesIO()
    segno.make(device.config_url, error="m", micro=False).save(drawn, kind="svg", scale=5, border=3, xmldecl=False)
    return device.config_url, drawn.getvalue().decode()


def confirm(person: User, code: str) -> list[str]:
    """Take it into force, if the telephone shows the right code; returns the codes for when it is lost.

    Raises: Conflict where none was begun, Invalid for another code.
    """
    with transaction.atomic():
        device = TOTPDevice.objects.select_for_update().filter(user=person, confirmed=False).first()
        if device is None:
            raise Conflict("Nothing is being set up: begin again.", "second_step.not_begun")
        right = device.verify_token(_plain(code))
        if right:
            device.confirmed = True
            device.save()
            codes = _written(person)
    # Outside of it, so that the guess is counted.
    if not right:
        raise Invalid(_WRONG, "second_step.wrong", {"code": _WRONG})
    return codes


def new_codes(person: User) -> list[str]:
    """Ten others on paper; those before are good no more. Raises: Conflict where no second step is set up."""
    if not is_on(person):
        raise Conflict("No second step is set up.", "second_step.is_off")
    with transaction.atomic():
        return _written(person)


def _written(person: User) -> list[str]:
    StaticDevice.objects.filter(user=person).delete()
    paper = StaticDevice.objects.create(user=person, name="paper")
    codes = [StaticToken.random_token() for _ in range(CODES)]
    StaticToken.objects.bulk_create([StaticToken(device=paper, token=one) for one in codes])
    return codes


_WRONG = "That is not the code that the telephone shows now."


def is_right(person: User, code: str) -> bool:
    """Whether a code lets somebody in; one of those on paper does so once."""
    return match_token(person, _plain(code)) is not None


def drop(person: User) -> None:
    """The password alone lets them in again."""
    TOTPDevice.objects.filter(user=person).delete()
    StaticDevice.objects.filter(user=person).delete()


def codes_left(person: User) -> int:
    """Codes on paper that were not used yet."""
    return int(StaticToken.objects.filter(device__user=person).count())


def _plain(code: str) -> str:
    return code.replace(" ", "").strip().lower()

"""Passwords are set by who they are of: by a link that is good once and for a day, or with the one they have."""

from django.conf import settings
from django.contrib.auth.password_validation import validate_password
from django.contrib.auth.tokens import default_token_generator
from django.core.exceptions import ValidationError
from django.utils.encoding import force_bytes
from django.utils.http import urlsafe_base64_decode, urlsafe_base64_encode

from aquifer.accounts.models import User
from aquifer.errors import Invalid
from aquifer.outbox.links import public_address


def path(user: User) -> str:
    """Where somebody sets a password of their own; good until they did, or for a day."""
    return f"/set-password/{urlsafe_base64_encode(force_bytes(user.pk))}/{default_token_generator.make_token(user)}"


def address(user: User) -> str:
    """The same with the server in front, to be sent."""
    return public_address() + path(user)


def opened(of: str, token: str) -> User | None:
    """Whose link it is; None if it is of nobody, used, or old."""
    try:
        pk = int(urlsafe_base64_decode(of).decode())
    except (ValueError, OverflowError):
        return None
    user = User.objects.filter(pk=pk, is_active=True).first() if 0 < pk < 2**62 else None
    return user if user is not None and default_token_generator.check_token(user, token) else None


def put(user: User, password: str, field: str = "new") -> None:
    """Set a password. Raises: Invalid saying what is wrong with it."""
    try:
        validate_password(password, user)
    except ValidationError as error:
        said = " ".join(error.messages)
        raise Invalid(said, "password.weak", {field: said}) from None
    user.set_password(password)
    user.save()


def hours_good() -> int:
    """For how long a link is good."""
    return int(settings.PASSWORD_RESET_TIMEOUT // 3600)

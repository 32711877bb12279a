"""Links by which a customer answers: signed, for one message, and only for a time."""

import datetime
import re
import uuid

from django.conf import settings
from django.core import signing

from aquifer.company.models import Company
from aquifer.errors import AquiferError
from aquifer.outbox.models import Message

GOOD_FOR = datetime.timedelta(days=21)
_SALT = "aquifer.outbox.answer"
_ADDRESS = re.compile(r"https?://\S+/answer/\S+")


class NoSuchLink(AquiferError):
    """Forged, cut short, or of another installation."""

    status, code = 404, "link.unknown"


class LinkExpired(AquiferError):
    """It was good once."""

    status, code = 410, "link.expired"


def token(message: Message) -> str:
    """What stands in the address; it names the message by its random key and nothing of the customer."""
    return signing.dumps(str(message.key), salt=_SALT, compress=False)


def address(message: Message) -> str:
    """The whole address."""
    return f"{public_address()}/answer/{token(message)}"


def public_address() -> str:
    """Where customers reach this installation: as the company says, else as the server's settings do."""
    return (Company.current().public_address or settings.PUBLIC_ADDRESS).rstrip("/")


def hidden(text: str) -> str:
    """A message's words without the link that answers in the customer's name."""
    return _ADDRESS.sub("(the customer's own link)", text)


def opened(text: str) -> Message:
    """The message that a link is of. Raises: NoSuchLink, LinkExpired."""
    try:
        key = uuid.UUID(signing.loads(text, salt=_SALT, max_age=GOOD_FOR))
    except signing.SignatureExpired:
        raise LinkExpired("This link is no longer good. Please call us.") from None
    except (signing.BadSignature, ValueError):
        raise NoSuchLink("There is no such link. Please use the one in our message, whole.") from None
    message = Message.objects.select_related("appointment__site__customer", "customer").filter(key=key).first()
    if message is None:
        raise NoSuchLink("There is no such link. Please use the one in our message, whole.")
    return message

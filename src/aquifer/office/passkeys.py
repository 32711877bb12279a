"""Keys in place of a password: they lie on a telephone or a stick, open by finger, face or PIN, and no page of anybody
else's can ask for them.

Source: W3C Web Authentication, level 2. What is sent is checked by a well-kept package.
"""

import ipaddress
import json
import time

from django.conf import settings
from django.db import transaction
from django.http import HttpRequest
from django.utils import timezone
from webauthn import (
    generate_authentication_options,
    generate_registration_options,
    verify_authentication_response,
    verify_registration_response,
)
from webauthn.helpers import base64url_to_bytes, bytes_to_base64url, options_to_json_dict
from webauthn.helpers.exceptions import WebAuthnException
from webauthn.helpers.structs import (
    AuthenticatorSelectionCriteria,
    PublicKeyCredentialDescriptor,
    ResidentKeyRequirement,
    UserVerificationRequirement,
)

from aquifer.accounts.models import Passkey, User
from aquifer.errors import Conflict, Invalid

GOOD_S = 300
"""So long what was asked may be answered. Assumption."""
MOST = 10
"""Keys of one person. Assumption."""
_ASKED = "passkey_asked"
Options = dict[str, object]


def site_of(request: HttpRequest) -> str:
    """For which site a key is made: the name that is asked for. Empty where that is an address: none can be then."""
    host = request.get_host().rpartition(":")[0] or request.get_host()
    try:
        ipaddress.ip_address(host.strip("[]"))
    except ValueError:
        return host
    return ""


def begin_adding(request: HttpRequest, person: User) -> Options:
    """What a browser makes a key from. Raises: Conflict where there can be none, or are too many."""
    site = site_of(request)
    if not site:
        raise Conflict("A key is for a name, not for an address: open Aquifer by its name.", "passkey.no_name")
    keys = list(person.passkeys.all())
    if len(keys) >= MOST:
        raise Conflict(f"{MOST} keys are enough: take one away first.", "passkey.too_many")
    options = generate_registration_options(
        rp_id=site,
        rp_name="Aquifer",
        user_id=str(person.pk).encode(),
        user_name=person.username,
        user_display_name=person.name,
        exclude_credentials=[PublicKeyCredentialDescriptor(id=base64url_to_bytes(one.credential)) for one in keys],
        authenticator_selection=AuthenticatorSelectionCriteria(
            resident_key=ResidentKeyRequirement.REQUIRED, user_verification=UserVerificationRequirement.REQUIRED
        ),
    )
    return _asked(request, options.challenge, options_to_json_dict(options))


def add(request: HttpRequest, person: User, name: str, credential: Options) -> Passkey:
    """Keep a key that a browser made. Raises: Invalid."""
    try:
        verified = verify_registration_response(
            credential=credential, expected_challenge=_challenge(request), expected_rp_id=site_of(request),
            expected_origin=_origin(request), require_user_verification=True,
        )  # fmt: skip
    except (WebAuthnException, ValueError, KeyError, TypeError) as error:
        raise Invalid(f"That is no key of this device for this page ({error}).", "passkey.wrong") from None
    made, is_new = Passkey.objects.get_or_create(
        credential=bytes_to_base64url(verified.credential_id),
        defaults={
            "person": person, "name": name, "public_key": verified.credential_public_key,
            "count": verified.sign_count,
        },
    )  # fmt: skip
    if not is_new:
        raise Invalid("That key is known already.", "passkey.known")
    return made


def begin_sign_in(request: HttpRequest) -> Options:
    """What a browser answers with a key of its choice."""
    options = generate_authentication_options(
        rp_id=site_of(request), user_verification=UserVerificationRequirement.REQUIRED
    )
    return _asked(request, options.challenge, options_to_json_dict(options))


def whose(request: HttpRequest, answered: str) -> User | None:
    """Whom a key lets in; None for what is no right answer, or of somebody who may not."""
    try:
        credential = json.loads(answered)
        challenge, of = _challenge(request), str(credential["id"])
        with transaction.atomic():
            keys = Passkey.objects.select_for_update(of=("self",)).select_related("person")
            key = keys.filter(credential=of, person__is_active=True).first()
            if key is None:
                return None
            verified = verify_authentication_response(
                credential=credential, expected_challenge=challenge, expected_rp_id=site_of(request),
                expected_origin=_origin(request), credential_public_key=bytes(key.public_key),
                credential_current_sign_count=key.count, require_user_verification=True,
            )  # fmt: skip
            key.count, key.used_at = verified.new_sign_count, timezone.now()
            key.save(update_fields=["count", "used_at"])
    except (WebAuthnException, ValueError, KeyError, TypeError):
        return None
    return key.person


def _asked(request: HttpRequest, challenge: bytes, options: Options) -> Options:
    request.session[_ASKED] = [bytes_to_base64url(challenge), time.time()]
    return options


def _challenge(request: HttpRequest) -> bytes:
    """What was asked in this session: good once, and for some minutes. Raises: ValueError."""
    said, at = request.session.pop(_ASKED, ("", 0.0))
    if time.time() - at > GOOD_S:
        raise ValueError("nothing was asked, or long ago")
    return base64url_to_bytes(said)


def _origin(request: HttpRequest) -> str:
    return f"{'https' if settings.SECURE or request.is_secure() else 'http'}://{request.get_host()}"

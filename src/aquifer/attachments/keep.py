"""Taking in a file: looked into, made anew without what it should not carry, and stored."""

import datetime
import hashlib
import io
import uuid
import warnings
from dataclasses import dataclass

from django.db import IntegrityError, transaction
from PIL import Image, ImageOps, UnidentifiedImageError

from aquifer.accounts.models import User
from aquifer.attachments.models import Attachment, AttachmentKind
from aquifer.errors import Invalid, TooLarge
from aquifer.files import keep_whole

MOST_BYTES = 16 * 1024 * 1024
MOST_PIXELS = 50_000_000
"""Of a picture as sent: what the largest usual telephone cameras take. Assumption."""
LONGEST_SIDE, SMALL_SIDE = 2048, 360
"""Of a picture as kept and of its small copy, pixels: enough to read a rating plate. Assumption."""
_FORMATS = ("JPEG", "PNG", "WEBP")
_TAKEN = 0x9003
"""DateTimeOriginal. Source: Exif 2.32, tag 36867."""


@dataclass(frozen=True)
class Picture:
    """A photograph made anew: JPEG, upright, without what the camera wrote into it."""

    jpeg: bytes
    small: bytes
    width: int
    height: int
    taken_on: datetime.date | None


def add(
    site_id: int,
    heater_id: int | None,
    caption: str,
    data: bytes,
    by: User,
    client_id: uuid.UUID | None = None,
    visit_client_id: uuid.UUID | None = None,
    piece: str = "",
) -> Attachment:
    """Keep a photograph or a document, at a visit or not. Parameters: piece, which of the heater it shows.

    Raises: TooLarge, Invalid for what is neither.
    """
    if len(data) > MOST_BYTES:
        raise TooLarge(f"The file has {len(data) / 1e6:.0f} MB; at most {MOST_BYTES / 1e6:.0f} MB are kept.")
    made = Attachment(
        site_id=site_id, heater_id=heater_id, caption=caption, added_by=by, client_id=client_id,
        visit_client_id=visit_client_id, piece=piece,
    )  # fmt: skip
    if data[:1024].lstrip().startswith(b"%PDF-"):
        if b"%%EOF" not in data[-2048:]:
            raise Invalid("The document breaks off: it is no whole PDF.", "attachment.broken", {"file": "broken"})
        made.kind, stored = AttachmentKind.DOCUMENT, data
    else:
        picture = photograph(data)
        made.kind, stored = AttachmentKind.PHOTOGRAPH, picture.jpeg
        made.width, made.height, made.taken_on = picture.width, picture.height, picture.taken_on
    made.digest, made.bytes = hashlib.sha256(stored).hexdigest(), len(stored)
    keep_whole(made.path, stored)
    if made.kind == AttachmentKind.PHOTOGRAPH:
        keep_whole(made.small_path, picture.small)
    try:
        with transaction.atomic():
            made.save()
    except IntegrityError:
        # A phone that was cut off sent it again before this was through: it is there.
        known = Attachment.objects.filter(client_id=client_id).first() if client_id is not None else None
        if known is None:
            raise
        return known
    return made


def photograph(data: bytes) -> Picture:
    """A picture file as it is kept. Raises: Invalid for what is no picture or a monstrous one."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            image = Image.open(io.BytesIO(data), formats=_FORMATS)
            if image.width * image.height > MOST_PIXELS:
                raise Invalid(
                    f"The picture has {image.width} x {image.height} pixels; at most {MOST_PIXELS / 1e6:.0f} million "
                    "are read.",
                    "attachment.too_many_pixels",
                    {"file": "too many pixels"},
                )
            image.draft("RGB", (LONGEST_SIDE, LONGEST_SIDE))
            taken_on = _taken(image)
            upright = ImageOps.exif_transpose(image).convert("RGB")
    except (Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise Invalid("The picture has more pixels than are read.", "attachment.too_many_pixels") from None
    except UnidentifiedImageError:
        raise Invalid(
            "This is no photograph or document that can be kept; allowed: JPEG, PNG, WebP, PDF.",
            "attachment.unknown",
            {"file": "not a picture"},
        ) from None
    except (OSError, SyntaxError, ValueError, EOFError, TypeError, KeyError) as error:
        raise Invalid(f"The picture is broken ({type(error).__name__}).", "attachment.broken", {"file": "?"}) from None
    upright.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    small = upright.copy()
    small.thumbnail((SMALL_SIDE, SMALL_SIDE))
    return Picture(_jpeg(upright, 84), _jpeg(small, 76), upright.width, upright.height, taken_on)


def _jpeg(image: Image.Image, quality: int) -> bytes:
    out = io.BytesIO()
    image.save(out, "JPEG", quality=quality, optimize=True)
    return out.getvalue()


def _taken(image: Image.Image) -> datetime.date | None:
    said: object = image.getexif().get_ifd(0x8769).get(_TAKEN)
    try:
        return datetime.datetime.strptime(str(said)[:10], "%Y:%m:%d").date()
    except ValueError:
        return None

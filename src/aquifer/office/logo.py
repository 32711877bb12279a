"""The company's logo: made anew from what is sent, so that a file of somebody else's is never handed on."""

import hashlib
import io
import warnings
from typing import IO

from django.core.files.storage import default_storage
from PIL import Image, UnidentifiedImageError

from aquifer.company.models import Company
from aquifer.errors import Invalid
from aquifer.files import keep_whole

MOST_BYTES = 5_000_000
MOST_PIXELS = 25_000_000
WIDTH, HEIGHT = 600, 200
"""Pixels at most: three times what a report prints. Assumption."""


def keep(data: bytes) -> str:
    """The path of a picture that is kept as a logo, on white. Raises: Invalid for what is no picture."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            image = Image.open(io.BytesIO(data), formats=("PNG", "JPEG", "WEBP"))
            if image.width * image.height > MOST_PIXELS:
                raise Invalid("The picture has more pixels than are read.", "settings.logo_too_large", {"file": "?"})
            drawn = image.convert("RGBA")
    except UnidentifiedImageError:
        said = "This is no picture that can be a logo; allowed: PNG, JPEG, WebP."
        raise Invalid(said, "settings.no_picture", {"file": "not a picture"}) from None
    except (OSError, SyntaxError, ValueError, Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise Invalid("The picture is broken.", "settings.broken_picture", {"file": "broken"}) from None
    drawn.thumbnail((WIDTH, HEIGHT))
    white = Image.new("RGB", drawn.size, "white")
    white.paste(drawn, mask=drawn.getchannel("A"))
    out = io.BytesIO()
    white.save(out, "PNG", optimize=True)
    path = f"logo/{hashlib.sha256(out.getvalue()).hexdigest()}.png"
    keep_whole(path, out.getvalue())
    return path


def address(ours: Company) -> str:
    """Where the logo is read, by anybody; another picture has another address. Empty without one."""
    return f"/logo.png?of={ours.logo[5:13]}" if ours.logo else ""


def opened(path: str) -> IO[bytes] | None:
    """The file of a logo; None if there is none."""
    return default_storage.open(path) if path and default_storage.exists(path) else None

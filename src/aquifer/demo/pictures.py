"""Photographs for the demo district: rating plates as a camera in a cellar would see them, drawn."""

import io

import numpy as np
from PIL import Image, ImageDraw, ImageFilter, ImageFont

from aquifer.heaters.models import Heater

_JACKETS = ((222, 224, 220), (201, 205, 206), (232, 226, 212), (188, 192, 190))


def rating_plate(heater: Heater, number: int) -> bytes:
    """A JPEG of a heater's rating plate on its jacket, a little askew and grainy."""
    random = np.random.default_rng(number)
    width, height = 1200, 900
    image = Image.new("RGB", (width, height), _JACKETS[number % len(_JACKETS)])
    draw = ImageDraw.Draw(image)
    draw.rounded_rectangle((210, 170, 990, 730), 18, fill=(176, 178, 176), outline=(90, 92, 92), width=5)
    for x, y in ((240, 200), (960, 200), (240, 700), (960, 700)):
        draw.ellipse((x - 11, y - 11, x + 11, y + 11), fill=(120, 120, 118))
    said = [
        (heater.maker or "no maker", 74),
        (f"MODEL  {heater.model or '-'}", 46),
        (f"SERIAL {heater.serial or '-'}", 46),
        (f"{heater.capacity_l or 0:g} L   {heater.input_kw or 0:g} kW   1000 kPa", 46),
        (heater.kind.replace("_", " ").upper(), 38),
    ]
    y = 215
    for text, size in said:
        draw.text((290, y), text, fill=(30, 32, 34), font=ImageFont.load_default(size))
        y += round(1.55 * size)
    turned = image.rotate(float(random.uniform(-5, 5)), resample=Image.Resampling.BICUBIC, fillcolor=(70, 66, 60))
    pixels = np.asarray(turned.filter(ImageFilter.GaussianBlur(1.1)), float)
    light = np.linspace(1.08, 0.62, width)[None, :, None] * np.linspace(1.0, 0.8, height)[:, None, None]
    grainy = pixels * light + random.normal(0, 5, pixels.shape)
    out = io.BytesIO()
    Image.fromarray(np.clip(grainy, 0, 255).astype("uint8")).save(out, "JPEG", quality=80)
    return out.getvalue()

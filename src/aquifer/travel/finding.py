"""Where an address is: the interface of a look-up service, and the one in use."""

import hashlib
import json
from dataclasses import dataclass
from typing import Protocol
from urllib.parse import urlencode
from urllib.request import urlopen

from aquifer import environment
from aquifer.travel.service import Point

MOST_FOUND = 5
SECONDS = 10.0


@dataclass(frozen=True)
class Address:
    """As it is on record; what is not known is empty."""

    street: str = ""
    town: str = ""
    state: str = ""
    postcode: str = ""


@dataclass(frozen=True)
class Found:
    """A place that an address may be."""

    at: Point
    words: str


class NotAnswered(Exception):
    """The service does not answer, or not as it should; the message says which."""


class AddressFinder(Protocol):
    """What a look-up service answers."""

    def find(self, address: Address) -> list[Found]:
        """Places that it may be, the likeliest first. Raises: NotAnswered."""


class ServerFinder:
    """A geocoding server on the company's own machine, asked as the common open-source ones are: a structured
    ``/search`` that answers a JSON list with ``lat``, ``lon`` and ``display_name``."""

    def __init__(self, address: str) -> None:
        self._address = address.rstrip("/")

    def find(self, address: Address) -> list[Found]:
        told = {
            "street": address.street, "city": address.town, "state": address.state, "postalcode": address.postcode,
        }  # fmt: skip
        asked = urlencode({name: value for name, value in told.items() if value})
        try:
            with urlopen(f"{self._address}/search?format=jsonv2&limit={MOST_FOUND}&{asked}", timeout=SECONDS) as answer:  # noqa: S310
                rows = json.load(answer)
            return [Found(_point(row["lon"], row["lat"]), str(row["display_name"])[:200]) for row in rows[:MOST_FOUND]]
        except (OSError, ValueError, KeyError, TypeError) as error:
            raise NotAnswered(
                f"The look-up of addresses does not answer as it should ({type(error).__name__})."
            ) from None


class SimulatedFinder:
    """A stand-in for the demo: every address is somewhere in the district, and always at the same place."""

    def __init__(self, middle: Point) -> None:
        self._middle = middle

    def find(self, address: Address) -> list[Found]:
        words = ", ".join(part for part in (address.street, address.town) if part)
        if not address.street:
            return []
        drawn = hashlib.sha256(words.lower().encode()).digest()
        across, up = (one / 255 - 0.5 for one in drawn[:2])
        at = Point(round(self._middle.longitude + SPREAD * across, 5), round(self._middle.latitude + SPREAD * up, 5))
        return [Found(at, f"{words} (simulated)")]


SPREAD = 0.15
"""Degrees across the demo's district. Assumption."""


def finder(middle: Point | None = None) -> AddressFinder | None:
    """The look-up in use: the company's server, the demo's stand-in around this point, or none."""
    told = environment.read()
    if told.geocoder:
        return ServerFinder(told.geocoder)
    return SimulatedFinder(middle) if middle is not None and told.demo else None


def _point(longitude: object, latitude: object) -> Point:
    point = Point(float(str(longitude)), float(str(latitude)))
    if not (-180 <= point.longitude <= 180 and -90 <= point.latitude <= 90):
        raise ValueError("no place on the earth")
    return point

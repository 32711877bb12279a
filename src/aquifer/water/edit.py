"""Changing what is on record of a zone."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from aquifer.core.vocabulary import Practice, Supply
from aquifer.errors import Invalid
from aquifer.formats.said import plainly
from aquifer.water import places
from aquifer.water.models import Season, Zone


@dataclass(frozen=True)
class NewSeason:
    """With what a zone's water is mixed, and when."""

    name: str
    other_id: int
    share_of_year: float
    other_share: float


@dataclass(frozen=True)
class NewZone:
    """What is said of a zone."""

    name: str
    note: str
    supply: Supply
    practice: Practice | None
    seasons: Sequence[NewSeason]
    places: Sequence[str]


def add_zone(said: NewZone) -> Zone:
    """A new zone under a code made of its name. Raises: Invalid as ``change_zone``."""
    base = re.sub(r"[\W_]+", "-", plainly(said.name)).strip("-")[:32] or "zone"
    taken = set(Zone.objects.filter(code__startswith=base).values_list("code", flat=True))
    code = next(one for one in (base, *(f"{base}-{n}" for n in range(2, 10_000))) if one not in taken)
    zone = Zone(code=code)
    change_zone(zone, said)
    return zone


def change_zone(zone: Zone, said: NewZone) -> None:
    """Set a zone's own fields, what it supplies and its seasons. Raises: Invalid naming the season or the place that
    cannot be."""
    _check(zone, said.seasons)
    zone.name, zone.note, zone.supply, zone.practice = said.name, said.note, said.supply, said.practice or ""
    places.set_places(zone, said.places)
    zone.save()
    kept = {season.name: season for season in Season.objects.filter(zone=zone)}
    for one in said.seasons:
        season = kept.pop(one.name, None) or Season(zone=zone, name=one.name)
        season.other_id, season.share_of_year, season.other_share = one.other_id, one.share_of_year, one.other_share
        season.save()
    for season in kept.values():
        season.delete()


def _check(zone: Zone, seasons: Sequence[NewSeason]) -> None:
    wrong: dict[str, str] = {}
    there = set(Zone.objects.filter(pk__in={season.other_id for season in seasons}).values_list("pk", flat=True))
    for at, season in enumerate(seasons):
        if season.other_id == zone.pk:
            wrong[f"seasons.{at}.other_id"] = "a water is not mixed with itself"
        elif season.other_id not in there:
            wrong[f"seasons.{at}.other_id"] = "no such zone"
        if any(other.name.lower() == season.name.lower() for other in seasons[:at]):
            wrong[f"seasons.{at}.name"] = f"{season.name} stands twice"
    if sum(season.share_of_year for season in seasons) > 1 + 1e-9:
        wrong["seasons"] = "together they last more than a year"
    if wrong:
        raise Invalid("Not kept. " + "; ".join(wrong.values()), "zone.invalid", wrong)

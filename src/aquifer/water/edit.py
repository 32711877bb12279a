"""Changing what is on record of a zone."""

import re
from typing import Any

from aquifer.errors import Invalid
from aquifer.formats.said import plainly
from aquifer.water import places
from aquifer.water.models import Season, Zone


def add_zone(said: dict[str, Any]) -> Zone:
    """A new zone under a code made of its name. Raises: Invalid as ``change_zone``."""
    base = re.sub(r"[\W_]+", "-", plainly(said["name"])).strip("-")[:32] or "zone"
    taken = set(Zone.objects.filter(code__startswith=base).values_list("code", flat=True))
    code = next(one for one in (base, *(f"{base}-{n}" for n in range(2, 10_000))) if one not in taken)
    zone = Zone(code=code)
    change_zone(zone, said)
    return zone


def change_zone(zone: Zone, said: dict[str, Any]) -> None:
    """Set a zone's own fields, what it supplies and its seasons. Raises: Invalid naming the season or the place that
    cannot be."""
    seasons: list[dict[str, Any]] = said["seasons"]
    _check(zone, seasons)
    for name in ("name", "note", "supply"):
        setattr(zone, name, said[name])
    zone.practice = said["practice"] or ""
    places.set_places(zone, said["places"])
    zone.save()
    kept = {season.name: season for season in Season.objects.filter(zone=zone)}
    for one in seasons:
        season = kept.pop(one["name"], None) or Season(zone=zone, name=one["name"])
        for name in ("other_id", "share_of_year", "other_share"):
            setattr(season, name, one[name])
        season.save()
    for season in kept.values():
        season.delete()


def _check(zone: Zone, seasons: list[dict[str, Any]]) -> None:
    wrong: dict[str, str] = {}
    there = set(Zone.objects.filter(pk__in={one["other_id"] for one in seasons}).values_list("pk", flat=True))
    for at, one in enumerate(seasons):
        if one["other_id"] == zone.pk:
            wrong[f"seasons.{at}.other_id"] = "a water is not mixed with itself"
        elif one["other_id"] not in there:
            wrong[f"seasons.{at}.other_id"] = "no such zone"
        if any(other["name"].lower() == one["name"].lower() for other in seasons[:at]):
            wrong[f"seasons.{at}.name"] = f"{one['name']} stands twice"
    if sum(one["share_of_year"] for one in seasons) > 1 + 1e-9:
        wrong["seasons"] = "together they last more than a year"
    if wrong:
        raise Invalid("Not kept. " + "; ".join(wrong.values()), "zone.invalid", wrong)

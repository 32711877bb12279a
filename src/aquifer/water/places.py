"""Which towns and postcodes a zone supplies: sites of those belong to it, those that come later as well."""

from collections.abc import Iterable

from aquifer.accounts.models import User
from aquifer.customers.models import Site
from aquifer.errors import Invalid
from aquifer.formats.said import plainly
from aquifer.history import in_bulk
from aquifer.water.models import Zone


def supplied() -> dict[str, int]:
    """The zone of each town or postcode that one was said to supply; names without capitals and accents."""
    zones = Zone.objects.exclude(places=[]).order_by("pk").values_list("pk", "places")
    return {plainly(place): pk for pk, places in zones for place in places}


def zone_of(town: str, postcode: str, of: dict[str, int]) -> int | None:
    """The zone that supplies a postcode, else a town; None where nobody said."""
    return of.get(plainly(postcode)) or of.get(plainly(town))


def set_places(zone: Zone, places: Iterable[str]) -> None:
    """Say which towns and postcodes a zone supplies. Raises: Invalid naming one that another zone has."""
    wanted = {plainly(place): place.strip() for place in places if place.strip()}
    others = {place: pk for place, pk in supplied().items() if pk != zone.pk}
    for plain, place in wanted.items():
        if plain in others:
            name = Zone.objects.get(pk=others[plain]).name
            said = f"{place} belongs to {name} already: take it out there first."
            raise Invalid(said, "zone.place_taken", {"places": said})
    zone.places = list(wanted.values())


def gather(zone: Zone, by: User) -> set[int]:
    """Take the sites of a zone's towns and postcodes into it; returns the zones that they were of."""
    own = {plainly(place) for place in zone.places}
    others = Site.objects.filter(archived_at__isnull=True).exclude(zone=zone) if own else Site.objects.none()
    found = [
        (pk, before)
        for pk, before, town, postcode in others.values_list("pk", "zone_id", "town", "postcode")
        if plainly(postcode) in own or (plainly(town) in own)
    ]
    moved = [pk for pk, _ in found]
    Site.objects.filter(pk__in=moved).update(zone=zone)
    if moved:
        in_bulk.keep(Site, moved, in_bulk.CHANGED, by)
    return {before for _, before in found}

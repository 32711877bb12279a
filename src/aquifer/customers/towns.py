"""Where towns and postcodes are, from a file that the company gives: near enough to plan by until a site is located."""

from aquifer.customers.models import Site, Town
from aquifer.formats.said import plainly


class Towns:
    """The places that are known, by postcode and by name."""

    def __init__(self) -> None:
        self._by_postcode: dict[str, Town] = {}
        self._by_name: dict[str, Town] = {}
        for town in Town.objects.all():
            if town.postcode:
                self._by_postcode[town.postcode] = town
            self._by_name.setdefault(plainly(town.name), town)

    def place(self, town: str, postcode: str) -> dict[str, object]:
        """Fields of a site that put it into the middle of its postcode or town; none where neither is known."""
        found = self._by_postcode.get(postcode) or self._by_name.get(plainly(town))
        if found is None:
            return {}
        return {"longitude": found.longitude, "latitude": found.latitude, "located_by": "town"}


def locate() -> int:
    """Put every site that nobody has located into the middle of its postcode or town. Returns how many."""
    towns, moved = Towns(), []
    for site in Site.objects.filter(longitude__isnull=True, archived_at__isnull=True):
        for name, value in towns.place(site.town, site.postcode).items():
            setattr(site, name, value)
        if site.located_by:
            moved.append(site)
    Site.objects.bulk_update(moved, ["longitude", "latitude", "located_by"], batch_size=1000)
    return len(moved)

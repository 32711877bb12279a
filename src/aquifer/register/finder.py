"""One finder for everything on record: first what has every word, then, for typing errors, what may have been meant."""

import re
from collections.abc import Sequence
from functools import reduce
from operator import or_
from typing import NamedTuple

from django.db.models import Q, QuerySet
from django.utils import timezone

from aquifer.customers.models import Site, Word
from aquifer.heaters.models import Heater
from aquifer.register.rows import register_rows
from aquifer.register.schemas import FoundOut
from aquifer.rounds.upcoming import next_of_sites
from aquifer.water.models import Zone

MOST = 8
_LOOKED_AT = 400
"""So many that have the words are put in order: sorting all that have a common word would take longer than typing."""
Choices = list[Sequence[str]]


class _Place(NamedTuple):
    """A zone or a site that was found."""

    kind: str
    id: int
    name: str
    detail: str


def find(words: str) -> FoundOut:
    """Heaters, sites, customers and zones for some words; ``exact`` says whether they have every word as typed."""
    choices = _asked(words)
    heaters, places = _heaters(choices), _places(choices)
    exact = bool(heaters or places)
    if not exact:
        choices = [[meant for word in alike for meant in _meant(word)] for alike in choices]
        heaters, places = _heaters(choices), _places(choices)
    rows = {row["id"]: row for row in register_rows(Heater.objects.filter(pk__in=heaters))}
    sites = {row["site_id"] for row in rows.values()} | {place.id for place in places if place.kind == "site"}
    coming = next_of_sites(sites, timezone.localdate())
    return {
        "exact": exact,
        "heaters": [{**rows[pk], "next_visit": coming.get(rows[pk]["site_id"])} for pk in heaters],
        "places": [
            {
                "kind": place.kind,
                "id": place.id,
                "name": place.name,
                "detail": place.detail,
                "next_visit": coming.get(place.id) if place.kind == "site" else None,
            }
            for place in places
        ],
    }


_AS_A_NUMBER = re.compile(r"[\d\s()+./-]+")
LEAST_DIGITS, OWN_DIGITS = 6, 7
"""From so many digits on, figures with nothing but signs between them are a telephone number; so many at its end are
the subscriber's own, whatever is dialled before them. Assumption."""


def _asked(words: str) -> Choices:
    """The words to look for. A telephone number is one, by its digits, however it is written; or it is a tag or a
    serial after all, as it stands."""
    digits = re.sub(r"\D", "", words)
    if len(digits) >= LEAST_DIGITS and _AS_A_NUMBER.fullmatch(words):
        whole = Site.objects.filter(archived_at=None, words__contains=digits).exists()
        return [[digits if whole else digits[-OWN_DIGITS:], words.strip().lower()]]
    return [[word] for word in words.lower().replace("_", " ").split()[:8]]


def _meant(word: str) -> Sequence[str]:
    """What a word may be misspelt for; numbers and the shortest are taken as they stand."""
    return (Word.objects.like(word) if word.isalpha() and len(word) > 2 else []) or [word]


def _heaters(choices: Choices) -> list[int]:
    heaters = Heater.objects.in_service().having(choices).values_list("words", "pk")[:_LOOKED_AT]
    return [pk for _, pk in sorted(heaters)[:MOST]]


def _places(choices: Choices) -> list[_Place]:
    zones, sites = Zone.objects.order_by("name"), Site.objects.filter(archived_at=None)
    for words in choices:
        zones = zones.filter(_any(words, "name") | _any(words, "code"))
        sites = sites.filter(reduce(or_, (Q(words__contains=word) for word in words)))
    return [_Place("zone", zone.pk, zone.name, zone.note) for zone in zones[:3]] + _sites(sites, choices)


def _any(words: Sequence[str], field: str) -> Q:
    return reduce(or_, (Q(**{f"{field}__icontains": word}) for word in words))


def _sites(sites: "QuerySet[Site]", choices: Choices) -> list[_Place]:
    """Sites by name; one that was found by who is served there is named so."""
    seen = sorted(sites.values_list("words", "pk")[:_LOOKED_AT])[:5]
    by_pk = Site.objects.select_related("customer").in_bulk([pk for _, pk in seen])
    places = []
    for _, pk in seen:
        site = by_pk[pk]
        own = f"{site.name} {site.street} {site.town} {site.code}".lower()
        is_own = all(any(word in own for word in words) for words in choices)
        where = ", ".join(filter(None, (site.street, site.town)))
        customer = f"{site.customer.name} {site.customer.phone}".strip()
        places.append(
            _Place("site", pk, site.name, where) if is_own else _Place("site", pk, customer, f"{site.name}, {where}")
        )
    return places

"""One finder for everything on record: first what has every word, then, for typing errors, what may have been meant."""

from collections.abc import Sequence
from functools import reduce
from operator import or_
from typing import Any

from django.db.models import Q, QuerySet

from aquifer.customers.models import Site, Word
from aquifer.heaters.models import Heater
from aquifer.register.rows import register_rows
from aquifer.water.models import Zone

MOST = 8
_LOOKED_AT = 400
"""So many that have the words are put in order: sorting all that have a common word would take longer than typing."""
Choices = list[Sequence[str]]


def find(words: str) -> dict[str, Any]:
    """Heaters, sites, customers and zones for some words; ``exact`` says whether they have every word as typed."""
    asked = words.lower().replace("_", " ").split()[:8]
    choices: Choices = [[word] for word in asked]
    heaters, places = _heaters(choices), _places(choices)
    exact = bool(heaters or places)
    if not exact:
        choices = [_meant(word) for word in asked]
        heaters, places = _heaters(choices), _places(choices)
    rows = {row["id"]: row for row in register_rows(Heater.objects.filter(pk__in=heaters))}
    return {"exact": exact, "heaters": [rows[pk] for pk in heaters], "places": places}


def _meant(word: str) -> Sequence[str]:
    """What a word may be misspelt for; numbers and the shortest are taken as they stand."""
    return (Word.objects.like(word) if word.isalpha() and len(word) > 2 else []) or [word]


def _heaters(choices: Choices) -> list[int]:
    found = Heater.objects.in_service().having(choices).values_list("words", "pk")[:_LOOKED_AT]
    return [pk for _, pk in sorted(found)[:MOST]]


def _places(choices: Choices) -> list[dict[str, Any]]:
    zones, sites = Zone.objects.order_by("name"), Site.objects.filter(archived_at=None)
    for words in choices:
        zones = zones.filter(_any(words, "name") | _any(words, "code"))
        sites = sites.filter(reduce(or_, (Q(words__contains=word) for word in words)))
    found = [{"kind": "zone", "id": one.pk, "name": one.name, "detail": one.note} for one in zones[:3]]
    return found + _sites(sites, choices)


def _any(words: Sequence[str], field: str) -> Q:
    return reduce(or_, (Q(**{f"{field}__icontains": word}) for word in words))


def _sites(sites: "QuerySet[Site]", choices: Choices) -> list[dict[str, Any]]:
    """Sites by name; one that was found by who is served there is named so."""
    seen = sorted(sites.values_list("words", "pk")[:_LOOKED_AT])[:5]
    by_pk = Site.objects.select_related("customer").in_bulk([pk for _, pk in seen])
    told = []
    for _, pk in seen:
        site = by_pk[pk]
        own = f"{site.name} {site.street} {site.town} {site.code}".lower()
        is_own = all(any(word in own for word in words) for words in choices)
        where = ", ".join(filter(None, (site.street, site.town)))
        customer = f"{site.customer.name} {site.customer.phone}".strip()
        told.append(
            {
                "kind": "site",
                "id": pk,
                "name": site.name if is_own else customer,
                "detail": where if is_own else f"{site.name}, {where}",
            }
        )
    return told

"""Parts that come in, and go from the store to a truck, back, or from truck to truck."""

import uuid
from dataclasses import dataclass

from django.db import IntegrityError, transaction
from django.db.models import F, Q
from django.db.models.functions import Greatest

from aquifer.accounts.models import User
from aquifer.errors import Invalid, NotFound
from aquifer.rounds.models import CrewMember
from aquifer.stock.models import Held, Moved

SHOWN = 12
"""Moves that a page tells. Assumption: a morning's."""


@dataclass(frozen=True)
class Move:
    """So many of a part, from whose truck to whose; None is the store."""

    part: str
    quantity: float
    received: bool
    source: int | None
    target: int | None
    client_id: uuid.UUID


def move(by: User, asked: Move) -> Moved:
    """Parts change their place. Sent twice, it is one.

    Where they came from loses as many as are counted there: who has them in hand is right, and the count was behind.
    Raises: Invalid where nothing would move; NotFound for somebody who is not of the crew.
    """
    if not asked.received and asked.source == asked.target:
        raise Invalid("They are there already.", "stock.same_place", {"target": "another place"})
    if asked.received and asked.source is not None:
        raise Invalid("What comes from a supplier was on no truck.", "stock.received", {"source": "leave it out"})
    for field, pk in (("source", asked.source), ("target", asked.target)):
        if pk is not None and not CrewMember.objects.filter(pk=pk).exists():
            raise NotFound("There is nobody of that number in the crew.", fields={field: "?"})
    if (known := Moved.objects.filter(client_id=asked.client_id).first()) is not None:
        return known
    try:
        with transaction.atomic():
            kept = Moved.objects.create(
                by=by, part=asked.part, quantity=asked.quantity, received=asked.received, source_id=asked.source,
                target_id=asked.target, client_id=asked.client_id,
            )  # fmt: skip
            Held.objects.get_or_create(part=asked.part, member_id=asked.target)
            # Two that go opposite ways at one moment take the rows in one order, else each waits for the other.
            places = Q(member=asked.source) | Q(member=asked.target)
            list(Held.objects.select_for_update().filter(places, part=asked.part).order_by("pk"))
            if not asked.received:
                there = Held.objects.filter(part=asked.part, member=asked.source)
                there.update(quantity=Greatest(F("quantity") - asked.quantity, 0.0))
            Held.objects.filter(part=asked.part, member=asked.target).update(quantity=F("quantity") + asked.quantity)
    except IntegrityError:
        # The same from the same device, at the same moment.
        return Moved.objects.get(client_id=asked.client_id)
    return kept


def last() -> list[Moved]:
    """What moved last, the newest first."""
    return list(Moved.objects.select_related("by", "source__user", "target__user")[:SHOWN])

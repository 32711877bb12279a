"""What a visit fits comes off the truck that brought it."""

from django.db.models import F

from aquifer.accounts.models import User
from aquifer.stock.models import Held

NAMES = {
    "lower_element": "element, lower", "upper_element": "element, upper", "drain_valve": "drain valve 3/4 in",
    "thermocouple": "thermocouple",
}  # fmt: skip
"""Of parts that lie on trucks under another name than their kind's."""


def take(by: User, part: str, quantity: int = 1) -> bool:
    """Take a part off somebody's truck, as far as it is counted there.

    Parameters: part, by the name under which it is loaded. Returns: whether that many lay there.
    """
    there = Held.objects.filter(member__user=by, part=part, quantity__gte=quantity)
    return there.update(quantity=F("quantity") - quantity) > 0

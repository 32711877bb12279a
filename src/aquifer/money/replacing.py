"""What new heaters and leaks cost, as forecasts weigh it."""

from aquifer import changed
from aquifer.company.models import Company
from aquifer.core.follow_up import FollowUp
from aquifer.core.money import entry_of
from aquifer.money import prices
from aquifer.money.models import MoneySettings


def weigh() -> bool:
    """Keep what a new heater costs over what a leak into finished rooms does; returns whether it is another."""
    book, leak = prices.read().book, float(MoneySettings.current().leak_damage)
    entry = entry_of(book, FollowUp.HEATER)
    new = float(book.prices[entry].price) if entry is not None else 0.0
    told = round(new / leak, 3) if new > 0 and leak > 0 else None
    Company.current()
    return bool(Company.objects.filter(pk=1).exclude(heater_over_leak=told).update(heater_over_leak=told))


def weigh_anew() -> None:
    """The same after a price was changed; every forecast of a tank's end hangs on it."""
    if weigh():
        changed.everything()

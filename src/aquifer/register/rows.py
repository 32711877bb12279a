"""Where each heater of a list stands, for a row of the register; two queries whatever the length."""

import datetime

from django.db.models import QuerySet

from aquifer.core.kinds import HeaterKind
from aquifer.core.vocabulary import Component
from aquifer.forecasts.sign import SignRow, sign, standing_of
from aquifer.heaters.models import Heater, InstallCertainty, LeftAs
from aquifer.heaters.schemas import HeaterRowOut
from aquifer.places.hazards import of_sites


def register_rows(heaters: "QuerySet[Heater]") -> list[HeaterRowOut]:
    """Rows of the register with each heater's next date and the state that draws its sign."""
    found = list(heaters.select_related("site__zone", "left_as"))
    standing = standing_of([heater.pk for heater in found])
    dangers = of_sites({heater.site for heater in found}, {heater.pk for heater in found})
    return [_row(heater, standing.get(heater.pk, []), dangers[heater.site_id]) for heater in found]


def next_dates(heater_ids: list[int]) -> dict[int, datetime.date]:
    """When each heater is next due for anything that is done at it; none for one of which nothing is known."""
    found = {}
    for pk, forecasts in standing_of(heater_ids).items():
        dates = [standing.due_on for standing in forecasts if standing.due_on and standing.component != Component.TANK]
        if dates:
            found[pk] = min(dates)
    return found


def _row(heater: Heater, forecasts: list[SignRow], dangers: list[str]) -> HeaterRowOut:
    services = [
        (standing.due_on, standing.component)
        for standing in forecasts
        if standing.due_on and standing.component != Component.TANK
    ]
    due_on, component = min(services, key=lambda one: one[0], default=(None, None))
    left: LeftAs | None = getattr(heater, "left_as", None)
    return {
        "id": heater.pk,
        "tag": heater.tag,
        "kind": HeaterKind(heater.kind),
        "location": heater.location,
        "site_id": heater.site_id,
        "site": heater.site.name,
        "street": heater.site.street,
        "zone": heater.site.zone.name,
        "capacity_l": heater.capacity_l,
        "installed_on": heater.installed_on,
        "install_certainty": InstallCertainty(heater.install_certainty),
        "hazard": " ".join(dangers),
        "left_off": left.title if left and left.off else "",
        "bank": heater.bank,
        "next_due_on": due_on,
        "next_component": component,
        **sign(forecasts),
    }

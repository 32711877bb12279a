"""Where each heater of a list stands, for a row of the register; two queries whatever the length."""

from typing import Any

from django.db.models import QuerySet

from aquifer.core.vocabulary import Component
from aquifer.forecasts.models import Forecast, state_of
from aquifer.heaters.models import Heater
from aquifer.places.hazards import of_sites

_FORECAST = ("heater_id", "component", "due_on", "state_names", "state_values", "limit_value")


def register_rows(heaters: "QuerySet[Heater]") -> list[dict[str, Any]]:
    """Rows of the register with each heater's next date and the state that draws its sign."""
    found = list(heaters.select_related("site__zone", "left_as"))
    standing = standing_of([heater.pk for heater in found])
    dangers = of_sites({heater.site for heater in found}, {heater.pk for heater in found})
    return [_row(heater, standing.get(heater.pk, []), dangers[heater.site_id]) for heater in found]


def standing_of(heater_ids: list[int]) -> dict[int, list[dict[str, Any]]]:
    """What draws each heater's sign and tells its next date, by heater; one query."""
    standing: dict[int, list[dict[str, Any]]] = {}
    for forecast in Forecast.objects.current().filter(heater__in=heater_ids).values(*_FORECAST):
        standing.setdefault(forecast["heater_id"], []).append(forecast)
    return standing


def sign(forecasts: list[dict[str, Any]]) -> dict[str, float | None]:
    """What the small drawing of a heater shows: its deposit as a share of the limit, and what is left of the rod."""
    state = {one["component"]: one for one in forecasts}

    def median(one: dict[str, Any], name: str) -> float:
        return state_of(one["state_names"], one["state_values"])[name][1]

    drawn: dict[str, float | None] = {"depth_share": None, "anode_left": None}
    for component, name in ((Component.SEDIMENT, "depth_mm"), (Component.SCALE, "thickness_mm")):
        if one := state.get(component):
            drawn["depth_share"] = round(min(median(one, name) / one["limit_value"], 3.0), 3)
    if one := state.get(Component.ANODE):
        drawn["anode_left"] = median(one, "fraction_left")
    return drawn


def _row(heater: Heater, forecasts: list[dict[str, Any]], dangers: list[str]) -> dict[str, Any]:
    services = (one for one in forecasts if one["due_on"] and one["component"] != Component.TANK)
    due = min(services, key=lambda one: one["due_on"], default=None)
    left = getattr(heater, "left_as", None)
    return {
        "id": heater.pk,
        "tag": heater.tag,
        "kind": heater.kind,
        "location": heater.location,
        "site": heater.site.name,
        "street": heater.site.street,
        "zone": heater.site.zone.name,
        "capacity_l": heater.capacity_l,
        "installed_on": heater.installed_on,
        "install_certainty": heater.install_certainty,
        "hazard": " ".join(dangers),
        "left_off": left.title if left and left.off else "",
        "next_due_on": due["due_on"] if due else None,
        "next_component": due["component"] if due else None,
        **sign(forecasts),
    }

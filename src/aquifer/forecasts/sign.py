"""The small drawing of a heater in a list, and its next date."""

from typing import Any

from aquifer.core.vocabulary import Component
from aquifer.forecasts.models import Forecast, state_of

_FORECAST = ("heater_id", "component", "due_on", "state_names", "state_values", "limit_value")


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

"""The small drawing of a heater in a list, and its next date."""

import datetime
from typing import NamedTuple, TypedDict

from aquifer.core.vocabulary import Component
from aquifer.forecasts.models import Forecast, state_of


class SignRow(NamedTuple):
    """What is read of a forecast, by the names of its columns."""

    heater_id: int
    component: str
    due_on: datetime.date | None
    state_names: list[str]
    state_values: list[float]
    limit_value: float

    def median(self, name: str) -> float:
        """Of a figure of its state."""
        return state_of(self.state_names, self.state_values)[name][1]


class Sign(TypedDict):
    """What the small drawing of a heater shows."""

    depth_share: float | None
    anode_left: float | None


def standing_of(heater_ids: list[int]) -> dict[int, list[SignRow]]:
    """What draws each heater's sign and tells its next date, by heater; one query."""
    standing: dict[int, list[SignRow]] = {}
    for row in Forecast.objects.current().filter(heater__in=heater_ids).values_list(*SignRow._fields):
        one = SignRow(*row)
        standing.setdefault(one.heater_id, []).append(one)
    return standing


def sign(forecasts: list[SignRow]) -> Sign:
    """What the small drawing of a heater shows: its deposit as a share of the limit, and what is left of the rod."""
    state = {standing.component: standing for standing in forecasts}
    drawn: Sign = {"depth_share": None, "anode_left": None}
    for component, name in ((Component.SEDIMENT, "depth_mm"), (Component.SCALE, "thickness_mm")):
        if standing := state.get(component):
            drawn["depth_share"] = round(min(standing.median(name) / standing.limit_value, 3.0), 3)
    if standing := state.get(Component.ANODE):
        drawn["anode_left"] = standing.median("fraction_left")
    return drawn

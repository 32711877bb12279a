"""When a heater's screens, filters, sensors and batteries are next cleaned or changed."""

import datetime
from collections.abc import Mapping

from aquifer.core import upkeep
from aquifer.core.kinds import HeaterKind
from aquifer.core.vocabulary import Alloy, Fouling, Supply, Task, UpkeepItem
from aquifer.heaters.models import Heater, PartKind
from aquifer.water.profiles import measured


def read(heater: Heater, installed_on: datetime.date) -> list[upkeep.UpkeepDue]:
    """What this heater needs besides its forecasts, soonest first; three queries."""
    rod = heater.parts.filter(kind=PartKind.ANODE, removed_on__isnull=True).first()
    alloy = Alloy(rod.alloy) if rod and rod.alloy else Alloy.NONE
    solids = measured(heater.site.zone_id, heater.site_id).get("suspended_solids_mg_l")
    gritty = upkeep.is_gritty(Supply(heater.site.zone.supply), solids)
    done = _done(heater)
    due = [
        upkeep.due(one, installed_on, done.get(one.item, []), heater.site.dusty, gritty)
        for one in upkeep.items(HeaterKind(heater.kind), alloy)
    ]
    return sorted(due, key=lambda due_upkeep: due_upkeep.due_on)


def _done(heater: Heater) -> Mapping[UpkeepItem, list[upkeep.Done]]:
    found: dict[UpkeepItem, list[upkeep.Done]] = {}
    rows = heater.findings.filter(task=Task.UPKEEP, correction__isnull=True).order_by("on", "pk")
    for item, on, fouling in rows.values_list("item", "on", "fouling"):
        found.setdefault(UpkeepItem(item), []).append(upkeep.Done(on, Fouling(fouling) if fouling else None))
    return found

"""Each zone's water as its tests tell it: for every figure, the newest test that has it."""

from dataclasses import dataclass

from aquifer.core.water import WaterProfile, WaterTest, profile
from aquifer.water import models

_FIGURES = tuple(WaterTest.__dataclass_fields__)


@dataclass(frozen=True)
class ZoneWater:
    zone_id: int
    name: str
    code: str
    profile: WaterProfile
    tests: int


def zone_waters() -> list[ZoneWater]:
    """The water of every zone, by id; two queries."""
    found: dict[int, dict[str, float]] = {}
    counts: dict[int, int] = {}
    # Oldest first, so that a newer figure replaces an older one.
    for row in models.WaterTest.objects.values("zone_id", *_FIGURES):
        counts[row["zone_id"]] = counts.get(row["zone_id"], 0) + 1
        found.setdefault(row["zone_id"], {}).update(_known(row))
    return [
        ZoneWater(
            zone_id,
            name,
            code,
            profile(WaterTest(**_consistent(found.get(zone_id, {})))),
            counts.get(zone_id, 0),
        )
        for zone_id, name, code in models.Zone.objects.order_by("pk").values_list("pk", "name", "code")
    ]


def measured(zone_id: int) -> dict[str, float]:
    """The newest of each figure that was measured in a zone; what nobody measured is not in it."""
    found: dict[str, float] = {}
    for row in models.WaterTest.objects.filter(zone_id=zone_id).values(*_FIGURES):
        found.update(_known(row))
    return _consistent(found)


def _known(row: dict[str, float | None]) -> dict[str, float]:
    return {name: value for name in _FIGURES if (value := row[name]) is not None}


def _consistent(figures: dict[str, float]) -> dict[str, float]:
    """Figures from different tests can contradict each other: calcium is never more than the newest hardness."""
    total, calcium = figures.get("total_hardness_mg_l"), figures.get("calcium_hardness_mg_l")
    if total is not None and calcium is not None and calcium > total:
        return {**figures, "calcium_hardness_mg_l": total}
    return figures

"""Each supply's water as its tests tell it: for every figure, the newest test that has it; a site's own before its
zone's. A wrong or old test widens what is forecast from it."""

import datetime
from collections.abc import Collection
from dataclasses import dataclass, field

from django.utils import timezone

from aquifer.core.parameters import DAYS_PER_YEAR, WATER
from aquifer.core.vocabulary import Supply
from aquifer.core.water import Blend, WaterProfile, WaterTest, profile
from aquifer.prepared import Prepared, Row
from aquifer.water import models

_FIGURES = tuple(WaterTest.__dataclass_fields__)
_DISINFECTION = ("free_chlorine_mg_l", "disinfectant")
_TEST = ("taken_on", "pk", "zone_id", "site_id", "method", *_FIGURES, *_DISINFECTION)
_TESTS = Prepared(models.WaterTest.objects.order_by(), *_TEST, by="zone_id")
_ZONE = ("pk", "name", "code", "supply", "seasons__other_id", "seasons__share_of_year", "seasons__other_share")
"""A row for each part of the year in which its water is mixed, or one."""
_ZONES = Prepared(models.Zone.objects.order_by(), *_ZONE, by="pk")


@dataclass(frozen=True)
class ZoneWater:
    zone_id: int
    name: str
    code: str
    profile: WaterProfile
    tests: int
    free_chlorine_mg_l: float | None
    disinfectant: str


@dataclass(frozen=True)
class Waters:
    """Every water that heaters are forecast with: the zones by id, and sites with tests of their own."""

    zones: list[ZoneWater]
    sites: dict[int, WaterProfile]


@dataclass
class _Told:
    """What tests said of one water, newest last."""

    figures: dict[str, float] = field(default_factory=dict)
    log_sds: dict[str, float] = field(default_factory=dict)
    tests: int = 0
    free_chlorine_mg_l: float | None = None
    disinfectant: str = ""

    def hear(self, row: dict[str, object], today: datetime.date) -> None:
        self.tests += 1
        taken_on = row["taken_on"]
        years = (today - taken_on).days / DAYS_PER_YEAR if isinstance(taken_on, datetime.date) else 0.0
        is_strip = "strip" in str(row["method"]).lower()
        for name in _FIGURES:
            value = row[name]
            if isinstance(value, float | int):
                self.figures[name] = float(value)
                self.log_sds[name] = error(name, is_strip, max(years, 0.0))
        if row["free_chlorine_mg_l"] is not None:
            self.free_chlorine_mg_l = float(str(row["free_chlorine_mg_l"]))
        self.disinfectant = str(row["disinfectant"]) or self.disinfectant


def error(name: str, is_strip: bool, years: float) -> float:
    """How far a figure of a test may be off by now; natural log, of pH in its own unit."""
    p = WATER
    drift = p.age_log_sd_per_year * years
    if name == "ph":
        return float(p.ph_test_sd * (2 if is_strip else 1) + drift)
    return float(((p.strip_log_sd if is_strip else p.test_log_sd) ** 2 + drift**2) ** 0.5)


def waters(today: datetime.date, zone_ids: Collection[int] | None = None) -> Waters:
    """The water of every zone, and of every site with a test of its own; two queries, or three.

    Parameters: zone_ids, for the waters of some zones only, among whatever they are blended with.
    """
    found = _ZONES.rows(zone_ids)
    if zone_ids is not None:
        others = {other_id for *_, other_id, _, _ in found if other_id is not None} - {row[0] for row in found}
        if others:
            found += _ZONES.rows(others)
    found.sort(key=lambda row: tuple(0 if part is None else part for part in row))
    told: dict[int, _Told] = {}
    of_site: dict[int, _Told] = {}
    zone_of_site: dict[int, int] = {}
    for test in _tests(None if zone_ids is None else {row[0] for row in found}):
        zone_id, site_id = test["zone_id"], test["site_id"]
        if site_id is None:
            told.setdefault(zone_id, _Told()).hear(test, today)
        else:
            of_site.setdefault(site_id, _Told()).hear(test, today)
            zone_of_site[site_id] = zone_id
    wells, plain, named = {}, {}, {}
    for zone_id, name, code, supply, *_ in found:
        wells[zone_id] = supply == Supply.WELL
        plain[zone_id] = _profile(told.get(zone_id, _Told()), wells[zone_id])
        named[zone_id] = name, code
    blends: dict[int, list[Blend]] = {}
    for zone_id, *_, other_id, share, of_volume in found:
        if other_id in plain:
            blends.setdefault(zone_id, []).append(Blend(share, plain[other_id].analysis, of_volume))
    zones = []
    for zone_id, (name, code) in named.items():
        heard = told.get(zone_id, _Told())
        water = plain[zone_id]
        if zone_id in blends:
            water = _profile(heard, wells[zone_id], tuple(blends[zone_id]))
        zones.append(ZoneWater(zone_id, name, code, water, heard.tests, heard.free_chlorine_mg_l, heard.disinfectant))
    sites = {}
    for site_id, own in of_site.items():
        zone = told.get(zone_of_site[site_id], _Told())
        both = _Told({**zone.figures, **own.figures}, {**zone.log_sds, **own.log_sds})
        sites[site_id] = _profile(both, wells[zone_of_site[site_id]])
    return Waters(zones, sites)


def _tests(zone_ids: Collection[int] | None) -> list[Row]:
    """Oldest first, so that a newer figure replaces an older one."""
    return sorted(_TESTS.named(zone_ids), key=lambda test: (test["taken_on"], test["pk"]))


def measured(zone_id: int, site_id: int) -> dict[str, float]:
    """The newest of each figure that was measured for a site, its own before its zone's; what nobody measured is not
    in it."""
    zone, own = _Told(), _Told()
    for test in _tests([zone_id]):
        if test["site_id"] is None:
            zone.hear(test, timezone.localdate())
        elif test["site_id"] == site_id:
            own.hear(test, timezone.localdate())
    return _consistent({**zone.figures, **own.figures})


def _profile(told: _Told, is_well: bool, blends: tuple[Blend, ...] = ()) -> WaterProfile:
    return profile(WaterTest(**_consistent(told.figures)), is_well, told.log_sds, blends)


def _consistent(figures: dict[str, float]) -> dict[str, float]:
    """Figures from different tests can contradict each other: calcium is never more than the newest hardness."""
    total, calcium = figures.get("total_hardness_mg_l"), figures.get("calcium_hardness_mg_l")
    if total is not None and calcium is not None and calcium > total:
        return {**figures, "calcium_hardness_mg_l": total}
    return figures

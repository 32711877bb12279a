"""A zone's water for its page: tests over time, what the water does to its heaters, who has a test of their own."""

import datetime
from math import exp

from django.db.models import Count, Exists, Max, OuterRef, Q

from aquifer.core.kinds import HeaterKind
from aquifer.core.parameters import SEDIMENT
from aquifer.core.vocabulary import Component, Supply
from aquifer.core.water import hardness_class, plain_words
from aquifer.customers.models import Site
from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Heater
from aquifer.history.versions import version_of
from aquifer.register.schemas import KindOnWaterOut, ZoneOnMapOut, ZoneOut, ZonePageOut
from aquifer.water.models import Season, WaterTest, Zone
from aquifer.water.profiles import ZoneWater, error, waters

COMPONENTS = (Component.SEDIMENT, Component.SCALE, Component.ANODE)


def summary(water: ZoneWater) -> ZoneOut:
    """What a zone's water is and does at the reference setting."""
    hot = water.profile.heated(SEDIMENT.reference_setpoint_c)
    hardness = water.profile.analysis.total_hardness_mg_l
    return {
        "id": water.zone_id,
        "name": water.name,
        "code": water.code,
        "tests": water.tests,
        "hardness_mg_l": hardness,
        "hardness_class": hardness_class(hardness),
        "carbonate_is_known": water.profile.carbonate_is_known,
        "log_sd": water.profile.log_sd,
        "saturation_index_60": round(hot.saturation_index, 2),
        "potential_60_mg_l": round(hot.precipitation_potential_mg_l, 1),
        "in_words": plain_words(water.profile, SEDIMENT.reference_setpoint_c),
    }


def on_map(today: datetime.date) -> list[ZoneOnMapOut]:
    """Every zone with its outline, its water, how many heaters stand on it and when it was last tested."""
    counted = {
        one.pk: one
        for one in Zone.objects.annotate(
            sites_count=Count("sites", filter=Q(sites__archived_at=None), distinct=True),
            last_test=Max("tests__taken_on", filter=Q(tests__site=None)),
        )
    }
    heaters = dict(Heater.objects.in_service().values_list("site__zone").annotate(n=Count("pk")))
    return [
        {
            **summary(one),
            "outline": counted[one.zone_id].outline,
            "supply": Supply(counted[one.zone_id].supply),
            "note": counted[one.zone_id].note,
            "heaters": heaters.get(one.zone_id, 0),
            "sites": counted[one.zone_id].sites_count,
            "last_test": counted[one.zone_id].last_test,
        }
        for one in waters(today).zones
    ]


def whole(zone: Zone, today: datetime.date) -> ZonePageOut:
    """Everything of a zone's page."""
    water = next(one for one in waters(today).zones if one.zone_id == zone.pk)
    tests = WaterTest.objects.filter(zone=zone).select_related("site").order_by("-taken_on", "-pk")
    own = WaterTest.objects.filter(site=OuterRef("pk"))
    sites = Site.objects.filter(zone=zone, archived_at=None, heaters__archived_at=None).distinct()
    seasons = Season.objects.filter(zone=zone).select_related("other").order_by("pk")
    return {
        **summary(water),
        "version": version_of(zone),
        "supply": Supply(zone.supply),
        "note": zone.note,
        "places": zone.places,
        "practice": zone.practice,
        "assumed": [
            {"figure": one.at.rsplit("/", 1)[1], "value": float(one.value), "why": one.why}
            for one in water.profile.assumed
        ],
        "tests_taken": [
            {
                "id": one.pk,
                "taken_on": one.taken_on,
                "method": one.method,
                "total_hardness_mg_l": one.total_hardness_mg_l,
                "calcium_hardness_mg_l": one.calcium_hardness_mg_l,
                "alkalinity_mg_l": one.alkalinity_mg_l,
                "ph": one.ph,
                "conductivity_us_cm": one.conductivity_us_cm,
                "iron_mg_l": one.iron_mg_l,
                "suspended_solids_mg_l": one.suspended_solids_mg_l,
                "free_chlorine_mg_l": one.free_chlorine_mg_l,
                "disinfectant": one.disinfectant,
                "may_be_off_by": round(exp(error("total_hardness_mg_l", "strip" in one.method.lower(), 0.0)), 3),
                "site": one.site.name if one.site else "",
                "site_id": one.site_id,
            }
            for one in tests[:200]
        ],
        "seasons": [
            {
                "name": one.name,
                "other_id": one.other_id,
                "other": one.other.name,
                "share_of_year": one.share_of_year,
                "other_share": one.other_share,
            }
            for one in seasons
        ],
        "kinds": _kinds(zone),
        "sites_total": sites.count(),
        "sites_with_a_test": sites.filter(Exists(own)).count(),
        "without_a_test": [
            {"id": one.pk, "name": one.name, "street": one.street, "softened": one.softened, "heaters": one.n}
            for one in sites.filter(~Exists(own))
            .annotate(n=Count("heaters", filter=Q(heaters__archived_at=None)))
            .order_by("-n", "name")[:60]
        ],
        "points": [
            [x, y]
            for x, y in sites.values_list("longitude", "latitude").filter(longitude__isnull=False).order_by("pk")[:500]
            if x is not None and y is not None
        ],
        "outline": zone.outline,
    }


def _kinds(zone: Zone) -> list[KindOnWaterOut]:
    """What the water does: how soon each kind of heater on it reaches its limit, by the median of their forecasts."""
    rows = Forecast.objects.current().filter(
        heater__site__zone=zone, heater__archived_at=None, component__in=COMPONENTS
    )
    found: dict[tuple[str, str], list[tuple[float, float]]] = {}
    for kind, component, rate, log_theta in rows.values_list("heater__kind", "component", "rate", "log_theta"):
        found.setdefault((kind, component), []).append((rate[1], log_theta))
    order = [kind.value for kind in HeaterKind]
    return [
        {
            "kind": HeaterKind(kind),
            "component": Component(component),
            "heaters": len(ones),
            "rate": sorted(rate for rate, _ in ones)[len(ones) // 2],
            "pace": sorted(theta for _, theta in ones)[len(ones) // 2],
        }
        for (kind, component), ones in sorted(found.items(), key=lambda one: (order.index(one[0][0]), one[0][1]))
    ]

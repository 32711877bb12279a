"""A zone's water for its page: tests over time, what the water does to its heaters, who has a test of their own."""

import datetime
from math import exp

import numpy as np
from django.db.models import Count, Exists, Max, OuterRef, Q

from aquifer.core.kinds import HeaterKind
from aquifer.core.parameters import SEDIMENT
from aquifer.core.quantiles import of_mixture
from aquifer.core.vocabulary import Component, Supply
from aquifer.core.water import hardness_class, plain_words
from aquifer.customers.models import Site
from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Heater
from aquifer.history.versions import version_of
from aquifer.register.schemas import KindOnWaterOut, ZoneOnMapOut, ZoneOut, ZonePageOut
from aquifer.water.models import Season, WaterTest, Zone
from aquifer.water.profiles import ZoneWater, error, waters

TEN_FIFTY_NINETY = np.array([0.1, 0.5, 0.9])
COMPONENTS = (Component.SEDIMENT, Component.SCALE, Component.ANODE)


def every(today: datetime.date) -> list[ZoneOut]:
    """Each zone's water in a few figures."""
    counted = _heaters()
    return [_summary(water, counted.get(water.zone_id, (0, 0))) for water in waters(today).zones]


def _heaters() -> dict[int, tuple[int, int]]:
    """By zone: its heaters in service, and those of them that get its water through a softener."""
    counted = Heater.objects.in_service().values_list("site__zone")
    return {
        zone: (heaters, softened)
        for zone, heaters, softened in counted.annotate(n=Count("pk"), soft=Count("pk", filter=Q(site__softened=True)))
    }


def _summary(water: ZoneWater, heaters: tuple[int, int]) -> ZoneOut:
    """What a zone's water is and does at the reference setting; where most get it softened, what that does."""
    there, softened = heaters
    hot = water.profile.heated(SEDIMENT.reference_setpoint_c)
    soft = water.profile.heated(SEDIMENT.reference_setpoint_c, softened=True)
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
        "softened_potential_60_mg_l": round(soft.precipitation_potential_mg_l, 1),
        "heaters": there,
        "softened_heaters": softened,
        "in_words": plain_words(water.profile, SEDIMENT.reference_setpoint_c, softened=2 * softened > there),
    }


def on_map(today: datetime.date) -> list[ZoneOnMapOut]:
    """Every zone with its outline, its water, how many heaters stand on it and when it was last tested."""
    counted = {
        zone.pk: zone
        for zone in Zone.objects.annotate(
            sites_count=Count("sites", filter=Q(sites__archived_at=None), distinct=True),
            last_test=Max("tests__taken_on", filter=Q(tests__site=None)),
        )
    }
    heaters = _heaters()
    return [
        {
            **_summary(water, heaters.get(water.zone_id, (0, 0))),
            "outline": counted[water.zone_id].outline,
            "supply": Supply(counted[water.zone_id].supply),
            "note": counted[water.zone_id].note,
            "sites": counted[water.zone_id].sites_count,
            "last_test": counted[water.zone_id].last_test,
        }
        for water in waters(today).zones
    ]


def whole(zone: Zone, today: datetime.date) -> ZonePageOut:
    """Everything of a zone's page."""
    water = next(one for one in waters(today).zones if one.zone_id == zone.pk)
    tests = WaterTest.objects.filter(zone=zone).select_related("site").order_by("-taken_on", "-pk")
    own = WaterTest.objects.filter(site=OuterRef("pk"))
    sites = Site.objects.filter(zone=zone, archived_at=None, heaters__archived_at=None).distinct()
    seasons = Season.objects.filter(zone=zone).select_related("other").order_by("pk")
    return {
        **_summary(water, _heaters().get(zone.pk, (0, 0))),
        "version": version_of(zone),
        "supply": Supply(zone.supply),
        "note": zone.note,
        "places": zone.places,
        "practice": zone.practice,
        "assumed": [
            {"figure": assumed.at.rsplit("/", 1)[1], "value": float(assumed.value), "why": assumed.why}
            for assumed in water.profile.assumed
        ],
        "tests_taken": [
            {
                "id": test.pk,
                "taken_on": test.taken_on,
                "method": test.method,
                "total_hardness_mg_l": test.total_hardness_mg_l,
                "calcium_hardness_mg_l": test.calcium_hardness_mg_l,
                "alkalinity_mg_l": test.alkalinity_mg_l,
                "ph": test.ph,
                "conductivity_us_cm": test.conductivity_us_cm,
                "iron_mg_l": test.iron_mg_l,
                "suspended_solids_mg_l": test.suspended_solids_mg_l,
                "free_chlorine_mg_l": test.free_chlorine_mg_l,
                "disinfectant": test.disinfectant,
                "may_be_off_by": round(exp(error("total_hardness_mg_l", "strip" in test.method.lower(), 0.0)), 3),
                "site": test.site.name if test.site else "",
                "site_id": test.site_id,
            }
            for test in tests[:200]
        ],
        "seasons": [
            {
                "name": season.name,
                "other_id": season.other_id,
                "other": season.other.name,
                "share_of_year": season.share_of_year,
                "other_share": season.other_share,
            }
            for season in seasons
        ],
        "kinds": _kinds(zone),
        "sites_total": sites.count(),
        "sites_with_a_test": sites.filter(Exists(own)).count(),
        "without_a_test": [
            {"id": site.pk, "name": site.name, "street": site.street, "softened": site.softened, "heaters": site.n}
            for site in sites.filter(~Exists(own))
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
    """What the water does: how fast each kind of heater on it goes, and within what one of them lies. What is told of
    each is drawn towards its water's and the company's already, so that few heaters say little."""
    rows = Forecast.objects.current().filter(
        heater__site__zone=zone, heater__archived_at=None, component__in=COMPONENTS
    )
    found: dict[tuple[str, str], list[tuple[float, float]]] = {}
    for kind, component, *told in rows.values_list("heater__kind", "component", "log_theta", "log_theta_sd"):
        found.setdefault((kind, component), []).append((told[0], told[1]))
    order = [kind.value for kind in HeaterKind]
    kinds: list[KindOnWaterOut] = []
    for (kind, component), ones in sorted(found.items(), key=lambda one: (order.index(one[0][0]), one[0][1])):
        means, sds = np.array(ones, dtype=np.float64).T
        low, middle, high = of_mixture(means, sds, TEN_FIFTY_NINETY).tolist()
        kinds.append(
            {
                "kind": HeaterKind(kind), "component": Component(component), "heaters": len(ones),
                "pace": middle, "pace_low": low, "pace_high": high,
            }
        )  # fmt: skip
    return kinds

"""Reading a place for a page: its heaters, what stands around them, what nobody has looked at, what is open."""

import uuid
from collections.abc import Mapping

from django.db.models import QuerySet

from aquifer.attachments.models import Attachment, AttachmentKind
from aquifer.core import details
from aquifer.core.place import BY_KIND, FEATURES, FeatureKind, Severity, fault, matters_to
from aquifer.core.place import Feature as Spec
from aquifer.core.units import Quantity, Unit, worded
from aquifer.customers.models import Site
from aquifer.heaters.models import Heater
from aquifer.heaters.schemas import HeaterRowOut
from aquifer.history.versions import version_of, versions
from aquifer.open_ends.models import WORST_FIRST, OpenEnd, OpenEndState
from aquifer.open_ends.schemas import OpenEndOut
from aquifer.places.hazards import of_sites
from aquifer.places.models import Feature
from aquifer.places.schemas import FeatureOut, MissingFeatureOut, SiteOut, SitePageOut
from aquifer.register.rows import register_rows
from aquifer.visits.words import units_shown


def site_out(site: Site, hazards: list[str] | None = None, version: int | None = None) -> SiteOut:
    return {
        "id": site.pk,
        "code": site.code,
        "name": site.name,
        "customer_id": site.customer_id,
        "postcode": site.postcode,
        "located_by": site.located_by,
        "longitude": site.longitude,
        "latitude": site.latitude,
        "street": site.street,
        "town": site.town,
        "zone_id": site.zone_id,
        "softened": site.softened,
        "people": site.people,
        "fixtures": site.fixtures,
        "hot_water_l_per_day": site.hot_water_l_per_day,
        "occupied_share": site.occupied_share,
        "business": site.business,
        "practice": site.practice,
        "static_pressure_kpa": site.static_pressure_kpa,
        "pressure_on": site.pressure_on,
        "pressure_measured": site.pressure_measured,
        "closed_system": site.closed_system,
        "dusty": site.dusty,
        "hazard": site.hazard,
        "shut_off": site.shut_off,
        "access": site.access,
        "details": site.details,
        "version": version_of(site) if version is None else version,
        "customer": site.customer.name,
        "phone": site.customer.phone,
        "second_phone": site.customer.second_phone,
        "email": site.customer.email,
        "zone": site.zone.name,
        "archived": site.archived_at is not None,
        "hazards": of_sites([site])[site.pk] if hazards is None else hazards,
    }


def page(site: Site) -> SitePageOut:
    """Everything of a site."""
    heaters = Heater.objects.in_service().filter(site=site).order_by("bank", "words")
    rows = register_rows(heaters)
    features = list(Feature.objects.filter(site=site, gone=False))
    order = {feature.kind.value: at for at, feature in enumerate(FEATURES)}
    features.sort(key=lambda one: (order[one.kind], one.heater_id or 0, one.pk))
    return {
        "site": site_out(site),
        "heaters": rows,
        "features": features_out(features),
        "unseen": _unseen(rows, features),
        "open_ends": open_ends_out(
            OpenEnd.objects.filter(site=site).exclude(state=OpenEndState.CLOSED).order_by(*WORST_FIRST)
        ),
    }


def _unseen(heaters: list[HeaterRowOut], features: list[Feature]) -> list[MissingFeatureOut]:
    """Each feature that matters to a heater, or to the site, and that nobody has recorded."""
    seen = {(feature.kind, feature.heater_id) for feature in features}
    missing: dict[tuple[FeatureKind, int | None], Spec] = {}
    for heater in heaters:
        for spec in matters_to(heater["kind"]):
            of = None if spec.of_site else heater["id"]
            if (spec.kind.value, of) not in seen:
                missing[spec.kind, of] = spec
    return [
        {"kind": kind, "group": spec.group, "name": spec.name, "heater_id": of} for (kind, of), spec in missing.items()
    ]


def features_out(features: list[Feature]) -> list[FeatureOut]:
    """Features as they are shown, in their order."""
    known, units = versions(Feature, [feature.pk for feature in features]), units_shown()
    return [_feature_out(feature, known.get(feature.pk, 0), units) for feature in features]


def _feature_out(feature: Feature, version: int, units: Mapping[Quantity, Unit]) -> FeatureOut:
    spec = BY_KIND[FeatureKind(feature.kind)]
    told = fault(feature.seen())
    return {
        "id": feature.pk,
        "kind": FeatureKind(feature.kind),
        "heater_id": feature.heater_id,
        "form": feature.form,
        "condition": feature.condition,
        "where": feature.where,
        "do_not_operate": feature.do_not_operate,
        "use_instead": feature.use_instead,
        "note": feature.note,
        "details": feature.details,
        "seen_on": feature.seen_on,
        "seen_by": feature.seen_by,
        "version": version,
        "group": spec.group,
        "more": [worded(line, units) for line in details.worded(details.of_feature(spec.kind), feature.details)],
        "name": spec.name,
        "condition_words": spec.condition(feature.condition).words,
        "severity": told[0] if told else None,
    }


def open_ends_out(open_ends: "QuerySet[OpenEnd]") -> list[OpenEndOut]:
    """Open ends as they are shown, in their order; two queries."""
    rows = list(open_ends.select_related("site", "heater", "campaign", "raised_by"))
    shown: dict[uuid.UUID | None, list[int]] = {}
    taken = Attachment.objects.filter(kind=AttachmentKind.PHOTOGRAPH, gone=False)
    for visit, photograph in taken.filter(
        visit_client_id__in=[open_end.visit_client_id for open_end in rows if open_end.visit_client_id]
    ).values_list("visit_client_id", "pk"):
        shown.setdefault(visit, []).append(photograph)
    return [
        {
            "id": open_end.pk,
            "kind": open_end.kind,
            "severity": Severity(open_end.severity),
            "words": open_end.words,
            "state": open_end.state,
            "site_id": open_end.site_id,
            "heater_id": open_end.heater_id,
            "raised_on": open_end.raised_on,
            "promised_on": open_end.promised_on,
            "closed_on": open_end.closed_on,
            "how_closed": open_end.how_closed,
            "photographs": shown.get(open_end.visit_client_id, [])[:6],
            "site": open_end.site.name,
            "street": open_end.site.street,
            "heater": open_end.heater.tag if open_end.heater else None,
            "location": open_end.heater.location if open_end.heater else "",
            "campaign": open_end.campaign.name if open_end.campaign else None,
            "raised_by": open_end.raised_by.name if open_end.raised_by else "",
        }
        for open_end in rows
    ]

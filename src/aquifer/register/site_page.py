"""Reading a place for a page: its heaters, what stands around them, what nobody has looked at, what is open."""

from collections.abc import Mapping
from typing import Any

from django.db.models import QuerySet

from aquifer.attachments.models import Attachment, AttachmentKind
from aquifer.core import details
from aquifer.core.kinds import HeaterKind
from aquifer.core.place import BY_KIND, FEATURES, FeatureKind, fault, matters_to
from aquifer.core.place import Feature as Spec
from aquifer.core.units import Quantity, Unit, worded
from aquifer.customers.models import Site
from aquifer.heaters.models import Heater
from aquifer.history.versions import version_of, versions
from aquifer.open_ends.models import WORST_FIRST, OpenEnd, OpenEndState
from aquifer.places.hazards import of_sites
from aquifer.places.models import Feature
from aquifer.places.schemas import SiteOut
from aquifer.register.rows import register_rows
from aquifer.visits.words import units_shown


def site_out(site: Site, hazards: list[str] | None = None, version: int | None = None) -> dict[str, Any]:
    own = {name: getattr(site, name) for name in SiteOut.model_fields if hasattr(site, name)}
    return {
        **own,
        "version": version_of(site) if version is None else version,
        "customer_id": site.customer_id,
        "customer": site.customer.name,
        "phone": site.customer.phone,
        "second_phone": site.customer.second_phone,
        "email": site.customer.email,
        "zone": site.zone.name,
        "archived": site.archived_at is not None,
        "hazards": of_sites([site])[site.pk] if hazards is None else hazards,
    }


def page(site: Site) -> dict[str, Any]:
    """Everything of a site."""
    heaters = Heater.objects.in_service().filter(site=site).order_by("bank", "words")
    rows = register_rows(heaters)
    banks = dict(heaters.values_list("pk", "bank"))
    features = list(Feature.objects.filter(site=site, gone=False))
    order = {feature.kind.value: at for at, feature in enumerate(FEATURES)}
    features.sort(key=lambda one: (order[one.kind], one.heater_id or 0, one.pk))
    return {
        "site": site_out(site),
        "heaters": [{**row, "bank": banks[row["id"]]} for row in rows],
        "features": features_out(features),
        "unseen": _unseen(rows, features),
        "open_ends": open_ends_out(
            OpenEnd.objects.filter(site=site).exclude(state=OpenEndState.CLOSED).order_by(*WORST_FIRST)
        ),
    }


def _unseen(heaters: list[dict[str, Any]], features: list[Feature]) -> list[dict[str, Any]]:
    """Each feature that matters to a heater, or to the site, and that nobody has recorded."""
    seen = {(one.kind, one.heater_id) for one in features}
    missing: dict[tuple[FeatureKind, int | None], Spec] = {}
    for heater in heaters:
        for spec in matters_to(HeaterKind(heater["kind"])):
            of = None if spec.of_site else heater["id"]
            if (spec.kind.value, of) not in seen:
                missing[spec.kind, of] = spec
    return [
        {"kind": kind, "group": spec.group, "name": spec.name, "heater_id": of} for (kind, of), spec in missing.items()
    ]


def features_out(features: list[Feature]) -> list[dict[str, Any]]:
    """Features as ``FeatureOut``, in their order."""
    known, units = versions(Feature, [one.pk for one in features]), units_shown()
    return [{**_feature_out(one, units), "version": known.get(one.pk, 0)} for one in features]


def _feature_out(one: Feature, units: Mapping[Quantity, Unit]) -> dict[str, Any]:
    spec = BY_KIND[FeatureKind(one.kind)]
    told = fault(one.seen())
    return {
        **{name: getattr(one, name) for name in ("id", "kind", "heater_id", "form", "condition", "where")},
        **{
            name: getattr(one, name)
            for name in ("do_not_operate", "use_instead", "note", "details", "seen_on", "seen_by")
        },
        "group": spec.group,
        "more": [worded(line, units) for line in details.worded(details.of_feature(spec.kind), one.details)],
        "name": spec.name,
        "condition_words": spec.condition(one.condition).words,
        "severity": told[0] if told else None,
    }


def open_ends_out(found: "QuerySet[OpenEnd]") -> list[dict[str, Any]]:
    """Open ends as ``OpenEndOut``, in their order; two queries."""
    rows = list(found.select_related("site", "heater", "campaign", "raised_by"))
    shown: dict[Any, list[int]] = {}
    taken = Attachment.objects.filter(kind=AttachmentKind.PHOTOGRAPH, gone=False)
    for visit, photograph in taken.filter(
        visit_client_id__in=[one.visit_client_id for one in rows if one.visit_client_id]
    ).values_list("visit_client_id", "pk"):
        shown.setdefault(visit, []).append(photograph)
    return [
        {
            **{n: getattr(one, n) for n in ("id", "kind", "severity", "words", "state", "site_id", "heater_id")},
            **{n: getattr(one, n) for n in ("raised_on", "promised_on", "closed_on", "how_closed")},
            "photographs": shown.get(one.visit_client_id, [])[:6],
            "site": one.site.name,
            "street": one.site.street,
            "heater": one.heater.tag if one.heater else None,
            "location": one.heater.location if one.heater else "",
            "campaign": one.campaign.name if one.campaign else None,
            "raised_by": one.raised_by.name if one.raised_by else "",
        }
        for one in rows
    ]

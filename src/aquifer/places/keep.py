"""Keeping what was seen at a place, with the open end that a fault leaves."""

import datetime

from django.db import transaction

from aquifer import changed
from aquifer.accounts.models import User
from aquifer.core import details
from aquifer.core.kinds import HeaterKind
from aquifer.core.place import BY_KIND, FeatureKind, Severity, fault
from aquifer.core.place import Feature as FeatureSpec
from aquifer.customers.models import Site
from aquifer.errors import Invalid, NotFound
from aquifer.heaters.models import Heater
from aquifer.history import versions
from aquifer.open_ends.models import OpenEnd, OpenEndKind, OpenEndState
from aquifer.places import leaks
from aquifer.places.models import Feature
from aquifer.places.schemas import FeatureIn


def see(site_id: int, payload: FeatureIn, by: User, today: datetime.date) -> Feature:
    """A feature seen for the first time. Raises: Invalid naming the field."""
    site = Site.objects.filter(pk=site_id, archived_at__isnull=True).first()
    if site is None:
        raise NotFound("There is no such site, or it was archived.")
    return _kept(Feature(site=site), payload, by, today)


def see_again(feature_id: int, payload: FeatureIn, by: User, today: datetime.date) -> Feature:
    """The same feature as it is now; how it was stays in its history."""
    with transaction.atomic():
        feature = Feature.objects.select_for_update().filter(pk=feature_id, gone=False).first()
        if feature is None:
            raise NotFound("There is no such feature, or it was taken away.")
        versions.check(feature, payload.version)
        return _kept(feature, payload, by, today)


def take_away(feature_id: int, by: User, today: datetime.date) -> None:
    """It is there no longer; what it left open is closed with it."""
    with transaction.atomic():
        feature = Feature.objects.select_for_update().filter(pk=feature_id, gone=False).first()
        if feature is None:
            raise NotFound("There is no such feature, or it was taken away.")
        feature.gone = True
        feature.save()
        _close(feature, today, "taken away")
    _announced(feature)


def _kept(feature: Feature, payload: FeatureIn, by: User, today: datetime.date) -> Feature:
    spec = BY_KIND[FeatureKind(payload.kind)]
    heater = _heater(feature.site_id, payload, today)
    for name in ("kind", "form", "condition", "where", "do_not_operate", "use_instead", "note"):
        setattr(feature, name, getattr(payload, name))
    feature.heater = None if spec.of_site else heater
    feature.details = feature.details if payload.details is None else payload.details
    feature.seen_on = payload.seen_on or today
    feature.seen_by = by.name
    with transaction.atomic():
        feature.save()
        _open_end(feature, by, today)
    _announced(feature)
    return feature


def _announced(feature: Feature) -> None:
    """Where a leak would run says from when on a new tank is advised."""
    if feature.heater_id is not None and feature.kind in leaks.KINDS:
        changed.heaters([feature.heater_id])


def _heater(site_id: int, payload: FeatureIn, today: datetime.date) -> Heater | None:
    spec = BY_KIND[FeatureKind(payload.kind)]
    wrong = refused(spec, payload.condition, payload.form, payload.do_not_operate)
    for name, why in details.refused(details.of_feature(spec.kind), payload.details or {}).items():
        wrong[f"details.{name}"] = f"{name}: {why}"
    if payload.seen_on is not None and not datetime.date(1950, 1, 1) <= payload.seen_on <= today:
        wrong["seen_on"] = f"{payload.seen_on} is not between 1950-01-01 and today"
    heater = None
    if payload.heater_id is not None:
        heater = Heater.objects.in_service().filter(pk=payload.heater_id, site_id=site_id).first()
        if heater is None:
            wrong["heater_id"] = "no such heater at this site"
        elif HeaterKind(heater.kind) not in spec.of:
            wrong["kind"] = f"a {spec.name} does not matter to this kind of heater"
    elif not spec.of_site:
        wrong["heater_id"] = f"a {spec.name} belongs to a heater: say which"
    if wrong:
        raise Invalid("Not kept. " + "; ".join(wrong.values()), "feature.invalid", wrong)
    return heater


def refused(spec: FeatureSpec, condition: str, form: str, do_not_operate: bool) -> dict[str, str]:
    """What cannot be so of such a thing, by field."""
    wrong: dict[str, str] = {}
    try:
        spec.condition(condition)
    except ValueError as error:
        wrong["condition"] = str(error)
    if form and form not in spec.forms:
        wrong["form"] = f"{form!r} is no form of a {spec.name}; allowed: {', '.join(spec.forms) or 'none'}"
    if do_not_operate and not spec.is_valve:
        wrong["do_not_operate"] = f"a {spec.name} is nothing to operate"
    return wrong


def left_open(feature: Feature, by: User | None) -> OpenEnd | None:
    """The open end that a feature leaves as it was seen, not yet stored; None if it needs nobody."""
    told = fault(feature.seen())
    if told is None or told[0] is Severity.NOTE:
        return None
    severity, words = told
    return OpenEnd(
        site_id=feature.site_id,
        heater_id=feature.heater_id,
        feature=feature,
        kind=OpenEndKind.MISSING_PART if feature.condition == "missing" else OpenEndKind.DEFECT,
        severity=severity,
        words=words[:400],
        raised_on=feature.seen_on,
        raised_by=by,
    )


def _open_end(feature: Feature, by: User, today: datetime.date) -> None:
    """A fault is open until it was seen put right; another fault of the same thing takes its place."""
    open_end = left_open(feature, by)
    if open_end is None:
        _close(feature, today, f"seen in order by {by.name}")
        return
    still = OpenEnd.objects.filter(feature=feature).exclude(state=OpenEndState.CLOSED).first()
    if still is not None:
        still.severity, still.words = open_end.severity, open_end.words
        open_end = still
    open_end.save()


def _close(feature: Feature, today: datetime.date, how: str) -> None:
    for open_end in OpenEnd.objects.filter(feature=feature).exclude(state=OpenEndState.CLOSED):
        open_end.state, open_end.closed_on, open_end.how_closed = OpenEndState.CLOSED, today, how
        open_end.save()

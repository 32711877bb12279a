"""Raising, arranging and closing open ends; campaigns raise one for each heater that may have the doubtful part."""

import datetime

from django.db import IntegrityError, transaction

from aquifer.accounts.models import User
from aquifer.core.place import Severity
from aquifer.customers.models import Site
from aquifer.errors import Conflict, Invalid, NotFound
from aquifer.heaters.models import Heater
from aquifer.history import in_bulk
from aquifer.open_ends.models import Campaign, OpenEnd, OpenEndKind, OpenEndState
from aquifer.open_ends.schemas import CampaignIn, OpenEndIn, StateIn


def raise_one(payload: OpenEndIn, by: User, today: datetime.date) -> OpenEnd:
    """An open end at a heater or a site. Raises: Invalid naming the field."""
    heater = Heater.objects.in_service().filter(pk=payload.heater_id or 0).first()
    if payload.heater_id is not None and heater is None:
        raise Invalid("There is no such heater, or it was archived.", fields={"heater_id": "no such heater"})
    site_id = heater.site_id if heater else payload.site_id
    if site_id is None or not Site.objects.filter(pk=site_id).exists():
        raise Invalid("Say at which heater or site.", fields={"site_id": "no such site"})
    return OpenEnd.objects.create(
        site_id=site_id,
        heater=heater,
        kind=payload.kind,
        severity=payload.severity,
        words=payload.words,
        raised_on=today,
        raised_by=by,
    )


def move(open_end_id: int, payload: StateIn, today: datetime.date) -> OpenEnd:
    """Arrange, close or reopen. Closing a danger needs a word of how. Raises: NotFound, Invalid."""
    with transaction.atomic():
        one = OpenEnd.objects.select_for_update().filter(pk=open_end_id).first()
        if one is None:
            raise NotFound("There is no such open issue.")
        closes = payload.state == OpenEndState.CLOSED
        if closes and one.severity == Severity.DANGER and len(payload.how) < 3:
            raise Invalid("Say how the danger was put right.", fields={"how": "needed to close a danger"})
        others = OpenEnd.objects.filter(feature=one.feature_id).exclude(state=OpenEndState.CLOSED).exclude(pk=one.pk)
        if not closes and one.feature_id and others.exists():
            raise Conflict("The same thing has another open issue by now; go on with that one.", "open_end.another")
        one.state = payload.state
        one.closed_on = today if closes else None
        one.how_closed = payload.how if closes else ""
        one.save()
    return one


def start(payload: CampaignIn, by: User, today: datetime.date) -> Campaign:
    """A campaign, with an open end at every heater in service that may have the part. Raises: Conflict for its name."""
    try:
        with transaction.atomic():
            campaign = Campaign.objects.create(**payload.model_dump())
            reach(campaign, by, today)
    except IntegrityError:
        raise Conflict("A campaign of that name is on record.", fields={"name": "taken"}) from None
    return campaign


def reach(campaign: Campaign, by: User | None, today: datetime.date) -> int:
    """Raise an open end at each heater that may have the part and has none of this campaign; returns how many."""
    found = Heater.objects.in_service().filter(maker__iexact=campaign.maker)
    if campaign.model:
        found = found.filter(model__iexact=campaign.model)
    # One of unknown age may be of any year.
    if campaign.installed_from:
        found = found.exclude(installed_on__lt=campaign.installed_from)
    if campaign.installed_until:
        found = found.exclude(installed_on__gt=campaign.installed_until)
    found = found.exclude(open_ends__campaign=campaign)
    words = f"{campaign.name}: look at the {campaign.part}. In doubt if {campaign.doubtful_look}"
    words += f"; improved if {campaign.sound_look}." if campaign.sound_look else "."
    raised = [
        OpenEnd(
            site_id=site_id,
            heater_id=heater_id,
            campaign=campaign,
            kind=OpenEndKind.DOUBTFUL_PART,
            severity=campaign.severity,
            words=words[:400],
            raised_on=today,
            raised_by=by,
        )
        for heater_id, site_id in found.values_list("pk", "site_id")
    ]
    raised = OpenEnd.objects.bulk_create(raised, batch_size=1000)
    in_bulk.keep(OpenEnd, [one.pk for one in raised], in_bulk.ADDED, by)
    return len(raised)


def end(campaign_id: int, today: datetime.date) -> Campaign:
    """The campaign is over: what it left open is closed with it."""
    with transaction.atomic():
        campaign = Campaign.objects.select_for_update().filter(pk=campaign_id).first()
        if campaign is None:
            raise NotFound("There is no such campaign.")
        campaign.closed = True
        campaign.save()
        for one in OpenEnd.objects.filter(campaign=campaign).exclude(state=OpenEndState.CLOSED):
            one.state, one.closed_on, one.how_closed = OpenEndState.CLOSED, today, "the campaign is over"
            one.save()
    return campaign

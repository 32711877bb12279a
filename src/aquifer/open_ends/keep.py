"""Raising, arranging and closing open ends; campaigns raise one for each heater that may have the doubtful part."""

import datetime
import uuid
from collections.abc import Mapping

from django.db import IntegrityError, transaction

from aquifer.accounts.models import User
from aquifer.core import observations
from aquifer.core.place import Severity
from aquifer.customers.models import Site
from aquifer.errors import Conflict, Invalid, NotFound
from aquifer.heaters.models import Heater, Part
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
        open_end = OpenEnd.objects.select_for_update().filter(pk=open_end_id).first()
        if open_end is None:
            raise NotFound("There is no such open issue.")
        closes = payload.state == OpenEndState.CLOSED
        if closes and open_end.severity == Severity.DANGER and len(payload.how) < 3:
            raise Invalid("Say how the danger was put right.", fields={"how": "needed to close a danger"})
        if closes and open_end.campaign_id and len(payload.how) < 3:
            raise Invalid(
                "Say what was seen: the improved build, or the doubtful one and what became of it.",
                fields={"how": "needed for a campaign"},
            )
        others = (
            OpenEnd.objects.filter(feature=open_end.feature_id)
            .exclude(state=OpenEndState.CLOSED)
            .exclude(pk=open_end.pk)
        )
        if not closes and open_end.feature_id and others.exists():
            raise Conflict("The same thing has another open issue by now; go on with that one.", "open_end.another")
        open_end.state = payload.state
        open_end.closed_on = today if closes else None
        open_end.how_closed = payload.how if closes else ""
        open_end.save()
    return open_end


def hold(heater: Heater, looks: Mapping[str, str], by: User, today: datetime.date, visit: uuid.UUID) -> None:
    """What was looked at at a visit: an open end for each that is not right, one a thing; the one that is right again
    closes its own. Parameters: looks, by the field of each observation."""
    open_now = {
        open_end.observation: open_end
        for open_end in OpenEnd.objects.filter(heater=heater).exclude(state=OpenEndState.CLOSED).exclude(observation="")
    }
    for field, value in looks.items():
        fault, open_end = observations.fault(field, value), open_now.get(field)
        if fault is None or fault[0] is Severity.NOTE:
            if open_end is not None and observations.BY_FIELD[field].look(value) is not None:
                open_end.state = OpenEndState.CLOSED
                open_end.closed_on = today
                open_end.how_closed = f"seen right: {by.name}"
                open_end.save()
            continue
        severity, words = fault
        if open_end is None:
            OpenEnd.objects.create(
                site_id=heater.site_id, heater=heater, severity=severity, words=words, raised_on=today, raised_by=by,
                visit_client_id=visit, observation=field,
            )  # fmt: skip
        elif (open_end.severity, open_end.words) != (severity, words):
            open_end.severity, open_end.words = severity, words
            open_end.save()


def start(payload: CampaignIn, by: User, today: datetime.date) -> Campaign:
    """A campaign, with an open end at every heater in service that may have the part. Raises: Conflict for its name."""
    try:
        with transaction.atomic():
            if not payload.maker and not (payload.build and payload.part_kind):
                raise Invalid(
                    "Say by what the heaters are told: their maker, or the part's kind and build.",
                    fields={"maker": "needed, or the part's kind and build"},
                )
            told = payload.model_dump()
            campaign = Campaign.objects.create(**{**told, "part_kind": told["part_kind"] or ""})
            reach(campaign, by, today)
    except IntegrityError:
        raise Conflict("A campaign of that name is on record.", fields={"name": "taken"}) from None
    return campaign


def reach(campaign: Campaign, by: User | None, today: datetime.date) -> int:
    """Raise an open end at each heater that may have the part and has none of this campaign; returns how many."""
    heaters = Heater.objects.in_service()
    if campaign.maker:
        heaters = heaters.filter(maker__iexact=campaign.maker)
    if campaign.build:
        parts = Part.objects.filter(kind=campaign.part_kind, build__icontains=campaign.build, removed_on__isnull=True)
        heaters = heaters.filter(pk__in=parts.values("heater"))
    if campaign.model:
        heaters = heaters.filter(model__iexact=campaign.model)
    # One of unknown age may be of any year.
    if campaign.installed_from:
        heaters = heaters.exclude(installed_on__lt=campaign.installed_from)
    if campaign.installed_until:
        heaters = heaters.exclude(installed_on__gt=campaign.installed_until)
    heaters = heaters.exclude(open_ends__campaign=campaign)
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
        for heater_id, site_id in heaters.values_list("pk", "site_id")
    ]
    raised = OpenEnd.objects.bulk_create(raised, batch_size=1000)
    in_bulk.keep(OpenEnd, [open_end.pk for open_end in raised], in_bulk.ADDED, by)
    return len(raised)


def reach_all(today: datetime.date) -> int:
    """The same for every campaign under way, for heaters and parts that came since; returns how many."""
    return sum(reach(campaign, None, today) for campaign in Campaign.objects.filter(closed=False))


def end(campaign_id: int, today: datetime.date) -> Campaign:
    """The campaign is over: what it left open is closed with it."""
    with transaction.atomic():
        campaign = Campaign.objects.select_for_update().filter(pk=campaign_id).first()
        if campaign is None:
            raise NotFound("There is no such campaign.")
        campaign.closed = True
        campaign.save()
        for open_end in OpenEnd.objects.filter(campaign=campaign).exclude(state=OpenEndState.CLOSED):
            open_end.state, open_end.closed_on, open_end.how_closed = OpenEndState.CLOSED, today, "the campaign is over"
            open_end.save()
    return campaign

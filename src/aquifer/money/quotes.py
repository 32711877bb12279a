"""The life of a quote: raised by what a visit found, priced by the book, sent, answered, done."""

import datetime
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from django.db import transaction
from django.utils import timezone

from aquifer.core.follow_up import FollowUp, Looked, Proposed, follow_ups
from aquifer.core.kinds import HeaterKind
from aquifer.core.money import NOTHING, entry_of
from aquifer.core.vocabulary import DrainFlow, RodGrade, Task
from aquifer.errors import Conflict, Invalid, NotFound
from aquifer.forecasts.log import judged
from aquifer.heaters.models import Heater
from aquifer.money import prices, warranty
from aquifer.money.models import OPEN, STEPS, MoneySettings, Quote, QuoteLine, QuoteState
from aquifer.visits.models import Visit

ASKED_AGAIN_DAYS = 365
"""After a no, the same thing is not proposed again for a year; what protects people is. Assumption."""
_PROTECTS = (FollowUp.RELIEF_VALVE, FollowUp.EXPANSION_TANK, FollowUp.FIND_LEAK, FollowUp.LICENSED_WORK)
DOES = {
    Task.RELIEF_VALVE_REPLACEMENT: (FollowUp.RELIEF_VALVE,),
    Task.ANODE_REPLACEMENT: (FollowUp.ANODE, FollowUp.OTHER_ANODE),
    Task.EXPANSION_TANK_REPLACEMENT: (FollowUp.EXPANSION_TANK,),
}
"""What is done with by each task."""


def raise_for(visit_id: int) -> list[Quote]:
    """Drafts of what a visit asks to be done, and an end to quotes of what it did. Twice is once."""
    visit = Visit.objects.select_related("heater__site").get(pk=visit_id)
    findings = list(visit.findings.filter(correction__isnull=True))
    with transaction.atomic():
        # The lock keeps a second visit's job from proposing the same beside this one.
        heater = Heater.objects.select_for_update(of=("self",)).select_related("site").get(pk=visit.heater_id)
        done = [what for finding in findings for what in DOES.get(Task(finding.task), ())]
        _end(heater, done, visit.on)
        if heater.archived_at is not None:
            return []
        looked = Looked(
            rod=next((RodGrade(finding.grade) for finding in findings if finding.grade), None),
            rod_replaced=any(finding.task == Task.ANODE_REPLACEMENT for finding in findings),
            drain=next((DrainFlow(finding.drain_flow) for finding in findings if finding.drain_flow), None),
        )
        proposed = follow_ups(judged(heater, timezone.localdate()), looked)
        return [_draft(heater, visit, proposal) for proposal in proposed if _is_new(heater, visit, proposal.what)]


def _end(heater: Heater, done: list[FollowUp], on: datetime.date) -> None:
    for quote in heater.quotes.filter(what__in=done, state__in=OPEN, raised_on__lte=on):
        quote.state, quote.done_on, quote.version = QuoteState.DONE, on, quote.version + 1
        quote.save()


def _is_new(heater: Heater, visit: Visit, what: FollowUp) -> bool:
    """Whether it is neither open, nor of this visit, nor answered with a no not long ago."""
    known = heater.quotes.filter(what=what)
    if known.filter(state__in=OPEN).exists() or known.filter(visit=visit).exists():
        return False
    since = visit.on - datetime.timedelta(days=ASKED_AGAIN_DAYS)
    refused = known.filter(state__in=[QuoteState.DECLINED, QuoteState.DROPPED], raised_on__gte=since)
    return what in _PROTECTS or not refused.exists()


def _draft(heater: Heater, visit: Visit, proposal: Proposed) -> Quote:
    part = warranty.PART_OF.get(proposal.what)
    until = None if part is None else warranty.StandsFor([heater.pk]).part(heater.pk, part, visit.on)
    quote = Quote.objects.create(
        heater=heater, visit=visit, what=proposal.what, why=[words[:240] for words in proposal.why],
        raised_on=visit.on, warranty_until=until,
    )  # fmt: skip
    known = prices.read()
    key = f"{proposal.what}/{HeaterKind(heater.kind)}" if proposal.what is FollowUp.HEATER else proposal.what.value
    entry = entry_of(known.book, key)
    price = known.book.prices[entry].price if entry else None
    if until is not None:
        price = NOTHING
    QuoteLine.objects.create(quote=quote, key=key, words=known.words(key), price=price)
    return quote


@dataclass(frozen=True)
class NewLine:
    key: str
    words: str
    quantity: Decimal
    price: Decimal | None


def _locked(quote_id: int, version: int) -> Quote:
    quote = Quote.objects.select_for_update(of=("self",)).filter(pk=quote_id).first()
    if quote is None:
        raise NotFound("There is no such quote.")
    if quote.version != version:
        raise Conflict("Somebody changed this quote meanwhile: look again.", "quote.changed_meanwhile")
    return quote


def write(quote_id: int, version: int, lines: Sequence[NewLine]) -> Quote:
    """Put other lines in the place of a draft's. Raises: Conflict once it was sent or was changed meanwhile."""
    with transaction.atomic():
        quote = _locked(quote_id, version)
        if quote.state != QuoteState.DRAFT:
            raise Conflict(f"It is {quote.get_state_display()}; only a draft is rewritten.", "quote.is_sent")
        if not lines:
            raise Invalid("A quote has at least one line.", "quote.empty", {"lines": "at least one"})
        quote.lines.all().delete()
        QuoteLine.objects.bulk_create(QuoteLine(quote=quote, **vars(new_line)) for new_line in lines)
        quote.version += 1
        quote.save()
    return quote


def step(quote_id: int, version: int, to: QuoteState, today: datetime.date) -> Quote:
    """Take a quote to its next state. Raises: Conflict where it cannot go there, Invalid for a line without a price."""
    with transaction.atomic():
        quote = _locked(quote_id, version)
        now = QuoteState(quote.state)
        if to not in STEPS[now]:
            ways = " or ".join(f'"{quote_state.label}"' for quote_state in STEPS[now]) or "nowhere"
            raise Conflict(f'It is "{now.label}"; from there it goes {ways}.', "quote.no_such_step")
        if to is QuoteState.SENT:
            unpriced = [quote_line.words for quote_line in quote.lines.filter(price__isnull=True)]
            if unpriced:
                raise Invalid(f"No price yet for {', '.join(unpriced)}.", "quote.unpriced", {"lines": "a price each"})
            quote.sent_on, quote.answered_on = today, None
            quote.valid_until = today + datetime.timedelta(days=MoneySettings.current().quotes_last_days)
        elif to in (QuoteState.ACCEPTED, QuoteState.DECLINED):
            quote.answered_on = today
        elif to is QuoteState.DONE:
            quote.done_on = today
        if to in OPEN and now not in OPEN and _stands_in_the_way(quote):
            raise Conflict("Another quote for the same is open at this heater.", "quote.another_open")
        quote.state, quote.version = to, quote.version + 1
        quote.save()
    return quote


def _stands_in_the_way(quote: Quote) -> bool:
    others = Quote.objects.filter(heater_id=quote.heater_id, what=quote.what, state__in=OPEN)
    return others.exclude(pk=quote.pk).exists()


def lapse(today: datetime.date) -> int:
    """Sent quotes that nobody answered in time. Returns how many."""
    late = Quote.objects.filter(state=QuoteState.SENT, valid_until__lt=today)
    for quote in late:
        quote.state, quote.version = QuoteState.LAPSED, quote.version + 1
        quote.save()
    return len(late)

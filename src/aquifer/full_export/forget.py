"""Forgetting a customer who asks for it: whatever tells of a person goes, what was done to a heater stays.

The record of safety work is kept, and what it taught the forecasts; nobody can tell any more whose it was. Backups hold
what they held until they are thinned.
"""

import json
import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from django.contrib.admin.models import LogEntry
from django.core.files.storage import default_storage
from django.db import connection, transaction
from django.db.models import Model, Q, QuerySet
from django.utils import timezone

from aquifer.accounts.models import Noted
from aquifer.attachments.models import Attachment
from aquifer.core.vocabulary import EndCause
from aquifer.customers.models import Customer, Site, Word
from aquifer.errors import Conflict, Invalid, NotFound
from aquifer.full_export.models import BaseFile, BaseFileState
from aquifer.full_export.one_customer import path_to_customer
from aquifer.heaters.edit import archive
from aquifer.heaters.models import Heater, Likeness, Part
from aquifer.heaters.schemas import EndIn
from aquifer.history.marks import past
from aquifer.imports.models import ImportRun
from aquifer.money.models import Contract
from aquifer.open_ends.models import OpenEnd, OpenEndState
from aquifer.outbox.models import Answer, Contact, Known, Message, SimulatedDelivery
from aquifer.places.models import Feature
from aquifer.programs.models import Delivery
from aquifer.review.models import KeptFigures
from aquifer.rounds.models import Appointment, AppointmentStatus, Closed, Run
from aquifer.visiting.event_log import under_way
from aquifer.visits.models import Amendment, Event, EventApart, Visit
from aquifer.water.models import Zone

NOBODY = "Former customer"
WORDS: dict[type[Model], dict[str, object]] = {
    Site: {
        "street": "", "postcode": "", "hazard": "", "shut_off": "", "access": "", "details": {}, "longitude": None,
        "latitude": None, "located_by": "",
    },
    Heater: {"location": "", "note": "", "end_note": "", "details": {}},
    Part: {"why_removed": "", "details": {}},
    Feature: {"where": "", "use_instead": "", "note": "", "details": {}},
    Appointment: {"said": "", "decides": "", "why": "", "note": ""},
    Closed: {"why": ""},
    OpenEnd: {"words": "", "how_closed": ""},
    Amendment: {"why": ""},
    EventApart: {"told": "", "why": ""},
    Visit: {"note": "", "signature": None},
}  # fmt: skip
"""What is emptied of the records that stay, in their histories too: what people wrote."""
SPOKEN = ("why", "words")
"""Of a tap and of a step on record: what somebody wrote."""


@dataclass(frozen=True)
class Kept:
    """What there is of a customer, before it is forgotten."""

    name: str
    sites: list[str]
    handed_over: list[str]
    """Sites that are others' by now: who is there now is not forgotten, what was said of this customer there is."""
    heaters: int
    visits: int
    photographs: int
    messages: int
    upcoming: int


def kept_of(customer: Customer) -> Kept:
    """What would go or be nobody's."""
    appointments = _of(Appointment, customer).exclude(standing__in=_OVER)
    return Kept(
        name=customer.name,
        sites=list(customer.sites.order_by("name").values_list("name", flat=True)),
        handed_over=list(Site.objects.filter(pk__in=_left(customer)).order_by("name").values_list("name", flat=True)),
        heaters=_of(Heater, customer).count(),
        visits=_of(Visit, customer).count(),
        photographs=_of(Attachment, customer).count(),
        messages=_of(Message, customer).count(),
        upcoming=appointments.count(),
    )


def forget(customer_id: int, name: str) -> list[str]:
    """Forget a customer; returns what was called so. Parameters: name, as whoever asks typed it.

    Raises: NotFound; Invalid for another name; Conflict while a visit is under way there.
    """
    with transaction.atomic():
        customer = Customer.objects.select_for_update().filter(pk=customer_id).first()
        if customer is None:
            raise NotFound("There is no such customer.")
        if name.strip().casefold() != customer.name.casefold():
            raise Invalid("That is not their name: type it as it is on record.", "forget.name", {"name": "another"})
        heaters = list(_of(Heater, customer))
        for heater in heaters:
            if under_way(heater.pk) is not None:
                raise Conflict(f"A visit is under way at {heater.tag}: have it recorded or set aside first.", "forget")
        called = sorted({customer.name, *_names(customer)} - {""}, key=len, reverse=True)
        words = _words(customer)
        with connection.cursor() as cursor:
            cursor.execute("SELECT set_config('aquifer.forgets', 'a customer', true)")
        files = _drop(customer)
        _end(customer, heaters)
        _empty(customer)
        _rename(customer)
        _elsewhere(customer, called)
        _unlearn(words)
        with connection.cursor() as cursor:
            cursor.execute("SELECT set_config('aquifer.forgets', '', true)")
        transaction.on_commit(lambda: _delete(files))
    return called


_OVER = (AppointmentStatus.DONE, AppointmentStatus.CALLED_OFF)


def _of(model: type[Model], customer: Customer) -> "QuerySet[Any]":
    return model._base_manager.filter(**{str(path_to_customer(model)): customer.pk})


def _left(customer: Customer) -> set[int]:
    """Sites that were the customer's and are another's."""
    theirs = past(Site).filter(customer_id=customer.pk)
    return set(theirs.exclude(id__in=customer.sites.all()).values_list("id", flat=True))


def _names(customer: Customer) -> set[str]:
    """What the customer and their sites were ever called."""
    return {
        *past(Customer).filter(id=customer.pk).values_list("name", flat=True),
        *past(Site).filter(customer_id=customer.pk).values_list("name", flat=True),
        *customer.sites.values_list("name", flat=True),
    }


def _drop(customer: Customer) -> list[str]:
    """Photographs, documents and what was written back and forth go whole; returns the files."""
    attachments = list(_of(Attachment, customer))
    files = [path for one in attachments for path in (one.path, one.small_path)]
    _of(Attachment, customer).delete()
    past(Attachment).filter(id__in=[one.pk for one in attachments]).delete()
    digests = [one.digest for one in attachments]
    shared = set(Attachment.objects.filter(digest__in=digests).values_list("digest", flat=True))
    messages = _of(Message, customer)
    SimulatedDelivery.objects.filter(key__in=messages.values_list("key", flat=True)).delete()
    _of(Answer, customer).delete()
    messages.delete()
    _of(Known, customer).delete()
    _of(Contact, customer).delete()
    Likeness.objects.filter(Q(first__site__customer=customer) | Q(second__site__customer=customer)).delete()
    return [path for path in files if not any(digest in path for digest in shared)]


def _delete(files: Iterable[str]) -> None:
    for path in files:
        if default_storage.exists(path):
            default_storage.delete(path)


def _end(customer: Customer, heaters: list[Heater]) -> None:
    """Nothing is planned or owed there any more."""
    now = timezone.now()
    today = timezone.localdate()
    for heater in heaters:
        if heater.archived_at is None:
            is_there = heater.installed_on is None or heater.installed_on <= today
            archive(heater.pk, now, EndIn(cause=EndCause.LEFT, on=today) if is_there else None)
    _of(Appointment, customer).exclude(standing__in=_OVER).update(standing=AppointmentStatus.CALLED_OFF)
    _of(OpenEnd, customer).exclude(state=OpenEndState.CLOSED).update(state=OpenEndState.CLOSED, closed_on=today)
    for contract in _of(Contract, customer).filter(ends_on=None):
        contract.ends_on = max(today, contract.begins_on)
        contract.save()
    customer.sites.filter(archived_at=None).update(archived_at=now)


def _empty(customer: Customer) -> None:
    for model, values in WORDS.items():
        rows = _of(model, customer)
        if hasattr(model, "history"):
            past(model).filter(id__in=list(rows.values_list("pk", flat=True))).update(**values)
        rows.update(**values)
    # What they said of a site that is another's by now.
    past(Site).filter(customer_id=customer.pk).update(**WORDS[Site])
    for event in _of(Event, customer):
        if any(event.body.get(name) for name in SPOKEN):
            Event.objects.filter(pk=event.pk).update(body=_unspoken(event.body))
    for visit in _of(Visit, customer):
        if any(step.get(name) for step in visit.steps for name in SPOKEN):
            Visit.objects.filter(pk=visit.pk).update(steps=[_unspoken(step) for step in visit.steps])


def _unspoken(told: dict[str, object]) -> dict[str, object]:
    return {**told, **{name: "" for name in SPOKEN if name in told}}


def _rename(customer: Customer) -> None:
    code = f"F-{customer.pk}"
    nobody = {"name": f"{NOBODY} {customer.pk}", "phone": "", "second_phone": "", "email": "", "code": code}
    past(Customer).filter(id=customer.pk).update(**nobody)
    Customer.objects.filter(pk=customer.pk).update(**nobody, archived_at=timezone.now())
    for pk in {*customer.sites.values_list("pk", flat=True), *_left(customer)}:
        named = {"name": f"{NOBODY}, site {pk}", "code": f"F-{pk}"}
        past(Site).filter(id=pk, customer_id=customer.pk).update(**named)
        Site.objects.filter(pk=pk, customer=customer).update(**named)


def _elsewhere(customer: Customer, called: list[str]) -> None:
    """What is no record of theirs and names them."""
    named, pattern = _any(called), _pattern(called)
    ours = set(customer.sites.values_list("pk", flat=True))
    for run in ImportRun.objects.exclude(made={}):
        if customer.pk in run.made.get("customers", ()) or ours & set(run.made.get("sites", ())):
            _empty_list(run)
    for run in ImportRun.objects.filter(named("rows__key") | named("rows__detail")).distinct():
        _empty_list(run)
    Delivery.objects.filter(named("body")).delete()
    LogEntry.objects.filter(named("object_repr") | named("change_message")).delete()
    for noted in Noted.objects.filter(named("about")):
        Noted.objects.filter(pk=noted.pk).update(about=pattern.sub(NOBODY.lower(), noted.about))
    for planned in Run.objects.filter(named("left_out")):
        Run.objects.filter(pk=planned.pk).update(
            left_out=[one for one in planned.left_out if not pattern.search(json.dumps(one, ensure_ascii=False))]
        )
    # Reckoned again when somebody asks.
    KeptFigures.objects.all().delete()
    for base in BaseFile.objects.filter(state=BaseFileState.READY):
        base.path.unlink(missing_ok=True)
        base.delete()


def _any(called: list[str]) -> Callable[[str], Q]:
    """A filter for fields that hold one of these names, as words of their own: a short name is part of many words."""

    def named(field: str) -> Q:
        found = Q(pk__in=[])
        for name in called:
            found |= Q(**{f"{field}__iregex": rf"(^|\W){re.escape(name)}(\W|$)"})
        return found

    return named


def _pattern(called: list[str]) -> "re.Pattern[str]":
    return re.compile(rf"(?<!\w)({'|'.join(map(re.escape, called))})(?!\w)", re.IGNORECASE)


def _empty_list(run: ImportRun) -> None:
    """The file that they came in is dropped; so it is taken out again no more."""
    run.rows.all().delete()
    ImportRun.objects.filter(pk=run.pk).update(
        data=b"", columns=[], made={}, decided={}, message="Its file was dropped: a customer in it was forgotten."
    )


def _words(customer: Customer) -> set[str]:
    texts = [
        *_of(Site, customer).values_list("words", flat=True),
        *_of(Heater, customer).values_list("words", flat=True),
    ]
    return {word for text in texts for word in re.findall(r"[^\W\d_]{3,40}", text)}


def _unlearn(words: set[str]) -> None:
    """Words that nothing on record has any more are offered to nobody who mistypes."""
    for word in words:
        is_left = any(model.objects.filter(words__contains=word).exists() for model in (Site, Heater))
        if not is_left and not Zone.objects.filter(name__icontains=word).exists():
            Word.objects.filter(text=word).delete()

"""What other programs are told of: one visit, promise, quote or issue at a time, each once for each address.

Told from the records as they are saved. What a file or a campaign brings in by hundreds is not told one by one.
"""

import uuid
from collections.abc import Mapping

from django.db.models.signals import post_save

from aquifer.money.models import Quote, QuoteState
from aquifer.open_ends.models import OpenEnd
from aquifer.programs.models import Delivery, Hook, HookEvent
from aquifer.rounds.models import Appointment, AppointmentStatus
from aquifer.visits.models import Visit

NAMESPACE = uuid.UUID("b9a1f6f0-2d2b-4a3b-8a53-6d1f5a0d7c11")


def listen() -> None:
    """Hear of records from now on."""
    for model, hears in ((Visit, _visit), (Appointment, _appointment), (Quote, _quote), (OpenEnd, _open_end)):
        post_save.connect(hears, sender=model, dispatch_uid=f"programs.{model.__name__}")


def tell(kind: HookEvent, what: str, body: Mapping[str, object]) -> int:
    """Write an event down for every address that hears of its kind; returns for how many.

    Parameters: what, by which it is the same event if it is told again. It is sent by a job, once what it tells of is
    kept: whoever is cut off in between has told nobody of what is not on record.
    """
    key = uuid.uuid5(NAMESPACE, f"{kind}:{what}")
    hooks = [hook for hook in Hook.objects.filter(active=True) if kind in hook.kinds]
    made = Delivery.objects.bulk_create(
        [Delivery(hook=hook, key=key, kind=kind, body=dict(body)) for hook in hooks], ignore_conflicts=True
    )
    return len(made)


def _visit(instance: Visit, created: bool, **_: object) -> None:
    if created:
        tell(
            HookEvent.VISIT_RECORDED,
            str(instance.pk),
            {"visit_id": instance.pk, "heater_id": instance.heater_id, "on": str(instance.on)},
        )


def _appointment(instance: Appointment, **_: object) -> None:
    if instance.standing == AppointmentStatus.PROMISED and instance.on is not None:
        told = {
            "appointment_id": instance.pk,
            "site_id": instance.site_id,
            "on": str(instance.on),
            "earliest": instance.earliest,
            "latest": instance.latest,
        }
        tell(HookEvent.APPOINTMENT_PROMISED, ":".join(map(str, told.values())), told)


def _quote(instance: Quote, **_: object) -> None:
    if instance.state == QuoteState.ACCEPTED:
        tell(HookEvent.QUOTE_ACCEPTED, str(instance.pk), {"quote_id": instance.pk, "heater_id": instance.heater_id})


def _open_end(instance: OpenEnd, created: bool, **_: object) -> None:
    if created:
        told = {
            "open_issue_id": instance.pk,
            "site_id": instance.site_id,
            "heater_id": instance.heater_id,
            "severity": instance.severity,
            "words": instance.words,
        }
        tell(HookEvent.OPEN_ISSUE_RAISED, str(instance.pk), told)

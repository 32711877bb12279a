"""Taking a change back, whole, if nothing came after it."""

import uuid

from django.db import transaction
from django.db.models import ProtectedError
from django.utils import timezone

from aquifer import changed
from aquifer.accounts.access import SAYS, may
from aquifer.accounts.models import Role, User
from aquifer.attachments.models import Attachment
from aquifer.changes.records import KEPT, Kept
from aquifer.company.models import Company
from aquifer.errors import Conflict, NotAllowed, NotFound
from aquifer.heaters import edit
from aquifer.heaters.models import Heater, Part
from aquifer.history.marks import Marked, past
from aquifer.open_ends.models import OpenEnd, OpenEndState
from aquifer.places.models import Feature
from aquifer.programs.models import Hook
from aquifer.rounds.models import Absence, Appointment, AppointmentStatus, CrewMember
from aquifer.water.models import Season


def take_back(change: uuid.UUID, role: str) -> set[int]:
    """Put every record of a change back to what it was; returns the heaters whose forecasts it moves.

    What the change added is taken out of use: a heater is archived, a feature is gone, an open end closed, a part
    removed, an account rests. Raises: NotFound; NotAllowed if its role could not have made it; Conflict if one of its
    records was changed again, or is in use by now.
    """
    with transaction.atomic():
        rows = [(kept, row) for kept in KEPT for row in past(kept.model).filter(change=change)]
        if not rows:
            raise NotFound("There is no such change.")
        if any(row.history_change_reason for _, row in rows):
            raise Conflict(
                "This came with a file, and a file is not taken back: send one that says what its records should be.",
                "change.of_a_file",
            )
        for kept, _ in rows:
            if not may(role, kept.needs):
                said = f"Your role ({Role(role).label.lower()}) may not {SAYS[kept.needs]}, nor take it back."
                raise NotAllowed(said)
        for kept, row in rows:
            newest = past(kept.model).filter(id=row.id).latest("history_date", "history_id")
            if newest.change != change:
                raise Conflict(
                    f"This {kept.name} was changed again since; take that back first.", "change.not_the_last"
                )
        touched = {_heater_of(kept, row) for kept, row in rows}
        sites = {row.id for kept, row in rows if kept.name == "site"}
        # What was added goes first: an old part comes back into the place of the new one.
        for kept, row in sorted(rows, key=lambda one: (one[1].history_type != "+", -one[1].history_id)):
            _back(kept, row, change)
        touched |= set(Heater.objects.in_service().filter(site__in=sites).values_list("pk", flat=True))
        if any(kept.model is User for kept, _ in rows) and not User.objects.filter(role=Role.LEAD, is_active=True):
            raise Conflict("Then there were no lead: make somebody else one first.", "people.last_lead")
    if any(kept.model is Company for kept, _ in rows):
        changed.everything()
    return {one for one in touched if one is not None}


def _heater_of(kept: Kept, row: Marked) -> int | None:
    return getattr(row, kept.of_heater) if kept.of_heater else None


def _back(kept: Kept, row: Marked, change: uuid.UUID) -> None:
    if row.history_type == "+":
        _out_of_use(kept, row)
        return
    before = (
        past(kept.model)
        .filter(id=row.id, history_id__lt=row.history_id)
        .exclude(change=change)
        .order_by("-history_id")
        .first()
    )
    if before is None:
        raise Conflict(f"What this {kept.name} was before is not on record.", "change.nothing_before")
    record = before.instance
    if isinstance(record, Appointment):
        now = Appointment.objects.filter(pk=record.pk).first()
        if now is None:
            raise Conflict("The season was planned anew since; the visit is another now.", "change.planned_anew")
        record.version = now.version + 1
    if isinstance(record, Heater):
        record.version = Heater.objects.get(pk=record.pk).version + 1
    record.save()


def _out_of_use(kept: Kept, row: Marked) -> None:
    record = kept.model._default_manager.filter(pk=row.id).first()
    if record is None:
        return
    if isinstance(record, Heater):
        if record.archived_at is None:
            edit.archive(record.pk, timezone.now())
    elif isinstance(record, Feature | Attachment):
        record.gone = True
        record.save()
    elif isinstance(record, OpenEnd):
        record.state, record.closed_on, record.how_closed = OpenEndState.CLOSED, timezone.localdate(), "taken back"
        record.save()
    elif isinstance(record, User):
        record.is_active = False
        record.save()
    elif isinstance(record, CrewMember | Hook):
        record.active = False
        record.save()
    elif isinstance(record, Season | Absence):
        record.delete()
    elif isinstance(record, Appointment):
        record.standing = AppointmentStatus.CALLED_OFF
        record.on, record.member, record.begins = None, None, None
        record.save()
    elif isinstance(record, Part):
        try:
            record.delete()
        except ProtectedError:
            raise Conflict("The part has findings by now; it stays.", "change.part_in_use") from None
    else:
        raise Conflict(f"A new {kept.name} is not taken back: archive or merge it.", "change.not_taken_back")

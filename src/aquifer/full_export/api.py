import datetime
import tempfile
from typing import Annotated

from django.db import transaction
from django.db.models import QuerySet
from django.http import FileResponse, HttpRequest
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Router, Schema, Status
from pydantic import Field, StringConstraints
from typing_extensions import TypedDict

from aquifer.accounts.access import Action, allowed, who
from aquifer.accounts.audit import note
from aquifer.accounts.models import Deed
from aquifer.accounts.pace import dear
from aquifer.customers.models import Customer
from aquifer.errors import Conflict, NotFound
from aquifer.full_export import forget, one_customer, tasks
from aquifer.full_export.models import BaseFile, BaseFileState
from aquifer.wire import NO_NUL, Payload

router = Router(tags=["whole base"])
Id = Annotated[int, Field(ge=1, le=2**62)]


class BaseFileOut(Schema):
    id: int
    state: BaseFileState
    done: int
    total: int
    bytes: int
    asked_at: datetime.datetime


class ForgetIn(Payload):
    name: Annotated[str, StringConstraints(max_length=160, pattern=NO_NUL)]


class KeptOfOut(TypedDict):
    """What there is of a customer, before it is forgotten."""

    name: str
    sites: list[str]
    handed_over: Annotated[list[str], Field(description="Sites that were theirs and are another's now.")]
    heaters: int
    visits: int
    photographs: int
    messages: int
    upcoming: Annotated[int, Field(description="Visits planned or promised; they are called off.")]


@router.get("/base-files", response=list[BaseFileOut], auth=allowed(Action.TAKE_OUT))
def base_files(request: HttpRequest) -> QuerySet[BaseFile]:
    """Whole bases that were written, the newest first."""
    return BaseFile.objects.all()[:10]


@router.post("/base-files", response={201: BaseFileOut}, auth=allowed(Action.TAKE_OUT), throttle=dear("job"))
def ask(request: HttpRequest) -> Status[BaseFile]:
    """Write the whole base to a file, as a job."""
    by = who(request)
    with transaction.atomic():
        # One that a stopped worker left half written must not be in the way for ever.
        lately = timezone.now() - tasks.LONGEST
        if BaseFile.objects.filter(state=BaseFileState.WRITING, asked_at__gte=lately).exists():
            raise Conflict("A base is being written already; wait for it.", "base_file.writing")
        made = BaseFile.objects.create(asked_by=by)
        note(Deed.TOOK_OUT, request, by, "the whole base")
        tasks.write_base.defer(base_file_id=made.pk)
    return Status(201, made)


@router.get("/base-files/{base_file_id}/file", response={200: None}, auth=allowed(Action.TAKE_OUT))
def fetch(request: HttpRequest, base_file_id: Id) -> FileResponse:
    base_file = get_object_or_404(BaseFile, pk=base_file_id, state=BaseFileState.READY)
    if not base_file.path.exists():
        raise NotFound("The file is not on this machine; write it anew.", "base_file.no_file")
    return FileResponse(base_file.path.open("rb"), as_attachment=True, filename=base_file.path.name)


@router.get(
    "/customers/{customer_id}/data.zip", response={200: None}, auth=allowed(Action.TAKE_OUT), throttle=dear("paper")
)
def of_customer(request: HttpRequest, customer_id: Id) -> FileResponse:
    """Everything that is kept of one customer, for who asks what it is."""
    customer = get_object_or_404(Customer, pk=customer_id)
    note(Deed.TOOK_OUT, request, who(request), f"everything of {customer.name}")
    made = tempfile.TemporaryFile()  # noqa: SIM115
    one_customer.write(made, customer)
    made.seek(0)
    return FileResponse(made, as_attachment=True, filename=f"customer-{customer.code}.zip")


@router.get("/customers/{customer_id}/forget", response=KeptOfOut, auth=allowed(Action.FORGET))
def would_forget(request: HttpRequest, customer_id: Id) -> KeptOfOut:
    """What would go or be nobody's any more."""
    kept = forget.kept_of(get_object_or_404(Customer, pk=customer_id))
    return {
        "name": kept.name, "sites": kept.sites, "handed_over": kept.handed_over, "heaters": kept.heaters,
        "visits": kept.visits, "photographs": kept.photographs, "messages": kept.messages, "upcoming": kept.upcoming,
    }  # fmt: skip


@router.post("/customers/{customer_id}/forget", response={204: None}, auth=allowed(Action.FORGET))
def forget_customer(request: HttpRequest, customer_id: Id, payload: ForgetIn) -> Status[None]:
    """Whatever tells of a person goes; what was done to the heaters stays, and is nobody's. There is no way back."""
    forget.forget(customer_id, payload.name)
    note(Deed.FORGOT, request, who(request), f"customer {customer_id}")
    return Status(204, None)

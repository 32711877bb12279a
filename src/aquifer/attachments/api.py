import datetime
import uuid
from typing import Annotated

from django.core.files.storage import default_storage
from django.db import transaction
from django.http import FileResponse, HttpRequest
from django.shortcuts import get_object_or_404
from ninja import File, Form, Router, Schema, Status
from ninja.files import UploadedFile
from pydantic import Field, StringConstraints

from aquifer.accounts.access import Action, allowed, who
from aquifer.attachments import keep
from aquifer.attachments.models import Attachment, AttachmentKind
from aquifer.customers.models import Site
from aquifer.errors import Invalid, NotFound, TooLarge
from aquifer.heaters.models import Heater
from aquifer.history import versions
from aquifer.wire import Payload, Version

router = Router(tags=["attachments"])
Id = Annotated[int, Field(ge=1, le=2**62)]
Caption = Annotated[str, StringConstraints(strip_whitespace=True, max_length=160, pattern=r"^[^\x00]*$")]


class AttachmentOut(Schema):
    id: int
    kind: AttachmentKind
    heater_id: int | None
    visit_client_id: uuid.UUID | None
    piece: str
    caption: str
    taken_on: datetime.date | None
    added_at: datetime.datetime
    added_by: str
    bytes: int
    width: int | None
    height: int | None
    version: int

    @staticmethod
    def resolve_version(attachment: Attachment) -> int:
        known: int | None = getattr(attachment, "known_version", None)
        return versions.version_of(attachment) if known is None else known

    @staticmethod
    def resolve_added_by(attachment: Attachment) -> str:
        return attachment.added_by.name if attachment.added_by else ""


class AttachmentIn(Schema):
    site_id: Id | None = None
    heater_id: Id | None = None
    caption: Caption = ""
    piece: Annotated[str, StringConstraints(max_length=20, pattern=r"^[a-z_]*$")] = ""
    client_id: uuid.UUID | None = None
    visit_client_id: uuid.UUID | None = None


class AttachmentPatch(Payload):
    caption: Caption | None = None
    gone: bool | None = None
    version: Version | None = None


@router.get("/attachments", response=list[AttachmentOut], auth=allowed(Action.READ))
def attachments(request: HttpRequest, site_id: Id | None = None, heater_id: Id | None = None) -> list[Attachment]:
    """Of a site with all its heaters, or of one heater; the newest first."""
    if (site_id is None) == (heater_id is None):
        raise Invalid("Ask for the attachments of a site_id or of a heater_id.", fields={"site_id": "one of both"})
    attachments = Attachment.objects.filter(gone=False).select_related("added_by")
    found = attachments.filter(site=site_id) if site_id is not None else attachments.filter(heater=heater_id)
    known = versions.versions(Attachment, found.values_list("pk", flat=True))
    for attachment in (every := list(found)):
        attachment.known_version = known.get(attachment.pk, 0)  # type: ignore[attr-defined]
    return every


@router.post("/attachments", response={201: AttachmentOut}, auth=allowed(Action.RECORD_PLACE))
def add(request: HttpRequest, file: File[UploadedFile], about: Form[AttachmentIn]) -> Status[Attachment]:
    """Keep a photograph (made anew, without what the camera wrote into it) or a PDF document."""
    if (file.size or 0) > keep.MOST_BYTES:
        size, most = (file.size or 0) / 1e6, keep.MOST_BYTES / 1e6
        raise TooLarge(f"The file has {size:.0f} MB; at most {most:.0f} MB are kept.", fields={"file": "?"})
    site_id = about.site_id
    if about.heater_id is not None:
        site_id = get_object_or_404(Heater, pk=about.heater_id).site_id
    elif site_id is None:
        raise Invalid("Say which site or heater it belongs to.", fields={"site_id": "needed"})
    else:
        get_object_or_404(Site, pk=site_id)
    by = who(request)
    if about.client_id is not None and (known := Attachment.objects.filter(client_id=about.client_id).first()):
        return Status(201, known)
    at = (about.client_id, about.visit_client_id, about.piece)
    return Status(201, keep.add(site_id, about.heater_id, about.caption, file.read(), by, *at))


@router.patch("/attachments/{attachment_id}", response=AttachmentOut, auth=allowed(Action.EDIT_REGISTER))
def change(request: HttpRequest, attachment_id: Id, payload: AttachmentPatch) -> Attachment:
    """Name it otherwise, or show it no longer; the file stays."""
    with transaction.atomic():
        of_it = Attachment.objects.select_for_update(of=("self",)).select_related("added_by")
        attachment = get_object_or_404(of_it, pk=attachment_id)
        versions.check(attachment, payload.version)
        for name, value in payload.dict(exclude_none=True, exclude={"version"}).items():
            setattr(attachment, name, value)
        attachment.save()
    return attachment


@router.get("/attachments/{attachment_id}/file", response={200: None}, auth=allowed(Action.READ))
def file(request: HttpRequest, attachment_id: Id, small: bool = False) -> FileResponse:
    """The file, for who is signed in; a document is always saved, never run."""
    attachment = get_object_or_404(Attachment, pk=attachment_id)
    is_picture = attachment.kind == AttachmentKind.PHOTOGRAPH
    path = attachment.small_path if small and is_picture else attachment.path
    if not default_storage.exists(path):
        raise NotFound("The file is not in the storage; restore it from the backup.", "attachment.no_file")
    answer = FileResponse(
        default_storage.open(path),
        as_attachment=not is_picture,
        filename=f"{attachment.kind}-{attachment.pk}.{'jpg' if is_picture else 'pdf'}",
        content_type="image/jpeg" if is_picture else "application/pdf",
    )
    answer["Cache-Control"] = "private, max-age=86400, immutable"
    answer["Content-Security-Policy"] = "default-src 'none'; sandbox"
    return answer

"""The customer's report of a visit: what was done and found, what follows, in plain words, as PDF.

Made from the record alone, which is only added to: what was found cannot read otherwise later, and a correction is told
beside it.
"""

import datetime
import io
from typing import Any

from django.core.files.storage import default_storage
from django.db.models import QuerySet
from reportlab.lib.enums import TA_LEFT
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import (
    Flowable,
    Image,
    ListFlowable,
    ListItem,
    Paragraph,
    SimpleDocTemplate,
    Spacer,
    Table,
)

from aquifer.attachments.models import Attachment, AttachmentKind
from aquifer.company.models import Company
from aquifer.core.judgement.rules import LEAST_SETPOINT_C
from aquifer.core.kinds import HeaterKind
from aquifer.core.procedures.calculators import burn_seconds
from aquifer.core.procedures.library import library
from aquifer.core.units import worded
from aquifer.core.vocabulary import Component
from aquifer.money.models import Quote, QuoteState
from aquifer.visits.marks import marked
from aquifer.visits.models import Begun, Finding, Visit
from aquifer.visits.words import finding_words, step_words, units_shown

_NEXT = {
    Component.SEDIMENT: "Flush of the tank",
    Component.SCALE: "Descale",
    Component.ANODE: "Look at the anode rod",
    Component.RELIEF_VALVE: "Exercise of the relief valve",
    Component.EXPANSION_TANK: "Check of the expansion tank",
}
_OWNER = {
    "tank": (
        "The relief pipe roars or steams: gas or breaker off, leave the cold water on, keep away, call us.",
        "A gas smell or a carbon monoxide alarm: everybody out, touch no switch, call emergency from outside.",
        "Look now and then at the end of the relief valve's pipe: it is dry. Any water there is a reason to call us.",
        "Know where the water, and the heater's gas or breaker, are shut off.",
    ),
    "tankless": (
        "A gas smell or a carbon monoxide alarm: everybody out, touch no switch, call emergency from outside.",
        "Note how the hot water runs at full draw: cooler or weaker than it was is a reason to call us.",
        "Know where the water, and the heater's gas or breaker, are shut off.",
        "Keep the space around its air inlet and exhaust free.",
    ),
}
MOST_PHOTOGRAPHS = 8
PICTURE_WIDTH, PICTURE_HEIGHT = 76 * mm, 70 * mm
LOGO_WIDTH, LOGO_HEIGHT = 50 * mm, 16 * mm
_INK, _SOFT = "#1d2a30", "#4d5b60"
_BODY = ParagraphStyle("body", fontName="Helvetica", fontSize=10.5, leading=15, textColor=_INK, alignment=TA_LEFT)
_SMALL = ParagraphStyle("small", parent=_BODY, fontSize=9, leading=12, textColor=_SOFT)
_TITLE = ParagraphStyle("title", parent=_BODY, fontName="Helvetica-Bold", fontSize=17, leading=21, spaceAfter=2)
_HEAD = ParagraphStyle(
    "head", parent=_BODY, fontName="Helvetica-Bold", fontSize=12, leading=15, spaceBefore=9, spaceAfter=3
)


def content(visit: Visit, office: bool = False) -> dict[str, Any]:
    """What the report says, section by section. Parameters: visit, with its heater, site and customer; office, with
    what somebody of ours should look at."""
    heater, site, units = visit.heater, visit.heater.site, units_shown()
    findings = list(visit.findings.select_related("correction", "amendment__by").order_by("sequence"))
    done = [_found(one) for one in findings if not hasattr(one, "correction")]
    next_ones = [
        f"{_NEXT[Component(one['component'])]}: {_when(one['after_on'], visit.on)}. {worded(one['sentence'], units)}"
        for one in visit.moved
        if one["after_on"] and Component(one["component"]) in _NEXT
    ]
    quotes = Quote.objects.filter(visit=visit).exclude(state=QuoteState.DROPPED).order_by("pk")
    return {
        "title": f"Your water heater, {_day(visit.on)}",
        "about": f"{site.name}, {site.street} · {heater.get_kind_display()} {heater.tag}"
        + (f" · {heater.location}" if heater.location else ""),
        "by": f"{_from(Company.current())}. Visit by {visit.technician}.",
        "ended": _ended(visit),
        "done": done,
        "left": _left(visit),
        "next": next_ones,
        "proposed": [f"{one.get_what_display().capitalize()}: {worded('; '.join(one.why), units)}." for one in quotes],
        "owner": [*_OWNER["tank" if HeaterKind(heater.kind).is_tank else "tankless"], _setting(visit)],
        "looked_at": marked(visit) + _left_out(visit) if office else [],
        "note": visit.note,
        "photographs": list(_photographs(visit)),
    }


def _from(ours: Company) -> str:
    return f"{ours.name}, telephone {ours.phone}" if ours.phone else ours.name


def _setting(visit: Visit) -> str:
    """What the owner does about the setting, by what was measured at a faucet."""
    tap_c = visit.readings.get("verify.tap_c")
    if isinstance(tap_c, (int, float)) and tap_c > LEAST_SETPOINT_C + 1:
        ceiling = worded(f"{{temperature_c:{LEAST_SETPOINT_C}}}", units_shown())
        return f"Hotter than {ceiling} at a faucet scalds: ask us about a mixing valve or a cooler setting."
    return "Leave the setting where it is; hotter water scalds and makes more deposit."


def _found(finding: Finding) -> str:
    words = finding_words(finding, units_shown())
    if finding.amendment is not None:
        amended = finding.amendment
        words += f" ({'put right' if finding.corrects_id else 'added'} on {_day(amended.at.date())}: {amended.why})"
    elif finding.corrects_id:
        words += f" (put right on {_day(finding.on)})"
    return words


def _photographs(visit: Visit) -> "QuerySet[Attachment]":
    ids = [visit.client_id]
    if begun := Begun.objects.filter(visit=visit).first():
        ids += begun.joiners.values_list("client_id", flat=True)
    found = Attachment.objects.filter(visit_client_id__in=ids, kind=AttachmentKind.PHOTOGRAPH, gone=False)
    return found.order_by("added_at", "pk")[:MOST_PHOTOGRAPHS]


def _left(visit: Visit) -> list[str]:
    """How the heater was left, as far as the steps tell."""
    said = []
    tap_c = visit.readings.get("verify.tap_c")
    if isinstance(tap_c, (int, float)):
        hottest = worded(f"Hottest water at a faucet: {{temperature_c:{tap_c}}}", units_shown())
        said.append(f"{hottest}{_scalds(tap_c)}.")
    done = [one for one in visit.steps if not one.get("taken_back")]
    despite = [one for one in done if one["kind"] == "despite"]
    said += [one["words"] for one in done if one.get("words")]
    said += [f"Done otherwise than usual, by decision: {step_words(one['step'])} {one['why']}" for one in despite]
    if any(one["kind"] == "done" and one["step"] == "hand_over.joints" for one in done):
        said.append("Joints, relief outlet and drain were looked at before we left.")
    return said


CHILDRENS_SHARE = 0.5
"""Of the time in which an adult is burned: a child's skin is thinner. Trade practice."""


def _scalds(tap_c: float) -> str:
    """What the hottest water does, as a customer is told; nothing below the usual ceiling."""
    if tap_c < LEAST_SETPOINT_C:
        return ""
    seconds = CHILDRENS_SHARE * burn_seconds(tap_c)
    within = f"{max(1, round(seconds))} seconds" if seconds < 90 else f"{round(seconds / 60)} minutes"
    return f": it can burn a child within {within}"


def _left_out(visit: Visit) -> list[str]:
    """Steps that were left out, each with its reason."""
    return [
        f"{step_words(one['step'])} Left out: {one['why']}."
        for one in visit.steps
        if one["kind"] == "skipped" and one.get("why") and not one.get("taken_back")
    ]


def _ended(visit: Visit) -> list[str]:
    """Why the work ended early, and what that means for the customer."""
    ending = library().endings.get(visit.ending)
    if ending is None:
        return []
    off = ending.leaves in ("left_off", "evacuated")
    back = [f"We are back by {_day(visit.return_on)}."] if visit.return_on else ["Our office calls you about it."]
    return [f"{ending.title}.", ending.customer, *(back if off else [])]


def _day(on: datetime.date) -> str:
    return f"{on.day} {on:%B %Y}"


def _when(iso: str, on: datetime.date) -> str:
    """When we come for it; a day that has passed is nothing to tell a customer."""
    return f"about {_month(iso)}" if iso > on.isoformat() else "at our next visit"


def _month(iso: str) -> str:
    return f"{datetime.date.fromisoformat(iso):%B %Y}"


def pdf(visit: Visit, office: bool = False) -> bytes:
    """The report as a PDF file. Parameters: office, with what somebody of ours should look at."""
    told, out = content(visit, office), io.BytesIO()
    page = SimpleDocTemplate(
        out, pagesize=A4, leftMargin=22 * mm, rightMargin=22 * mm, topMargin=20 * mm, bottomMargin=18 * mm,
        title=told["title"], author=Company.current().name, invariant=True,
    )  # fmt: skip
    flow: list[Any] = [*_logo(), Paragraph(_safe(told["title"]), _TITLE), Paragraph(_safe(told["about"]), _BODY)]
    flow.append(Paragraph(_safe(told["by"]), _SMALL))
    for name, head in (
        ("ended", "How it is left, and why"),
        ("done", "What was done and found"),
        ("left", "Before we left"),
        ("proposed", "What we propose"),
        ("next", "When we come again, and why"),
        ("owner", "What you can do yourself"),
        ("looked_at", "For the office: to be looked at"),
    ):
        if told[name]:
            flow += [Paragraph(head, _HEAD), _points(told[name])]
    if told["note"]:
        flow += [Paragraph("Note", _HEAD), Paragraph(_safe(told["note"]), _BODY)]
    if told["photographs"]:
        flow += [Paragraph("Photographs", _HEAD), _pictures(told["photographs"])]
    if visit.signature:
        signed = _safe(f"Signed: {visit.signature['name']}, {_day(visit.on)}")
        flow += [Spacer(1, 4 * mm), _Signature(visit.signature["lines"]), Paragraph(signed, _SMALL)]
    flow += [
        Spacer(1, 6 * mm),
        Paragraph("Dates are forecasts and move with what is found. Local codes come first.", _SMALL),
    ]
    page.build(flow)
    return out.getvalue()


def _logo() -> list[Any]:
    path = Company.current().logo
    if not path or not default_storage.exists(path):
        return []
    with default_storage.open(path) as file:
        made = Image(io.BytesIO(file.read()), hAlign="LEFT")
    scale = min(LOGO_WIDTH / made.imageWidth, LOGO_HEIGHT / made.imageHeight)
    made.drawWidth, made.drawHeight = made.imageWidth * scale, made.imageHeight * scale
    return [made, Spacer(1, 4 * mm)]


def _pictures(photographs: list[Attachment]) -> Table:
    cells: list[Any] = []
    for one in photographs:
        if not default_storage.exists(one.path):
            continue
        with default_storage.open(one.path) as file:
            data = io.BytesIO(file.read())
        scale = min(PICTURE_WIDTH / one.width, PICTURE_HEIGHT / one.height)
        cells.append([Image(data, one.width * scale, one.height * scale), Paragraph(_safe(one.caption), _SMALL)])
    rows = [cells[at : at + 2] + [""] * (2 - len(cells[at : at + 2])) for at in range(0, len(cells), 2)]
    return Table(
        rows or [[""]],
        colWidths=[PICTURE_WIDTH + 4 * mm] * 2,
        hAlign="LEFT",
        style=[("VALIGN", (0, 0), (-1, -1), "TOP")],
    )


class _Signature(Flowable):
    """Lines as they were drawn, in a box 300 by 100."""

    def __init__(self, lines: list[list[tuple[float, float]]]) -> None:
        super().__init__()
        self.lines, self.width, self.height = lines, 60 * mm, 20 * mm

    def wrap(self, *available: float) -> tuple[float, float]:
        return self.width, self.height

    def draw(self) -> None:
        self.canv.setLineWidth(1.1)
        self.canv.setLineCap(1)
        for line in self.lines:
            path = self.canv.beginPath()
            points = [(x / 300 * self.width, (1 - y / 100) * self.height) for x, y in line]
            for at, point in enumerate(points):
                (path.lineTo if at else path.moveTo)(*point)
            if len(points) == 1:
                path.lineTo(points[0][0] + 1, points[0][1])
            self.canv.drawPath(path)
        self.canv.line(0, 0, self.width, 0)


def _points(lines: list[str]) -> ListFlowable:
    items = [ListItem(Paragraph(_safe(line), _BODY), leftIndent=12) for line in lines]
    return ListFlowable(items, bulletType="bullet", start="–", leftIndent=12)


def _safe(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")

"""The customer's report of a visit: what was done and found, what follows, in plain words, as PDF.

Made from the record alone, which is only added to: what was found cannot read otherwise later, and a correction is told
beside it. Of a part that was fitted, and of where things are shut off, it tells what is known now.
"""

import datetime
import io
from collections.abc import Mapping
from decimal import Decimal
from itertools import zip_longest
from typing import TypedDict
from xml.sax.saxutils import escape

from django.core.files.storage import default_storage
from reportlab.lib.enums import TA_LEFT
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Image, Spacer

from aquifer.attachments.models import Attachment, AttachmentKind
from aquifer.company.models import Company
from aquifer.core.follow_up import FollowUp
from aquifer.core.judgement import Verdict
from aquifer.core.judgement.rules import LEAST_SETPOINT_C
from aquifer.core.kinds import HeaterKind
from aquifer.core.procedures.calculators import burn_seconds
from aquifer.core.procedures.library import library
from aquifer.core.units import Quantity, Unit, worded
from aquifer.core.vocabulary import Component, Task
from aquifer.forecasts.log import at_visit
from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Part, PartKind
from aquifer.money.models import MoneySettings, Quote, QuoteState
from aquifer.papers.tagged import Figure, Grid, Paper, Paragraph, Point
from aquifer.places.models import Feature
from aquifer.visiting import owners_calendar, owners_drawings, owners_year
from aquifer.visiting.customer_words import NEXT, done, means, offered, where_to_shut_off
from aquifer.visiting.drawn_section import seen_inside
from aquifer.visits import moved, readings
from aquifer.visits.marks import marked
from aquifer.visits.models import EventKind, Finding, Visit, VisitSession
from aquifer.visits.schemas import MovedKept
from aquifer.visits.words import step_words, units_shown

_OWNER = {
    "tank": (
        "The pipe of the safety valve roars or steams: gas or breaker off, cold water left on, keep away, call us.",
        "A gas smell or a carbon monoxide alarm: everybody out, touch no switch, call emergency from outside.",
        "Look now and then at the end of the safety valve's pipe: it is dry. Any water there is a reason to call us.",
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
Cell = list[Flowable] | str
"""Of a table."""
_BODY = ParagraphStyle("body", fontName="Helvetica", fontSize=10.5, leading=15, textColor=_INK, alignment=TA_LEFT)
_POINT = ParagraphStyle("point", parent=_BODY, leftIndent=12)
_SMALL = ParagraphStyle("small", parent=_BODY, fontSize=9, leading=12, textColor=_SOFT)
_TITLE = ParagraphStyle("title", parent=_BODY, fontName="Helvetica-Bold", fontSize=17, leading=21, spaceAfter=2)
_HEAD = ParagraphStyle(
    "head", parent=_BODY, fontName="Helvetica-Bold", fontSize=12, leading=15, spaceBefore=9, spaceAfter=3
)


class Told(TypedDict):
    """What a report says, section by section."""

    title: str
    about: str
    by: str
    ended: list[str]
    done: list[str]
    means: list[str]
    agreed: list[str]
    left: list[str]
    next: list[str]
    proposed: list[str]
    owner: list[str]
    year: list[owners_year.Task]
    shut_off: list[str]
    looked_at: list[str]
    noted: list[str]
    note: str
    photographs: list[tuple[Attachment | None, Attachment]]


def content(visit: Visit, office: bool = False) -> Told:
    """What the report says, section by section. Parameters: visit, with its heater, site and customer; office, with
    what somebody of ours should look at."""
    heater, site, units = visit.heater, visit.heater.site, units_shown()
    findings = list(visit.findings.select_related("correction", "amendment__by", "part").order_by("sequence"))
    standing = [finding for finding in findings if not hasattr(finding, "correction")]
    next_ones = [
        f"{NEXT[Component(one['component'])]}: {_when(one['after_on'], visit.on)}{_moved(one)}."
        for one in moved.standing(visit)
        if one["after_on"] and Component(one["component"]) in NEXT
    ]
    quotes = Quote.objects.filter(visit=visit).exclude(state=QuoteState.DROPPED).prefetch_related("lines")
    return {
        "title": f"Your water heater, {_day(visit.on)}",
        "about": f"{site.name}, {site.street} · {heater.get_kind_display()} {heater.tag}"
        + (f" · {heater.location}" if heater.location else ""),
        "by": f"{_from(Company.current())}. Visit by {visit.technician}.",
        "ended": _ended(visit),
        "done": [
            *(_found(finding, units) for finding in standing),
            *(f"We fitted a {one}." for one in readings.fitted(visit)),
        ],
        "means": [*dict.fromkeys(filter(None, map(means, standing))), *_left_alone(visit)],
        "agreed": _agreed(visit),
        "left": _left(visit),
        "next": next_ones,
        "proposed": [f"{offered(FollowUp(quote.what))}{_price(quote)}." for quote in quotes.order_by("pk")],
        "owner": [*_OWNER["tank" if HeaterKind(heater.kind).is_tank else "tankless"], _setting(visit)],
        "year": year(visit),
        "shut_off": where_to_shut_off(Feature.objects.filter(site=site, gone=False).order_by("pk"), heater.pk),
        "looked_at": marked(visit) + _left_out(visit) if office else [],
        "noted": _noted(visit) if office else [],
        "note": visit.note,
        "photographs": _photographs(visit),
    }


def _from(ours: Company) -> str:
    return f"{ours.name}, telephone {ours.phone}" if ours.phone else ours.name


def _agreed(visit: Visit) -> list[str]:
    """What was agreed at the door besides, for what and by whom."""
    told = readings.in_words(visit)
    setting = told.get("agreed.setting")
    said = [f"The setting is as agreed with {setting}."] if setting else []
    if not told.get("agreed.work"):
        return said
    price = f", for {told['agreed.price']}" if told.get("agreed.price") else ""
    by = f" Agreed by {told['agreed.by']}." if told.get("agreed.by") else ""
    return [f"{told['agreed.work']}{price}.{by}", *said]


def _left_alone(visit: Visit) -> list[str]:
    """Why a tank was not flushed that is better left as it is."""
    heater = visit.heater
    flushed = Finding.objects.filter(heater=heater, task=Task.FLUSH, correction__isnull=True).exists()
    if not HeaterKind(heater.kind).is_tank or flushed or heater.archived_at is not None:
        return []
    forecasts = {forecast.component: forecast for forecast in Forecast.objects.current().filter(heater=heater)}
    judged = at_visit(heater, visit.on, forecasts)[2].get("flush_or_leave")
    if judged is None or judged.verdict is not Verdict.LEAVE_ALONE:
        return []
    return [
        "We did not flush the tank on purpose: it is old, was never flushed as far as anybody knows, and what lies in "
        "it may be what keeps it tight. It is used as it is until it is changed."
    ]


def year(visit: Visit) -> list[owners_year.Task]:
    """What the owner does once a year here."""
    heater = visit.heater
    parts = {PartKind(part.kind): part for part in Part.objects.filter(heater=heater, removed_on__isnull=True)}
    tried = (
        Finding.objects.filter(
            heater=heater, task=Task.RELIEF_VALVE_EXERCISE, correction__isnull=True, on__lte=visit.on
        )
        .order_by("-on", "-pk")
        .values_list("outcome", flat=True)
        .first()
    )
    features = Feature.objects.filter(site=heater.site, gone=False)
    proposed = Quote.objects.filter(visit=visit, what=FollowUp.HEATER).exclude(state=QuoteState.DROPPED)
    leave_tank = bool(_left_alone(visit)) or proposed.exists()
    return owners_year.tasks(heater, parts, features, tried or "", visit.on, leave_tank)


def _setting(visit: Visit) -> str:
    """What the owner does about the setting, by what was measured at a faucet."""
    tap_c = readings.standing(visit).get("verify.tap_c")
    if tap_c is not None and tap_c > LEAST_SETPOINT_C + 1:
        ceiling = worded(f"{{temperature_c:{LEAST_SETPOINT_C}}}", units_shown())
        return f"Hotter than {ceiling} at a faucet scalds: ask us about a mixing valve or a cooler setting."
    return "Leave the setting where it is; hotter water scalds and makes more deposit."


def _moved(moved: MovedKept) -> str:
    """Whether we come sooner or later than was thought before the visit."""
    days = moved.get("days") or 0
    if abs(days) < LITTLE_DAYS:
        return ""
    return ", sooner than we had thought" if days < 0 else ", later than we had thought"


LITTLE_DAYS = 30
"""A date that moves by less is the same to a customer. Assumption."""


def _price(quote: Quote) -> str:
    """What a proposal costs, where every line of it has its price and the office has looked at it."""
    lines = list(quote.lines.all())
    if quote.warranty_until is not None and not any(quote_line.price for quote_line in lines):
        return f", at no charge: we fitted it, and stand for it until {_day(quote.warranty_until)}"
    if quote.state == QuoteState.DRAFT or not lines or any(quote_line.price is None for quote_line in lines):
        return ""
    total = sum((quote_line.quantity * (quote_line.price or 0) for quote_line in lines), Decimal(0))
    return f". It costs {total:,.2f} {MoneySettings.current().currency}, without tax"


def _found(finding: Finding, units: Mapping[Quantity, Unit]) -> str:
    words = done(finding, units)
    if finding.amendment is not None:
        amended = finding.amendment
        words += f" ({'put right' if finding.corrects_id else 'added'} on {_day(amended.at.date())}: {amended.why})"
    elif finding.corrects_id:
        words += f" (put right on {_day(finding.on)})"
    return words


def _photographs(visit: Visit) -> list[tuple[Attachment | None, Attachment]]:
    """What was photographed at a visit, each with the newest picture of the same piece from a visit before."""
    ids = [visit.client_id]
    if session := VisitSession.objects.filter(visit=visit).first():
        ids += session.joiners.values_list("client_id", flat=True)
    every = Attachment.objects.filter(kind=AttachmentKind.PHOTOGRAPH, gone=False)
    taken = list(every.filter(visit_client_id__in=ids).order_by("added_at", "pk")[:MOST_PHOTOGRAPHS])
    if not taken:
        return []
    earlier = every.filter(heater=visit.heater_id, added_at__lt=taken[0].added_at).exclude(piece="")
    last = {
        attachment.piece: attachment
        for attachment in earlier.exclude(visit_client_id__in=ids).order_by("added_at", "pk")
    }
    return [(last.pop(attachment.piece, None), attachment) for attachment in taken]


def _left(visit: Visit) -> list[str]:
    """How the heater was left, as far as the steps tell."""
    said = []
    taken = readings.standing(visit)
    tap_c = taken.pop("verify.tap_c", None)
    if tap_c is not None:
        hottest = worded(f"Hottest water at a faucet: {{temperature_c:{tap_c}}}", units_shown())
        said.append(f"{hottest}{_scalds(tap_c)}.")
    told = {name: taken[name] for name in _FOR_CUSTOMERS if name in taken}
    said += [f"{line}." for line in readings.words(told, units_shown())]
    done = [one for one in visit.steps if not one.get("taken_back")]
    override = [one for one in done if one["kind"] == "override"]
    said += [one["words"] for one in done if one.get("words")]
    said += [f"Done otherwise than usual, by decision: {step_words(one['step'])} {one['why']}" for one in override]
    if any(one["kind"] == "done" and one["step"] == "hand_over.joints" for one in done):
        said.append("Joints, relief outlet and drain were looked at before we left.")
    return said


_FOR_CUSTOMERS = ("arrival.tap_c", "look.co_ppm")
"""Readings besides the faucet's that say something to who lives there; the office is told them all."""
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


def _noted(visit: Visit) -> list[str]:
    """What was read and written down at the steps, for ourselves."""
    noted = [one["why"] for one in visit.steps if one["kind"] == EventKind.NOTED and not one.get("taken_back")]
    return [*readings.seen(visit), *readings.words(readings.standing(visit), units_shown()), *noted]


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
    page = Paper(
        out, pagesize=A4, leftMargin=22 * mm, rightMargin=22 * mm, topMargin=20 * mm, bottomMargin=18 * mm,
        title=told["title"], author=Company.current().name, invariant=True,
    )  # fmt: skip
    section = seen_inside(visit)
    flow: list[Flowable] = [*_logo(), Paragraph(escape(told["title"]), _TITLE), Paragraph(escape(told["about"]), _BODY)]
    flow.append(Paragraph(escape(told["by"]), _SMALL))
    for head, points in (
        ("How it is left, and why", told["ended"]),
        ("What we did and saw", told["done"]),
    ):
        flow += _section(head, points)
    if told["done"] and section:
        flow += [Spacer(1, 2 * mm), Figure(section, "The tank, cut open, as it was found: what is said above")]
    for head, points in (
        ("What it means", told["means"]),
        ("What you agreed to", told["agreed"]),
        ("Before we left", told["left"]),
        ("What we propose", told["proposed"]),
        ("When we come again", told["next"]),
        ("What you can do yourself", told["owner"]),
    ):
        flow += _section(head, points)
    flow += _owners_year(told["year"], owners_calendar.address(visit))
    for head, points in (
        ("Where it is shut off", told["shut_off"]),
        ("For the office: to be looked at", told["looked_at"]),
        ("For the office: noted at the visit", told["noted"]),
    ):
        flow += _section(head, points)
    if told["note"]:
        flow += [Paragraph("Note", _HEAD), Paragraph(escape(told["note"]), _BODY)]
    if told["photographs"]:
        flow += [Paragraph("Photographs", _HEAD), _pictures(told["photographs"])]
    if visit.signature:
        signed = escape(f"Signed: {visit.signature['name']}, {_day(visit.on)}")
        drawn = Figure(_Signature(visit.signature["lines"]), "The signature")
        flow += [Spacer(1, 4 * mm), drawn, Paragraph(signed, _SMALL)]
    flow += [
        Spacer(1, 6 * mm),
        Paragraph("Dates are forecasts and move with what is found. Local codes come first.", _SMALL),
    ]
    page.build(flow)
    return out.getvalue()


def _section(head: str, points: list[str]) -> list[Flowable]:
    return [Paragraph(head, _HEAD), *(Point(escape(line), _POINT) for line in points)] if points else []


def _owners_year(tasks: list[owners_year.Task], reminder: str) -> list[Flowable]:
    """Each task with its drawing, two in a row, and where a calendar gets it from."""
    if not tasks:
        return []
    said = [Paragraph(escape(task.says), _BODY) for task in tasks if task.picture is None]
    cells: list[list[Flowable]] = [
        [Figure(owners_drawings.drawn(task.picture), ""), Paragraph(escape(task.says), _SMALL)]
        for task in tasks
        if task.picture is not None
    ]
    rows = [[*left, *right] for left, right in zip_longest(cells[::2], cells[1::2], fillvalue=["", ""])]
    beside = 83 * mm - owners_drawings.WIDTH
    widths = [owners_drawings.WIDTH, beside] * 2
    table = Grid(
        rows, colWidths=widths, style=[("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0)]
    )
    link = [Paragraph(f'<link href="{escape(reminder)}" color="#1f5d78">Put it in your calendar</link>', _BODY)]
    return [Paragraph("Once a year, if you like", _HEAD), *said, table, *(link if reminder else [])]


def _logo() -> list[Flowable]:
    path = Company.current().logo
    if not path or not default_storage.exists(path):
        return []
    with default_storage.open(path) as file:
        made = Image(io.BytesIO(file.read()), hAlign="LEFT")
    scale = min(LOGO_WIDTH / made.imageWidth, LOGO_HEIGHT / made.imageHeight)
    made.drawWidth, made.drawHeight = made.imageWidth * scale, made.imageHeight * scale
    return [Figure(made, Company.current().name), Spacer(1, 4 * mm)]


def _pictures(photographs: list[tuple[Attachment | None, Attachment]]) -> Grid:
    """Two in a row: as a piece was last time beside as it is now, else one after the other."""
    rows: list[list[Cell]] = []
    alone: list[Cell] = []
    for before, now in photographs:
        cells = [
            cell
            for attachment in (before, now)
            if attachment is not None and (cell := _picture(attachment, attachment is before))
        ]
        if len(cells) == 2:
            rows.append(cells)
        else:
            alone += cells
    rows += [alone[at : at + 2] + [""] * (2 - len(alone[at : at + 2])) for at in range(0, len(alone), 2)]
    return Grid(
        rows or [[""]],
        colWidths=[PICTURE_WIDTH + 4 * mm] * 2,
        hAlign="LEFT",
        style=[("VALIGN", (0, 0), (-1, -1), "TOP")],
    )


def _picture(attachment: Attachment, is_before: bool) -> Cell | None:
    if not default_storage.exists(attachment.path):
        return None
    with default_storage.open(attachment.path) as file:
        data = io.BytesIO(file.read())
    scale = min(PICTURE_WIDTH / attachment.width, PICTURE_HEIGHT / attachment.height)
    words = (
        f"As it was on {_day(attachment.taken_on or attachment.added_at.date())}" if is_before else attachment.caption
    )
    shown = Image(data, attachment.width * scale, attachment.height * scale)
    return [Figure(shown, words or "A photograph of the visit"), Paragraph(escape(words), _SMALL)]


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

"""The customer's report of a visit: what was done and found, what follows, in plain words, as PDF.

Made from the record alone, which is only added to: what was found cannot read otherwise later, and a correction is told
beside it.
"""

import datetime
import io
from typing import Any

from reportlab.lib.enums import TA_LEFT
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import ListFlowable, ListItem, Paragraph, SimpleDocTemplate, Spacer

from aquifer.company.models import Company
from aquifer.core.procedures.figures import burn_seconds
from aquifer.core.procedures.library import library
from aquifer.core.vocabulary import Component, HeaterKind
from aquifer.money.models import Quote, QuoteState
from aquifer.visits.models import Visit
from aquifer.visits.words import finding_words

_NEXT = {
    Component.SEDIMENT: "Flush of the tank",
    Component.SCALE: "Descale",
    Component.ANODE: "Look at the anode rod",
    Component.RELIEF_VALVE: "Exercise of the relief valve",
    Component.EXPANSION_TANK: "Check of the expansion tank",
}
_OWNER = {
    "tank": (
        "Look now and then at the end of the relief valve's pipe: it is dry. Any water there is a reason to call us.",
        "Know where the water, and the heater's gas or breaker, are shut off.",
        "Leave the setting where it is; hotter water scalds and makes more deposit.",
    ),
    "tankless": (
        "Note how the hot water runs at full draw: cooler or weaker than it was is a reason to call us.",
        "Know where the water, and the heater's gas or breaker, are shut off.",
        "Keep the space around its air inlet and exhaust free.",
    ),
}
_INK, _SOFT = "#1d2a30", "#4d5b60"
_BODY = ParagraphStyle("body", fontName="Helvetica", fontSize=10.5, leading=15, textColor=_INK, alignment=TA_LEFT)
_SMALL = ParagraphStyle("small", parent=_BODY, fontSize=9, leading=12, textColor=_SOFT)
_TITLE = ParagraphStyle("title", parent=_BODY, fontName="Helvetica-Bold", fontSize=17, leading=21, spaceAfter=2)
_HEAD = ParagraphStyle(
    "head", parent=_BODY, fontName="Helvetica-Bold", fontSize=12, leading=15, spaceBefore=9, spaceAfter=3
)


def content(visit: Visit) -> dict[str, Any]:
    """What the report says, section by section. Parameters: visit, with its heater, site and customer."""
    heater, site = visit.heater, visit.heater.site
    findings = list(visit.findings.select_related("correction").order_by("sequence"))
    later = [one.correction for one in findings if hasattr(one, "correction")]
    done = [finding_words(one) for one in findings if not hasattr(one, "correction")]
    done += [f"{finding_words(one)} (put right on {_day(one.on)})" for one in later]
    next_ones = [
        f"{_NEXT[Component(one['component'])]}: about {_month(one['after_on'])}. {one['sentence']}"
        for one in visit.moved
        if one["after_on"] and Component(one["component"]) in _NEXT
    ]
    quotes = Quote.objects.filter(visit=visit).exclude(state=QuoteState.DROPPED).order_by("pk")
    return {
        "title": f"Your water heater, {_day(visit.on)}",
        "about": f"{site.name}, {site.street} · {heater.get_kind_display()} {heater.tag}"
        + (f" · {heater.location}" if heater.location else ""),
        "by": f"{Company.current().name}. Visit by {visit.technician}.",
        "done": done,
        "left": _left(visit),
        "next": next_ones,
        "proposed": [f"{one.get_what_display().capitalize()}: {'; '.join(one.why)}." for one in quotes],
        "owner": list(_OWNER["tank" if HeaterKind(heater.kind).is_tank else "tankless"]),
        "note": visit.note,
    }


def _left(visit: Visit) -> list[str]:
    """How the heater was left, as far as the steps tell."""
    said = []
    taps = [one["tap_c"] for one in visit.steps if one.get("tap_c")]
    if taps:
        seconds = burn_seconds(taps[-1])
        warns = f": it can burn within {max(1, round(seconds))} seconds" if seconds < 60 else ""
        said.append(f"Hottest water at a tap: {taps[-1]:.0f} °C{warns}.")
    despite = [one for one in visit.steps if one["kind"] == "despite"]
    said += [f"Done otherwise than usual, by decision: {_step(one['step'])}. {one['why']}" for one in despite]
    if visit.steps and visit.steps[-1]["step"].startswith("hand_over"):
        said.append("Joints, relief outlet and drain were looked at before we left.")
    return said


def _step(name: str) -> str:
    procedure, step = name.split(".")
    found = library().procedures.get(procedure)
    return next((one.do for one in found.steps if one.id == step), name) if found else name


def _day(on: datetime.date) -> str:
    return f"{on.day} {on:%B %Y}"


def _month(iso: str) -> str:
    return f"{datetime.date.fromisoformat(iso):%B %Y}"


def pdf(visit: Visit) -> bytes:
    """The report as a PDF file."""
    told, out = content(visit), io.BytesIO()
    page = SimpleDocTemplate(
        out, pagesize=A4, leftMargin=22 * mm, rightMargin=22 * mm, topMargin=20 * mm, bottomMargin=18 * mm,
        title=told["title"], author=Company.current().name, invariant=True,
    )  # fmt: skip
    flow: list[Any] = [Paragraph(_safe(told["title"]), _TITLE), Paragraph(_safe(told["about"]), _BODY)]
    flow.append(Paragraph(_safe(told["by"]), _SMALL))
    for name, head in (
        ("done", "What was done and found"),
        ("left", "How it was left"),
        ("proposed", "What we propose"),
        ("next", "When we come again, and why"),
        ("owner", "What you can do yourself"),
    ):
        if told[name]:
            flow += [Paragraph(head, _HEAD), _points(told[name])]
    if told["note"]:
        flow += [Paragraph("Note", _HEAD), Paragraph(_safe(told["note"]), _BODY)]
    flow += [
        Spacer(1, 6 * mm),
        Paragraph("Dates are forecasts and move with what is found. Local codes come first.", _SMALL),
    ]
    page.build(flow)
    return out.getvalue()


def _points(lines: list[str]) -> ListFlowable:
    items = [ListItem(Paragraph(_safe(line), _BODY), leftIndent=12) for line in lines]
    return ListFlowable(items, bulletType="bullet", start="–", leftIndent=12)


def _safe(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")

"""Ten years of a heater in money on one page, for its owner."""

import datetime
import io
from xml.sax.saxutils import escape

from reportlab.graphics.shapes import Drawing, Line, Rect, String
from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Spacer

from aquifer.company.models import Company
from aquifer.heaters.models import Heater
from aquifer.money.schemas import TenYearsOut, TenYearsWayOut
from aquifer.papers.tagged import Figure, Paper, Paragraph, Table

_INK, _SOFT, _LINE = (HexColor(one) for one in ("#1d2a30", "#4d5b60", "#d5cfc0"))
_COLOURS = {
    "services": HexColor("#2f7286"),
    "repairs": HexColor("#8fb3bd"),
    "heaters": HexColor("#a34d1f"),
    "damage": HexColor("#1d2a30"),
    "energy": HexColor("#c9a45c"),
}
PARTS = {
    "services": "yearly services",
    "repairs": "repairs",
    "heaters": "new heaters",
    "damage": "what a leak does to the house",
    "energy": "energy",
}
_BODY = ParagraphStyle("body", fontName="Helvetica", fontSize=10.5, leading=15, textColor=_INK)
_SMALL = ParagraphStyle("small", parent=_BODY, fontSize=9, leading=12, textColor=_SOFT)
_TITLE = ParagraphStyle("title", parent=_BODY, fontName="Helvetica-Bold", fontSize=17, leading=21, spaceAfter=2)
_HEAD = ParagraphStyle("head", parent=_BODY, fontName="Helvetica-Bold", fontSize=12, leading=15, spaceBefore=10)
_WIDE, _ROW = 166 * mm, 13 * mm


def words(way: TenYearsWayOut) -> str:
    """A way as an owner reads it."""
    return {
        "as_it_is": "left as it is",
        "yearly": "serviced each year",
        "new": "a new one now, serviced each year",
        "later": f"serviced, and a new one in {'a year' if way.renewed_in == 1 else f'{way.renewed_in} years'}",
    }[way.name]


def pdf(heater: Heater, told: TenYearsOut, today: datetime.date) -> bytes:
    """The page as a file."""
    out, ours = io.BytesIO(), Company.current()
    page = Paper(
        out, pagesize=A4, leftMargin=22 * mm, rightMargin=22 * mm, topMargin=18 * mm, bottomMargin=16 * mm,
        title=f"Ten years of your water heater {heater.tag}", author=ours.name, invariant=True,
    )  # fmt: skip
    ways, currency = told["courses"], told["currency"]
    least = min(ways, key=lambda way: way.total)
    left = next(way for way in ways if way.name == "as_it_is")
    spared = left.total - least.total
    text = f"Over the next ten years the least is expected to be spent if it is <b>{words(least)}</b>"
    if least is not left:
        text += f": about {currency}{spared:,.0f} less than if nothing is done"
    parts = {name: label for name, label in PARTS.items() if any(getattr(way, name) > 0 for way in ways)}
    rows = [["", *("\n".join(_folded(words(way))) for way in ways)]]
    rows += [[label, *(f"{getattr(way, name):,.0f}" for way in ways)] for name, label in parts.items()]
    rows.append(["still worth in ten years", *(f"-{way.worth_left:,.0f}" if way.worth_left else "0" for way in ways)])
    rows.append([f"together, in {currency}", *(f"{way.total:,.0f}" for way in ways)])
    rows.append(["8 of 10 come to lie in", *(f"{way.low:,.0f} to {way.high:,.0f}" for way in ways)])
    rows.append(["leaks in a hundred such houses", *(f"{100 * way.failures:,.0f}" for way in ways)])
    flow: list[Flowable] = [
        Paragraph(f"Ten years of your water heater {escape(heater.tag)}", _TITLE),
        Paragraph(escape(f"{heater.site.name}, {heater.site.street}. {ours.name}, {today.day} {today:%B %Y}."), _SMALL),
        Spacer(1, 4 * mm),
        Paragraph(f"{text}.", _BODY),
        Paragraph("What each way is expected to cost; eight of ten lie along the line below it", _HEAD),
        Figure(stacked(ways, parts), "A bar for each way; its figures stand in the table below"),
        Table(
            rows, colWidths=[46 * mm, *[30 * mm] * len(ways)], hAlign="LEFT",
            style=[
                ("FONT", (0, 0), (-1, -1), "Helvetica", 8.5), ("TEXTCOLOR", (0, 0), (-1, -1), _INK),
                ("ALIGN", (1, 0), (-1, -1), "RIGHT"), ("VALIGN", (0, 0), (-1, 0), "BOTTOM"),
                ("LINEBELOW", (0, 0), (-1, 0), 0.6, _INK), ("LINEBELOW", (0, 1), (-1, -1), 0.3, _LINE),
                ("FONT", (0, -3), (-1, -3), "Helvetica-Bold", 8.5),
            ],
        ),
        Spacer(1, 4 * mm),
        Paragraph(
            "Expected at today's prices, without tax and interest. How long a tank lasts is not known: of a hundred "
            "such heaters some leak next year and some in fifteen. Who sells it to you earns by it: ask what the "
            "figures rest on.", _SMALL,
        ),
        Paragraph(
            "Whatever you choose: the relief valve is tried every year, and a heater that leaks, smells of gas or sets "
            "off a carbon monoxide alarm is shut off and called about at once.", _SMALL,
        ),
    ]  # fmt: skip
    if told["damage"]:
        runs = f" Here its water would run {told['leak_path']}." if told["leak_path"] else ""
        harm = f"A leak is reckoned with {currency}{told['damage']:,.0f} of harm to the house."
        flow.append(Paragraph(escape(f"{harm}{runs}"), _SMALL))
    if told["missing"]:
        flow.append(Paragraph(escape(f"Without a price yet: {', '.join(told['missing'])}."), _SMALL))
    page.build(flow)
    return out.getvalue()


def stacked(ways: list[TenYearsWayOut], parts: dict[str, str]) -> Drawing:
    """A bar for each way, its parts one after the other, with a line over what eight of ten futures come to."""
    drawing = Drawing(_WIDE, _ROW * len(ways) + 12 * mm)
    most = max(1.0, *(max(way.high, sum(getattr(way, name) for name in parts)) for way in ways))
    for at, way in enumerate(ways):
        y, x = _ROW * (len(ways) - at - 1) + 12 * mm, 0.0
        drawing.add(String(0, y + 7.5 * mm, words(way), fontSize=8.5, fillColor=_INK))
        for name in parts:
            wide = _WIDE * 0.86 * getattr(way, name) / most
            if wide > 0:
                drawing.add(Rect(x, y, wide, 6 * mm, fillColor=_COLOURS[name], strokeColor=None))
            x += wide
        low, high = (max(0.0, _WIDE * 0.86 * end / most) for end in (way.low, way.high))
        drawing.add(Line(low, y - 1.2 * mm, high, y - 1.2 * mm, strokeColor=_INK, strokeWidth=1.2))
        drawing.add(String(x + 3, y + 1.8 * mm, f"{way.total:,.0f}", fontSize=8.5, fillColor=_INK))
    x = 0.0
    for name, label in parts.items():
        drawing.add(Rect(x, 2 * mm, 3 * mm, 3 * mm, fillColor=_COLOURS[name], strokeColor=None))
        drawing.add(String(x + 4 * mm, 2.2 * mm, label, fontSize=8, fillColor=_INK))
        x += (7 + 1.75 * len(label)) * mm
    return drawing


def _folded(label: str) -> list[str]:
    """In lines of some eighteen letters."""
    lines = [""]
    for word in label.split():
        if len(lines[-1]) + len(word) > 18:
            lines.append("")
        lines[-1] = f"{lines[-1]} {word}".strip()
    return lines

"""A day on paper, a page a technician with what to load; and a week's plan, for the wall."""

import datetime
import io
from collections.abc import Mapping
from itertools import groupby
from typing import TypeAlias
from xml.sax.saxutils import escape

from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4, landscape
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, KeepTogether, PageBreak, Spacer

from aquifer.company.clock import told, week_of
from aquifer.company.models import Company
from aquifer.core.planning.kit import KIT
from aquifer.core.units import Quantity, Unit, worded
from aquifer.core.vocabulary import Component, Method
from aquifer.papers.tagged import Grid, Paper, Paragraph, Table
from aquifer.rounds import read
from aquifer.rounds.models import AppointmentStatus, Reason
from aquifer.rounds.schemas import AppointmentOut, CallOut, RoundOut
from aquifer.stock import lists
from aquifer.stock.schemas import TruckOut
from aquifer.visits.words import units_shown

Units: TypeAlias = Mapping[Quantity, Unit]
_INK, _SOFT, _LINE = (HexColor(one) for one in ("#1d2a30", "#4d5b60", "#b9b3a4"))
_BODY = ParagraphStyle("body", fontName="Helvetica", fontSize=10, leading=13.5, textColor=_INK)
_SMALL = ParagraphStyle("small", parent=_BODY, fontSize=8.5, leading=11.5, textColor=_SOFT)
_ROW = ParagraphStyle("row", parent=_BODY, fontSize=9, leading=12)
_TITLE = ParagraphStyle("title", parent=_BODY, fontName="Helvetica-Bold", fontSize=16, leading=20, spaceAfter=2)
_HEAD = ParagraphStyle("head", parent=_BODY, fontName="Helvetica-Bold", fontSize=11.5, leading=15, spaceBefore=8)
_WORK = {
    Component.SEDIMENT: "flush", Component.SCALE: "descale", Component.ANODE: "rod", Component.TANK: "new heater",
    Component.RELIEF_VALVE: "relief valve", Component.EXPANSION_TANK: "expansion tank",
}  # fmt: skip
_USUAL = {Method.DRAIN_AND_PULSE, Method.DESCALE, Method.INSPECT, Method.EXERCISE, Method.CHECK}
_LEFT, _WIDE = 26 * mm, 176 * mm


def of_day(on: datetime.date, member_id: int | None = None) -> bytes:
    """A page for each technician who goes out that day, or for one: calls in their order, and what is loaded."""
    rounds = [one for one in read.day(on)["rounds"] if one["calls"] and member_id in (None, one["member_id"])]
    trucks = {truck["member_id"]: truck for truck in lists.of_day(on)}
    flow, units = list[Flowable](), units_shown()
    for one in rounds:
        flow += [*([PageBreak()] if flow else []), *_page(one, trucks.get(one["member_id"]), on, units)]
    if not flow:
        flow = [Paragraph(_day(on), _TITLE), Paragraph("Nobody has a visit on this day.", _BODY)]
    return _built(flow, f"Rounds of {_day(on)}", A4)


def _page(one: RoundOut, truck: TruckOut | None, on: datetime.date, units: Units) -> list[Flowable]:
    with_whom = f" with {one['helper']}" if one["helper"] else ""
    lunch = f", lunch at {told(one['lunch'])}" if one["lunch"] is not None else ""
    return [
        Paragraph(escape(f"{one['name']}{with_whom}"), _TITLE),
        Paragraph(
            escape(
                f"{_day(on)}. From {one['place']} at {told(one['begins'])}, back at {told(one['back'])}{lunch}; "
                f"{one['driving']} minutes on the way. {Company.current().name}."
            ),
            _SMALL,
        ),
        Spacer(1, 3 * mm),
        *(KeepTogether(_call(call)) for call in one["calls"]),
        KeepTogether([Paragraph("To load", _HEAD), *_load(truck, units)]),
        KeepTogether([Paragraph("Always along", _HEAD), Paragraph(escape(worded(_kit(), units)), _SMALL)]),
    ]


def _call(call: CallOut) -> list[Flowable]:
    visit = call["appointment"]
    promised = ""
    if (
        visit["standing"] is AppointmentStatus.PROMISED
        and visit["earliest"] is not None
        and visit["latest"] is not None
    ):
        promised = f"promised {told(visit['earliest'])} to {told(visit['latest'])}"
    left = [Paragraph(f"<b>{told(call['begins'])}</b>", _BODY), Paragraph(f"to {told(call['ends'])}", _SMALL)]
    right = [
        Paragraph(f"<b>{escape(visit['site'])}</b>, {escape(_address(visit))}", _BODY),
        Paragraph(escape(_sentence([visit["customer"], visit["phone"], promised])), _BODY),
        Paragraph(escape(_what(visit)), _BODY),
    ]
    besides = [
        f"Getting in: {visit['access']}" if visit["access"] else "",
        f"Decides: {visit['decides']}" if visit["decides"] else "",
        f'They said: "{visit["said"]}"' if visit["said"] else "",
        visit["note"],
    ]
    right += [Paragraph(escape(words), _SMALL) for words in besides if words]
    if visit["hazard"]:
        right.append(Paragraph(f"<b>Look out:</b> {escape(visit['hazard'])}", _BODY))
    rows = [[left, right]]
    return [Grid(rows, colWidths=[_LEFT, _WIDE - _LEFT], style=[("VALIGN", (0, 0), (-1, -1), "TOP"),
            ("LINEABOVE", (0, 0), (-1, 0), 0.6, _LINE), ("LEFTPADDING", (0, 0), (-1, -1), 0)])]  # fmt: skip


def _load(truck: TruckOut | None, units: Units) -> list[Flowable]:
    if truck is None:
        return [Paragraph("Nothing besides what is always along.", _BODY)]
    lines = [line for line in truck["lines"] if line["quantity"] > 0]
    rows = [["", "part", "for the day", "on the truck", "to add"]]
    rows += [
        ["[  ]", worded(line["part"], units), f"{line['quantity']:g}", f"{line['held']:g}", f"{line['to_add']:g}"]
        for line in lines
    ]
    table = Table(rows, colWidths=[10 * mm, 86 * mm, 26 * mm, 28 * mm, 26 * mm], style=[
        ("FONT", (0, 0), (-1, 0), "Helvetica", 8.5), ("TEXTCOLOR", (0, 0), (-1, 0), _SOFT),
        ("FONT", (0, 1), (-1, -1), "Helvetica", 9.5), ("ALIGN", (2, 0), (-1, -1), "RIGHT"),
        ("LINEBELOW", (0, 0), (-1, -1), 0.4, _LINE), ("TOPPADDING", (0, 0), (-1, -1), 2),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 2),
    ])  # fmt: skip
    brings = truck.get("brings") or []
    flow: list[Flowable] = [table] if lines else []
    if borrows := truck.get("borrows"):
        flow.append(Paragraph(escape(f"Lent: {'; '.join(borrows)}."), _BODY))
    if brings:
        flow.append(Paragraph(escape(worded(f"The places ask for: {'; '.join(brings)}.", units)), _BODY))
    return flow or [Paragraph("Nothing besides what is always along.", _BODY)]


def _kit() -> str:
    return " ".join(f"{what_for[:1].upper()}{what_for[1:]}: {', '.join(things)}." for what_for, things in KIT)


def of_week(day: datetime.date) -> bytes:
    """The week in which a day lies: who is where, day by day, and what has no day yet."""
    first = week_of(day)
    visits = read.of_weeks(first, first)
    dated = [visit for visit in visits if visit["on"] is not None]
    flow: list[Flowable] = [
        Paragraph(f"The week of {_day(first)}", _TITLE),
        Paragraph(
            escape(f"{Company.current().name}; {len(visits)} visits, {len(visits) - len(dated)} without a day."), _SMALL
        ),
        Spacer(1, 3 * mm),
    ]
    for on, of_day in groupby(dated, key=lambda visit: visit["on"]):
        assert on is not None
        by_time = sorted(of_day, key=lambda visit: (visit["technician"], visit["begins"] or 0))
        rows = [[_line(words) for words in ("Who", "When", "Where", "What")]]
        rows += [[_line(words) for words in (visit["technician"] or "nobody yet", _time(visit),
                 f"{visit['site']}, {_address(visit)}", _what(visit))] for visit in by_time]  # fmt: skip
        table = Table(rows, colWidths=[38 * mm, 34 * mm, 100 * mm, 92 * mm], repeatRows=0, style=[
            ("VALIGN", (0, 0), (-1, -1), "TOP"), ("LINEBELOW", (0, 0), (-1, -1), 0.4, _LINE),
            ("TOPPADDING", (0, 0), (-1, -1), 1.5), ("BOTTOMPADDING", (0, 0), (-1, -1), 2.5),
        ])  # fmt: skip
        flow += [Paragraph(_day(on), _HEAD), table]
    undated = [visit for visit in visits if visit["on"] is None]
    if undated:
        flow.append(Paragraph("Without a day yet", _HEAD))
        flow.append(
            Paragraph(escape("; ".join(f"{visit['site']} ({_what(visit)})" for visit in undated) + "."), _SMALL)
        )
    if not visits:
        flow.append(Paragraph("No visit is planned in this week.", _BODY))
    return _built(flow, f"The week of {_day(first)}", landscape(A4))


def _time(visit: AppointmentOut) -> str:
    if visit["begins"] is None:
        return "no time yet"
    promised = ", promised" if visit["standing"] is AppointmentStatus.PROMISED else ""
    return f"{told(visit['begins'])} to {told(visit['begins'] + visit['minutes'])}{promised}"


def _what(visit: AppointmentOut) -> str:
    """What is done there: the reason where it is none of ours, then the work at each heater."""
    reason = "" if visit["reason"] is Reason.DUE else Reason(visit["reason"]).label
    work = []
    for tag, services in groupby(visit["services"], key=lambda service: service["tag"]):
        names = [
            _WORK[service["component"]]
            + ("" if service["method"] in _USUAL else f" ({service['method'].replace('_', ' ')})")
            for service in services
        ]
        work.append(f"{tag}: {', '.join(names)}")
    return _sentence([reason, "; ".join(work)]) or "to be seen there"


def _address(visit: AppointmentOut) -> str:
    return ", ".join(filter(None, (visit["street"], visit["town"])))


def _sentence(parts: list[str]) -> str:
    return " · ".join(filter(None, parts))


def _line(words: str) -> Paragraph:
    return Paragraph(escape(words), _ROW)


def _built(flow: list[Flowable], title: str, size: tuple[float, float]) -> bytes:
    out = io.BytesIO()
    Paper(
        out, pagesize=size, leftMargin=17 * mm, rightMargin=17 * mm, topMargin=14 * mm, bottomMargin=14 * mm,
        title=title, author=Company.current().name, invariant=True,
    ).build(flow)  # fmt: skip
    return out.getvalue()


def _day(on: datetime.date) -> str:
    return f"{on:%A} {on.day} {on:%B %Y}"

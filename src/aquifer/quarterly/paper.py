"""The quarter on four pages, each with a picture."""

import datetime
import io
from xml.sax.saxutils import escape

from reportlab.graphics.shapes import Drawing, Line, Rect, String
from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, PageBreak, Spacer

from aquifer.core.vocabulary import Component
from aquifer.papers.tagged import Figure, Paper, Paragraph, Table
from aquifer.projections.found import Found
from aquifer.quarterly.content import SAFETY, Told, Week

_INK, _SOFT, _WATER, _COPPER, _LINE = (HexColor(one) for one in ("#1d2a30", "#4d5b60", "#2f7286", "#a34d1f", "#d5cfc0"))
_BODY = ParagraphStyle("body", fontName="Helvetica", fontSize=10.5, leading=15, textColor=_INK)
_SMALL = ParagraphStyle("small", parent=_BODY, fontSize=9, leading=12, textColor=_SOFT)
_TITLE = ParagraphStyle("title", parent=_BODY, fontName="Helvetica-Bold", fontSize=18, leading=22, spaceAfter=2)
_HEAD = ParagraphStyle("head", parent=_BODY, fontName="Helvetica-Bold", fontSize=12, leading=15, spaceBefore=10)
_WIDE = 166 * mm
NAMES = {
    "visits": "Visits",
    "calls": "Unplanned calls",
    "flushes": "Flushes",
    "descales": "Descales",
    "rods": "Rods fitted",
    "relief_valves": "Relief valves fitted",
    "leaks": "Tanks that leaked",
    "replacements": "Heaters replaced",
}
COMPONENTS = {
    Component.SEDIMENT: "Flushes",
    Component.SCALE: "Descales",
    Component.ANODE: "Looks at rods",
    Component.RELIEF_VALVE: "Trials of relief valves",
    Component.EXPANSION_TANK: "Checks of expansion tanks",
    Component.TANK: "Tanks due for replacement",
}
_SEVERITIES = {"danger": "dangerous", "defect": "to be put right", "note": "worth knowing"}
_QUARTERS = ("first", "second", "third", "fourth")


def pdf(told: Told, printed_on: datetime.date) -> bytes:
    """The four pages as a file."""
    out = io.BytesIO()
    quarter = told["quarter"]
    title = f"{told['company']}: the {_QUARTERS[quarter.number - 1]} quarter of {quarter.year}"
    page = Paper(
        out, pagesize=A4, leftMargin=22 * mm, rightMargin=22 * mm, topMargin=18 * mm, bottomMargin=16 * mm,
        title=title, author=told["company"], invariant=True,
    )  # fmt: skip
    flow: list[Flowable] = [Paragraph(escape(title), _TITLE)]
    flow.append(Paragraph(f"{_day(quarter.first)} to {_day(quarter.last)}; printed {_day(printed_on)}.", _SMALL))
    flow += _done(told)
    flow += [PageBreak(), Paragraph("How the base stands", _TITLE), *_stands(told)]
    flow += [PageBreak(), Paragraph("The years ahead", _TITLE), *_ahead(told)]
    flow += [PageBreak(), Paragraph("Was it right, and what is to be decided", _TITLE), *_right(told)]
    page.build(flow)
    return out.getvalue()


def _done(told: Told) -> list[Flowable]:
    done, before, valves = told["done"], told["year_before"], told["valves"]
    lines = [f"{_count(done['visits'], 'visit')} were made, {_against(done['visits'], before['visits'])}."]
    if valves["tried"]:
        lines.append(
            f"Of {_count(valves['tried'], 'relief valve')} that were tried, {valves['stuck']} passed no water and "
            "would not have protected anybody."
        )
    if done["leaks"]:
        renewed = _count(done["replacements"], "heater")
        lines.append(f"{_count(done['leaks'], 'tank')} gave way; {renewed} went for a new one.")
    rows = [["", "this quarter", "a year ago"]]
    rows += [[words, f"{done[name]:,}", f"{before[name]:,}"] for name, words in NAMES.items()]
    months = [(f"{one['first']:%b}"[:3], float(one["visits"])) for one in told["months"]]
    return [
        Paragraph(escape(" ".join(lines)), _BODY),
        Paragraph("Visits, month by month", _HEAD),
        Figure(bars([(label, [value]) for label, value in months], newest=3), _told(months)),
        Paragraph("What was done", _HEAD),
        _table(rows, [80, 40, 40]),
    ]


def _stands(told: Told) -> list[Flowable]:
    standing = told["standing"]
    overdue = sum(standing["overdue"].get(one, 0) for one in SAFETY)
    lines = [
        f"{_count(standing['heaters'], 'heater')} are in our care; {standing['joined']} came in the quarter and "
        f"{standing['left']} left.",
        f"{_count(overdue, 'safety service')} of relief valves and expansion tanks are overdue today."
        if overdue
        else "No safety service is overdue today.",
    ]
    issues = ", ".join(f"{n} {_SEVERITIES.get(name, name)}" for name, n in standing["open_issues"].items())
    if issues:
        lines.append(f"Open issues: {issues}.")
    rows = [["due", "now", *(f"quarter {number + 1}" for number in range(4))]]
    for component, words in COMPONENTS.items():
        coming = standing["due"].get(component, [0] * 4)
        rows.append([words, str(standing["overdue"].get(component, 0)), *map(str, coming)])
    names = [words for component, words in COMPONENTS.items() if component in standing["due"]]
    picture = [
        (f"quarter {number + 1}", [float(sum(standing["due"].get(one, [0] * 4)[number] for one in COMPONENTS))])
        for number in range(4)
    ]
    tanks = [["tank", "where", "fails within 12 months"]]
    tanks += [[tag, site[:44], f"{chance:.0%}"] for tag, site, chance in standing["tanks"]]
    flow: list[Flowable] = [Paragraph(escape(" ".join(lines)), _BODY)]
    if names:
        flow += [
            Paragraph("What falls due in the coming quarters", _HEAD),
            Figure(bars(picture), _told([(label, values[0]) for label, values in picture])),
            _table(rows, [56, *[22] * 5]),
        ]
    if len(tanks) > 1:
        flow += [Paragraph("Likeliest to fail", _HEAD), _table(tanks, [30, 90, 40], words=2)]
    return flow


def _ahead(told: Told) -> list[Flowable]:
    found, on = told["ahead"], told["ahead_on"]
    if found is None or on is None or not found["until"]:
        return [Paragraph("Nobody has had the years ahead reckoned yet.", _BODY)]
    series, years = found["series"], len(found["until"])
    most, crew = max(series["hours"][2]), found["crew_hours"]
    share = f", {most / crew:.0%} of the {crew:,.0f} that the crew can plan" if crew else ""
    text = (
        f"Reckoned on {_day(on)} in 200 futures of {found['heaters']:,} heaters. The base asks for up to {most:,.0f} "
        f"hours a year{share}. {sum(series['leaks'][1]):,.0f} tanks leak in {years} years; a year leaves "
        f"{found['currency']}{sum(series['left'][1]) / years:,.0f} after work and materials."
    )
    rows = [["a year", *(until[:7] for until in found["until"][:5])]]
    for name, words in (("hours", "Hours"), *NAMES.items(), ("income", "Income"), ("cost", "Cost"), ("left", "Left")):
        each = list(zip(*series[name], strict=True))[:5]
        rows.append([words, *(f"{_short(middle)}\n{_short(low)} to {_short(high)}" for low, middle, high in each)])
    return [
        Paragraph(escape(text), _BODY),
        Paragraph("Hours of each year: eight of ten futures lie in the bar", _HEAD),
        Figure(hours_ahead(found), "Hours of each year; the figures stand in the table below"),
        _table(rows, [38, *[25] * min(years, 5)]),
    ]


def _right(told: Told) -> list[Flowable]:
    tested, inside = told["measured"]
    flow: list[Flowable] = []
    if tested:
        text = f"{_count(tested, 'measurement')} tested a window in the quarter; {inside} lay inside. Wanted: 8 of 10."
        flow.append(Paragraph(text, _BODY))
    rows = told["held"]["rows"]
    if rows:
        flow.append(
            Paragraph(f"Years that were told and have passed: {told['held']['inside']} of {len(rows)} held", _HEAD)
        )
        table = [["", "year to", "told", "came"]]
        table += [
            [NAMES[row["name"]], _day(row["until"]), f"{row['low']:,.0f} to {row['high']:,.0f}", f"{row['came']:,}"]
            for row in rows[:16]
        ]
        flow.append(_table(table, [60, 40, 40, 20]))
    else:
        flow.append(Paragraph("No year that was told has passed yet.", _BODY))
    flow.append(Paragraph("Weeks of the coming quarter with little room", _HEAD))
    flow += _full(told["full_weeks"])
    if told["tried"]:
        flow.append(Paragraph("Decisions that were tried, against the base as it is", _HEAD))
        table = [["", "hours over all years", "left over all years"]]
        table += [[name[:56], f"{hours:+,.0f}", f"{money:+,.0f}"] for name, hours, money in told["tried"]]
        flow += [_table(table, [86, 40, 40]), Spacer(1, 3 * mm)]
        flow.append(Figure(_differences(told["tried"]), "What each leaves more or less; the figures stand above"))
    return flow


def _full(weeks: list[Week]) -> list[Flowable]:
    if not weeks:
        return [Paragraph("None: what is planned leaves room in each.", _BODY)]
    rows = [["week of", "planned", "the crew can"]]
    rows += [[_day(week["first"]), f"{week['planned']:,.0f} h", f"{week['crew']:,.0f} h"] for week in weeks]
    return [_table(rows, [60, 40, 40])]


def _told(bars: list[tuple[str, float]]) -> str:
    """What bars show, in words."""
    return ", ".join(f"{label}: {value:,.0f}" for label, value in bars)


def bars(rows: list[tuple[str, list[float]]], newest: int = 0) -> Drawing:
    """Upright bars with their figures; the newest ones stand out. Parameters: rows, a label with its value."""
    drawing = Drawing(_WIDE, 52 * mm)
    top = max([1.0, *(value for _, values in rows for value in values)])
    wide = _WIDE / max(len(rows), 1)
    for at, (label, values) in enumerate(rows):
        tall = 38 * mm * values[0] / top
        colour = _COPPER if at >= len(rows) - newest else _WATER
        drawing.add(Rect(at * wide + 0.15 * wide, 7 * mm, 0.7 * wide, tall, fillColor=colour, strokeColor=None))
        drawing.add(_words(at * wide + wide / 2, 7 * mm + tall + 3, f"{values[0]:,.0f}"))
        drawing.add(_words(at * wide + wide / 2, 2 * mm, label))
    drawing.add(Line(0, 7 * mm, _WIDE, 7 * mm, strokeColor=_INK))
    return drawing


def hours_ahead(found: Found) -> Drawing:
    """Where the hours of each year lie, against what the crew can plan."""
    drawing = Drawing(_WIDE, 58 * mm)
    low, middle, high = found["series"]["hours"]
    shows_crew = 0 < found["crew_hours"] < 3 * max(high)
    top = 1.1 * max([1.0, *high, found["crew_hours"] if shows_crew else 0.0])
    wide = _WIDE / len(middle)

    def up(value: float) -> float:
        return float(7 * mm + 48 * mm * value / top)

    for at, until in enumerate(found["until"]):
        left = at * wide + 0.2 * wide
        drawing.add(
            Rect(left, up(low[at]), 0.6 * wide, max(up(high[at]) - up(low[at]), 1), fillColor=HexColor("#c5d8dc"),
                 strokeColor=_WATER)
        )  # fmt: skip
        drawing.add(Line(left, up(middle[at]), left + 0.6 * wide, up(middle[at]), strokeColor=_WATER, strokeWidth=2))
        drawing.add(_words(left + 0.3 * wide, up(high[at]) + 3, f"{middle[at]:,.0f}"))
        drawing.add(_words(left + 0.3 * wide, 2 * mm, f"to {until[:7]}"))
    if shows_crew:
        crew = up(found["crew_hours"])
        drawing.add(Line(0, crew, _WIDE, crew, strokeColor=_INK, strokeWidth=1.2))
        drawing.add(String(2, crew + 3, f"the crew can plan {found['crew_hours']:,.0f}", fontSize=8, fillColor=_INK))
    drawing.add(Line(0, 7 * mm, _WIDE, 7 * mm, strokeColor=_INK))
    return drawing


def _differences(tried: list[tuple[str, float, float]]) -> Drawing:
    """What each leaves more or less, from a line in the middle."""
    drawing = Drawing(_WIDE, (7 * len(tried) + 4) * mm)
    most = max([1.0, *(abs(money) for _, _, money in tried)])
    middle = 0.5 * _WIDE
    for at, (name, _, money) in enumerate(tried):
        y = (7 * (len(tried) - at) - 4) * mm
        wide = 0.3 * _WIDE * abs(money) / most
        drawing.add(
            Rect(middle if money >= 0 else middle - wide, y, wide, 4 * mm, fillColor=_WATER if money >= 0 else _COPPER,
                 strokeColor=None)
        )  # fmt: skip
        drawing.add(String(0, y + 3, name[:34], fontSize=8, fillColor=_INK))
        end = middle + wide + 3 if money >= 0 else middle + 3
        drawing.add(String(end, y + 3, f"{money:+,.0f}", fontSize=8, fillColor=_INK))
    drawing.add(Line(middle, 0, middle, (7 * len(tried) + 2) * mm, strokeColor=_INK))
    return drawing


def _words(x: float, y: float, text: str) -> String:
    return String(x, y, text, fontSize=8, fillColor=_INK, textAnchor="middle")


def _table(rows: list[list[str]], widths_mm: list[float], words: int = 1) -> Table:
    """A line for each row, the first the head. Parameters: how many columns are words and not figures."""
    return Table(
        rows,
        colWidths=[one * mm for one in widths_mm],
        hAlign="LEFT",
        style=[
            ("FONT", (0, 0), (-1, -1), "Helvetica", 8.5),
            ("TEXTCOLOR", (0, 0), (-1, -1), _INK),
            ("TEXTCOLOR", (0, 0), (-1, 0), _SOFT),
            ("ALIGN", (words, 0), (-1, -1), "RIGHT"),
            ("LINEBELOW", (0, 0), (-1, 0), 0.6, _INK),
            ("LINEBELOW", (0, 1), (-1, -1), 0.3, _LINE),
            ("TOPPADDING", (0, 0), (-1, -1), 1.6),
            ("BOTTOMPADDING", (0, 0), (-1, -1), 1.6),
        ],
    )


def _short(value: float) -> str:
    """In thousands where it has five digits or more."""
    return f"{value:,.0f}" if abs(value) < 10_000 else f"{value / 1000:,.0f}k"


def _count(number: int, what: str) -> str:
    return f"{number:,} {what}" if number == 1 else f"{number:,} {what}s"


def _against(now: int, before: int) -> str:
    if not before:
        return "none in the same quarter a year ago"
    if now == before:
        return "as many as in the same quarter a year ago"
    return f"{abs(now - before):,} {'more' if now > before else 'fewer'} than in the same quarter a year ago"


def _day(on: datetime.date) -> str:
    return f"{on.day} {on:%B %Y}"

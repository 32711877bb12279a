"""Two lives of a tank on one page, for its owner: cut open beside each other, and what each comes to."""

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
from aquifer.core.bench.lives import CareName
from aquifer.core.units import Quantity, Unit, figure, worded
from aquifer.papers.tagged import Figure, Paper, Paragraph, Table
from aquifer.workbench.lives import Side
from aquifer.workbench.schemas import ExchangerLivesOut, LifeOut, LivesOut

_INK, _SOFT, _LINE, _WATER, _DEPOSIT, _ROD, _WARN = (
    HexColor(one) for one in ("#1d2a30", "#4d5b60", "#d5cfc0", "#cfe0e4", "#b98a3d", "#3b474c", "#9a2b20")
)
_BODY = ParagraphStyle("body", fontName="Helvetica", fontSize=10.5, leading=15, textColor=_INK)
_SMALL = ParagraphStyle("small", parent=_BODY, fontSize=9, leading=12, textColor=_SOFT)
_TITLE = ParagraphStyle("title", parent=_BODY, fontName="Helvetica-Bold", fontSize=17, leading=21, spaceAfter=2)
_WIDE, _TALL = 166 * mm, 74 * mm
NOTES = (
    "Reckoned for a new tank of this size on this water, with ordinary luck. It shows what care changes, not when a "
    "certain tank fails: of a hundred such tanks some last half as long and some twice. Costs are our prices today; "
    "leaks are told on average, with a new tank each.",
    "Whatever you choose: the relief valve is tried every year, and a heater that leaks, smells of gas or sets off a "
    "carbon monoxide alarm is shut off and called about at once.",
)
_YEARS = (5, 10, 15, 20)
CARES = {
    CareName.NEVER: "nothing is done",
    CareName.BY_RISK: "it is serviced when it is due",
    CareName.YEARLY: "it is serviced every year",
    CareName.HALF_YEARLY: "it is flushed every half year",
    CareName.LONG_SERVICE: "it is cleaned out in the fifth year, and so on",
    CareName.RODS_ONLY: "rod and safety valve are looked after, and it is never flushed",
}


def pdf(
    told: LivesOut, sides: list[Side], at_year: int, price: float | None, currency: str, units: dict[Quantity, Unit],
    today: datetime.date,
) -> bytes:  # fmt: skip
    """The page as a file. Parameters: at_year, in which the tanks are cut open; price, of a kWh in the currency, None
    where nobody said one."""
    out, ours = io.BytesIO(), Company.current()
    page = Paper(
        out, pagesize=A4, leftMargin=22 * mm, rightMargin=22 * mm, topMargin=18 * mm, bottomMargin=16 * mm,
        title="Your water heater, cut open", author=ours.name, invariant=True,
    )  # fmt: skip
    lives = list(zip(told["sides"], sides, strict=True))
    flow: list[Flowable] = [
        Paragraph("Your water heater, cut open", _TITLE),
        Paragraph(escape(f"{ours.name}, {today.day} {today:%B %Y}. {water_words(told, units)}"), _SMALL),
        Spacer(1, 4 * mm),
        Figure(_cut_open(told, lives, at_year, units), "The tanks cut open beside each other, as told below"),
        Spacer(1, 3 * mm),
    ]
    flow += [Paragraph(escape(words(told, life, side, at_year, price, currency, units)), _BODY) for life, side in lives]
    flow += [
        Spacer(1, 4 * mm),
        _table(rows(told, lives, price, units)),
        Spacer(1, 4 * mm),
        *(Paragraph(note, _SMALL) for note in NOTES),
    ]  # fmt: skip
    page.build(flow)
    return out.getvalue()


def _place(told: LivesOut, year: float) -> int:
    return min(range(len(told["years"])), key=lambda at: abs(told["years"][at] - year))


def water_words(told: LivesOut | ExchangerLivesOut, units: dict[Quantity, Unit]) -> str:
    """On which water, as an owner reads it."""
    hardness = worded(figure(Quantity.HARDNESS, told["hardness_mg_l"]), units)
    return f"Water of {told['water']}, {hardness} hard." if told["water"] else f"Water of {hardness}."


def _care(side: Side) -> str:
    softened = " with softened water" if side.softened else ""
    return f"If {CARES[side.care]}{softened}"


def years_words(years: int) -> str:
    """1 year, 2 years."""
    return "1 year" if years == 1 else f"{years} years"


def words(
    told: LivesOut, life: LifeOut, side: Side, at_year: int, price: float | None, currency: str,
    units: dict[Quantity, Unit],
) -> str:  # fmt: skip
    """What a life comes to, as an owner reads it."""
    at = _place(told, at_year)
    depth = worded(figure(Quantity.LENGTH, life["depth_mm"][at]), units)
    hot = worded(figure(Quantity.VOLUME, life["hot_l"][at]), units)
    rod = f"{100 * life['rod_left'][at]:.0f} % of its rod is left" if life["rod_left"][at] > 0 else "its rod is gone"
    leaked = f"{100 * life['leaked_share'][at]:.0f} of a hundred such tanks have leaked by then"
    noise = ("", " It bubbles when it heats.", " It rumbles when it heats.")[life["loud"][at]]
    energy = f"{life['energy_kwh'][at]:,.0f} kWh a year"
    if price is not None:
        energy += f", {currency}{price * life['energy_kwh'][at]:,.0f} at what you pay"
    return (
        f"{_care(side)}, after {years_words(at_year)} {depth} of deposit lie on its floor and {rod}; "
        f"it gives {hot} of hot water in one draw and takes {energy}; {leaked}.{noise}"
    )


def rows(
    told: LivesOut, lives: list[tuple[LifeOut, Side]], price: float | None, units: dict[Quantity, Unit]
) -> list[list[str]]:  # fmt: skip
    """The table under it: what each life comes to after some years."""
    heads = ["after", *(f"{year} years" for year in _YEARS)]
    lines = [heads]
    for life, side in lives:
        places = [_place(told, year) for year in _YEARS]
        lines.append([_care(side), *[""] * len(_YEARS)])
        lines.append(["deposit", *(worded(figure(Quantity.LENGTH, life["depth_mm"][at]), units) for at in places)])
        lines.append(["rod left", *(f"{100 * life['rod_left'][at]:.0f} %" for at in places)])
        lines.append(["hot in one draw", *(worded(figure(Quantity.VOLUME, life["hot_l"][at]), units) for at in places)])
        lines.append(["heats again in", *(f"{life['recover_min'][at]:.0f} min" for at in places)])
        lines.append(["energy a year", *(f"{life['energy_kwh'][at]:,.0f} kWh" for at in places)])
        lines.append(["visits and rods since it is new", *(f"{life['visits_cost'][at]:,.0f}" for at in places)])
        lines.append(["leaks and new tanks, on average", *(f"{life['leaks_cost'][at]:,.0f}" for at in places)])
        if price is not None:
            lines.append(["energy since it is new", *(f"{_spent(told, life, at, price):,.0f}" for at in places)])
        lines.append(["leaked, of a hundred", *(f"{100 * life['leaked_share'][at]:.0f}" for at in places)])
    return lines


def cut(told: LivesOut, life: LifeOut, side: Side, at_year: int, units: dict[Quantity, Unit]) -> dict[str, str | float]:
    """A tank cut open, for a drawing of 100 by 200: how high its deposit lies, how thick its rod is, and the words."""
    at = _place(told, at_year)
    left = life["rod_left"][at]
    return {
        "care": _care(side),
        "bed": round(200 * min(life["depth_mm"][at] / told["height_mm"], 0.6), 1),
        "rod": round(11 * left**0.5, 1),
        "deposit": worded(figure(Quantity.LENGTH, life["depth_mm"][at]), units),
        "rod_words": f"{100 * left:.0f} % of the rod" if left > 0 else "no rod left",
    }


def _table(rows: list[list[str]]) -> Table:
    heads_at = [at for at, row in enumerate(rows) if row[0].startswith("If ")]
    return Table(
        rows, colWidths=[62 * mm, *[26 * mm] * len(_YEARS)], hAlign="LEFT",
        style=[
            ("FONT", (0, 0), (-1, -1), "Helvetica", 8.5), ("TEXTCOLOR", (0, 0), (-1, -1), _INK),
            ("TOPPADDING", (0, 0), (-1, -1), 1.2), ("BOTTOMPADDING", (0, 0), (-1, -1), 1.8),
            ("ALIGN", (1, 0), (-1, -1), "RIGHT"), ("LINEBELOW", (0, 0), (-1, 0), 0.6, _INK),
            ("LINEBELOW", (0, 1), (-1, -1), 0.3, _LINE),
            *[("FONT", (0, at), (-1, at), "Helvetica-Bold", 8.5) for at in heads_at],
            *[("SPAN", (0, at), (-1, at)) for at in heads_at],
        ],
    )  # fmt: skip


def _spent(told: LivesOut, life: LifeOut, at: int, price: float) -> float:
    """On energy until then: each quarter at its own pace."""
    step = told["years"][1] - told["years"][0]
    return price * step * sum(life["energy_kwh"][:at])


def _cut_open(
    told: LivesOut, lives: list[tuple[LifeOut, Side]], at_year: int, units: dict[Quantity, Unit]
) -> Drawing:  # fmt: skip
    """The tanks beside each other, to scale in height: deposit and rod as they are in that year."""
    drawing = Drawing(_WIDE, _TALL)
    at = _place(told, at_year)
    wide, tall, low = 30 * mm, 60 * mm, 8 * mm
    for number, (life, side) in enumerate(lives):
        x = 14 * mm + number * 84 * mm
        depth = tall * min(life["depth_mm"][at] / told["height_mm"], 0.6)
        drawing.add(Rect(x, low, wide, tall, 5 * mm, 5 * mm, fillColor=_WATER, strokeColor=None))
        if depth > 0.2 * mm:
            corner = min(2 * mm, depth / 2)
            drawing.add(Rect(x + 1, low + 1.5, wide - 2, depth, corner, corner, fillColor=_DEPOSIT, strokeColor=None))
        drawing.add(Rect(x, low, wide, tall, 5 * mm, 5 * mm, fillColor=None, strokeColor=_INK, strokeWidth=1.4))
        left = life["rod_left"][at]
        middle = x + 0.62 * wide
        drawing.add(Line(middle, low + tall, middle, low + 0.3 * tall, strokeColor=_ROD, strokeWidth=0.8))
        if left > 0:
            thick = 3.4 * mm * left**0.5
            drawing.add(
                Rect(middle - thick / 2, low + 0.3 * tall, thick, 0.65 * tall, fillColor=_ROD, strokeColor=None)
            )
        depth_words = worded(figure(Quantity.LENGTH, life["depth_mm"][at]), units)
        label = x + wide + 3 * mm
        drawing.add(String(label, low + depth + 1 * mm, f"{depth_words} of deposit", fontSize=8, fillColor=_INK))
        rod = f"rod: {100 * left:.0f} % left" if left > 0 else "rod: gone"
        drawing.add(String(label, low + 0.8 * tall, rod, fontSize=8, fillColor=_INK))
        leaks = life["leaks_in_year"]
        if leaks is not None and leaks <= at_year:
            drawing.add(String(label, low + 0.6 * tall, f"leaks in year {leaks:.0f}", fontSize=8, fillColor=_WARN))
        care = _care(side).removeprefix("If ")
        drawing.add(String(x - 8 * mm, 1.5 * mm, f"{care}, {at_year} years"[:62], fontSize=7.5, fillColor=_SOFT))
    return drawing

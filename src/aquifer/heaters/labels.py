"""A sheet of labels: each a QR code that opens the heater's page, and its tag to read and type.

No name and no street: a label hangs where anybody may photograph it.
"""

import io
from dataclasses import dataclass
from itertools import groupby

import segno
from reportlab.lib.pagesizes import A4, letter
from reportlab.lib.units import mm
from reportlab.pdfbase.pdfmetrics import stringWidth

from aquifer.core.units import System
from aquifer.papers.tagged import TaggedCanvas

MOST = 240
"""Labels that are made at once: ten sheets. Choosing a code's best mask costs 20 ms. Assumption."""


@dataclass(frozen=True)
class Grid:
    """Label paper: how many across and down, mm."""

    page: tuple[float, float]
    across: int
    down: int
    width: float
    height: float


_GRIDS = {System.METRIC: Grid(A4, 3, 8, 70.0, 37.0), System.US: Grid(letter, 3, 10, 70.0, 27.0)}
"""The paper that offices have: three across. Assumption."""


@dataclass(frozen=True)
class Label:
    tag: str
    kind: str
    address: str
    """What the code opens."""
    next_on: str = ""
    """When somebody comes again, in words."""


def sheet(labels: list[Label], company: str, system: System, phone: str = "") -> bytes:
    """The labels as a PDF file, a page after the other, row by row; whom to call stands on each."""
    out, grid = io.BytesIO(), _GRIDS[system]
    canvas = TaggedCanvas(out, pagesize=grid.page, pageCompression=1)
    canvas.setTitle("Labels")
    width, height = grid.width * mm, grid.height * mm
    left = (grid.page[0] - grid.across * width) / 2
    top = grid.page[1] - (grid.page[1] - grid.down * height) / 2
    for number, label in enumerate(labels):
        at = number % (grid.across * grid.down)
        if number and at == 0:
            canvas.showPage()
        row, column = divmod(at, grid.across)
        with canvas.part("P"), canvas.marked():
            _draw(canvas, label, company, phone, left + column * width, top - (row + 1) * height, width, height)
    canvas.save()
    return out.getvalue()


def _draw(
    canvas: TaggedCanvas, label: Label, company: str, phone: str, x: float, y: float, width: float, height: float
) -> None:
    margin = 2.5 * mm
    size = height - 2 * margin
    _code(canvas, label.address, x + margin, y + margin, size)
    text = x + margin + size
    room = x + width - margin - text
    canvas.setFont("Helvetica-Bold", _fitting(label.tag, "Helvetica-Bold", 15, room))
    canvas.drawString(text, y + height * 0.58, label.tag)
    canvas.setFont("Helvetica", 8)
    canvas.drawString(text, y + height * 0.44, label.kind)
    for at, line, size in ((0.31, company, 7), (0.20, phone, 9), (0.09, label.next_on, 7)):
        if line:
            canvas.setFont("Helvetica", _fitting(line, "Helvetica", size, room))
            canvas.drawString(text, y + height * at, line)


def _code(canvas: TaggedCanvas, address: str, x: float, y: float, size: float) -> None:
    modules = segno.make(address, error="m", micro=False).matrix
    canvas.saveState()
    canvas.translate(x, y)
    # Four modules of quiet zone about the code. Source: ISO/IEC 18004.
    canvas.scale(size / (len(modules) + 8), size / (len(modules) + 8))
    path = canvas.beginPath()
    for row, line in enumerate(modules):
        column = 0
        for dark, run in groupby(line):
            width = len(list(run))
            if dark:
                path.rect(column + 4, len(modules) + 3 - row, width, 1)
            column += width
    canvas.drawPath(path, stroke=0, fill=1)
    canvas.restoreState()


def _fitting(text: str, font: str, size: float, room: float) -> float:
    width: float = stringWidth(text, font, size)
    return min(size, size * room / max(width, 1.0))

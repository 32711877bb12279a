"""A tank cut open as a visit found it, for its customer: from the findings alone, and none where nothing was seen."""

from reportlab.graphics.shapes import Circle, Drawing, Line, Path, Rect, String
from reportlab.lib.colors import HexColor
from reportlab.lib.units import mm

from aquifer.core.kinds import HeaterKind
from aquifer.core.vocabulary import Task
from aquifer.visits.models import Finding, Visit

_INK, _SOFT, _WATER, _DEPOSIT, _ROD = (HexColor(one) for one in ("#1d2a30", "#4d5b60", "#cfe0e4", "#b98a3d", "#3b474c"))
WIDTH, HEIGHT = 150 * mm, 58 * mm
_TANK_X, _TANK_W = 34 * mm, 30 * mm
_LEFT_OF_ROD = {"like_new": 1.0, "worn": 0.8, "half": 0.55, "mostly_gone": 0.25, "gone": 0.0}
"""Of its thickness, as the grades are drawn on a phone."""
_SHARE_OF_BED = {"none": 0.0, "trace": 0.03, "moderate": 0.08, "heavy": 0.16, "blocked": 0.24}
"""Of the drawing's height, where the deposit was seen and not measured: a picture of the grade, not a measure."""
DEEPER = 4.0
"""A measured deposit is drawn so many times as deep, or nobody would see it."""
TANK_MM = 1200.0
"""Height to which a measured deposit is drawn. Assumption; the drawing says that it is none to scale."""


def seen_inside(visit: Visit) -> Drawing | None:
    """The drawing; None for a heater without a tank, and where neither deposit nor rod nor valve was looked at."""
    if not HeaterKind(visit.heater.kind).is_tank:
        return None
    found = {
        finding.task: finding
        for finding in visit.findings.select_related("correction").order_by("sequence")
        if not hasattr(finding, "correction")
    }
    flush, rod, valve = (found.get(task) for task in (Task.FLUSH, Task.ANODE_INSPECTION, Task.RELIEF_VALVE_EXERCISE))
    bed = _bed(flush)
    if bed is None and not (rod and rod.grade) and not (valve and valve.outcome):
        return None
    drawing = Drawing(WIDTH, HEIGHT)
    drawing.add(Rect(_TANK_X, 4 * mm, _TANK_W, HEIGHT - 8 * mm, 5 * mm, 5 * mm, fillColor=_WATER, strokeColor=_INK))
    if bed:
        _deposit(drawing, bed)
    if bed is not None:
        _label(drawing, 10 * mm, "deposit on the floor", _TANK_X + _TANK_W)
    if rod and rod.grade:
        _rod(drawing, _LEFT_OF_ROD[rod.grade], Task.ANODE_REPLACEMENT in found)
    if valve and valve.outcome:
        drawing.add(Rect(_TANK_X + _TANK_W, HEIGHT - 14 * mm, 4 * mm, 2.6 * mm, fillColor=_INK, strokeColor=_INK))
        _label(drawing, HEIGHT - 12.7 * mm, "safety valve", _TANK_X + _TANK_W + 4 * mm)
    drawing.add(String(_TANK_X, 0, "cut open; not to scale", fontName="Helvetica", fontSize=7, fillColor=_SOFT))
    return drawing


def _bed(flush: Finding | None) -> float | None:
    """Depth of the deposit as a share of the drawing's height, as it was found; None where nobody looked."""
    if flush is None:
        return None
    depth_mm = flush.depth_before_mm if flush.depth_before_mm is not None else flush.depth_after_mm
    if depth_mm is not None:
        return min(DEEPER * depth_mm / TANK_MM, 0.5)
    return _SHARE_OF_BED.get(flush.removed)


def _deposit(drawing: Drawing, share: float) -> None:
    low, high = 4 * mm, 4 * mm + share * (HEIGHT - 8 * mm)
    left, right = _TANK_X + 1.2 * mm, _TANK_X + _TANK_W - 1.2 * mm
    path = Path(fillColor=_DEPOSIT, strokeColor=None)
    path.moveTo(left, low + 1.5 * mm)
    path.lineTo(left, high)
    path.curveTo(left + 8 * mm, high + 1.4 * mm, right - 8 * mm, high + 1.4 * mm, right, high)
    path.lineTo(right, low + 1.5 * mm)
    path.curveTo(right - 3 * mm, low + 0.3 * mm, left + 3 * mm, low + 0.3 * mm, left, low + 1.5 * mm)
    path.closePath()
    drawing.add(path)


def _rod(drawing: Drawing, share: float, renewed: bool) -> None:
    x, top, low = _TANK_X + 0.62 * _TANK_W, HEIGHT - 4 * mm, 14 * mm
    width = 3.2 * mm * share
    drawing.add(Line(x, top, x, low, strokeColor=_ROD, strokeWidth=0.8))
    if width:
        drawing.add(Rect(x - width / 2, low + 2 * mm, width, top - low - 2 * mm, fillColor=_ROD, strokeColor=None))
    drawing.add(Circle(x, top, 1.6 * mm, fillColor=_INK, strokeColor=_INK))
    words = "the rod that was taken out" if renewed else "rod that rusts in its place"
    _label(drawing, 0.55 * HEIGHT, words, x + max(width / 2, 0.5))


def _label(drawing: Drawing, y: float, words: str, to_x: float) -> None:
    x = _TANK_X + _TANK_W + 14 * mm
    drawing.add(Line(to_x, y, x - 1.5 * mm, y, strokeColor=_SOFT, strokeWidth=0.5))
    drawing.add(String(x, y - 1 * mm, words, fontName="Helvetica", fontSize=9, fillColor=_INK))

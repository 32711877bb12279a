"""Small drawings of what an owner does once a year, one a task."""

from collections.abc import Callable

from reportlab.graphics.shapes import Circle, Drawing, Line, Path, Rect
from reportlab.lib.colors import HexColor
from reportlab.lib.units import mm

from aquifer.visiting.owners_year import Picture

WIDTH, HEIGHT = 22 * mm, 15 * mm
_INK, _WATER, _HAND = HexColor("#1d2a30"), HexColor("#2f6f8f"), HexColor("#b2552e")


def drawn(picture: Picture) -> Drawing:
    """The drawing of a task; lines of one weight, what is touched or looked at in copper, water in blue."""
    drawing = Drawing(WIDTH, HEIGHT)
    _OF[picture](drawing)
    return drawing


def _line(drawing: Drawing, *points: float, color: HexColor = _INK, width: float = 1.1) -> None:
    for x0, y0, x1, y1 in zip(points[::2], points[1::2], points[2::2], points[3::2], strict=False):
        drawing.add(Line(x0 * mm, y0 * mm, x1 * mm, y1 * mm, strokeColor=color, strokeWidth=width, strokeLineCap=1))


def _arrow(drawing: Drawing, x: float, y: float, to_x: float, to_y: float) -> None:
    """Where a hand moves; upright or level."""
    _line(drawing, x, y, to_x, to_y, color=_HAND)
    back = 1.2
    if x == to_x:
        tip = to_y - back if to_y > y else to_y + back
        _line(drawing, x - back, tip, to_x, to_y, x + back, tip, color=_HAND)
    else:
        tip = to_x - back if to_x > x else to_x + back
        _line(drawing, tip, y - back, to_x, to_y, tip, y + back, color=_HAND)


def _drops(drawing: Drawing, x: float, *heights: float) -> None:
    for y in heights:
        drawing.add(Circle(x * mm, y * mm, 0.55 * mm, fillColor=_WATER, strokeColor=None))


def _expansion_tank(drawing: Drawing) -> None:
    """The pin of its air valve, pressed with something thin."""
    drawing.add(Rect(3 * mm, 2 * mm, 9 * mm, 10 * mm, 4 * mm, 4 * mm, fillColor=None, strokeColor=_INK))
    _line(drawing, 7.5, 12, 7.5, 14.5)
    _line(drawing, 12, 7, 14.5, 7)
    _arrow(drawing, 20, 7, 15.5, 7)


def _lever(drawing: Drawing) -> None:
    """The lever of the safety valve, lifted."""
    drawing.add(Rect(6 * mm, 4 * mm, 6 * mm, 5 * mm, fillColor=None, strokeColor=_INK))
    _line(drawing, 9, 4, 9, 1)
    _line(drawing, 12, 6, 15, 6, 15, 1)
    _line(drawing, 6.5, 9.5, 15, 12.5)
    _arrow(drawing, 18, 8, 18, 13.5)


def _pipe_end(drawing: Drawing) -> None:
    """The end of the safety valve's pipe, looked at: a drop under it would be wrong."""
    drawing.add(Rect(4 * mm, 9 * mm, 5 * mm, 4 * mm, fillColor=None, strokeColor=_INK))
    _line(drawing, 9, 11, 13, 11, 13, 5)
    _line(drawing, 3, 0.8, 19, 0.8)
    drawing.add(Circle(13 * mm, 4 * mm, 3 * mm, fillColor=None, strokeColor=_HAND, strokeWidth=1.1))


def _bucket(drawing: Drawing) -> None:
    """A bucket under the tank's drain."""
    _line(drawing, 2, 14, 2, 7, 8, 7)
    drawing.add(Rect(8 * mm, 6 * mm, 3 * mm, 2.4 * mm, fillColor=None, strokeColor=_HAND, strokeWidth=1.1))
    _line(drawing, 11, 7, 13.5, 7, 13.5, 6)
    _drops(drawing, 13.5, 5.2, 3.8)
    _line(drawing, 10, 5, 11, 0.8, 16.5, 0.8, 17.5, 5)


def _drain_shut(drawing: Drawing) -> None:
    """The tank's drain, left as it is."""
    _line(drawing, 2, 14, 2, 7, 9, 7)
    drawing.add(Rect(9 * mm, 5.6 * mm, 4 * mm, 2.8 * mm, fillColor=None, strokeColor=_INK))
    drawing.add(Circle(11 * mm, 7 * mm, 5 * mm, fillColor=None, strokeColor=_HAND, strokeWidth=1.1))
    _line(drawing, 7.5, 3.5, 14.5, 10.5, color=_HAND)


def _gauge(drawing: Drawing) -> None:
    """A gauge screwed on a hose faucet."""
    _line(drawing, 2, 12, 8, 12)
    drawing.add(Rect(5 * mm, 12 * mm, 2 * mm, 2 * mm, fillColor=None, strokeColor=_INK))
    _line(drawing, 8, 12, 8, 9)
    drawing.add(Circle(11 * mm, 6 * mm, 4.4 * mm, fillColor=None, strokeColor=_INK))
    _line(drawing, 11, 6, 13.6, 8.4, color=_HAND)
    arc = Path(fillColor=None, strokeColor=_INK, strokeWidth=0.6)
    arc.moveTo(7.8 * mm, 4 * mm)
    arc.curveTo(7.4 * mm, 9.6 * mm, 14.6 * mm, 9.6 * mm, 14.2 * mm, 4 * mm)
    drawing.add(arc)


_OF: dict[Picture, Callable[[Drawing], None]] = {
    Picture.EXPANSION_TANK: _expansion_tank,
    Picture.LEVER: _lever,
    Picture.PIPE_END: _pipe_end,
    Picture.BUCKET: _bucket,
    Picture.DRAIN_SHUT: _drain_shut,
    Picture.GAUGE: _gauge,
}

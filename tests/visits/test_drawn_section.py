"""The tank cut open for its customer, by millimetres on the page: a tank of 30 by 50, 34 from the left and 4 up."""

import pytest
from reportlab.graphics.shapes import Circle, Drawing, Line, Path, Rect, String
from reportlab.lib.units import mm

from aquifer.visiting import drawn_section
from aquifer.visits.models import Finding

LEFT, RIGHT, FLOOR, TOP = 34.0, 64.0, 4.0, 54.0


def mms(*points: float) -> list[float]:
    return [round(one / mm, 3) for one in points]


@pytest.mark.parametrize(
    ("found", "share"),
    [
        # Four times as deep as on a tank of 1.2 m, or nobody would see it; at most half of it.
        ({"depth_before_mm": 60.0}, 0.2), ({"depth_before_mm": 400.0}, 0.5), ({"depth_after_mm": 30.0}, 0.1),
        ({"depth_before_mm": 0.0, "depth_after_mm": 30.0}, 0.0), ({"removed": "none"}, 0.0),
        ({"removed": "trace"}, 0.03), ({"removed": "moderate"}, 0.08),
        ({"removed": "heavy"}, 0.16), ({"removed": "blocked"}, 0.24), ({}, None),
        ({"removed": "heavy", "depth_before_mm": 60.0}, 0.2),
    ],
)  # fmt: skip
def test_a_bed_is_drawn_as_it_was_measured_else_as_its_grade(found, share):
    assert drawn_section._bed(Finding(**found)) == (share if share is None else pytest.approx(share))
    assert drawn_section._bed(None) is None


@pytest.mark.parametrize("share", [0.03, 0.2, 0.5])
def test_a_bed_lies_on_the_floor_between_the_walls(share):
    drawing = Drawing()
    drawn_section._deposit(drawing, share)
    (bed,) = drawing.contents
    assert isinstance(bed, Path)
    points = list(zip(mms(*bed.points[::2]), mms(*bed.points[1::2]), strict=True))
    height = FLOOR + share * (TOP - FLOOR)
    begins, along, *_ = points
    assert begins == (LEFT + 1.2, FLOOR + 1.5) and along == (LEFT + 1.2, pytest.approx(height))
    # Its top bulges a little, and its floor bends as the tank's does; it is as wide left as right.
    assert points[2:5] == [
        (LEFT + 9.2, pytest.approx(height + 1.4)), (RIGHT - 9.2, pytest.approx(height + 1.4)),
        (RIGHT - 1.2, pytest.approx(height)),
    ]  # fmt: skip
    assert points[5:] == [
        (RIGHT - 1.2, FLOOR + 1.5), (RIGHT - 4.2, FLOOR + 0.3), (LEFT + 4.2, FLOOR + 0.3), (LEFT + 1.2, FLOOR + 1.5),
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("share", "renewed", "words"),
    [
        (1.0, False, "rod that rusts in its place"), (0.55, True, "the rod that was taken out"),
        (0.0, True, "the rod that was taken out"),
    ],
)  # fmt: skip
def test_a_rod_hangs_from_the_top_as_thick_as_it_was(share, renewed, words):
    drawing = Drawing()
    drawn_section._rod(drawing, share, renewed)
    x = LEFT + 0.62 * (RIGHT - LEFT)
    wire = drawing.contents[0]
    assert isinstance(wire, Line) and mms(wire.x1, wire.y1, wire.x2, wire.y2) == [x, TOP, x, 14.0]
    metal = [one for one in drawing.contents if isinstance(one, Rect)]
    assert [mms(one.x, one.y, one.width, one.height) for one in metal] == [
        [round(x - 1.6 * share, 3), 16.0, round(3.2 * share, 3), 38.0]
    ] * (share > 0)
    (head,) = (one for one in drawing.contents if isinstance(one, Circle))
    assert mms(head.cx, head.cy, head.r) == [x, TOP, 1.6]
    (told,) = (one for one in drawing.contents if isinstance(one, String))
    assert told.text == words


def test_a_label_stands_beside_the_tank_at_the_end_of_its_line():
    drawing = Drawing()
    drawn_section._label(drawing, 20 * mm, "deposit on the floor", RIGHT * mm)
    line, told = drawing.contents
    assert mms(line.x1, line.y1, line.x2, line.y2) == [RIGHT, 20.0, RIGHT + 12.5, 20.0]
    assert mms(told.x, told.y) == [RIGHT + 14.0, 19.0] and told.fontSize == 9 and told.text == "deposit on the floor"

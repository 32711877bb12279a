"""An owner's drawings hold together: nothing leaves its frame, and what is one thing hangs together."""

import itertools
import math

import pytest
from reportlab.graphics.shapes import Circle, Line, Rect
from reportlab.lib.units import mm

from aquifer.visiting.owners_drawings import HEIGHT, WIDTH, drawn
from aquifer.visiting.owners_year import Picture

NEAR_MM = 0.35


def outline(shape) -> list[tuple[float, float]]:
    """Points along it, mm."""
    if isinstance(shape, Line):
        ends = [(shape.x1, shape.y1), (shape.x2, shape.y2)]
    elif isinstance(shape, Rect):
        right, top = shape.x + shape.width, shape.y + shape.height
        ends = [(shape.x, shape.y), (right, shape.y), (right, top), (shape.x, top), (shape.x, shape.y)]
    elif isinstance(shape, Circle):
        turns = [step / 16 * math.pi for step in range(33)]
        ends = [(shape.cx + shape.r * math.cos(one), shape.cy + shape.r * math.sin(one)) for one in turns]
    else:
        ends = list(zip(shape.points[::2], shape.points[1::2], strict=True))
    along = [
        (x + (to_x - x) * step / 30, y + (to_y - y) * step / 30)
        for (x, y), (to_x, to_y) in itertools.pairwise(ends)
        for step in range(31)
    ]
    return [(x / mm, y / mm) for x, y in along]


def pieces(picture: Picture) -> list[int]:
    """How many strokes hang together in each piece of a drawing, the largest first."""
    strokes = [outline(shape) for shape in drawn(picture).contents]

    def touch(one, other) -> bool:
        return min(math.dist(a, b) for a in one for b in other) <= NEAR_MM

    left, found = set(range(len(strokes))), []
    while left:
        together, edge = set(), {left.pop()}
        while edge:
            together |= edge
            edge = {other for other in left if any(touch(strokes[one], strokes[other]) for one in edge)}
            left -= edge
        found.append(len(together))
    return sorted(found, reverse=True)


@pytest.mark.parametrize("picture", Picture)
def test_nothing_leaves_its_frame(picture):
    drawing = drawn(picture)
    assert (drawing.width, drawing.height) == (WIDTH, HEIGHT) == (22 * mm, 15 * mm)
    for shape in drawing.contents:
        assert all(0 <= x <= 22 and 0 <= y <= 15 for x, y in outline(shape)), shape


PIECES = {
    # The tank with its pin and its pipe; the arrow at the pipe.
    Picture.EXPANSION_TANK: [3, 3],
    # The valve with both its pipes; the arrow beside it; the lever over it.
    Picture.LEVER: [4, 3, 1],
    # The valve, its pipe down to the ring that is looked through, and the floor.
    Picture.PIPE_END: [5],
    # The tank's corner, the drain and what drips from it; the bucket.
    Picture.BUCKET: [7, 3],
    # The tank's corner, and the drain that is crossed out.
    Picture.DRAIN_SHUT: [5],
    # The faucet with the gauge on it; the scale in the gauge.
    Picture.GAUGE: [5, 1],
}


@pytest.mark.parametrize("picture", Picture)
def test_what_is_one_thing_hangs_together(picture):
    assert pieces(picture) == PIECES[picture]


def test_an_arrow_points_where_the_hand_moves():
    """To the left at the expansion tank's pipe, up at the lever: the tip is where two strokes of the head meet."""
    for picture, tip, tail in ((Picture.EXPANSION_TANK, (15.5, 7), (20, 7)), (Picture.LEVER, (18, 13.5), (18, 8))):
        hand = [one for one in drawn(picture).contents if isinstance(one, Line) and one.strokeColor.hexval() == HAND]
        ends = [(round(x / mm, 3), round(y / mm, 3)) for one in hand for x, y in ((one.x1, one.y1), (one.x2, one.y2))]
        assert ends.count(tip) == 3 and ends.count(tail) == 1
        for x, y in set(ends) - {tip, tail}:
            # The head's strokes lie behind the tip, to both sides of the shaft.
            assert 1.5 < math.dist((x, y), tip) < 2 and math.dist((x, y), tail) < math.dist(tip, tail)


HAND = "0xb2552e"

SLANTED = {
    # Two strokes of each arrow's head; besides, the lever, the bucket's sides, the crossing-out, the needle.
    Picture.EXPANSION_TANK: 2, Picture.LEVER: 3, Picture.PIPE_END: 0, Picture.BUCKET: 2, Picture.DRAIN_SHUT: 1,
    Picture.GAUGE: 1,
}  # fmt: skip


@pytest.mark.parametrize("picture", Picture)
def test_pipes_run_upright_or_level_and_round_things_are_round(picture):
    lines = [one for one in drawn(picture).contents if isinstance(one, Line)]
    slanted = [one for one in lines if min(abs(one.x1 - one.x2), abs(one.y1 - one.y2)) > 1e-6]
    assert len(slanted) == SLANTED[picture]
    assert {round(one.strokeWidth, 2) for one in lines} == {1.1} and {one.strokeLineCap for one in lines} == {1}
    for one in drawn(picture).contents:
        if isinstance(one, Rect):
            # None is a speck, and none fills the frame.
            assert 2 * mm <= min(one.width, one.height) and one.width <= 10 * mm and one.height <= 10 * mm
        if isinstance(one, Circle):
            assert 0.5 * mm <= one.r <= 5 * mm


def test_a_bucket_and_a_gauge_are_as_wide_left_as_right():
    bucket = [one for one in drawn(Picture.BUCKET).contents if isinstance(one, Line)][-3:]
    (left, bottom, right) = bucket
    assert left.y1 == right.y2 > bottom.y1 == bottom.y2
    assert abs(left.x2 - left.x1) == pytest.approx(abs(right.x2 - right.x1))
    drops = [one for one in drawn(Picture.BUCKET).contents if isinstance(one, Circle)]
    # What drips falls into it.
    assert all(left.x1 < one.cx < right.x2 and one.cy > bottom.y1 for one in drops) and len(drops) == 2
    (dial,) = (one for one in drawn(Picture.GAUGE).contents if isinstance(one, Circle))
    scale = outline(drawn(Picture.GAUGE).contents[-1])
    middle = (dial.cx / mm, dial.cy / mm)
    assert all(math.dist(one, middle) < dial.r / mm for one in (scale[0], scale[-1])), "the scale lies in the dial"
    assert scale[0][1] == scale[-1][1]
    assert middle[0] - min(x for x, _ in scale) == pytest.approx(max(x for x, _ in scale) - middle[0], abs=0.05)
    needle = next(one for one in drawn(Picture.GAUGE).contents if isinstance(one, Line) and one.x1 == dial.cx)
    assert needle.y1 == dial.cy and math.dist((needle.x2, needle.y2), (dial.cx, dial.cy)) < dial.r

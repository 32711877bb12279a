import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from aquifer.travel.service import Point, times

POINTS = st.lists(
    st.builds(Point, st.floats(-28.4, -28.12), st.floats(-41.3, -41.07)), min_size=2, max_size=6, unique=True
)


@given(POINTS)
@settings(max_examples=30, deadline=None)
def test_ways_are_as_long_back_as_there_and_never_shorter_by_a_detour(points):
    minutes = times().minutes(points)
    assert (minutes == minutes.T).all() and (np.diag(minutes) == 0).all()
    apart = minutes[~np.eye(len(points), dtype=bool)]
    assert (apart >= 1).all() and apart.max() < 150
    # Rounding up and parking make a detour longer, never shorter.
    assert (minutes[:, :, None] <= minutes[:, None, :] + minutes.T[None, :, :] + 1).all()


def test_roads_are_the_same_whoever_asks_and_main_roads_are_faster():
    a, b = Point(-28.3, -41.2), Point(-28.2, -41.15)
    assert times().minutes([a, b])[0, 1] == times().minutes([b, a, Point(-28.25, -41.1)])[1, 0]
    line = times().way([a, b])
    assert (line[0], line[-1]) == (a, b) and len(line) > 8
    assert times().minutes([]).shape == (0, 0) and times().way([a]) == [a]
    assert len(times().lines(-28.4, -41.3, -28.1, -41.05)) > 100

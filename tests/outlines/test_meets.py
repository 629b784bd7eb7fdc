from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dimetron.outlines.meets import crossings_near, inside, squared, touched
from dimetron.outlines.path import sampled
from dimetron.outlines.shapes import ellipse

angles = st.floats(0, 2 * np.pi)


def _ring() -> np.ndarray:
    points = sampled(ellipse((0, 0), (50, 50)), 0.001)
    return np.concatenate([points, points[:1]])


@given(angles, st.floats(-0.9, 0.9))
def test_a_line_crosses_a_circle_where_geometry_has_it(turn: float, share: float) -> None:
    way = np.array([np.cos(turn), np.sin(turn)])
    out = np.array([-way[1], way[0]])
    off, half = share * 50, 50 * np.sqrt(1 - share**2)
    line = np.stack([off * out - 80 * way, off * out + 80 * way])
    for sign in (-1, 1):
        place = off * out + sign * half * way
        found = crossings_near([_ring(), line], place + np.array((0.3, -0.4)), 2.0)
        assert len(found) and np.hypot(*(found - place).T).max() < 0.05


@given(angles, st.floats(1.2, 8.0), st.sampled_from([-1, 1]))
def test_a_straight_line_touches_a_circle_where_geometry_has_it(
    turn: float, far: float, sign: int
) -> None:
    start = 50 * far * np.array([np.cos(turn), np.sin(turn)])
    at = turn + sign * np.arccos(1 / far)
    place = 50 * np.array([np.cos(at), np.sin(at)])
    found = touched([_ring()], start, place * 1.01, 3.0)
    assert found is not None and found[1] == "touches"
    # Seen from far, a tangent shifts by more than the line is off.
    assert np.hypot(*(found[0] - place)) < 1.0
    assert abs(np.hypot(*found[0]) - 50) < 2e-2
    near = 50 * np.array([np.cos(turn + 0.02), np.sin(turn + 0.02)])
    foot = touched([_ring()], start, near, 3.0)
    assert foot is not None and foot[1] == "square"
    assert np.hypot(*(foot[0] - start / far)) < 1.0
    assert touched([_ring()], start, place * 1.2, 3.0) is None


def test_corners_and_ends_are_not_touched() -> None:
    square = np.array([[0.0, 0], [10, 0], [10, 10], [0, 10], [0, 0]])
    assert touched([square], (-5, 5), (0, 10), 1.0) is None
    assert touched([square], (20, 4), (10.5, 4.3), 1.0) == (pytest.approx([10, 4]), "square")
    # Nor is a line squarely met where it would have to be longer, or where one begins.
    assert touched([square], (20, 30), (10, 9.5), 1.0) is None
    assert touched([square], (10, 4), (10, 4.2), 1.0) is None
    assert touched([], (0, 0), (1, 1), 5.0) is None


def test_a_line_that_only_goes_on_does_not_cross_itself() -> None:
    ring = _ring()
    assert len(crossings_near([ring], ring[0], 8.0)) == 0
    assert len(crossings_near([], (0, 0), 8.0)) == 0
    eight = np.array([[-5.0, -5.0], [5.0, 5.0], [5.0, -5.0], [-5.0, 5.0]])
    assert crossings_near([eight], (0.5, 0.5), 2.0) == pytest.approx(np.zeros((1, 2)))
    assert len(crossings_near([eight], (1.5, 1.5), 2.0)) == 0
    # Lines that end before they meet, and those that run along one another, do not cross.
    level = np.array([[-5.0, 0.0], [5.0, 0.0]])
    short = np.array([[1.0, 0.1], [1.0, 5.0]])
    assert len(crossings_near([level, short, level + np.array((0.0, 1e-7))], (1, 0), 3.0)) == 0


@given(angles, angles, st.floats(0.1, 100))
def test_what_is_squared_is_level_plumb_tangent_or_at_a_right_angle(
    turn: float, to: float, far: float
) -> None:
    start = np.array([3.0, -7.0])
    way = np.array([np.cos(turn), np.sin(turn)])
    place = start + far * np.array([np.cos(to), np.sin(to)])
    found = squared(start, place, [way])
    along = (found - start) / np.hypot(*(found - start))
    turns = [
        abs(along[0]),
        abs(along[1]),
        abs(along @ way),
        abs(along[0] * way[1] - along[1] * way[0]),
    ]
    assert min(1 - np.array(turns)) < 1e-9
    # No right angle is nearer, and none is farther off than half of one.
    assert np.hypot(*(found - place)) <= far * np.sin(np.pi / 4) + 1e-9
    assert squared(start, found, [way]) == pytest.approx(found, abs=1e-6)
    assert squared(start, start + far * way, [way]) == pytest.approx(start + far * way)


@given(st.lists(st.tuples(angles, st.floats(0, 2)), min_size=1, max_size=20))
def test_within_a_circle_is_nearer_than_its_radius(places: list[tuple[float, float]]) -> None:
    turn, share = np.array(places).T
    share = np.where(abs(share - 1) < 0.01, 0.5, share)
    points = 50 * share[:, None] * np.stack([np.cos(turn), np.sin(turn)], axis=1)
    assert inside(_ring(), points).tolist() == (share < 1).tolist()
    hole = np.concatenate([_ring(), _ring()[::-1] / 2])
    assert not inside(hole, np.zeros((1, 2)))[0]

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dimetron.outlines import edit, halves
from dimetron.outlines.chained import chained, nearest_joined
from dimetron.outlines.path import OutlineError, Path, area, path_of, sampled
from dimetron.outlines.rounding import rounded
from dimetron.outlines.shapes import ellipse, rectangle
from dimetron.outlines.trace import distances
from tests.outlines.drawn import along, polygon, wavy


def _off(one: Path, other: Path) -> float:
    return float(max(distances(one, along(other)).max(), distances(other, along(one)).max()))


@given(st.integers(0, 99), st.integers(0, 4), st.floats(0.05, 0.95))
def test_a_point_inserted_or_taken_out_again_keeps_the_shape(
    seed: int, piece: int, t: float
) -> None:
    path = wavy((0, 0), 50, seed)
    more = edit.inserted(path, piece, t)
    assert len(more) == 6
    assert not more.corner.any()
    assert _off(more, path) < 0.05
    less = edit.without(more, [piece + 1])
    assert less is not None
    assert _off(less, path) < 0.8


def test_a_smooth_points_other_handle_turns_along() -> None:
    path = wavy((0, 0), 50, 1)
    turned = edit.shaped(path, 2, True, path.points[2] + (0, 10))
    way = turned.before[2] - turned.points[2]
    assert way[0] == pytest.approx(0, abs=1e-9)
    assert way[1] < 0
    assert np.hypot(*way) == pytest.approx(np.hypot(*(path.before[2] - path.points[2])))
    apart = edit.shaped(path, 2, True, path.points[2] + (0, 10), apart=True)
    assert apart.corner[2]
    assert apart.before[2].tolist() == path.before[2].tolist()


def test_points_become_smooth_and_corners_again() -> None:
    path = edit.made_smooth(polygon((0, 0), (30, 0), (30, 30), (0, 30)), range(4))
    assert not path.corner.any()
    assert area(path) > 900
    again = edit.made_corner(path, range(4), straight=True)
    assert area(again) == pytest.approx(900)


def test_radii_are_true_arcs_that_can_still_be_changed() -> None:
    path = edit.with_radius(rectangle((0, 0), (40, 20)), [0, 1], 5.0)
    round_ = rounded(path)
    assert area(round_) == pytest.approx(800 - 2 * (25 - math.pi * 25 / 4), rel=1e-4)
    assert len(path) == 4
    near = along(round_, 0.2)
    near = near[(near < (5, 5)).all(axis=1)]
    assert np.hypot(*(near - (5, 5)).T) == pytest.approx(5, abs=0.01)


def test_a_radius_on_curved_sides_touches_both() -> None:
    leaf = path_of([[0, 0], [60, 0]], [[20, -30], [40, 30]], [[20, 30], [40, -30]], closed=True)
    round_ = rounded(edit.with_radius(leaf, [1], 4.0))
    assert len(round_) > len(leaf) + 1
    assert not round_.corner[1:].any()
    assert _off(round_, leaf) > 1


@pytest.mark.parametrize(("radius", "words"), [(11.0, "no room|too large"), (300.0, "too large")])
def test_a_radius_too_large_is_refused(radius: float, words: str) -> None:
    path = edit.with_radius(rectangle((0, 0), (40, 20)), range(4), radius)
    with pytest.raises(OutlineError, match=words):
        rounded(path)
    with pytest.raises(OutlineError, match="Only corners"):
        edit.with_radius(ellipse((0, 0), (2, 2)), [0], 1.0)


def test_closing_opening_and_cutting() -> None:
    path = rectangle((0, 0), (4, 3))
    opened = edit.closed(path, False)
    assert len(opened) == 5
    assert edit.closed(opened) == path
    (run,) = edit.split(path, 2)
    assert run.points[0].tolist() == run.points[-1].tolist() == [4, 3]
    a, b = edit.split(opened, 2)
    assert (len(a), len(b)) == (3, 3)


@given(st.integers(0, 99))
def test_simplifying_stays_within_the_miss_and_keeps_corners(seed: int) -> None:
    path = wavy((0, 0), 80, seed)
    for k in range(5):
        path = edit.inserted(path, 2 * k, 0.5)
    found = edit.simplified(path, 0.5)
    assert len(found) < len(path)
    assert _off(found, path) < 1.0
    square = edit.inserted(rectangle((0, 0), (40, 20)), 0, 0.5)
    assert (
        edit.simplified(square, 0.1).points.tolist() == rectangle((0, 0), (40, 20)).points.tolist()
    )


def test_an_offset_lies_as_far_away_as_asked() -> None:
    (grown,) = edit.offset(ellipse((0, 0), (30, 30)), 5.0)
    assert np.hypot(*along(grown).T) == pytest.approx(35, abs=0.02)
    (less,) = edit.offset(rectangle((0, 0), (40, 20)), -3.0)
    assert area(less) == pytest.approx(34 * 14)
    assert less.corner.all()
    with pytest.raises(OutlineError, match="Nothing is left"):
        edit.offset(rectangle((0, 0), (40, 20)), -11.0)
    with pytest.raises(OutlineError, match="close it first"):
        edit.offset(polygon((0, 0), (5, 5), closed=False), 1.0)


def test_a_half_is_welded_exactly_on_the_axis_and_smooth_there() -> None:
    circle = ellipse((0, 5), (10, 10))
    half = circle.taken([3, 0, 1], closed=False)
    (one,) = halves.whole(half, 0)
    assert one.closed
    assert len(one) == 4
    assert one.points[np.abs(one.points[:, 0]) < 1][:, 0].tolist() == [0.0, 0.0]
    assert not one.corner.any()
    assert _off(one, circle) < 0.01
    # A smooth end whose handle leans is set square to the axis, so that there is no kink.
    leaning = path_of([[12, 0], [0, 9]], [[12, 0], [3, 11]], [[12, 5], [0, 9]], [True, False])
    (bow,) = halves.whole(leaning, 0)
    came, goes = (bow.points[1] - bow.before[1], bow.after[1] - bow.points[1])
    assert came[1] == goes[1] == 0
    open_ = polygon((0, 0), (5, 5), (9, 5), closed=False)
    (both,) = halves.whole(open_, 0)
    assert both.points.tolist() == [[9, 5], [5, 5], [0, 0], [-5, 5], [-9, 5]]
    assert len(halves.whole(polygon((2, 0), (5, 5), closed=False), 0)) == 2


@given(st.integers(0, 60))
def test_an_outline_made_even_is_its_own_mirror_image(seed: int) -> None:
    even = halves.evened(wavy((3, 0), 50, seed), 0)
    assert _off(halves.mirrored(even, 0), even) < 0.05
    right = along(wavy((3, 0), 50, seed))
    right = right[right[:, 0] > 0.1]
    assert distances(even, right).mean() < 0.3


def test_points_are_levelled_spread_turned_and_sized() -> None:
    path = polygon((0, 0), (10, 4), (20, 2), (40, 0), closed=False)
    level = edit.aligned(path, [1, 2], 1)
    assert level.points[[1, 2], 1].tolist() == [3, 3]
    even = edit.spread(path, [0, 1, 2, 3])
    assert even.points[:, 0] == pytest.approx([0, 40 / 3, 80 / 3, 40])
    turned = edit.placed_by(path, [1, 2], [[0, -1], [1, 0]], (10, 4))
    assert turned.points[2] == pytest.approx([12, 14])
    assert turned.points[3].tolist() == [40, 0]


def test_ends_that_meet_are_chained_and_near_ones_joined() -> None:
    a, b = polygon((0, 0), (5, 0), closed=False), polygon((5, 4), (5, 0), closed=False)
    c = polygon((5, 4), (0, 0), closed=False)
    (ring,) = chained([a, b, c], 1e-6)
    assert ring.closed and abs(area(ring)) == pytest.approx(10)
    (run, lone) = chained([a, b, polygon((9, 9), (8, 8), closed=False)], 1e-6)
    assert {len(run), len(lone)} == {3, 2}
    one = nearest_joined([b, polygon((6, 5), (9, 9), closed=False), a])
    assert one.points.tolist() in ([[0, 0], [5, 0], [5, 4], [6, 5], [9, 9]],
                                   [[9, 9], [6, 5], [5, 4], [5, 0], [0, 0]])  # fmt: skip


def test_what_lies_off_the_axis_has_no_half() -> None:
    with pytest.raises(OutlineError, match="does not meet the axis"):
        halves.evened(ellipse((50, 0), (4, 4)), 0)
    assert len(sampled(ellipse((0, 0), (4, 4)), 0.1)) > 8

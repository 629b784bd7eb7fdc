from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dimetron.outlines.fit import fitted
from dimetron.outlines.path import (
    OutlineError,
    area,
    bounds,
    from_pieces,
    joined,
    mapped,
    path_of,
    sampled,
    turned_round,
    unit,
)
from dimetron.outlines.shapes import arc, ellipse, rectangle
from dimetron.outlines.trace import distances
from tests.outlines.drawn import along, polygon, wavy

NONE = np.zeros(0, np.intp)


def test_area_and_bounds_are_those_of_the_shape() -> None:
    assert area(rectangle((0, 0), (4, 3))) == pytest.approx(12)
    round_ = ellipse((5, 1), (3, 2), 30)
    assert area(round_) == pytest.approx(math.pi * 6, rel=3e-4)
    assert bounds(ellipse((5, 1), (3, 2))) == pytest.approx(np.array([[2, -1], [8, 3]]), abs=0.01)
    assert area(turned_round(round_)) == pytest.approx(-area(round_))


@given(st.integers(0, 200), st.floats(0.001, 1.0))
def test_a_sampled_path_misses_by_no_more_than_asked(seed: int, miss: float) -> None:
    path = wavy((0, 0), 60, seed)
    line = sampled(path, miss)
    fine = along(path, 0.3)
    assert distances(path_of(line, closed=True), fine).max() <= miss + 0.02


@given(st.integers(0, 200), st.sampled_from([0.1, 0.3, 1.0]))
def test_a_fit_lies_within_its_miss_and_is_smooth(seed: int, miss: float) -> None:
    true = wavy((0, 0), 120, seed)
    found = fitted(along(true), miss, NONE, closed=True)
    assert distances(found, along(true)).max() <= miss + 0.02
    assert distances(true, along(found)).max() <= 2 * miss + 0.02
    assert not found.corner.any()
    came, goes = found.points - found.before, found.after - found.points
    assert (unit(came) * unit(goes)).sum(axis=1) == pytest.approx(1.0)


def test_corners_stay_where_they_are_said_to_be() -> None:
    points = np.concatenate([along(polygon((0, 0), (40, 0), (40, 30), closed=False)), [[40, 30]]])
    found = fitted(points, 0.1, np.array([40]))
    assert found.points == pytest.approx(np.array([[0, 0], [40, 0], [40, 30]]))
    assert found.corner.all()


def test_an_arc_goes_through_its_three_places() -> None:
    found = arc((10, 0), (0, -10), (0, 10))
    assert distances(found, np.array([[0.0, -10], [-10, 0]])).max() < 0.01
    assert np.hypot(*along(found).T) == pytest.approx(10, abs=0.01)
    with pytest.raises(OutlineError, match="in line"):
        arc((0, 0), (1, 1), (2, 2))


def test_pieces_make_the_path_they_came_from() -> None:
    path = wavy((3, 4), 20, 5)
    again = from_pieces(path.pieces, closed=True)
    assert again.points == pytest.approx(path.points)
    assert not again.corner.any()
    both = joined([polygon((0, 0), (1, 0), closed=False), polygon((1, 0), (1, 2), closed=False)])
    assert both.points.tolist() == [[0, 0], [1, 0], [1, 2]]


def test_a_mapped_path_runs_through_the_mapped_places() -> None:
    path, matrix = wavy((3, 4), 20, 5), np.array([[0.0, -2.0], [2.0, 0.0]])
    there = mapped(path, matrix, (7, 1))
    assert distances(there, along(path) @ matrix.T + (7, 1)).max() < 0.05


@pytest.mark.parametrize("bad", [[[np.nan, 0]], np.zeros((0, 2))])
def test_what_is_no_outline_is_refused(bad: object) -> None:
    with pytest.raises(OutlineError):
        path_of(bad)  # type: ignore[arg-type]

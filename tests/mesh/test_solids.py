from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dimetron.geometry.auxiliary import square_to
from dimetron.geometry.views import View
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.health import health
from dimetron.mesh.operation import by_name
from dimetron.mesh.primitives import box
from dimetron.mesh.seen_outline import outline_of
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.solids.common import common
from dimetron.mesh.solids.nets import even_quads
from dimetron.mesh.solids.seen import Seen
from dimetron.outlines.apart import apart
from dimetron.outlines.path import Path, sampled
from dimetron.outlines.shapes import ellipse, rectangle


def _seen(view: View, *paths: Path) -> Seen:
    return Seen(view, tuple(sampled(path, 0.01) for path in paths))


FRONT = _seen(View.FRONT, ellipse((0, 50), (40, 50)))
SIDE = _seen(View.RIGHT, rectangle((-60, 0), (60, 100)))
TOP = _seen(View.TOP, ellipse((0, 0), (40, 60)))
#: Of both circles, of radius r: Steinmetz.
ROUND = (_seen(View.FRONT, ellipse((0, 0), (30, 30))), _seen(View.RIGHT, ellipse((0, 0), (30, 30))))


def test_what_two_views_allow_has_the_volume_of_the_formula() -> None:
    found = health(common([FRONT, SIDE]))
    assert found.closed
    assert found.volume_mm3 == pytest.approx(math.pi * 40 * 50 * 120, rel=1e-3)
    assert health(common(ROUND)).volume_mm3 == pytest.approx(16 / 3 * 30**3, rel=1e-3)


def test_its_outlines_are_those_it_was_made_from() -> None:
    solid = common([FRONT, SIDE, TOP])
    for one in (FRONT, TOP):
        assert apart(outline_of(solid, one.view), one.loops).max() < 0.2
    assert solid.bounds == pytest.approx(np.array([[-40, -60, 0], [40, 60, 100]]), abs=1e-6)


def _corner(width: float, depth: float, off: float) -> float:
    """What a line at 45° that misses the middle by ``off`` along X cuts off a rectangle."""
    far = (width + depth) / 2 - off
    beyond = max(0.0, far - width), max(0.0, far - depth)
    return (far**2 - beyond[0] ** 2 - beyond[1] ** 2) / 2


def test_a_hole_goes_through() -> None:
    ring = _seen(View.FRONT, rectangle((-40, 0), (40, 100)), rectangle((-10, 40), (10, 60)))
    found = health(common([ring, SIDE]))
    assert found.volume_mm3 == pytest.approx((80 * 100 - 20 * 20) * 120)
    assert len(outline_of(common([ring, SIDE]), View.FRONT)) == 2


def test_opposite_and_inclined_views_cut_too() -> None:
    half = _seen(View.BACK, rectangle((0, 0), (40, 100)))
    found = common([FRONT, SIDE, half])
    assert found.bounds[:, 0] == pytest.approx([-40, 0], abs=1e-6)
    square = [_seen(View.FRONT, rectangle((-50, 0), (50, 80))), SIDE]
    across = square_to("a", "A", (1, -1, 0), (0, 0, 0))
    strip = Seen(across, (np.array([[-20, -500], [20, -500], [20, 500], [-20, 500.0]]),))
    # A strip 40 wide at 45° through a block of 100 by 120.
    area = 100 * 120 - 2 * _corner(100, 120, 20 * math.sqrt(2))
    assert health(common([*square, strip])).volume_mm3 == pytest.approx(area * 80)
    netted = health(even_quads([*square, strip], 4.0))
    assert netted.closed
    assert netted.volume_mm3 == pytest.approx(area * 80, rel=0.02)


@pytest.mark.parametrize("seen", [[FRONT], [FRONT, _seen(View.BACK, ellipse((0, 50), (9, 9)))]])
def test_one_direction_leaves_the_depth_open(seen: list[Seen]) -> None:
    for make in (common, lambda s: even_quads(s, 4)):
        with pytest.raises(MeshError, match="depth open"):
            make(seen)


def test_views_that_rule_one_another_out_leave_nothing() -> None:
    above = _seen(View.RIGHT, rectangle((-60, 200), (60, 300)))
    with pytest.raises(MeshError, match="nothing in common"):
        common([FRONT, above])
    with pytest.raises(MeshError, match="nothing in common"):
        even_quads([FRONT, above], 4)


@settings(max_examples=12, deadline=None)
@given(st.floats(2.0, 9.0), st.integers(0, 9))
def test_even_quads_are_a_closed_mesh_on_the_outlines(size: float, seed: int) -> None:
    rng = np.random.default_rng(seed)
    star = 45 * rng.uniform(0.5, 1.0, 12)
    turn = np.arange(12) * np.pi / 6
    loop = np.stack([np.cos(turn) * star, np.sin(turn) * star + 50], axis=1)
    seen = [Seen(View.FRONT, (loop,)), SIDE, TOP]
    mesh = even_quads(seen, size)
    found = health(mesh)
    assert (mesh.topology.sizes == 4).all()
    assert found.closed
    assert (found.open_edges, found.nonmanifold_edges, found.flipped_faces) == (0, 0, 0)
    solid = common(seen)
    for view in (View.FRONT, View.RIGHT, View.TOP):
        away = apart(outline_of(mesh, view), outline_of(solid, view))
        assert away.mean() < 0.2 * size
        # What is thinner than a quad may be lost.
        assert np.percentile(away, 95) < 1.2 * size


def test_parts_that_touch_at_a_corner_are_no_broken_mesh() -> None:
    blocks = _seen(View.FRONT, rectangle((0, 0), (20, 20)), rectangle((20, 20), (40, 40)))
    for size in (2.0, 2.5, 3.0):
        found = health(even_quads([blocks, SIDE], size))
        assert found.closed and not found.nonmanifold_edges and not found.flipped_faces


def test_even_views_make_an_exactly_even_mesh() -> None:
    mesh = even_quads([FRONT, SIDE, TOP], 5.0)
    mirrored = mesh.positions * (-1, 1, 1)
    assert set(map(tuple, mirrored.round(9))) == set(map(tuple, mesh.positions.round(9)))
    assert health(mesh).volume_mm3 == pytest.approx(
        health(common([FRONT, SIDE, TOP])).volume_mm3, rel=0.02
    )


def test_quads_of_no_size_or_too_many_are_refused() -> None:
    for size, words in ((0.0, "more than nothing"), (0.01, "too many")):
        with pytest.raises(MeshError, match=words):
            even_quads([FRONT, SIDE], size)


def test_the_outline_of_an_open_mesh_counts_both_its_sides() -> None:
    cube = box((0, 0, 0), (10, 20, 30))
    (whole,) = outline_of(cube, View.FRONT)
    assert apart([whole], [np.array([[0, 0], [10, 0], [10, 30], [0, 30.0]])]).max() < 0.01
    lid = by_name("delete")(cube, Selection(Kind.FACE, np.array([0], np.int32))).mesh
    (open_,) = outline_of(lid, View.FRONT)
    assert apart([open_], [whole]).max() < 0.01

"""What is modelled against what is drawn: figures against closed formulas."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from dimetron.fit.line import Line, evened
from dimetron.fit.miss import Drawn, lengthened, missed
from dimetron.fit.modelled import modelled
from dimetron.geometry.views import View
from dimetron.mesh.arrays import Floats, MeshError
from dimetron.mesh.operation import by_name
from dimetron.mesh.primitives import box
from tests.mesh.truth import selected

CUBE = box((-50, -80, 0), (50, 80, 200))


def circle(r: float, x: float = 0.0, y: float = 0.0, count: int = 1000) -> Floats:
    turn = np.linspace(0, 2 * np.pi, count, endpoint=False)
    return np.stack([x + r * np.cos(turn), y + r * np.sin(turn)], axis=1)


def square(side: float, x: float = 0.0, y: float = 0.0) -> Floats:
    return np.array([[0.0, 0], [1, 0], [1, 1], [0, 1]]) * side + [x, y]


def test_a_circle_that_is_larger_stands_over_everywhere() -> None:
    miss = missed([circle(102)], Drawn([circle(100)]))
    assert miss.mean == pytest.approx(2.0, abs=0.01)
    assert miss.p95 == pytest.approx(2.0, abs=0.01)
    assert miss.largest == pytest.approx(2.0, abs=0.01)
    assert miss.modelled.off.min() > 1.9 and miss.drawn.off.min() > 1.9
    assert miss.areas.over == pytest.approx(np.pi * (102**2 - 100**2), rel=1e-3)
    assert miss.areas.short == pytest.approx(0.0, abs=1e-6)
    assert miss.areas.common == pytest.approx((100 / 102) ** 2, rel=1e-4)


def test_one_that_is_shifted_is_over_on_one_side_and_short_on_the_other() -> None:
    # Of circles apart by d the mean distance is 2 d / pi.
    miss = missed([circle(100, x=5.0)], Drawn([circle(100)[::-1]]))
    assert miss.mean == pytest.approx(2 * 5 / np.pi, rel=2e-3)
    assert miss.p95 == pytest.approx(5 * np.cos(0.05 * np.pi / 2), abs=0.01)
    assert miss.largest == pytest.approx(5.0, abs=1e-3)
    assert abs(miss.at) == pytest.approx([100, 0], abs=6)
    right = miss.modelled.places[:, 0] > 60
    assert (miss.modelled.off[right] > 0).all()
    assert (miss.modelled.off[miss.modelled.places[:, 0] < -60] < 0).all()


def test_a_bump_and_a_missing_part_are_found_where_they_are() -> None:
    plain = square(100)
    bumped = np.array([[0.0, 0], [100, 0], [100, 100], [60, 100], [55, 108], [50, 100], [0, 100]])
    over = missed([bumped], Drawn([plain]))
    assert over.largest == pytest.approx(8.0, abs=0.05)
    assert over.at == pytest.approx([55, 108], abs=0.1)
    drawn, mesh, by = over.worst
    assert drawn == pytest.approx([55, 100], abs=0.1) and by > 0
    assert mesh == pytest.approx([55, 108], abs=0.1)
    short = missed([plain], Drawn([bumped]))
    assert short.largest == pytest.approx(8.0, abs=0.05)
    assert short.worst[2] == pytest.approx(-8.0, abs=0.05)
    assert short.worst[0] == pytest.approx([55, 108], abs=0.1)
    assert (short.areas.over, short.areas.short) == pytest.approx((0.0, 40.0))


def test_holes_count_only_where_openings_are_marked() -> None:
    ring = (circle(100), circle(40)[::-1])
    assert missed([circle(100)], Drawn(ring)).largest == pytest.approx(0.0, abs=1e-6)
    pierced = missed([circle(100)], Drawn(ring, pierced=True))
    assert pierced.largest == pytest.approx(60.0, abs=0.1)
    assert pierced.areas.over == pytest.approx(np.pi * 40**2, rel=1e-3)
    both = missed([circle(100), circle(45)[::-1]], Drawn(ring, pierced=True))
    assert both.largest == pytest.approx(5.0, abs=0.05)
    assert both.areas.short == pytest.approx(np.pi * (45**2 - 40**2), rel=1e-3)


def test_what_is_left_out_does_not_count() -> None:
    handle = [[100.0, 40], [130, 40], [130, 60], [100, 60]]
    drawn = np.array([[0.0, 0], [100, 0], *handle, [100, 100], [0, 100]])
    assert missed([square(100)], Drawn([drawn])).largest == pytest.approx(30, abs=0.1)
    away = np.array([[99.0, 39], [140, 39], [140, 61], [99, 61]])
    for part in (away, away[::-1]):
        miss = missed([square(101)], Drawn([drawn], left_out=[part]))
        assert miss.largest == pytest.approx(np.sqrt(2), abs=0.05)
        assert miss.areas.short == pytest.approx(0.0, abs=1e-6)
        assert miss.areas.over == pytest.approx(201 - 22, abs=0.1)
    with pytest.raises(MeshError, match="left out"):
        missed([square(100)], Drawn([drawn], left_out=[square(900, -300, -300)]))


def test_notches_that_lines_are_too_wide_to_show_do_not_count() -> None:
    notched = np.array([[0.0, 0], [100, 0], [100, 100], [51, 100], [50, 60], [49, 100], [0, 100]])
    assert missed([notched], Drawn([square(100)])).largest > 20
    assert missed([notched], Drawn([square(100)], pen=1.0)).largest < 3
    # Nor does a line that leads outward, as an axis does.
    spur = np.array([[0.0, 0], [100, 0], [100, 50], [120, 50.2], [100, 50.4], [100, 100], [0, 100]])
    assert missed([square(100)], Drawn([spur])).largest > 15
    assert missed([square(100)], Drawn([spur], pen=1.0)).largest < 0.1
    # What is all as thin as that is left.
    wire = np.array([[0.0, 0], [100, 0], [100, 0.5], [0, 0.5]])
    assert missed([wire], Drawn([wire], pen=1.0)).largest < 1e-6
    # Corners, sharp ones too, stay where they are.
    for corners in (square(100), np.array([[0.0, 0], [100, 0], [50, 40], [0, 100]])):
        (kept,) = evened([corners], 1.0, 0.5)
        assert shapely.hausdorff_distance(*map(shapely.Polygon, (kept, corners))) < 1e-3


def test_a_small_miss_is_drawn_longer_and_a_large_one_as_it_is() -> None:
    begin, end = np.zeros((3, 2)), np.array([[0.5, 0], [0, 4], [30, 0]])
    found = lengthened(begin, end, 5.0, 100.0)
    assert found == pytest.approx(np.array([[2.5, 0], [0, 8], [30, 0]]))


def test_nothing_to_be_seen_is_said() -> None:
    with pytest.raises(MeshError, match="Nothing of the mesh"):
        missed([], Drawn([square(10)]))
    with pytest.raises(MeshError, match="enclose nothing"):
        Drawn([np.zeros((0, 2))])


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_what_is_nearest_and_within_is_as_geometry_has_it(seed: int) -> None:
    rng = np.random.default_rng(seed)
    turn = np.sort(rng.uniform(0, 2 * np.pi, 12))
    star = rng.uniform(20, 60, 12)[:, None] * np.stack([np.cos(turn), np.sin(turn)], axis=1)
    shape = shapely.Polygon(star)
    if np.diff(turn).max() > np.pi * 0.9 or not shape.is_valid:
        return
    places = rng.uniform(-80, 80, (200, 2))
    found = Line([star], 0.05).nearest(places)
    points = shapely.points(places)
    assert found.off == pytest.approx(shapely.distance(shape.exterior, points), abs=1e-2)
    clear = found.off > 0.1
    assert (found.within == shapely.contains(shape, points))[clear].all()


@pytest.mark.parametrize("view", list(View))
def test_an_outline_lies_on_the_mesh_in_space(view: View) -> None:
    done = by_name("extrude")(CUBE, selected(CUBE, "faces:facing=+x"), distance=30.0).mesh
    outline = modelled([done, box((200, 0, 0), (210, 10, 10))], view)
    assert outline.loops
    for loop in outline.loops:
        places = outline.in_space(loop)
        assert view.to_plane(places) == pytest.approx(loop, abs=1e-6)
        low, high = np.array([-50, -80, 0]), np.array([210, 80, 200])
        assert ((places > low - 1e-6) & (places < high + 1e-6)).all()
    # What stands behind another mesh has its own depth.
    small = modelled([done, box((0, 300, 50), (10, 310, 60))], View.RIGHT)
    assert small.in_space(np.array([[310.0, 55.0]]))[0] == pytest.approx([5, 310, 55], abs=5.1)


def test_open_meshes_and_any_faces_have_an_outline() -> None:
    for faces in ("faces:facing=+z", "faces:facing=-x"):
        open_ = by_name("delete")(CUBE, selected(CUBE, faces)).mesh
        for view, (w, h) in ((View.FRONT, (100, 200)), (View.TOP, (100, 160))):
            (loop,) = modelled([open_], view).loops
            assert shapely.Polygon(loop).area == pytest.approx(w * h)
    wild = by_name("bevel")(CUBE, selected(CUBE, "edges:all"), width=10.0).mesh
    (loop,) = modelled([wild], View.FRONT).loops
    assert shapely.Polygon(loop).area == pytest.approx(100 * 200 - 4 * 50)
    turned = by_name("flip")(wild).mesh
    assert shapely.Polygon(modelled([turned], View.FRONT).loops[0]).area == pytest.approx(19800)

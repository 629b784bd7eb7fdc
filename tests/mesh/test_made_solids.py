"""Solids from outlines against closed formulas."""

from __future__ import annotations

import math

import numpy as np
import pytest

from dimetron.geometry.views import View
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.health import Health, health
from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.mesh.solids.manifolds import grown
from dimetron.mesh.solids.parted import parted
from dimetron.mesh.solids.sheet import even_sheet, one_face
from dimetron.mesh.solids.slab import slab
from dimetron.mesh.solids.stamped import stamped
from dimetron.mesh.solids.swept import evenly, skinned, swept
from dimetron.mesh.solids.thickened import thickened
from dimetron.mesh.solids.turned import turned
from dimetron.outlines.path import Path, sampled
from dimetron.outlines.shapes import ellipse, rectangle

Z, X = (0.0, 0.0, 1.0), (1.0, 0.0, 0.0)


def _loop(path: Path) -> np.ndarray:
    return sampled(path, 0.002)


def _sound(mesh: Mesh) -> Health:
    found = health(mesh)
    assert found.closed
    assert (found.nonmanifold_edges, found.flipped_faces, found.zero_area_faces) == (0, 0, 0)
    return found


def test_a_slab_is_its_area_times_its_thickness() -> None:
    disc, hole = _loop(ellipse((5, 5), (30, 30))), _loop(ellipse((5, 5), (10, 10)))
    found = _sound(slab([disc, hole], View.FRONT, -4.0, 6.0))
    assert found.volume_mm3 == pytest.approx(math.pi * 800 * 10, rel=1e-3)
    plain = slab([_loop(rectangle((0, 0), (40, 20)))], View.TOP, 0.0, 5.0)
    assert plain.topology.face_count == 6
    assert plain.bounds == pytest.approx(np.array([[0, 0, -5], [40, 20, 0]]))
    two = [_loop(rectangle((0, 0), (4, 4))), _loop(rectangle((9, 0), (13, 4)))]
    assert _sound(slab(two, View.TOP, 0.0, 5.0)).shells == 2


def test_a_tapered_slab_is_a_frustum_and_a_rounded_one_lacks_its_edges() -> None:
    square = [_loop(rectangle((-20, -20), (20, 20)))]
    taper = math.degrees(math.atan(0.5))
    found = _sound(slab(square, View.FRONT, 0.0, 10.0, taper))
    assert found.volume_mm3 == pytest.approx(10 / 3 * (1600 + 900 + 1200))
    disc = [_loop(ellipse((0, 0), (20, 20)))]
    round_ = _sound(slab(disc, View.FRONT, 0.0, 10.0, rounding=5.0))
    # Its radius is 15 and what a quarter circle adds, squared and summed over the height.
    squared = 225 * 5 + 30 * math.pi * 25 / 4 + 125 - 125 / 3
    assert round_.volume_mm3 == pytest.approx(2 * math.pi * squared, rel=0.01)


@pytest.mark.parametrize(
    ("more", "words"),
    [
        ((0.0, 0.0), "thickness"),
        ((0.0, 4.0, 0.0, 3.0), "half the thickness"),
        ((0.0, 40.0, 60.0), "no room"),
    ],
)
def test_slabs_without_room_are_refused(more: tuple[float, ...], words: str) -> None:
    with pytest.raises(MeshError, match=words):
        slab([_loop(rectangle((0, 0), (20, 20)))], View.FRONT, *more)
    with pytest.raises(MeshError, match="enclose nothing"):
        slab([np.array([[0, 0], [1, 1], [2, 2.0]])], View.FRONT, 0.0, 1.0)


def test_points_on_straight_sides_leave_no_gaps_round_a_hole() -> None:
    outer = np.array([[0, 0], [2, 0], [4, 0], [4, 4], [0, 4.0]])
    hole = np.array([[1, 1], [1, 2], [1, 3], [2, 3], [3, 3], [3, 1.0]])
    assert _sound(slab([outer, hole], View.FRONT, 0.0, 1.0)).volume_mm3 == pytest.approx(12)


def test_one_run_of_edges_is_rounded_more_than_the_others() -> None:
    square = [_loop(rectangle((-20, -20), (20, 20)))]
    plain = 40 * 40 * 10
    lacks = 2 * (1 - math.pi / 4)  # Of a rounding by 1, both edges, for each mm along them.
    one = _sound(slab(square, View.FRONT, 0.0, 10.0, others=[(25.0, 3.0, 4.0)]))
    assert lacks * 16 * 32 < plain - one.volume_mm3 < lacks * 16 * 40
    found = slab(square, View.FRONT, 0.0, 10.0, others=[(25.0, 3.0, 4.0)])
    right = found.positions[np.abs(found.positions[:, 2]) < 16.5]
    assert np.ptp(right[right[:, 0] > 19.99][:, 1]) == pytest.approx(2.0)
    # The opposite edge is as sharp as before.
    assert {tuple(p) for p in np.round(found.positions[found.positions[:, 0] < -19.9], 6)} == {
        (-20.0, y, z) for y in (0.0, 10.0) for z in (-20.0, 20.0)
    }
    more = _sound(slab(square, View.FRONT, 0.0, 10.0, 0.0, 1.0, [(25.0, 3.0, 4.0)]))
    assert one.volume_mm3 - lacks * 40 * 4 < more.volume_mm3 < one.volume_mm3
    # The last one picked on a run counts; a hole has runs of its own.
    twice = slab(square, View.FRONT, 0.0, 10.0, others=[(21, 0, 2.0), (21, 5, 4.0)])
    assert _sound(twice).volume_mm3 == pytest.approx(one.volume_mm3)
    hole = _loop(rectangle((-5, -5), (5, 5)))
    holed = slab([*square, hole], View.FRONT, 0.0, 10.0, others=[(6, 0, 2.0)])
    inner = _sound(slab([*square, hole], View.FRONT, 0.0, 10.0)).volume_mm3
    assert inner - lacks * 4 * 12 < _sound(holed).volume_mm3 < inner - lacks * 4 * 7
    # A run that is bent all round is one; so large a radius leaves no flat side.
    disc = [_loop(ellipse((0, 0), (20, 20)))]
    all_round = _sound(slab(disc, View.FRONT, 0.0, 10.0, others=[(20, 0, 5.0)]))
    even = _sound(slab(disc, View.FRONT, 0.0, 10.0, rounding=5.0))
    assert all_round.volume_mm3 == pytest.approx(even.volume_mm3)
    with pytest.raises(MeshError, match="half the thickness"):
        slab(square, View.FRONT, 0.0, 10.0, others=[(25.0, 3.0, 6.0)])


def test_turned_profiles_are_the_solids_of_the_formulas() -> None:
    cone = np.array([[0, 0], [10, 0], [0, 30.0]])
    found = _sound(turned(cone, Z, X, False, 720))
    assert found.volume_mm3 == pytest.approx(math.pi * 100 * 30 / 3, rel=1e-4)
    ring = _loop(ellipse((30, 0), (5, 5)))
    torus = _sound(turned(ring, Z, X, True, 720))
    assert torus.volume_mm3 == pytest.approx(2 * math.pi**2 * 30 * 25, rel=1e-3)
    part = _sound(turned(ring, Z, X, True, 90, 90.0))
    assert part.volume_mm3 == pytest.approx((torus.volume_mm3 or 0) / 4, rel=1e-3)
    half = _sound(turned(cone, Z, X, False, 90, 180.0))
    assert half.volume_mm3 == pytest.approx((found.volume_mm3 or 0) / 2, rel=1e-3)
    shell = turned(np.array([[5, 0], [8, 20.0]]), Z, X, False, 24)
    assert (shell.topology.sizes == 4).all()
    assert health(shell).open_edges == 48


def test_what_crosses_its_axis_or_lies_on_it_is_not_turned() -> None:
    for profile, words in (([[-3, 0], [5, 9]], "crosses"), ([[0, 0], [0, 9]], "lies on the axis")):
        with pytest.raises(MeshError, match=words):
            turned(np.array(profile, float), Z, X, False)
    with pytest.raises(MeshError, match="three sides"):
        turned(np.array([[1, 0], [5, 9.0]]), Z, X, False, 2)


def test_a_tube_has_the_volume_of_its_line_times_its_section() -> None:
    turn = np.linspace(0, math.pi, 200)
    spine = np.stack([np.zeros(200), 50 * np.cos(turn), 50 * np.sin(turn)], axis=1)
    circle = evenly(_loop(ellipse((0, 0), (1, 1))), 96, True)
    found = _sound(swept(spine, circle, np.full(200, 4.0)))
    assert found.volume_mm3 == pytest.approx(math.pi * 50 * math.pi * 16, rel=4e-3)
    straight = np.stack([np.zeros(50), np.zeros(50), np.linspace(0, 30, 50)], axis=1)
    cone = _sound(swept(straight, circle, np.linspace(9.0, 3.0, 50)))
    assert cone.volume_mm3 == pytest.approx(math.pi * 30 / 3 * (81 + 27 + 9), rel=4e-3)
    around = np.linspace(0, 2 * math.pi, 120, endpoint=False)
    ring = np.stack([60 * np.cos(around), 60 * np.sin(around), 8 * np.sin(2 * around)], axis=1)
    loop = _sound(swept(ring, circle, np.full(120, 4.0), closed=True))
    assert loop.volume_mm3 == pytest.approx(math.pi * 16 * 2 * math.pi * 60, rel=0.03)
    # The last section meets the first without a twist.
    rings = swept(ring, circle, np.full(120, 4.0), closed=True).positions.reshape(120, 96, 3)
    steps = np.linalg.norm(np.roll(rings, -1, axis=0) - rings, axis=2)
    assert steps[-1].max() < 1.1 * steps[:-1].max()
    with pytest.raises(MeshError, match="radius"):
        swept(straight, circle, np.zeros(50))


def test_a_skin_over_sections_is_a_frustum() -> None:
    square = evenly(_loop(rectangle((-10, -10), (10, 10))), 80, True)
    low = np.column_stack([square, np.zeros(80)])
    high = np.roll(np.column_stack([square / 2, np.full(80, 12.0)]), 31, axis=0)[::-1]
    found = _sound(skinned([low, high], rows=3))
    assert found.volume_mm3 == pytest.approx(12 / 3 * (400 + 100 + 200), rel=2e-3)
    assert found.ngons == 2
    with pytest.raises(MeshError, match="two sections"):
        skinned([low])


def test_a_sheet_of_even_quads_covers_the_outline_and_no_more() -> None:
    disc, hole = _loop(ellipse((0, 0), (40, 30))), _loop(ellipse((5, 0), (10, 10)))
    mesh = even_sheet([disc, hole], View.FRONT, 7.0, 3.0)
    found = health(mesh)
    assert found.area_mm2 == pytest.approx(math.pi * (1200 - 100), rel=0.01)
    assert (found.nonmanifold_edges, found.flipped_faces, found.ngons) == (0, 0, 0)
    assert mesh.positions[:, 1] == pytest.approx(7.0)
    square = even_sheet([_loop(rectangle((0, 0), (30, 20)))], View.FRONT, 0.0, 4.0)
    assert health(square).area_mm2 == pytest.approx(600, rel=1e-3)
    assert one_face(disc, View.FRONT, 0.0).topology.face_count == 1
    for size, words in ((0.0, "more than nothing"), (900.0, "no room"), (0.001, "too many")):
        with pytest.raises(MeshError, match=words):
            even_sheet([disc], View.FRONT, 0.0, size)


def test_outlines_are_stamped_through_a_mesh_whole_or_to_a_depth() -> None:
    block = slab([_loop(rectangle((-20, -20), (20, 20)))], View.FRONT, -5.0, 5.0)
    disc = [_loop(ellipse((0, 0), (8, 8)))]
    hole = math.pi * 64
    outside = _sound(stamped(block, disc, View.FRONT))
    assert outside.volume_mm3 == pytest.approx((1600 - hole) * 10, rel=1e-3)
    inside = _sound(stamped(block, disc, View.FRONT, "inside"))
    assert inside.volume_mm3 == pytest.approx(hole * 10, rel=1e-3)
    pit = stamped(block, disc, View.FRONT, depth=(-6.0, -2.0))
    assert _sound(pit).volume_mm3 == pytest.approx(16000 - hole * 3, rel=1e-3)
    # Away from the eye it is whole.
    assert pit.bounds == pytest.approx(block.bounds)
    with pytest.raises(MeshError, match="is open"):
        stamped(even_sheet(disc, View.FRONT, 0.0, 2.0), disc, View.FRONT)
    far = [_loop(ellipse((900, 0), (8, 8)))]
    with pytest.raises(MeshError, match="Nothing of the mesh"):
        stamped(block, far, View.FRONT, "inside")


def test_a_thickened_sheet_is_as_thick_as_it_is_told_at_both_ends() -> None:
    square = [_loop(rectangle((0, 0), (40, 20)))]
    even = _sound(thickened(square, View.FRONT, 3.0, 4.0, (5.0, 5.0)))
    assert even.volume_mm3 == pytest.approx(40 * 20 * 5, rel=1e-3)
    graded = thickened(square, View.FRONT, 3.0, 2.0, (2.0, 8.0), 0)
    assert _sound(graded).volume_mm3 == pytest.approx(40 * 20 * 5, rel=1e-3)
    thick = np.ptp(graded.positions[graded.positions[:, 0] > 39.9][:, 1])
    thin = np.ptp(graded.positions[graded.positions[:, 0] < 0.1][:, 1])
    assert (thin, thick) == (pytest.approx(2.0), pytest.approx(8.0))
    with pytest.raises(MeshError, match="everywhere"):
        thickened(square, View.FRONT, 0.0, 4.0, (5.0, 0.0))


def test_a_thickened_sheet_goes_through_what_is_picked() -> None:
    square = [_loop(rectangle((0, 0), (40, 20)))]
    ends = (2.0, 4.0)
    found = thickened(square, View.FRONT, 0.0, 1.0, ends, 0, [(20.0, 10.0, 9.0), (30.0, 10.0, 3.0)])
    _sound(found)

    def thick(x: float, z: float) -> float:
        away = np.hypot(found.positions[:, 0] - x, found.positions[:, 2] - z)
        return float(np.ptp(found.positions[away < away.min() + 1e-6][:, 1]))

    assert [thick(20, 10), thick(30, 10)] == pytest.approx([9.0, 3.0], abs=0.05)
    assert [thick(0, 10), thick(40, 10)] == pytest.approx(ends, abs=0.05)
    assert 3.0 < thick(10, 10) < 9.0
    every = np.abs(found.positions[:, 1]) * 2
    assert every.min() > 1.99 and every.max() < 9.01
    with pytest.raises(MeshError, match="everywhere"):
        thickened(square, View.FRONT, 0.0, 4.0, ends, 0, [(20.0, 10.0, 0.0)])


def _area(mesh: Mesh) -> float:
    return health(mesh).area_mm2


def test_a_sheet_cut_along_a_line_keeps_the_side_that_is_said() -> None:
    sheet = even_sheet([_loop(rectangle((0, 0), (40, 20)))], View.FRONT, 3.0, 2.0)
    # Its ends lie within the sheet: it is run out to both sides, bent as it is in the middle.
    line = np.array([[10.0, 8.0], [15.0, 12.0], [25.0, 12.0], [30.0, 8.0]])
    below = parted(sheet, line, View.FRONT, np.array([20.0, 1.0]))
    above = parted(sheet, line, View.FRONT, np.array([20.0, 19.0]))
    # It falls by 0.8 mm a mm beyond its ends and reaches the sheet's foot there.
    under = (0.8 * 15 * 15 / 2) * 2 + 12 * 10
    assert _area(below) == pytest.approx(under)
    assert _area(above) == pytest.approx(800 - under)
    for part in (below, above):
        found = health(part)
        assert (found.shells, found.nonmanifold_edges, found.flipped_faces) == (1, 0, 0)
        assert part.positions[:, 1] == pytest.approx(3.0)
        # Beside the line, quads are as they were.
        sizes = part.topology.sizes
        assert (sizes == 4).sum() > 0.6 * len(sizes)


def test_what_is_not_flat_is_cut_where_it_is_seen() -> None:
    bent = even_sheet([_loop(rectangle((0, 0), (40, 20)))], View.FRONT, 0.0, 2.0)
    points = bent.positions.copy()
    points[:, 1] = 0.02 * points[:, 0] ** 2
    bent = from_faces(points, bent.topology.corners.reshape(-1, 4))
    cut = parted(bent, np.array([[13.0, 5.0], [13.0, 15.0]]), View.FRONT, np.array([1.0, 1.0]))
    assert cut.bounds[1] == pytest.approx([13.0, 0.5 * 0.02 * (12**2 + 14**2), 20.0])
    assert health(cut).shells == 1


def test_neighbours_that_are_not_flat_stay_joined_where_they_are_cut() -> None:
    sheet = even_sheet([_loop(rectangle((0, 0), (40, 20)))], View.FRONT, 0.0, 4.0)
    points = sheet.positions.copy()
    points[:, 1] = 0.05 * points[:, 0] * points[:, 2]
    twisted = from_faces(points, sheet.topology.corners.reshape(-1, 4))
    line = np.array([[13.0, 2.0], [22.0, 17.0]])
    cut = parted(twisted, line, View.FRONT, np.array([1.0, 1.0]))
    topology = cut.topology
    assert topology.vertex_count - len(topology.edges) + topology.face_count == 1


def test_a_closed_mesh_cut_along_a_line_stays_closed() -> None:
    block = slab([_loop(rectangle((0, 0), (40, 20)))], View.FRONT, 0.0, 10.0)
    line = np.array([[10.0, 5.0], [10.0, 15.0]])
    left = _sound(parted(block, line, View.FRONT, np.array([-50.0, 0.0])))
    assert left.volume_mm3 == pytest.approx(10 * 20 * 10)
    assert _sound(parted(block, line[::-1], View.FRONT, np.array([11.0, 0.0]))).volume_mm3 == (
        pytest.approx(30 * 20 * 10)
    )


@pytest.mark.parametrize(
    ("line", "keep", "words"),
    [
        ([[10, 5], [10, 15]], (10, 7), "beside the line"),
        ([[10, 5], [10, 5]], (0, 0), "single place"),
        ([[0, 0], [40, 0], [30, 20], [10, 20], [25, 0.5]], (1, 19), "crosses itself"),
        ([[-10, 5], [-10, 15]], (-20, 0), "Nothing of the mesh"),
    ],
)
def test_lines_that_part_nothing_are_refused(line: object, keep: object, words: str) -> None:
    sheet = even_sheet([_loop(rectangle((0, 0), (40, 20)))], View.FRONT, 0.0, 5.0)
    with pytest.raises(MeshError, match=words):
        parted(sheet, np.array(line, float), View.FRONT, np.array(keep, float))


def test_outlines_are_run_out_with_their_holes() -> None:
    loops = [_loop(rectangle((0, 0), (40, 20))), _loop(rectangle((10, 5), (20, 15)))]
    found = even_sheet(grown(loops, 2.0), View.FRONT, 0.0, 1.0)
    assert _area(found) == pytest.approx(44 * 24 - 6 * 6, rel=1e-3)
    with pytest.raises(MeshError, match="enclose nothing"):
        grown([loops[0][:2]], 2.0)

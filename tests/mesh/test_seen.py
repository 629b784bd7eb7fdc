"""Rays, where meshes run through each other, thin walls, and the lines that are seen."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from dimetron.geometry.views import View
from dimetron.mesh import rays
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.crossing import crossing, crossing_faces
from dimetron.mesh.findings import deeper_findings
from dimetron.mesh.health import health
from dimetron.mesh.joined import joined
from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.mesh.operation import by_name
from dimetron.mesh.primitives import box
from dimetron.mesh.rays import first_met
from dimetron.mesh.seen_lines import Together, seen_lines
from dimetron.mesh.thickness import thicknesses, thin_faces


def ball(radius: float, fine: int = 3) -> Mesh:
    made = trimesh.creation.icosphere(fine, radius)
    return from_faces(made.vertices, made.faces)


def drawn(meshes: list[Mesh], view: View) -> float:
    """How long all lines are that are seen, mm in the view's plane."""
    lines = [view.to_plane(line) for line in seen_lines(Together(meshes), view)]
    return float(sum(np.linalg.norm(np.diff(line, axis=0), axis=1).sum() for line in lines))


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10**6))
def test_many_rays_meet_what_one_by_one_meet(seed: int) -> None:
    rng = np.random.default_rng(seed)
    mesh = ball(10.0, 2)
    origins = rng.normal(size=(50, 3)) * 8
    ways = rng.normal(size=(50, 3))
    away, which = first_met(mesh.index, mesh.positions, origins, ways, 0.0, np.inf)
    for ray in range(50):
        # All triangles, each by its plane.
        t = mesh.positions[mesh.triangles]
        solved = np.linalg.pinv(
            np.stack(
                [t[:, 1] - t[:, 0], t[:, 2] - t[:, 0], np.broadcast_to(-ways[ray], t[:, 0].shape)],
                axis=2,
            )
        )
        u, v, far = np.einsum("nij,nj->ni", solved, origins[ray] - t[:, 0]).T
        hits = far[(u >= 0) & (v >= 0) & (u + v <= 1) & (far >= 0)]
        if not len(hits):
            assert which[ray] == -1 and np.isinf(away[ray])
            continue
        assert away[ray] == pytest.approx(hits.min(), rel=1e-6)
        corners = mesh.positions[mesh.triangles[which[ray]]]
        at = origins[ray] + away[ray] * ways[ray]
        normal = np.cross(corners[1] - corners[0], corners[2] - corners[0])
        assert abs((at - corners[0]) @ normal) < 1e-6 * np.linalg.norm(normal)


def test_what_is_nearest_does_not_depend_on_how_rays_are_taken(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    mesh = joined([ball(10.0), ball(6.0), ball(3.0)])
    rng = np.random.default_rng(5)
    origins = rng.normal(size=(40, 3)) * 20
    ask = (mesh.index, mesh.positions, origins, -origins, 0.0, np.inf)
    away, which = first_met(*ask)
    monkeypatch.setattr(rays, "_RAYS", 7)
    monkeypatch.setattr(rays, "_PAIRS", 24)
    again, also = first_met(*ask)
    assert np.array_equal(away, again) and np.array_equal(which, also)
    assert np.isfinite(away).all()


def test_a_ray_counts_between_its_ends_and_for_its_part_only() -> None:
    mesh = box((0, 0, 0), (10, 10, 10))
    at, up = np.array([[5.0, 5.0, 5.0]]), np.array([[0.0, 0.0, 1.0]])
    part = np.arange(len(mesh.triangles)) // 6
    ask = (mesh.index, mesh.positions, at, up)
    assert first_met(*ask, 0.0, 6.0)[0][0] == pytest.approx(5.0)
    assert np.isinf(first_met(*ask, 0.0, 4.0)[0][0])
    assert np.isinf(first_met(*ask, 5.5, 9.0)[0][0])
    hit = first_met(*ask, 0.0, 6.0)[1]
    other = 1 - part[hit]
    assert np.isinf(first_met(*ask, 0.0, 6.0, (other, part))[0][0])


def test_boxes_that_run_through_each_other_cross_along_their_common_line() -> None:
    both = joined([box((0, 0, 0), (10, 10, 10)), box((5, 5, 5), (15, 15, 15))])
    found = crossing(both)
    # Three faces of each meet three of the other, in a line of six edges of 5 mm.
    long = np.linalg.norm(found.lines[:, 1] - found.lines[:, 0], axis=1).sum()
    assert long == pytest.approx(30.0, abs=1e-6)
    assert len(crossing_faces(both)) == 6
    assert np.allclose(np.sort(found.pairs, axis=1), found.pairs)


def test_what_touches_or_folds_without_crossing_does_not_cross() -> None:
    side_by_side = joined([box((0, 0, 0), (1, 1, 1)), box((1, 0, 0), (2, 1, 1))])
    assert len(crossing_faces(side_by_side)) == 0
    assert len(crossing_faces(ball(5.0))) == 0
    within = joined([box((0, 0, 0), (9, 9, 9)), box((3, 3, 3), (4, 4, 4))])
    assert len(crossing_faces(within)) == 0
    assert len(crossing_faces(from_faces(np.zeros((0, 3)), []))) == 0


def test_an_edge_that_lies_in_another_face_crosses_it_if_touching_counts() -> None:
    # The ball's equator lies in the plate's face.
    octahedron = from_faces(
        np.array([(5, 0, 0), (0, 5, 0), (-5, 0, 0), (0, -5, 0), (0, 0, 5), (0, 0, -5)], float),
        [[0, 1, 4], [1, 2, 4], [2, 3, 4], [3, 0, 4], [1, 0, 5], [2, 1, 5], [3, 2, 5], [0, 3, 5]],
    )
    both = joined([octahedron, box((-30, -30, -20), (30, 30, 0))])
    lines = crossing(both, touching=True).lines
    long = np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1).sum()
    assert long == pytest.approx(4 * 5 * np.sqrt(2))
    assert len(crossing(both).lines) == 0


def test_triangles_that_share_a_corner_and_cross() -> None:
    points = [(0, 0, 0), (10, 0, 0), (0, 10, 0), (5, 2, -5), (5, 2, 5)]
    mesh = from_faces(np.array(points, float), [[0, 1, 2], [0, 3, 4]])
    found = crossing(mesh)
    assert len(found.pairs) == 1
    ends = found.lines[0][np.argsort(found.lines[0][:, 0])]
    assert np.allclose(ends, [(0, 0, 0), (5, 2, 0)])


@pytest.mark.parametrize("wall", [0.5, 3.0])
def test_a_wall_is_as_thick_as_it_was_made(wall: float) -> None:
    hollow = by_name("hollow")(ball(20.0), wall=wall).mesh
    found = thicknesses(hollow, 10.0)
    assert np.median(found[np.isfinite(found)]) == pytest.approx(wall, rel=0.05)
    assert len(thin_faces(hollow, wall * 1.3)) > 0.9 * hollow.topology.face_count / 2
    assert len(thin_faces(hollow, wall * 0.5)) == 0


def test_what_faces_the_same_way_is_no_other_side_of_a_wall() -> None:
    # A ramp of one and a half turns, half a millimetre above itself; all of it looks up.
    turn = np.radians(np.arange(19) * 30.0)
    ring = np.stack([np.cos(turn), np.sin(turn), np.arange(19) / 24], axis=1)
    points = np.concatenate([ring * [1, 1, 1], ring * [2, 2, 1]])
    ramp = from_faces(points, [[k, k + 19, k + 20, k + 1] for k in range(18)])
    assert (ramp.face_normals[:, 2] > 0.9).all()
    assert len(thin_faces(ramp, 1.0)) == 0


def test_another_shell_inside_is_no_thin_wall() -> None:
    both = joined([box((0, 0, 0), (10, 10, 10)), box((4, 4, 9.5), (6, 6, 15))])
    assert len(thin_faces(both, 1.0)) == 0
    plate = box((0, 0, 0), (10, 10, 0.4))
    assert thin_faces(plate, 1.0).tolist() == [0, 1] or len(thin_faces(plate, 1.0)) == 2


def test_shells_become_one_and_cavities_stay() -> None:
    crossed = joined([box((0, 0, 0), (10, 10, 10)), box((5, 5, 5), (15, 15, 15))])
    found = deeper_findings(crossed, 0.1)
    assert [one.name for one in found] == ["crossing"] and found[0].repair == "shells-union"
    mended = by_name("shells-union")(crossed).mesh
    told = health(mended)
    assert (told.shells, told.closed) == (1, True)
    assert told.volume_mm3 == pytest.approx(2000 - 125)
    assert deeper_findings(mended, 0.1) == ()
    inner = by_name("flip")(box((2, 2, 2), (8, 8, 8))).mesh
    hollow = joined([box((0, 0, 0), (10, 10, 10)), inner, box((9, 0, 0), (12, 10, 10))])
    assert health(by_name("shells-union")(hollow).mesh).volume_mm3 == pytest.approx(1200 - 216)
    with pytest.raises(MeshError, match="one shell already"):
        by_name("shells-union")(mended)


def test_a_box_is_drawn_by_its_outline_alone() -> None:
    assert drawn([box((0, 0, 0), (30, 20, 10))], View.FRONT) == pytest.approx(80.0, abs=1e-3)
    assert drawn([box((0, 0, 0), (30, 20, 10))], View.TOP) == pytest.approx(100.0, abs=5e-3)


def test_what_something_stands_before_is_left_out() -> None:
    near, far = box((0, -50, 0), (10, -40, 10)), box((5, 0, 5), (15, 10, 15))
    # Of the far one's 40 mm of edges, 5 + 5 lie behind the near one.
    assert drawn([near, far], View.FRONT) == pytest.approx(40 + 40 - 10, abs=0.02)
    assert drawn([near, far], View.BACK) == pytest.approx(40 + 40 - 10, abs=0.02)


def test_where_solids_run_through_each_other_a_line_is_drawn() -> None:
    sunk = ball(10.0, 4)
    sunk = sunk.with_positions(sunk.positions - [0, 0, 6])
    seen = drawn([sunk, box((-30, -30, -20), (30, 30, 0))], View.TOP)
    assert seen == pytest.approx(240 + 2 * np.pi * 8, rel=0.01)
    assert seen_lines(Together([]), View.TOP) == []


def test_pieces_are_put_together_into_lines() -> None:
    lines = seen_lines(Together([ball(10.0, 4)]), View.FRONT)
    assert len(lines) == 1 and np.allclose(lines[0][0], lines[0][-1])

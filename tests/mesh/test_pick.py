from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dimetron.geometry.camera import OrbitCamera, OrthoCamera
from dimetron.geometry.views import View
from dimetron.mesh import pick
from dimetron.mesh.primitives import box

FRONT = OrthoCamera(View.FRONT, (0.0, 0.0, 0.0), 1.0, (400.0, 400.0))


@given(st.floats(-60, 60), st.floats(-60, 60))
def test_a_face_is_hit_exactly_inside_its_outline(x: float, z: float) -> None:
    seen = pick.projected(box((-50, -20, -50), (50, 20, 50)), FRONT)
    px = FRONT.project((x, 0, z))
    hit = pick.face_at(seen, (float(px[0]), float(px[1])))
    inside = max(abs(x), abs(z))
    if inside < 50 - 1e-6:
        assert hit is not None
        # The face that looks towards -Y, at the near side.
        assert hit.depth == pytest.approx(-20)
        assert np.allclose(seen.mesh.face_normals[hit.face], (0, -1, 0))
    elif inside > 50 + 1e-6:
        assert hit is None


def test_the_nearest_vertex_and_edge_come_first() -> None:
    mesh = box((-50, -20, -50), (50, 20, 50))
    seen = pick.projected(mesh, FRONT)
    px = FRONT.project((50, 0, 50)) + np.array((2, 1))
    near = pick.vertices_near(seen, (float(px[0]), float(px[1])), 9)
    assert np.allclose(mesh.positions[near[0]], (50, -20, 50))
    assert np.allclose(mesh.positions[near[1]], (50, 20, 50))
    on_edge = FRONT.project((50, 0, 10)) - np.array((3, 0))
    edges, points = pick.edges_near(seen, (float(on_edge[0]), float(on_edge[1])), 9)
    assert np.allclose(points[0], (50, -20, 10))
    assert set(mesh.topology.edges[edges[0]]) <= set(near) | set(range(8))


def test_perspective_rays_hit_what_is_seen() -> None:
    camera = OrbitCamera(perspective=True, mm_per_px=0.5, size=(400.0, 400.0))
    mesh = box((-30, -30, -30), (30, 30, 30))
    seen = pick.projected(mesh, camera)
    hit = pick.face_at(seen, (200.0, 200.0))
    assert hit is not None
    assert mesh.face_normals[hit.face] @ camera.forward < 0
    assert pick.face_at(seen, (2.0, 2.0)) is None


def test_what_turns_to_the_eye() -> None:
    mesh = box((-50, -20, -50), (50, 20, 50))
    seen = pick.projected(mesh, FRONT)
    assert np.allclose(mesh.face_normals[pick.facing_faces(seen)], [(0, -1, 0)])
    assert np.allclose(mesh.positions[pick.facing_vertices(seen)][:, 1], -20)
    edges = mesh.topology.edges[pick.facing_edges(seen)]
    assert len(edges) == 4
    assert np.allclose(mesh.positions[edges][..., 1], -20)
    turned = pick.projected(mesh, OrbitCamera(perspective=True, mm_per_px=0.5, size=(400, 400)))
    assert pick.facing_faces(turned).sum() == 3
    assert pick.facing_vertices(turned).sum() == 7


def test_a_box_takes_what_lies_in_it() -> None:
    px = np.array([[1.0, 1], [5, 5], [11, 5], [np.nan, 3]])
    assert list(pick.in_box(px, (0, 0), (10, 10))) == [True, True, False, False]

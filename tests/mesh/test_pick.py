from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dimetron.geometry.camera import Camera, OrbitCamera, OrthoCamera
from dimetron.geometry.views import View
from dimetron.mesh import pick
from dimetron.mesh.arrays import Floats
from dimetron.mesh.index import indexed
from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.mesh.operation import by_name
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind, Selection

FRONT = OrthoCamera(View.FRONT, (0.0, 0.0, 0.0), 1.0, (400.0, 400.0))
SLANTED = OrbitCamera(perspective=True, mm_per_px=0.5, size=(400.0, 400.0))
REACH = 9.0


def ball(levels: int = 3) -> Mesh:
    cube = box((-50, -50, -50), (50, 50, 50))
    return by_name("subdivide")(cube, levels=levels).mesh


def near(mesh: Mesh, camera: Camera, px: Floats) -> pick.Near:
    return pick.Near(mesh, camera, (float(px[0]), float(px[1])), REACH)


@given(st.floats(-60, 60), st.floats(-60, 60))
def test_a_face_is_hit_exactly_inside_its_outline(x: float, z: float) -> None:
    mesh = box((-50, -20, -50), (50, 20, 50))
    px = FRONT.project((x, 0, z))
    hit = pick.face_at(mesh, FRONT, (float(px[0]), float(px[1])))
    inside = max(abs(x), abs(z))
    if inside < 50 - 1e-6:
        assert hit is not None
        # The face that looks towards -Y, at the near side.
        assert hit.depth == pytest.approx(-20)
        assert np.allclose(mesh.face_normals[hit.face], (0, -1, 0))
    elif inside > 50 + 1e-6:
        assert hit is None


def test_the_nearest_vertex_and_edge_come_first() -> None:
    mesh = box((-50, -20, -50), (50, 20, 50))
    found = near(mesh, FRONT, FRONT.project((50, 0, 50)) + np.array((2, 1))).vertices()
    assert np.allclose(mesh.positions[found[0]], (50, -20, 50))
    assert np.allclose(mesh.positions[found[1]], (50, 20, 50))
    # Beyond an edge's end it is as far away as the end is.
    beyond = FRONT.project((50, 0, 50)) + np.array((0, -REACH - 1))
    assert len(near(mesh, FRONT, beyond).edges()[0]) == 0
    edges, points = near(mesh, FRONT, FRONT.project((50, 0, 10)) - np.array((3, 0))).edges()
    assert np.allclose(points[0], (50, -20, 10))
    assert np.allclose(mesh.positions[mesh.topology.edges[edges[0]]][:, :2], (50, -20))


def test_a_vertex_of_no_face_is_found_too() -> None:
    mesh = from_faces([(0, 0, 0), (9, 0, 0), (0, 0, 9), (40, 0, 40)], [[0, 1, 2]])
    assert near(mesh, FRONT, FRONT.project((41, 0, 41))).vertices().tolist() == [3]


def test_perspective_rays_hit_what_is_seen() -> None:
    mesh = box((-30, -30, -30), (30, 30, 30))
    hit = pick.face_at(mesh, SLANTED, (200.0, 200.0))
    assert hit is not None
    assert mesh.face_normals[hit.face] @ SLANTED.forward < 0
    assert pick.face_at(mesh, SLANTED, (2.0, 2.0)) is None


@settings(max_examples=40)
@given(st.data())
def test_what_the_index_finds_is_what_looking_at_everything_finds(data: st.DataObject) -> None:
    camera = data.draw(st.sampled_from([FRONT, SLANTED]))
    mesh = ball()
    for _ in range(data.draw(st.integers(0, 3))):
        mesh = changed(mesh, data)
    assert np.array_equal(mesh.index.triangles, mesh.triangles)
    anew = mesh.index.refitted(mesh.positions, mesh.triangles, None)
    for ours, whole in zip(
        (*mesh.index.low, *mesh.index.high), (*anew.low, *anew.high), strict=True
    ):
        assert np.array_equal(ours, whole)
    at = np.array([data.draw(st.floats(100, 300)), data.draw(st.floats(100, 300))])
    px = camera.project(mesh.positions)
    away = np.hypot(*(px - at).T)
    found = near(mesh, camera, at).vertices()
    assert set(found) == set(np.flatnonzero(away <= REACH))
    assert (np.diff(np.round(away[found], 3)) >= 0).all()
    hit = pick.face_at(mesh, camera, (float(at[0]), float(at[1])))
    every = Mesh(mesh.positions, mesh.topology)
    every.__dict__.update(triangles=mesh.triangles, index=Everything(len(mesh.triangles)))
    assert hit == pick.face_at(every, camera, (float(at[0]), float(at[1])))


class Everything:
    """An index that leaves nothing out."""

    def __init__(self, count: int) -> None:
        self._count = count

    def on_ray(self, origin: Floats, direction: Floats) -> np.ndarray:
        return np.arange(self._count)


def changed(mesh: Mesh, data: st.DataObject) -> Mesh:
    """Moved in part, as a whole, or with more faces; looked at in between or not."""
    if data.draw(st.booleans()):
        assert len(mesh.index.order)
    how = data.draw(st.sampled_from(["part", "whole", "extrude"]))
    some = np.array(data.draw(st.lists(st.integers(0, 90), min_size=1, unique=True)), np.int32)
    by = np.array(data.draw(st.tuples(*[st.floats(-30, 30)] * 3)))
    if how == "whole":
        return mesh.with_similar(mesh.positions + by)
    if how == "part":
        return mesh.with_moved(np.sort(some), mesh.positions[np.sort(some)] + by)
    return by_name("extrude")(mesh, Selection(Kind.FACE, np.sort(some)), distance=20).mesh


def test_the_index_looks_at_little() -> None:
    mesh = ball(5)
    ray = FRONT.ray((220.0, 190.0))
    assert 2 <= len(mesh.index.on_ray(ray.origin, ray.direction)) < len(mesh.triangles) / 50
    assert len(mesh.index.near_ray(ray.origin, ray.direction, 5.0, 0.0)) < len(mesh.triangles) / 10
    assert len(indexed(np.zeros((0, 3)), np.zeros((0, 3), np.int32)).on_ray(*ray)) == 0


def test_what_turns_to_the_eye() -> None:
    mesh = box((-50, -20, -50), (50, 20, 50))
    every = np.arange(8)
    seen = pick.facing_vertices(mesh.topology, FRONT.project(mesh.positions))
    assert np.allclose(mesh.positions[seen][:, 1], -20)
    around = pick.Near(mesh, FRONT, (200.0, 200.0), 500.0)
    assert np.array_equal(around.facing_vertices(every), seen)
    edges = mesh.topology.edges[around.facing_edges(np.arange(12))]
    assert len(edges) == 4
    assert np.allclose(mesh.positions[edges][..., 1], -20)
    turned = pick.facing_vertices(mesh.topology, SLANTED.project(mesh.positions))
    assert turned.sum() == 7


def test_a_box_takes_what_lies_in_it() -> None:
    px = np.array([[1.0, 1], [5, 5], [11, 5], [np.nan, 3]])
    assert list(pick.in_box(px, (0, 0), (10, 10))) == [True, True, False, False]

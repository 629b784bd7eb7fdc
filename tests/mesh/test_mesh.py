from __future__ import annotations

import contextlib

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dimetron.mesh import edit, select
from dimetron.mesh.mesh import Mesh, MeshError, Topology, from_faces
from dimetron.mesh.ply import from_ply, to_ply
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind, Selection


def volume(mesh: Mesh) -> float:
    a, b, c = (mesh.positions[mesh.triangles[:, i]] for i in range(3))
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)


def prism(sides: int) -> Mesh:
    """Two n-gons and quads between them."""
    turn = np.linspace(0, 2 * np.pi, sides, endpoint=False)
    ring = np.stack([np.cos(turn), np.sin(turn)], axis=1)
    low = np.column_stack([ring, np.zeros(sides)])
    high = np.column_stack([ring, np.ones(sides)])
    k = np.arange(sides)
    walls = np.stack([k, (k + 1) % sides, (k + 1) % sides + sides, k + sides], axis=1)
    return from_faces(
        np.concatenate([low, high]),
        [list(k[::-1]), list(k + sides), *walls.tolist()],
    )


def l_shape() -> Mesh:
    """A concave hexagon."""
    points = [(0, 0), (2, 0), (2, 1), (1, 1), (1, 2), (0, 2)]
    return from_faces([(x, y, 0) for x, y in points], [list(range(6))])


def assert_closed(mesh: Mesh) -> None:
    topology = mesh.topology
    assert (topology.edge_face_count == 2).all()
    assert topology.vertex_count - len(topology.edges) + topology.face_count == 2


corner = st.tuples(*[st.floats(-100, 100)] * 3)
size = st.tuples(*[st.floats(0.1, 50)] * 3)


@given(corner, size)
def test_a_box_is_closed_and_faces_outwards(low: tuple[float, ...], by: tuple[float, ...]) -> None:
    mesh = box(low, np.add(low, by))
    assert_closed(mesh)
    assert volume(mesh) == pytest.approx(np.prod(by), rel=1e-6, abs=1e-4)
    outward = np.einsum("ij,ij->i", mesh.face_normals, mesh.face_centres - mesh.bounds.mean(axis=0))
    assert (outward > 0).all()


def test_a_flat_box_is_refused() -> None:
    with pytest.raises(MeshError, match="more than zero"):
        box((0, 0, 0), (1, 0, 1))


@given(st.integers(3, 40))
def test_polygons_are_covered_by_triangles(sides: int) -> None:
    mesh = prism(sides)
    assert_closed(mesh)
    assert volume(mesh) == pytest.approx(sides / 2 * np.sin(2 * np.pi / sides))
    assert len(mesh.triangles) == len(mesh.topology.triangle_faces)


def test_a_concave_face_is_covered_once() -> None:
    for turn in (
        np.eye(3),
        np.diag([1.0, -1.0, 1.0]),
        np.array([[0, 0, 1.0], [1, 0, 0], [0, 1, 0]]),
    ):
        mesh = l_shape().with_positions(l_shape().positions @ turn)
        a, b, c = (mesh.positions[mesh.triangles[:, i]] for i in range(3))
        areas = np.cross(b - a, c - a) / 2
        assert np.linalg.norm(areas.sum(axis=0)) == pytest.approx(3)
        assert np.linalg.norm(areas, axis=1).sum() == pytest.approx(3)


@given(st.integers(0, 7), corner)
def test_moving_a_vertex_follows_in_the_triangles(vertex: int, to: tuple[float, ...]) -> None:
    mesh = box((0, 0, 0), (10, 10, 10))
    assert mesh.triangles is not None
    moved = mesh.with_moved(np.array([vertex], np.int32), np.array([to]))
    fresh = Mesh(moved.positions, Topology(*_parts(mesh)))
    assert np.array_equal(moved.triangles, fresh.triangles)
    assert moved.topology is mesh.topology


def _parts(mesh: Mesh) -> tuple[np.ndarray, np.ndarray, int]:
    t = mesh.topology
    return t.offsets.copy(), t.corners.copy(), t.vertex_count


@given(st.lists(st.integers(0, 5), min_size=1, max_size=5, unique=True), st.floats(0.5, 20))
def test_extruding_any_region_of_a_box_stays_closed(faces: list[int], distance: float) -> None:
    mesh = box((0, 0, 0), (10, 10, 10))
    chosen = np.array(sorted(faces), np.int32)
    way = edit.region_normal(mesh, chosen)
    grown, same = edit.extruded(mesh, chosen, way * distance)
    assert (grown.topology.edge_face_count == 2).all()
    assert len(same) == len(chosen)
    if len(chosen) == 1:
        assert_closed(grown)
        assert volume(grown) == pytest.approx(1000 + 100 * distance)
        assert grown.topology.face_count == 10


def test_extruding_keeps_creases() -> None:
    mesh = box((0, 0, 0), (1, 1, 1))
    crease = np.zeros(12, np.float32)
    crease[3] = 0.5
    ends = mesh.positions[mesh.topology.edges[3]]
    creased = Mesh(mesh.positions, mesh.topology, crease)
    opposite = np.flatnonzero(
        [not set(mesh.topology.edges[3]) <= set(mesh.topology.face(f)) for f in range(6)]
    )[:1]
    grown, _ = edit.extruded(creased, opposite.astype(np.int32), (0.0, 0.0, 0.0))
    found = np.flatnonzero(grown.crease)
    assert len(found) >= 1
    assert np.allclose(
        np.sort(grown.positions[grown.topology.edges[found[0]]], 0), np.sort(ends, 0)
    )


def test_scaling_about_a_point_and_mirroring() -> None:
    mesh = box((0, 0, 0), (10, 20, 30))
    every = np.arange(8, dtype=np.int32)
    doubled = edit.scaled(mesh, every, (2, 1, 1), (0, 0, 0))
    assert np.allclose(doubled.bounds, [(0, 0, 0), (20, 20, 30)])
    mirrored = edit.scaled(mesh, every, (-1, 1, 1), (0, 0, 0))
    assert volume(mirrored) == pytest.approx(6000)
    with pytest.raises(MeshError, match="flatten"):
        edit.scaled(mesh, every, (0, 1, 1), (0, 0, 0))


def test_deleting_faces_drops_loose_vertices() -> None:
    mesh = box((0, 0, 0), (1, 1, 1))
    left = edit.without_faces(mesh, np.array([0, 1, 2, 3, 4], np.int32))
    assert left.topology.face_count == 1
    assert left.topology.vertex_count == 4
    assert edit.without_faces(left, np.array([0], np.int32)).topology.vertex_count == 0


@pytest.mark.parametrize("mesh", [box((0, 0, 0), (1, 2, 3)), prism(7), l_shape()])
def test_ply_round_trip_is_exact(mesh: Mesh) -> None:
    crease = np.linspace(0, 1, len(mesh.topology.edges)).astype(np.float32)
    for given_mesh in (mesh, Mesh(mesh.positions / 3, mesh.topology, crease)):
        again = from_ply(to_ply(given_mesh))
        assert np.array_equal(again.positions, given_mesh.positions)
        assert np.array_equal(again.topology.corners, given_mesh.topology.corners)
        assert np.array_equal(again.topology.offsets, given_mesh.topology.offsets)
        assert np.array_equal(again.crease, given_mesh.crease)


@given(st.data())
def test_damaged_ply_is_refused_and_never_crashes(data: st.DataObject) -> None:
    whole = to_ply(prism(5))
    cut = data.draw(st.integers(0, len(whole) - 1))
    with pytest.raises(MeshError):
        from_ply(whole[:cut])
    spoiled = bytearray(whole)
    spoiled[data.draw(st.integers(0, len(whole) - 1))] ^= data.draw(st.integers(1, 255))
    with contextlib.suppress(MeshError):
        from_ply(bytes(spoiled))


def test_values_are_read_only_and_checked() -> None:
    mesh = box((0, 0, 0), (1, 1, 1))
    with pytest.raises(ValueError, match="read-only"):
        mesh.positions[0] = 5
    with pytest.raises(MeshError, match="does not exist"):
        from_faces([(0, 0, 0)] * 3, [[0, 1, 7]])
    with pytest.raises(MeshError, match="three corners"):
        from_faces([(0, 0, 0)] * 3, [[0, 1]])
    with pytest.raises(MeshError, match="finite"):
        from_faces([(0, 0, np.nan)] * 3, [[0, 1, 2]])


def test_selections_follow_from_each_other() -> None:
    mesh = box((0, 0, 0), (1, 1, 1))
    face = np.array([0], np.int32)
    vertices = select.converted(mesh, Kind.FACE, face, Kind.VERTEX)
    assert sorted(vertices) == sorted(mesh.topology.face(0))
    assert len(select.converted(mesh, Kind.FACE, face, Kind.EDGE)) == 4
    assert list(select.converted(mesh, Kind.VERTEX, vertices, Kind.FACE)) == [0]
    assert list(select.combined(face, np.array([0, 2]), "toggle")) == [2]
    assert list(select.combined(face, np.array([2]), "add")) == [0, 2]
    assert list(select.combined(np.array([0, 2]), np.array([2]), "remove")) == [0]
    stale = Selection(Kind.FACE, np.array([3, 99], np.int32))
    assert list(select.valid(mesh, stale).indices) == [3]

from __future__ import annotations

import contextlib

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dimetron.mesh import edit, select
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import without_faces
from dimetron.mesh.layers import CREASE, Layer, On, layers
from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.mesh.operation import by_name
from dimetron.mesh.ply import from_ply, to_ply
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.topology import Topology

EXTRUDE, SUBDIVIDE = by_name("extrude"), by_name("subdivide")


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
    mesh = box((0, 0, 0), (10, 10, 10)).ready()
    chosen = Selection(Kind.FACE, np.array(sorted(faces), np.int32))
    done = EXTRUDE(mesh, chosen, distance=distance)
    assert (done.mesh.topology.edge_face_count == 2).all()
    assert np.array_equal(done.selection.indices, chosen.indices)
    assert_as_if_made_anew(done.mesh)
    if len(faces) == 1:
        assert_closed(done.mesh)
        assert volume(done.mesh) == pytest.approx(1000 + 100 * distance)
        assert done.mesh.topology.face_count == 10


def assert_as_if_made_anew(mesh: Mesh) -> None:
    """What was brought up to date is what would be derived."""
    fresh = Mesh(mesh.positions, Topology(*_parts(mesh)))
    assert np.array_equal(mesh.triangles, fresh.triangles)
    for name in ("edges", "corner_edge", "edge_face_count", "next_corner", "corner_face", "sizes"):
        assert np.array_equal(getattr(mesh.topology, name), getattr(fresh.topology, name)), name
    assert np.array_equal(mesh.topology.triangle_faces, fresh.topology.triangle_faces)


def test_a_region_is_pushed_out_along_an_axis_and_its_inside_goes_along() -> None:
    flat = SUBDIVIDE(box((0, 0, 0), (10, 10, 10)), levels=2).mesh
    upper = np.flatnonzero(flat.face_normals[:, 2] > 0.9).astype(np.int32)
    done = EXTRUDE(flat, Selection(Kind.FACE, upper), distance=5, along="z")
    assert done.mesh.bounds[1, 2] == pytest.approx(flat.bounds[1, 2] + 5)
    assert done.mesh.bounds[0, 2] == flat.bounds[0, 2]
    assert len(done.mesh.positions) - len(flat.positions) == len(done.mesh.topology.offsets) - len(
        flat.topology.offsets
    ), "a copy and a wall for each edge of the rim"
    assert_closed(done.mesh)


def test_what_touches_a_region_in_its_middle_stays_where_it_is() -> None:
    """Four faces round a vertex, and a leaf that hangs at it alone."""
    points = [(0, 0, 0), (1, 0, 0), (0, 1, 0), (-1, 0, 0), (0, -1, 0), (1, 1, -5), (-1, 1, -5)]
    fan = [[0, 1, 2], [0, 2, 3], [0, 3, 4], [0, 4, 1], [0, 5, 6]]
    mesh = from_faces(points, fan)
    region = Selection(Kind.FACE, np.arange(4, dtype=np.int32))
    done = EXTRUDE(mesh, region, distance=2, along="z").mesh
    leaf = done.positions[done.topology.face(4)]
    assert leaf.tolist() == [list(map(float, points[v])) for v in fan[4]]
    assert (done.positions[done.topology.corners[:12], 2] == 2).all()


def test_layers_go_along_with_what_they_lie_on() -> None:
    mesh = box((0, 0, 0), (1, 1, 1))
    crease = np.zeros(12, np.float32)
    crease[3] = 0.5
    ends = mesh.positions[mesh.topology.edges[3]]
    creased = mesh.with_layer(CREASE, Layer(On.EDGE, crease))
    group = Layer(On.FACE, np.arange(6, dtype=np.int32), -1, tuple("abcdef"))
    creased = creased.with_layer("group", group)
    opposite = np.flatnonzero(
        [not set(mesh.topology.edges[3]) <= set(mesh.topology.face(f)) for f in range(6)]
    )[:1]
    done = EXTRUDE(creased, Selection(Kind.FACE, opposite.astype(np.int32)), distance=0).mesh
    found = np.flatnonzero(done.layers[CREASE].values)
    assert len(found) == 1
    assert np.allclose(np.sort(done.positions[done.topology.edges[found[0]]], 0), np.sort(ends, 0))
    every = mesh.with_layer(CREASE, Layer(On.EDGE, np.ones(12, np.float32)))
    grown = EXTRUDE(every, Selection(Kind.FACE, opposite.astype(np.int32)), distance=1).mesh
    assert grown.layers[CREASE].values.sum() == 16, "not the four that are new"
    walls = done.layers["group"].values[6:]
    assert (walls == opposite[0]).all()
    assert done.layers["group"].names == group.names
    with pytest.raises(MeshError, match="mask must be given for every vertex"):
        mesh.with_layer("mask", Layer(On.VERTEX, np.zeros(7, np.float32)))


@given(st.data())
def test_neighbours_are_those_that_share(data: st.DataObject) -> None:
    mesh = data.draw(st.sampled_from([prism(5), l_shape(), box((0, 0, 0), (1, 2, 3))]))
    t = mesh.topology
    face = data.draw(st.integers(0, t.face_count - 1))
    own = set(np.flatnonzero(t.corner_face == face))
    edges = {int(t.corner_edge[c]) for c in own}
    around = {
        int(t.corner_face[c]) for c in range(len(t.corners)) if int(t.corner_edge[c]) in edges
    }
    assert set(t.face_faces.of(np.array([face])).tolist()) == around - {face}
    vertex = int(t.corners[t.offsets[face]])
    assert set(t.vertex_corners.of(np.array([vertex])).tolist()) == set(
        np.flatnonzero(t.corners == vertex).tolist()
    )
    a, b = t.edges[min(edges)]
    assert t.edge_between(np.array([b]), np.array([a])).tolist() == [min(edges)]
    assert t.edge_between(np.array([a]), np.array([a])).tolist() == [-1]


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
    left = without_faces(mesh, np.array([0, 1, 2, 3, 4], np.int32)).mesh
    assert left.topology.face_count == 1
    assert left.topology.vertex_count == 4
    assert without_faces(left, np.array([0], np.int32)).mesh.topology.vertex_count == 0


@pytest.mark.parametrize("mesh", [box((0, 0, 0), (1, 2, 3)), prism(7), l_shape()])
def test_ply_round_trip_is_exact(mesh: Mesh) -> None:
    t = mesh.topology
    crease = Layer(On.EDGE, np.linspace(0, 1, len(t.edges)).astype(np.float32))
    group = Layer(On.FACE, np.arange(t.face_count, dtype=np.int32), -1, ("lid", "Bö…den"))
    uv = Layer(On.CORNER, np.random.default_rng(1).random((len(t.corners), 2), np.float32))
    hidden = Layer(On.VERTEX, np.arange(t.vertex_count) % 2 == 0)
    rich = Mesh(mesh.positions / 3, t, layers(crease=crease, group=group, uv=uv, hidden=hidden))
    for given_mesh in (mesh, rich):
        again = from_ply(to_ply(given_mesh))
        assert np.array_equal(again.positions, given_mesh.positions)
        assert np.array_equal(again.topology.corners, given_mesh.topology.corners)
        assert np.array_equal(again.topology.offsets, given_mesh.topology.offsets)
        assert again.layers.keys() == given_mesh.layers.keys()
        for name, layer in given_mesh.layers.items():
            found = again.layers[name]
            assert np.array_equal(found.values, layer.values)
            assert found.values.dtype == layer.values.dtype
            assert (found.on, found.names, found.default) == (layer.on, layer.names, layer.default)


@given(st.data())
def test_damaged_ply_is_refused_and_never_crashes(data: st.DataObject) -> None:
    mask = Layer(On.VERTEX, np.zeros(10, np.float32))
    whole = to_ply(prism(5).with_layer("mask", mask))
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


@given(
    st.lists(st.floats(0.2, 1.0), min_size=4, max_size=4),
    st.floats(0, 6.3),
    st.integers(0, 3),
    st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda w: np.linalg.norm(w) > 0.1),
)
def test_a_quad_is_covered_once_whichever_corner_stands_in(
    radii: list[float], turn: float, dent: int, normal: tuple[float, ...]
) -> None:
    """Along the diagonal within it: the areas of both triangles make up its own."""
    radii[dent] *= -0.1
    angles = turn + np.arange(4) * np.pi / 2
    flat = np.stack([np.cos(angles), np.sin(angles)], axis=1) * np.array(radii)[:, None]
    across = np.cross(normal, np.eye(3)[int(np.argmin(np.abs(normal)))])
    basis = np.stack([across, np.cross(normal, across)])
    basis /= np.linalg.norm(basis, axis=1, keepdims=True)
    mesh = from_faces(flat @ basis, [[0, 1, 2, 3]])
    a, b, c = (mesh.positions[mesh.triangles[:, i]] for i in range(3))
    halves = np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2
    x, y = flat.T
    own = (x @ np.roll(y, -1) - y @ np.roll(x, -1)) / 2
    assert halves.sum() == pytest.approx(own, rel=1e-9)


def test_walls_bear_what_the_corners_bore_that_they_come_from() -> None:
    """A picture laid on from above stays where it is when a face is pushed up."""
    mesh = prism(5)
    seen = mesh.positions[mesh.topology.corners][:, :2].astype(np.float32)
    laid = Mesh(mesh.positions, mesh.topology, layers(uv=Layer(On.CORNER, seen)))
    top = np.array([1], np.int32)
    grown = EXTRUDE(laid, Selection(Kind.FACE, top), distance=2.0, along="z").mesh
    assert grown.topology.face_count == 12
    after = grown.positions[grown.topology.corners][:, :2]
    assert np.allclose(grown.layers["uv"].values, after, atol=1e-6)

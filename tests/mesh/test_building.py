"""Building and cutting against what must come of it on shapes of known measure."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dimetron.document.edits import with_mesh
from dimetron.document.history import new_history
from dimetron.document.model import Document, with_item
from dimetron.mesh.around import chained
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.cutting import Place, cut_across, on_edge, walked
from dimetron.mesh.findings import left_by
from dimetron.mesh.health import health
from dimetron.mesh.layers import Layer, On
from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.mesh.operation import by_name, operations
from dimetron.mesh.replaced import Points, Replacement, polygons, replaced
from dimetron.mesh.rings import loop, ring
from dimetron.mesh.select import Kind, Selection, every
from dimetron.mesh.select_words import selected
from tests.mesh.truth import (
    CUBE,
    GRID,
    TROUGH,
    edges_where,
    euler,
    faces_where,
    sound,
    vertex_at,
)


def edges(*numbers: int) -> Selection:
    return Selection(Kind.EDGE, np.array(sorted(numbers), np.int32))


def test_an_inset_stands_so_far_in_from_every_side() -> None:
    top = selected(GRID, "faces:facing=+z")
    done = by_name("inset")(GRID, top, width=1.0, depth=0.5)
    told = sound(done.mesh)
    # The whole top goes up by half a millimetre, but for a rim that slopes.
    assert told.volume_mm3 == pytest.approx(1000 + 0.5 * (100 + 64 + 80) / 3)
    t = done.mesh.topology
    inner = done.mesh.positions[t.corners[t.corners_of(done.selection.indices)]]
    assert inner[:, :2].min() >= 1
    assert np.ptp(inner[:, :2]) == pytest.approx(8)
    assert done.selection.indices.tolist() == top.indices.tolist(), "the inner faces are selected"
    each = by_name("inset")(GRID, top, width=0.5, each=True).mesh
    assert each.topology.face_count == GRID.topology.face_count + 9 * 4
    assert sound(each).volume_mm3 == pytest.approx(1000)


def test_faces_that_are_closed_all_round_are_inset_each_for_itself() -> None:
    done = by_name("inset")(CUBE, width=1.0)
    assert sound(done.mesh).faces == 30
    assert "each is inset for itself" in done.notes[0].words


def test_an_inset_wider_than_its_face_is_limited_and_says_so() -> None:
    done = by_name("inset")(CUBE, selected(CUBE, "faces:facing=+z"), width=20.0)
    assert "limited to 4.995 mm" in done.notes[0].words
    assert done.notes[0].where.tolist() == [1]
    assert sound(done.mesh).zero_area_faces == 0
    with pytest.raises(MeshError, match="width or a depth"):
        by_name("inset")(CUBE, width=0.0)


@pytest.mark.parametrize(
    ("segments", "vertices", "faces", "volume"),
    [(1, 24, 26, 945.3333), (3, 72, 50, 970.7879)],
)
def test_a_bevelled_cube(segments: int, vertices: int, faces: int, volume: float) -> None:
    done = by_name("bevel")(CUBE, selected(CUBE, "edges:all"), width=1.0, segments=segments).mesh
    told = sound(done)
    assert (told.vertices, told.faces) == (vertices, faces)
    assert told.volume_mm3 == pytest.approx(volume, abs=1e-3)
    # Each new edge stands one millimetre from the old one.
    assert {0.0, 1.0, 9.0, 10.0} <= set(np.round(done.positions[:, 0], 9).tolist())
    assert done.bounds.tolist() == CUBE.bounds.tolist()


def test_a_round_bevel_is_round() -> None:
    done = by_name("bevel")(CUBE, edges_where(CUBE, x=0.0, y=0.0), width=2.0, segments=8).mesh
    near = done.positions[(done.positions[:, :2] < 2 + 1e-9).all(axis=1)]
    assert len(near) == 18
    assert np.allclose(np.hypot(near[:, 0] - 2, near[:, 1] - 2), 2.0)
    flat = by_name("bevel")(
        CUBE, edges_where(CUBE, x=0.0, y=0.0), width=2.0, segments=4, profile=0.0
    ).mesh
    assert sound(flat).volume_mm3 == pytest.approx(1000 - 20)
    full = by_name("bevel")(
        CUBE, edges_where(CUBE, x=0.0, y=0.0), width=2.0, segments=4, profile=1.0
    ).mesh
    assert sound(full).volume_mm3 == pytest.approx(1000)


def test_a_bevel_is_limited_by_the_faces_beside_it_and_needs_two_of_them() -> None:
    done = by_name("bevel")(CUBE, edges_where(CUBE, x=0.0, y=0.0), width=20.0)
    assert "limited to 9.99 mm" in done.notes[0].words
    sound(done.mesh)
    with pytest.raises(MeshError, match="between two faces"):
        by_name("bevel")(TROUGH, edges_where(TROUGH, z=10.0))


@settings(max_examples=40)
@given(st.lists(st.integers(0, 107), min_size=1, max_size=30), st.integers(1, 3))
def test_any_edges_of_a_closed_mesh_can_be_bevelled(chosen: list[int], segments: int) -> None:
    done = by_name("bevel")(GRID, edges(*set(chosen)), width=0.4, segments=segments).mesh
    told = sound(done)
    assert 985 < told.volume_mm3 <= 1000.0001
    assert euler(done) == 2


def test_loops_cross_a_ring_evenly_or_pressed_to_one_end() -> None:
    done = by_name("loops")(CUBE, edges_where(CUBE, x=0.0, y=0.0), loops=3)
    assert np.unique(np.round(done.mesh.positions[:, 2], 9)).tolist() == [0, 2.5, 5, 7.5, 10]
    assert len(done.selection.indices) == 12
    assert sound(done.mesh).faces == 18
    pressed = by_name("loops")(CUBE, edges_where(CUBE, x=0.0, y=0.0), loops=1, shift=0.5).mesh
    height = np.unique(np.round(pressed.positions[:, 2], 3))
    assert height[1] in (7.475, 2.525)
    assert len(height) == 3, "all of the ring goes the same way"
    both = by_name("loops")(CUBE, selected(CUBE, "edges:all"), loops=4).mesh
    assert sound(both).faces == 6 * 25
    assert both.topology.sizes.max() == 4


def test_rounded_loops_follow_a_curve_through_their_neighbours() -> None:
    turn = np.linspace(0, np.pi, 7)
    arc = np.stack([10 * np.cos(turn), 0 * turn, 10 * np.sin(turn)], axis=1)
    points = np.concatenate([arc, arc + np.array([0, 5, 0])])
    quads = np.array([[k, k + 1, k + 8, k + 7] for k in range(6)], np.int32)
    strip = from_faces(points, quads)
    middle = strip.topology.edge_between(np.array([2]), np.array([3]))
    chosen = Selection(Kind.EDGE, middle.astype(np.int32))
    new = by_name("loops")(strip, chosen, rounded=True).mesh.positions[-2:]
    away = np.hypot(new[:, 0], new[:, 2])
    straight = 10 * np.cos(np.pi / 12)
    assert np.all(np.abs(away - 10) < 0.1 * (10 - straight))


def test_a_loop_that_ends_at_a_triangle_says_that_it_has_more_corners() -> None:
    triangles = by_name("triangulate")(CUBE).mesh
    done = by_name("loops")(triangles, edges_where(triangles, x=0.0, y=0.0))
    assert done.notes
    assert "more corners now" in done.notes[0].words
    assert sound(done.mesh).volume_mm3 == pytest.approx(1000)


def test_values_at_corners_are_cut_with_the_faces() -> None:
    at_corners = GRID.positions[GRID.topology.corners].astype(np.float32)
    mesh = GRID.with_layer("uv", Layer(On.CORNER, at_corners))
    mesh = mesh.with_layer("place", Layer(On.VERTEX, GRID.positions.astype(np.float32)))
    upright = edges_where(GRID, x=0.0, y=0.0)
    across = [on_edge(GRID.topology, int(edge), 0.3) for edge in _facing(GRID)]
    for done in (
        by_name("loops")(mesh, upright, loops=2, shift=0.3),
        cut_across(mesh, across),
    ):
        cut = done.mesh
        where = cut.positions[cut.topology.corners]
        assert np.allclose(cut.layers["place"].values, cut.positions, atol=1e-5)
        assert np.allclose(cut.layers["uv"].values, where, atol=1e-5)


def _facing(mesh: Mesh) -> np.ndarray:
    """Two edges of one face across from one another."""
    t = mesh.topology
    return t.corner_edge[t.offsets[0] + np.array([0, 2])]


def test_loops_go_the_same_way_however_vertices_are_numbered() -> None:
    number = np.random.default_rng(5).permutation(len(GRID.positions))
    faces = number[GRID.topology.corners].reshape(-1, 4).astype(np.int32)
    shuffled = from_faces(GRID.positions[np.argsort(number)], faces)
    chosen = edges(int(edges_where(shuffled, x=0.0, y=0.0).indices[0]))
    done = by_name("loops")(shuffled, chosen, shift=0.6).mesh
    heights = np.unique(np.round(done.positions[:, 2], 6))
    assert len(heights) == 5, "one new height, not one on each side"


def test_what_is_put_in_and_not_used_goes() -> None:
    what = Replacement(
        faces=(polygons(np.array([[0, 1, 8]])),),
        points=Points(np.array([[5.0, -5, 5], [9, 9, 9]]), np.array([0, 1], np.int32)),
        gone=np.array([0], np.int32),
    )
    made = replaced(CUBE, what).mesh
    assert len(made.positions) == 9
    assert not len(made.topology.loose_vertices)
    chains = chained(np.array([1, 2, 7, 3]), np.array([2, 3, 3, 4]))
    assert sorted(chains.chain(k).tolist() for k in range(len(chains))) == [[1, 2], [7, 3, 4]]
    ring_ = chained(np.array([5, 6, 4]), np.array([6, 4, 5]))
    assert ring_.closed.tolist() == [True]
    assert len(ring_) == 1


def test_a_mitred_bevel_is_the_same_on_both_sides_of_its_corner() -> None:
    done = by_name("bevel")(CUBE, edges_where(CUBE, z=10.0), width=2.0, segments=4).mesh
    corner = done.positions[(done.positions[:, :2] < 3).all(axis=1) & (done.positions[:, 2] > 5)]
    assert len(corner) == 5
    assert np.allclose(corner[:, 0], corner[:, 1]), "on the diagonal"
    assert np.allclose(np.hypot(corner[:, 0] - 2, corner[:, 2] - 8), 2)


def test_only_convex_pairs_make_quads() -> None:
    dart = [(0, 0, 0), (4, 0, 0), (1, 1, 0), (0, 4, 0)]
    mesh = from_faces(dart, [[0, 1, 2], [0, 2, 3]])
    assert by_name("quads")(mesh).mesh.topology.face_count == 2


def test_a_bridge_does_not_twist_wherever_its_borders_begin() -> None:
    (p, f), (q, g) = tube(12, 0, 1), tube(12, 2, 3)
    turned = np.roll(np.arange(12), 5)
    number = np.concatenate([turned, turned + 12])
    mesh = from_faces(
        np.concatenate([p, q[np.argsort(number)]]),
        np.concatenate([f, number[g] + 24]).astype(np.int32),
    )
    heights = mesh.positions[mesh.topology.edges][:, :, 2].mean(axis=1)
    lone = mesh.topology.edge_face_count == 1
    chosen = np.flatnonzero(lone & np.isin(heights, (1.0, 2.0))).astype(np.int32)
    done = by_name("bridge")(mesh, Selection(Kind.EDGE, chosen)).mesh
    assert health(done).area_mm2 == pytest.approx(3 * health(from_faces(p, f)).area_mm2)


def test_edges_taken_out_leave_the_surface() -> None:
    looped = by_name("loops")(CUBE, edges_where(CUBE, x=0.0, y=0.0), loops=2)
    back = by_name("take-out")(looped.mesh, looped.selection).mesh
    assert sound(back).faces == 6
    assert sound(back).vertices == 8
    corner = Selection(Kind.VERTEX, np.array([0], np.int32))
    told = sound(by_name("take-out")(CUBE, corner).mesh)
    assert (told.vertices, told.faces) == (7, 4)
    one = sound(by_name("take-out")(CUBE, edges(0)).mesh)
    assert (one.vertices, one.faces, one.volume_mm3) == (8, 5, pytest.approx(1000))
    all_ = by_name("take-out")(CUBE, selected(CUBE, "edges:all"))
    assert sound(all_.mesh).faces == 6
    assert all_.notes[0].words == "12 edges stay: a face would have had a hole."


@settings(max_examples=40)
@given(st.lists(st.integers(0, 107), min_size=1, max_size=60))
def test_whatever_is_taken_out_the_mesh_stays_closed(chosen: list[int]) -> None:
    done = by_name("take-out")(GRID, edges(*set(chosen))).mesh
    told = health(done)
    assert told.closed
    assert told.nonmanifold_edges == 0


def test_triangles_make_the_quads_they_came_of() -> None:
    for mesh in (CUBE, GRID, by_name("subdivide")(CUBE, levels=2).mesh):
        back = by_name("quads")(by_name("triangulate")(mesh).mesh).mesh
        assert back.topology.face_count == mesh.topology.face_count
        assert (back.topology.sizes == 4).all()
        assert back.positions.shape == mesh.positions.shape


@pytest.mark.parametrize(("by", "faces"), [("face", 46), ("fan", 57), ("grid", 54)])
def test_a_hole_is_filled(by: str, faces: int) -> None:
    done = by_name("fill-holes")(TROUGH, by=by)
    told = sound(done.mesh)
    assert told.faces == faces
    assert told.volume_mm3 == pytest.approx(1000)
    assert len(done.selection.indices) == faces - 45
    with pytest.raises(MeshError, match="no hole"):
        by_name("fill-holes")(GRID)


def tube(sides: int, low: float, high: float) -> tuple[np.ndarray, np.ndarray]:
    turn = 2 * np.pi * np.arange(sides) / sides + 0.1
    ring_ = np.stack([np.cos(turn), np.sin(turn)], axis=1)
    ends = [np.column_stack([ring_, np.full(sides, z)]) for z in (low, high)]
    i = np.arange(sides)
    j = (i + 1) % sides
    return np.concatenate(ends), np.stack([i, j, j + sides, i + sides], axis=1)


@pytest.mark.parametrize("other", [24, 10])
def test_two_borders_are_bridged_where_they_lie_nearest(other: int) -> None:
    (p, f), (q, g) = tube(24, 0, 1), tube(other, 2, 3)
    mesh = from_faces(np.concatenate([p, q]), np.concatenate([f, g + 48]).astype(np.int32))
    ends = mesh.positions[mesh.topology.edges][:, :, 2].mean(axis=1)
    lone = mesh.topology.edge_face_count == 1
    chosen = np.flatnonzero(lone & np.isin(ends, (1.0, 2.0))).astype(np.int32)
    done = by_name("bridge")(mesh, Selection(Kind.EDGE, chosen), steps=2)
    told = health(done.mesh)
    assert told.nonmanifold_edges == told.flipped_faces == 0
    assert told.open_edges == 24 + other
    # As short as it can be: no twist adds to the area.
    assert told.area_mm2 == pytest.approx(3 * 2 * np.pi, rel=0.02)
    assert len(done.selection.indices) == 2 * 24
    with pytest.raises(MeshError, match="there are 4"):
        by_name("bridge")(mesh)


def test_vertices_merge_in_their_middle_or_each_group_for_itself() -> None:
    done = by_name("merge")(CUBE, edges(0))
    assert sound(done.mesh).vertices == 7
    assert done.mesh.positions[done.selection.indices[0]].tolist() == [5, 0, 0]
    upright = by_name("merge")(GRID, selected(GRID, "edges:along=z"), apart=True).mesh
    assert np.unique(upright.positions[:, 2]).tolist() == pytest.approx([0, 5, 10])
    with pytest.raises(MeshError, match="two vertices or more"):
        by_name("merge")(CUBE, Selection(Kind.VERTEX, np.array([3], np.int32)))


def test_vertices_merge_to_the_one_picked_last() -> None:
    mine = np.array([0, 1, 4], np.int32)
    done = by_name("merge")(CUBE, Selection(Kind.VERTEX, mine, last=4), at="last")
    assert done.mesh.positions[done.selection.indices].tolist() == [CUBE.positions[4].tolist()]
    assert done.mesh.topology.vertex_count == 6
    for unknown in (Selection(Kind.VERTEX, mine), edges(0), Selection(Kind.VERTEX, mine, last=7)):
        with pytest.raises(MeshError, match="the one to merge to last"):
            by_name("merge")(CUBE, unknown, at="last")
    # Each group for itself: only the one it is of goes there.
    two = np.array([0, 1, 6, 7], np.int32)
    apart = by_name("merge")(CUBE, Selection(Kind.VERTEX, two, last=7), at="last", apart=True)
    found = {tuple(p) for p in apart.mesh.positions[apart.selection.indices].tolist()}
    middle = CUBE.positions[[0, 1]].mean(axis=0)
    assert found == {tuple(middle), tuple(CUBE.positions[7])}


def test_a_mesh_is_torn_open_along_a_loop() -> None:
    looped = by_name("loops")(CUBE, edges_where(CUBE, x=0.0, y=0.0))
    done = by_name("tear")(looped.mesh, looped.selection)
    told = health(done.mesh)
    assert (told.open_edges, told.shells, told.doubled_vertices) == (8, 2, 4)
    assert len(done.selection.indices) == 8
    with pytest.raises(MeshError, match="Nothing opens"):
        by_name("tear")(GRID, edges(50))


def test_faces_are_divided_between_their_own_vertices() -> None:
    done = by_name("connect")(CUBE, Selection(Kind.VERTEX, np.array([0, 3, 5], np.int32)))
    told = sound(done.mesh)
    assert (told.faces, len(done.selection.indices)) == (9, 3)
    with pytest.raises(MeshError, match="No face has two"):
        by_name("connect")(CUBE, Selection(Kind.VERTEX, np.array([0, 7], np.int32)))


def test_an_edge_turns_to_the_next_corners() -> None:
    flat = from_faces([(0, 0, 0), (2, 0, 0), (2, 2, 0), (0, 2, 0)], [[0, 1, 2], [0, 2, 3]])
    inner = flat.topology.edge_between(np.array([0]), np.array([2]))
    done = by_name("turn-edge")(flat, Selection(Kind.EDGE, inner))
    assert done.mesh.topology.edges[done.selection.indices].tolist() == [[1, 3]]
    assert health(done.mesh).area_mm2 == pytest.approx(4)
    with pytest.raises(MeshError, match="between two faces"):
        by_name("turn-edge")(flat, edges(0))


@pytest.mark.parametrize("way", ["middle", "across"])
@pytest.mark.parametrize("corners", [5, 6, 7, 8])
def test_large_faces_fall_into_quads(corners: int, way: str) -> None:
    turn = 2 * np.pi * np.arange(corners) / corners
    points = np.column_stack([np.cos(turn), np.sin(turn), 0 * turn])
    mesh = from_faces(points, [list(range(corners))])
    sizes = by_name("split-faces")(mesh, way=way).mesh.topology.sizes
    assert (sizes == 3).sum() == corners % 2
    assert sizes.max() == 4


@pytest.mark.parametrize("side", ["out", "in", "both"])
def test_a_sheet_gets_a_thickness_and_a_solid_a_wall(side: str) -> None:
    sheet = from_faces([(0, 0, 0), (10, 0, 0), (10, 10, 0), (0, 10, 0)], [[0, 1, 2, 3]])
    thick = by_name("thicken")(sheet, thickness=2.0, side=side).mesh
    assert sound(thick).volume_mm3 == pytest.approx(200)
    lowest = {"out": 0.0, "in": -2.0, "both": -1.0}[side]
    assert thick.bounds[0, 2] == pytest.approx(lowest)
    trough = by_name("thicken")(TROUGH, thickness=1.0, side="in").mesh
    assert sound(trough).volume_mm3 == pytest.approx(1000 - 8 * 8 * 9)


def test_edges_of_a_border_are_drawn_out() -> None:
    rim = edges_where(TROUGH, z=10.0)
    done = by_name("extrude")(TROUGH, rim, distance=5.0)
    assert done.mesh.bounds[1, 2] == pytest.approx(15)
    assert len(done.selection.indices) == 12
    told = health(done.mesh)
    assert (told.open_edges, told.flipped_faces) == (12, 0)
    aside = by_name("extrude")(TROUGH, rim, distance=5.0, along="x").mesh
    assert aside.bounds[1].tolist() == [15, 10, 10]


def test_edges_slide_toward_their_neighbours_on_either_side() -> None:
    looped = by_name("loops")(CUBE, edges_where(CUBE, x=0.0, y=0.0))
    heights = []
    for share in (0.5, -0.5):
        done = by_name("slide")(looped.mesh, looped.selection, share=share).mesh
        assert sound(done).volume_mm3 == pytest.approx(1000)
        heights.append(np.unique(done.positions[:, 2])[1])
    assert sorted(heights) == pytest.approx([2.55, 7.45])


def test_a_cut_runs_straight_across_faces_from_place_to_place() -> None:
    front = GRID.positions[:, [0, 2]]
    begin = Place(vertex=vertex_at(GRID, 0, 0, 0))
    end = Place(vertex=vertex_at(GRID, 10, 0, 10 / 3))
    between = walked(GRID, begin, end, front)
    assert [round(place.share, 6) in (0.333333, 0.666667) for place in between] == [True, True]
    done = cut_across(GRID, [begin, *between, end])
    told = sound(done.mesh)
    assert (told.faces, told.vertices, len(done.selection.indices)) == (57, 58, 3)
    assert told.volume_mm3 == pytest.approx(1000)
    with pytest.raises(MeshError, match="share no face"):
        cut_across(GRID, [begin, end])
    beside = Place(vertex=vertex_at(GRID, 0, 0, 10 / 3))
    with pytest.raises(MeshError, match="an edge already"):
        cut_across(GRID, [begin, beside])
    assert on_edge(GRID.topology, 3, 0.0) == Place(vertex=int(GRID.topology.edges[3][0]))


def test_rings_lie_across_and_loops_go_straight_on() -> None:
    upright = edges_where(CUBE, x=0.0, y=0.0).indices
    assert len(ring(CUBE.topology, upright).edges) == 4
    corner = edges_where(GRID, x=0.0, y=0.0).indices
    looped = by_name("loops")(GRID, edges(int(corner[0])))
    one = looped.selection.indices[:1]
    assert loop(looped.mesh.topology, one).tolist() == looped.selection.indices.tolist()
    rim = edges_where(TROUGH, z=10.0).indices
    assert loop(TROUGH.topology, rim[:1]).tolist() == rim.tolist()


_SAFE = [
    name
    for name, one in operations().items()
    if not one.several and name not in ("subdivide", "remesh", "reduce", "radial", "row")
]


@settings(max_examples=60, deadline=None)
@given(st.data())
def test_the_mesh_is_valid_after_any_sequence_of_operations(data: st.DataObject) -> None:
    """Whatever is done one after the other: a mesh that is valid, or one sentence and no change."""
    mesh: Mesh = TROUGH if data.draw(st.booleans()) else GRID
    doc, body = with_mesh(Document(), mesh, "body")
    history, shapes = new_history(doc), [mesh]
    for name in data.draw(st.lists(st.sampled_from(_SAFE), min_size=2, max_size=5)):
        kind = data.draw(st.sampled_from([Kind.VERTEX, Kind.EDGE, Kind.FACE]))
        there = every(mesh, kind)
        if not len(there):
            continue
        some = data.draw(st.lists(st.sampled_from(there.tolist()), max_size=6, unique=True))
        before = mesh.positions.copy(), mesh.topology.corners.copy()
        try:
            done = by_name(name)(mesh, Selection(kind, np.array(sorted(some), np.int32)))
        except MeshError as error:
            assert str(error).endswith(".")
            continue
        assert np.array_equal(mesh.positions, before[0]), "what there was stays as it was"
        assert np.array_equal(mesh.topology.corners, before[1])
        mesh = done.mesh
        assert np.isfinite(mesh.positions).all()
        assert len(mesh.triangles) == int((mesh.topology.sizes - 2).sum())
        assert len(mesh.topology.corners) < 20_000
        before_it = history
        history = history.committed(with_item(history.document, body, mesh=mesh), name)
        if history is not before_it:
            shapes.append(mesh)
    # Undo gives back what there was, number by number.
    for shape in shapes[-2::-1]:
        history = history.undone()
        back = history.document.mesh(body).mesh
        assert np.array_equal(back.positions, shape.positions)
        assert np.array_equal(back.topology.corners, shape.topology.corners)
        assert back.layers.keys() == shape.layers.keys()


def test_corners_are_cut_off_so_far_along_their_edges() -> None:
    vertices = Selection(Kind.VERTEX, every(CUBE, Kind.VERTEX))
    done = by_name("bevel")(CUBE, vertices, width=2.0)
    told = sound(done.mesh)
    assert (told.vertices, told.faces, euler(done.mesh)) == (24, 14, 2)
    assert told.volume_mm3 == pytest.approx(1000 - 8 * 8 / 6)
    assert len(done.selection.indices) == 8
    limited = by_name("bevel")(CUBE, vertices, width=50.0)
    assert "limited to 4.995 mm" in limited.notes[0].words
    sound(limited.mesh)
    inner = Selection(Kind.VERTEX, np.array([vertex_at(GRID, 10 / 3, 10 / 3, 10)], np.int32))
    assert sound(by_name("bevel")(GRID, inner, width=1.0).mesh).faces == 55
    with pytest.raises(MeshError, match="within a surface"):
        rim = Selection(Kind.VERTEX, np.array([vertex_at(TROUGH, 0, 0, 10)], np.int32))
        by_name("bevel")(TROUGH, rim)


def test_a_cut_that_crosses_itself_is_refused() -> None:
    square = from_faces([(0, 0, 0), (4, 0, 0), (4, 4, 0), (0, 4, 0)], [[0, 1, 2, 3]])
    t = square.topology
    bottom, right, top, left = (
        int(t.edge_between(np.array([a]), np.array([b]))[0])
        for a, b in ((0, 1), (1, 2), (2, 3), (3, 0))
    )
    path = [on_edge(t, bottom, 0.5), on_edge(t, top, 0.5), on_edge(t, right, 0.5)]
    told = cut_across(square, path).mesh
    assert told.topology.face_count == 3
    with pytest.raises(MeshError, match="crosses itself"):
        cut_across(square, [*path, on_edge(t, left, 0.5)])


def test_what_a_step_leaves_is_what_was_not_there_before() -> None:
    large = by_name("fill-holes")(TROUGH).mesh
    again = by_name("triangulate")(large, faces_where(large, x=0.0))
    assert left_by(large, again) == (), "the large face was there already"
    bevelled = by_name("bevel")(CUBE, selected(CUBE, "edges:all"), segments=2)
    assert [note.words for note in left_by(CUBE, bevelled)] == [
        "8 faces of more than four corners."
    ]
    doubled = by_name("row")(CUBE, copies=2, step=10.0)
    assert [note.words for note in left_by(CUBE, doubled)] == [
        "4 vertices stand where another one does."
    ]


@pytest.mark.parametrize("name", ["merge", "delete", "inset", "loops", "bevel", "take-out"])
def test_triangles_that_are_carried_over_are_those_of_the_new_faces(name: str) -> None:
    bumpy = GRID.with_positions(GRID.positions + np.sin(GRID.positions[:, ::-1] * 2) * 0.8).ready()
    kind = Kind.FACE if name in ("delete", "inset") else Kind.EDGE
    done = by_name(name)(bumpy, Selection(kind, np.array([3, 20, 41], np.int32))).mesh
    assert "triangles" in done.__dict__
    fresh = Mesh(done.positions, done.topology)
    assert np.array_equal(done.triangles, fresh.triangles)

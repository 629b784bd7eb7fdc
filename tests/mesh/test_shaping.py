"""Solids, copies, even meshes, the whole shape, health, and shapes to begin with."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edit import turned_over
from dimetron.mesh.edited import Edited
from dimetron.mesh.evening import even_patch, evened, partners, uneven
from dimetron.mesh.falloff import SHAPES, going
from dimetron.mesh.findings import findings
from dimetron.mesh.health import health
from dimetron.mesh.joined import joined
from dimetron.mesh.lattice import lattice_around, lines_of
from dimetron.mesh.layers import Layer, On
from dimetron.mesh.matching import Pair, placing
from dimetron.mesh.measures import measured
from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.mesh.nearest import Surface
from dimetron.mesh.operation import by_name
from dimetron.mesh.patch import Patch
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind, Selection, every
from dimetron.mesh.select_words import selected
from dimetron.mesh.starter import starters
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

OTHER = box((5, 5, 5), (15, 15, 15))
#: The grid about the middle, so that it is even about X and Y.
MIDDLE = GRID.with_positions(GRID.positions - (5, 5, 0))


@pytest.mark.parametrize(
    ("name", "volume", "faces"),
    [("union", 1875, 12), ("difference", 875, 9), ("intersection", 125, 6)],
)
def test_solids_are_joined_and_their_faces_stay_whole(name: str, volume: float, faces: int) -> None:
    group = Layer(On.FACE, np.arange(6, dtype=np.int32), -1)
    done = by_name(name)(CUBE.with_layer("group", group), others=(OTHER,))
    told = sound(done.mesh)
    assert told.volume_mm3 == pytest.approx(volume)
    assert told.faces == faces
    kept = done.mesh.layers["group"].values
    assert set(kept.tolist()) - {-1} <= set(range(6))
    assert (kept[done.selection.indices] == -1).all(), "what is new is selected"
    again = by_name(name)(CUBE, others=(OTHER,)).mesh
    assert sound(again).faces == faces


@pytest.mark.parametrize(
    ("keep", "volumes"), [("both", [875, 125]), ("outside", [875]), ("inside", [125])]
)
def test_a_solid_is_cut_by_others_and_the_parts_one_wants_stay(
    keep: str, volumes: list[float]
) -> None:
    group = Layer(On.FACE, np.arange(6, dtype=np.int32), -1)
    far = box((8, -5, 8), (15, -1, 15))
    done = by_name("cut-by")(CUBE.with_layer("group", group), others=(OTHER, far), keep=keep)
    parts = [done.mesh, *done.others]
    assert [sound(part).volume_mm3 for part in parts] == pytest.approx(volumes)
    kept = done.mesh.layers["group"].values
    assert (kept[done.selection.indices] == -1).all() and (kept >= 0).sum() >= 3
    assert np.delete(kept, done.selection.indices).min() >= 0


def test_what_others_do_not_cut_is_said() -> None:
    for other in (box((20, 20, 20), (30, 30, 30)), box((-5, -5, -5), (30, 30, 30))):
        with pytest.raises(MeshError, match="do not cut it"):
            by_name("cut-by")(CUBE, others=(other,))
    with pytest.raises(MeshError, match="two meshes or more"):
        by_name("cut-by")(CUBE)


def test_what_is_no_solid_is_refused_by_name() -> None:
    with pytest.raises(MeshError, match=r"Mesh 2 is not closed: 12 edges are open\. Fill"):
        by_name("union")(CUBE, others=(TROUGH,))
    with pytest.raises(MeshError, match="two meshes or more"):
        by_name("union")(CUBE)
    with pytest.raises(MeshError, match="Nothing would be left"):
        by_name("intersection")(CUBE, others=(box((20, 20, 20), (30, 30, 30)),))
    with pytest.raises(MeshError, match="look different ways"):
        by_name("cut")(turned_over(CUBE, np.array([0])))
    inside_out = by_name("union")(turned_over(CUBE), others=(OTHER,)).mesh
    assert sound(inside_out).volume_mm3 == pytest.approx(1875)


def test_a_solid_is_cut_off_and_closed() -> None:
    above = by_name("cut")(CUBE, axis="z", at=4.0)
    assert sound(above.mesh).volume_mm3 == pytest.approx(600)
    assert above.mesh.face_centres[above.selection.indices, 2].tolist() == [4.0]
    below = by_name("cut")(CUBE, axis="x", at=4.0, keep="negative").mesh
    assert sound(below).volume_mm3 == pytest.approx(400)
    with pytest.raises(MeshError, match="Nothing would be left"):
        by_name("cut")(CUBE, axis="z", at=40.0)


def test_a_solid_is_hollowed_and_a_wall_too_thick_refused() -> None:
    done = by_name("hollow")(CUBE, wall=2.0)
    assert health(done.mesh).volume_mm3 == pytest.approx(1000 - 6**3)
    inner = done.mesh.face_centres[done.selection.indices]
    assert inner.min() == pytest.approx(2)
    with pytest.raises(MeshError, match="too thick"):
        by_name("hollow")(CUBE, wall=6.0)
    with pytest.raises(MeshError, match="not closed"):
        by_name("hollow")(TROUGH)


def test_copies_stand_round_an_axis_and_in_a_row() -> None:
    off = CUBE.with_positions(CUBE.positions + np.array([10, -5, 0]))
    four = by_name("radial")(off, copies=4).mesh
    assert sound(four, 4).volume_mm3 == pytest.approx(4000)
    assert np.allclose(four.bounds, [[-20, -20, 0], [20, 20, 10]])
    half = by_name("radial")(off, copies=3, angle=180.0).mesh
    assert half.bounds[0, 0] == pytest.approx(-20)
    assert half.bounds[0, 1] == pytest.approx(-5)
    turned = by_name("radial")(off, copies=2, about="middle").mesh
    assert np.allclose(turned.bounds, off.bounds)
    beside = by_name("radial")(CUBE, copies=2, about="place", x=10.0, y=10.0).mesh
    assert beside.bounds.tolist() == [[0, 0, 0], [20, 20, 10]]
    row = by_name("row")(CUBE, copies=3, step=20.0, axis="y").mesh
    assert row.bounds.tolist() == [[0, 0, 0], [10, 50, 10]]
    half = box((0, 0, 0), (10, 10, 10))
    open_ = by_name("delete")(half, selected(half, "faces:facing=-x")).mesh
    done = by_name("mirrored")(open_)
    assert sound(done.mesh).volume_mm3 == pytest.approx(2000)
    assert done.mesh.face_centres[done.selection.indices, 0].max() < 0


def test_one_side_is_made_like_the_other() -> None:
    moved = CUBE.with_positions(CUBE.positions - 3)
    for half, volume in (("positive", 1400), ("negative", 600)):
        done = by_name("even")(moved, half=half).mesh
        assert sound(done).volume_mm3 == pytest.approx(volume)
        assert not len(uneven(done, 0))
        assert euler(done) == 2
    with pytest.raises(MeshError, match="Nothing of the mesh"):
        by_name("even")(CUBE.with_positions(CUBE.positions - 20))


def test_what_is_moved_on_one_side_moves_on_the_other() -> None:
    corner = int(np.argmax(MIDDLE.positions @ np.array([1, 1, 1])))
    patch = Patch(np.array([corner], np.int32), MIDDLE.positions[[corner]] + [1.0, 2.0, 3.0])
    found = even_patch(MIDDLE, ("x", "y"), patch)
    assert len(found.vertices) == 4
    assert np.allclose(np.abs(found.positions), [6, 7, 13])
    seam = np.flatnonzero(np.abs(MIDDLE.positions[:, 0]) < 1e-9)
    assert not len(seam), "this grid has no vertices in the middle"
    whole = Patch(every(MIDDLE, Kind.VERTEX), MIDDLE.positions + np.array([4.0, 2.0, 0.0]), True)
    by = even_patch(MIDDLE, ("x",), whole).positions - MIDDLE.positions
    assert np.allclose(by, [0, 2, 0]), "as a whole it does not leave its plane"
    assert even_patch(MIDDLE, (), patch) is patch


def test_vertices_in_the_plane_stay_there() -> None:
    split = by_name("loops")(MIDDLE, edges_where(MIDDLE, y=-5.0, z=0.0)).mesh
    seam = np.flatnonzero(np.abs(split.positions[:, 0]) < 1e-9).astype(np.int32)
    assert len(seam)
    assert partners(split, 0)[seam].tolist() == seam.tolist()
    patch = Patch(seam, split.positions[seam] + [3.0, 1.0, 0.0])
    found = even_patch(split, ("x",), patch)
    assert np.allclose(found.positions - split.positions[seam], [0, 1, 0])


@pytest.mark.parametrize("name", ["extrude", "inset", "bevel", "loops", "delete"])
def test_an_even_mesh_stays_even_whatever_is_done_to_one_side(name: str) -> None:
    face = int(np.argmax(MIDDLE.face_centres @ np.array([1.0, 0.1, -0.01])))
    chosen = Selection(Kind.FACE, np.array([face], np.int32))
    if name in ("bevel", "loops"):
        chosen = edges_where(MIDDLE, x=5.0, z=10.0)
    done = evened(MIDDLE, by_name(name)(MIDDLE, chosen), ("x",))
    assert not len(uneven(done.mesh, 0))
    told = health(done.mesh)
    assert told.flipped_faces == told.nonmanifold_edges == 0
    if name in ("extrude", "inset"):
        side = done.mesh.face_centres[done.selection.indices, 0]
        assert sorted(np.sign(side).tolist()) == [-1, 1], "both sides are selected"
    same = Edited(MIDDLE)
    assert evened(MIDDLE, same, ("x",)).mesh is MIDDLE


def test_the_whole_shape_tapers_twists_bends_and_stretches() -> None:
    tall = by_name("loops")(CUBE, edges_where(CUBE, x=0.0, y=0.0), loops=40).mesh
    tapered = by_name("taper")(tall, times=0.5).mesh
    assert health(tapered).volume_mm3 == pytest.approx(1000 * (1 + 0.5 + 0.25) / 3)
    twisted = by_name("twist")(tall, turn=90.0).mesh
    low, high = (twisted.positions[np.isclose(twisted.positions[:, 2], z)] for z in (0, 10))
    assert np.allclose(np.sort(low[:, :2], axis=0), np.sort(high[:, :2], axis=0))
    middle = twisted.positions[np.abs(twisted.positions[:, 2] - 5) < 0.2]
    assert np.abs(middle[:, :2] - 5).max() == pytest.approx(np.hypot(5, 5), rel=0.01)
    longer = by_name("stretch")(tall, times=2.0, begin=0.25, end=0.75).mesh
    assert (longer.bounds[1, 2], health(longer).volume_mm3) == (15, pytest.approx(1500))
    bent = by_name("bend")(tall, bend=180.0, toward="+x").mesh
    top = bent.positions[np.argsort(tall.positions[:, 2])[-4:]]
    assert np.allclose(top[:, 2], 0, atol=1e-9), "half a turn brings the top down again"
    assert top[:, 0].mean() == pytest.approx(5 + 2 * 10 / np.pi)
    assert health(bent).volume_mm3 == pytest.approx(1000, rel=0.01)
    with pytest.raises(MeshError, match="another axis"):
        by_name("bend")(tall, axis="x", toward="-x")
    with pytest.raises(MeshError, match="two stations"):
        by_name("taper")(tall, begin=0.5, end=0.5)


def test_places_come_into_one_plane_and_onto_the_middle() -> None:
    bumpy = GRID.with_positions(GRID.positions + np.sin(GRID.positions[:, ::-1]) * 0.2)
    top = Selection(Kind.FACE, faces_where(GRID, z=10.0).indices)
    mine = np.unique(GRID.topology.corners[GRID.topology.corners_of(top.indices)])

    def points(mesh: Mesh) -> np.ndarray:
        return mesh.positions[mine]

    best = points(by_name("flatten")(bumpy, top).mesh)
    assert np.linalg.svd(best - best.mean(axis=0))[1][2] < 1e-9
    for at, z in (("low", points(bumpy)[:, 2].min()), ("high", points(bumpy)[:, 2].max())):
        level = points(by_name("flatten")(bumpy, top, to="z", at=at).mesh)
        assert np.allclose(level[:, 2], z)
    centred = by_name("centre")(GRID, Selection(Kind.WHOLE, np.zeros(0, np.int32)), axis="y").mesh
    assert centred.bounds[:, 1].tolist() == [-5, 5]


def test_meshes_are_joined_with_their_layers_and_parted_again() -> None:
    named = CUBE.with_layer("group", Layer(On.FACE, np.zeros(6, np.int32), -1, ("body",)))
    other = OTHER.with_layer("group", Layer(On.FACE, np.ones(6, np.int32), -1, ("lid", "rim")))
    both = joined([named, other, TROUGH])
    layer = both.layers["group"]
    words = [layer.names[k] if k >= 0 else "" for k in layer.values.tolist()]
    assert words == ["body"] * 6 + ["rim"] * 6 + [""] * 45
    parts = by_name("separate")(both, by="shells")
    assert [m.topology.face_count for m in (parts.mesh, *parts.others)] == [6, 6, 45]
    picked = by_name("separate")(both, selected(both, "faces:facing=+z"))
    assert picked.others[0].topology.face_count == 2
    with pytest.raises(MeshError, match="hangs together"):
        by_name("separate")(CUBE, by="shells")


def test_what_is_not_sound_is_found_shown_and_mended() -> None:
    assert [f.name for f in findings(CUBE)] == []
    trouble = from_faces(
        [*CUBE.positions.tolist(), [0, 0, 0], [20, 20, 20]],
        [[0, 2, 3, 1], [7, 5, 4, 6], [8, 1, 5, 4], [3, 2, 6, 7], [1, 3, 7, 5]],
    )
    found = {f.name: f for f in findings(trouble)}
    assert set(found) == {"flipped", "doubled-vertices", "loose", "open"}
    assert found["loose"].where.indices.tolist() == [9]
    assert found["doubled-vertices"].where.indices.tolist() == [8]
    assert found["flipped"].words == "1 face the wrong way round"
    mesh = trouble
    for name in ("doubled-vertices", "loose", "flipped", "open"):
        one = next((f for f in findings(mesh) if f.name == name), None)
        if one is not None:
            mend = by_name(one.repair)
            chosen = one.where
            if name == "doubled-vertices":
                chosen = Selection(Kind.WHOLE, np.zeros(0, np.int32))
            mesh = mend.run(mesh, chosen, mend.made(**dict(one.numbers))).mesh
    assert sound(mesh).volume_mm3 == pytest.approx(1000)
    lifted = CUBE.positions.copy()
    lifted[7, 2] += 3
    bent = CUBE.with_positions(lifted)
    assert "off-plane" in {f.name for f in findings(bent)}


@pytest.mark.parametrize("name", list(starters()))
@settings(max_examples=8)
@given(axis=st.integers(0, 2))
def test_a_shape_to_begin_with_fills_its_box_outward(name: str, axis: int) -> None:
    shape = starters()[name]
    low, high = np.array([1.0, -2.0, 3.0]), np.array([11.0, 18.0, 33.0])
    mesh = shape.filling(low, high, axis, shape.settings())
    if shape.flat:
        assert health(mesh).area_mm2 == pytest.approx(6000 / (high - low)[axis])
        return
    told = sound(mesh)
    assert np.allclose(mesh.bounds, [low, high])
    assert 0.2 < told.volume_mm3 / 6000 <= 1
    assert euler(mesh) == (0 if name in ("torus", "tube") else 2)
    with pytest.raises(MeshError, match="more than zero"):
        shape.filling(low, low, axis, shape.settings())


def test_shapes_end_open_or_closed_by_quads() -> None:
    shape = starters()["cylinder"]
    unit = -np.ones(3), np.ones(3)
    for ends, faces in (("quads", 48), ("face", 18), ("fan", 48), ("open", 16)):
        mesh = shape.filling(*unit, 2, shape.settings(ends=ends))
        assert mesh.topology.face_count == faces, ends
        assert (ends == "open") == bool((mesh.topology.edge_face_count == 1).any())
    ball = starters()["ball"]
    quads = ball.filling(*unit, 2, ball.settings(sides=24))
    assert (quads.topology.sizes == 4).all()
    assert np.allclose(np.linalg.norm(quads.positions, axis=1), 1)
    split = starters()["box"]
    assert sound(split.filling(*unit, 2, split.settings(3, 2, 4))).faces == 2 * (6 + 12 + 8)


def test_a_mesh_made_anew_lies_on_the_old_surface() -> None:
    ball = starters()["ball"]
    mesh = ball.filling(-np.full(3, 20.0), np.full(3, 20.0), 2, ball.settings(sides=64))
    anew = by_name("remesh")(mesh, size=3.0).mesh
    assert (anew.topology.sizes == 4).all()
    assert sound(anew).volume_mm3 == pytest.approx(health(mesh).volume_mm3, rel=0.02)
    on = Surface(mesh, 1.0).nearest(anew.positions)
    assert np.abs(on.positions - anew.positions).max() < 1e-9
    fewer = by_name("reduce")(mesh, faces=500).mesh
    assert fewer.topology.face_count <= 500
    assert health(fewer).volume_mm3 == pytest.approx(health(mesh).volume_mm3, rel=0.02)
    with pytest.raises(MeshError, match="no more than are wanted"):
        by_name("reduce")(CUBE, faces=100)
    with pytest.raises(MeshError, match="larger than the mesh"):
        by_name("remesh")(CUBE, size=500.0)


@settings(max_examples=30)
@given(st.floats(0.5, 30.0), st.sampled_from([name for name, _ in SHAPES]))
def test_what_lies_around_goes_along_less_and_less(radius: float, shape: str) -> None:
    start = np.array([0], np.int32)
    found = going(GRID.positions, start, radius, shape)
    away = np.linalg.norm(GRID.positions[found.vertices] - GRID.positions[0], axis=1)
    assert found.weights[found.vertices == 0].tolist() == [1.0]
    assert (away < radius).all()
    assert (np.diff(found.weights[np.argsort(away, kind="stable")]) <= 1e-12).all()
    assert going(GRID.positions, start, 0.0).vertices.tolist() == [0]


@pytest.mark.parametrize(
    ("name", "kind", "begin", "count"),
    [
        ("grow", Kind.FACE, {"x": 0.0, "y": 5.0, "z": 5.0}, 9),
        ("connected", Kind.VERTEX, None, 56),
        ("flat", Kind.FACE, {"x": 0.0, "y": 5.0, "z": 5.0}, 9),
        ("rim", Kind.FACE, {"x": 0.0, "y": 5.0, "z": 5.0}, 4),
        ("others", Kind.FACE, {"x": 0.0, "y": 5.0, "z": 5.0}, 53),
        ("band", Kind.EDGE, None, 12),
        ("sharp", Kind.FACE, None, 36),
    ],
)
def test_selections_that_follow_from_a_selection(
    name: str, kind: Kind, begin: dict[str, float] | None, count: int
) -> None:
    chosen = faces_where(GRID, **begin) if begin else Selection(kind, np.array([0], np.int32))
    done = by_name(name)(GRID, chosen)
    assert done.mesh is GRID, "nothing but the selection is another one"
    assert len(done.selection.indices) == count


def test_more_selections() -> None:
    side = faces_where(GRID, x=0.0)
    grown = by_name("grow")(GRID, side).selection
    assert by_name("shrink")(GRID, grown).selection.indices.tolist() == side.indices.tolist()
    half = by_name("side")(GRID, Selection(Kind.FACE, np.zeros(0, np.int32)), axis="z", at=5.0)
    assert (GRID.face_centres[half.selection.indices, 2] > 5).all()
    assert len(half.selection.indices) == 9 + 12
    same = by_name("similar")(GRID, side, by="way")
    assert same.selection.indices.tolist() == side.indices.tolist()
    assert len(by_name("similar")(GRID, side, by="size").selection.indices) == 54
    assert len(by_name("rim")(TROUGH).selection.indices) == 12
    with pytest.raises(MeshError, match="no open border"):
        by_name("rim")(GRID)
    with pytest.raises(MeshError, match="no size"):
        by_name("similar")(GRID, Selection(Kind.VERTEX, np.array([0], np.int32)))
    with pytest.raises(MeshError, match="beside each other"):
        by_name("band")(GRID, faces_where(GRID, x=0.0, y=5.0, z=5.0))


def test_what_is_selected_is_measured() -> None:
    top = edges_where(CUBE, z=10.0)
    assert measured(CUBE, top) == (pytest.approx(40), False)
    assert measured(CUBE, selected(CUBE, "faces:all")) == (pytest.approx(600), True)
    ends = Selection(Kind.VERTEX, np.array([0, 7], np.int32))
    assert measured(CUBE, ends) == (pytest.approx(10 * np.sqrt(3)), False)
    assert measured(CUBE, Selection(Kind.VERTEX, np.array([1], np.int32))) is None
    assert measured(CUBE, Selection(Kind.EDGE, np.zeros(0, np.int32))) is None


def test_what_is_uneven_is_selected() -> None:
    lifted = MIDDLE.positions.copy()
    lifted[3, 2] += 1
    found = by_name("uneven")(MIDDLE.with_positions(lifted))
    assert 3 in found.selection.indices
    assert len(found.selection.indices) == 2
    with pytest.raises(MeshError, match="the same"):
        by_name("uneven")(MIDDLE)


def test_solids_are_joined_with_a_rounding_of_a_radius() -> None:
    long, deep = box((0, 0, 0), (40, 10, 20)), box((0, 0, 0), (10, 30, 20))
    done = by_name("rounded-join")(long, others=(deep,), radius=6.0, size=1.0).mesh
    sound(done)
    assert (done.topology.sizes == 4).all()
    p = done.positions
    inner = (p[:, :2] > 10.3).all(axis=1) & (p[:, :2] < 15).all(axis=1)
    inner &= (p[:, 2] > 4) & (p[:, 2] < 16)
    assert inner.sum() > 30
    away = np.hypot(*(p[inner, :2] - 16).T)
    assert np.abs(away - 6).max() < 0.35, "a ball of the radius touches it all along"
    flat = np.abs(p[:, 1] - 10) < 1e-6
    assert p[flat, 0].max() > 35, "away from there the surface is what it was"
    with pytest.raises(MeshError, match="smaller than the radius"):
        by_name("rounded-join")(long, others=(deep,), radius=1.0, size=2.0)
    with pytest.raises(MeshError, match="two meshes or more"):
        by_name("rounded-join")(long)


@settings(max_examples=20)
@given(st.tuples(*[st.integers(2, 5)] * 3), st.tuples(*[st.floats(-20, 20)] * 3))
def test_a_lattice_changes_nothing_until_it_is_moved_and_then_all_alike(
    counts: tuple[int, int, int], by: tuple[float, float, float]
) -> None:
    lattice = lattice_around(GRID.positions, counts)
    assert lattice.counts == counts
    assert np.allclose(lattice.shaped(GRID.positions), GRID.positions)
    every_knot = np.arange(int(np.prod(counts)))
    moved = lattice.moved(every_knot, np.array(by))
    assert np.allclose(moved.shaped(GRID.positions), GRID.positions + np.array(by))
    one = lattice.moved(every_knot[-1:], np.array([0.0, 0.0, 5.0])).shaped(GRID.positions)
    rise = one[:, 2] - GRID.positions[:, 2]
    assert rise[vertex_at(GRID, 10, 10, 10)] == pytest.approx(5), "a corner goes with its knot"
    assert rise[vertex_at(GRID, 0, 0, 0)] == pytest.approx(0)
    assert (rise >= -1e-9).all()
    assert len(lines_of(lattice)) == sum(int(np.prod(counts)) // n for n in counts)


def test_a_lattice_needs_two_knots_and_something_to_be_around() -> None:
    with pytest.raises(MeshError, match="two knots"):
        lattice_around(GRID.positions, (1, 3, 3))
    with pytest.raises(MeshError, match="to be around"):
        lattice_around(np.zeros((0, 3)), (3, 3, 3))
    flat = lattice_around(GRID.positions * np.array([1, 1, 0]), (3, 3, 3))
    assert np.allclose(flat.shaped(GRID.positions * np.array([1, 1, 0]))[:, 2], 0)


@settings(max_examples=30)
@given(
    st.tuples(*[st.floats(-0.8, 0.8)] * 3),
    st.tuples(*[st.floats(-50, 50)] * 3),
    st.floats(0.5, 2.0),
)
def test_a_part_is_placed_by_three_of_its_points(
    turn: tuple[float, float, float], by: tuple[float, float, float], times: float
) -> None:
    true = Rotation.from_rotvec(turn).as_matrix()
    points = GRID.positions[[0, 7, 2, 41]]
    targets = points @ true.T * times + np.array(by)
    # Each is seen in two views: of the last one only its height is known.
    known = np.ones((4, 3), bool)
    known[3] = [False, False, True]
    pairs = [Pair(p, t, k) for p, t, k in zip(points, targets, known, strict=True)]
    found = placing(pairs, resized=True)
    assert found.misses.max() < 0.02
    assert found.times == pytest.approx(times, rel=0.01)
    whole = found.moved(GRID.positions)
    assert np.abs(whole - (GRID.positions @ true.T * times + np.array(by))).max() < 0.1


def test_what_points_leave_open_stays() -> None:
    one = Pair(np.zeros(3), np.array([3.0, 0, 4]), np.array([True, False, True]))
    found = placing([one])
    assert np.allclose(found.turn, np.eye(3), atol=1e-6)
    assert found.by == pytest.approx([3, 0, 4], abs=1e-3)
    none = Pair(np.zeros(3), np.zeros(3), np.zeros(3, bool))
    with pytest.raises(MeshError, match="Click a point"):
        placing([none])

"""Every operation there is, on a zoo of meshes; and how operations are registered."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.layers import Layer, On, layers
from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.mesh.operation import Operation, by_name, operations
from dimetron.mesh.parameters import Sort
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind, Selection, every
from dimetron.mesh.select_words import selected

CUBE = box((0, 0, 0), (1, 1, 1))


def zoo() -> dict[str, Mesh]:
    """One of each kind of mesh."""
    shared = [(0, 0, 0), (1, 0, 0), (0, 1, 0), (0, -1, 0), (0, 0, 1)]
    far = CUBE.positions + 5
    both = [t.topology.face(f).tolist() for t in (CUBE,) for f in range(6)]
    return {
        "closed": CUBE,
        "none": from_faces(np.zeros((0, 3)), []),
        "one face": from_faces([(0, 0, 0), (2, 0, 0), (0, 2, 0)], [[0, 1, 2]]),
        "concave": from_faces(
            [(0, 0, 0), (4, 0, 0), (4, 4, 0), (2, 1, 0), (0, 4, 0)], [[0, 1, 2, 3, 4]]
        ),
        "three at an edge": from_faces(shared, [[0, 1, 2], [1, 0, 3], [0, 1, 4]]),
        "open": from_faces(CUBE.positions, both[1:]),
        "two shells": from_faces(
            np.concatenate([CUBE.positions, far]), both + [[v + 8 for v in f] for f in both]
        ),
        "loose vertex": from_faces(
            [(0, 0, 0), (2, 0, 0), (0, 2, 0), (9, 9, 9)], np.array([[0, 1, 2]])
        ),
    }


def with_all_layers(mesh: Mesh) -> Mesh:
    found = {}
    for on in On:
        count = mesh.count(on)
        found[f"{on.value} number"] = Layer(on, np.arange(count, dtype=np.int32), -1)
        found[f"{on.value} share"] = Layer(on, np.linspace(0, 1, count).astype(np.float32))
    for name, on in (("crease", On.EDGE), ("peak", On.VERTEX)):
        found[name] = Layer(on, np.linspace(0, 1, mesh.count(on)).astype(np.float32))
    found["hidden"] = Layer(On.FACE, np.zeros(mesh.topology.face_count, np.uint8))
    return Mesh(mesh.positions, mesh.topology, layers(**found))


@st.composite
def settings_of(draw: st.DrawFn, operation: Operation) -> dict[str, object]:
    given_ = {}
    for p in operation.parameters:
        if p.sort is Sort.CHOICE:
            given_[p.name] = draw(st.sampled_from([value for value, _ in p.choices]))
        elif p.sort is Sort.SWITCH:
            given_[p.name] = draw(st.booleans())
        elif p.sort is Sort.COUNT:
            given_[p.name] = draw(st.integers(int(p.low), int(min(p.high, max(p.low, 3)))))
        else:
            low, high = max(p.low, -3.0), min(p.high, 3.0)
            given_[p.name] = draw(st.floats(low, high))
    return given_


@pytest.mark.parametrize("name", list(operations()))
@pytest.mark.parametrize("animal", list(zoo()))
@settings(max_examples=20)
@given(data=st.data())
def test_any_operation_on_any_mesh(name: str, animal: str, data: st.DataObject) -> None:
    """A valid mesh with its layers and a selection that exists, or one sentence; and the same
    again for the same input."""
    operation = by_name(name)
    mesh = with_all_layers(zoo()[animal])
    kind = data.draw(st.sampled_from(Kind))
    there = every(mesh, kind)
    some = data.draw(st.lists(st.sampled_from(there.tolist()), unique=True)) if len(there) else []
    chosen = Selection(kind, np.array(sorted(some), np.int32))
    given_ = data.draw(settings_of(operation))
    before = [mesh.positions.copy(), mesh.topology.corners.copy()]
    try:
        done = operation(mesh, chosen, **given_)
    except MeshError as error:
        assert str(error).endswith(".")
        return
    assert np.array_equal(mesh.positions, before[0])
    assert np.array_equal(mesh.topology.corners, before[1])
    assert done.mesh.layers.keys() == mesh.layers.keys()
    for layer in done.mesh.layers.values():
        assert len(layer.values) == done.mesh.count(layer.on)
    indices = done.selection.indices
    assert len(indices) == 0 or indices.max() < len(every(done.mesh, done.selection.kind))
    assert (np.diff(indices) > 0).all()
    again = operation(mesh, chosen, **given_)
    assert np.array_equal(again.mesh.positions, done.mesh.positions)
    assert np.array_equal(again.mesh.topology.corners, done.mesh.topology.corners)


def test_every_operation_tells_what_it_is() -> None:
    assert len(operations()) >= 7
    for operation in operations().values():
        assert operation.sentence.endswith("."), operation.name
        assert operation.title[0].isupper()
        assert operation.icon
        assert operation.family.title, f"{operation.name} stands in no family's folder"
        for parameter in operation.parameters:
            assert parameter.hint, f"{operation.name}: {parameter.name}"
            assert parameter.checked(parameter.default) == parameter.default


def test_what_has_no_meaning_is_said() -> None:
    with pytest.raises(MeshError, match="Select faces first"):
        by_name("extrude")(CUBE, Selection(Kind.FACE, every(CUBE, Kind.WHOLE)))
    with pytest.raises(MeshError, match="within must be 0 or more"):
        by_name("weld")(CUBE, within=-1.0)
    with pytest.raises(MeshError, match="levels must be between 1 and 6"):
        by_name("subdivide")(CUBE, levels=7)
    with pytest.raises(MeshError, match="“bake” is no operation; there is"):
        by_name("bake")


def test_a_cube_subdivided_is_what_catmull_and_clark_say() -> None:
    done = by_name("subdivide")(CUBE).mesh
    assert (len(done.positions), done.topology.face_count) == (26, 24)
    # Face points stay, edge points come in to 7/8 of the half, corners to 5/9 of it.
    away = np.sort(np.unique(np.round(np.abs(done.positions - 0.5), 6)))
    assert np.allclose(away, [0, 5 / 18, 0.375, 0.5], atol=1e-6)
    fine = by_name("subdivide")(CUBE, levels=4).mesh
    assert fine.bounds[1, 0] < 0.95
    creased = CUBE.with_layer("crease", Layer(On.EDGE, np.ones(12, np.float32)))
    kept = by_name("subdivide")(creased, levels=3).mesh
    assert np.allclose(kept.bounds, CUBE.bounds)


def test_the_border_of_a_subdivided_sheet_follows_the_spline() -> None:
    flat = from_faces([(0, 0, 0), (8, 0, 0), (8, 8, 0), (0, 8, 0)], [[0, 1, 2, 3]])
    done = by_name("subdivide")(flat).mesh
    assert sorted(map(tuple, done.positions[:4])) == [(1, 1, 0), (1, 7, 0), (7, 1, 0), (7, 7, 0)]
    assert done.bounds[0].tolist() == [0, 0, 0]


def test_values_in_between_are_mixed_where_they_can_be() -> None:
    uv = CUBE.positions[CUBE.topology.corners][:, :2].astype(np.float32)
    mesh = CUBE.with_layer("uv", Layer(On.CORNER, uv))
    mesh = mesh.with_layer("group", Layer(On.FACE, np.arange(6, dtype=np.int32), -1))
    done = by_name("subdivide")(mesh).mesh
    found = done.layers["uv"].values
    # Of bilinear values the middles are what lies there before it is smoothed.
    assert {0.0, 0.5, 1.0} == set(np.unique(found).tolist())
    assert np.bincount(done.layers["group"].values).tolist() == [4] * 6


@pytest.mark.parametrize(
    ("words", "kind", "count"),
    [
        ("faces:facing=+x", Kind.FACE, 1),
        ("faces:all", Kind.FACE, 6),
        ("edges:sharp=80", Kind.EDGE, 12),
        ("edges:sharp=95", Kind.EDGE, 0),
        ("edges:along=z", Kind.EDGE, 4),
        ("edges:border", Kind.EDGE, 0),
        ("vertices:all", Kind.VERTEX, 8),
        ("none", Kind.FACE, 0),
        ("all", Kind.WHOLE, 0),
    ],
)
def test_selections_in_words(words: str, kind: Kind, count: int) -> None:
    found = selected(CUBE, words)
    assert (found.kind, len(found.indices)) == (kind, count)


@pytest.mark.parametrize("way", ["+x", "-x", "+y", "-y", "+z", "-z"])
def test_faces_that_look_one_way(way: str) -> None:
    found = selected(CUBE, f"faces:facing={way}")
    normal = np.zeros(3)
    normal["xyz".index(way[1])] = 1 if way[0] == "+" else -1
    assert CUBE.face_normals[found.indices].tolist() == [normal.tolist()]


@pytest.mark.parametrize("words", ["faces", "faces:sharp=3", "edges:along=w", "faces:facing=x", ""])
def test_words_that_select_nothing_are_refused(words: str) -> None:
    with pytest.raises(MeshError, match=r"\.$"):
        selected(CUBE, words)

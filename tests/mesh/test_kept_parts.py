"""Faces that are hidden, and selections that are kept under a name."""

from __future__ import annotations

import numpy as np
import pytest

from dimetron.geometry.camera import OrthoCamera
from dimetron.geometry.views import View
from dimetron.mesh import pick
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.hiding import (
    drawn_edges,
    drawn_triangles,
    hidden_faces,
    hidden_parts,
    hidden_values,
    selectable,
)
from dimetron.mesh.layers import Layer, On
from dimetron.mesh.named import named, names_of, with_named, without_named
from dimetron.mesh.operation import by_name
from dimetron.mesh.ply import from_ply, to_ply
from dimetron.mesh.select import Kind, Selection, every
from dimetron.mesh.smooth_surface import surface_of
from tests.mesh.truth import CUBE, GRID, faces_where

FRONT = OrthoCamera(View.FRONT, (5.0, 5.0, 5.0), 0.1, (200.0, 200.0))
AT = (120.0, 110.0)


def test_hidden_faces_are_not_picked_and_what_lies_behind_them_is() -> None:
    front = pick.face_at(GRID, FRONT, AT)
    assert front is not None
    hidden = by_name("hide-faces")(GRID, faces_where(GRID, y=0.0)).mesh
    back = pick.face_at(hidden, FRONT, AT)
    assert back is not None and back.depth > front.depth
    assert GRID.face_centres[back.face][1] == 10
    near = pick.Near(hidden, FRONT, AT, 60.0)
    assert not np.isin(near.faces, np.flatnonzero(hidden_faces(hidden))).any()
    gone = hidden_parts(hidden, Kind.VERTEX)
    assert gone is not None and not gone[near.vertices()].any()


def test_parts_at_hidden_faces_only_are_hidden_too() -> None:
    hidden = by_name("hide-faces")(GRID, faces_where(GRID, y=0.0)).mesh
    gone = hidden_parts(hidden, Kind.VERTEX)
    inner = (GRID.positions[:, 1] == 0) & ((GRID.positions[:, [0, 2]] % 10) != 0).all(axis=1)
    assert gone is not None and np.array_equal(gone, inner), "the rim belongs to others as well"
    edges = hidden_parts(hidden, Kind.EDGE)
    ends = GRID.positions[GRID.topology.edges]
    across = (ends[:, :, 1] == 0).all(axis=1) & inner[GRID.topology.edges].any(axis=1)
    assert edges is not None and np.array_equal(edges, across)
    assert (np.ptp(drawn_edges(hidden), axis=1) == 0).sum() == across.sum()
    triangles = drawn_triangles(hidden)
    assert (np.ptp(triangles, axis=1) == 0).sum() == 2 * hidden_faces(hidden).sum()
    for kind in (Kind.VERTEX, Kind.EDGE, Kind.FACE):
        kept = selectable(hidden, Selection(kind, every(hidden, kind))).indices
        assert np.array_equal(kept, np.flatnonzero(~hidden_parts(hidden, kind)))
    assert selectable(GRID, Selection(Kind.FACE, every(GRID, Kind.FACE))).indices.size == 54
    assert drawn_triangles(GRID) is GRID.triangles


def test_faces_are_hidden_more_and_more_and_come_back_all() -> None:
    one = by_name("hide-faces")(CUBE, faces_where(CUBE, z=10.0)).mesh
    two = by_name("hide-faces")(one, faces_where(CUBE, z=0.0)).mesh
    assert hidden_faces(two).sum() == 2
    alone = by_name("hide-faces")(two, faces_where(CUBE, x=0.0), what="others").mesh
    assert hidden_faces(alone).tolist() == (CUBE.face_centres[:, 0] != 0).tolist()
    shown = by_name("show-faces")(alone)
    assert hidden_faces(shown.mesh) is None and len(shown.selection.indices) == 5
    with pytest.raises(MeshError, match="No face of the mesh is hidden"):
        by_name("show-faces")(shown.mesh)
    with pytest.raises(MeshError, match="hide the mesh itself"):
        by_name("hide-faces")(CUBE, Selection(Kind.FACE, every(CUBE, Kind.FACE)))
    # Whatever is done elsewhere, they stay hidden; and what is moved counts as before.
    cut = by_name("loops")(one, Selection(Kind.EDGE, np.array([0], np.int32))).mesh
    assert (cut.face_centres[hidden_faces(cut), 2] == 10).all()
    moved = one.with_moved(np.array([0], np.int32), np.array([[-1.0, 0, 0]]))
    assert hidden_values(moved) is hidden_values(one)


@pytest.mark.parametrize("levels", [1, 2, 3])
def test_of_the_smooth_surface_the_same_is_hidden(levels: int) -> None:
    sharp = by_name("crease")(CUBE, Selection(Kind.EDGE, every(CUBE, Kind.EDGE)), sharp=1.0)
    hidden = by_name("hide-faces")(sharp.mesh, faces_where(CUBE, z=10.0)).mesh
    surface = surface_of(hidden, levels)
    gone = hidden_faces(surface)
    assert np.array_equal(gone, np.isclose(surface.face_centres[:, 2], 10))
    moved = hidden.with_moved(np.array([0], np.int32), np.array([[-1.0, 0, 0]]))
    again = surface_of(moved, levels)
    assert hidden_values(again) is hidden_values(surface), "so that buffers are kept"


def test_a_selection_kept_under_a_name_goes_along() -> None:
    top = faces_where(GRID, z=10.0)
    mesh = with_named(GRID, "the lid", top)
    mesh = with_named(mesh, "Corner", Selection(Kind.VERTEX, np.array([0], np.int32)))
    rim = Selection(Kind.EDGE, np.array([3, 5], np.int32))
    mesh = from_ply(to_ply(with_named(mesh, "éclat", rim)))
    assert names_of(mesh) == ["Corner", "the lid", "éclat"]
    assert named(mesh, "éclat").kind is Kind.EDGE
    assert named(mesh, "éclat").indices.tolist() == [3, 5]
    without = by_name("delete")(mesh, faces_where(GRID, y=0.0)).mesh
    lid = named(without, "the lid")
    assert lid.kind is Kind.FACE and len(lid.indices) == 9
    assert (without.face_centres[lid.indices, 2] == 10).all()
    again = with_named(without, "the lid", Selection(Kind.FACE, lid.indices[:2]))
    assert len(named(again, "the lid").indices) == 2
    assert names_of(without_named(again, "the lid")) == ["Corner", "éclat"]
    for name in ("", "   ", "x" * 61, "a\x00b"):
        with pytest.raises(MeshError, match="name of 1 to 60"):
            with_named(GRID, name, top)
    with pytest.raises(MeshError, match="Select vertices"):
        with_named(GRID, "none", Selection(Kind.FACE, np.zeros(0, np.int32)))
    with pytest.raises(MeshError, match="no selection “lid”"):
        named(GRID, "lid")


def test_what_a_file_has_under_those_names_may_be_anything() -> None:
    odd = CUBE.with_layer("hidden", Layer(On.VERTEX, np.ones(8, np.float32)))
    odd = odd.with_layer("selection:uv", Layer(On.CORNER, np.ones(24, np.float32)))
    odd = odd.with_layer("selection:flat", Layer(On.FACE, np.ones((6, 2), np.float32)))
    assert hidden_faces(odd) is None and hidden_values(odd) is None
    assert names_of(odd) == []
    assert surface_of(odd, 1).topology.face_count == 24
    with pytest.raises(MeshError):
        named(odd, "flat")

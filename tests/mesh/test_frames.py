"""A selection's own axes and middles."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from dimetron.mesh import edit
from dimetron.mesh.frames import WORLD, axes_of, fixed_point, piece_middles
from dimetron.mesh.joined import joined
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.turning import rotation, turning

angles = st.floats(-180, 180)
KINDS = (Kind.VERTEX, Kind.EDGE, Kind.FACE, Kind.WHOLE)


def picked(kind: Kind, *indices: int) -> Selection:
    return Selection(kind, np.array(indices, np.int32))


def brick() -> Mesh:
    return box((0, 0, 0), (40, 30, 20))


def turned(mesh: Mesh, by: np.ndarray) -> Mesh:
    return mesh.with_positions(mesh.positions @ by)


@given(angles, angles, angles, st.sampled_from(KINDS), st.integers(0, 5))
def test_axes_are_right_handed_and_turn_with_what_they_are_of(
    a: float, b: float, c: float, kind: Kind, index: int
) -> None:
    part = picked(kind) if kind is Kind.WHOLE else picked(kind, index)
    by = rotation(0, a) @ rotation(1, b) @ rotation(2, c)
    before, after = axes_of(brick(), part), axes_of(turned(brick(), by), part)
    for axes in (before, after):
        assert np.allclose(axes @ axes.T, np.eye(3), atol=1e-9)
        assert np.linalg.det(axes) > 0
    if kind is not Kind.VERTEX:
        # Lines turn along; which end of them is positive may be another.
        assert np.allclose(np.abs(np.diag(after @ (before @ by).T)), 1, atol=1e-6)


def test_a_face_has_its_normal_an_edge_itself_a_vertex_what_looks_away() -> None:
    mesh = brick()
    for face in range(6):
        z = axes_of(mesh, picked(Kind.FACE, face))[2]
        assert np.allclose(z, mesh.face_normals[face])
    top = int(np.argmax(mesh.face_centres[:, 2]))
    assert np.allclose(axes_of(mesh, picked(Kind.FACE, top)), np.eye(3)), "X along the longest edge"
    for index, (start, end) in enumerate(mesh.topology.edges):
        x, _, z = axes_of(mesh, picked(Kind.EDGE, index))
        along = mesh.positions[end] - mesh.positions[start]
        assert np.isclose(abs(x @ along), np.linalg.norm(along))
        outwards = mesh.positions[[start, end]].mean(axis=0) - mesh.bounds.mean(axis=0)
        assert z @ outwards > 0
    corner = int(np.argmax(mesh.positions.sum(axis=1)))
    assert np.allclose(axes_of(mesh, picked(Kind.VERTEX, corner))[2], 3**-0.5)
    assert np.allclose(np.abs(axes_of(mesh, picked(Kind.WHOLE))), np.eye(3)), "40 by 30 by 20"
    assert axes_of(mesh, picked(Kind.FACE)) is WORLD


def test_what_cancels_out_still_has_axes() -> None:
    mesh = brick()
    every = Selection(Kind.FACE, np.arange(6, dtype=np.int32))
    axes = axes_of(mesh, every)
    assert np.allclose(axes @ axes.T, np.eye(3)) and np.allclose(np.abs(axes[2]), (0, 0, 1))


def test_each_piece_is_turned_and_scaled_about_its_own_middle() -> None:
    mesh = joined([brick(), box((100, 0, 0), (110, 10, 10))])
    top = np.flatnonzero(mesh.face_normals[:, 2] > 0.9).astype(np.int32)
    part = Selection(Kind.FACE, top)
    vertices = np.unique(mesh.topology.corners[mesh.topology.corners_of(top)])
    beside = np.append(vertices, np.flatnonzero(mesh.positions[:, 0] == 0)[:1])
    middles = piece_middles(mesh, part, beside)
    far = mesh.positions[vertices, 0] > 90
    assert np.allclose(middles[:-1][far], (105, 5, 10))
    assert np.allclose(middles[:-1][~far], (20, 15, 20))
    assert np.allclose(middles[-1], (20, 15, 20)), "what only goes along goes with the nearest"
    foot = np.flatnonzero((mesh.positions[:, 0] == 110) & (mesh.positions[:, 2] == 0))[:1]
    assert np.allclose(piece_middles(mesh, part, foot), (105, 5, 10))
    scaled = edit.scaled(mesh, vertices, (0.5, 0.5, 0.5), middles[:-1])
    assert np.allclose(np.ptp(scaled.positions[vertices[far]], axis=0), (5, 5, 0))
    assert np.allclose(np.ptp(scaled.positions[vertices[~far]], axis=0), (20, 15, 0))
    whole = piece_middles(mesh, picked(Kind.WHOLE), np.arange(16, dtype=np.int32))
    assert np.allclose(np.unique(whole, axis=0), [(20, 15, 10), (105, 5, 5)])
    edges = Selection(Kind.EDGE, np.arange(2, dtype=np.int32))
    ends = np.unique(mesh.topology.edges[:2]).astype(np.int32)
    assert len(piece_middles(mesh, edges, ends)) == len(ends)
    alone = piece_middles(mesh, picked(Kind.VERTEX, 0, 6), np.array([0, 6], np.int32))
    joins = (np.sort(mesh.topology.edges, axis=1) == (0, 6)).all(axis=1).any()
    assert joins or np.allclose(alone, mesh.positions[[0, 6]])


@given(angles, st.floats(0.2, 3), st.integers(0, 2))
def test_along_other_axes_is_the_same_as_turning_there_and_back(
    degrees: float, factor: float, axis: int
) -> None:
    axes = np.asarray(rotation(0, 30) @ rotation(2, 50))
    points = brick().positions
    pivot = np.array([3.0, 4, 5])
    there = (points - pivot) @ axes.T
    turn = there @ rotation(axis, degrees) @ axes + pivot
    assert np.allclose(turning(axis, degrees, pivot, axes)(points), turn)
    factors = np.where(np.arange(3) == axis, factor, 1.0)
    assert np.allclose(edit.scaling(factors, pivot, axes)(points), there * factors @ axes + pivot)


def test_the_base_is_the_lowest_along_the_axes() -> None:
    points = brick().positions
    assert np.allclose(fixed_point(points, "base"), (20, 15, 0))
    over = rotation(0, 180.0)
    assert np.allclose(fixed_point(points, "base", over), (20, 15, 20))
    assert np.allclose(fixed_point(points, "middle", over), (20, 15, 10))
    assert np.allclose(fixed_point(points, "origin", over), 0)

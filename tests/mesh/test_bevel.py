"""Bevels whose corners are rounded, and whose smooth surface gets a typed radius."""

from __future__ import annotations

import numpy as np
import pytest

from dimetron.mesh.arrays import Floats
from dimetron.mesh.bevels.faces import Shape, made
from dimetron.mesh.bevels.plan import Around, planned
from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.mesh.operation import by_name
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind, Selection, vertices_of
from dimetron.mesh.select_words import selected
from dimetron.mesh.smooth_surface import surface_of
from tests.mesh.truth import edges_where, euler, sound

CUBE = box((0, 0, 0), (10, 10, 10))


def _rounded(**numbers: object) -> Mesh:
    done = by_name("bevel")(
        CUBE, selected(CUBE, "edges:all"), width=2.0, corners="round", **numbers
    )
    assert not done.notes
    return done.mesh


@pytest.mark.parametrize("segments", [2, 4, 8])
def test_corners_are_rounded_by_quads(segments: int) -> None:
    mesh = _rounded(segments=segments)
    half = segments // 2
    assert sound(mesh).faces == 6 + 12 * segments + 8 * 3 * half * half
    assert mesh.topology.sizes.max() == 4
    assert euler(mesh) == 2
    # Of a cube with round edges the corners are eighths of a ball.
    near = mesh.positions[(mesh.positions < 2 + 1e-9).all(axis=1)]
    exact = 0.04 if segments == 2 else 0.021
    assert np.linalg.norm(near - 2, axis=1) == pytest.approx(2.0, rel=exact)
    # All corners are alike, and look outward.
    assert np.allclose(mesh.positions.mean(axis=0), 5.0)
    centred = ((mesh.face_centres - 5) * mesh.face_normals).sum(axis=1)
    assert centred.min() > 4


def test_a_corner_of_four_bands_is_rounded_and_odd_segments_leave_a_face() -> None:
    cut = by_name("loops")(CUBE, edges_where(CUBE, x=0.0, z=0.0), loops=1).mesh
    ridge = by_name("loops")(cut, edges_where(cut, y=0.0, z=0.0), loops=1).mesh
    top = (abs(ridge.positions - [5, 5, 10]) < 1e-9).all(axis=1)
    pyramid = ridge.with_positions(ridge.positions + top[:, None] * [0, 0, 5.0])
    spokes = np.flatnonzero(top[pyramid.topology.edges].any(axis=1)).astype(np.int32)
    chosen = Selection(Kind.EDGE, spokes)
    done = by_name("bevel")(pyramid, chosen, width=1.0, segments=4, corners="round")
    assert not done.notes
    assert sound(done.mesh).closed
    peak = done.mesh.positions[:, 2].max()
    assert 12 < peak < 15, "rounded off"
    odd = by_name("bevel")(
        CUBE, selected(CUBE, "edges:all"), width=2.0, segments=3, corners="round"
    )
    assert "8 corners stay one face each" in odd.notes[0].words
    assert sound(odd.mesh).faces == 26 + 24


def _radius(points: Floats) -> float:
    """Of the circle that runs nearest to points (n, 2)."""
    rows = np.column_stack([2 * points, np.ones(len(points))])
    (x, y, c), *_ = np.linalg.lstsq(rows, (points**2).sum(axis=1), rcond=None)
    return float(np.sqrt(c + x * x + y * y))


@pytest.mark.parametrize(("radius", "segments"), [(3.0, 1), (1.0, 2), (2.0, 3), (4.0, 4)])
def test_the_smooth_surface_gets_the_radius(radius: float, segments: int) -> None:
    """The rim of a long can, measured on a fine smooth surface."""
    can = _can()
    outer = np.hypot(*can.positions[:, :2].T) > 29
    at_rim = (outer & (can.positions[:, 2] > 59))[can.topology.edges].all(axis=1)
    rim = Selection(Kind.EDGE, np.flatnonzero(at_rim).astype(np.int32))
    done = by_name("bevel")(can, rim, by="radius", radius=radius, segments=segments)
    assert not done.notes
    mesh = done.mesh
    fine = surface_of(mesh, 5).positions
    # In the plane through the middle of an edge.
    middle = np.pi / 24
    way, across = (
        np.array([np.cos(middle), np.sin(middle)]), np.array([-np.sin(middle), np.cos(middle)])
    )  # fmt: skip
    on = (abs(fine[:, :2] @ across) < 1e-6) & (fine[:, :2] @ way > 0)
    profile = np.column_stack([fine[on, :2] @ way, fine[on, 2]])
    corner = [30 * np.cos(middle), 60]
    bend = np.argmin(abs((profile - corner) @ [1, -1]) + 1e3 * (profile[:, 1] < 50))
    bands = mesh.positions[vertices_of(mesh, Kind.FACE, done.selection.indices)]
    across = 60 - bands[:, 2].min()
    near = np.linalg.norm(profile - profile[bend], axis=1) < 0.4 * across
    assert near.sum() > 4
    assert _radius(profile[near]) == pytest.approx(radius, rel=0.08)


def _can() -> Mesh:
    turn = np.arange(24) * 2 * np.pi / 24
    ring = np.column_stack([30 * np.cos(turn), 30 * np.sin(turn)])
    levels = [0.0, 25.0, 50.0, 60.0]
    at = [np.column_stack([ring, np.full(24, z)]) for z in levels]
    at += [np.column_stack([ring * s, np.full(24, 60.0)]) for s in (0.66, 0.33)]
    quads = [
        [24 * k + i, 24 * k + (i + 1) % 24, 24 * k + 24 + (i + 1) % 24, 24 * k + 24 + i]
        for k in range(5)
        for i in range(24)
    ]
    return from_faces(np.concatenate(at), np.array(quads, np.int32))


@pytest.mark.parametrize("radius", [1.0, 2.0])
def test_a_radius_is_found_where_it_changes_much_faster_than_the_width(radius: float) -> None:
    edge = edges_where(CUBE, x=0.0, y=0.0)
    done = by_name("bevel")(CUBE, edge, by="radius", radius=radius, segments=3)
    assert not done.notes
    every = selected(CUBE, "edges:all")
    assert not by_name("bevel")(CUBE, every, by="radius", radius=2 * radius, segments=1).notes


def test_bands_of_two_widths_meet_where_both_are_as_wide_as_they_should_be() -> None:
    edges = selected(CUBE, "edges:all").indices
    upright = np.ptp(CUBE.positions[CUBE.topology.edges[edges]], axis=1)[:, 2] > 0
    around = Around(CUBE, edges, np.where(upright, 1.0, 2.0))
    mesh = made(around, planned(around), 1.0, Shape()).mesh
    assert sound(mesh).closed
    side = mesh.positions[np.abs(mesh.positions[:, 0]) < 1e-9][:, 1:]
    assert sorted(map(tuple, np.round(side, 9).tolist())) == [(1, 2), (1, 8), (9, 2), (9, 8)]
    top = mesh.positions[np.abs(mesh.positions[:, 2] - 10) < 1e-9][:, :2]
    assert sorted(map(tuple, np.round(top, 9).tolist())) == [(2, 2), (2, 8), (8, 2), (8, 8)]


def test_a_radius_that_cannot_be_had_is_told() -> None:
    edge = edges_where(CUBE, x=0.0, y=0.0)
    small = by_name("bevel")(CUBE, edge, by="radius", radius=0.2)
    assert "more segments allow less" in small.notes[0].words
    assert sound(small.mesh).zero_area_faces == 0
    large = by_name("bevel")(CUBE, edge, by="radius", radius=50.0, segments=2)
    assert "the faces allow no more" in large.notes[0].words
    assert sound(large.mesh).zero_area_faces == 0

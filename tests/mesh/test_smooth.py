"""Smooth surfaces: creases as published, and a surface that follows its cage."""

from __future__ import annotations

import numpy as np
import pytest

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.catmull_clark import smooth_of
from dimetron.mesh.health import health
from dimetron.mesh.mesh import from_faces
from dimetron.mesh.operation import by_name
from dimetron.mesh.patch import Patch
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.select_words import selected
from dimetron.mesh.smooth_surface import exported, surface_of
from tests.mesh.truth import CUBE, GRID, edges_where


def test_a_surface_is_what_subdividing_gives_and_is_kept() -> None:
    surface = surface_of(GRID, 2)
    fine = by_name("subdivide")(GRID, levels=2).mesh
    assert np.allclose(surface.positions, fine.positions)
    assert np.array_equal(surface.topology.corners, fine.topology.corners)
    assert surface_of(GRID, 2) is surface
    assert exported(GRID, 0) is GRID
    assert np.array_equal(exported(GRID, 2).positions, fine.positions)


def test_a_dragged_vertex_takes_the_surface_along_on_the_same_faces() -> None:
    vertex = np.array([5], np.int32)
    patch = Patch(vertex, GRID.positions[vertex] + 3.0)
    moved = surface_of(GRID, 2, patch)
    truth = by_name("subdivide")(GRID.with_moved(vertex, patch.positions), levels=2).mesh
    assert np.allclose(moved.positions, truth.positions)
    assert moved.topology is surface_of(GRID, 2).topology, "the same buffers can be written to"
    assert moved.triangles is surface_of(GRID, 2).triangles
    assert surface_of(GRID, 2, patch) is moved


def test_creases_are_sharp_for_some_levels_and_then_smooth() -> None:
    top = edges_where(CUBE, z=10.0)
    volumes = []
    for sharp in (0.0, 0.1, 0.2, 0.25, 1.0):
        creased = by_name("crease")(CUBE, top, sharp=sharp).mesh
        fine = by_name("subdivide")(creased, levels=4).mesh
        volumes.append(health(fine).volume_mm3)
    assert (np.diff(volumes) > 0).all(), "the sharper, the more of the edge is left"
    assert fine.bounds[1, 2] == pytest.approx(10), "sharp for ever: the flat top stays"
    # One level of the published rule: an edge of sharpness one or more is divided in its middle.
    once = by_name("subdivide")(by_name("crease")(CUBE, top, sharp=0.1).mesh)
    assert np.isclose(once.mesh.positions[:, 2], 10).sum() >= 5
    left = once.mesh.layers["crease"].values
    assert left.max() == pytest.approx(0, abs=1e-6), "a level takes its sharpness away"


def test_a_vertex_can_stay_a_peak() -> None:
    corner = Selection(Kind.VERTEX, np.array([7], np.int32))
    peaked = by_name("crease")(CUBE, corner, sharp=1.0).mesh
    fine = by_name("subdivide")(peaked, levels=3).mesh
    assert np.allclose(fine.positions[7], 10)
    assert by_name("subdivide")(CUBE, levels=3).mesh.bounds[1].max() < 9.5


def test_what_changes_the_creases_changes_the_surface() -> None:
    before = surface_of(GRID, 1).positions
    creased = by_name("crease")(GRID, selected(GRID, "edges:sharp=30")).mesh
    assert not np.allclose(surface_of(creased, 1).positions, before)
    assert np.allclose(surface_of(creased, 3).bounds, GRID.bounds)
    with pytest.raises(MeshError, match="fewer levels"):
        smooth_of(GRID, 12)


def test_relaxing_evens_out_a_bump_and_keeps_a_border_on_its_line() -> None:
    x, y = np.meshgrid(np.arange(7.0), np.arange(7.0), indexing="ij")
    n = np.arange(49).reshape(7, 7)
    quads = np.stack([n[:-1, :-1], n[1:, :-1], n[1:, 1:], n[:-1, 1:]], axis=2).reshape(-1, 4)
    z = np.zeros(49)
    z[24] = 3.0
    sheet = from_faces(np.column_stack([x.ravel(), y.ravel(), z]), quads.astype(np.int32))
    done = by_name("relax")(sheet, rounds=10).mesh
    assert done.bounds[1, 2] < 0.6
    assert done.bounds[0, :2].min() >= 0
    rim = sheet.positions[:, 0] == 0
    assert np.allclose(done.positions[rim], sheet.positions[rim])

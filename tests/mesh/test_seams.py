"""Seams that the smooth surface flattens or pinches."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest

from dimetron.mesh.arrays import grid_quads
from dimetron.mesh.layers import CREASE, Layer, On
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.primitives import box
from dimetron.mesh.seams import seam_findings, seam_of
from dimetron.mesh.starter import starters
from dimetron.mesh.topology import topology_of

RADIUS = 50.0


def vault(height: Callable[[np.ndarray], np.ndarray], axis: int = 0) -> Mesh:
    """Nine by five vertices over a plane, the same on both sides of the middle."""
    out, along = np.meshgrid(np.linspace(-40, 40, 9), np.linspace(0, 40, 5), indexing="ij")
    points = np.stack([out, along, height(np.abs(out))], axis=-1).reshape(-1, 3)
    quads = grid_quads(np.arange(45).reshape(9, 5))
    topology = topology_of(np.full(len(quads), 4), quads.ravel(), len(points))
    return Mesh(np.ascontiguousarray(np.roll(points, axis, axis=1)), topology)


def round_(out: np.ndarray) -> np.ndarray:
    return np.sqrt(RADIUS**2 - out**2)


@pytest.mark.parametrize("axis", [0, 1, 2])
def test_a_row_as_high_as_the_middle_makes_the_seam_flat(axis: int) -> None:
    assert not seam_findings(vault(round_, axis), ("xyz"[axis],))
    level = vault(lambda out: np.where(out < 15, round_(np.float64(0)), round_(out - 10)), axis)
    told = seam_findings(level, ("xyz"[axis],))
    assert [one.short for one in told] == [f"flat at {'XYZ'[axis]}"]
    assert told[0].words.endswith("at 3 vertices"), "those at the border go on nowhere"
    assert (level.positions[told[0].where.indices, axis] == 0).all()
    assert not seam_findings(level, tuple({"x", "y", "z"} - {"xyz"[axis]}))
    assert seam_findings(level, ("xyz"[axis],)) is seam_findings(level, ("xyz"[axis],))


def test_a_fold_that_nothing_beside_it_has_is_a_ridge() -> None:
    folded = vault(lambda out: 40 - np.maximum(out, 0) * 0.8)
    assert [one.short for one in seam_findings(folded, ("x",))] == ["ridge at X"]
    assert len(seam_of(folded, 0).pinched) == 3
    # Said to be sharp it is meant so.
    edges = folded.positions[folded.topology.edges]
    sharp = (edges[:, :, 0] == 0).all(axis=1).astype(np.float32)
    creased = folded.with_layer(CREASE, Layer(On.EDGE, sharp))
    assert not seam_findings(creased, ("x",))
    # What turns everywhere alike has no ridge, however much.
    assert not seam_findings(vault(lambda out: np.sqrt(45.0**2 - out**2)), ("x",))


def test_faces_in_the_middle_are_walls_between_both_sides() -> None:
    wall = vault(round_)
    box_ = box((-10, -10, 0), (0, 10, 20))
    assert not len(seam_of(wall, 0).walls)
    told = seam_findings(box_, ("x",))
    assert [one.short for one in told] == ["walls at X"]
    assert told[0].repair == "delete" and len(told[0].where.indices) == 1


@pytest.mark.parametrize("name", ["box", "ball", "cone", "cylinder", "torus", "tube", "capsule"])
def test_shapes_to_begin_with_have_sound_seams(name: str) -> None:
    starter = starters()[name]
    mesh = starter.filling((-20, -20, -20), (20, 20, 20), 2, starter.settings())
    assert not seam_findings(mesh, ("x", "y"))


def test_a_mesh_without_faces_has_no_seam() -> None:
    nothing = Mesh(np.zeros((0, 3)), topology_of(np.zeros(0, int), np.zeros(0, int), 0))
    assert seam_findings(nothing, ("x", "y", "z")) == ()

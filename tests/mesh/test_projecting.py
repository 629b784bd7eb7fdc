"""Vertices brought onto planes and other meshes."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import by_name
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.starter import starters
from tests.mesh.truth import CUBE, GRID, faces_where

BALL = starters()["ball"]
ROUND = BALL.filling((-20, -20, -20), (20, 20, 20), 2, BALL.settings())


@given(
    st.sampled_from("xyz"),
    st.floats(-70, 70),
    st.floats(-70, 70),
    st.floats(0, 1),
    st.sampled_from(["axis", "square"]),
)
def test_all_lie_in_one_plane_as_it_is_tilted(
    axis: str, tilt: float, lean: float, place: float, along: str
) -> None:
    done = by_name("onto-plane")(GRID, axis=axis, tilt=tilt, lean=lean, place=place, along=along)
    moved = done.mesh.positions
    middle = moved - moved.mean(axis=0)
    assert np.linalg.svd(middle, compute_uv=False)[-1] < 1e-6
    way = moved - GRID.positions
    if along == "axis":
        assert np.allclose(np.delete(way, "xyz".index(axis), axis=1), 0)
    else:
        normal = np.linalg.svd(middle)[2][-1]
        assert np.allclose(way - np.outer(way @ normal, normal), 0, atol=1e-6)


def test_a_plane_that_is_not_tilted_is_level_and_what_is_not_chosen_stays() -> None:
    top = faces_where(GRID, z=10.0)
    done = by_name("onto-plane")(GRID, top, tilt=45.0, place=1.0)
    change = done.mesh.positions - GRID.positions
    mine = np.isclose(GRID.positions[:, 2], 10)
    assert np.allclose(change[~mine], 0)
    # About X by 45 degrees: as much higher as farther along Y.
    heights = GRID.positions[mine, 1] - 5
    leant = by_name("onto-plane")(GRID, top, lean=45.0, place=1.0).mesh.positions - GRID.positions
    assert np.allclose(np.abs(leant[mine, 2]), np.abs(GRID.positions[mine, 0] - 5)), "about Y"
    assert np.allclose(np.abs(change[mine, 2]), np.abs(heights))
    assert np.allclose(by_name("onto-plane")(GRID, place=0.0).mesh.positions[:, 2], 0)
    with pytest.raises(MeshError, match="tilt it less"):
        by_name("onto-plane")(GRID, tilt=90.0)
    upright = by_name("onto-plane")(GRID, tilt=90.0, along="square").mesh
    assert np.ptp(upright.positions[:, 1]) == pytest.approx(0)


def test_vertices_are_laid_on_the_nearest_place_of_other_meshes() -> None:
    around = box((-30, -30, -30), (30, 30, 30))
    done = by_name("lay-on")(around, others=(ROUND,))
    away = np.linalg.norm(done.mesh.positions, axis=1)
    assert away == pytest.approx(20, abs=0.5)
    assert np.allclose(np.sign(done.mesh.positions), np.sign(around.positions))
    halfway = by_name("lay-on")(around, others=(ROUND,), share=0.5).mesh.positions
    assert np.allclose(halfway, (around.positions + done.mesh.positions) / 2)
    off = by_name("lay-on")(around, others=(ROUND,), off=5.0).mesh.positions
    assert np.linalg.norm(off - done.mesh.positions, axis=1) == pytest.approx(5)
    assert np.linalg.norm(off, axis=1) == pytest.approx(25, abs=0.6)
    face = Selection(Kind.FACE, np.array([0], np.int32))
    part = by_name("lay-on")(around, face, others=(ROUND, CUBE)).mesh
    assert (~np.isclose(part.positions, around.positions).all(axis=1)).sum() == 4
    nothing = Mesh(np.zeros((0, 3)), CUBE.topology.__class__(
        np.zeros(1, np.int32), np.zeros(0, np.int32), 0
    ))  # fmt: skip
    for others in ((), (nothing,)):
        with pytest.raises(MeshError, match="no surface to lay it on"):
            by_name("lay-on")(around, others=others)

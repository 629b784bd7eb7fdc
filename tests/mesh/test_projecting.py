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
    st.sampled_from(["best", *"xyz"]),
    st.floats(-70, 70),
    st.floats(-70, 70),
    st.sampled_from(["low", "middle", "high", "zero"]),
    st.sampled_from(["straight", "square"]),
)
def test_all_lie_in_one_plane_as_it_is_tilted(
    to: str, tilt: float, lean: float, at: str, along: str
) -> None:
    done = by_name("flatten")(GRID, to=to, tilt=tilt, lean=lean, at=at, along=along)
    moved = done.mesh.positions
    middle = moved - moved.mean(axis=0)
    assert np.linalg.svd(middle, compute_uv=False)[-1] < 1e-6
    way = moved - GRID.positions
    if along == "square":
        normal = np.linalg.svd(middle)[2][-1]
        assert np.allclose(way - np.outer(way @ normal, normal), 0, atol=1e-6)
    elif to == "best":
        assert np.linalg.matrix_rank(way, tol=1e-6) <= 1, "all of them the same way"
    else:
        assert np.allclose(np.delete(way, "xyz".index(to), axis=1), 0)


def test_a_plane_that_is_not_tilted_is_level_and_what_is_not_chosen_stays() -> None:
    top = faces_where(GRID, z=10.0)
    done = by_name("flatten")(GRID, top, to="z", tilt=45.0, at="high")
    change = done.mesh.positions - GRID.positions
    mine = np.isclose(GRID.positions[:, 2], 10)
    assert np.allclose(change[~mine], 0)
    # About X by 45 degrees: as much higher as farther along Y.
    heights = GRID.positions[mine, 1] - 5
    assert np.allclose(np.abs(change[mine, 2]), np.abs(heights))
    leant = by_name("flatten")(GRID, top, to="z", lean=45.0).mesh.positions - GRID.positions
    assert np.allclose(np.abs(leant[mine, 2]), np.abs(GRID.positions[mine, 0] - 5)), "about Y"
    # The best plane of a level face is level, and is tilted as that one is.
    best = by_name("flatten")(GRID, top, tilt=45.0).mesh.positions
    assert np.ptp(best[mine, 2]) == pytest.approx(np.ptp(done.mesh.positions[mine, 2]))
    assert (by_name("flatten")(GRID, to="z", at="low").mesh.positions[:, 2] == 0).all()
    for to in ("best", "z"):
        with pytest.raises(MeshError, match="go square to it"):
            by_name("flatten")(GRID, to=to, tilt=90.0)
    upright = by_name("flatten")(GRID, to="z", tilt=90.0, along="square").mesh
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

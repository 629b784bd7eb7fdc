"""Which edges a draughtsman would draw of a mesh."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.mesh.operation import by_name
from dimetron.mesh.outline import feature_edges
from dimetron.mesh.primitives import box

ways = st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda w: np.linalg.norm(w) > 0.1)


def unit(way: tuple[float, ...]) -> np.ndarray:
    return np.array(way) / np.linalg.norm(way)


def ball() -> Mesh:
    return by_name("subdivide")(box((-10, -10, -10), (10, 10, 10)), levels=4).mesh


@given(ways)
def test_of_a_box_all_edges_are_drawn_from_wherever_it_is_seen(way: tuple[float, ...]) -> None:
    assert len(feature_edges(box((0, 0, 0), (1, 2, 3)), unit(way))) == 12


@given(ways)
def test_of_what_is_smooth_only_its_outline_is_drawn(way: tuple[float, ...]) -> None:
    """The edges between what is seen and what is not: they close round it, and all that is seen
    lies on one side of them."""
    mesh, forward = BALL, unit(way)
    # What stands exactly on edge is neither.
    assume(np.abs(mesh.face_normals @ forward).min() > 1e-9)
    found = feature_edges(mesh, forward)
    ends, counts = np.unique(mesh.topology.edges[found], return_counts=True)
    assert len(found) > 20 and (counts % 2 == 0).all()
    facing = mesh.face_normals @ forward < 0
    faces = {edge: [] for edge in found.tolist()}
    for corner, edge in enumerate(mesh.topology.corner_edge.tolist()):
        if edge in faces:
            faces[edge].append(facing[mesh.topology.corner_face[corner]])
    assert all(sorted(pair) == [False, True] for pair in faces.values())
    assert np.ptp(mesh.positions[ends] @ forward) < np.ptp(mesh.positions @ forward) * 0.5


BALL = ball()


def grid(side: int, bend_deg: float) -> Mesh:
    """A sheet of quads, bent along its middle."""
    x, y = np.meshgrid(np.arange(-side, side + 1.0), np.arange(2 * side + 1.0))
    turn = np.radians(bend_deg)
    points = np.stack(
        [x * np.where(x > 0, np.cos(turn), 1), y, np.where(x > 0, x, 0) * np.sin(turn)]
    )
    k = np.arange((2 * side + 1) ** 2).reshape(2 * side + 1, 2 * side + 1)
    quads = np.stack([k[:-1, :-1], k[:-1, 1:], k[1:, 1:], k[1:, :-1]], axis=-1).reshape(-1, 4)
    return from_faces(points.reshape(3, -1).T, quads.tolist())


@pytest.mark.parametrize(("bend", "more"), [(0.0, 0), (20.0, 0), (-20.0, 0), (30.0, 6), (-60.0, 6)])
def test_of_an_open_sheet_its_border_and_where_it_is_bent_sharply(bend: float, more: int) -> None:
    # Seen from above all faces turn to the eye: nothing of it is an outline within.
    assert len(feature_edges(grid(3, bend), np.array([0.0, 0.0, -1.0]))) == 24 + more


def test_of_no_mesh_nothing_is_drawn() -> None:
    empty = from_faces(np.zeros((0, 3)), [])
    assert len(feature_edges(empty, np.array([0.0, 1.0, 0.0]))) == 0

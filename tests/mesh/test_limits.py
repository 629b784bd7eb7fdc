"""Points of the smooth surface, and loops that keep it."""

from __future__ import annotations

import numpy as np
import pytest

from dimetron.demo.project import project
from dimetron.mesh.evening import uneven
from dimetron.mesh.limits import limit_weights
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.nearest import Surface
from dimetron.mesh.operation import by_name
from dimetron.mesh.select import Kind, Selection, every
from dimetron.mesh.smooth_surface import surface_of
from dimetron.mesh.starter import starters
from tests.mesh.truth import CUBE, GRID, TROUGH, edges_where


def ball() -> Mesh:
    starter = starters()["ball"]
    return starter.filling((-20, -20, -20), (20, 20, 20), 2, starter.settings())


@pytest.mark.parametrize(
    "mesh", [CUBE, GRID, TROUGH, ball()], ids=["cube", "grid", "trough", "ball"]
)
def test_the_limit_is_what_ever_finer_surfaces_come_to(mesh: Mesh) -> None:
    sharp = by_name("crease")(mesh, Selection(Kind.EDGE, np.arange(3, dtype=np.int32)), sharp=1.0)
    peaked = by_name("crease")(mesh, Selection(Kind.VERTEX, np.array([1], np.int32)), sharp=1.0)
    for one in (mesh, sharp.mesh, peaked.mesh):
        limit = limit_weights(one) @ one.positions
        fine = surface_of(one, 5).positions
        size = float(np.ptp(one.bounds, axis=0).max())
        assert np.abs(limit[: len(fine)] - fine[: len(limit)]).max() < 4e-3 * size
        # Where a cage's point comes to lie does not change with how fine one looks.
        once = by_name("subdivide")(one, levels=1).mesh
        again = limit_weights(once) @ once.positions
        n = len(one.positions)
        assert np.allclose(again[:n], limit[:n], atol=4e-3 * size)


def miss(before: Mesh, after: Mesh) -> float:
    """How far the smooth surface is off what it was, as a share of its extent."""
    surface = Surface(surface_of(before, 4), 0.3)
    points = surface_of(after, 3).positions
    away = np.linalg.norm(surface.nearest(points).positions - points, axis=1)
    return float(away.max() / np.ptp(before.bounds, axis=0).max())


@pytest.mark.parametrize("numbers", [{}, {"shift": 0.6}, {"loops": 3}])
@pytest.mark.parametrize("name", ["body", "spout", "handle", "stay"])
def test_loops_keep_the_smooth_surface_if_asked(name: str, numbers: dict[str, float]) -> None:
    mesh = next(m.mesh for m in project("modelled-can").meshes if m.name == name)
    edge = Selection(Kind.EDGE, np.array([5], np.int32))
    plain = by_name("loops")(mesh, edge, **numbers)
    kept = by_name("loops")(mesh, edge, stays=True, **numbers)
    assert kept.selection.indices.tolist() == plain.selection.indices.tolist()
    assert kept.mesh.topology.face_count == plain.mesh.topology.face_count
    assert miss(mesh, kept.mesh) < min(0.006, miss(mesh, plain.mesh) / 3)


def test_what_lies_farther_off_stays_where_it_is_and_both_sides_stay_the_same() -> None:
    starter = starters()["torus"]
    mesh = starter.filling((-20, -20, -5), (20, 20, 5), 2, starter.settings())
    edge = edges_where(mesh, x=0.0)
    done = by_name("loops")(mesh, Selection(Kind.EDGE, edge.indices[:1]), stays=True).mesh
    moved = ~np.isclose(done.positions[: len(mesh.positions)], mesh.positions).all(axis=1)
    assert moved.any() and not moved.all()
    whole = by_name("loops")(
        ball(), Selection(Kind.EDGE, every(ball(), Kind.EDGE)), stays=True
    ).mesh
    assert len(uneven(whole, 0)) == len(uneven(whole, 1)) == 0
    assert miss(ball(), whole) < 2e-3

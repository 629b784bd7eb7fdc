"""Modelling: smooth surfaces against the bare sparse product, operations against a bare copy of the
mesh's arrays, selecting in half a million faces, solids against manifold3d alone, soft drags."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

import manifold3d
import numpy as np

from benchmarks.timing import in_turn, report, row
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.catmull_clark import level_of, sharpness
from dimetron.mesh.falloff import going
from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.mesh.operation import by_name
from dimetron.mesh.rings import loop
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.smooth_surface import surface_of
from dimetron.mesh.solids.booleans import combined
from dimetron.mesh.starters.ball import Ball, make
from dimetron.mesh.topology import Topology

#: Operations that change faces where they are done, each with what it works on.
_LOCAL = {
    "extrude": Kind.FACE,
    "inset": Kind.FACE,
    "thicken": None,
    "loops": Kind.EDGE,
    "bevel": Kind.EDGE,
    "fill-holes": None,
    "merge": Kind.EDGE,
    "take-out": Kind.EDGE,
    "delete": Kind.FACE,
    "tear": Kind.EDGE,
    "connect": Kind.VERTEX,
    "turn-edge": Kind.EDGE,
    "triangulate": Kind.FACE,
    "quads": Kind.FACE,
    "flip": Kind.FACE,
    "alike": None,
    "slide": Kind.EDGE,
    "relax": Kind.VERTEX,
}
_ROUNDS = 9
#: Of the faces so many are chosen.
_SHARE = 0.01


def main() -> None:
    report(*_smooth(), *_operations(), *_selecting(), *_solids(), *_soft())


def _grid(side: int) -> Mesh:
    """A bumpy sheet of side times side quads."""
    x, y = np.meshgrid(np.arange(side + 1.0), np.arange(side + 1.0), indexing="ij")
    n = np.arange(x.size).reshape(x.shape)
    quads = np.stack([n[:-1, :-1], n[1:, :-1], n[1:, 1:], n[:-1, 1:]], axis=2).reshape(-1, 4)
    z = np.sin(x / 9) * np.cos(y / 7) * 3
    return from_faces(np.column_stack([x.ravel(), y.ravel(), z.ravel()]), quads.astype(np.int32))


def _copied(mesh: Mesh) -> Callable[[], None]:
    """A bare pass that reads and writes the mesh's arrays."""
    t = mesh.topology
    arrays = [mesh.positions, t.corners, t.offsets, mesh.triangles]

    def copy() -> None:
        for array in arrays:
            np.array(array)

    return copy


def _done(made: object) -> None:
    """What was made is let go of."""


def _smooth() -> list[dict[str, object]]:
    cage = _grid(100)

    def built() -> None:
        topology = Topology(
            cage.topology.offsets, cage.topology.corners, cage.topology.vertex_count
        )
        sharp, peaks = sharpness(Mesh(cage.positions, topology))
        for _ in range(3):
            level = level_of(topology, sharp, peaks)
            topology, sharp, peaks = level.finer, level.sharp, level.peaks

    times = []
    for _ in range(3):
        begin = time.perf_counter()
        built()
        times.append((time.perf_counter() - begin) * 1000)
    surface_of(cage, 2)
    first = level_of(cage.topology, *sharpness(cage))
    second = level_of(first.finer, first.sharp, first.peaks)
    by = np.zeros_like(cage.positions)
    by[5000] = 0.1

    def follow() -> None:
        surface_of(cage.with_positions(cage.positions + by), 2)

    def bare() -> None:
        second.weights @ (first.weights @ (cage.positions + by))

    ours, product = in_turn(follow, bare, _ROUNDS)
    return [
        row(
            "smooth surface of 10k quads, three levels: made",
            statistics.median(times),
            None,
            "2500 ms",
        ),
        row("it follows moved vertices at level 2 (bare: sparse product)", ours, product, "2"),
    ]


def _chosen(mesh: Mesh, kind: Kind | None, seed: int = 1) -> Selection:
    """A patch of a hundredth of the mesh, in the middle of it."""
    if kind is None:
        return Selection(Kind.WHOLE, np.zeros(0, np.int32))
    t = mesh.topology
    middle = mesh.positions.mean(axis=0)
    if kind is Kind.EDGE:
        places = mesh.positions[t.edges].mean(axis=1)
    else:
        places = mesh.face_centres if kind is Kind.FACE else mesh.positions
    away = ((places - middle) ** 2).sum(axis=1)
    count = max(1, int(len(places) * _SHARE))
    return Selection(kind, np.sort(np.argpartition(away, count)[:count]).astype(np.int32))


def _operations() -> list[dict[str, object]]:
    mesh = _grid(316)
    mesh.ready()
    found = []
    for name, kind in _LOCAL.items():
        operation = by_name(name)
        chosen = _chosen(mesh, kind)
        how = operation.made()

        def work(operation=operation, chosen=chosen, how=how) -> None:  # type: ignore[no-untyped-def]
            try:
                operation.run(mesh, chosen, how).mesh.triangles  # noqa: B018
            except MeshError:
                return

        ours, bare = in_turn(work, _copied(mesh), _ROUNDS)
        found.append(row(f"{name} on 100k faces, 1 % chosen (bare: a copy)", ours, bare, "10"))
    return found


def _selecting() -> list[dict[str, object]]:
    mesh = _grid(707)
    mesh.ready()
    # What is derived of the faces is there once it was asked for.
    loop(mesh.topology, np.array([5], np.int32))
    edge = np.array([500_000], np.int32)
    ours, bare = in_turn(lambda: _done(loop(mesh.topology, edge)), _copied(mesh), _ROUNDS)
    return [row("an edge loop in 500k faces (bare: a copy)", ours, bare, "16 ms")]


def _solids() -> list[dict[str, object]]:
    # About 200k triangles in all.
    one = by_name("triangulate")(make(Ball(sides=4 * 92))).mesh
    other = one.with_positions(one.positions + np.array([0.6, 0.3, 0.2]))
    other.ready()

    def bare() -> None:
        solids = []
        for mesh in (one, other):
            raw = manifold3d.Mesh64(
                vert_properties=np.array(mesh.positions),
                tri_verts=np.ascontiguousarray(mesh.triangles, np.uint64),
            )
            solids.append(manifold3d.Manifold(raw))
        whole = manifold3d.Manifold.batch_boolean(solids, manifold3d.OpType.Add)
        whole.to_mesh64()

    ours, alone = in_turn(lambda: _done(combined([one, other], "union")), bare, 5)
    count = 2 * len(one.triangles)
    return [row(f"union of {count} triangles (bare: manifold3d alone)", ours, alone, "1.3")]


def _soft() -> list[dict[str, object]]:
    mesh = _grid(447)
    chosen = np.array([100_000], np.int32)
    found = going(mesh.positions, chosen, 120.0)

    def drag() -> None:
        placed = mesh.positions[found.vertices] + found.weights[:, None] * np.array([0.1, 0.2, 0.3])
        np.asarray(placed, np.float32)

    def bare() -> None:
        np.asarray(mesh.positions + 0.1, np.float32)

    ours, one = in_turn(drag, bare, _ROUNDS)
    begun, _ = in_turn(lambda: _done(going(mesh.positions, chosen, 120.0)), bare, 5)
    return [
        row("a soft drag in 200k vertices, a move of it (bare: one pass)", ours, one, "16 ms"),
        row("the same, as it begins", begun, one, "100 ms"),
    ]


if __name__ == "__main__":
    main()

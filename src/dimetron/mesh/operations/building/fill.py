"""Close holes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.counting import counted
from dimetron.mesh.around import Chains, border_loops
from dimetron.mesh.arrays import Floats, Ints, MeshError, grid_quads
from dimetron.mesh.edited import Edited, Note
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import choice
from dimetron.mesh.replaced import (
    NO_POINTS,
    Faces,
    Points,
    Replacement,
    last_faces,
    polygons,
    replaced,
)
from dimetron.mesh.select import Kind, Selection

_WAYS = (("face", "one face"), ("fan", "fan"), ("grid", "grid of quads"))


@dataclass(frozen=True)
class Fill:
    """By what."""

    by: str = choice(
        "face",
        _WAYS,
        hint="One face, triangles around a new middle, or quads from side to side",
    )


@operation(
    "fill-holes",
    title="Fill holes",
    icon="fill",
    takes=(Kind.EDGE,),
    key="Ctrl+Shift+H",
    order=40,
    bare=True,
)
def fill_holes(mesh: Mesh, chosen: Selection, how: Fill) -> Edited:
    """Close the holes whose whole border is chosen.

    The new faces look as their neighbours do, and are selected. A grid needs an even number of
    border edges.
    """
    topology = mesh.topology
    found = border_loops(topology, chosen.indices)
    whole = np.flatnonzero(found.closed & (found.sizes >= 3))
    if not len(whole):
        raise MeshError("There is no hole to fill: choose the edges all round one.")
    if how.by == "face":
        rings = [found.chain(int(i)) for i in whole]
        return _done(mesh, [_rings(rings)], NO_POINTS)
    if how.by == "fan":
        return _fans(mesh, found, whole)
    return _grids(mesh, found, whole)


def _rings(rings: list[Ints]) -> Faces:
    sizes = np.array([len(ring) for ring in rings], np.int32)
    vertices = np.concatenate(rings).astype(np.int32)
    return Faces(sizes, vertices, np.full(len(sizes), -1), np.full(len(vertices), -1))


def _done(mesh: Mesh, faces: list[Faces], points: Points, notes: tuple[Note, ...] = ()) -> Edited:
    done = replaced(mesh, Replacement(faces=faces, points=points)).mesh
    made = last_faces(done, sum(len(f.sizes) for f in faces))
    large = made[done.topology.sizes[made] > 4]
    if len(large):
        words = counted(len(large), "face of", "faces of")
        notes = (*notes, Note(f"{words} more than four corners closes it.", Kind.FACE, large))
    return Edited(done, Selection(Kind.FACE, made), notes)


def _fans(mesh: Mesh, found: Chains, whole: Ints) -> Edited:
    faces, middles = [], []
    for at, index in enumerate(whole.tolist()):
        ring = found.chain(index)
        middle = np.full(len(ring), mesh.topology.vertex_count + at)
        middles.append(mesh.positions[ring].mean(axis=0))
        fan = np.stack([ring, np.roll(ring, -1), middle], axis=1)
        faces.append(polygons(fan))
    first = found.items[found.offsets[whole]].astype(np.int32)
    return _done(mesh, faces, Points(np.array(middles), first))


def _grids(mesh: Mesh, found: Chains, whole: Ints) -> Edited:
    odd = [i for i in whole.tolist() if len(found.chain(i)) % 2]
    if odd:
        count = len(found.chain(odd[0]))
        raise MeshError(f"A border of {count} edges, an odd number, takes no grid of quads.")
    faces, places, like = [], [], []
    first = mesh.topology.vertex_count
    for index in whole.tolist():
        ring = found.chain(index)
        grid, inner = _grid(mesh.positions, ring, first)
        faces.append(polygons(grid_quads(grid.T)))
        places.append(inner)
        like.append(np.full(len(inner), ring[0]))
        first += len(inner)
    points = Points(np.concatenate(places), np.concatenate(like).astype(np.int32))
    return _done(mesh, faces, points)


def _grid(positions: Floats, ring: Ints, first: int) -> tuple[Ints, Floats]:
    """(r, s) vertices from side to side of a ring, its corners where it bends most, with those
    within numbered on; and where these stand: S. A. Coons, Surfaces for computer-aided design of
    space forms (1967)."""
    rows, ring = _turned(positions, ring)
    columns = len(ring) // 2 - rows
    grid = np.full((rows + 1, columns + 1), -1, np.int64)
    grid[0] = ring[: columns + 1]
    grid[:, -1] = ring[columns : columns + rows + 1]
    grid[-1, ::-1] = ring[columns + rows : 2 * columns + rows + 1]
    grid[::-1, 0] = np.append(ring[2 * columns + rows :], ring[0])
    inner = (rows - 1) * (columns - 1)
    grid[1:-1, 1:-1] = first + np.arange(inner).reshape(rows - 1, columns - 1)
    p = positions[np.where(grid < len(positions), grid, 0)]
    u, v = np.linspace(0, 1, columns + 1)[None, :, None], np.linspace(0, 1, rows + 1)[:, None, None]
    sides = p[:1] * (1 - v) + p[-1:] * v + p[:, :1] * (1 - u) + p[:, -1:] * u
    corners = (p[:1, :1] * (1 - u) + p[:1, -1:] * u) * (1 - v) + (
        p[-1:, :1] * (1 - u) + p[-1:, -1:] * u
    ) * v
    return grid, (sides - corners)[1:-1, 1:-1].reshape(-1, 3)


def _turned(positions: Floats, ring: Ints) -> tuple[int, Ints]:
    """How many edges the second side has, and the ring from a corner on: the one where the four
    corners bend most, of sides that are alike in pairs."""
    p = positions[ring]
    ahead, back = np.roll(p, -1, axis=0) - p, p - np.roll(p, 1, axis=0)
    long = np.linalg.norm(ahead, axis=1) * np.linalg.norm(back, axis=1)
    bend = 1 - (ahead * back).sum(axis=1) / np.maximum(long, 1e-12)
    count, half = len(ring), len(ring) // 2
    best, rows, start = -1.0, 1, 0
    for side in range(1, half):
        total = sum(np.roll(bend, -by) for by in (0, half - side, half, 2 * half - side))
        # Of equals the squarest.
        total = total - 1e-6 * abs(half - 2 * side)
        at = int(np.argmax(total[:half])) if count else 0
        if total[at] > best:
            best, rows, start = float(total[at]), side, at
    return rows, np.roll(ring, -start)

"""Rows of vertices brought to what is drawn: both ends of each to where its line meets the ink."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from dimetron.geometry.views import AnyView
from dimetron.mesh.around import components
from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.rings import loop
from dimetron.mesh.select import Kind, Selection, vertices_of

#: Vertices of one row stand within this share of the mesh's extent of its line.
_ONE_ROW = 0.004
#: A row shorter than this has no two ends, mm.
_LEAST_MM = 1e-6

#: Of a line in a view's plane from one place (2,) to another (2,): how far along it ink is crossed,
#: (k,) in mm from the first.
Crossings = Callable[[Floats, Floats], Floats]


@dataclass(frozen=True, slots=True, eq=False)
class Row:
    """vertices (k,); ends (2, 2): where the row's ends lie in the view's plane, before; to (2, 2):
    where they go; met: which of both met ink."""

    vertices: Ints
    ends: Floats
    to: Floats
    met: tuple[bool, bool]

    @property
    def moved(self) -> tuple[float, float]:
        """How far either end goes, mm; out is more than nothing."""
        way = self.ends[1] - self.ends[0]
        unit = way / np.linalg.norm(way)
        low, high = (self.to - self.ends) @ unit
        return -float(low), float(high)


def rows_of(mesh: Mesh, chosen: Selection, view: AnyView, upright: bool = False) -> list[Ints]:
    """What is chosen as rows (k,): edges that hang together are one; of vertices, faces, or the
    whole mesh those at one height of the view's plane (upright: at one place across it)."""
    vertices = vertices_of(mesh, chosen.kind, chosen.indices)
    if chosen.kind is Kind.EDGE:
        part = components(len(mesh.positions), mesh.topology.edges[chosen.indices])[vertices]
        return [vertices[part == k] for k in np.unique(part)]
    if not len(vertices):
        return []
    height = view.to_plane(mesh.positions[vertices])[:, 0 if upright else 1]
    order = np.argsort(height, kind="stable")
    near = _ONE_ROW * max(float(np.ptp(mesh.bounds, axis=0).max()), 1e-9)
    cuts = np.flatnonzero(np.diff(height[order]) > near) + 1
    return [np.sort(vertices[part]) for part in np.split(order, cuts)]


def row_through(mesh: Mesh, edge: int, view: AnyView) -> Ints:
    """The vertices (k,) of the row that an edge is of: what hangs together at its height, as a loop
    with all that closes it does; else the edges that go straight on from it."""
    t = mesh.topology
    plane = view.to_plane(mesh.positions)
    ends = plane[t.edges[edge]]
    over = np.abs(ends[1] - ends[0])
    # Along which axis of the pane it runs; the other one is its height.
    side = 1 if over[0] >= over[1] else 0
    near = _ONE_ROW * max(float(np.ptp(mesh.bounds, axis=0).max()), 1e-9)
    straight = np.unique(t.edges[loop(t, np.array([edge], np.int32))]).astype(np.int32)
    if over[side] > near:
        return straight
    level = np.abs(plane[:, side] - ends[:, side].mean()) <= near
    joined = t.edges[level[t.edges].all(axis=1)]
    part = components(len(plane), joined)
    row = np.flatnonzero(level & (part == part[t.edges[edge][0]])).astype(np.int32)
    wide, loop_wide = (np.ptp(plane[found, 1 - side]) for found in (row, straight))
    return row if wide >= loop_wide else straight


def fitted(
    mesh: Mesh, vertices: Ints, view: AnyView, crossings: Crossings, reach: float, outermost: bool
) -> Row | None:
    """A row with its ends where its line meets ink: the nearest stroke within ``reach`` mm of each
    end, or the outermost one. None if it has no two ends, or meets none."""
    plane = view.to_plane(mesh.positions[vertices])
    middle = plane.mean(axis=0)
    way = np.linalg.eigh((plane - middle).T @ (plane - middle))[1][:, 1]
    # From left to right, or upward.
    way = way * (1.0 if way[int(np.argmax(np.abs(way)))] > 0 else -1.0)
    along = (plane - middle) @ way
    low, high = float(along.min()), float(along.max())
    if high - low < _LEAST_MM:
        return None
    # Each end looks for ink no farther in than the middle of the row.
    found: list[float | None] = []
    for end, sign in ((low, -1.0), (high, 1.0)):
        inner = min(reach, (high - low) / 2)
        start = middle + way * (end - sign * inner)
        stop = middle + way * (end + sign * reach)
        at = np.asarray(crossings(start, stop)) - inner
        if not len(at):
            found.append(None)
            continue
        best = at.max() if outermost else at[int(np.argmin(np.abs(at)))]
        found.append(end + sign * float(best))
    if found[0] is None and found[1] is None:
        return None
    to = [low if found[0] is None else found[0], high if found[1] is None else found[1]]
    if to[1] - to[0] < _LEAST_MM:
        return None
    ends = middle + np.array([[low], [high]]) * way
    return Row(
        vertices,
        ends,
        middle + np.array([[to[0]], [to[1]]]) * way,
        (found[0] is not None, found[1] is not None),
    )


def brought(mesh: Mesh, row: Row, view: AnyView, round_: bool) -> Floats:
    """(k, 3) the row's vertices moved and scaled along its line so that its ends come to where they
    go; round_: along the line of sight as much as along the row, about its middle there."""
    points = mesh.positions[row.vertices]
    plane = view.to_plane(points)
    way = row.ends[1] - row.ends[0]
    long = float(np.linalg.norm(way))
    unit = way / long
    new_way = row.to[1] - row.to[0]
    times = float(np.linalg.norm(new_way)) / long
    along = (plane - row.ends[0]) @ unit
    off = plane - row.ends[0] - along[:, None] * unit
    placed = row.to[0] + (along * times)[:, None] * unit + off
    moved = points + view.to_world(placed) - view.to_world(plane)
    if round_:
        forward = view.directions.forward
        depth = points @ forward
        middle = (depth.min() + depth.max()) / 2
        moved = moved + np.outer((depth - middle) * (times - 1), forward)
    return np.asarray(moved)

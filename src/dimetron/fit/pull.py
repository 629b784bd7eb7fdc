"""Meshes moved so that their outlines meet what is drawn, while shape and detail are kept.

What is off along the outlines is spread over the mesh as smoothly as it goes: displacements whose
Laplacians are least, with vertices of the outline as soft constraints, anew for the outline that
comes of it. Sources: O. Sorkine et al., Laplacian surface editing, SGP 2004; A. Nealen et al., A
sketch-based interface for detail-preserving mesh editing, SIGGRAPH 2005, for silhouettes.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from dimetron.fit.line import Line
from dimetron.fit.miss import QUICK, Drawn
from dimetron.fit.modelled import Modelled, modelled
from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, Ints, Mask, MeshError
from dimetron.mesh.catmull_clark import smooth_of
from dimetron.mesh.evening import even_patch
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.patch import Patch
from dimetron.mesh.smooth_surface import surface_of
from dimetron.mesh.topology import Topology

if TYPE_CHECKING:
    from scipy.sparse import csr_matrix

#: Outlines are looked at anew so often.
_ROUNDS = 6
#: Vertices this share of the extent from the outline are of it.
_ON = 1e-6
#: How much the outline counts against smoothness, and staying where it is against both.
_OUTLINE, _STAY = 1.0, 1e-7
#: A step that turns faces over is halved so often before it is given up.
_HALVINGS = 8


@dataclass(frozen=True, eq=False)
class Part:
    """A mesh to be pulled: the cage of its surface, so many levels deep, or itself. free (n,): how
    freely each vertex moves, 0 not at all to 1; even: axes across which it stays the same on both
    sides; follows (n,): the number of the one thing wanted that each vertex follows, -1 for all."""

    mesh: Mesh
    levels: int = 0
    free: Floats | None = None
    even: tuple[str, ...] = ()
    follows: Ints | None = None

    def seen(self, positions: Floats) -> Mesh:
        """What is seen of it when its vertices are elsewhere."""
        moved = self.mesh.with_positions(positions)
        return surface_of(moved, self.levels) if self.levels else moved


@dataclass(frozen=True, eq=False)
class Wanted:
    """What is drawn in a view, and how much it counts."""

    view: AnyView
    drawn: Drawn
    trust: float = 1.0


def pulled(
    parts: Sequence[Part],
    others: Sequence[Mesh],
    wanted: Sequence[Wanted],
    progress: Callable[[float], None] = lambda share: None,
) -> tuple[Floats, ...]:
    """Where the vertices of each part go (n, 3). others: further meshes that are seen with them.
    Raises MeshError if nothing can move, or nothing of them is on the outline."""
    systems = [_System(part) for part in parts]
    if not any(len(system.free) for system in systems):
        raise MeshError("Nothing of it is free to move; select more, or take the mask away.")
    now = [part.mesh.positions for part in parts]
    for number in range(_ROUNDS):
        progress(number / _ROUNDS)
        meshes = [part.seen(positions) for part, positions in zip(parts, now, strict=True)]
        sums = _offs([*meshes, *others], wanted, systems)
        if not number and not any(s.weights.any() for s in sums):
            raise MeshError("Nothing of the mesh lies on an outline that counts.")
        now = [
            system.solved(mesh.positions, off)
            for system, mesh, off in zip(systems, meshes, sums, strict=True)
        ]
    return tuple(now)


def unturned(before: Mesh, after: Floats) -> float:
    """How far of the way to places (n, 3) a mesh can go without a face turning over: a share."""
    normals, there = before.face_normals, np.linalg.norm(before.face_normals, axis=1) > 0
    share = 1.0
    for _ in range(_HALVINGS):
        moved = before.with_positions(before.positions + share * (after - before.positions))
        if not ((moved.face_normals * normals).sum(axis=1)[there] < 0).any():
            return share
        share /= 2
    return 0.0


@dataclass(frozen=True, eq=False)
class _Off:
    """Of each vertex that is seen how far (n, 3) it is off, and how much that counts along each
    axis: weights (n, 3)."""

    by: Floats
    weights: Floats


def _offs(
    meshes: Sequence[Mesh], wanted: Sequence[Wanted], systems: Sequence[_System]
) -> list[_Off]:
    """For the first of the meshes, one for each system."""
    ends = np.cumsum([len(mesh.positions) for mesh in meshes])
    by, weights = np.zeros((int(ends[-1]), 3)), np.zeros((int(ends[-1]), 3))
    outlines: dict[AnyView, Modelled] = {}
    every = np.ones(len(by) - sum(system.seen_count for system in systems))
    for number, one in enumerate(wanted):
        if one.view not in outlines:
            outlines[one.view] = modelled(meshes, one.view)
        outline = outlines[one.view]
        if not outline.loops:
            continue
        vertices, off = _along(outline, one.drawn)
        ways = np.stack([one.view.directions.right, one.view.directions.up])
        follow = np.concatenate([*(system.following(number) for system in systems), every])
        counts = one.trust * (ways**2).sum(axis=0) * follow[vertices, None]
        by[vertices] += (off @ ways) * counts
        weights[vertices] += counts
    by /= np.maximum(weights, 1e-12)
    starts = [0, *ends]
    parts = (slice(starts[k], starts[k + 1]) for k in range(len(systems)))
    return [_Off(by[part], weights[part]) for part in parts]


def _on_outline(outline: Modelled, drawn: Drawn) -> Ints:
    """The vertices that lie on an outline, where it counts."""
    vertices = np.unique(outline.edges)
    at = outline.plane[vertices]
    line = Line(drawn.as_drawn(outline.loops), drawn.size / QUICK)
    on = (line.nearest(at).off < _ON * drawn.size) & drawn.counts(at)
    return np.asarray(vertices[on])


def _along(outline: Modelled, drawn: Drawn) -> tuple[Ints, Floats]:
    """Vertices (k,) on an outline, and how far (k, 2) they are off what is drawn: by what is
    nearest to them, and by what they, or the edges they end, are nearest to."""
    vertices = _on_outline(outline, drawn)
    at = outline.plane[vertices]
    target = drawn.line(QUICK)
    own = target.nearest(at).places - at
    # What is drawn pulls at the ends of the edge that it is nearest to.
    places = target.points[drawn.counts(target.points)]
    edge, share = outline.nearest_edges(places)
    a, b = outline.edges[edge].T
    there = outline.plane[a] + (outline.plane[b] - outline.plane[a]) * share[:, None]
    count = len(outline.plane)
    ends, pull = np.concatenate([a, b]), np.concatenate([1 - share, share])
    way = np.tile(places - there, (2, 1)) * pull[:, None]
    total = np.bincount(ends, pull, count)[vertices]
    other = np.stack([np.bincount(ends, way[:, k], count)[vertices] for k in (0, 1)], axis=1)
    mean = other / np.maximum(total, 1e-9)[:, None]
    return vertices, np.where((total > 1e-6)[:, None], (own + mean) / 2, own)


class _System:
    """The equations of one part. free (k,): vertices that move."""

    def __init__(self, part: Part) -> None:
        self._part = part
        n = len(part.mesh.positions)
        self._freely = np.ones(n) if part.free is None else np.clip(part.free, 0.0, 1.0)
        self.free: Ints = np.flatnonzero(self._freely > 0)
        self._surface = _surface_weights(part) if part.levels else None
        self._solvers: list[Callable[[Floats], Floats]] | None = None
        self._handles: Mask = np.zeros(0, bool)

    def _begin(self, weights: Floats) -> None:
        """Vertices of the first outline are held to it from now on."""
        from scipy.sparse import diags, identity
        from scipy.sparse.linalg import splu

        self._weights = weights * _OUTLINE
        self._handles = np.asarray(weights.any(axis=1))
        self._wanted = np.zeros((len(weights), 3))
        laplacian = _laplacian(self._part.mesh.topology)[:, self.free]
        # What is masked in part is held back.
        stay = _STAY + (1 - self._freely[self.free]) ** 2
        smooth = laplacian.T @ laplacian + diags(stay)
        seen = self._seen(identity(len(self._freely), format="csr")[:, self.free])
        self._columns = seen
        self._solvers = []
        for axis in range(3):
            held = diags(self._weights[:, axis])
            matrix = (smooth + seen.T @ held @ seen).tocsc()
            how = {"SymmetricMode": True}
            self._solvers.append(
                splu(matrix, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options=how).solve
            )

    @property
    def seen_count(self) -> int:
        """Of how many vertices it is seen."""
        return int(self._surface.shape[0] if self._surface is not None else len(self._freely))

    def following(self, number: int) -> Floats:
        """(m,) how much each vertex that is seen goes by what is wanted under a number, 0 to 1."""
        follows = self._part.follows
        if follows is None:
            return np.ones(self.seen_count)
        cage = ((follows < 0) | (follows == number)).astype(np.float64)
        return cage if self._surface is None else np.asarray(self._surface @ cage)

    def _seen(self, cage: csr_matrix) -> csr_matrix:
        return cage if self._surface is None else self._surface @ cage

    def solved(self, seen: Floats, off: _Off) -> Floats:
        """Where the vertices go when what is seen of them, now at (m, 3), is so far off."""
        before = self._part.mesh.positions
        if self._solvers is None:
            if not off.weights.any() or not len(self.free):
                return before
            self._begin(off.weights)
        assert self._solvers is not None
        first = before if self._surface is None else self._surface @ before
        known = self._handles & off.weights.any(axis=1)
        self._wanted[known] = seen[known] + off.by[known] - first[known]
        moved = before.copy()
        for axis, solve in enumerate(self._solvers):
            side = self._columns.T @ (self._weights[:, axis] * self._wanted[:, axis])
            moved[self.free, axis] += solve(side)
        if not self._part.even:
            return moved
        every = np.arange(len(moved), dtype=np.int32)
        mesh = self._part.mesh
        return np.asarray(even_patch(mesh, self._part.even, Patch(every, moved)).positions)


def _surface_weights(part: Part) -> csr_matrix:
    """(m, n) the points of the surface by the cage's."""
    weights = None
    for level in smooth_of(part.mesh, part.levels).levels:
        weights = level.weights if weights is None else level.weights @ weights
    return weights


def _laplacian(topology: Topology) -> csr_matrix:
    """(n, n) each vertex less the mean of its neighbours."""
    from scipy.sparse import coo_matrix, diags, identity

    n, ends = topology.vertex_count, topology.edges
    rows = np.concatenate([ends[:, 0], ends[:, 1]])
    columns = np.concatenate([ends[:, 1], ends[:, 0]])
    joined = coo_matrix((np.ones(len(rows)), (rows, columns)), (n, n)).tocsr()
    share = 1.0 / np.maximum(np.asarray(joined.sum(axis=1)).ravel(), 1.0)
    return (identity(n) - diags(share) @ joined).tocsr()

"""Quads made of pairs of triangles."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import Floats, Ints, unit
from dimetron.mesh.dissolving import twins, without_edges
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import angle
from dimetron.mesh.select import Kind, Selection, every, none


@dataclass(frozen=True)
class Quads:
    """Which triangles may make one."""

    fold: float = angle(
        40.0, low=0.0, high=180.0, hint="Triangles that are folded by more stay triangles"
    )


@operation("quads", title="Quads", icon="quads", takes=(Kind.FACE,), order=60, bare=True)
def quads(mesh: Mesh, chosen: Selection, how: Quads) -> Edited:
    """Make quads of pairs of triangles, the most even pairs first.

    Only pairs that make a convex quad are taken.
    """
    t = mesh.topology
    twin = twins(t)
    mine = np.zeros(t.face_count, bool)
    mine[chosen.indices] = True
    mine &= t.sizes == 3
    corner = np.flatnonzero(twin >= 0)
    corner = corner[corner < twin[corner]]
    pair = np.stack([t.corner_face[corner], t.corner_face[twin[corner]]], axis=1)
    corner = corner[mine[pair].all(axis=1)]
    score, fair = _scores(mesh, corner, twin[corner], how.fold)
    corner, score = corner[fair], score[fair]
    pair = np.stack([t.corner_face[corner], t.corner_face[twin[corner]]], axis=1)
    taken = _matched(pair, score, t.face_count)
    out = np.zeros(len(t.edges), bool)
    out[t.corner_edge[corner[taken]]] = True
    done, _ = without_edges(mesh, out, np.zeros(t.vertex_count, bool))
    whole = len(chosen.indices) == t.face_count
    kept = every(done.mesh, Kind.FACE) if whole else none()
    return Edited(done.mesh, Selection(Kind.FACE, kept))


def _scores(mesh: Mesh, a: Ints, b: Ints, fold: float) -> tuple[Floats, Ints]:
    """(k,) how far from right the corners of each pair's quad are, and whether it may be one."""
    t = mesh.topology
    p = mesh.positions[t.corners]
    # Round the quad: from the edge's begin over the far side's apex to its end, and the own apex.
    ring = np.stack([a, t.previous_corner[b], t.next_corner[a], t.previous_corner[a]], axis=1)
    quad = p[ring]
    after, before = np.roll(quad, -1, axis=1) - quad, np.roll(quad, 1, axis=1) - quad
    shape = after.shape
    u, v = unit(after.reshape(-1, 3)).reshape(shape), unit(before.reshape(-1, 3)).reshape(shape)
    cosine = (u * v).sum(axis=2)
    normals = mesh.face_normals
    one, two = normals[t.corner_face[a]], normals[t.corner_face[b]]
    bend = np.degrees(np.arccos((one * two).sum(axis=1).clip(-1, 1)))
    turn = np.cross(u, v)
    convex = ((turn * (one + two)[:, None]).sum(axis=2) > 1e-9).all(axis=1)
    return np.abs(cosine).max(axis=1) + bend / 90, np.asarray(convex & (bend <= fold))


def _matched(pair: Ints, score: Floats, faces: int) -> Ints:
    """Pairs of which no face is in two: in every round those that are the best of both faces."""
    free = np.ones(faces, bool)
    there = np.arange(len(pair))
    found = []
    # Equal scores count by their place, so that each round takes at least one.
    rank = np.empty(len(pair), np.int64)
    rank[np.lexsort((there, np.round(score, 9)))] = there
    while len(there):
        best = np.full(faces, len(pair))
        for side in range(2):
            np.minimum.at(best, pair[there, side], rank[there])
        wins = (best[pair[there]] == rank[there][:, None]).all(axis=1)
        found.append(there[wins])
        free[pair[there[wins]]] = False
        there = there[free[pair[there]].all(axis=1)]
    return np.concatenate([np.zeros(0, np.int64), *found])

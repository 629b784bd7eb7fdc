"""Faces between two borders."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.around import Chains, border_loops
from dimetron.mesh.arrays import Floats, Ints, MeshError
from dimetron.mesh.edited import Edited, without_faces
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import count
from dimetron.mesh.replaced import Faces, Points, Replacement, cleaned, last_faces, replaced
from dimetron.mesh.select import Kind, Selection


@dataclass(frozen=True)
class Bridge:
    """In how many steps, and how turned."""

    steps: int = count(1, high=200, hint="How many rows of faces between the two")
    turn: int = count(
        0, low=-10_000, high=10_000, hint="By how many vertices one border is turned further"
    )


@operation(
    "bridge", title="Bridge", icon="bridge", takes=(Kind.EDGE, Kind.FACE),
    order=45, bare=True,
)  # fmt: skip
def bridge(mesh: Mesh, chosen: Selection, how: Bridge) -> Edited:
    """Put faces between two borders, or between two groups of faces that go for it.

    Vertices are matched where they lie nearest. Borders of as many edges are joined by quads,
    others by quads and triangles. The new faces are selected.
    """
    edges = chosen.indices
    if chosen.kind is Kind.FACE:
        mesh, edges = _opened(mesh, chosen.indices)
    found = border_loops(mesh.topology, edges)
    if len(found) != 2 or found.closed[0] != found.closed[1]:
        raise MeshError(f"A bridge needs two borders of one kind; {_counted(found)}.")
    a, b = found.chain(0), found.chain(1)[::-1]
    if len(a) < len(b):
        a, b = b[::-1], a[::-1]
    closed = bool(found.closed[0])
    if closed:
        b = _nearest(mesh.positions, a, b, how.turn)
    at = _matched(len(a), len(b), closed)
    return _done(mesh, a, b, at, how.steps, closed)


def _opened(mesh: Mesh, faces: Ints) -> tuple[Mesh, Ints]:
    """Without the faces, and the edges of the holes they leave."""
    t = mesh.topology
    corners = t.corners_of(faces)
    edge = t.corner_edge[corners]
    rim = t.edges[edge[np.bincount(edge, minlength=len(t.edges))[edge] == 1]]
    done = without_faces(mesh, faces).mesh
    used = np.zeros(t.vertex_count, bool)
    stays = np.ones(t.face_count, bool)
    stays[faces] = False
    used[t.corners[stays[t.corner_face]]] = True
    new = np.cumsum(used) - 1
    rim = rim[used[rim].all(axis=1)]
    found = done.topology.edge_between(*new[rim].T)
    return done, found[found >= 0]


def _counted(found: Chains) -> str:
    if not len(found):
        return "choose the edges of two borders, or two groups of faces"
    if len(found) == 1:
        return "there is one"
    return "one of them is open" if len(found) == 2 else f"there are {len(found)}"


def _nearest(positions: Floats, a: Ints, b: Ints, turn: int) -> Ints:
    """b (m,) turned so that its vertices lie nearest to those of a (n,), n >= m: of all turns the
    one of which the products, as a correlation by Fourier's transform, sum to most."""
    p, q = positions[a], positions[b]
    p, q = p - p.mean(axis=0), q - q.mean(axis=0)
    even = p[_matched(len(a), len(b), True, first=True)]
    spectrum = np.fft.rfft(q, axis=0) * np.conj(np.fft.rfft(even, axis=0))
    match = np.fft.irfft(spectrum, n=len(b), axis=0).sum(axis=1)
    # Of turns that are as good the smallest.
    best = int(np.argmax(match > match.max() - 1e-9 * max(float(np.abs(match).max()), 1.0)))
    return np.roll(b, -(best + turn))


def _matched(n: int, m: int, closed: bool, first: bool = False) -> Ints:
    """(n,) which of m vertices each of n meets, evenly; first: (m,) the other way round."""
    ends = 0 if closed else 1
    if first:
        return np.asarray(np.arange(m) * n // m)
    if m <= ends:
        return np.zeros(n, np.int64)
    share = np.arange(n) * ((m - ends) / max(n - ends, 1))
    return np.asarray(np.floor(share + 0.5 - 1e-9).astype(np.int64))


def _done(mesh: Mesh, a: Ints, b: Ints, at: Ints, steps: int, closed: bool) -> Edited:
    """Rows of vertices between a (n,) and b (m,), which a's meet at ``at`` (n,)."""
    n = mesh.topology.vertex_count
    at = at % len(b) if closed else at.clip(0, len(b) - 1)
    far = b[at]
    share = (np.arange(1, steps) / steps)[:, None]
    p, q = mesh.positions[a], mesh.positions[far]
    inner = p[None] * (1 - share[..., None]) + q[None] * share[..., None]
    points = Points(
        inner.reshape(-1, 3),
        np.tile(a, steps - 1).astype(np.int32),
        np.tile(far, steps - 1).astype(np.int32),
        np.repeat(share.ravel(), len(a)),
    )
    new = n + np.arange((steps - 1) * len(a)).reshape(steps - 1, len(a))
    rows = np.concatenate([a[None], new, far[None]])
    low, high = rows[:-1], rows[1:]
    after_low, after_high = np.roll(low, -1, axis=1), np.roll(high, -1, axis=1)
    quads = np.stack([low, after_low, after_high, high], axis=2)
    if not closed:
        quads = quads[:, :-1]
    flat = quads.reshape(-1).astype(np.int32)
    count_ = len(flat) // 4
    none = np.full(len(flat), -1, np.int32)
    faces = cleaned(Faces(np.full(count_, 4, np.int32), flat, none[:count_], none))
    done = replaced(mesh, Replacement(faces=(faces,), points=points)).mesh
    return Edited(done, Selection(Kind.FACE, last_faces(done, len(faces.sizes))))

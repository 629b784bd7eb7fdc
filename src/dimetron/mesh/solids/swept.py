"""A section swept along a line, and sections skinned one after the other.

Source of the frames: W. Wang et al., Computation of rotation minimizing frames, ACM Transactions on
Graphics 27 (2008), double reflection.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.mesh.arrays import Floats, MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.solids.rings import assembled, skin


def swept(
    spine: Floats,
    section: Floats,
    sizes: Floats,
    closed: bool = False,
    capped: bool = True,
) -> Mesh:
    """A section (m, 2) carried along a line (n, 3), square to it and without twist; sizes (n,): how
    many times as large it is at each place; closed: the line is a ring. Raises MeshError."""
    if len(spine) < 2 or len(section) < 3:
        raise MeshError("Sweeping needs a line to go along and a section with three points.")
    if not (np.asarray(sizes) > 0).all():
        raise MeshError("The radius must be more than nothing all along.")
    ways = _directions(spine, closed)
    side = _frames(spine, ways, closed)
    up = np.cross(ways, side)
    ring = (section[None, :, :1] * side[:, None] + section[None, :, 1:] * up[:, None]) * np.asarray(
        sizes
    )[:, None, None]
    points = (spine[:, None] + ring).reshape(-1, 3)
    n, m = len(spine), len(section)
    caps = []
    if capped and not closed:
        caps = [list(range(m))[::-1], list(range((n - 1) * m, n * m))]
    return assembled(points, [skin(n, m, True, closed)], caps)


def _directions(spine: Floats, closed: bool) -> Floats:
    if closed:
        ways = np.roll(spine, -1, axis=0) - np.roll(spine, 1, axis=0)
    else:
        ways = np.gradient(spine, axis=0)
    long = np.linalg.norm(ways, axis=1, keepdims=True)
    if (long <= 0).any():
        raise MeshError("The line to sweep along turns back on itself.")
    return np.asarray(ways / long)


def _frames(spine: Floats, ways: Floats, closed: bool) -> Floats:
    """(n, 3) a direction square to the line at each place, turned no more than the line turns."""
    guide = np.eye(3)[int(np.argmin(np.abs(ways[0])))]
    first = np.cross(ways[0], guide)
    side = np.empty_like(spine)
    side[0] = first / np.linalg.norm(first)
    for k in range(len(spine) - 1):
        step = spine[k + 1] - spine[k]
        square = max(float(step @ step), 1e-30)
        mirrored = side[k] - 2 / square * float(step @ side[k]) * step
        way = ways[k] - 2 / square * float(step @ ways[k]) * step
        off = ways[k + 1] - way
        again = max(float(off @ off), 1e-30)
        side[k + 1] = mirrored - 2 / again * float(off @ mirrored) * off
        side[k + 1] /= np.linalg.norm(side[k + 1])
    if closed:
        side = _closed_up(spine, ways, side)
    return side


def _closed_up(spine: Floats, ways: Floats, side: Floats) -> Floats:
    """What is missing to the first direction after a round is spread over all of it."""
    up = np.cross(ways, side)
    last = side[-1] - (side[-1] @ ways[0]) * ways[0]
    short = float(np.arctan2(-last @ up[0], last @ side[0]))
    turn = short * np.arange(len(spine)) / len(spine)
    return np.asarray(np.cos(turn)[:, None] * side + np.sin(turn)[:, None] * up)


def skinned(sections: Sequence[Floats], rows: int = 1, capped: bool = True) -> Mesh:
    """A skin over closed sections (m, 3) with as many points each, in order; rows: of quads between
    two of them. Raises MeshError."""
    if len(sections) < 2:
        raise MeshError("Skinning needs two sections at least.")
    rings = [sections[0]]
    for section in sections[1:]:
        turned_to = _aligned(rings[-1], section)
        start = rings[-1]
        rings.extend(start + (turned_to - start) * (k + 1) / rows for k in range(rows))
    n, m = len(rings), len(rings[0])
    caps = [list(range(m))[::-1], list(range((n - 1) * m, n * m))] if capped else []
    return assembled(np.concatenate(rings), [skin(n, m)], caps)


def _aligned(before: Floats, ring: Floats) -> Floats:
    """A ring begun where it lies nearest to the one before, running the same way."""
    best, least = ring, np.inf
    at = before - before.mean(axis=0)
    for way in (ring, ring[::-1]):
        centred = way - way.mean(axis=0)
        # By how much it must be shifted: the largest of the circular correlations.
        waves = np.conj(np.fft.rfft(at, axis=0)) * np.fft.rfft(centred, axis=0)
        alike = np.fft.irfft(waves.sum(axis=1), len(ring))
        shift = int(np.argmax(alike))
        off = float(((np.roll(centred, -shift, axis=0) - at) ** 2).sum())
        if off < least:
            best, least = np.roll(way, -shift, axis=0), off
    return best


def evenly(points: Floats, count: int, closed: bool) -> Floats:
    """(count, k) places along a polyline at equal distances."""
    whole = np.concatenate([points, points[:1]]) if closed else points
    long = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(whole, axis=0), axis=1))])
    at = np.linspace(0.0, long[-1], count, endpoint=not closed)
    return np.stack([np.interp(at, long, whole[:, k]) for k in range(whole.shape[1])], axis=1)

"""Rounded corners: quads where several bands meet, that carry on the bands' roundness.

Between k sides of an even number of segments lie k grids of quads round a middle. Their vertices
stand so that the sum of squares of what each is off its neighbours' mean is least, where the bands
beyond the rim count as neighbours: L. Kobbelt et al., Interactive multi-resolution modeling on
arbitrary meshes, SIGGRAPH 1998.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from dimetron.mesh.arrays import Floats, Ints, unit


class _Net:
    """Numbers of what lies between k sides of n segments: the rim first, k n, then what is within.
    quads (q, 4); grids (k, h + 1, h + 1) with h = n / 2."""

    def __init__(self, k: int, n: int) -> None:
        h = n // 2
        self.k, self.n, rim = k, n, k * n
        side = np.arange(k)
        spokes = np.full((k, h + 1), -1)
        spokes[:, 0] = side * n + h
        spokes[:, 1:h] = rim + 1 + np.arange(k * (h - 1)).reshape(k, h - 1)
        spokes[:, h] = rim
        inner = k * (h - 1) ** 2
        grids = np.full((k, h + 1, h + 1), -1)
        after = (side + 1) % k
        steps = np.arange(h + 1)
        # From the corner at the end of each side: back along it, and on along the next one.
        grids[:, :, 0] = (side[:, None] * n + n - steps) % rim
        grids[:, 0, :] = after[:, None] * n + steps
        grids[:, h, :] = spokes
        grids[:, :, h] = spokes[after]
        first = rim + 1 + k * (h - 1)
        grids[:, 1:h, 1:h] = first + np.arange(inner).reshape(k, h - 1, h - 1)
        self.count = first + inner
        cells = [grids[:, 1:, :-1], grids[:, :-1, :-1], grids[:, :-1, 1:], grids[:, 1:, 1:]]
        self.quads = np.stack(cells, axis=-1).reshape(-1, 4)

    def placing(self) -> Floats:
        """(inner, 2 rim + k) where what is within stands, by the rim and what lies beyond it: one
        point for each of the rim's, and a second one at its corners."""
        rim, k, n = self.k * self.n, self.k, self.n
        corners = np.arange(k) * n
        beyond = self.count + np.arange(rim + k)
        pairs = np.concatenate([self.quads, np.roll(self.quads, -1, axis=1)]).reshape(2, -1).T
        pairs = np.unique(np.sort(pairs, axis=1), axis=0)
        outward = np.stack([np.concatenate([np.arange(rim), corners]), beyond], axis=1)
        pairs = np.concatenate([pairs, outward])
        off = np.zeros((self.count, self.count + rim + k))
        for a, b in ((0, 1), (1, 0)):
            mine = pairs[:, a] < self.count
            off[pairs[mine, a], pairs[mine, b]] = -1.0
        off /= -off.sum(axis=1, keepdims=True)
        off[np.arange(self.count), np.arange(self.count)] = 1.0
        within = np.zeros(off.shape[1], bool)
        within[rim : self.count] = True
        return np.asarray(-np.linalg.lstsq(off[:, within], off[:, ~within], rcond=None)[0])


@lru_cache(maxsize=16)
def _net(k: int, n: int) -> tuple[_Net, Floats]:
    net = _Net(k, n)
    return net, net.placing()


def rounded(sides: Ints, far: Ints, places: Floats, first: int) -> tuple[Ints, Floats]:
    """Quads (m, q, 4) of m corners between k sides of n segments each, whose vertices sides (m, k,
    n + 1) run round the corner, and places (m, p, 3) of their new vertices, numbered from ``first``
    on. far: those at the bands' other ends; places (v, 3): where all of them stand."""
    m, k, wide = sides.shape
    n = wide - 1
    net, placing = _net(k, n)
    rim = sides[:, :, :-1].reshape(m, -1)
    at, to = places[sides], places[far]
    step = np.linalg.norm(np.diff(at, axis=2), axis=3).mean(axis=(1, 2))
    beyond = at + unit(to - at) * step[:, None, None, None]
    # At each corner the band of the side that begins there, then that of the one that ends there.
    outer = np.concatenate(
        [beyond[:, :, :-1].reshape(m, -1, 3), np.roll(beyond[:, :, -1], 1, axis=1)], axis=1
    )
    known = np.concatenate([places[rim], outer], axis=1)
    made = np.einsum("ij,mjc->mic", placing, known)
    count = net.count - k * n
    new = first + np.arange(m * count).reshape(m, count)
    names = np.concatenate([rim, new], axis=1)
    return names[:, net.quads], made

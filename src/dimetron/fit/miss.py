"""How far the outline of what is modelled lies off the outline of what is drawn."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from dimetron.fit.figures import kept_within, mean_of
from dimetron.fit.line import Line, evened, outer, size_of, upright
from dimetron.mesh.arrays import Floats, Mask, MeshError
from dimetron.mesh.solids.manifolds import joined_section
from dimetron.mesh.solids.within import counter
from dimetron.outlines.meets import inside

#: Outlines are looked at in so many places along their larger extent; where it is to be quick.
FINE, QUICK = 2000, 300
#: Where two lines are nearer to each other than twice so many pens, nothing is seen between them.
_NOTCH = 1.5
#: And what is narrower than twice so many is a line that leads outward, not a part.
_SPUR = 0.5
#: A miss is drawn longer than it is up to this share of the extent.
_LONG = 0.08


class Drawn:
    """What is drawn of something in a view's plane: loops, closed polygons (n, 2) in mm, one within
    another is a hole. pierced: holes count; else what lies within is solid. left_out: polygons
    (n, 2) in which nothing counts, drawn or modelled. pen: how wide its lines are, mm; notches and
    spurs that are about as narrow do not show in it, and count neither here nor there. Raises
    MeshError if it encloses nothing."""

    def __init__(
        self,
        loops: Sequence[Floats],
        pierced: bool = False,
        left_out: Sequence[Floats] = (),
        pen: float = 0.0,
    ) -> None:
        self.pierced, self._pen = pierced, pen
        self.loops = self.as_drawn(upright(loops))
        self.left_out = tuple(np.asarray(part, np.float64) for part in left_out)
        self.size = size_of(self.loops)
        self._lines: dict[int, Line] = {}

    def as_drawn(self, loops: Sequence[Floats]) -> tuple[Floats, ...]:
        """Loops as far as a drawing as this one shows them."""
        found = tuple(loops) if self.pierced else outer(loops)
        return evened(found, _NOTCH * self._pen, _SPUR * self._pen) if self._pen > 0 else found

    def line(self, fine: int) -> Line:
        """Its outline in so many places along the larger extent."""
        if fine not in self._lines:
            self._lines[fine] = Line(self.loops, self.size / fine)
        return self._lines[fine]

    def counts(self, places: Floats) -> Mask:
        """(n,) which places (n, 2) do not lie in a part that is left out."""
        kept = np.ones(len(places), bool)
        for part in self.left_out:
            kept &= ~inside(part, places)
        return kept


@dataclass(frozen=True, eq=False)
class Off:
    """Places (n, 2) along an outline, what of the other outline is nearest (n, 2), how far off (n,)
    mm: positive where what is modelled stands out beyond what is drawn, negative where it falls
    short; weights (n,): mm of the outline that each speaks for."""

    places: Floats
    nearest: Floats
    off: Floats
    weights: Floats


@dataclass(frozen=True, eq=False)
class Areas:
    """mm² of what is modelled beyond what is drawn, of what it falls short by, and common to
    both; by what both have together."""

    over: float
    short: float
    common: float


@dataclass(frozen=True, eq=False)
class Miss:
    """modelled, drawn: along either outline."""

    modelled: Off
    drawn: Off
    of: Drawn
    loops: tuple[Floats, ...]

    @cached_property
    def _all(self) -> tuple[Floats, Floats]:
        off = np.abs(np.concatenate([self.modelled.off, self.drawn.off]))
        return off, np.concatenate([self.modelled.weights, self.drawn.weights])

    @property
    def mean(self) -> float:
        """mm, by length over both outlines together."""
        return mean_of(*self._all)

    @property
    def p95(self) -> float:
        """mm that 95 % of both outlines keep within."""
        return kept_within(*self._all, 0.95)

    @property
    def largest(self) -> float:
        """mm, both ways."""
        return float(self._all[0].max())

    @property
    def at(self) -> Floats:
        """(2,) of what is modelled, where that lies farthest from what is drawn."""
        return np.asarray(self.modelled.places[int(np.abs(self.modelled.off).argmax())])

    @cached_property
    def worst(self) -> tuple[Floats, Floats, float]:
        """(2,), (2,) the places drawn and modelled where they lie farthest apart, and by how much:
        positive where what is modelled stands out."""
        one, other = (int(np.abs(part.off).argmax()) for part in (self.modelled, self.drawn))
        a, b = self.modelled, self.drawn
        if abs(a.off[one]) >= abs(b.off[other]):
            return a.nearest[one], a.places[one], float(a.off[one])
        return b.places[other], b.nearest[other], float(b.off[other])

    @cached_property
    def areas(self) -> Areas:
        """What of one the other does not cover."""
        drawn, modelled = joined_section(self.of.loops), joined_section(self.loops)
        for part in self.of.left_out:
            cut = joined_section([counter(part)])
            drawn, modelled = drawn - cut, modelled - cut
        both, joint = (drawn ^ modelled).area(), (drawn + modelled).area()
        over, short = (modelled - drawn).area(), (drawn - modelled).area()
        return Areas(over, short, both / joint if joint > 0 else 0.0)


def lengthened(begin: Floats, end: Floats, times: float, size: float) -> Floats:
    """(n, 2) where ways from places (n, 2) to others end when they are drawn ``times`` as long: but
    what is far off, for something of this size, is drawn no longer than it is."""
    long = np.hypot(*(end - begin).T)
    most = np.maximum(_LONG * size / np.maximum(long, 1e-12), 1.0)
    return np.asarray(begin + np.minimum(times, most)[:, None] * (end - begin))


def missed(loops: Sequence[Floats], drawn: Drawn, fine: int = FINE) -> Miss:
    """How far an outline of loops, closed polygons (n, 2) with holes the other way round, misses
    what is drawn. Raises MeshError if there is none, or all of either is left out."""
    if not loops:
        raise MeshError("Nothing of the mesh is seen here; show a mesh with faces.")
    mine = drawn.as_drawn(loops)
    theirs, own = drawn.line(fine), Line(mine, max(size_of(mine), drawn.size) / fine)
    one = _off(own, theirs, drawn, out=1.0)
    other = _off(theirs, own, drawn, out=-1.0)
    if not len(one.off) or not len(other.off):
        raise MeshError("All of it is left out here; let a part of the drawing count.")
    return Miss(one, other, drawn, mine)


def _off(line: Line, other: Line, drawn: Drawn, out: float) -> Off:
    """Along a line; out: the sign of places outside what the other one encloses."""
    near = other.nearest(line.points)
    kept = drawn.counts(line.points)
    off = np.where(near.within, -out, out) * near.off
    return Off(line.points[kept], near.places[kept], off[kept], line.weights[kept])

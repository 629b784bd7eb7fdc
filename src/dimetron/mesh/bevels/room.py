"""How wide bands can be before they use up the faces beside them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import Floats, Ints, unit
from dimetron.mesh.bevels.plan import Around, Plan

#: Of the width at which an edge of a face would be gone, so much is taken at most.
_MOST = 0.999


@dataclass(frozen=True, eq=False)
class Room:
    """width: the widest there can be; edges (k,) that end before a width each of widths (k,)."""

    width: float
    edges: Ints
    widths: Floats

    def short_of(self, width: float) -> Ints:
        """The edges that would be gone, rising."""
        return np.unique(self.edges[self.widths < width]).astype(np.int32)


def room(around: Around, plan: Plan) -> Room:
    """At which width no edge of a face is used up."""
    t, p = around.t, around.mesh.positions
    near = np.zeros(t.face_count, bool)
    near[t.corner_face[around.corners]] = True
    corners = np.flatnonzero(near[t.corner_face])
    after = t.next_corner[corners]
    way = p[t.corners[after]] - p[t.corners[corners]]
    long = np.linalg.norm(way, axis=1)
    shorter = ((plan.rates(corners, plan.last) - plan.rates(after, plan.first)) * unit(way)).sum(1)
    tight = shorter > 1e-9
    widths = long[tight] / shorter[tight]
    most = float(widths.min(initial=np.inf)) * _MOST
    return Room(most, t.corner_edge[corners[tight]], widths)

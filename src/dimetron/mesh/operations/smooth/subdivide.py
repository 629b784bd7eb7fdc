"""Catmull-Clark subdivision."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from dimetron.mesh.catmull_clark import Level, as_crease, matrix, smooth_of
from dimetron.mesh.edited import Edited, Origin, rebuilt
from dimetron.mesh.layers import CREASE, PEAK
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import count
from dimetron.mesh.select import Selection
from dimetron.mesh.topology import Topology

if TYPE_CHECKING:
    from scipy.sparse import csr_matrix


@dataclass(frozen=True)
class Subdivide:
    """How often."""

    levels: int = count(1, high=6, hint="How often each face is divided")


@operation("subdivide", title="Subdivide", icon="circle-dotted", key="U", order=10)
def subdivide(mesh: Mesh, chosen: Selection, how: Subdivide) -> Edited:
    """Divide every face into quads that lie on a smooth surface (Catmull-Clark).

    Border edges follow the cubic spline's rule. A crease of one stays sharp; a lesser one is sharp
    for some levels and then smooth. Sources: see ``dimetron.mesh.catmull_clark``.
    """
    done = Edited(mesh, chosen)
    for level in smooth_of(mesh, how.levels).levels:
        done = _refined(done.mesh, level, done.selection)
    return done


def _refined(mesh: Mesh, level: Level, chosen: Selection) -> Edited:
    t = level.before
    origin = Origin(level.weights, t.corner_face, _corner_weights(t), level.edges)
    done = rebuilt(mesh, level.weights @ mesh.positions, level.finer, origin, chosen)
    made = done.mesh
    for name, left in ((CREASE, level.sharp), (PEAK, level.peaks)):
        if name in made.layers:
            values = as_crease(left).astype(made.layers[name].values.dtype)
            made = made.with_layer(name, made.layers[name].with_values(values))
    return Edited(made, done.selection)


def _corner_weights(t: Topology) -> csr_matrix:
    """(4c, c) how the new corners lie between the old ones of their face."""
    c = len(t.corners)
    own = np.arange(c)
    before = np.empty(c, np.int64)
    before[t.next_corner] = own
    size = t.sizes[t.corner_face]
    mates = t.corners_of(t.corner_face)
    rows = [4 * own, *[4 * own + 1] * 2, np.repeat(4 * own + 2, size), *[4 * own + 3] * 2]
    columns = [own, own, t.next_corner, mates, own, before]
    half = np.full(c, 0.5)
    weights = [np.ones(c), half, half, np.repeat(1.0 / size, size), half, half]
    places = np.concatenate(rows), np.concatenate(columns)
    return matrix(np.concatenate(weights), *places, (4 * c, c))

"""Swept: a round section, or another outline, carried along an outline."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.document.making import Maker
from dimetron.document.outline import Outline, closed_polygons, whole_paths
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import count, length
from dimetron.mesh.solids.swept import evenly, swept
from dimetron.outlines.path import sampled


@dataclass(frozen=True)
class Swept:
    """How wide at both ends, and in how many quads."""

    begin: float = length(8.0, low=0.0, title="radius, begin", hint="Where the outline begins")
    end: float = length(8.0, low=0.0, title="radius, end", hint="Where it ends")
    rows: int = count(32, low=1, high=2000, hint="Quads along")
    sides: int = count(16, low=3, high=720, hint="Quads around")


def make(outlines: Sequence[Outline], how: Swept) -> Mesh:
    """The first outline is the way; a second one, closed, is the section. Raises MeshError."""
    way = outlines[0]
    path = whole_paths(way)[0]
    line = sampled(path, 1e-3 * float(np.ptp(path.points, axis=0).max()))
    places = evenly(line, how.rows + (0 if path.closed else 1), path.closed)
    spine = way.view.to_world(places, way.depth)
    turn = np.linspace(0, 2 * np.pi, how.sides, endpoint=False)
    section = np.stack([np.cos(turn), np.sin(turn)], axis=1)
    if len(outlines) > 1:
        loop = evenly(closed_polygons(outlines[1])[0], how.sides, True)
        middle = (loop.min(axis=0) + loop.max(axis=0)) / 2
        section = (loop - middle) / (float(np.ptp(loop, axis=0).max()) / 2)
    sizes = np.linspace(how.begin, how.end, len(spine))
    return swept(spine, section, sizes, path.closed)


MAKER = Maker(
    "swept", "Swept", "A round section, or a second outline, carried along the first.", "line", 30,
    (1, 2), Swept, make,
)  # fmt: skip

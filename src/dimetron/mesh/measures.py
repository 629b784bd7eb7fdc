"""What is selected, measured: how long, how large, how far apart."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from dimetron.mesh.health import face_areas
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.rings import lengths
from dimetron.mesh.select import Kind, Selection


class Measure(NamedTuple):
    """mm of a length, mm2 of an area (area true)."""

    value: float
    area: bool = False


def measured(mesh: Mesh, chosen: Selection) -> Measure | None:
    """Of edges how long they are together, of faces their area, of two vertices how far apart they
    stand; None of anything else."""
    if not len(chosen.indices):
        return None
    if chosen.kind is Kind.EDGE:
        return Measure(float(lengths(mesh.positions, mesh.topology, chosen.indices).sum()))
    if chosen.kind is Kind.FACE:
        return Measure(float(face_areas(mesh)[chosen.indices].sum()), area=True)
    if chosen.kind is Kind.VERTEX and len(chosen.indices) == 2:
        a, b = mesh.positions[chosen.indices]
        return Measure(float(np.linalg.norm(b - a)))
    return None

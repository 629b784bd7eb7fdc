"""Edges and vertices that stay sharp on the smooth surface."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.edited import Edited
from dimetron.mesh.layers import CREASE, PEAK, Layer, On
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import number
from dimetron.mesh.select import Kind, Selection


@dataclass(frozen=True)
class Crease:
    """How sharp."""

    sharp: float = number(
        1.0, low=0.0, high=1.0, hint="1: sharp however fine; less: rounder; 0: smooth again"
    )


@operation("crease", title="Crease", icon="crease", takes=(Kind.EDGE, Kind.VERTEX), order=20)
def crease(mesh: Mesh, chosen: Selection, how: Crease) -> Edited:
    """Let edges or vertices stay sharp where the surface is made smooth."""
    on, name = (On.EDGE, CREASE) if chosen.kind is Kind.EDGE else (On.VERTEX, PEAK)
    known = mesh.layers.get(name)
    if known is None or known.on is not on:
        known = Layer(on, np.zeros(mesh.count(on), np.float32))
    values = known.values.copy()
    values[chosen.indices] = how.sharp
    return Edited(mesh.with_layer(name, known.with_values(values)), chosen)

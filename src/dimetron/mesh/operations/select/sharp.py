"""Edges that turn."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import angle
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.select_words import turns


@dataclass(frozen=True)
class Sharp:
    """How sharp."""

    least: float = angle(
        30.0, low=0.0, high=180.0, hint="Edges at which faces turn by this much or more"
    )


@operation("sharp", title="Sharp", icon="sel-sharp", order=40, bare=True)
def sharp(mesh: Mesh, chosen: Selection, how: Sharp) -> Edited:
    """Select the edges at which the surface turns sharply."""
    found = np.flatnonzero(turns(mesh) >= how.least)
    if not len(found):
        raise MeshError(f"No edge turns by {how.least:g}° or more.")
    return Edited(mesh, Selection(Kind.EDGE, found.astype(np.int32)))

"""Colours of vertices as other programs know them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from dimetron.mesh.layers import COLOUR, On
from dimetron.mesh.mesh import Mesh


def vertex_colours(mesh: Mesh) -> NDArray[np.uint8] | None:
    """(n, 4) red, green, blue and opacity, 0 to 255; None if its vertices have none."""
    layer = mesh.layers.get(COLOUR)
    if layer is None or layer.on is not On.VERTEX or layer.values.shape[1:] != (4,):
        return None
    return np.asarray(np.rint(np.clip(layer.values, 0, 1) * 255), np.uint8)

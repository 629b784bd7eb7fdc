"""Named values on the vertices, edges, faces or corners of a mesh."""

from __future__ import annotations

import enum
from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import TYPE_CHECKING, Any, TypeAlias

import numpy as np
from numpy.typing import NDArray

from dimetron.mesh.arrays import Ints, freeze

if TYPE_CHECKING:
    from scipy.sparse import csr_matrix  # takes a while; only some operations need it

#: How sharp an edge stays when the surface is made smooth, 0 to 1 (for ever); float32 on edges.
CREASE = "crease"
#: The same of a vertex; float32 on vertices.
PEAK = "peak"
#: How much of a change is kept away from a vertex, 0 to 1; float32 on vertices.
MASK = "mask"
#: Red, green, blue and opacity, 0 to 1; float32 (n, 4) on vertices.
COLOUR = "colour"
#: Texture coordinates, (0, 0) at the picture's lower left; float32 (c, 2) on corners.
UV = "uv"
#: Whether a face is hidden on the board; uint8 on faces.
HIDDEN = "hidden"
#: Which of the layer's names a face bears; int32 on faces.
GROUP, MATERIAL = "group", "material"


class On(enum.Enum):
    """The elements of a mesh that a layer lies on."""

    VERTEX = "vertex"
    EDGE = "edge"
    FACE = "face"
    CORNER = "corner"


@dataclass(frozen=True, eq=False, slots=True)
class Layer:
    """values (n,) or (n, k), one for each element it lies on; default: of elements that come from
    none; names: what whole numbers count through."""

    on: On
    values: NDArray[Any]
    default: float = 0.0
    names: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        freeze(self.values)

    def with_values(self, values: NDArray[Any]) -> Layer:
        """The same layer with other values."""
        return Layer(self.on, values, self.default, self.names)

    def taken(self, source: Source) -> Layer:
        """The layer on elements that come from others."""
        if not len(self.values):
            shape = (source.shape[0], *self.values.shape[1:])
            return self.with_values(np.full(shape, self.default, self.values.dtype))
        if not isinstance(source, np.ndarray):
            return self.with_values(self._mixed(source))
        values = self.values[source]
        values[source < 0] = self.default
        return self.with_values(values)

    def _mixed(self, weights: csr_matrix) -> NDArray[Any]:
        if self.values.dtype.kind == "f":
            return np.asarray(weights @ self.values).astype(self.values.dtype)
        # Whole numbers stand for something; that of the greatest part counts.
        leader = np.asarray(weights.argmax(axis=1)).ravel()
        return np.asarray(self.values[leader])


Layers = Mapping[str, Layer]
#: For each new element the old one it comes from (-1: none); or weights (n', n) where it is mixed
#: of several.
Source: TypeAlias = "Ints | csr_matrix"


def layers(**named: Layer) -> Layers:
    """Layers by name, not to be changed."""
    return MappingProxyType(named)

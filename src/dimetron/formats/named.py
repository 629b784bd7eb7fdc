"""A mesh with its name, as files hold it."""

from __future__ import annotations

from dataclasses import dataclass

from dimetron.mesh.mesh import Mesh


@dataclass(frozen=True, slots=True)
class NamedMesh:
    """A mesh and what it is called. colour: its own, "#rrggbb", or none; opacity: 0 to 1."""

    name: str
    mesh: Mesh
    colour: str = ""
    opacity: float = 1.0

    @property
    def rgba(self) -> tuple[float, float, float, float] | None:
        """Its own colour, components 0 to 1, as it is seen; None if it has none."""
        if not self.colour:
            return None
        red, green, blue = (int(self.colour[i : i + 2], 16) / 255 for i in (1, 3, 5))
        return red, green, blue, self.opacity

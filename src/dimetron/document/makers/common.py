"""Common: the largest solid that outlines of several views allow."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dimetron.document.making import Maker
from dimetron.document.outline import Outline, closed_polygons
from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.parameters import choice, length
from dimetron.mesh.solids.common import common
from dimetron.mesh.solids.nets import even_quads
from dimetron.mesh.solids.seen import Seen


@dataclass(frozen=True)
class Common:
    """As it is cut, or as even quads."""

    faces: str = choice("cut", (("cut", "as cut"), ("quads", "even quads")), hint="Its faces")
    size: float = length(6.0, low=0.0, title="quads", hint="How large even quads are")


def make(outlines: Sequence[Outline], how: Common) -> Mesh:
    """Raises MeshError."""
    loops: dict[AnyView, list[Floats]] = {}
    for outline in outlines:
        loops.setdefault(outline.view, []).extend(closed_polygons(outline))
    seen = [Seen(view, tuple(own)) for view, own in loops.items()]
    return common(seen) if how.faces == "cut" else even_quads(seen, how.size)


MAKER = Maker(
    "common", "Common", "The largest solid that outlines of two or three views allow.",
    "layers-intersect", 50, (2, 0), Common, make,
)  # fmt: skip

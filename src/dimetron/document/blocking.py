"""A solid from the drawings' own outlines: what all of them allow."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.document.model import Document, Drawing
from dimetron.document.pictures import pyramid_of
from dimetron.imaging.pyramid import Pyramid
from dimetron.mesh.arrays import Floats, MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.seen_outline import outline_of
from dimetron.mesh.solids.common import common
from dimetron.mesh.solids.nets import even_quads
from dimetron.mesh.solids.seen import Seen, box_of
from dimetron.mesh.solids.within import signed_area
from dimetron.outlines.apart import apart
from dimetron.outlines.path import OutlineError, sampled
from dimetron.outlines.silhouette import silhouette

#: Outlines are taken as polygons that miss them by at most this share of a pixel.
_MISS_PX = 0.1
#: Quads are this share of the largest extent unless said.
_QUAD = 1 / 64


@dataclass(frozen=True, slots=True, eq=False)
class Outlined:
    """What a drawing shows of the object, in its view's plane."""

    drawing: Drawing
    seen: Seen


@dataclass(frozen=True, slots=True)
class Missed:
    """How far a mesh's outline lies from a drawing's, in mm."""

    drawing: Drawing
    mean: float
    most: float


def outlined(
    doc: Document,
    pyramids: Mapping[str, Pyramid] | None = None,
    progress: Callable[[float], None] = lambda share: None,
) -> tuple[Outlined, ...]:
    """The outlines of all placed drawings that are shown. pyramids: their pictures by id, as far
    as they are there already. Raises OutlineError, PictureError."""
    drawings = [d for d in doc.planes if doc.visible(d)] or list(doc.planes)
    found = []
    for number, drawing in enumerate(drawings):
        progress(number / len(drawings))
        pyramid = (pyramids or {}).get(drawing.id) or pyramid_of(doc, drawing)
        if pyramid is not None:
            found.append(Outlined(drawing, seen_of(drawing, pyramid)))
    if not found:
        raise OutlineError("There are no placed drawings; place them first.")
    return tuple(found)


def seen_of(drawing: Drawing, pyramid: Pyramid) -> Seen:
    """What one drawing shows. Raises OutlineError that names it."""
    try:
        paths = silhouette(pyramid)
    except OutlineError as error:
        raise OutlineError(f"{drawing.name}: {error}") from error
    place = drawing.placement
    loops = tuple(place.to_plane(sampled(path, _MISS_PX)) for path in paths)
    return Seen(drawing.view, loops)


def blocked(outlines: Sequence[Outlined], quads: bool, size: float | None = None) -> Mesh:
    """The largest solid within all outlines: as triangles, or as even quads about ``size`` mm
    large. Raises MeshError."""
    seen = [one.seen for one in outlines]
    if not quads:
        return common(seen)
    return even_quads(seen, size or quad_size(seen))


def quad_size(seen: Sequence[Seen]) -> float:
    """How large quads are unless it is said, in mm. Raises MeshError."""
    box = box_of(seen)
    return float((box[1] - box[0]).max()) * _QUAD


def missed(mesh: Mesh, outlines: Sequence[Outlined]) -> tuple[Missed, ...]:
    """How far a mesh's outline lies from each drawing's."""
    found = []
    for one in outlines:
        loops = outline_of(mesh, one.drawing.view)
        if not loops:
            raise MeshError("This mesh shows no outline.")
        away = apart(_outer(loops), _outer(one.seen.loops))
        found.append(Missed(one.drawing, float(away.mean()), float(away.max())))
    return tuple(found)


def _outer(loops: Sequence[Floats]) -> list[Floats]:
    """Loops that are no holes: those that run the way the largest one does."""
    areas = np.array([signed_area(loop) for loop in loops])
    way = np.sign(areas[int(np.argmax(np.abs(areas)))])
    return [loop for loop, area in zip(loops, areas, strict=True) if area * way > 0]

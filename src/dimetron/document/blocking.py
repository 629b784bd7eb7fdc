"""A solid from the drawings' own outlines: what all of them allow."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.document.model import Document, Drawing
from dimetron.document.outline import outlines_of, polygons, whole_paths
from dimetron.document.pictures import pyramid_of
from dimetron.geometry.views import AnyView
from dimetron.imaging.pyramid import Pyramid
from dimetron.mesh.arrays import Floats, MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.seen_outline import outline_of
from dimetron.mesh.solids.common import common
from dimetron.mesh.solids.manifolds import joined_section, section_of
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
#: Views along one line of sight, from either side.
_SAME_LINE = 1 - 1e-9


@dataclass(frozen=True, slots=True, eq=False)
class Outlined:
    """What a drawing shows of the object, in its view's plane. pierced: whether openings are marked
    in it; else what lies within its outlines is solid."""

    drawing: Drawing
    seen: Seen
    pierced: bool = False


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
    """The outlines of all placed drawings that are shown, without what outlines mark as openings.
    pyramids: their pictures by id, as far
    as they are there already. Raises OutlineError, PictureError."""
    drawings = [d for d in doc.planes if doc.visible(d)] or list(doc.planes)
    found = []
    for number, drawing in enumerate(drawings):
        progress(number / len(drawings))
        pyramid = (pyramids or {}).get(drawing.id) or pyramid_of(doc, drawing)
        if pyramid is not None:
            seen, openings = seen_of(drawing, pyramid), openings_in(doc, drawing.view)
            if openings:
                seen = _pierced(seen, openings)
            found.append(Outlined(drawing, seen, bool(openings)))
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


def openings_in(doc: Document, view: AnyView) -> list[Floats]:
    """(n, 2) closed polygons in a view's plane: the shown outlines that mark openings, of it or of
    the view from behind."""
    found = []
    for item in outlines_of(doc):
        along = float(item.view.directions.forward @ view.directions.forward)
        if item.opening and doc.visible(item) and abs(along) > _SAME_LINE:
            loops = polygons(item) if all(p.closed for p in whole_paths(item)) else ()
            found += [view.to_plane(item.view.to_world(loop, item.depth)) for loop in loops]
    return found


def _pierced(seen: Seen, openings: Sequence[Floats]) -> Seen:
    """Raises MeshError if nothing would be left."""
    section = section_of(seen.loops) - joined_section([_counter(loop) for loop in openings])
    if section.is_empty():
        raise MeshError("The openings leave nothing of a drawing; look which outlines are some.")
    return Seen(seen.view, tuple(np.asarray(loop) for loop in section.to_polygons()))


def _counter(loop: Floats) -> Floats:
    return loop if signed_area(loop) > 0 else loop[::-1]


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
        both = (loops, one.seen.loops)
        away = apart(*(both if one.pierced else map(_outer, both)))
        found.append(Missed(one.drawing, float(away.mean()), float(away.max())))
    return tuple(found)


def _outer(loops: Sequence[Floats]) -> list[Floats]:
    """Loops that are no holes: those that run the way the largest one does."""
    areas = np.array([signed_area(loop) for loop in loops])
    way = np.sign(areas[int(np.argmax(np.abs(areas)))])
    return [loop for loop, area in zip(loops, areas, strict=True) if area * way > 0]

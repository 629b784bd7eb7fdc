"""A solid from the drawings' own outlines: what all of them allow."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from dimetron.document.fitting import Fit, Held, inked, named, openings_in, pierced
from dimetron.document.model import Document, Drawing
from dimetron.document.pictures import pyramid_of
from dimetron.fit.miss import Drawn
from dimetron.imaging.pyramid import Pyramid
from dimetron.mesh.arrays import Floats, MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.solids.common import common
from dimetron.mesh.solids.nets import even_quads
from dimetron.mesh.solids.seen import Seen, box_of
from dimetron.outlines.path import OutlineError

#: Quads are this share of the largest extent unless said.
_QUAD = 1 / 64


@dataclass(frozen=True, slots=True, eq=False)
class Outlined:
    """What a drawing shows of the object, in its view's plane. pierced: whether openings are marked
    in it; else what lies within its outlines is solid."""

    drawing: Drawing
    seen: Seen
    pierced: bool = False


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
        loops = inked(pyramid).loops
    except OutlineError as error:
        raise OutlineError(named(drawing, error)) from error
    return Seen(drawing.view, tuple(drawing.placement.to_plane(loop) for loop in loops))


def _pierced(seen: Seen, openings: Sequence[Floats]) -> Seen:
    """Raises MeshError if nothing would be left."""
    loops = pierced(seen.loops, openings)
    if not loops:
        raise MeshError("The openings leave nothing of a drawing; look which outlines are some.")
    return Seen(seen.view, tuple(loops))


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


def fit_of_block(mesh: Mesh, outlines: Sequence[Outlined]) -> list[Fit]:
    """How far a mesh's outline lies from each drawing's."""
    held = Held([mesh])
    return [held.against(one.drawing, Drawn(one.seen.loops, one.pierced)) for one in outlines]

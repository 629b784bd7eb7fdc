"""A project's meshes held against its drawings."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.document.model import Document, Drawing, MeshObject
from dimetron.document.outline import Outline, outlines_of, polygons, whole_paths
from dimetron.document.pictures import pyramid_of
from dimetron.fit.inner import InnerMiss, inner_missed
from dimetron.fit.miss import FINE, Drawn, Miss, missed
from dimetron.fit.modelled import Modelled, modelled
from dimetron.geometry.views import AnyView
from dimetron.imaging.pyramid import Pyramid
from dimetron.mesh.arrays import Floats, MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.seen_lines import Together, inner_lines
from dimetron.mesh.smooth_surface import surface_of
from dimetron.mesh.solids.manifolds import joined_section, section_of
from dimetron.mesh.solids.within import counter
from dimetron.outlines.path import OutlineError, sampled
from dimetron.outlines.silhouette import read_silhouette, strokes

#: Outlines are taken as polygons that miss them by at most this share of a pixel.
_MISS_PX = 0.1
#: Views along one line of sight, from either side.
_SAME_LINE = 1 - 1e-9


@dataclass(frozen=True, slots=True, eq=False)
class Fit:
    """A drawing, and how far what is modelled misses it: None where that cannot be told, for the
    reason in ``problem``. at (3,): of the meshes, where they lie farthest from what is drawn.
    inner: how far their inner lines lie off, where that was asked and can be told."""

    drawing: Drawing
    miss: Miss | None = None
    at: Floats | None = None
    problem: str = ""
    inner: InnerMiss | None = None


def missed_most(fits: Sequence[Fit]) -> tuple[Fit, Miss] | None:
    """The drawing that is missed the most; None if none could be compared."""
    known = [(one, one.miss) for one in fits if one.miss is not None]
    return max(known, key=lambda pair: pair[1].largest, default=None)


def compared(doc: Document) -> tuple[Drawing, ...]:
    """The drawings that meshes are held against: those placed and shown."""
    return tuple(d for d in doc.planes if doc.visible(d))


def shown_meshes(doc: Document) -> tuple[Mesh, ...]:
    """What is modelled: the meshes that are shown and not set aside, as they are seen."""
    return tuple(seen(item) for item in doc.meshes if counts(doc, item))


def counts(doc: Document, item: MeshObject) -> bool:
    """Whether a mesh is part of what is modelled."""
    return doc.visible(item) and not item.guide and bool(item.mesh.topology.face_count)


def seen(item: MeshObject) -> Mesh:
    """A mesh as the board shows it: its smooth surface, or itself."""
    smooth = item.smooth
    if smooth.view < 1 or smooth.shown == "cage":
        return item.mesh
    return surface_of(item.mesh, smooth.view)


@dataclass(frozen=True, slots=True, eq=False)
class Inked:
    """What a picture shows of the object: loops (n, 2) in its pixels, the middle of the outermost
    line, which is ``pen`` pixels wide."""

    loops: tuple[Floats, ...]
    pen: float


def inked(pyramid: Pyramid) -> Inked:
    """Raises OutlineError."""
    found = read_silhouette(pyramid)
    return Inked(tuple(sampled(path, _MISS_PX) for path in found.paths), found.pen)


def drawn_of(doc: Document, drawing: Drawing, ink: Callable[[], Inked]) -> Drawn:
    """What a drawing shows in its view's plane, by its ink or by the outlines traced on it, without
    the openings that are marked in it. ink: asked for only if it counts. Raises OutlineError,
    MeshError."""
    place, pen = drawing.placement, 0.0
    if drawing.fit_by == "outlines":
        loops = traced_in(doc, drawing)
    else:
        found = ink()
        loops = [place.to_plane(loop) for loop in found.loops]
        pen = found.pen * place.mm_per_px
    openings = openings_in(doc, drawing.view)
    if openings:
        loops = pierced(loops, openings)
    left_out = [place.to_plane(np.array(part)) for part in drawing.left_out]
    return Drawn(loops, bool(openings), left_out, pen)


def traced_in(doc: Document, drawing: Drawing) -> list[Floats]:
    """(n, 2) closed polygons: the shown outlines that were traced on a drawing, or, if there are
    none, those in its view. Raises OutlineError if there are none that are closed."""
    found = [o for o in outlines_of(doc) if doc.visible(o) and not o.opening and _closed(o)]
    own = [o for o in found if o.drawing == drawing.id]
    loops = [p for o in own or found if o.view == drawing.view for p in polygons(o)]
    if not loops:
        raise OutlineError(
            f"{drawing.name}: no closed outline is traced on it; trace one, or go by its ink."
        )
    return loops


def _closed(item: Outline) -> bool:
    return all(path.closed for path in whole_paths(item))


def openings_in(doc: Document, view: AnyView) -> list[Floats]:
    """(n, 2) closed polygons in a view's plane: the shown outlines that mark openings, of it or of
    the view from behind."""
    found = []
    for item in outlines_of(doc):
        along = float(item.view.directions.forward @ view.directions.forward)
        if item.opening and doc.visible(item) and abs(along) > _SAME_LINE and _closed(item):
            found += [
                view.to_plane(item.view.to_world(loop, item.depth)) for loop in polygons(item)
            ]
    return found


def pierced(loops: Sequence[Floats], openings: Sequence[Floats]) -> list[Floats]:
    """Loops (n, 2) without the openings in them, closed polygons (n, 2)."""
    section = section_of(loops) - joined_section([counter(loop) for loop in openings])
    return [np.asarray(loop) for loop in section.to_polygons()]


def fits(doc: Document, inner: bool = False) -> tuple[Fit, ...]:
    """How far the meshes that are shown miss each drawing; inner: their inner lines, too. Raises
    PictureError."""
    held, found = Held(shown_meshes(doc)), []
    for drawing in compared(doc):
        pyramid = pyramid_of(doc, drawing)
        lines = None
        if inner and pyramid is not None:
            lines = [drawing.placement.to_plane(line) for line in strokes(pyramid)]
        found.append(held.against(drawing, _shown_by(doc, drawing, pyramid), lines))
    return tuple(found)


def _shown_by(doc: Document, drawing: Drawing, pyramid: Pyramid | None) -> Drawn | str:
    """What a drawing shows with its picture; or why that is not known."""
    if pyramid is None:
        return f"{drawing.name}: its picture is missing; bring it in again."
    try:
        return drawn_of(doc, drawing, lambda: inked(pyramid))
    except (OutlineError, MeshError) as error:
        return named(drawing, error)


class Held:
    """Meshes to be held against drawings; of each view the outline is worked out once."""

    def __init__(self, meshes: Sequence[Mesh], fine: int = FINE) -> None:
        self.meshes, self._fine = meshes, fine
        self._outlines: dict[AnyView, Modelled] = {}
        self._together = Together(meshes)

    def outline(self, view: AnyView) -> Modelled:
        """What is modelled as a view shows it."""
        if view not in self._outlines:
            self._outlines[view] = modelled(self.meshes, view)
        return self._outlines[view]

    def against(
        self, drawing: Drawing, drawn: Drawn | str, lines: Sequence[Floats] | None = None
    ) -> Fit:
        """How far they miss a drawing; drawn: what it shows, or why that is not known; lines
        (n, 2): all of its lines in its view's plane, where inner ones are wanted."""
        if isinstance(drawn, str):
            return Fit(drawing, problem=drawn)
        outline = self.outline(drawing.view)
        try:
            miss = missed(outline.loops, drawn, self._fine)
        except MeshError as error:
            return Fit(drawing, problem=named(drawing, error))
        inner = None if lines is None else self._inner(drawing, drawn, lines)
        return Fit(drawing, miss, outline.in_space(miss.at[None])[0], inner=inner)

    def _inner(self, drawing: Drawing, drawn: Drawn, lines: Sequence[Floats]) -> InnerMiss | None:
        view = drawing.view
        seen_ones = [view.to_plane(line) for line in inner_lines(self._together, view)]
        try:
            return inner_missed(seen_ones, lines, drawn)
        except MeshError:
            # There is nothing to tell: the outline's figures stand alone.
            return None


def named(drawing: Drawing, error: Exception) -> str:
    """What is wrong, with the name of the drawing it is about."""
    words = str(error)
    return words if words.startswith(drawing.name) else f"{drawing.name}: {words}"

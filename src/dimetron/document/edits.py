"""Edits: pure functions ``document -> document`` for drawings and meshes."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import ArrayLike

from dimetron.document import bodies
from dimetron.document.kind import kinds
from dimetron.document.model import (
    Document,
    Drawing,
    MeshObject,
    Sheet,
    Source,
    new_id,
    with_item,
)
from dimetron.document.names import plain_name
from dimetron.document.naming import without
from dimetron.geometry import placement as place
from dimetron.geometry.placement import Placement, PlacementError
from dimetron.geometry.views import EXTENT_NAMES, AnyView, Auxiliary
from dimetron.imaging.page import FIRST, Page
from dimetron.mesh.arrays import Floats
from dimetron.mesh.mesh import Mesh

#: A picture without a resolution is first shown this wide, until its size is known.
FIRST_WIDTH_MM = 200.0


def with_drawing(doc: Document, source: Source, view: AnyView) -> tuple[Document, str]:
    """Add a picture as an image plane; returns the document and the drawing's id.

    It gets the file's own resolution, else the scale of a drawing that is there already, else a
    width of 200 mm; it stands centred on the ground (centred on the origin in top and bottom).
    """
    scale = _first_scale(doc, source)
    name = free_name(doc, source.name.rpartition(".")[0] or source.name)
    with_it, sheet = with_sheet(doc, source)
    standing = first_placement(doc, source.size_px, view, scale)
    drawing = Drawing(new_id(), name, view, sheet, standing)
    added = replace(with_it, drawings=(*doc.drawings, drawing))
    return moved_to_view(added, drawing.id, view), drawing.id


def with_sheet(
    doc: Document, source: Source, page: Page = FIRST, size_px: tuple[int, int] | None = None
) -> tuple[Document, str]:
    """Add a sheet of a source (which is added if it is new); returns the document and its id.

    ``size_px`` of its page, if that is not the source's first.
    """
    name = free_sheet_name(doc, source.name)
    sheet = Sheet(new_id(), name, source.id, size_px or source.size_px, page, source.mm_per_px)
    known = any(s.id == source.id for s in doc.sources)
    sources = doc.sources if known else (*doc.sources, source)
    return replace(doc, sources=sources, sheets=(*doc.sheets, sheet)), sheet.id


def first_placement(
    doc: Document, size_px: tuple[int, int], view: AnyView, mm_per_px: float
) -> Placement:
    """Centred on the ground (on the origin in top and bottom), behind everything there is."""
    w, h = size_px
    anchor_px = (w / 2, float(h) if view.turned_up else h / 2)
    standing = Placement(mm_per_px, anchor_px, (0.0, 0.0))
    return replace(standing, stand_off_mm=_first_stand_off(doc, standing, size_px, view))


def _first_scale(doc: Document, source: Source) -> float:
    if source.mm_per_px is not None:
        return source.mm_per_px
    if doc.drawings:
        return doc.drawings[-1].placement.mm_per_px
    return FIRST_WIDTH_MM / source.size_px[0]


def _first_stand_off(
    doc: Document, placed: Placement, size_px: tuple[int, int], view: AnyView
) -> float:
    """Behind everything there is along the line of sight; half the picture's size if unknown."""
    behind = _behind(doc, view)
    return behind if behind > 0 else _rounded_up(max(placed.size_mm(size_px)) / 2)


def _behind(doc: Document, view: AnyView) -> float:
    """Just behind the known bounds along a view's line of sight; 0 if nothing shows that axis."""
    return _behind_box(bounds(doc), view)


def _behind_box(box: Floats | None, view: AnyView) -> float:
    if box is None:
        return 0.0
    corners = np.array(np.meshgrid(*box.T)).reshape(3, -1).T @ view.directions.forward
    if isinstance(view, Auxiliary):
        return _rounded_up(float(corners.max())) if np.ptp(corners) > 0 else 0.0
    if box[0, view.depth_axis] == box[1, view.depth_axis]:
        return 0.0
    return _rounded_up(float(corners.max()))


def _rounded_up(mm: float) -> float:
    """A tenth farther, to the next 10 mm."""
    return float(np.ceil((abs(mm) * 1.1 + 1) / 10) * 10)


def stand_off(doc: Document, drawing: Drawing) -> float:
    """How far behind the origin a drawing stands, mm along its view's line of sight: by itself
    just behind the bounds of what all drawings and meshes show, or as typed."""
    if not drawing.stand_auto:
        return drawing.placement.stand_off_mm
    return _behind_all(doc, drawing.view) or drawing.placement.stand_off_mm


def _behind_all(doc: Document, view: AnyView) -> float:
    """``_behind``, worked out once for each view of a document."""
    known = doc.derived.setdefault("behind", {})
    if view.key not in known:
        known[view.key] = _behind(doc, view)
    return float(known[view.key])


def stand_offs(doc: Document) -> dict[str, float]:
    """``stand_off`` of every drawing that stands in space, by id."""
    return {d.id: stand_off(doc, d) for d in doc.planes}


def world_corners(doc: Document, drawing: Drawing) -> Floats:
    """(4, 3) corners of a drawing's picture where it stands: top-left, top-right, bottom-right,
    bottom-left. Read-only."""
    kept = doc.derived.setdefault("corners", {})
    known = kept.get(drawing.id)
    if known is None or known[0] is not drawing:
        corners = drawing.placement.world_corners(
            drawing.view, doc.size_px(drawing), stand_off(doc, drawing)
        )
        corners.setflags(write=False)
        known = kept[drawing.id] = drawing, corners
    return known[1]


def free_name(doc: Document, wanted: str) -> str:
    """The wanted name, with a number if something in the tray has it already."""
    return numbered(wanted, {item.name for item in doc.items})


def free_sheet_name(doc: Document, wanted: str) -> str:
    """The wanted name, with a number if a sheet has it already."""
    return numbered(wanted, {s.name for s in doc.sheets})


def numbered(wanted: str, taken: set[str]) -> str:
    """The wanted name as a project holds it, with a number if it is taken."""
    wanted = plain_name(wanted)
    name, number = wanted, 2
    while name in taken:
        name, number = f"{wanted} {number}", number + 1
    return name


def without_item(doc: Document, id_: str) -> Document:
    """Remove an item. A sheet to which nothing was done goes with its last drawing if that was all
    of it."""
    gone = next((item for item in doc.pictured if item.id == id_), None)
    after = without(doc, (id_,))
    if gone is None or gone.crop is not None or after.needed(gone.sheet):
        return after
    return without_sheet(after, gone.sheet) if doc.sheet(gone.sheet).fresh else after


def without_sheet(doc: Document, id_: str) -> Document:
    """Remove a sheet, the drawings cut from it, and its source if no other sheet needs it."""
    used = {s.source for s in doc.sheets if s.id != id_}
    return without(doc, (id_, *(s.id for s in doc.sources if s.id not in used)))


def with_placement(doc: Document, id_: str, placement: Placement) -> Document:
    """Place a drawing otherwise. Raises KeyError."""
    return with_item(doc, id_, placement=placement)


def slid(doc: Document, id_: str, by_mm: ArrayLike) -> Document:
    """Slide a drawing by (right, up) mm in its plane."""
    return with_placement(doc, id_, place.moved(doc.drawing(id_).placement, by_mm))


def moved_to_view(doc: Document, id_: str, view: AnyView) -> Document:
    """Put a drawing on another view. On an auxiliary one it stands in the plane of the view."""
    if isinstance(view, Auxiliary):
        placement = replace(doc.drawing(id_).placement, stand_off_mm=view.depth_mm)
        return with_item(doc, id_, view=view, placement=placement, stand_auto=False)
    return with_item(doc, id_, view=view, stand_auto=True)


def scaled_like(doc: Document, id_: str, like: str) -> Document:
    """Give a drawing the mm per pixel of another; it is sized about the view's origin, and so is
    its body, unless the other is of it."""
    doc = bodies.apart_from(doc, id_, like)
    wanted = doc.drawing(like).placement.mm_per_px
    sized = place.with_scale(doc.drawing(id_).placement, wanted)
    return bodies.carried_along(doc, id_, sized)


def extent(doc: Document, id_: str, axis: int) -> float:
    """Size in mm of a drawing's picture along a world axis (0 X, 1 Y, 2 Z), as it is turned.

    Raises PlacementError if its view does not show that axis.
    """
    drawing = doc.drawing(id_)
    if axis not in drawing.view.axes:
        raise PlacementError(f"{drawing.name} does not show the {EXTENT_NAMES[axis]}.")
    along = drawing.placement.corners(doc.size_px(drawing))[:, _paper_side(drawing, axis)]
    return float(along.max() - along.min())


def _paper_side(drawing: Drawing, axis: int) -> int:
    """Whether a world axis runs across (0) or up (1) the paper of a drawing's view."""
    return drawing.view.paper_axes.index(axis)


def with_extent(doc: Document, id_: str, axis: int, mm: float) -> Document:
    """Scale a drawing so that its extent along a world axis is ``mm``, about the view's origin."""
    now = extent(doc, id_, axis)
    if mm <= 0:
        raise PlacementError("The size must be more than zero.")
    fixed = standing_point(doc, doc.drawing(id_))
    sized = place.resized_about(doc.drawing(id_).placement, mm / now, fixed)
    return bodies.carried_along(doc, id_, sized)


def standing_point(doc: Document, drawing: Drawing) -> Floats:
    """Where a resized drawing keeps its ground: the middle of its lower edge, or its centre."""
    corners = drawing.placement.corners(doc.size_px(drawing))
    middle = corners.mean(axis=0)
    return np.array([middle[0], corners[:, 1].min()]) if drawing.view.turned_up else middle


def put_point(doc: Document, id_: str, px: ArrayLike, onto: str) -> Document:
    """Slide a drawing so that its pixel (2,) lies on the "ground", "centreline" or "origin".

    The ground is height 0; where a view does not show the height (top, bottom), its depth axis
    stands in. The centreline is the vertical through the origin.
    """
    now = doc.drawing(id_).placement.to_plane(px)
    by = {"ground": (0.0, -now[1]), "centreline": (-now[0], 0.0), "origin": (-now[0], -now[1])}
    return slid(doc, id_, by[onto])


def with_mesh(doc: Document, mesh: Mesh, name: str) -> tuple[Document, str]:
    """Add a mesh; returns the document and its id."""
    item = MeshObject(new_id(), free_name(doc, name), mesh)
    return replace(doc, meshes=(*doc.meshes, item)), item.id


def bounds(doc: Document, *, shown_only: bool = False) -> Floats | None:
    """(2, 3) world bounds of all meshes and of the drawings in their planes, or None.

    A drawing counts with the two axes it shows; its stand-off does not. Each kind of item says what
    it adds. Read-only.
    """
    kept = doc.derived.setdefault("bounds", {})
    which = "shown" if shown_only else "all"
    if which not in kept:
        kept[which] = _bounds(doc, shown_only)
    box: Floats | None = kept[which]
    return box


def _bounds(doc: Document, shown_only: bool) -> Floats | None:
    lows, highs = np.full(3, np.inf), np.full(3, -np.inf)
    for kind in kinds():
        items = [item for item in kind.of(doc) if not shown_only or doc.visible(item)]
        for axes, points in kind.bounds(doc, items):
            along = list(axes)
            lows[along] = np.minimum(lows[along], points.min(axis=0))
            highs[along] = np.maximum(highs[along], points.max(axis=0))
    known = np.isfinite(lows)
    if not known.any():
        return None
    box = np.stack([np.where(known, lows, 0.0), np.where(known, highs, 0.0)])
    box.setflags(write=False)
    return box

"""Aligning drawings with axes and with each other, and spreading them out.

What is aligned is a drawing's extent in its view plane: that of its picture, or of its ink where
``ink`` gives a box for it, as (left, top, right, bottom) in pixels of the drawing.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from dimetron.document import bodies, edits
from dimetron.document.kind import lined_items, lying, only
from dimetron.document.model import Document, Drawing, Item
from dimetron.geometry import placement as place
from dimetron.geometry.placement import PlacementError
from dimetron.geometry.views import AXIS_NAMES
from dimetron.mesh.arrays import Floats

Box = tuple[float, float, float, float]
Ink = Mapping[str, Box]
#: Edges by name: the side of the paper (0 across, 1 up) and where between low (0) and high (1).
EDGES = {
    "left": (0, 0.0),
    "right": (0, 1.0),
    "across": (0, 0.5),
    "bottom": (1, 0.0),
    "top": (1, 1.0),
    "up": (1, 0.5),
}


def extent_on_paper(doc: Document, drawing: Drawing, ink: Ink | None = None) -> Floats:
    """(2, 2): lowest and highest view-plane coordinate of the picture, or of its ink."""
    w, h = doc.size_px(drawing)
    left, top, right, bottom = (ink or {}).get(drawing.id, (0.0, 0.0, float(w), float(h)))
    corners = drawing.placement.to_plane(
        [[left, top], [right, top], [right, bottom], [left, bottom]]
    )
    return np.stack([corners.min(axis=0), corners.max(axis=0)])


def edge_of(doc: Document, drawing: Drawing, edge: str, ink: Ink | None = None) -> float:
    """View-plane coordinate of an edge or middle line (see ``EDGES``)."""
    side, share = EDGES[edge]
    low, high = extent_on_paper(doc, drawing, ink)[:, side]
    return float(low + (high - low) * share)


def put_edge(doc: Document, id_: str, edge: str, mm: float, ink: Ink | None = None) -> Document:
    """Slide a drawing so that an edge or middle line lies at a view-plane coordinate."""
    by = np.zeros(2)
    by[EDGES[edge][0]] = mm - edge_of(doc, doc.drawing(id_), edge, ink)
    return edits.slid(doc, id_, by)


def level_with(
    doc: Document, ids: Sequence[str], like: str, edge: str, ink: Ink | None = None
) -> Document:
    """Slide drawings so that an edge lies level with that of another, along the world axis that
    the edge counts along in the other's view; where a drawing does not show that one, along the
    axis that the edge counts along in its own.

    Raises PlacementError if the two show no such axis both.
    """
    other = doc.drawing(like)
    for id_ in ids:
        mine = doc.drawing(id_)
        if id_ == like:
            continue
        if mine.view == other.view:
            doc = put_edge(doc, id_, edge, edge_of(doc, other, edge, ink), ink)
            continue
        own, theirs, sign = _tied(mine, other, edge)
        doc = put_edge(doc, id_, own, edge_of(doc, other, theirs, ink) * sign, ink)
    return doc


def _tied(mine: Drawing, other: Drawing, edge: str) -> tuple[str, str, int]:
    """The edges of two drawings that lie on the same side of the object, as an edge of the other
    says, else of the first one; and +1 or -1 for the same or the other direction. Raises
    PlacementError."""
    side = EDGES[edge][0]
    axis = other.view.paper_axes[side]
    for given, wanted in ((other, mine), (mine, other)):
        along = given.view.paper_axes[side]
        if along is None or along not in wanted.view.paper_axes:
            continue
        at = wanted.view.paper_axes.index(along)
        sign = given.view.paper_signs[side] * wanted.view.paper_signs[at]
        same = _same_edge(edge, at, sign)
        return (same, edge, sign) if given is other else (edge, same, sign)
    words = "this direction" if axis is None else AXIS_NAMES[axis]
    raise PlacementError(f"{mine.name} does not show {words}, as {other.name} does.")


def matched_extent(
    doc: Document, id_: str, like: str, axis: int, ink: Ink | None = None
) -> Document:
    """Make a drawing as large along a world axis as something else is, and lay it level with it:
    another drawing that shows the axis, a mesh or a size reference. Two drawings of one body are
    none any more.

    Raises PlacementError if the two do not both show the axis.
    """
    mine, other = doc.drawing(id_), doc.item(like)
    low, high = (np.nan, np.nan) if other is None else _span(doc, other, axis, ink)
    before = _span(doc, mine, axis, ink)
    if not np.isfinite([low, high, *before]).all():
        name = "it" if other is None else other.name
        raise PlacementError(f"{mine.name} and {name} do not share this axis.")
    if isinstance(other, Drawing):
        doc = bodies.apart_from(doc, id_, like)
    if before[1] <= before[0] or high <= low:
        raise PlacementError("The size must be more than zero.")
    factor = (high - low) / (before[1] - before[0])
    fixed = edits.standing_point(doc, mine)
    doc = bodies.carried_along(doc, id_, place.resized_about(mine.placement, factor, fixed))
    side = mine.view.paper_axes.index(axis)
    by = np.zeros(2)
    now = _span(doc, doc.drawing(id_), axis, ink)
    by[side] = (low + high - now[0] - now[1]) / 2 * mine.view.paper_signs[side]
    return edits.slid(doc, id_, by)


def _span(doc: Document, item: Item, axis: int, ink: Ink | None) -> tuple[float, float]:
    """Lowest and highest world coordinate of an item along an axis; NaN if it does not show it."""
    if not isinstance(item, Drawing):
        box = box_of(doc, (item.id,))
        return (np.nan, np.nan) if box is None else (float(box[0, axis]), float(box[1, axis]))
    if axis not in item.view.paper_axes:
        return np.nan, np.nan
    side = item.view.paper_axes.index(axis)
    ends = extent_on_paper(doc, item, ink)[:, side] * item.view.paper_signs[side]
    return float(ends.min()), float(ends.max())


def box_of(doc: Document, ids: Sequence[str]) -> Floats | None:
    """(2, 3) lowest and highest corner of items; None if they have no size."""
    kept = only(doc, tuple(ids))
    parts = [lying(kept, lined_items(kept)), edits.bounds(kept)]
    known = [part for part in parts if part is not None]
    if not known:
        return None
    return np.stack([np.min(known, axis=(0, 1)), np.max(known, axis=(0, 1))])


def _same_edge(edge: str, side: int, sign: int) -> str:
    """The edge that lies on the same side of the object in another view."""
    share = EDGES[edge][1]
    share = share if sign > 0 else 1 - share
    return next(name for name, where in EDGES.items() if where == (side, share))


def distributed(doc: Document, ids: Sequence[str], side: int, ink: Ink | None = None) -> Document:
    """Spread three or more drawings of one view so that the gaps between them are equal; the
    outermost stay. side: 0 across, 1 up.

    Raises PlacementError for fewer than three, or drawings of different views.
    """
    chosen = [doc.drawing(id_) for id_ in ids]
    if len(chosen) < 3:
        raise PlacementError("Choose three drawings or more to spread them out.")
    if any(d.view != chosen[0].view for d in chosen):
        raise PlacementError("Only drawings of one view can be spread out.")
    spans = {d.id: extent_on_paper(doc, d, ink)[:, side] for d in chosen}
    row = sorted(chosen, key=lambda d: float(spans[d.id].sum()))
    first, last = spans[row[0].id], spans[row[-1].id]
    inside = sum(float(spans[d.id][1] - spans[d.id][0]) for d in row[1:-1])
    gap = (float(last[0] - first[1]) - inside) / (len(row) - 1)
    at = float(first[1]) + gap
    for drawing in row[1:-1]:
        low, high = spans[drawing.id]
        by = np.zeros(2)
        by[side] = at - low
        doc = edits.slid(doc, drawing.id, by)
        at += float(high - low) + gap
    return doc

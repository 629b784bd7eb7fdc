"""Edits of the Place station on drawings: sizes about a pivot, another picture, back to back, a
placement copied, two points onto two others.

All are pure functions ``document -> document``.
"""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from numpy.typing import ArrayLike

from dimetron.document import edits
from dimetron.document.model import Document, Drawing, new_id, with_item
from dimetron.document.naming import without
from dimetron.document.parts import Showing
from dimetron.geometry import placement as place
from dimetron.geometry.placement import MAX_MM, Placement, PlacementError
from dimetron.geometry.views import Auxiliary, View, shared_axes
from dimetron.imaging.frame import LEVEL, Crop, Straightening
from dimetron.imaging.tone import Tone
from dimetron.mesh.arrays import Floats

#: Opacities that one key steps through.
OPACITIES = (0.25, 0.55, 0.85)
#: Proportions of an old and a new picture that differ by less than this are the same.
_SAME_SHAPE = 0.002


def scaled(
    placement: Placement, factors: tuple[float, float], fixed_mm: ArrayLike, aspect: bool = True
) -> Placement:
    """Make a picture so many times as wide and as high, along its own edges; the view-plane point
    ``fixed_mm`` (2,) keeps its picture point.

    With ``aspect`` the first factor counts for both. Raises PlacementError for a factor that is
    zero, negative or not finite.
    """
    fx, fy = (factors[0], factors[0]) if aspect else factors
    if not all(math.isfinite(f) and f > 0 for f in (fx, fy)):
        raise PlacementError("The size must be more than zero.")
    px = placement.to_px(fixed_mm)
    after = replace(
        placement, mm_per_px=placement.mm_per_px * fx, pixel_aspect=placement.pixel_aspect * fy / fx
    )
    return place.moved(after, np.asarray(fixed_mm) - after.to_plane(px))


def turned_about(placement: Placement, by_deg: float, fixed_mm: ArrayLike) -> Placement:
    """Turn by degrees, counter-clockwise, about a view-plane point (2,)."""
    return place.turned(placement, placement.rotation_deg + by_deg, placement.to_px(fixed_mm))


def duplicated(doc: Document, id_: str) -> tuple[Document, str]:
    """The same drawing once more, with its placement; returns the document and the new id."""
    drawing = doc.drawing(id_)
    copy = replace(drawing, id=new_id(), name=edits.free_name(doc, drawing.name), held=False)
    at = doc.drawings.index(drawing) + 1
    order = _after(doc.order, id_, copy.id)
    drawings = (*doc.drawings[:at], copy, *doc.drawings[at:])
    return replace(doc, drawings=drawings, order=order), copy.id


def _after(order: tuple[str, ...], id_: str, new: str) -> tuple[str, ...]:
    if id_ not in order:
        return order
    at = order.index(id_) + 1
    return (*order[:at], new, *order[at:])


def with_picture(
    doc: Document,
    id_: str,
    sheet: str,
    crop: Crop | None = None,
    straightening: Straightening = LEVEL,
    tone: Tone | None = None,
) -> tuple[Document, str]:
    """Give a drawing another picture; it keeps its width and where its middle lies.

    Returns the document and, if the new picture has other proportions, a sentence about it.
    """
    drawing = doc.drawing(id_)
    old = drawing.placement
    before = doc.size_px(drawing)
    after = with_item(
        doc, id_, sheet=sheet, crop=crop, straightening=straightening, tone=tone, unsure=""
    )
    now = after.size_px(after.drawing(id_))
    middle = old.centre(before)
    placement = replace(
        old,
        mm_per_px=old.mm_per_px * before[0] / now[0],
        anchor_px=(now[0] / 2, now[1] / 2),
        anchor_mm=(float(middle[0]), float(middle[1])),
    )
    after = with_item(after, id_, placement=placement)
    shape = (now[1] / now[0]) / (before[1] / before[0])
    words = ""
    if abs(shape - 1) > _SAME_SHAPE:
        more = "taller" if shape > 1 else "flatter"
        words = (
            f"The new picture is {abs(shape - 1) * 100:.1f} % {more} than the old one; its width "
            "was kept. Match two points to lay it exactly."
        )
    return after, words


def replaced(doc: Document, id_: str, like: str) -> tuple[Document, str]:
    """Give a drawing the picture of another drawing; see ``with_picture``."""
    other = doc.drawing(like)
    return with_picture(doc, id_, other.sheet, other.crop, other.straightening, other.tone)


def matched(
    placement: Placement, points_px: ArrayLike, targets_mm: ArrayLike, keep_scale: bool = False
) -> Placement:
    """Move, turn and size a picture so that two of its pixels (2, 2) lie on two view-plane points
    (2, 2); with ``keep_scale`` only the first does and the second gives the direction.

    Raises PlacementError if the two points of either pair are the same.
    """
    at = placement.to_plane(points_px)
    to = np.asarray(targets_mm, dtype=np.float64)
    way, wanted = at[1] - at[0], to[1] - to[0]
    if math.hypot(*way) < 0.01 * placement.mm_per_px or math.hypot(*wanted) < 1e-9:
        raise PlacementError("The two points are the same; pick two that lie apart.")
    turn = math.degrees(math.atan2(wanted[1], wanted[0]) - math.atan2(way[1], way[0]))
    after = turned_about(placement, turn, at[0])
    if not keep_scale:
        after = place.resized_about(after, math.hypot(*wanted) / math.hypot(*way), at[0])
    return place.moved(after, to[0] - at[0])


def pasted(doc: Document, id_: str, like: Drawing, like_px: tuple[int, int]) -> Document:
    """Give a drawing the placement that was copied from another.

    In the same view it lies as the other did, middle on middle; in another view it takes over the
    scale, the turn and whatever lies along the axes both show.
    """
    drawing = doc.drawing(id_)
    size = doc.size_px(drawing)
    old, other = drawing.placement, like.placement
    after = replace(
        old,
        mm_per_px=other.mm_per_px,
        pixel_aspect=other.pixel_aspect,
        rotation_deg=other.rotation_deg,
        mirrored=other.mirrored,
    )
    middle = old.centre(size)
    wanted = like.placement.centre(like_px)
    if drawing.view == like.view:
        middle = wanted
    for axis in shared_axes(drawing.view, like.view):
        mine, theirs = drawing.view.paper_axes.index(axis), like.view.paper_axes.index(axis)
        sign = drawing.view.paper_signs[mine] * like.view.paper_signs[theirs]
        middle[mine] = wanted[theirs] * sign
    after = place.moved(after, middle - after.centre(size))
    same = drawing.view == like.view
    if same:
        after = replace(after, stand_off_mm=other.stand_off_mm)
    auto = like.stand_auto if same else drawing.stand_auto
    return with_item(doc, id_, placement=after, stand_auto=auto)


def back_to_back(doc: Document, id_: str, other: str) -> Document:
    """Stand two drawings of opposite views on one plane, each seen from its own side only.

    The second keeps its plane. Raises PlacementError if their views are not opposite.
    """
    mine, theirs = doc.drawing(id_), doc.drawing(other)
    view = mine.view
    if not isinstance(view, View) or theirs.view is not view.opposite:
        raise PlacementError(
            f"{mine.name} and {theirs.name} do not look at each other; put them on opposite views."
        )
    depth = edits.stand_off(doc, theirs)
    for drawing, behind in ((mine, -depth), (theirs, depth)):
        doc = with_item(
            doc,
            drawing.id,
            placement=replace(drawing.placement, stand_off_mm=behind),
            stand_auto=False,
            showing=replace(drawing.showing, both_sides=False),
        )
    return doc


def shown_as(doc: Document, ids: tuple[str, ...], **changes: object) -> Document:
    """Change how drawings are seen (fields of ``Showing``)."""
    for id_ in ids:
        showing: Showing = replace(doc.drawing(id_).showing, **changes)  # type: ignore[arg-type]
        doc = with_item(doc, id_, showing=showing)
    return doc


def next_opacity(opacity: float) -> float:
    """The next weaker of the three levels; from the weakest back to the strongest."""
    weaker = [level for level in OPACITIES if level < opacity - 0.01]
    return weaker[-1] if weaker else OPACITIES[-1]


# Auxiliary views.


def with_auxiliary(doc: Document, view: Auxiliary) -> Document:
    """Add an auxiliary view, or put it in the place of the one with its id; drawings on it tilt
    along. Raises PlacementError if it lies too far away."""
    hinge = () if view.hinge is None else view.hinge.point
    if not all(math.isfinite(n) and abs(n) <= MAX_MM for n in (*view.through, *hinge)):
        raise PlacementError("A view must lie within 10 km of the origin.")
    known = any(a.id == view.id for a in doc.auxiliaries)
    views = tuple(view if a.id == view.id else a for a in doc.auxiliaries)
    doc = replace(doc, auxiliaries=views if known else (*views, view))
    for drawing in doc.drawings:
        if isinstance(drawing.view, Auxiliary) and drawing.view.id == view.id:
            away = drawing.placement.stand_off_mm - drawing.view.depth_mm
            placement = replace(drawing.placement, stand_off_mm=view.depth_mm + away)
            doc = with_item(doc, drawing.id, view=view, placement=placement)
    return doc


def free_view_name(doc: Document, wanted: str) -> str:
    """The wanted name for an auxiliary view, with a number if one has it already."""
    return edits.numbered(wanted, {view.title for view in doc.views})


def without_auxiliary(doc: Document, id_: str) -> Document:
    """Remove an auxiliary view. Raises PlacementError while drawings lie on it."""
    on_it = [d.name for d in doc.drawings if isinstance(d.view, Auxiliary) and d.view.id == id_]
    if on_it:
        raise PlacementError(f"{on_it[0]} lies on this view; put it on another one first.")
    return without(doc, (id_,))


def pivots(doc: Document, drawing: Drawing) -> dict[str, Floats]:
    """Points a picture can be sized and turned about, in its view plane (2,): its centre, corners
    and the middles of its edges, as seen on the paper before it is turned or mirrored."""
    w, h = doc.size_px(drawing)
    shares = {
        "centre": (0.5, 0.5),
        "top-left": (0, 0),
        "top": (0.5, 0),
        "top-right": (1, 0),
        "right": (1, 0.5),
        "bottom-right": (1, 1),
        "bottom": (0.5, 1),
        "bottom-left": (0, 1),
        "left": (0, 0.5),
    }
    return {name: drawing.placement.to_plane((x * w, y * h)) for name, (x, y) in shares.items()}

"""Drawings that are one body: those of one sheet, unless somebody said otherwise. They are sized
and turned together. Pure functions ``document -> document``."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.document.model import Document, Drawing, new_id, with_item
from dimetron.geometry import placement as place
from dimetron.geometry.placement import Placement

#: Turns up to this are those of the paper, which all its drawings share; larger ones are of the
#: one drawing that lies on its side.
PAPER_TURN_DEG = 15.0
#: Sizes and turns that differ by less are the same.
_SAME = 1e-9


def body_key(drawing: Drawing) -> str:
    """What drawings of one body have in common: their sheet, or what they were joined under."""
    return drawing.body or drawing.sheet


def body_of(doc: Document, id_: str) -> tuple[Drawing, ...]:
    """The drawings that stand in space and are one body with a drawing, itself among them."""
    key = body_key(doc.drawing(id_))
    return tuple(d for d in doc.planes if body_key(d) == key)


def separated(doc: Document, ids: Sequence[str]) -> Document:
    """Let each of these drawings be a body by itself."""
    for id_ in ids:
        doc = with_item(doc, id_, body=id_)
    return doc


def joined(doc: Document, ids: Sequence[str]) -> Document:
    """Let these drawings be one body, as large to one another as they are now. Those of one sheet
    are what they were before they were separated."""
    sheets = {doc.drawing(id_).sheet for id_ in ids}
    key = "" if len(sheets) == 1 else new_id()
    for id_ in ids:
        doc = with_item(doc, id_, body=key)
    return doc


def apart_from(doc: Document, id_: str, other: str) -> Document:
    """The same, with a drawing by itself if it is one body with another one."""
    alike = body_key(doc.drawing(id_)) == body_key(doc.drawing(other))
    return separated(doc, (id_,)) if alike and id_ != other else doc


def carried_along(doc: Document, id_: str, after: Placement) -> Document:
    """Place a drawing otherwise; if it becomes larger or is turned a little, its body does with it,
    about the origin. A drawing that is only slid, stretched, mirrored or laid on its side leaves
    the others as they are, and so does one that has none beside it.

    Raises PlacementError for sizes that cannot be, and KeyError.
    """
    drawing = doc.drawing(id_)
    before = drawing.placement
    factor = after.mm_per_px / before.mm_per_px
    turn = place.wrapped(after.rotation_deg - before.rotation_deg)
    alike = abs(factor - 1) < _SAME and abs(turn) < _SAME
    own = (after.mirrored, after.pixel_aspect) != (before.mirrored, before.pixel_aspect)
    others = [d for d in body_of(doc, id_) if d.id != id_ and d.id not in doc.pinned]
    if alike or own or not others or not drawing.placed or abs(turn) > PAPER_TURN_DEG:
        return with_item(doc, id_, placement=after)
    for one in (drawing, *others):
        way = 1.0 if one.placement.mirrored == before.mirrored else -1.0
        changed = _about_origin(one.placement, factor, way * turn)
        doc = with_item(doc, one.id, placement=changed)
    return doc


def _about_origin(placement: Placement, factor: float, turn_deg: float) -> Placement:
    origin = np.zeros(2)
    px = placement.to_px(origin)
    after = place.resized_about(placement, factor, origin)
    return place.turned(after, placement.rotation_deg + turn_deg, px) if turn_deg else after


def words_of(doc: Document, id_: str) -> str:
    """Which others are one body with a drawing, in words; empty if none are."""
    others = [d.name for d in body_of(doc, id_) if d.id != id_]
    if not others:
        return ""
    return f"Sized with {others[0]}" if len(others) == 1 else (
        f"Sized with {len(others)} others"
    )  # fmt: skip


def pictures_body(doc: Document, drawing: Drawing) -> str:
    """The body of a drawing for registration: empty if it has none beside it."""
    return body_key(drawing) if len(body_of(doc, drawing.id)) > 1 else ""

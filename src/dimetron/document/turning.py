"""Turning a whole set of drawings about the object's upright axis: what was called the front is the
right side, the back or the left. Pure functions ``document -> document``."""

from __future__ import annotations

from collections.abc import Sequence

from dimetron.document import preparing
from dimetron.document.model import Document, Drawing, with_item
from dimetron.document.placing import turned_about
from dimetron.geometry.placement import PlacementError
from dimetron.geometry.views import View
from dimetron.imaging.frame import Straightening

#: Where the object's sides come to lie when it is turned by a quarter counter-clockwise, as seen
#: from above; seen from below it turns the other way.
_NEXT = {
    View.FRONT: View.RIGHT,
    View.RIGHT: View.BACK,
    View.BACK: View.LEFT,
    View.LEFT: View.FRONT,
}
_LEVEL = {View.TOP: 1, View.BOTTOM: -1}


def set_turned(doc: Document, ids: Sequence[str], quarters: int) -> Document:
    """Turn the object that drawings show, counter-clockwise as seen from above; those of auxiliary
    views and those without a name stay. Raises PlacementError if one is held."""
    quarters %= 4
    drawings = [doc.drawing(id_) for id_ in ids]
    held = next((d for d in drawings if d.held), None)
    if held is not None:
        raise PlacementError(f"{held.name} is held; let go of it on its card first.")
    for drawing in drawings:
        if drawing.named and isinstance(drawing.view, View):
            doc = _turned(doc, drawing, drawing.view, quarters)
    return doc


def _turned(doc: Document, drawing: Drawing, view: View, quarters: int) -> Document:
    if view in _LEVEL:
        turns = _LEVEL[view] * quarters
        if drawing.placed:
            placement = turned_about(drawing.placement, 90.0 * turns, (0.0, 0.0))
            return with_item(doc, drawing.id, placement=placement)
        how = drawing.straightening
        # A mirrored drawing is turned before it is mirrored.
        by = -turns if how.mirrored else turns
        after = Straightening((how.turns + by) % 4, how.angle_deg, how.mirrored)
        return with_item(doc, drawing.id, straightening=after)
    for _ in range(quarters):
        view = _NEXT[view]
    # Its right and up follow the object, so where it lies on its plane stays.
    unsure = drawing.unsure
    return with_item(preparing.with_view(doc, drawing.id, view), drawing.id, unsure=unsure)

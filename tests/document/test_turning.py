"""A whole set of drawings turned about the upright axis."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dimetron.document import preparing
from dimetron.document.edits import with_drawing, with_sheet
from dimetron.document.model import Document, Source, with_item
from dimetron.document.preparing import FoundView
from dimetron.document.turning import set_turned
from dimetron.geometry.placement import Placement, PlacementError
from dimetron.geometry.views import View
from dimetron.imaging.frame import Crop, Straightening

small = st.floats(-200, 200)
placements = st.builds(
    lambda at, turn, mirrored: Placement(0.7, (30.0, 20.0), at, turn, mirrored),
    st.tuples(small, small),
    st.floats(-180, 180),
    st.booleans(),
)


def placed(view: View, placement: Placement) -> tuple[Document, str]:
    doc, id_ = with_drawing(Document(), Source("s", "a.png", "png", (60, 40), "", b""), view)
    return with_item(doc, id_, placement=placement), id_


@given(st.sampled_from(list(View)), placements, st.integers(-4, 8))
def test_what_is_drawn_turns_with_the_object(view: View, at: Placement, quarters: int) -> None:
    doc, id_ = placed(view, at)
    turned = set_turned(doc, [id_], quarters)
    a = np.radians(90 * quarters)
    turn = np.array([[np.cos(a), -np.sin(a), 0], [np.sin(a), np.cos(a), 0], [0, 0, 1]])
    drawing = turned.drawing(id_)
    assert isinstance(drawing.view, View)
    # How far off its plane stands is no part of what it shows.
    before = at.world_corners(view, (60, 40), 0.0) @ turn.T
    after = drawing.placement.world_corners(drawing.view, (60, 40), 0.0)
    depth = drawing.view.depth_axis
    shown = [axis for axis in range(3) if axis != depth]
    assert after[:, shown] == pytest.approx(before[:, shown], abs=1e-6)
    assert set_turned(turned, [id_], -quarters).drawing(id_).view is view


def test_drawings_that_wait_to_be_placed_turn_too() -> None:
    doc, sheet = with_sheet(Document(), Source("s", "plate.png", "png", (900, 600), "", b""))
    doc = preparing.with_found_views(
        doc,
        sheet,
        [
            FoundView(Crop(0, 0, 300, 100), View.RIGHT, "look"),
            FoundView(Crop(0, 200, 300, 150), View.TOP, turns=3),
            FoundView(Crop(400, 200, 300, 150), View.BOTTOM, turns=1),
            FoundView(Crop(400, 0, 100, 100), None),
        ],
    )
    side, plan, under, part = (d.id for d in doc.drawings)
    turned = set_turned(doc, [d.id for d in doc.drawings], 2)
    assert turned.drawing(side).view is View.LEFT
    # It is still left to the person, and its name follows.
    assert turned.drawing(side).unsure == "look"
    assert turned.drawing(side).name == "plate left"
    assert turned.drawing(plan).straightening == Straightening(3)
    assert turned.drawing(part) == doc.drawing(part)
    quarter = set_turned(doc, [plan, under], 1)
    assert quarter.drawing(plan).straightening == Straightening(2)
    assert quarter.drawing(under).straightening == Straightening(2)
    mirrored = with_item(doc, plan, straightening=Straightening(1, 0.0, True))
    assert set_turned(mirrored, [plan], 1).drawing(plan).straightening == Straightening(
        0, 0.0, True
    )


def test_what_is_held_is_not_turned() -> None:
    doc, id_ = placed(View.TOP, Placement(1.0, (0.0, 0.0), (0.0, 0.0)))
    doc = with_item(doc, id_, held=True)
    with pytest.raises(PlacementError, match="held"):
        set_turned(doc, [id_], 1)

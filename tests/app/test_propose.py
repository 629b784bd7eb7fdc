"""Registering by the ink through the window: look at a proposal, take it, add what is shared."""

from __future__ import annotations

import re

import pytest
from PySide6.QtCore import Qt

from dimetron.document import edits
from dimetron.document.model import Document, with_item
from dimetron.geometry import placement as place
from dimetron.geometry.views import View
from dimetron.imaging.frame import Straightening
from dimetron.mesh.primitives import box
from tests.app.conftest import Hand


@pytest.fixture
def loose(hand: Hand, can_project: Document) -> Document:
    """The can's drawings, two under each other's names and all at other sizes than they should."""
    front, side, top = can_project.drawings
    doc = with_item(
        can_project, top.id, placement=place.resized_about(top.placement, 1.4, (0.0, 0.0))
    )
    doc = with_item(doc, front.id, view=View.RIGHT)
    doc = with_item(doc, side.id, view=View.FRONT)
    hand.session.open(doc, None)
    hand.window.navigation.take("propose")
    hand.wait(lambda: len(hand.window.pictures.pyramids) >= 3 and not hand.window.pictures.busy)
    return can_project


def asked(hand: Hand, act: str) -> None:
    hand.act(act)
    words = hand.window.notices.words.text()
    assert words.endswith("…"), words
    hand.wait(lambda: not hand.window.notices.isVisible())


def told(hand: Hand) -> str:
    tool = hand.board.tool
    assert tool is not None
    return tool.told()


def test_a_proposal_is_looked_at_then_taken_and_what_is_shared_is_added(
    hand: Hand, loose: Document
) -> None:
    before = hand.session.committed
    asked(hand, "compare")
    # Only looked at: nothing is done yet.
    assert hand.session.committed is before and hand.doc is not before
    assert "looks like a front view" in told(hand) and "Z 292." in told(hand)
    assert re.search(r"can plan is 2\d\.\d% smaller", told(hand))
    views = {d.id: d.view for d in loose.drawings}
    assert {d.id: d.view for d in hand.doc.drawings} == views
    hand.key(Qt.Key.Key_Escape)
    assert hand.doc is before and told(hand) == ""
    asked(hand, "compare")
    # The button is gone; Enter still means the board.
    hand.key(Qt.Key.Key_Return, widget=hand.window.focusWidget())
    assert hand.session.history.undo_label == "Register by the ink"
    ratios = [
        hand.doc.drawing(d.id).placement.mm_per_px / d.placement.mm_per_px for d in loose.drawings
    ]
    assert max(ratios) / min(ratios) < 1.01
    asked(hand, "shared")
    assert "A level along Z shown by" in told(hand)
    hand.key(Qt.Key.Key_Delete)
    hand.key(Qt.Key.Key_Return)
    assert hand.session.history.undo_label.startswith("Add ")
    (landmark,) = hand.doc.landmarks
    assert "level" in landmark.name
    axes = {m.axis for m in hand.doc.sightings}
    assert len(hand.doc.sightings) >= 2 and len(axes) == 1 and None not in axes
    hand.act("all")
    assert len(hand.doc.landmarks) > 2
    solution = hand.window.registration.solution(hand.doc)
    assert solution is not None and solution.rms_mm < 1.5
    # Anew, what is there already is not suggested again.
    asked(hand, "shared")
    assert "level" not in told(hand) or "left" in told(hand)


def test_a_drawing_that_was_drawn_the_wrong_way_round_is_turned_over(
    hand: Hand, can_project: Document
) -> None:
    side = can_project.drawings[1].id
    doc = with_item(can_project, side, straightening=Straightening(mirrored=True))
    hand.session.open(doc, None)
    hand.window.navigation.take("propose")
    hand.wait(lambda: len(hand.window.pictures.pyramids) >= 3 and not hand.window.pictures.busy)
    asked(hand, "compare")
    assert "Can side is mirrored." in told(hand) and "can side is turned over" in told(hand)
    hand.key(Qt.Key.Key_Return)
    assert hand.doc.drawing(side).placement.mirrored


def test_another_reading_can_be_looked_at_and_work_is_stopped(hand: Hand, loose: Document) -> None:
    front, side, _ = loose.drawings
    doc = with_item(hand.doc, side.id, view=View.RIGHT)
    hand.session.open(with_item(doc, front.id, view=View.FRONT), None)
    hand.wait(lambda: len(hand.window.pictures.pyramids) >= 3 and not hand.window.pictures.busy)
    # A side that is shown as a left view: nothing but habit says which of two is mirrored.
    doc = with_item(hand.doc, side.id, view=View.LEFT)
    hand.session.commit(doc, "call it left")
    asked(hand, "compare")
    tool = hand.board.tool
    assert tool is not None
    (option,) = tool.options()
    # However long its words are, they do not push the route's out of sight.
    route = hand.window.route
    assert any(len(title) > 30 for _, title in option.choices)
    assert route.panel.minimumSizeHint().width() <= route.width()
    before = hand.doc
    option.choose("1")
    assert hand.doc is not before and hand.session.committed is doc
    hand.act("leave")
    assert hand.doc is doc
    hand.act("compare")
    hand.window.workbench.comparer.stop()
    hand.wait(lambda: not hand.window.workbench.comparer._worker.busy)
    assert told(hand) == "" and hand.doc is doc


def test_drawings_are_fitted_to_a_mesh_of_true_size_and_to_each_other(
    hand: Hand, can_project: Document
) -> None:
    front, side, _ = can_project.drawings
    doc = with_item(
        can_project, side.id, placement=place.resized_about(side.placement, 1.7, (0.0, 0.0))
    )
    doc, mesh = edits.with_mesh(doc, box((-87, -350, 10), (87, 62, 302.37)), "can")
    hand.session.open(doc, None)
    hand.window.navigation.take("propose")
    hand.wait(lambda: len(hand.window.pictures.pyramids) >= 3 and not hand.window.pictures.busy)
    hand.session.choose((mesh,))
    asked(hand, "fit-mesh")
    hand.act("take")
    for drawing in can_project.drawings:
        now = hand.doc.drawing(drawing.id).placement.mm_per_px
        assert now == pytest.approx(drawing.placement.mm_per_px, rel=0.012)
    low = hand.doc.drawing(front.id).placement.to_px((0.0, 10.0))
    assert low[1] == pytest.approx(front.placement.to_px((0.0, 0.0))[1], abs=4)
    # Now the front is taken as it was, and the side comes to it.
    hand.session.undo()
    before = hand.doc.drawing(front.id).placement
    hand.session.choose((front.id, side.id))
    asked(hand, "fit-drawing")
    hand.act("take")
    assert hand.doc.drawing(front.id).placement == before
    now = hand.doc.drawing(side.id).placement
    assert now.mm_per_px == pytest.approx(side.placement.mm_per_px, rel=0.01)

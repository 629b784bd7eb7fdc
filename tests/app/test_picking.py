"""Points picked by eye on the board are drawn to the ink, in every tool that picks them."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt

from dimetron.document import bodies, edits, preparing
from dimetron.document.model import Document, source_from
from dimetron.document.preparing import FoundView
from dimetron.geometry.views import View
from dimetron.imaging.frame import Crop
from dimetron.render.overlays import Strokes
from tests.app.conftest import Hand, picture_file

CTRL = Qt.KeyboardModifier.ControlModifier
#: Corners of the frame of ink, in pixels of the picture, from the middle of its lines.
CORNERS = {"upper left": (11.0, 11.0), "upper right": (229.0, 11.0), "lower left": (11.0, 149.0)}
#: By how many screen pixels a hand misses.
MISS = QPoint(4, -3)


def opened(hand: Hand, doc: Document) -> None:
    """Work on a project, with its pictures read and all of it in sight."""
    hand.session.open(doc, None)
    hand.window.pictures.follow(doc)
    hand.wait(lambda: not hand.window.pictures.busy)
    hand.board.fit_all()
    hand.settle()


@pytest.fixture
def framed(hand: Hand, tmp_path: Path) -> str:
    """A front drawing with a frame of ink."""
    data = picture_file(tmp_path, "front.png").read_bytes()
    source = source_from(data, "front.png", "png", (240, 160), 1.0)
    doc, id_ = edits.with_drawing(Document(), source, View.FRONT)
    opened(hand, doc)
    return id_


def near(hand: Hand, id_: str, name: str, miss: QPoint = MISS) -> QPoint:
    """A screen point that misses a corner of the ink a little."""
    drawing = hand.doc.drawing(id_)
    at = drawing.view.to_world(drawing.placement.to_plane(CORNERS[name]))
    return hand.at("elevation", tuple(at)) + miss


def away(hand: Hand, id_: str, name: str) -> float:
    """By how many mm the origin misses a corner of the ink."""
    placement = hand.doc.drawing(id_).placement
    return float(np.hypot(*placement.to_plane(CORNERS[name])))


def test_a_point_is_put_exactly_by_its_ink_and_control_takes_the_very_spot(
    hand: Hand, framed: str
) -> None:
    hand.window.navigation.take("put-point")
    hand.window.tools["put-point"].options()[0].choose("origin")
    spot = near(hand, framed, "lower left")
    hand.point(spot)
    assert hand.window.loupe.isVisible()
    hand.click(spot)
    assert away(hand, framed, "lower left") < 0.5
    hand.session.undo()
    hand.settle()
    hand.click(spot, CTRL)
    assert away(hand, framed, "lower left") > 2.0
    # With ink let go of, no key is needed.
    hand.session.undo()
    hand.window.commands.run("snap.ink")
    hand.click(spot)
    assert away(hand, framed, "lower left") > 2.0


def test_a_known_length_goes_from_ink_to_ink(hand: Hand, framed: str) -> None:
    hand.window.navigation.take("known-length")
    hand.click(near(hand, framed, "upper left"))
    hand.click(near(hand, framed, "upper right", QPoint(-4, 4)))
    tool = hand.window.tools["known-length"]
    assert tool.fields()[0].value == pytest.approx(218.0, abs=0.7)
    tool.fields()[0].enter(436.0)
    assert hand.doc.drawing(framed).placement.mm_per_px == pytest.approx(2.0, rel=4e-3)
    # What was under the pointer lies elsewhere now.
    assert tool.aimed is None
    hand.key(Qt.Key.Key_Escape)
    assert not hand.window.loupe.isVisible()


def test_a_distance_is_read_from_ink_to_ink(hand: Hand, framed: str) -> None:
    hand.window.navigation.take("measure")
    hand.click(near(hand, framed, "upper left"))
    hand.click(near(hand, framed, "lower left"))
    tool = hand.window.tools["measure"]
    assert tool.fields()[0].value == pytest.approx(138.0, abs=0.7)
    # A line that is snapped to comes before the ink.
    hand.window.commands.run("snap.axis")
    drawing = hand.doc.drawing(framed)
    ground = tuple(drawing.view.to_world(np.array([50.0, 0.4])))
    hand.click(hand.at("elevation", ground))
    hand.click(near(hand, framed, "upper right", QPoint(0, 0)))
    assert "Z 149." in tool.words()


def test_a_distance_along_one_axis_sizes_everything(hand: Hand, framed: str) -> None:
    hand.window.navigation.take("measure")
    tool = hand.window.tools["measure"]
    hand.click(near(hand, framed, "upper left"))
    hand.click(near(hand, framed, "lower left"))
    hand.click(near(hand, framed, "lower left"))
    hand.click(near(hand, framed, "upper right"))
    assert tool.fields()[0].value == pytest.approx(np.hypot(218, 138), abs=0.9)
    for way, long in (("across", 218.0), ("up", 138.0)):
        hand.option(way)
        assert tool.fields()[0].value == pytest.approx(long, abs=0.7)
        (line,) = (m for m in tool.overlays() if isinstance(m, Strokes))
        assert np.ptp(line.points, axis=0)[[0, 2]].max() == pytest.approx(long, abs=0.7)
        assert np.ptp(line.points, axis=0).min() == pytest.approx(0, abs=1e-9)
    assert [words for _, words in tool.options()[0].choices] == ["straight", "along X", "along Z"]
    hand.type_into(hand.field("Truly"), "276")
    assert hand.doc.drawing(framed).placement.mm_per_px == pytest.approx(2.0, rel=6e-3)


def test_a_click_just_beyond_a_picture_cut_to_its_ink_still_means_it(
    hand: Hand, framed: str
) -> None:
    hand.session.commit(preparing.recropped(hand.doc, framed, Crop(11, 11, 218, 138)), "Tighten")
    hand.wait(lambda: not hand.window.pictures.busy)
    hand.board.fit_all()
    hand.settle()
    hand.window.navigation.take("put-point")
    hand.window.tools["put-point"].options()[0].choose("origin")
    drawing = hand.doc.drawing(framed)
    corner = tuple(drawing.view.to_world(drawing.placement.to_plane((0.0, 138.0))))
    spot = hand.at("elevation", corner)
    hand.click(spot + QPoint(-14, 0))
    assert "Click on a drawing" in hand.notice()
    hand.click(spot + QPoint(-5, 4))
    placed = hand.doc.drawing(framed).placement
    assert np.abs(placed.to_plane((0.0, 138.0))).max() < 1.5
    # Without ink the picture's own edge is meant.
    hand.session.undo()
    hand.settle()
    hand.click(spot + QPoint(-5, 4), CTRL)
    placed = hand.doc.drawing(framed).placement
    assert placed.to_plane((0.0, 138.0)) == pytest.approx((0, 0), abs=1e-9)


def test_two_points_are_matched_by_their_ink(hand: Hand, framed: str, tmp_path: Path) -> None:
    data = picture_file(tmp_path, "other.png").read_bytes()
    source = source_from(data, "other.png", "png", (240, 160), 0.8)
    doc, other = edits.with_drawing(hand.doc, source, View.FRONT)
    doc = edits.slid(doc, other, (300.0, 12.0))
    opened(hand, doc)
    hand.window.navigation.take("match")
    for name in ("upper left", "lower left"):
        hand.click(near(hand, other, name, QPoint(3, 2)))
        hand.click(near(hand, framed, name, QPoint(-2, 3)))
    mine, theirs = (hand.doc.drawing(i).placement for i in (other, framed))
    for px in CORNERS.values():
        assert np.allclose(mine.to_plane(px), theirs.to_plane(px), atol=0.4)


def test_a_length_in_one_drawing_sizes_its_whole_sheet(hand: Hand, tmp_path: Path) -> None:
    data = picture_file(tmp_path, "sheet.png", (600, 400)).read_bytes()
    doc, sheet = preparing.edits.with_sheet(
        Document(), source_from(data, "sheet.png", "png", (600, 400), 1.0)
    )
    found = [FoundView(Crop(0, 200, 300, 200), View.FRONT),
             FoundView(Crop(300, 200, 300, 200), View.RIGHT)]  # fmt: skip
    doc = preparing.place_all(preparing.with_found_views(doc, sheet, found), sheet)
    front, side = doc.planes
    opened(hand, doc)
    hand.window.navigation.take("known-length")
    view, p = front.view, front.placement
    for px in ((11.0, 150.0), (11.0, 50.0)):
        hand.click(hand.at("elevation", tuple(view.to_world(p.to_plane(px)))), CTRL)
    hand.window.tools["known-length"].fields()[0].enter(300.0)
    sizes = [d.placement.mm_per_px for d in hand.doc.planes]
    assert sizes[0] == sizes[1] == pytest.approx(3.0, rel=0.02)
    lows = [d.placement.corners(hand.doc.size_px(d))[:, 1].min() for d in hand.doc.planes]
    assert lows == pytest.approx([0.0, 0.0], abs=1e-9)
    # Separated, the side is sized by itself; joined again, with the front.
    hand.session.choose((side.id,))
    hand.window.commands.run("size-apart")
    assert bodies.words_of(hand.doc, side.id) == ""
    hand.window.commands.run("size-together")
    assert bodies.words_of(hand.doc, side.id).startswith("Sized with ")


def test_what_was_said_of_a_missed_click_goes_when_something_is_done(
    hand: Hand, framed: str
) -> None:
    hand.window.navigation.take("known-length")
    empty = hand.at("elevation", (0.0, 0.0, 168.0))
    hand.click(empty)
    assert "Click on a drawing" in hand.notice()
    hand.click(near(hand, framed, "upper left"))
    assert hand.notice() == ""
    hand.click(empty)
    assert "Click on a drawing" in hand.notice()
    hand.window.navigation.take("arrange")
    assert hand.notice() == ""
    # What is not the hand's fault stays until it is closed.
    hand.session.warn("The disk is full.")
    hand.session.commit(edits.slid(hand.session.committed, framed, (3.0, 0.0)), "slide")
    assert hand.notice() == "The disk is full."

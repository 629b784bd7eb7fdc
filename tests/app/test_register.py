"""The Register station through the window: mark, say a length, solve, drag, find the suspect."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from dimetron.app.kit.instrument import Action
from dimetron.demo import can
from dimetron.document import edits, registering, sizing
from dimetron.document.model import Document, with_item
from dimetron.geometry import placement as place
from dimetron.geometry.views import View
from dimetron.registration.problem import Landmark, PictureLength, Sighting
from tests.app.conftest import Hand, turn

SLOTS = {View.FRONT: "elevation", View.RIGHT: "side", View.TOP: "plan"}
#: Points of the can as the demo's true placements have them.
POINTS = {"tip": (0.0, -230.0, 215.0), "rim": (70.0, 0.0, 189.0), "foot": (-60.0, 40.0, 5.0),
          "handle": (0.0, 120.0, 240.0)}  # fmt: skip


@pytest.fixture
def askew(hand: Hand, can_project: Document) -> Document:
    """The can with its side at another scale and place, and its plan turned a little."""
    side, plan = can_project.drawings[1], can_project.drawings[2]
    doc = with_item(
        can_project,
        side.id,
        placement=place.moved(place.resized_about(side.placement, 1.2, (0, 0)), (14.0, 9.0)),
    )
    turned = place.turned(plan.placement, 1.5, (400.0, 700.0))
    doc = with_item(doc, plan.id, placement=turned)
    hand.session.open(doc, None)
    hand.window.navigation.take("mark")
    # These points are of the solid, not all on ink.
    hand.window.commands.run("snap.ink")
    hand.board.fit_all()
    hand.settle()
    return can_project


def spot(hand: Hand, true: Document, name: str, view: View) -> QPoint:
    """Where a point of the can is seen now, on a drawing that lies elsewhere than it should."""
    (drawing,) = (d for d in true.drawings if d.view is view)
    px = drawing.placement.to_px(view.to_plane(np.array(POINTS[name])))
    now = hand.doc.drawing(drawing.id)
    return hand.at(SLOTS[view], tuple(view.to_world(now.placement.to_plane(px))))


def mark_all(hand: Hand, true: Document) -> None:
    for name in POINTS:
        for view in SLOTS:
            hand.click(spot(hand, true, name, view))
        hand.key(Qt.Key.Key_Return)


def test_points_marked_in_three_drawings_and_a_length_put_them_where_they_belong(
    hand: Hand, askew: Document
) -> None:
    mark_all(hand, askew)
    assert [m.name for m in hand.doc.landmarks] == ["point", "point 2", "point 3", "point 4"]
    assert len(hand.doc.sightings) == 12
    hand.window.commands.run("ledger")
    ledger = hand.window.ledger
    assert ledger.tables["landmarks"].rowCount() == 4
    assert ledger.words.text().startswith("Mismatch ")
    assert "only proportions are known" in ledger.words.text()
    assert (ledger.foot.a.currentText(), ledger.foot.b.currentText()) == ("point", "point 2")
    ledger.foot.b.setCurrentText("point 4")
    ledger.foot.along.setCurrentIndex(2)
    hand.type_into(ledger.foot.length, "35 cm")
    assert hand.doc.lengths[0].mm == 350
    hand.act("register")
    assert hand.session.history.undo_label == "Register the drawings"
    scale = hand.board.sight.mm_per_px
    for drawing in askew.drawings:
        now = hand.doc.drawing(drawing.id).placement
        # Marked to the pixel of the screen, which is some pixels of the drawing.
        assert now.mm_per_px == pytest.approx(drawing.placement.mm_per_px, rel=0.02)
        assert now.rotation_deg == pytest.approx(0, abs=0.8)
    heights = [edits.extent(hand.doc, d.id, 2) for d in hand.doc.drawings if 2 in d.view.axes]
    assert "mismatch" in hand.window.route.box("register").state
    assert all(h > 0 for h in heights) and scale > 0
    hand.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert hand.doc.drawings[1].placement != askew.drawings[1].placement


def test_registering_is_offered_where_it_gains_and_shows_before_and_after(
    hand: Hand, askew: Document
) -> None:
    def register() -> Action:
        return next(a for a in tool.actions() if a.name == "register")

    tool = hand.window.tools["mark"]
    # One mark in one drawing says nothing of how they lie.
    hand.click(spot(hand, askew, "tip", View.RIGHT))
    assert not (register().enabled or register().main)
    assert "in two drawings" in register().hint
    hand.key(Qt.Key.Key_Return)
    mark_all(hand, askew)
    assert register().enabled and register().main
    before = hand.doc
    hand.act("register")
    after = hand.doc
    assert not register().enabled and "as the marks say" in register().hint
    # What most agree on stays as large as it was: the side is what lay otherwise.
    assert "before, " in tool.told() and "can side is 16." in tool.told().lower()
    assert "can plan is turned by" in tool.told().lower()
    (look,) = (o for o in tool.options() if o.name == "Look at")
    look.choose("before")
    assert hand.doc is before and hand.session.committed is after
    look.choose("after")
    assert hand.doc is after
    look.choose("before")
    hand.act("back")
    assert hand.session.committed is before and "before, " not in tool.told()
    hand.act("register")
    hand.click(spot(hand, askew, "foot", View.FRONT) + QPoint(30, -30))
    assert "before, " not in tool.told() and not any(o.name == "Look at" for o in tool.options())


def test_a_mark_is_dragged_and_the_solution_follows_live(hand: Hand, askew: Document) -> None:
    mark_all(hand, askew)
    before = hand.window.registration.solution(hand.doc)
    start = spot(hand, askew, "rim", View.RIGHT)
    seen = []

    def look() -> None:
        seen.append(hand.window.registration.solution(hand.doc))

    hand.drag(start, start + QPoint(0, -45), before_release=look)
    assert seen[0] is not before and seen[0].rms_mm > before.rms_mm
    assert hand.session.history.undo_label == "Move the mark of point 2"
    told = hand.window.tools["mark"].told()
    assert "oint 2 in can side is" in told or "oint 2 in can front is" in told
    assert "too high" in told or "too low" in told


def test_marking_keeps_to_one_landmark_until_enter_and_escape_drops_it(
    hand: Hand, askew: Document
) -> None:
    tool = hand.window.tools["mark"]
    hand.click(spot(hand, askew, "tip", View.FRONT))
    assert "Now mark point in can side, can plan; Enter: a new one" in tool.words()
    assert "Mark point in a second drawing" in hand.window.route.box("register").to_do.text()
    hand.click(spot(hand, askew, "tip", View.RIGHT))
    assert len(hand.doc.landmarks) == 1
    hand.key(Qt.Key.Key_Return)
    hand.click(spot(hand, askew, "rim", View.FRONT))
    assert len(hand.doc.landmarks) == 2
    hand.act("unmark")
    assert [m.landmark for m in hand.doc.sightings] == ["point", "point"]
    assert not next(a for a in tool.actions() if a.name == "unmark").enabled
    hand.key(Qt.Key.Key_Escape)
    assert tool.hint == tool.words()


def test_the_ledger_renames_lights_up_and_copies(hand: Hand, askew: Document) -> None:
    hand.window.commands.run("ledger")
    mark_all(hand, askew)
    ledger = hand.window.ledger
    # What the marks tell is not pressed together where the route has little room.
    told = hand.window.route.panel._told
    hand.wait(lambda: bool(told.text()) and told.height() >= told.heightForWidth(told.width()))
    ledger.tables["landmarks"].item(1, 0).setText("rim, right")
    assert hand.doc.landmarks[1].name == "rim, right"
    assert {m.landmark for m in hand.doc.sightings} >= {"rim, right"}
    ledger.tables["landmarks"].item(2, 0).setText("rim, right")
    assert "already" in hand.notice()
    assert ledger.tables["landmarks"].item(2, 0).text() == "point 3"
    ledger.tables["landmarks"].setCurrentCell(0, 1)
    assert hand.window.tools["mark"].current == "point"
    QTest.mouseClick(ledger.copy, Qt.MouseButton.LeftButton)
    text = QApplication.clipboard().text()
    assert text.splitlines()[0].startswith("landmark\tX\tY\tZ")
    assert len(text.splitlines()) == 5
    ledger.foot.a.setCurrentText("point")
    ledger.foot.b.setCurrentText("point")
    hand.type_into(ledger.foot.length, "10")
    assert ledger.foot.length.property("wrong") and hand.doc.lengths == ()


def test_marks_go_out_as_csv_and_come_in_again(hand: Hand, askew: Document, tmp_path: Path) -> None:
    mark_all(hand, askew)
    path = tmp_path / "marks.csv"
    hand.window.ledger.foot.save_marks(path)
    before = hand.doc.sightings
    hand.session.open(askew, None)
    hand.window.ledger.foot.bring_marks(path)
    assert [(m.landmark, m.picture) for m in hand.doc.sightings] == [
        (m.landmark, m.picture) for m in before
    ]
    assert np.allclose([m.px for m in hand.doc.sightings], [m.px for m in before], atol=1e-3)
    path.write_text("landmark,view,x_px,y_px\nrim,front,1,x\n")
    hand.window.ledger.foot.bring_marks(path)
    assert "row 2, column y_px" in hand.notice()
    assert hand.doc.sightings[0].landmark == before[0].landmark
    hand.window.ledger.foot.bring_marks(tmp_path / "gone.csv")
    assert "gone.csv" in hand.notice()


def test_the_others_are_registered_to_a_pinned_drawing(hand: Hand, askew: Document) -> None:
    mark_all(hand, askew)
    side = askew.drawings[1].id
    hand.session.choose((side,))
    menu = hand.window.tray.cards[side].more.menu()
    menu.aboutToShow.emit()
    next(a for a in menu.actions() if a.text().startswith("Pin it")).trigger()
    assert hand.doc.pinned == (side,)
    assert "pinned" in hand.window.tray.cards[side].badge.text()
    before = hand.doc.drawing(side).placement
    hand.act("register")
    assert hand.doc.drawing(side).placement == before
    front = hand.doc.drawings[0].placement
    # The side was made 1.2 times as large, so the front follows.
    assert front.mm_per_px / askew.drawings[0].placement.mm_per_px == pytest.approx(1.2, rel=0.02)


def test_a_measured_distance_gets_its_true_value_and_all_goes_along(
    hand: Hand, can_project: Document
) -> None:
    hand.session.open(can_project, None)
    hand.window.navigation.take("measure")
    hand.board.fit_all()
    low, high = hand.doc.meshes[0].mesh.bounds
    hand.click(hand.at("elevation", (0, 0, 0)))
    hand.click(hand.at("elevation", (0, 0, 190)))
    measured = hand.window.tools["measure"]._distance()
    hand.type_into(hand.field("Truly"), "380")
    factor = 380 / measured
    assert factor == pytest.approx(2, rel=0.02)
    now = hand.doc.meshes[0].mesh.bounds
    assert np.allclose(now, np.stack([low, high]) * factor)
    for before, after in zip(can_project.drawings, hand.doc.drawings, strict=True):
        assert after.placement.mm_per_px == pytest.approx(before.placement.mm_per_px * factor)
    hand.type_into(hand.field("Truly"), "0")
    assert hand.field("Truly").property("wrong")


def test_without_a_length_a_solution_goes_by_how_large_things_are_now(
    hand: Hand, askew: Document
) -> None:
    mark_all(hand, askew)
    before = hand.window.registration.solution(hand.doc)
    assert before.gauge.scale
    hand.session.commit(sizing.scaled_project(hand.session.committed, 3.0), "larger")
    after = hand.window.registration.solution(hand.doc)
    ids = [d.id for d in hand.doc.drawings]
    ratios = [after.poses[i].mm_per_px / before.poses[i].mm_per_px for i in ids]
    assert ratios == pytest.approx([3.0] * 3, rel=1e-3)


def test_twins_are_named_and_lie_alike_on_both_sides(hand: Hand, askew: Document) -> None:
    mark_all(hand, askew)
    tool = hand.window.tools["mark"]
    tool.current = "point 2"
    tool.options()[2].choose("point 3")
    solution = hand.window.registration.solution(hand.doc)
    a, b = (np.array(solution.points[n]) for n in ("point 2", "point 3"))
    assert np.allclose(a * [-1, 1, 1], b)
    tool.current = "point 3"
    assert tool.options()[2].value == "point 2"
    tool.options()[2].choose("")
    assert all(m.mirror is None for m in hand.doc.landmarks)


def test_known_coordinates_are_typed_and_left_open_again(hand: Hand, askew: Document) -> None:
    mark_all(hand, askew)
    hand.window.tools["mark"].current = "point 3"
    hand.window.tools["mark"].bench.refresh()
    hand.type_into(hand.field("Known Z"), "5")
    assert registering.landmark_of(hand.doc, "point 3").fixed == (None, None, 5.0)
    solution = hand.window.registration.solution(hand.doc)
    assert solution.points["point 3"][2] == 5.0
    hand.act("open")
    assert registering.landmark_of(hand.doc, "point 3").fixed == (None, None, None)


def test_marks_stay_on_what_they_mark_when_a_crop_changes(
    hand: Hand, can_project: Document
) -> None:
    from dimetron.document import preparing
    from dimetron.imaging.frame import Crop

    front = can_project.drawings[0].id
    doc = registering.marked(can_project, "tip", front, (300.0, 400.0))
    after = preparing.recropped(doc, front, Crop(50.0, 70.0, 700.0, 900.0))
    assert after.sightings[0].px == pytest.approx((250.0, 330.0))
    assert can.LENGTH_MM == 412


def test_a_mark_is_drawn_to_the_ink_and_the_magnifier_says_to_what(
    hand: Hand, askew: Document
) -> None:
    hand.window.commands.run("snap.ink")
    hand.wait(lambda: not hand.window.pictures.busy)
    front = hand.doc.drawings[0]
    # The top of the handle: the farthest point of a curve.
    true = front.placement.to_px((0.0, can.solid().bounds[1][2]))
    beside = front.placement.to_plane(np.add(true, (4, 6)))
    at = hand.at("elevation", tuple(front.view.to_world(beside)))
    hand.point(at)
    loupe = hand.window.loupe
    assert loupe.isVisible() and loupe._kind in ("extreme", "corner", "stroke")
    hand.click(at)
    (mark,) = hand.doc.sightings
    assert abs(mark.px[1] - true[1]) < 2.5
    hand.session.undo()
    # Control takes the very spot.
    hand.click(at, Qt.KeyboardModifier.ControlModifier)
    there = front.placement.to_px(front.view.to_plane(hand.world("elevation", at)))
    spots = [np.array(m.px) for m in hand.doc.sightings]
    assert min(float(np.hypot(*(px - there))) for px in spots) < 0.5
    hand.point(hand.at("space", (0.0, 0.0, 100.0)))
    assert not loupe.isVisible()


def test_a_guide_counts_one_way_and_a_mark_that_does_not_count_stays_to_be_seen(
    hand: Hand, askew: Document
) -> None:
    mark_all(hand, askew)
    tool = hand.window.tools["mark"]
    hand.click(spot(hand, askew, "rim", View.RIGHT))
    assert tool.options()[1].name == "This mark counts along"
    tool.options()[1].choose("2")
    (mark,) = [m for m in hand.doc.sightings if m.axis is not None]
    assert mark.axis == 2 and hand.doc.drawing(mark.picture).view is View.RIGHT
    hand.type_into(hand.field("Picked to, px"), "0.5")
    (mark,) = [m for m in hand.doc.sightings if m.axis is not None]
    assert mark.sigma_px == 0.5
    # A mark far off is left open: nothing follows from it, and its miss is still drawn.
    start = spot(hand, askew, "handle", View.RIGHT)
    hand.drag(start, start + QPoint(14, -22))
    tangled = hand.window.registration.solution(hand.doc)
    (count,) = tool.switches()
    count.turn(False)
    assert hand.session.history.undo_label == "Leave open point 4 in can side"
    calm = hand.window.registration.solution(hand.doc)
    assert tangled is not None and calm is not None and calm.rms_mm < 0.5 * tangled.rms_mm
    lines = [o for o in tool.overlays() if getattr(o, "role", "") == "warning"]
    assert len(lines) == 12 and sum(o.dash > 0 for o in lines) == 1
    hand.session.undo()
    assert all(m.counts for m in hand.doc.sightings)


def test_exchanged_marks_are_recognised_and_set_right(hand: Hand, askew: Document) -> None:
    mark_all(hand, askew)
    doc = hand.doc
    for name, point in (("neck", (10.0, -150.0, 120.0)), ("bead", (-79.0, 10.0, 153.0))):
        for drawing in askew.drawings:
            x, y = drawing.placement.to_px(drawing.view.to_plane(np.array(point)))
            doc = registering.marked(doc, name, drawing.id, (float(x), float(y)))
    hand.session.commit(doc, "more")
    right = hand.doc.drawings[1].id
    px = {m.landmark: m.px for m in hand.doc.sightings if m.picture == right}
    doc = registering.marked(hand.doc, "point 3", right, px["point 4"])
    doc = registering.marked(doc, "point 4", right, px["point 3"])
    hand.session.commit(doc, "exchange")
    said = hand.window.registration.problems(hand.doc)
    assert any("seem to be exchanged in can side" in words for words in said), said
    hand.act("repair")
    after = {m.landmark: m.px for m in hand.doc.sightings if m.picture == right}
    assert after == px
    assert hand.session.history.undo_label.startswith("Exchange point")


def test_lengths_and_trust_are_typed_in_the_ledger(hand: Hand, askew: Document) -> None:
    mark_all(hand, askew)
    hand.window.commands.run("ledger")
    ledger = hand.window.ledger
    hand.type_into(ledger.foot.length, "300 mm")
    front = hand.doc.drawings[0]
    known = PictureLength(front.id, (100.0, 100.0), (100.0, 600.0), 107.0)
    hand.session.commit(registering.with_drawing_length(hand.doc, known), "keep")
    ledger.turn_to("lengths")
    assert ledger.tables["lengths"].rowCount() == 2
    assert ledger.tables["lengths"].item(1, 1).text() == f"in {front.name}"
    ledger.tables["lengths"].item(0, 3).setText("31 cm")
    ledger.tables["lengths"].item(0, 4).setText("2 mm")
    assert (hand.doc.lengths[0].mm, hand.doc.lengths[0].tolerance_mm) == (310, 2)
    ledger.tables["lengths"].item(0, 3).setText("soon")
    assert "cannot be read" in hand.window.notices.words.text()
    assert ledger.tables["lengths"].item(0, 3).text() == "310 mm"
    # A length that is a check only is compared, and nothing follows from it.
    ledger.tables["lengths"].item(0, 4).setText("check")
    assert (
        not hand.doc.lengths[0].counts
        and ledger.tables["lengths"].item(0, 4).text() == "only a check"
    )
    solution = hand.window.registration.solution(hand.doc)
    assert solution is not None and solution.problem.lengths == ()
    assert ledger.tables["lengths"].item(0, 6).text() not in ("–", "0 mm")
    ledger.tables["lengths"].item(0, 4).setText("")
    assert hand.doc.lengths[0].counts and ledger.tables["lengths"].item(0, 4).text() == "usual"
    ledger.tables["lengths"].setCurrentCell(0, 0)
    assert hand.window.tools["mark"].current == hand.doc.lengths[0].a
    ledger.tables["lengths"].setCurrentCell(1, 0)
    assert hand.session.chosen == (front.id,)
    QTest.mouseClick(ledger.drop, Qt.MouseButton.LeftButton)
    assert hand.doc.drawing_lengths == () and len(hand.doc.lengths) == 1
    ledger.turn_to("drawings")
    ledger.tables["drawings"].item(2, 1).setText("0.1")
    assert hand.doc.trust == ((hand.doc.drawings[2].id, 0.1),)
    ledger.tables["drawings"].item(0, 2).setText("yes")
    assert hand.doc.pinned == (front.id,)
    ledger.tables["drawings"].item(1, 3).setText("perhaps")
    assert "yes or no" in hand.window.notices.words.text()
    ledger.turn_to("landmarks")
    ledger.tables["landmarks"].item(1, 3).setText("=180+9")
    assert hand.doc.landmarks[1].fixed == (None, None, 189.0)
    ledger.tables["landmarks"].item(1, 3).setText("")
    assert hand.doc.landmarks[1].fixed == (None, None, None)
    # What all this comes to stands in the title block and on the cards.
    assert hand.window.title_block.mismatch.text().startswith("mismatch ")
    assert "off " in hand.window.tray.cards[front.id].badge.text()


def test_a_known_length_in_a_drawing_can_be_kept_for_registering(
    hand: Hand, askew: Document
) -> None:
    front = hand.doc.drawings[0]
    before = front.placement
    hand.window.navigation.take("known-length")
    hand.option("kept")
    for x in (-60.0, 60.0):
        hand.click(hand.at("elevation", (x, 0.0, 100.0)))
    hand.type_into(hand.field("Real length"), "12 cm")
    (known,) = hand.doc.drawing_lengths
    assert known.mm == 120 and known.px * before.mm_per_px == pytest.approx(120, abs=1.5)
    assert hand.doc.drawing(front.id).placement == before


def test_many_marks_are_solved_without_holding_the_window_up(hand: Hand, askew: Document) -> None:
    rng = np.random.default_rng(5)
    doc = hand.doc
    points = rng.uniform((-80, -200, 0), (80, 100, 280), (230, 3))
    marks = []
    for k, point in enumerate(points):
        for drawing in askew.drawings:
            x, y = drawing.placement.to_px(drawing.view.to_plane(point))
            marks.append(Sighting(f"m{k}", drawing.id, (float(x), float(y))))
    names = tuple(Landmark(f"m{k}") for k in range(len(points)))
    doc = replace(doc, landmarks=names, sightings=tuple(marks))
    registration = hand.window.registration
    registration.be_patient(0.0)
    hand.session.commit(doc, "many")
    assert registration.solution(hand.doc) is None
    assert "Working out" in registration.fault(hand.doc)
    hand.wait(lambda: registration.solution(hand.doc) is not None)
    solution = registration.solution(hand.doc)
    assert solution is not None and solution.rms_px < 0.01
    hand.wait(lambda: not registration.busy)
    assert hand.window.title_block.mismatch.text() == "mismatch 0 mm"
    # Another state: what was solved before is shown, but nothing can be done by it.
    tool = hand.window.tools["mark"]
    front = hand.doc.drawings[0].id
    for names in (("m0", "m1"), ("m0", "m2")):
        px = {m.landmark: m.px for m in hand.doc.sightings if m.picture == front}
        doc = registering.marked(hand.doc, names[0], front, px[names[1]])
        doc = registering.marked(doc, names[1], front, px[names[0]])
        hand.session.commit(doc, "exchange")
        assert registration.solution(hand.doc) is not None
        assert "Working out" in registration.fault(hand.doc) and "Working out" in tool.told()
        assert registration.advice(hand.doc).findings == ()
        assert not next(a for a in tool.actions() if a.name == "register").enabled
    hand.wait(lambda: not registration.fault(hand.doc))
    hand.wait(lambda: next(a for a in tool.actions() if a.name == "register").enabled)
    hand.wait(lambda: registration.advice(hand.doc).suspects != ())


def test_marks_that_contradict_each_other_hold_nothing_up_and_undo_finds_what_was_solved(
    hand: Hand, askew: Document
) -> None:
    rng, doc = np.random.default_rng(3), hand.doc
    registration = hand.window.registration
    registration.be_patient(0.0)
    for k in range(5):
        for drawing in doc.drawings:
            px = (float(rng.uniform(50, 900)), float(rng.uniform(50, 900)))
            doc = registering.marked(doc, f"m{k}", drawing.id, px)
        hand.session.commit(doc, f"mark {k}")
        # Nothing of it is worked out here and now.
        assert registration.solution(hand.doc) is None or registration.fault(hand.doc)
        assert registration.advice(hand.doc).suspects == ()
        hand.wait(lambda: not registration.busy and not registration.fault(hand.doc))
        registration.advice(hand.doc)
        hand.wait(lambda: not registration.busy)
    known = {len(hand.doc.sightings): registration.solution(hand.doc)}
    while hand.session.history.undo_label != "mark 0":
        hand.session.undo()
        assert not registration.busy, "it was solved before"
        known[len(hand.doc.sightings)] = registration.solution(hand.doc)
    for _ in range(4):
        hand.session.redo()
        assert registration.solution(hand.doc) is known[len(hand.doc.sightings)]


def test_landmarks_over_each_other_are_marked_at_the_same_spot_and_shift_takes_hold(
    hand: Hand, askew: Document
) -> None:
    tool = hand.window.tools["mark"]
    at = spot(hand, askew, "rim", View.TOP)
    hand.click(at)
    hand.key(Qt.Key.Key_Return)
    hand.click(spot(hand, askew, "foot", View.FRONT))
    # The foot under the rim: it is meant, though the rim's mark is there already.
    hand.click(at)
    marked = {(m.landmark, hand.doc.drawing(m.picture).view) for m in hand.doc.sightings}
    assert ("point 2", View.TOP) in marked and ("point", View.TOP) in marked
    hand.key(Qt.Key.Key_Return)
    hand.click(spot(hand, askew, "tip", View.FRONT))
    count = len(hand.doc.sightings)
    hand.click(at, Qt.KeyboardModifier.ShiftModifier)
    assert len(hand.doc.sightings) == count and tool.current in ("point", "point 2")


def test_what_the_marks_tell_is_not_pressed_together_beside_the_ledger(
    hand: Hand, can_project: Document
) -> None:
    doc = can_project
    spots = ((0.0, -255.0, 222.0), (77.0, 0.0, 189.0), (0.0, 150.0, 150.0), (-85.0, 0.0, 5.0))
    for number, at in enumerate((*spots, (80.0, 0.0, 50.0))):
        for drawing in doc.drawings:
            px = drawing.placement.to_px(drawing.view.to_plane(np.array(at)))
            px = px + np.array([14.0, -30.0]) * (number == 1 and drawing.view is View.RIGHT)
            spot = (float(px[0]), float(px[1]))
            doc = registering.marked(doc, f"m{number}", drawing.id, spot)
    hand.session.open(doc, None)
    hand.window.commands.run("tool.mark")
    hand.window.commands.run("ledger")
    told = hand.window.route.panel._told
    hand.wait(lambda: "too high" in told.text() and not hand.window.registration.busy)
    for _ in range(5):
        turn()
    assert told.height() >= told.heightForWidth(told.width()) > 20

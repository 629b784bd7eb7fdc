"""Pictures as people really have them, through the window: light on dark, shaded, laid out
anyhow."""

from __future__ import annotations

import io
from dataclasses import replace

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from dimetron.demo import beetle, can, project, snail
from dimetron.document import preparing
from dimetron.document.model import Drawing
from dimetron.geometry.views import View
from dimetron.imaging.figure.kind import Kind
from dimetron.imaging.figure.said import AS_FOUND, MOST_TOUCHES
from tests.app.conftest import Person, turn
from tests.imaging.test_said import on_bench, squared
from tests.registration.test_worn import treated


def lay(person: Person, name: str) -> None:
    person.window.navigation.open_station("prepare")
    ((file, data),) = project.pictures(name).items()
    person.lay(data, file)
    person.window.navigation.take_at_sheet("cut")
    person.rest()


def ink_mm(person: Person, drawing: Drawing) -> np.ndarray:
    """Width and height of what a drawing shows, in mm."""
    person.wait(lambda: person.session.ink_of(person.doc, drawing) is not None)
    left, top, right, bottom = person.session.ink_of(person.doc, drawing)
    return np.array([right - left, bottom - top]) * drawing.placement.mm_per_px


def assert_of(person: Person, size: np.ndarray, share: float) -> None:
    """All drawings show an object of that shape, in one scale."""
    known = person.doc.drawings
    scale = np.median([ink_mm(person, d) / size[list(d.view.axes)] for d in known])
    for drawing in known:
        wide = ink_mm(person, drawing) / size[list(drawing.view.axes)]
        assert wide == pytest.approx([scale, scale], rel=share), drawing.name


def test_the_beetle_stands_registered_after_two_actions(person: Person) -> None:
    lay(person, "beetle-sheet")
    person.found()
    assert "Named by what they show" in person.notice()
    assert {d.view for d in person.doc.drawings} == {View.FRONT, View.BACK, View.RIGHT, View.TOP}
    assert not any(d.unsure for d in person.doc.drawings)
    person.act("place-all")
    person.rest()
    solid = beetle.solid()
    assert_of(person, np.subtract(*solid.bounds[::-1]), 0.006)
    # Middles lie over each other along every axis, the ground under them.
    for drawing in person.doc.drawings:
        corners = drawing.placement.world_corners(drawing.view, person.doc.size_px(drawing), 0.0)
        low, high = corners.min(axis=0), corners.max(axis=0)
        middle = (low + high) / 2
        for axis in drawing.view.axes:
            wanted = high[2] / 2 if axis == 2 else 0.0
            assert middle[axis] == pytest.approx(wanted, abs=0.01 * float(np.ptp(corners)))


def test_the_snail_is_registered_though_it_has_no_lines(person: Person) -> None:
    lay(person, "snail-sheet")
    person.found()
    by_view = {d.view: d for d in person.doc.drawings}
    assert set(by_view) == {View.FRONT, View.RIGHT, View.TOP}
    person.session.choose((by_view[View.TOP].id,))
    if by_view[View.TOP].unsure:
        # What is not sure is taken with one click.
        person.act("take")
        assert not person.drawing(View.TOP).unsure
    person.act("place-all")
    person.rest()
    assert_of(person, np.subtract(*snail.solid().bounds[::-1]), 0.01)
    card = person.window.tray.cards[by_view[View.TOP].id]
    person.wait(lambda: "shaded" in card.badge.text())


def test_a_set_is_turned_around_and_by_quarters(person: Person) -> None:
    lay(person, "beetle-sheet")
    person.found()
    front, right = person.drawing(View.FRONT).id, person.drawing(View.RIGHT).id
    top = person.drawing(View.TOP)
    person.act("around")
    assert person.doc.drawing(front).view is View.BACK
    assert person.doc.drawing(right).view is View.LEFT
    turns = person.doc.drawing(top.id).straightening.turns
    assert (turns - top.straightening.turns) % 4 == 2
    person.act("place-all")
    # Later as well: all that stand in space, with one key.
    person.session.choose(())
    person.window.commands.run("set-quarter")
    assert person.doc.drawing(front).view is View.LEFT
    person.session.undo()
    assert person.doc.drawing(front).view is View.BACK
    person.window.commands.run("set-around")
    assert person.doc.drawing(front).view is View.FRONT
    held = [d.id for d in person.doc.drawings][:1]
    person.session.choose(tuple(held))
    person.window.commands.run("hold")
    person.window.commands.run("set-around")
    assert person.doc.drawing(front).view is View.FRONT
    assert "held" in person.notice()


def test_how_a_drawing_is_drawn_is_said_on_its_card_and_can_be_set(person: Person) -> None:
    lay(person, "snail-sheet")
    person.found()
    person.act("place-all")
    person.window.navigation.open_station("place")
    id_ = person.drawing(View.RIGHT).id
    person.session.choose((id_,))
    person.rest()
    card = person.window.tray.cards[id_]
    QTest.mouseClick(card.tabs[1], Qt.MouseButton.LeftButton)
    turn()
    page = card.seen
    assert page.drawn.currentText() == "auto: shaded"
    page.drawn.setCurrentIndex(page.drawn.findData(Kind.LINES))
    page.drawn.activated.emit(page.drawn.currentIndex())
    person.wait(lambda: person.session.kind_of(person.doc, person.doc.drawing(id_)) is Kind.LINES)
    assert "shaded" not in card.badge.text()
    page.alone.click()
    assert person.doc.drawing(id_).showing.ink_alone
    person.session.undo()
    person.session.undo()
    assert person.doc.drawing(id_).drawn is None
    person.wait(lambda: page.drawn.currentText() == "auto: shaded")


def lay_picture(person: Person, picture: Image.Image, name: str, tool: str) -> None:
    person.window.navigation.open_station("prepare")
    out = io.BytesIO()
    picture.save(out, "PNG")
    person.lay(out.getvalue(), name)
    person.window.navigation.take_at_sheet(tool)
    person.rest()


def test_lines_of_other_colours_are_guides(person: Person) -> None:
    lay_picture(person, squared(), "squared.png", "figure")
    tool = person.view.tool
    person.wait(lambda: tool.reading is not None)
    boxes = [s.name for s in tool.switches()]
    assert sorted(boxes) == [f"{c} lines are guides" for c in ("Black", "Blue", "Red")]
    person.switch("Blue lines are guides")
    person.wait(lambda: tool.reading is not None)
    person.switch("Red lines are guides")
    person.wait(lambda: tool.reading is not None)
    assert len(person.doc.sheets[0].figure.guides) == 2
    person.window.navigation.take_at_sheet("cut")
    person.pull(person.on(200, 120), person.on(760, 560))
    person.rest()
    person.act("tighten")
    person.rest()
    crop = person.doc.drawings[0].crop
    assert (crop.left, crop.top) == pytest.approx((300, 200), abs=3)
    assert (crop.right, crop.bottom) == pytest.approx((621, 461), abs=3)
    person.session.undo()
    person.session.undo()
    person.session.undo()
    assert len(person.doc.sheets[0].figure.guides) == 1


def test_an_object_is_cut_from_its_bench_with_the_brush(person: Person) -> None:
    lay_picture(person, on_bench(), "bench.png", "figure")
    tool, view = person.view.tool, person.view
    person.wait(lambda: tool.reading is not None)
    assert ("", "auto: an object in a photo") in tool.options()[0].choices
    bare = view.grab().toImage().pixelColor(person.on(500, 560))

    def pale() -> bool:
        return view.grab().toImage().pixelColor(person.on(500, 560)) == bare

    assert pale()
    # What is gone over belongs to it, and is shown so.
    person.pull(person.on(440, 470), person.on(500, 560))
    person.wait(lambda: tool.reading is not None)
    person.rest()
    (touch,) = person.doc.sheets[0].figure.touches
    assert touch.adds
    assert touch.points[-1] == pytest.approx((500 / 900, 560 / 640), abs=0.004)
    assert not pale()
    # A drawing of all of it reaches as far.
    person.window.navigation.take_at_sheet("cut")
    person.pull(person.on(120, 60), person.on(860, 630))
    person.rest()
    person.act("tighten")
    person.rest()
    assert person.doc.drawings[0].crop.bottom == pytest.approx(566, abs=8)
    person.listed("This rectangle shows", "front")
    card = person.window.tray.cards[person.doc.drawings[0].id]
    person.wait(lambda: "photo" in card.badge.text())
    # Ctrl does the opposite, and typed widths and arrow keys set the brush.
    person.window.navigation.take_at_sheet("figure")
    person.session.choose(())
    person.type_into(person.field("Its width"), "8")
    view.setFocus()
    QTest.keyClick(view, Qt.Key.Key_Up)
    assert tool.fields()[0].value == pytest.approx(10)
    QTest.keyClick(view, Qt.Key.Key_Down)
    at = person.on(500, 560)
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, at)
    person.wait(lambda: tool.reading is not None)
    assert [t.adds for t in person.doc.sheets[0].figure.touches] == [True, False]
    assert pale()
    person.act("wipe")
    assert person.doc.sheets[0].figure == AS_FOUND
    # A sheet holds no more strokes than its file does.
    full = replace(AS_FOUND, touches=(touch,) * MOST_TOUCHES)
    doc = preparing.with_figure(person.doc, person.doc.sheets[0].id, full)
    person.session.commit(doc, "Many strokes")
    person.tap(at)
    assert "wipe the brush" in person.notice()
    assert person.doc.sheets[0].figure == full


def test_what_a_sheet_shows_is_said(person: Person) -> None:
    lay_picture(person, squared(), "squared.png", "figure")
    tool = person.view.tool
    person.wait(lambda: tool.reading is not None)
    assert ("", "auto: dark lines") in tool.options()[0].choices
    for value, kind, light in (("filled", Kind.FILLED, False), ("light", Kind.LINES, True)):
        person.listed("The sheet shows", value)
        person.wait(lambda: tool.reading is not None)
        medium = tool.reading.medium
        assert (medium.kind, medium.light) == (kind, light)
        assert tool.options()[0].value == value
    person.act("reset")
    assert person.doc.sheets[0].figure == AS_FOUND
    tool.fields()[0].enter(1.0)
    with pytest.raises(ValueError, match=r"0\.1 % to 20 %"):
        tool.fields()[0].enter(50.0)


def test_a_worn_sheet_is_registered(person: Person) -> None:
    lay_picture(person, treated("can", "worn"), "worn.png", "cut")
    person.found()
    assert {d.view for d in person.doc.drawings} >= {View.FRONT, View.RIGHT, View.TOP}
    for drawing in person.doc.drawings:
        if drawing.unsure and drawing.named:
            person.session.choose((drawing.id,))
            person.act("take")
    person.act("place-all")
    person.rest()
    assert_of(person, np.subtract(*can.solid().bounds[::-1]), 0.02)

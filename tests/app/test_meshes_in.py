"""Meshes that are brought in through the window."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import trimesh
from PySide6.QtCore import QMimeData, QPoint, Qt, QUrl
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from dimetron.app.shell.mesh_bringer import MeshDialog
from dimetron.document import edits
from dimetron.document.model import Document
from dimetron.geometry.placement import resized_about
from tests.app.conftest import Hand, picture_file, turn


@pytest.fixture
def bar(tmp_path: Path) -> Path:
    trimesh.creation.box((10, 20, 30)).export(tmp_path / "bar.stl")
    return tmp_path / "bar.stl"


def middle(hand: Hand) -> QPoint:
    rect = hand.board.rects()["elevation"]
    return QPoint(int(rect.x + rect.w / 2), int(rect.y + rect.h / 2))


def asked(hand: Hand) -> MeshDialog:
    hand.wait(lambda: hand.window.mesh_bringer.dialog is not None)
    dialog = hand.window.mesh_bringer.dialog
    assert dialog is not None
    return dialog


def choose(dialog: MeshDialog, unit: str, up: str) -> None:
    for field, value in ((dialog.unit, unit), (dialog.up, up)):
        field.setCurrentIndex(field.findData(value))


def click(button: object) -> None:
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)


def test_a_dropped_mesh_shows_its_size_and_comes_in_as_it_is_meant(hand: Hand, bar: Path) -> None:
    hand.drop([bar], middle(hand))
    dialog = asked(hand)
    assert "10" in dialog.size_words.text()
    assert not hand.doc.meshes
    choose(dialog, "cm", "y")
    assert "300" in dialog.size_words.text()
    click(dialog.take)
    hand.wait(lambda: len(hand.doc.meshes) == 1)
    low, high = hand.doc.meshes[0].mesh.bounds
    assert np.allclose(high - low, (100, 300, 200))
    assert hand.doc.meshes[0].name == "bar"
    assert hand.session.chosen == (hand.doc.meshes[0].id,)
    hand.window.commands.run("undo")
    assert not hand.doc.meshes


def test_how_it_was_meant_is_remembered_for_such_files(hand: Hand, bar: Path) -> None:
    for number, (unit, up) in enumerate((("mm", "z"), ("in", "y"))):
        hand.drop([bar], middle(hand))
        dialog = asked(hand)
        assert (dialog.unit.currentData(), dialog.up.currentData()) == (unit, up)
        choose(dialog, "in", "y")
        click(dialog.take)
        hand.wait(lambda count=number + 1: len(hand.doc.meshes) == count)
    other = bar.with_suffix(".off")
    trimesh.creation.box((1, 1, 1)).export(other)
    hand.drop([other], middle(hand))
    assert asked(hand).unit.currentData() == "mm"
    click(asked(hand).leave)
    hand.settle()
    assert len(hand.doc.meshes) == 2


def test_pictures_and_meshes_dropped_together(hand: Hand, bar: Path, tmp_path: Path) -> None:
    hand.drop([bar, picture_file(tmp_path, "front.png")], middle(hand))
    click(asked(hand).take)
    hand.wait(lambda: len(hand.doc.meshes) == 1 and len(hand.doc.drawings) == 1)


def test_several_meshes_are_asked_about_one_after_the_other(hand: Hand, bar: Path) -> None:
    broken = bar.with_name("broken.obj")
    broken.write_text("v 0 0 0\n")
    odd = bar.with_name("odd.obj")
    odd.write_text("v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\nf 1 2 9\n")
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(path)) for path in (bar, broken, odd)])
    QApplication.clipboard().setMimeData(mime)
    hand.window.arrivals.paste()
    first = asked(hand)
    click(first.take)
    hand.wait(lambda: hand.window.mesh_bringer.dialog not in (None, first))
    assert "broken.obj holds no mesh" in hand.window.notices.words.text()
    told = [label.text() for label in asked(hand).findChildren(type(first.size_words))]
    assert any("does not exist" in words for words in told)
    click(asked(hand).take)
    hand.wait(lambda: len(hand.doc.meshes) == 2)
    assert not hand.window.mesh_bringer.active


def test_reading_a_mesh_can_be_stopped(hand: Hand, bar: Path) -> None:
    hand.window.mesh_bringer.bring([bar, bar])
    reading = hand.window.mesh_bringer._reading
    hand.window.mesh_bringer.stop()
    # The process that reads is told, too.
    assert reading is not None and reading.stopped
    hand.wait(lambda: not hand.window.mesh_bringer.active)
    hand.window.mesh_bringer._worker.wait()
    turn()
    assert hand.window.mesh_bringer.dialog is None
    assert not hand.doc.meshes


def test_what_was_read_when_it_was_stopped_is_not_asked_about(hand: Hand, bar: Path) -> None:
    bringer = hand.window.mesh_bringer
    bringer.bring([bar])
    # Its answer is on the way.
    bringer._worker.wait()
    bringer.stop()
    turn()
    assert bringer.dialog is None and not bringer.active
    bringer.bring([bar])
    click(asked(hand).take)
    hand.wait(lambda: len(hand.doc.meshes) == 1)


def test_drawings_are_fitted_to_a_mesh_of_known_size_that_was_brought(
    hand: Hand, can_project: Document, tmp_path: Path
) -> None:
    """A model of true size comes, in inches; all drawings are made as large as it; and back."""
    sizes = {d.id: d.placement.mm_per_px for d in can_project.drawings}
    doc = can_project
    for drawing in doc.drawings:
        doc = edits.with_placement(
            doc, drawing.id, resized_about(drawing.placement, 0.6, (0.0, 0.0))
        )
    hand.session.open(doc, None)
    hand.wait(lambda: len(hand.window.pictures.pyramids) >= 3 and not hand.window.pictures.busy)
    solid = trimesh.creation.box(bounds=[(-87, -350, 10), (87, 62, 302.37)])
    solid.apply_scale(1 / 25.4)
    solid.export(tmp_path / "can.stl")
    hand.drop([tmp_path / "can.stl"], middle(hand))
    dialog = asked(hand)
    choose(dialog, "in", "z")
    click(dialog.take)
    hand.wait(lambda: len(hand.doc.meshes) == len(doc.meshes) + 1)
    hand.window.navigation.take("propose")
    hand.settle()
    hand.act("fit-mesh")
    hand.wait(lambda: hand.session.previewing)
    hand.act("take")
    for drawing in hand.doc.drawings:
        assert drawing.placement.mm_per_px == pytest.approx(sizes[drawing.id], rel=0.012)
    hand.window.commands.run("undo")
    for drawing in hand.doc.drawings:
        assert drawing.placement == doc.drawing(drawing.id).placement
    assert len(hand.doc.meshes) == len(doc.meshes) + 1
    hand.window.commands.run("undo")
    assert hand.doc is doc

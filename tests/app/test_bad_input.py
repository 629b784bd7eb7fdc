"""What goes wrong gets one clear sentence; the window lives on and nothing is lost."""

from __future__ import annotations

import io
import time
from pathlib import Path

import pytest
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMessageBox, QPushButton

from dimetron.app.shell.window import Window
from dimetron.app.work.settings import Settings
from dimetron.document import recovery
from dimetron.document.container import load, save
from dimetron.document.edits import with_mesh
from dimetron.document.model import Document
from dimetron.geometry.views import View
from dimetron.mesh.primitives import box
from tests.app.conftest import Hand, picture_file, turn
from tests.imaging.test_hostile import ENDLESS
from tests.imaging.test_read import png_header


def drop_on(hand: Hand, path: Path, slot: str = "elevation") -> None:
    rect = hand.board.rects()[slot]
    hand.drop([path], QPoint(int(rect.x + rect.w / 2), int(rect.y + rect.h / 2)))


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("letter.png", b"Dear workshop,", "not a picture"),
        ("empty.jpg", b"", "empty (0 bytes)"),
        ("bomb.png", png_header(60000, 60000), "60000 × 60000"),
    ],
)
def test_bad_pictures_are_told_and_the_good_one_still_comes(
    hand: Hand, three: list[Path], tmp_path: Path, name: str, data: bytes, words: str
) -> None:
    bad = tmp_path / name
    bad.write_bytes(data)
    drop_on(hand, bad)
    hand.wait(lambda: words in hand.notice())
    assert name in hand.notice()
    assert hand.doc.empty
    drop_on(hand, three[0])
    hand.wait(lambda: len(hand.doc.drawings) == 1)


@pytest.mark.parametrize("ending", ["png", "jpg"])
def test_a_truncated_picture(hand: Hand, tmp_path: Path, ending: str) -> None:
    whole = picture_file(tmp_path, f"whole.{ending}", (800, 600)).read_bytes()
    cut = tmp_path / f"cut.{ending}"
    cut.write_bytes(whole[: len(whole) // 2])
    drop_on(hand, cut)
    hand.wait(lambda: "damaged or cut short" in hand.notice())
    assert hand.doc.empty


def test_a_drawing_that_takes_for_ever_is_stopped_while_the_window_goes_on(
    hand: Hand, tmp_path: Path
) -> None:
    (tmp_path / "endless.svg").write_bytes(ENDLESS)
    drop_on(hand, tmp_path / "endless.svg")
    hand.wait(lambda: hand.notice() == "Reading 1 picture…")
    longest, last, ends = 0.0, time.monotonic(), time.monotonic() + 2.0
    while time.monotonic() < ends:
        QTest.qWait(1)
        now = time.monotonic()
        longest, last = max(longest, now - last), now
    assert longest < 1.0, "the window stood still"
    assert hand.window.bringer.active
    begin = time.monotonic()
    stop = next(b for b in hand.window.notices.findChildren(QPushButton) if b.text() == "Stop")
    QTest.mouseClick(stop, Qt.MouseButton.LeftButton)
    hand.wait(lambda: not hand.window.bringer.active)
    assert time.monotonic() - begin < 5
    assert hand.doc.empty and hand.notice() == ""


def test_a_folder_and_a_file_that_vanished(hand: Hand, tmp_path: Path) -> None:
    drop_on(hand, tmp_path)
    hand.wait(lambda: "is a folder" in hand.notice())
    drop_on(hand, tmp_path / "gone.png")
    hand.wait(lambda: "cannot be read" in hand.notice())


def test_several_at_once_go_by_their_names_and_one_bad_one_stops_none(
    hand: Hand, tmp_path: Path
) -> None:
    paths = [picture_file(tmp_path, n) for n in ("prop front.png", "prop plan.png")]
    bad = tmp_path / "prop side.png"
    bad.write_bytes(b"\x89PNG\r\n\x1a\nwhat")
    rect = hand.board.rects()["space"]
    hand.drop([paths[0], bad, paths[1]], QPoint(int(rect.x + 9), int(rect.y + 60)))
    hand.wait(lambda: len(hand.doc.drawings) == 2 and not hand.window.bringer.active)
    assert [d.view for d in hand.doc.drawings] == [View.FRONT, View.TOP]
    hand.settle()
    # What was said while the last one was read does not cover it.
    assert "prop side.png" in hand.window.notices.words.text()
    assert hand.window.notices.isVisible()


def test_paste_from_the_clipboard(hand: Hand) -> None:
    QApplication.clipboard().clear()
    hand.key(Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert "no picture on the clipboard" in hand.notice()
    image = QImage(120, 90, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    QApplication.clipboard().setImage(image)
    hand.key(Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    hand.wait(lambda: len(hand.doc.drawings) == 1)
    assert hand.doc.sources[0].size_px == (120, 90)


def test_projects_that_cannot_be_opened_leave_what_is_open(hand: Hand, tmp_path: Path) -> None:
    doc, _ = with_mesh(Document(), box((0, 0, 0), (1, 1, 1)), "precious")
    hand.session.open(doc, None, saved=False)
    bad = tmp_path / "bad.dimetron"
    bad.write_bytes(b"PK\x03\x04 not really")
    hand.window.files.open(bad)
    hand.wait(lambda: "bad.dimetron is not a Dimetron project" in hand.notice())
    assert hand.doc is doc
    assert hand.session.dirty


def test_a_project_with_a_missing_picture_opens_and_says_so(
    hand: Hand, three: list[Path], tmp_path: Path
) -> None:
    import zipfile

    drop_on(hand, three[0])
    hand.wait(lambda: len(hand.doc.drawings) == 1)
    path, thin = tmp_path / "a.dimetron", tmp_path / "thin.dimetron"
    save(hand.doc, path)
    with zipfile.ZipFile(path) as whole, zipfile.ZipFile(thin, "w") as rest:
        for name in whole.namelist():
            if not name.startswith("sources/"):
                rest.writestr(name, whole.read(name))
    hand.session.mark_saved(hand.session.committed, path)
    hand.window.files.open(thin)
    hand.wait(lambda: "one.png" in hand.notice())
    card = hand.window.tray.cards[hand.doc.drawings[0].id]
    assert card.size_words.text() == "picture missing"
    hand.settle()


def test_a_save_that_fails_keeps_the_work_and_the_old_file(
    hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    doc, _ = with_mesh(Document(), box((0, 0, 0), (1, 1, 1)), "body")
    path = tmp_path / "a.dimetron"
    save(doc, path)
    old = path.read_bytes()
    hand.session.open(doc, path)
    hand.window.commands.run("unit.cm")
    import errno

    from dimetron.document import atomic

    def full(_: int) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(atomic.os, "fsync", full)
    hand.key(Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    hand.wait(lambda: "disk is full" in hand.notice())
    assert hand.session.dirty
    assert path.read_bytes() == old
    monkeypatch.undo()
    hand.key(Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    hand.wait(lambda: not hand.session.dirty)
    assert load(path).document.unit.value == "cm"


def test_an_export_into_a_folder_that_is_gone(hand: Hand, tmp_path: Path) -> None:
    doc, _ = with_mesh(Document(), box((0, 0, 0), (1, 1, 1)), "body")
    hand.session.open(doc, None)
    hand.window.hand_off.write(tmp_path / "gone" / "a.obj")
    hand.wait(lambda: "does not exist any more" in hand.notice())
    hand.window.hand_off.write(tmp_path / "a.stl", kind="stl", planes=True)
    hand.wait(lambda: not hand.window.hand_off.handing.busy)
    assert (tmp_path / "a.stl").exists()


def test_fields_that_cannot_be_read_are_marked_and_say_what_they_accept(
    hand: Hand, three: list[Path]
) -> None:
    drop_on(hand, three[0])
    hand.wait(lambda: len(hand.doc.drawings) == 1)
    drawing = hand.doc.drawings[0]
    card = hand.window.tray.cards[drawing.id]
    for text, words in (
        ("tall", "Write a length"),
        ("0", "more than zero"),
        ("-5", "more than zero"),
    ):
        hand.type_into(card.width_edit, text)
        assert card.width_edit.property("wrong")
        assert words in card.numbers.wrong.text()
        assert hand.doc.drawings[0] is drawing
    hand.key(Qt.Key.Key_Escape, widget=card.width_edit)
    assert not card.width_edit.property("wrong")
    hand.type_into(card.turn_edit, "askew")
    assert "Write a number" in card.numbers.wrong.text()
    hand.key(Qt.Key.Key_K)
    hand.type_into(hand.field("Real length"), "40 cm")
    assert hand.field("Real length").property("wrong")
    assert hand.doc.drawings[0] is drawing


def test_known_length_needs_a_drawing_that_is_free(hand: Hand, three: list[Path]) -> None:
    drop_on(hand, three[0])
    hand.wait(lambda: len(hand.doc.drawings) == 1)
    hand.key(Qt.Key.Key_L)
    assert hand.doc.drawings[0].held
    hand.key(Qt.Key.Key_K)
    hand.click(hand.at("elevation", (0, 0, 20)))
    assert "shown and not held" in hand.notice()


def test_a_machine_without_opengl_gets_a_sentence_and_a_living_window(qapp: QApplication) -> None:
    words = "The board needs OpenGL 3.3 and this machine offers 2.1; install a driver."
    window = Window(Settings(), words)
    window.show()
    QTest.qWaitForWindowExposed(window)
    assert window.navigation.middle.text() == words
    doc, id_ = with_mesh(Document(), box((0, 0, 0), (1, 1, 1)), "body")
    window.session.open(doc, None)
    window.session.choose((id_,))
    turn()
    assert window.tray.cards[id_].isVisible()
    window.session.mark_saved(doc, Path("x"))
    window.close()
    window.deleteLater()


def test_a_board_that_breaks_while_it_starts_leaves_a_sentence_in_its_place(hand: Hand) -> None:
    hand.window.session.warn("something to close")
    hand.board.broken.emit("The board needs OpenGL 3.3 and this machine offers 2.1; install one.")
    hand.wait(lambda: hand.window.navigation.middle is not hand.board)
    assert hand.window.navigation.middle.isVisible()
    assert not hand.board.isVisible()
    hand.window.session.warn("still told")
    assert hand.notice() == "still told"


def test_work_of_a_crashed_window_is_offered_and_opened(hand: Hand, own_folders: Path) -> None:
    doc, _ = with_mesh(Document(), box((0, 0, 0), (1, 1, 1)), "rescued")
    dead = recovery.Keeper(recovery.state_folder())
    dead.keep(doc, Path("/shop/can.dimetron"))
    dead.let_go()
    hand.window.files.offer_recovered()
    assert "can.dimetron was kept" in hand.notice()
    buttons = hand.window.notices.findChildren(QPushButton)
    QTest.mouseClick(next(b for b in buttons if b.text() == "Open it"), Qt.MouseButton.LeftButton)
    hand.wait(lambda: len(hand.doc.meshes) == 1)
    assert hand.doc.meshes[0].name == "rescued"
    assert hand.session.dirty
    assert hand.session.path == Path("/shop/can.dimetron")
    # Its own window owns the copy now; nobody else is offered it.
    hand.wait(lambda: recovery.found(recovery.state_folder()) == [])


def test_unsaved_work_is_kept_on_focus_loss_and_forgotten_when_saved(
    hand: Hand, tmp_path: Path
) -> None:
    doc, _ = with_mesh(Document(), box((0, 0, 0), (1, 1, 1)), "body")
    hand.session.open(doc, None, saved=False)
    hand.window._on_application_state(Qt.ApplicationState.ApplicationInactive)
    folder = recovery.state_folder()
    hand.wait(lambda: len(list(folder.glob("*.copy"))) == 1 and not hand.window.files._keeping)
    hand.session.path = tmp_path / "a.dimetron"
    hand.window.files.save()
    hand.wait(lambda: not hand.session.dirty)
    hand.wait(lambda: not list(folder.glob("*.copy")))


def test_leaving_unsaved_work_asks(hand: Hand, monkeypatch: pytest.MonkeyPatch) -> None:
    doc, _ = with_mesh(Document(), box((0, 0, 0), (1, 1, 1)), "body")
    hand.session.open(doc, None, saved=False)
    answers = iter(["Stay", "Don’t save"])

    def answer(box_: QMessageBox) -> int:
        wanted = next(answers)
        next(b for b in box_.buttons() if b.text() == wanted).click()
        return 0

    monkeypatch.setattr(QMessageBox, "exec", answer)
    hand.window.commands.run("new")
    assert hand.doc is doc
    hand.window.commands.run("new")
    assert hand.doc.empty


def test_sixteen_bit_cmyk_and_alpha_pictures_are_shown(hand: Hand, tmp_path: Path) -> None:
    import numpy as np

    deep = Image.fromarray((np.arange(60 * 80).reshape(60, 80) * 13).astype(np.uint16))
    for name, image, kind in (
        ("deep.png", deep, "PNG"),
        ("print.jpg", Image.new("CMYK", (80, 60), (0, 200, 0, 30)), "JPEG"),
        ("clear.png", Image.new("RGBA", (80, 60), (10, 20, 30, 120)), "PNG"),
    ):
        out = io.BytesIO()
        image.save(out, kind)
        (tmp_path / name).write_bytes(out.getvalue())
        count = len(hand.doc.drawings)
        drop_on(hand, tmp_path / name)
        hand.wait(lambda count=count: len(hand.doc.drawings) == count + 1)
    hand.settle()
    assert len(hand.window.pictures.pyramids) == 3

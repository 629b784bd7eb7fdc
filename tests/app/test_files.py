"""Files through the window: save as, open by drop, hand off, long work off the thread."""

from __future__ import annotations

import time
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QMessageBox

from dimetron.document import recovery
from dimetron.document.container import load, save
from dimetron.document.edits import with_mesh
from dimetron.document.model import Document
from dimetron.mesh.primitives import box
from tests.app.conftest import Hand, turn

CTRL = Qt.KeyboardModifier.ControlModifier


def body(name: str = "body") -> Document:
    return with_mesh(Document(), box((0, 0, 0), (1, 2, 3)), name)[0]


def test_a_first_save_asks_where_and_adds_the_ending(
    hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    wanted = tmp_path / "my can"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(wanted), ""))
    hand.session.open(body(), None, saved=False)
    hand.key(Qt.Key.Key_S, CTRL)
    hand.wait(lambda: not hand.session.dirty)
    assert hand.session.path == tmp_path / "my can.dimetron"
    assert hand.notice() == "Saved my can.dimetron."
    assert hand.window.windowTitle().startswith("my can.dimetron")
    hand.window.commands.run("unit.m")
    assert "•" in hand.window.windowTitle()
    hand.key(Qt.Key.Key_S, CTRL)
    hand.wait(lambda: not hand.session.dirty)
    assert load(tmp_path / "my can.dimetron").document.unit.value == "m"


def test_a_cancelled_dialog_changes_nothing(hand: Hand, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: ("", ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: ("", ""))
    doc = body()
    hand.session.open(doc, None)
    for command in ("save", "save-as", "open", "hand-off.meshes"):
        hand.window.commands.run(command)
    assert hand.doc is doc
    assert hand.session.path is None


def test_a_project_dropped_on_the_board_is_opened(hand: Hand, tmp_path: Path) -> None:
    save(body("dropped"), tmp_path / "a.dimetron")
    hand.drop([tmp_path / "a.dimetron"], QPoint(200, 200))
    hand.wait(lambda: len(hand.doc.meshes) == 1)
    assert hand.doc.meshes[0].name == "dropped"
    assert hand.session.path == tmp_path / "a.dimetron"


def test_saving_on_the_way_out_goes_on_afterwards(
    hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    hand.session.open(body(), tmp_path / "a.dimetron", saved=False)

    def save_it(asked: QMessageBox) -> int:
        next(b for b in asked.buttons() if b.text() == "Save").click()
        return 0

    monkeypatch.setattr(QMessageBox, "exec", save_it)
    hand.key(Qt.Key.Key_N, CTRL)
    hand.wait(lambda: hand.doc.empty)
    assert load(tmp_path / "a.dimetron").document.meshes[0].name == "body"


def test_copies_are_kept_only_when_something_changed(hand: Hand) -> None:
    files = hand.window.files
    kept: list[Document] = []
    files._keeper.keep = lambda doc, *_: kept.append(doc)  # type: ignore[method-assign]
    files.keep()
    hand.session.open(body(), None, saved=False)
    files.keep()
    hand.wait(lambda: len(kept) == 1 and not files._keeping)
    files.keep()
    turn()
    assert len(kept) == 1
    hand.window.commands.run("unit.cm")
    files.keep()
    hand.wait(lambda: len(kept) == 2)
    assert files._timer.interval() == 60_000


def test_discarding_recovered_work_removes_it(hand: Hand) -> None:
    dead = recovery.Keeper(recovery.state_folder())
    dead.keep(body(), None)
    dead.let_go()
    hand.window.files.offer_recovered()
    assert "an unsaved project was kept" in hand.notice()
    from PySide6.QtWidgets import QPushButton

    buttons = hand.window.notices.findChildren(QPushButton)
    button = next(b for b in buttons if b.text() == "Discard it")
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    assert recovery.found(recovery.state_folder()) == []
    assert hand.notice() == ""


def test_the_window_answers_while_a_large_picture_is_read(hand: Hand, tmp_path: Path) -> None:
    """The loop goes round many times before the picture is there."""
    rng = np.random.default_rng(3)
    pixels = rng.integers(0, 256, (3000, 3000), dtype=np.uint8)
    Image.fromarray(pixels).save(tmp_path / "big.png", compress_level=1)
    beats = 0

    def beat() -> None:
        nonlocal beats
        beats += 1

    timer = QTimer()
    timer.timeout.connect(beat)
    timer.start(1)
    begin = time.monotonic()
    hand.drop([tmp_path / "big.png"], QPoint(150, 550))
    assert time.monotonic() - begin < 5
    assert hand.doc.empty, "dropping only asks for it"
    hand.wait(lambda: len(hand.doc.drawings) == 1)
    timer.stop()
    assert beats >= 3


def test_reading_can_be_stopped(hand: Hand, three: list[Path]) -> None:
    hand.drop(three, QPoint(150, 550))
    hand.window.bringer.stop()
    hand.wait(lambda: not hand.window.bringer.active)
    assert hand.doc.empty
    hand.drop([three[0]], QPoint(150, 550))
    hand.wait(lambda: len(hand.doc.drawings) == 1)

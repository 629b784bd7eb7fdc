"""Nothing is lost and nothing lands in the wrong place: slow saves, other windows, half-typed
values, the system's signals."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
import time
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QMessageBox, QPushButton

from dimetron.app.work.worker import Worker
from dimetron.document import container, edits, recovery
from dimetron.document.container import load, save
from dimetron.document.locks import hold
from dimetron.document.model import Document, source_from
from dimetron.geometry.views import View
from tests.app.conftest import Hand, picture_file, turn
from tests.app.test_files import CTRL, body
from tests.imaging.test_hostile import ENDLESS


def answers(monkeypatch: pytest.MonkeyPatch, *given: str) -> list[str]:
    """What the person says to each question, in turn; returns what was asked."""
    asked: list[str] = []
    left = iter(given)

    def answer(box: QMessageBox) -> int:
        asked.append(box.text())
        wanted = next(left)
        next(b for b in box.buttons() if b.text() == wanted).click()
        return 0

    monkeypatch.setattr(QMessageBox, "exec", answer)
    return asked


def press(hand: Hand, title: str) -> None:
    """A button of the notice."""
    turn()
    buttons = hand.window.notices.findChildren(QPushButton)
    QTest.mouseClick(next(b for b in buttons if b.text() == title), Qt.MouseButton.LeftButton)


class SlowSave:
    """Saving waits until it is let go."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch) -> None:
        self.go = threading.Event()
        real = container.save

        def slow(*given: object, **named: object) -> object:
            assert self.go.wait(30)
            return real(*given, **named)  # type: ignore[arg-type]

        monkeypatch.setattr(container, "save", slow)


def test_a_new_project_waits_for_the_save_under_way_and_does_not_take_its_file(
    hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    asked = answers(monkeypatch)
    slow = SlowSave(monkeypatch)
    path = tmp_path / "a.dimetron"
    hand.session.open(body(), path, saved=False)
    hand.key(Qt.Key.Key_S, CTRL)
    hand.key(Qt.Key.Key_N, CTRL)
    assert not hand.doc.empty
    slow.go.set()
    hand.wait(lambda: hand.doc.empty)
    assert asked == []
    assert hand.session.path is None
    assert load(path).document.meshes[0].name == "body"


def test_a_save_belongs_to_the_document_it_saved(
    hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    slow = SlowSave(monkeypatch)
    path = tmp_path / "a.dimetron"
    hand.session.open(body(), path, saved=False)
    hand.key(Qt.Key.Key_S, CTRL)
    hand.window.commands.run("unit.cm")
    asked = answers(monkeypatch, "Don’t save")
    hand.key(Qt.Key.Key_N, CTRL)
    assert len(asked) == 1 and hand.doc.empty
    slow.go.set()
    hand.wait(lambda: not hand.window.files.saving)
    assert hand.session.path is None and not hand.session.dirty
    hand.window.commands.run("unit.m")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: ("", ""))
    hand.key(Qt.Key.Key_S, CTRL)
    assert load(path).document.meshes[0].name == "body"


def test_edits_made_while_another_project_is_read_are_asked_about(
    hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    save(body("other"), tmp_path / "a.dimetron")
    asked = answers(monkeypatch, "Stay", "Don’t save")
    hand.window.files.open(tmp_path / "a.dimetron")
    mine = body("mine")
    hand.session.commit(mine, "Model")
    hand.wait(lambda: len(asked) == 1)
    assert hand.session.committed is mine
    hand.window.files.open(tmp_path / "a.dimetron")
    hand.window.commands.run("unit.cm")
    hand.wait(lambda: len(asked) == 2)
    assert hand.doc.meshes[0].name == "other"


def test_edits_on_the_board_are_asked_about_before_a_recovered_copy_is_opened(
    hand: Hand, monkeypatch: pytest.MonkeyPatch
) -> None:
    dead = recovery.Keeper(recovery.state_folder())
    dead.keep(body("rescued"), None)
    dead.let_go()
    mine = body("mine")
    hand.session.commit(mine, "Model")
    asked = answers(monkeypatch, "Stay")
    hand.window.files.offer_recovered()
    press(hand, "Open it")
    assert len(asked) == 1 and hand.session.committed is mine
    assert len(recovery.found(recovery.state_folder())) == 1


def test_an_offer_outlasts_what_else_is_said(hand: Hand) -> None:
    dead = recovery.Keeper(recovery.state_folder())
    dead.keep(body("rescued"), None)
    dead.let_go()
    hand.window.files.offer_recovered()
    hand.session.warn("something else")
    assert hand.notice() == "something else"
    hand.window.notices._close.click()
    assert "was kept at" in hand.notice()
    hand.window.notices._close.click()
    assert hand.notice() == ""


def test_a_file_changed_on_disk_is_not_overwritten_unasked(hand: Hand, tmp_path: Path) -> None:
    path = tmp_path / "a.dimetron"
    save(body("first"), path)
    hand.window.files.open(path)
    hand.wait(lambda: bool(hand.doc.meshes))
    save(body("another program's"), path)
    hand.window.commands.run("unit.cm")
    hand.key(Qt.Key.Key_S, CTRL)
    hand.wait(lambda: "changed by another program" in hand.notice())
    assert load(path).document.meshes[0].name == "another program's"
    press(hand, "Replace it")
    hand.wait(lambda: not hand.session.dirty)
    assert load(path).document.meshes[0].name == "first"
    # From now on it is this window's again.
    hand.window.commands.run("unit.m")
    hand.key(Qt.Key.Key_S, CTRL)
    hand.wait(lambda: not hand.session.dirty)


def test_a_protected_file_is_asked_about(
    hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "a.dimetron"
    save(body("first"), path)
    path.chmod(0o444)
    hand.window.files.open(path)
    hand.wait(lambda: bool(hand.doc.meshes))
    hand.window.commands.run("unit.cm")
    hand.key(Qt.Key.Key_S, CTRL)
    hand.wait(lambda: "write-protected" in hand.notice())
    other = tmp_path / "b.dimetron"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(other), ""))
    press(hand, "Save under another name…")
    hand.wait(lambda: not hand.session.dirty)
    assert hand.session.path == other
    assert load(path).document.unit.value == "mm"


def test_a_project_open_in_another_window_is_read_only_here(
    hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "a.dimetron"
    save(body("shared"), path)
    theirs = hold(path)
    assert theirs is not None
    hand.window.files.open(path)
    hand.wait(lambda: "read-only" in hand.notice())
    assert hand.window.project_name.text() == "a.dimetron  ·  read-only"
    hand.window.commands.run("unit.cm")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    hand.key(Qt.Key.Key_S, CTRL)
    hand.wait(lambda: "open in another window" in hand.notice())
    assert load(path).document.unit.value == "mm"
    theirs.let_go()
    hand.key(Qt.Key.Key_S, CTRL)
    hand.wait(lambda: not hand.session.dirty)
    assert not hand.window.files.read_only
    assert hold(path) is None, "now this window has it"


def test_a_name_without_the_ending_does_not_replace_a_project_unasked(
    hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    save(body("there"), tmp_path / "a.dimetron")
    hand.session.open(body("mine"), None, saved=False)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "a"), ""))
    hand.key(Qt.Key.Key_S, CTRL)
    assert hand.notice() == "a.dimetron is there already."
    press(hand, "Replace it")
    hand.wait(lambda: not hand.session.dirty)
    assert load(tmp_path / "a.dimetron").document.meshes[0].name == "mine"


def test_closing_and_saving_closes(
    hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    hand.session.open(body(), tmp_path / "a.dimetron", saved=False)
    answers(monkeypatch, "Stay", "Save")
    hand.window.close()
    assert hand.window.isVisible()
    hand.window.close()
    hand.wait(lambda: not hand.window.isVisible())
    assert load(tmp_path / "a.dimetron").document.meshes[0].name == "body"


# Half-typed values.


def test_a_half_typed_value_does_not_land_on_the_picture_that_arrives(
    hand: Hand, three: list[Path]
) -> None:
    hand.drop([three[0]], QPoint(150, 550))
    hand.wait(lambda: len(hand.doc.drawings) == 1 and not hand.window.bringer.active)
    placement = hand.doc.drawings[0].placement
    field = hand.field("Width")
    field.setFocus()
    field.selectAll()  # type: ignore[attr-defined]
    QTest.keyClicks(field, "412")
    hand.drop([three[1]], QPoint(150, 550))
    hand.wait(lambda: len(hand.doc.drawings) == 2)
    turn()
    new = hand.doc.drawings[1]
    assert hand.session.chosen == (new.id,)
    assert hand.doc.drawings[0].placement == placement
    assert hand.doc.size_px(new)[0] * new.placement.mm_per_px != pytest.approx(412)
    assert hand.field("Width").text() != "412"  # type: ignore[attr-defined]
    # The panel lives on.
    hand.type_into(hand.field("Width"), "300")
    new = hand.doc.drawings[1]
    assert hand.doc.size_px(new)[0] * new.placement.mm_per_px == pytest.approx(300)


def test_taking_another_tool_enters_nothing(hand: Hand, three: list[Path]) -> None:
    hand.drop([three[0]], QPoint(150, 550))
    hand.wait(lambda: len(hand.doc.drawings) == 1)
    before = hand.doc
    field = hand.field("Width")
    field.setFocus()
    field.selectAll()  # type: ignore[attr-defined]
    QTest.keyClicks(field, "412")
    hand.window.navigation.take("known-length")
    turn()
    assert hand.doc is before


def test_deleting_a_card_in_mid_rename_ends_quietly(hand: Hand, three: list[Path]) -> None:
    hand.drop([three[0]], QPoint(150, 550))
    hand.wait(lambda: len(hand.doc.drawings) == 1)
    card = hand.window.tray.cards[hand.doc.drawings[0].id]
    card.name.begin()
    QTest.keyClicks(card.name, "half a na")
    hand.window.commands.run("delete")
    turn()
    assert hand.doc.drawings == ()


def test_keys_go_round_no_circle_between_the_window_and_a_hidden_sheet(
    hand: Hand, three: list[Path]
) -> None:
    hand.drop([three[0]], QPoint(150, 550))
    hand.wait(lambda: len(hand.doc.drawings) == 1)
    hand.window.navigation.open_station("prepare")
    hand.key(Qt.Key.Key_B, CTRL, hand.window.sheet_view)
    card = hand.window.tray.cards[hand.doc.drawings[0].id]
    card.name.begin()
    hand.key(Qt.Key.Key_Return, widget=card.name)
    for key in (Qt.Key.Key_Down, Qt.Key.Key_Tab, Qt.Key.Key_Space):
        hand.key(key, widget=hand.window)
    assert hand.window.isVisible()


# The system's signals, and a crash, in a process of its own.

_WINDOW = """
import os, signal, sys
from pathlib import Path
# Whoever runs the tests may have told their processes to ignore it.
signal.signal(signal.SIGHUP, signal.SIG_DFL)
signal.signal(signal.SIGINT, signal.default_int_handler)
from PySide6.QtCore import QTimer
from dimetron.app import start
from dimetron.app.shell import window
from dimetron.cli import main
made = window.Window.__init__
def init(self, *given, **named):
    made(self, *given, **named)
    from tests.app.test_files import body
    def work():
        if os.environ.get("DIRTY"):
            self.session.commit(body("at work"), "Model")
        print("ready", flush=True)
        ask()
    def ask():
        if self.notices.isVisible():
            print("says", self.notices.words.text(), flush=True)
        QTimer.singleShot(100, ask)
    QTimer.singleShot(1500, work)
window.Window.__init__ = init
sys.exit(main(sys.argv[1:]))
"""


def started(*arguments: str, dirty: bool = True) -> subprocess.Popen[str]:
    path = os.pathsep.join(p for p in ("src", ".", os.environ.get("PYTHONPATH", "")) if p)
    env = {**os.environ, "PYTHONPATH": path, "PYTHONUNBUFFERED": "1"}
    if dirty:
        env["DIRTY"] = "1"
    process = subprocess.Popen(
        [sys.executable, "-c", _WINDOW, *arguments],
        env=env,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
        cwd=Path(__file__).parents[2],
    )
    line = heard(process, "ready")
    assert line == "ready"
    return process


def heard(process: subprocess.Popen[str], word: str) -> str:
    assert process.stdout is not None
    for line in process.stdout:
        if word in line:
            return line.strip()
    assert process.stderr is not None
    raise AssertionError(process.stderr.read())


@pytest.mark.parametrize("number", [signal.SIGINT, signal.SIGTERM, signal.SIGHUP])
def test_the_system_ends_it_without_a_question_and_the_work_is_kept(
    own_folders: Path, number: signal.Signals
) -> None:
    process = started()
    process.send_signal(number)
    try:
        _, err = process.communicate(timeout=60)
    finally:
        process.kill()
    assert process.returncode == 0, err
    assert "Traceback" not in err
    assert "leak" not in err.lower()
    (copy,) = recovery.found(recovery.state_folder())
    assert recovery.opened(copy).document.meshes[0].name == "at work"


def test_an_offer_stands_beside_the_project_that_was_named(
    own_folders: Path, tmp_path: Path
) -> None:
    dead = recovery.Keeper(recovery.state_folder())
    dead.keep(body("rescued"), None)
    dead.let_go()
    save(body("named"), tmp_path / "a.dimetron")
    process = started(str(tmp_path / "a.dimetron"), dirty=False)
    assert "was kept at" in heard(process, "says")
    process.send_signal(signal.SIGTERM)
    process.communicate(timeout=60)
    assert len(recovery.found(recovery.state_folder())) == 1


def test_discarded_work_is_gone_when_the_demo_is_opened(
    hand: Hand, monkeypatch: pytest.MonkeyPatch, can_project: Document
) -> None:
    from dimetron.demo import shelf

    monkeypatch.setattr(shelf, "project", lambda _: can_project)
    hand.session.open(body("discarded"), None, saved=False)
    hand.window.files.keep()
    folder = recovery.state_folder()
    hand.wait(lambda: bool(list(folder.glob("*.copy"))))
    answers(monkeypatch, "Don’t save")
    hand.window.open_demo("watering-can")
    hand.wait(lambda: len(hand.doc.drawings) == 3)
    hand.wait(lambda: not list(folder.glob("*.copy")))


def test_a_picture_that_arrives_in_mid_drag_stays(hand: Hand, three: list[Path]) -> None:
    hand.drop([three[0]], QPoint(150, 550))
    hand.wait(lambda: len(hand.doc.drawings) == 1)
    hand.settle()
    start = hand.at("elevation", (0, 0, 50))

    def arrive() -> None:
        data = picture_file(three[0].parent, "late.png").read_bytes()
        source = source_from(data, "late.png", "png", (240, 160))
        doc, _ = edits.with_drawing(hand.session.committed, source, View.TOP)
        hand.session.commit(doc, "Bring in late.png")

    hand.drag(start, start + QPoint(40, 0), before_release=arrive)
    assert [d.name for d in hand.doc.drawings] == ["one", "late"]


def test_closing_while_something_is_being_made_ends_it(hand: Hand, tmp_path: Path) -> None:
    """Without waiting for what nobody wants any more, and without waiting for ever."""
    (tmp_path / "endless.svg").write_bytes(ENDLESS)
    hand.drop([tmp_path / "endless.svg", *[tmp_path / "endless.svg"] * 3], QPoint(150, 550))
    hand.wait(lambda: hand.notice().startswith("Reading"))
    begin = time.monotonic()
    hand.window.close()
    assert not hand.window.isVisible()
    assert time.monotonic() - begin < 20
    assert not any(w._pool.activeThreadCount() for w in hand.window.findChildren(Worker))


def test_what_comes_after_the_window_has_closed_begins_nothing(hand: Hand, tmp_path: Path) -> None:
    data = picture_file(tmp_path, "late.png").read_bytes()
    source = source_from(data, "late.png", "png", (240, 160))
    save(edits.with_drawing(Document(), source, View.FRONT)[0], tmp_path / "a.dimetron")
    hand.window.files.open(tmp_path / "a.dimetron")
    hand.window.close()
    turn()
    assert hand.doc.empty
    hand.session.open(load(tmp_path / "a.dimetron").document, None)
    assert not hand.window.pictures.busy

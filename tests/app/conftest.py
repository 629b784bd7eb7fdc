"""The real window on a real (virtual) screen, driven by mouse and keys."""

from __future__ import annotations

import io
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QApplication,
    QCheckBox,
    QComboBox,
    QPushButton,
    QToolButton,
    QWidget,
)

from dimetron.app.shell.window import Window
from dimetron.app.start import application
from dimetron.app.work.settings import Settings
from dimetron.document import edits
from dimetron.document.model import Document, source_from
from dimetron.geometry.camera import OrthoCamera
from dimetron.geometry.views import View
from dimetron.imaging.read import probe
from dimetron.mesh.mesh import Mesh

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


@pytest.fixture(scope="session")
def qapp() -> QApplication:
    return application()


def over(
    widget: QWidget,
    at: QPoint | QPointF,
    button: Qt.MouseButton = Qt.MouseButton.NoButton,
    keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
) -> None:
    """Move the pointer there. QTest moves the screen's own, whose event comes again later and
    undoes what was pointed at since; and it carries no modifier keys."""
    local = QPointF(at)
    where = QPointF(widget.mapToGlobal(local))
    moved = QMouseEvent(QEvent.Type.MouseMove, local, where, button, button, keys)
    QApplication.sendEvent(widget, moved)


def turn() -> None:
    """Let happen what waits for the next turn of the event loop, however long it takes."""
    QApplication.processEvents()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    QApplication.processEvents()


class Hand:
    """A person at the window: points at world positions, types, waits."""

    def __init__(self, window: Window) -> None:
        self.window = window
        self.board = window.board
        self.session = window.session

    @property
    def doc(self) -> Document:
        return self.session.document

    def wait(self, until: Callable[[], bool], ms: int = 60000) -> None:
        ends = time.monotonic() + ms / 1000
        while not until():
            assert time.monotonic() < ends, "it did not happen in time"
            QTest.qWait(1)
            # Qt's own waiting keeps the interpreter's lock, which workers need.
            time.sleep(0.008)

    def settle(self) -> None:
        """Until the frame that shows the present state is drawn."""
        self.board.repaint()
        turn()

    def model(self, mesh: Mesh, name: str) -> None:
        """A project with just this mesh, which is chosen in the station Model."""
        doc, id_ = edits.with_mesh(Document(), mesh, name)
        self.session.open(doc, None)
        self.window.navigation.take("shape")
        self.session.choose((id_,))
        self.board.fit_all()
        self.settle()

    def at(self, slot: str, world: tuple[float, float, float]) -> QPoint:
        """The board pixel where a pane shows a world point."""
        rect = self.board.rects()[slot]
        x, y = self.board.sight.camera(slot, rect).project(world)
        return QPoint(round(rect.x + float(x)), round(rect.y + float(y)))

    def world(self, slot: str, at: QPoint) -> np.ndarray:
        """The world point exactly under a board pixel."""
        rect = self.board.rects()[slot]
        camera = self.board.sight.camera(slot, rect)
        assert isinstance(camera, OrthoCamera)
        return camera.point_at((at.x() - rect.x, at.y() - rect.y))

    def point(self, at: QPoint) -> None:
        over(self.board, at)
        turn()

    def click(self, at: QPoint, keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        self.point(at)
        QTest.mouseClick(self.board, Qt.MouseButton.LeftButton, keys, at)

    def drag(
        self,
        start: QPoint,
        end: QPoint,
        button: Qt.MouseButton = Qt.MouseButton.LeftButton,
        keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
        before_release: Callable[[], None] | None = None,
    ) -> None:
        self.point(start)
        QTest.mousePress(self.board, button, keys, start)
        for share in (0.3, 0.7, 1.0):
            over(self.board, QPointF(start) + QPointF(end - start) * share, button, keys)
            turn()
        if before_release is not None:
            before_release()
        QTest.mouseRelease(self.board, button, keys, end)

    def key(
        self,
        key: Qt.Key,
        keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
        widget: QWidget | None = None,
    ) -> None:
        QTest.keyClick(widget or self.board, key, keys)

    def type_into(self, field: QWidget, text: str) -> None:
        """Click a field, replace its text, press Enter."""
        field.setFocus()
        field.selectAll()  # type: ignore[attr-defined]
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Qt.Key.Key_Return)

    def drop(self, paths: list[Path], at: QPoint, onto: QWidget | None = None) -> None:
        onto = onto or self.board
        mime = QMimeData()
        mime.setUrls([QUrl.fromLocalFile(str(p)) for p in paths])
        plain = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        enter = QDragEnterEvent(at, Qt.DropAction.CopyAction, mime, *plain)
        QApplication.sendEvent(onto, enter)
        assert enter.isAccepted()
        dropped = QDropEvent(QPointF(at), Qt.DropAction.CopyAction, mime, *plain)
        QApplication.sendEvent(onto, dropped)

    def field(self, name: str) -> QWidget:
        """A typed value of the tool in hand."""
        panel = self.window.route.panel
        return next(f.edit for f in panel.fields if f.edit.accessibleName() == name)

    def option(self, value: str) -> None:
        """Click an option of the tool in hand."""
        turn()
        buttons = self.window.route.panel.findChildren(QToolButton)
        button = next(b for b in buttons if b.property("value") == value and b.isVisible())
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)

    def act(self, name: str) -> QWidget:
        """Click a button of the tool in hand; returns it."""
        # What an older tool left is gone with the next turn of the event loop.
        turn()
        buttons = self.window.route.panel.findChildren(QPushButton)
        button = next(b for b in buttons if b.property("act") == name and b.isVisible())
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
        return button

    def notice(self) -> str:
        return self.window.notices.words.text() if self.window.notices.isVisible() else ""

    def picture(self) -> np.ndarray:
        """The board as drawn, (h, w, 3)."""
        self.settle()
        image = self.board.grabFramebuffer().convertToFormat(
            self.board.grabFramebuffer().Format.Format_RGB888
        )
        rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), -1)
        return rows[:, : image.width() * 3].reshape(image.height(), image.width(), 3).astype(int)


@pytest.fixture
def hand(qapp: QApplication, own_folders: Path) -> Iterator[Hand]:
    window = Window(Settings())
    window.show()
    assert QTest.qWaitForWindowExposed(window, 10000)
    window.activateWindow()
    assert QTest.qWaitForWindowActive(window, 10000)
    # What comes later on a slow machine comes at once here.
    window.registration.be_patient(30.0)
    person = Hand(window)
    person.wait(lambda: window.board.canvas is not None)
    person.settle()
    yield person
    window.session.mark_saved(window.session.committed, Path("done"))
    window.pictures.wait()
    window.close()
    assert not window.files._timer.isActive(), "the timer that keeps copies goes on"
    window.deleteLater()
    turn()


def picture_file(folder: Path, name: str, size: tuple[int, int] = (240, 160)) -> Path:
    """A white picture with a black frame 10 px inside its edges."""
    pixels = np.full((size[1], size[0]), 255, np.uint8)
    pixels[10:12, 10:-10] = pixels[-12:-10, 10:-10] = 0
    pixels[10:-10, 10:12] = pixels[10:-10, -12:-10] = 0
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "JPEG" if name.endswith("jpg") else "PNG", quality=95)
    path = folder / name
    path.write_bytes(out.getvalue())
    return path


@pytest.fixture
def three(tmp_path: Path) -> list[Path]:
    return [
        picture_file(tmp_path, "one.png"),
        picture_file(tmp_path, "two.jpg", (400, 200)),
        picture_file(tmp_path, "three.png", (300, 500)),
    ]


class Person(Hand):
    """A person at the sheet."""

    @property
    def view(self):  # type: ignore[no-untyped-def]
        return self.window.sheet_view

    def lay(self, data: bytes, name: str) -> None:
        info = probe(data, name)
        source = source_from(data, name, info.extension, info.size_px, info.mm_per_px)
        doc, _ = edits.with_sheet(Document(), source)
        self.session.open(doc, None)
        self.window.files.opened.emit()
        self.wait(lambda: self.window.desk.page is not None)
        self.view.repaint()

    def rest(self) -> None:
        self.wait(lambda: not self.window.desk.working and not self.window.pictures.busy)
        turn()
        self.view.repaint()

    def on(self, x: float, y: float) -> QPoint:
        """Where a prepared pixel is in the view."""
        return self.view.view_point(x, y)

    def pull(self, start: QPoint, end: QPoint, before: Callable[[], None] | None = None) -> None:
        over(self.view, start)
        QTest.mousePress(self.view, LEFT, NONE, start)
        for share in (0.4, 1.0):
            over(self.view, start + (end - start) * share, LEFT)
            turn()
        if before is not None:
            before()
        QTest.mouseRelease(self.view, LEFT, NONE, end)

    def tap(self, at: QPoint) -> None:
        over(self.view, at)
        QTest.mouseClick(self.view, LEFT, NONE, at)
        turn()

    def act(self, name: str) -> None:
        """Press one of the tool's buttons."""
        turn()
        buttons = self.window.route.panel.findChildren(QPushButton)
        button = next(b for b in buttons if b.property("act") == name and not b.isHidden())
        QTest.mouseClick(button, LEFT)

    def switch(self, title: str) -> None:
        turn()
        boxes = self.window.route.panel.findChildren(QCheckBox)
        next(b for b in boxes if b.text() == title and not b.isHidden()).click()

    def listed(self, name: str, value: str) -> None:
        """Choose from an unfolding list of the tool."""
        turn()
        boxes = self.window.route.panel.findChildren(QComboBox)
        box = next(b for b in boxes if b.accessibleName() == name and not b.isHidden())
        box.setCurrentIndex(box.findData(value))
        box.activated.emit(box.currentIndex())

    def found(self) -> None:
        self.act("find")
        self.wait(lambda: len(self.doc.drawings) > 0)
        self.rest()

    def drawing(self, view: View):  # type: ignore[no-untyped-def]
        return next(d for d in self.doc.drawings if d.view is view)


@pytest.fixture
def person(hand: Hand) -> Iterator[Person]:
    hand.__class__ = Person
    yield hand  # type: ignore[misc]
    hand.window.desk.wait()

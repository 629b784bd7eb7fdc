"""What a rough hand does to the window: one function a kind of step, each by its own chance."""

from __future__ import annotations

import io
import random
import time
from collections.abc import Callable
from dataclasses import replace
from functools import cache
from pathlib import Path

import numpy as np
from PIL import Image
from PySide6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt, QTimer, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QImage, QKeyEvent, QMouseEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractSlider,
    QApplication,
    QComboBox,
    QLineEdit,
    QWidget,
)

from dimetron.app.shell.window import Window
from dimetron.document import container
from dimetron.document.edits import with_mesh
from dimetron.document.model import Document
from dimetron.mesh.primitives import box

_LEFT, _MIDDLE, _RIGHT = (
    Qt.MouseButton.LeftButton,
    Qt.MouseButton.MiddleButton,
    Qt.MouseButton.RightButton,
)
_HELD = (
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)
_KEYS = (
    *(Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Return),
    *(Qt.Key.Key_Escape, Qt.Key.Key_Tab, Qt.Key.Key_Space, Qt.Key.Key_Delete, Qt.Key.Key_Backspace),
    *(Qt.Key.Key_X, Qt.Key.Key_Y, Qt.Key.Key_Z, Qt.Key.Key_F, Qt.Key.Key_V, Qt.Key.Key_E),
    *(Qt.Key.Key_T, Qt.Key.Key_S, Qt.Key.Key_A, Qt.Key.Key_O, Qt.Key.Key_L, Qt.Key.Key_Home),
    *(Qt.Key.Key_1, Qt.Key.Key_4, Qt.Key.Key_Equal, Qt.Key.Key_Period, Qt.Key.Key_F1),
)
_TEXTS = (
    *("412", "0", "-5", "1e9", "NaN", "", "=front.width/2", "=right.scale", '16 1/4"', "5' 3\""),
    *("0.001", "999 m", "90", "1e-9", "nose", "a name ✎", "\t", "x" * 300, "100 %"),
)
#: Commands that end the window or wait for a person.
_NOT_RUN = ("quit", "keys", "find")


class Rough:
    """The hand, at one window, with files to bring. Each step is drawn from its own seed."""

    def __init__(self, window: Window, files: Path) -> None:
        self.window = window
        self.files = files
        self.dice = random.Random(0)
        self.delay_s = 0.0
        self._bring_files()
        # Menus wait in event loops of their own.
        self._closer = QTimer()
        self._closer.timeout.connect(self._let_go)
        self._closer.start(30)

    def step(self, seed: int) -> str:
        """Do one thing; returns what."""
        self.dice = random.Random(seed)
        kinds = [kind for kind, often in _KINDS.items() for _ in range(often)]
        kind = self.dice.choice(kinds)
        words = kind(self)
        self._let_go()
        QTest.qWait(0)
        return f"{kind.__name__.strip('_')} {words}"

    def rest(self, longest_s: float = 20.0) -> None:
        """Until no worker is at anything any more."""
        window, ends = self.window, time.monotonic() + longest_s
        while time.monotonic() < ends:
            QTest.qWait(2)
            time.sleep(0.002)
            busy = window.pictures.busy or window.bringer.active or window.files.saving
            if not (busy or window.desk.working or window.registration.busy):
                return

    def _let_go(self) -> None:
        """Whatever popped up is closed again, as by a person who looks elsewhere."""
        for _ in range(5):
            popup = QApplication.activePopupWidget() or QApplication.activeModalWidget()
            if popup is None:
                return
            popup.close()

    # Files.

    def _bring_files(self) -> None:
        rng = np.random.default_rng(5)
        for number, size in enumerate(((240, 160), (400, 200), (150, 300))):
            pixels = np.full((size[1], size[0]), 250, np.uint8)
            pixels[20:-20, 30:33] = pixels[20:-20, -40:-37] = 20
            pixels[20:23, 30:-37] = pixels[-23:-20, 30:-37] = 20
            name = ("front.png", "right side.png", "plan.png")[number]
            Image.fromarray(pixels).save(self.files / name)
        noise = rng.integers(0, 255, (90, 120, 3), dtype=np.uint8)
        Image.fromarray(noise).save(self.files / "photo.jpg")
        whole = (self.files / "front.png").read_bytes()
        (self.files / "cut.png").write_bytes(whole[: len(whole) // 2])
        (self.files / "letter.png").write_bytes(b"Dear workshop")
        (self.files / "a.svg").write_text(
            '<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="30mm"><rect x="3" '
            'width="20" height="9"/></svg>'
        )
        doc, _ = with_mesh(Document(), box((-50, -50, 0), (50, 50, 80)), "body")
        container.save(doc, self.files / "body.dimetron")
        data = (self.files / "body.dimetron").read_bytes()
        (self.files / "spoiled.dimetron").write_bytes(data[:200] + b"x" + data[201:])
        (self.files / "folder").mkdir()

    def any_file(self) -> Path:
        return self.dice.choice(sorted(self.files.iterdir()))

    # Places.

    def spot(self, widget: QWidget) -> QPoint:
        across, down = max(1, widget.width()), max(1, widget.height())
        return QPoint(self.dice.randrange(across), self.dice.randrange(down))

    def area(self) -> QWidget:
        return self.window.navigation.in_hand

    def held(self) -> Qt.KeyboardModifier:
        return self.dice.choice(_HELD)


def _command(rough: Rough) -> str:
    ids = [c.id for c in rough.window.commands if c.id not in _NOT_RUN]
    id_ = rough.dice.choice(sorted(ids))
    rough.window.commands.run(id_)
    return id_


def _take_tool(rough: Rough) -> str:
    window = rough.window
    if rough.dice.random() < 0.3:
        name = rough.dice.choice(sorted(window.sheet_tools))
        window.navigation.take_at_sheet(name)
    else:
        name = rough.dice.choice(sorted(window.tools))
        window.navigation.take(name)
    return name


def _click(rough: Rough) -> str:
    area = rough.area()
    at = rough.spot(area)
    QTest.mouseMove(area, at)
    QTest.mouseClick(area, rough.dice.choice((_LEFT, _LEFT, _LEFT, _RIGHT)), rough.held(), at)
    return f"{at.x()},{at.y()}"


def _double_click(rough: Rough) -> str:
    area = rough.area()
    at = rough.spot(area)
    QTest.mouseDClick(area, _LEFT, rough.held(), at)
    return f"{at.x()},{at.y()}"


def _moved(area: QWidget, at: QPoint, button: Qt.MouseButton, held: Qt.KeyboardModifier) -> None:
    over = QPointF(area.mapToGlobal(at))
    QApplication.sendEvent(
        area, QMouseEvent(QEvent.Type.MouseMove, QPointF(at), over, button, button, held)
    )


def _drag(rough: Rough, meanwhile: Callable[[Rough], str] | None = None) -> str:
    area, held = rough.area(), rough.held()
    button = rough.dice.choice((_LEFT, _LEFT, _LEFT, _MIDDLE, _RIGHT))
    start, end = rough.spot(area), rough.spot(area)
    if rough.dice.random() < 0.5:
        end = start + QPoint(rough.dice.randrange(-40, 41), rough.dice.randrange(-40, 41))
    QTest.mouseMove(area, start)
    QTest.mousePress(area, button, held, start)
    _moved(area, (start + end) / 2, button, held)
    words = meanwhile(rough) if meanwhile is not None else ""
    _moved(area, end, button, held)
    QTest.mouseRelease(area, button, held, end)
    return f"{start.x()},{start.y()} to {end.x()},{end.y()} {words}"


def _drag_while(rough: Rough) -> str:
    """Something else happens in mid-gesture."""
    return _drag(rough, rough.dice.choice((_undo, _replace, _command, _key, _option, _type_text)))


def _undo(rough: Rough) -> str:
    for _ in range(rough.dice.choice((1, 1, 2, 9))):
        if rough.dice.random() < 0.6:
            rough.window.session.undo()
        else:
            rough.window.session.redo()
    return ""


def _replace(rough: Rough) -> str:
    """Another document comes, as from a worker that is done or a project that is opened."""
    session = rough.window.session
    if rough.dice.random() < 0.3:
        doc, _ = with_mesh(Document(), box((0, 0, 0), (9, 9, 9)), "other")
        session.open(doc, None)
        rough.window.files.opened.emit()
        return "opened"
    doc = session.committed
    if doc.items and rough.dice.random() < 0.5:
        from dimetron.document.edits import without_item

        session.commit(without_item(doc, rough.dice.choice(doc.items).id), "Gone")
        return "less"
    session.commit(replace(doc, solo=()), "Nothing much")
    return "same"


def _wheel(rough: Rough) -> str:
    area = rough.area()
    at = rough.spot(area)
    turns = rough.dice.choice((1, -1, 3, -3, 30, -30))
    wheel = QWheelEvent(
        QPointF(at),
        QPointF(area.mapToGlobal(at)),
        QPoint(),
        QPoint(0, 120 * turns),
        Qt.MouseButton.NoButton,
        rough.held(),
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(area, wheel)
    return f"{turns}"


def _typed(widget: QWidget, text: str) -> None:
    for letter in text:
        if letter.isascii():
            QTest.keyClicks(widget, letter)
        else:
            press = QKeyEvent(QEvent.Type.KeyPress, 0, Qt.KeyboardModifier.NoModifier, letter)
            QApplication.sendEvent(widget, press)


def _key(rough: Rough) -> str:
    key = rough.dice.choice(_KEYS)
    QTest.keyClick(QApplication.focusWidget() or rough.window, key, rough.held())
    return key.name


def _type_text(rough: Rough) -> str:
    text = rough.dice.choice(_TEXTS)
    _typed(QApplication.focusWidget() or rough.window, text)
    if rough.dice.random() < 0.5:
        QTest.keyClick(QApplication.focusWidget() or rough.window, Qt.Key.Key_Return)
    return repr(text[:20])


def _seen(rough: Rough, kind: type[QWidget]) -> list[QWidget]:
    found = rough.window.findChildren(kind)
    return [w for w in found if w.isVisible() and w.isEnabled()]


def _field(rough: Rough) -> str:
    """Type into a field, and enter it, leave it, or leave it at that."""
    fields = [f for f in _seen(rough, QLineEdit) if not f.isReadOnly()]
    if not fields:
        return "none"
    field = rough.dice.choice(fields)
    field.setFocus()
    if rough.dice.random() < 0.8:
        field.selectAll()
    text = rough.dice.choice(_TEXTS)
    _typed(field, text)
    how = rough.dice.randrange(3)
    if how == 0:
        QTest.keyClick(field, Qt.Key.Key_Return)
    elif how == 1:
        rough.area().setFocus()
    return f"{field.accessibleName()} {text[:20]!r} {how}"


def _button(rough: Rough) -> str:
    buttons = _seen(rough, QAbstractButton)
    if not buttons:
        return "none"
    button = rough.dice.choice(buttons)
    words = f"{button.text()} {button.toolTip()}"[:60]
    button.click()
    return words


def _option(rough: Rough) -> str:
    lists = _seen(rough, QComboBox)
    sliders = _seen(rough, QAbstractSlider)
    if lists and rough.dice.random() < 0.7:
        chosen = rough.dice.choice(lists)
        if chosen.count():
            at = rough.dice.randrange(chosen.count())
            chosen.setCurrentIndex(at)
            chosen.activated.emit(at)
            return f"{chosen.accessibleName()} {at}"
    elif sliders:
        slider = rough.dice.choice(sliders)
        slider.setValue(rough.dice.randint(slider.minimum(), slider.maximum()))
        return slider.accessibleName()
    return "none"


def _card(rough: Rough) -> str:
    cards = list(rough.window.tray.cards.values())
    if not cards:
        return "none"
    card = rough.dice.choice(cards)
    way = rough.dice.randrange(3)
    if way == 0:
        card.name.begin()
        _typed(card.name, rough.dice.choice(_TEXTS))
    elif way == 1:
        rough.window.session.choose((card.id,))
    else:
        QTest.mouseClick(card, _LEFT, rough.held(), QPoint(30, 12))
    return f"{way}"


def _drop(rough: Rough) -> str:
    paths = [rough.any_file() for _ in range(rough.dice.choice((1, 1, 3)))]
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(p)) for p in paths])
    plain = _LEFT, Qt.KeyboardModifier.NoModifier
    window = rough.window
    onto = rough.dice.choice((window.board, window.sheet_view, window.tray))
    at = rough.spot(onto)
    enter = QDragEnterEvent(at, Qt.DropAction.CopyAction, mime, *plain)
    QApplication.sendEvent(onto, enter)
    QApplication.sendEvent(onto, QDropEvent(QPointF(at), Qt.DropAction.CopyAction, mime, *plain))
    return ", ".join(p.name for p in paths)


@cache
def _pasted() -> QImage:
    out = io.BytesIO()
    Image.new("RGB", (60, 40), (200, 190, 180)).save(out, "PNG")
    return QImage.fromData(out.getvalue(), "PNG")


def _paste(rough: Rough) -> str:
    QApplication.clipboard().setImage(_pasted())
    rough.window.arrivals.paste()
    return ""


def _resize(rough: Rough) -> str:
    w, h = rough.dice.randint(700, 1580), rough.dice.randint(500, 980)
    rough.window.resize(w, h)
    return f"{w}x{h}"


def _slowly(rough: Rough) -> str:
    """From now on saving takes so long."""
    rough.delay_s = rough.dice.choice((0.0, 0.0, 0.02, 0.2))
    return f"{rough.delay_s}"


def _save(rough: Rough) -> str:
    window = rough.window
    if window.session.path is None or rough.dice.random() < 0.3:
        window.session.path = rough.files / f"saved {rough.dice.randrange(3)}.dimetron"
    window.files.save()
    return window.session.path.name


def _wait(rough: Rough) -> str:
    """Long enough for some of what is under way to come."""
    ends = time.monotonic() + rough.dice.choice((0.0, 0.05, 0.3))
    while time.monotonic() < ends:
        QTest.qWait(2)
        time.sleep(0.002)
    return ""


_KINDS: dict[Callable[[Rough], str], int] = {
    **{_command: 14, _take_tool: 8, _click: 10, _drag: 12, _drag_while: 8, _double_click: 2},
    **{_undo: 4, _replace: 1, _wheel: 6, _key: 10, _type_text: 4, _field: 8, _button: 8},
    **{_option: 5, _card: 6, _drop: 5, _paste: 1, _resize: 1, _slowly: 1, _save: 2, _wait: 8},
}

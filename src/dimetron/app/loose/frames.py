"""Loose pictures outside of the tray: floating over a pane, or in a window of their own."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QPointF, QSize, Qt, Signal
from PySide6.QtGui import QCloseEvent, QMouseEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QSizeGrip,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from dimetron.app.board.widget import Board
from dimetron.app.kit.buttons import quiet
from dimetron.app.kit.iconset import icon
from dimetron.app.kit.theme import Theme
from dimetron.app.loose.view import LooseView
from dimetron.app.work.pictures import Pictures
from dimetron.app.work.session import Session
from dimetron.app.work.settings import Settings
from dimetron.document import loosening
from dimetron.document.parts import Floating, LoosePicture

_FIRST_SIZE = (240.0, 200.0)
_FIRST_AT = (16.0, 44.0)
_HEAD = 24


class FloatingPicture(QFrame):
    """A loose picture over a pane. Its head moves it, its lower right corner sizes it."""

    def __init__(self, board: Board, session: Session, pictures: Pictures, id_: str) -> None:
        super().__init__(board)
        self.setObjectName("floating")
        self._board = board
        self._session = session
        self.id = id_
        self._grip: tuple[str, QPointF, QPoint, QSize] | None = None
        self.name = QLabel()
        self.name.setProperty("class", "small")
        self.pin = quiet("Pin it to the tray again", 14)
        self.pin.clicked.connect(lambda: self._commit(None, "Pin"))
        self.view = LooseView(session, pictures, id_)
        head = QHBoxLayout()
        head.setContentsMargins(6, 0, 2, 0)
        head.addWidget(self.name, 1)
        head.addWidget(self.pin)
        foot = QHBoxLayout()
        foot.setContentsMargins(0, 0, 0, 0)
        foot.addStretch(1)
        self._corner = QLabel("◢")
        self._corner.setProperty("class", "small soft")
        self._corner.setCursor(Qt.CursorShape.SizeFDiagCursor)
        self._corner.setToolTip("Drag to size it")
        foot.addWidget(self._corner)
        column = QVBoxLayout(self)
        column.setContentsMargins(2, 2, 2, 0)
        column.setSpacing(0)
        column.addLayout(head)
        column.addWidget(self.view, 1)
        column.addLayout(foot)

    def _commit(self, floating: Floating | None, word: str) -> None:
        item = self._session.committed.item(self.id)
        if item is not None:
            doc = loosening.floated(self._session.committed, self.id, floating)
            self._session.commit(doc, f"{word} {item.name}")

    def refresh(self, item: LoosePicture, theme: Theme) -> None:
        """Where the project says, but never out of reach."""
        assert item.floating is not None
        self.name.setText(item.name)
        self.pin.setIcon(icon("pin", theme.chrome.ink, 14))
        self.view.theme = theme
        rects = self._board.rects()
        rect = rects.get(item.floating.slot) or next(iter(rects.values()))
        w = min(item.floating.size[0], rect.w - 8)
        h = min(item.floating.size[1], rect.h - 8)
        x = min(max(0.0, item.floating.at[0]), rect.w - w - 4)
        y = min(max(0.0, item.floating.at[1]), rect.h - h - 4)
        if self._grip is None:
            self.setGeometry(round(rect.x + x), round(rect.y + y), round(w), round(h))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        sizing = at.x() > self.width() - 22 and at.y() > self.height() - 22
        if at.y() < _HEAD or sizing:
            what = "size" if sizing else "move"
            self._grip = what, event.globalPosition(), self.pos(), self.size()
        self.raise_()
        event.accept()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grip is None:
            return
        what, start, pos, size = self._grip
        by = (event.globalPosition() - start).toPoint()
        if what == "move":
            self.move(pos + by)
        else:
            least = int(loosening.LEAST_SIDE)
            self.resize(max(least, size.width() + by.x()), max(least, size.height() + by.y()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._grip is None:
            return
        self._grip = None
        middle = self.geometry().center()
        rects = self._board.rects()
        slot = next((s for s, r in rects.items() if r.contains(middle.x(), middle.y())), None)
        slot = slot or next(iter(rects))
        at = (float(self.x() - rects[slot].x), float(self.y() - rects[slot].y))
        self._commit(Floating(slot, at, (float(self.width()), float(self.height()))), "Move")


class LooseWindow(QWidget):
    """One loose picture after the other in a window of their own, with colours to be read."""

    closed = Signal()

    def __init__(self, session: Session, pictures: Pictures, settings: Settings, id_: str) -> None:
        super().__init__()
        self.setObjectName("looseWindow")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setWindowTitle("Loose pictures – Dimetron")
        self._session = session
        self._settings = settings
        self.view = LooseView(session, pictures, id_)
        self.choice = QComboBox()
        self.choice.setAccessibleName("Loose picture")
        self.choice.setToolTip("Which loose picture is shown")
        self.choice.activated.connect(lambda _: self.show_picture(self.choice.currentData()))
        self.pick = QToolButton()
        self.pick.setCheckable(True)
        self.pick.setText("Read colours")
        self.pick.setToolTip("Point to read a colour, click to copy it")
        self.pick.toggled.connect(self.view.read_colours)
        self.colour = QLabel()
        self.colour.setMinimumWidth(110)
        self.view.read.connect(self._show_colour)
        row = QHBoxLayout()
        row.setContentsMargins(8, 6, 8, 6)
        row.addWidget(self.choice, 1)
        row.addWidget(self.pick)
        row.addWidget(self.colour)
        row.addWidget(QSizeGrip(self))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.view, 1)
        column.addLayout(row)
        self.resize(640, 560)
        geometry = settings.raw("loose/geometry")
        if geometry is not None:
            self.restoreGeometry(geometry)

    def _show_colour(self, colour: str) -> None:
        swatch = f'<span style="color: {colour};">■</span> {colour}' if colour else ""
        self.colour.setText(swatch)

    def show_picture(self, id_: str) -> None:
        self.view.show_picture(id_)
        self.refresh(self.view.theme)

    def refresh(self, theme: Theme | None) -> None:
        self.view.theme = theme
        loose = self._session.document.loose
        self.choice.blockSignals(True)
        self.choice.clear()
        for item in loose:
            self.choice.addItem(item.name, item.id)
        self.choice.setCurrentIndex(self.choice.findData(self.view.id))
        self.choice.blockSignals(False)
        self.view.update()
        if not loose:
            self.close()

    def closeEvent(self, event: QCloseEvent) -> None:
        self._settings.set_raw("loose/geometry", self.saveGeometry())
        self.closed.emit()
        event.accept()


class LooseFrames:
    """Keeps the floating pictures and the window in step with the project."""

    def __init__(
        self, session: Session, pictures: Pictures, board: Board, settings: Settings
    ) -> None:
        self._session = session
        self._pictures = pictures
        self._board = board
        self._settings = settings
        self.floating: dict[str, FloatingPicture] = {}
        self.window: LooseWindow | None = None

    def refresh(self, theme: Theme) -> None:
        doc = self._session.document
        wanted = {p.id: p for p in doc.loose if p.floating is not None and doc.visible(p)}
        for gone in [id_ for id_ in self.floating if id_ not in wanted]:
            frame = self.floating.pop(gone)
            frame.hide()
            frame.deleteLater()
        for id_, item in wanted.items():
            frame = self.floating.get(id_) or self._floated(id_)
            frame.refresh(item, theme)
        if self.window is not None:
            self.window.refresh(theme)

    def _floated(self, id_: str) -> FloatingPicture:
        frame = FloatingPicture(self._board, self._session, self._pictures, id_)
        self.floating[id_] = frame
        frame.show()
        return frame

    def toggle_floating(self, id_: str) -> None:
        """Let a picture float over the first pane, or pin it again."""
        doc = self._session.committed
        item = doc.item(id_)
        if not isinstance(item, LoosePicture):
            return
        floating = None
        if item.floating is None:
            count = len(self.floating)
            at = (_FIRST_AT[0] + 24 * count, _FIRST_AT[1] + 24 * count)
            floating = Floating(next(iter(self._board.rects())), at, _FIRST_SIZE)
        doc = loosening.floated(doc, id_, floating)
        self._session.commit(doc, f"{'Float' if floating else 'Pin'} {item.name}")

    def open_window(self, id_: str, theme: Theme) -> None:
        """Show a picture in the window of its own."""
        if self.window is None:
            self.window = LooseWindow(self._session, self._pictures, self._settings, id_)
            self.window.closed.connect(self._forget_window)
        self.window.show_picture(id_)
        self.window.refresh(theme)
        self.window.show()
        self.window.raise_()

    def _forget_window(self) -> None:
        self.window = None

    def close(self) -> None:
        if self.window is not None:
            self.window.close()

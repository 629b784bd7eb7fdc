"""A name that is changed by a double click; until then it is part of the card it stands on."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent

from dimetron.app.kit.fields import TypedEdit, wants_escape


class NameEdit(TypedEdit):
    """``renamed`` gets the new name when Return or leaving the field ends the change."""

    def __init__(self, renamed: Callable[[str], None]) -> None:
        super().__init__()
        self._renamed = renamed
        self.setObjectName("cardName")
        self.setProperty("plain", True)
        self.setStyleSheet("border: none; padding: 0;")
        self.setToolTip("Name; double-click to change it")
        self.setAccessibleName("Name")
        self._rest()

    def _rest(self) -> None:
        self.setReadOnly(True)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.deselect()
        self.setCursorPosition(0)

    def show_name(self, name: str) -> None:
        """Bring it up to date, unless it is being changed."""
        if self.isReadOnly() and self.text() != name:
            self.setText(name)
            self.setCursorPosition(0)

    def begin(self) -> None:
        """Let it be typed."""
        self.setReadOnly(False)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setFocus()
        self.selectAll()

    def drop(self) -> None:
        self._rest()

    def _end(self, keep: bool) -> None:
        if self.isReadOnly():
            return
        name = self.text().strip()
        self._rest()
        self.clearFocus()
        self._renamed(name[:200] if keep else "")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.isReadOnly():
            event.ignore()
        else:
            super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.isReadOnly():
            event.ignore()
        else:
            super().mouseMoveEvent(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self.isReadOnly():
            self.begin()
        else:
            super().mouseDoubleClickEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape):
            self._end(keep=key != Qt.Key.Key_Escape)
            event.accept()
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self._end(keep=True)

    def event(self, event: QEvent) -> bool:
        if not self.isReadOnly() and wants_escape(event):
            event.accept()
            return True
        return super().event(event)

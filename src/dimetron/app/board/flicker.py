"""The drawings alone while a key is held, and everything again: what differs jumps to the eye."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QEvent, QObject
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QApplication

from dimetron.app.board.widget import Board

_LEFT = (QEvent.Type.ApplicationDeactivate, QEvent.Type.WindowDeactivate)


class Flicker(QObject):
    def __init__(self, board: Board) -> None:
        super().__init__(board)
        self._board = board
        self._before: tuple[bool, bool] | None = None

    def begin(self) -> None:
        """The key is held now."""
        app = QApplication.instance()
        if self._before is not None or app is None:
            return
        sight = self._board.sight
        self._before = sight.drawings, sight.others
        # Drawings alone; or all but them, where they are alone already.
        self._show(drawings=sight.others, others=not sight.others)
        app.installEventFilter(self)

    def _show(self, drawings: bool, others: bool) -> None:
        # Nothing to come back to afterwards, as from where one looked.
        self._board.sight = replace(self._board.sight, drawings=drawings, others=others)
        self._board.update()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        released = isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyRelease
        if event.type() in _LEFT or (released and not event.isAutoRepeat()):  # type: ignore[attr-defined]
            self._end()
        return False

    def _end(self) -> None:
        app, before = QApplication.instance(), self._before
        self._before = None
        if app is not None:
            app.removeEventFilter(self)
        if before is not None:
            self._show(*before)

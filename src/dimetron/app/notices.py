"""Notices: one sentence above the title block, with what can be done about it."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QHBoxLayout, QLabel, QProgressBar, QPushButton, QToolButton, QWidget

from dimetron.app.session import Tone

_TOLD_MS = 6000


class NoticeBar(QWidget):
    """Hidden while there is nothing to say. Warnings stay until they are closed."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("noticeBar")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self._buttons = QHBoxLayout()
        self._progress = QProgressBar()
        self._progress.setRange(0, 0)
        self._progress.setTextVisible(False)
        self._progress.setFixedWidth(140)
        self._close = QToolButton()
        self._close.setText("Close")
        self._close.setToolTip("Close this notice")
        self._close.clicked.connect(self.clear)
        box = QHBoxLayout(self)
        box.setContentsMargins(14, 5, 10, 5)
        box.addWidget(self.words, 1)
        box.addWidget(self._progress)
        box.addLayout(self._buttons)
        box.addWidget(self._close)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.clear)
        self.hide()

    def say(
        self,
        words: str,
        tone: Tone = Tone.TOLD,
        actions: tuple[tuple[str, Callable[[], None]], ...] = (),
        busy: bool = False,
    ) -> None:
        """Show a sentence, the buttons that belong to it, and whether work goes on."""
        self._timer.stop()
        self.words.setText(words)
        self.setProperty("warning", tone is Tone.WARNING)
        self.style().unpolish(self)
        self.style().polish(self)
        while self._buttons.count():
            taken = self._buttons.takeAt(0)
            old = taken.widget() if taken is not None else None
            if old is not None:
                old.deleteLater()
        for title, run in actions:
            button = QPushButton(title)
            button.clicked.connect(lambda _=False, run=run: self._act(run))
            self._buttons.addWidget(button)
        self._progress.setVisible(busy)
        self._close.setVisible(not busy)
        self.show()
        if tone is Tone.TOLD and not actions and not busy:
            self._timer.start(_TOLD_MS)

    def _act(self, run: Callable[[], None]) -> None:
        self.clear()
        run()

    def clear(self) -> None:
        self._timer.stop()
        self.hide()

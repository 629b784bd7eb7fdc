"""Notices: one sentence over the foot of the board, with what can be done about it.

It lies over the board, so that the panes keep their size while it comes and goes.
"""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QToolButton, QWidget

from dimetron.app.work.session import Severity

#: Titles of buttons and what they do.
Actions = tuple[tuple[str, Callable[[], None]], ...]

_TOLD_MS = 6000
#: So many sentences of warning stand together.
_WARNED_MOST = 3
_INSET = 10


class NoticeBar(QWidget):
    """Hidden while there is nothing to say. Warnings stay until they are closed; a question that
    something else was said over comes back afterwards, until it is answered or closed."""

    def __init__(self, over: QWidget) -> None:
        super().__init__(over)
        self.setObjectName("noticeBar")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._over = over
        over.installEventFilter(self)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self._buttons = QHBoxLayout()
        self._close = QToolButton()
        self._close.setText("Close")
        self._close.setToolTip("Close this notice")
        self._close.clicked.connect(self._closed)
        box = QHBoxLayout(self)
        box.setContentsMargins(14, 7, 8, 7)
        box.addWidget(self.words, 1)
        box.addLayout(self._buttons)
        box.addWidget(self._close)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.clear)
        self._question: tuple[str, Actions] | None = None
        self._asking = self._refused = False
        #: What was warned of while work goes on, which has notices of its own.
        self._working, self._warned = False, list[str]()
        self._ending = QTimer(self)
        self._ending.setSingleShot(True)
        self._ending.timeout.connect(self._end_work)
        self.hide()

    def lie_over(self, over: QWidget) -> None:
        """Move to another widget."""
        self._over = over
        over.installEventFilter(self)
        shown = self.isVisible()
        self.setParent(over)
        self.setVisible(shown)

    def say(
        self,
        words: str,
        tone: Severity = Severity.TOLD,
        actions: Actions = (),
        busy: bool = False,
        passing: bool = False,
    ) -> None:
        """Show a sentence and the buttons that belong to it; ``busy``: until the work ends.

        What is told without buttons passes by itself, with buttons only if it is ``passing``."""
        self._timer.stop()
        self._asking = False
        self._refused = tone is Severity.REFUSED
        if busy:
            self._working = True
            self._ending.stop()
        elif self._working and tone is not Severity.TOLD and not actions:
            self._warned = list(dict.fromkeys((*self._warned, words)))
            words = " ".join(self._warned[-_WARNED_MOST:])
        self.words.setText(words)
        self.setProperty("warning", tone is not Severity.TOLD)
        self.style().unpolish(self)
        self.style().polish(self)
        self._fill(actions)
        self._close.setVisible(not busy)
        self._lie()
        self.show()
        self.raise_()
        if tone is Severity.TOLD and not busy and (passing or not actions):
            self._timer.start(_TOLD_MS)

    def ask(self, words: str, actions: Actions) -> None:
        """A question that waits for its answer, whatever else is said meanwhile."""
        self._question = words, actions
        self._show_question()

    def _show_question(self) -> None:
        if self._question is not None:
            words, actions = self._question
            self.say(words, Severity.WARNING, actions)
            self._asking = True

    def _closed(self) -> None:
        if self._asking:
            self._question = None
        self._warned = []
        self.clear()

    def _fill(self, actions: Actions) -> None:
        while self._buttons.count():
            taken = self._buttons.takeAt(0)
            old = taken.widget() if taken is not None else None
            if old is not None:
                old.hide()
                old.deleteLater()
        for title, run in actions:
            button = QPushButton(title)
            button.clicked.connect(lambda _=False, run=run: self._act(run))
            self._buttons.addWidget(button)

    def _act(self, run: Callable[[], None]) -> None:
        if self._asking:
            self._question = None
        self.clear()
        run()

    def _lie(self) -> None:
        """Along the foot of what it lies over."""
        width = max(160, self._over.width() - 2 * _INSET)
        self.setFixedWidth(width)
        height = max(self.heightForWidth(width), self.sizeHint().height())
        self.setGeometry(_INSET, self._over.height() - height - _INSET, width, height)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self._over and event.type() == QEvent.Type.Resize and self.isVisible():
            self._lie()
        return super().eventFilter(watched, event)

    def answered(self) -> None:
        """Something was done: what was said of why nothing had come of it goes."""
        if self._refused and self.isVisible():
            self.clear()

    def clear(self) -> None:
        """Take away what was said; a question that waits comes back, and what was warned of while
        the work that is over went on."""
        self._timer.stop()
        self.hide()
        self._show_question()
        if self._working and self._warned and not self._asking:
            self.say(self._warned[-1], Severity.WARNING)
        # What is warned of as it ends belongs to it, too.
        self._ending.start()

    def _end_work(self) -> None:
        self._working, self._warned = False, []

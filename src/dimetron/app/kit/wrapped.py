"""Words of several lines that are never pressed together."""

from __future__ import annotations

from PySide6.QtCore import QSize
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QLabel


class WrappedLabel(QLabel):
    """As high as its words need at its width, also in a column that scrolls: Qt's own label asks
    for one line there, and gets no more when what it says becomes longer."""

    def __init__(self) -> None:
        super().__init__()
        self.setWordWrap(True)

    def minimumSizeHint(self) -> QSize:
        hint = super().minimumSizeHint()
        return QSize(hint.width(), max(hint.height(), self.heightForWidth(self.width())))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.size().width() != event.oldSize().width():
            self.updateGeometry()

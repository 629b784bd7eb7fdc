"""A line of text that ends in dots where there is no room for it."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QSize, Qt
from PySide6.QtGui import QHelpEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel, QToolTip


class ElidedLabel(QLabel):
    """Never asks for room; what is cut is told under the mouse."""

    def minimumSizeHint(self) -> QSize:
        return QSize(10, super().minimumSizeHint().height())

    def shown_words(self) -> str:
        metrics = self.fontMetrics()
        return metrics.elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and not self.toolTip():
            cut = self.shown_words() != self.text()
            QToolTip.showText(event.globalPos(), self.text() if cut else "", self)
            return True
        return super().event(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(self.palette().color(self.foregroundRole()))
        painter.drawText(self.rect(), self.alignment(), self.shown_words())
        painter.end()

"""A line of text that ends in dots where there is no room for it."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel


class ElidedLabel(QLabel):
    """Stands at the right of its place."""

    def minimumSizeHint(self) -> QSize:
        return QSize(10, super().minimumSizeHint().height())

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        metrics = self.fontMetrics()
        words = metrics.elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        at = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.setPen(self.palette().color(self.foregroundRole()))
        painter.drawText(self.rect(), at, words)

"""Carrying cards about: what a drag holds, and where it would be laid down."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from PySide6.QtCore import QMimeData, QPoint, QRect, Qt
from PySide6.QtGui import QDrag, QMouseEvent
from PySide6.QtWidgets import QApplication, QWidget

from dimetron.document.model import Item
from dimetron.document.parts import Group

_HEAD_PX = 96
CARD = "application/x-dimetron-card"


class Press:
    """A press on a card that may become a drag."""

    def __init__(self, widget: QWidget, id_: str) -> None:
        self._widget = widget
        self._id = id_
        self._at: QPoint | None = None

    def begin(self, event: QMouseEvent) -> None:
        left = event.button() == Qt.MouseButton.LeftButton
        self._at = event.position().toPoint() if left else None

    def go_on(self, event: QMouseEvent) -> None:
        """Lift the card once the press has moved far enough."""
        if self._at is None or not event.buttons() & Qt.MouseButton.LeftButton:
            return
        way = event.position().toPoint() - self._at
        if way.manhattanLength() < QApplication.startDragDistance():
            return
        at, self._at = self._at, None
        data = QMimeData()
        data.setData(CARD, self._id.encode())
        drag = QDrag(self._widget)
        drag.setMimeData(data)
        width = min(self._widget.width(), 180)
        smooth = Qt.TransformationMode.SmoothTransformation
        # An unfolded card is carried by its head.
        head = QRect(0, 0, self._widget.width(), min(self._widget.height(), _HEAD_PX))
        drag.setPixmap(self._widget.grab(head).scaledToWidth(width, smooth))
        drag.setHotSpot(at / 2)
        drag.exec(Qt.DropAction.MoveAction)


class Landing(NamedTuple):
    """Where a card is laid: before which part (None: last), in which group, and the height in the
    tray of the line that shows it."""

    before: str | None
    group: str | None
    y: int


def landing(parts: Sequence[tuple[Item | Group, int, int]], y: int) -> Landing:
    """Where a card let go at height ``y`` is laid. parts: what lies in the tray from the top, with
    its upper and lower edge; folded cards are left out."""
    for number, (part, top, bottom) in enumerate(parts):
        if y >= bottom and number + 1 < len(parts):
            continue
        following = parts[number + 1][0].id if number + 1 < len(parts) else None
        upper = y < (top + bottom) / 2
        if isinstance(part, Group):
            if upper:
                return Landing(part.id, None, top)
            return Landing(following, part.id, bottom)
        if upper:
            return Landing(part.id, part.group, top)
        return Landing(following, part.group if y < bottom else None, bottom)
    return Landing(None, None, 0)

"""The magnifier: the pixels of a drawing about the place a click would mark."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QImage, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from dimetron.app.board.widget import Board
from dimetron.app.kit.theme import FAMILY, Theme
from dimetron.app.tools.base import Aimed, BoardEvent
from dimetron.app.work.pictures import Pictures
from dimetron.app.work.session import Session

if TYPE_CHECKING:
    from PIL import Image

#: Its size on the screen, how many pixels of the drawing it shows across, and the room for words.
_SIZE, _SEEN, _WORDS = 148, 29, 18
_INSET = 10
#: The room that a pane's name takes at its upper left.
_NAME = 30
#: What of the ink is under the pointer, in words.
_KINDS = {
    "corner": "crossing or end",
    "extreme": "farthest point",
    "stroke": "middle of a stroke",
    "": "free",
}


class Loupe(QWidget):
    """Stands in a corner of the pane, out of the pointer's way."""

    def __init__(self, board: Board) -> None:
        super().__init__(board)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setFixedSize(_SIZE, _SIZE + _WORDS)
        self._board = board
        self._picture: QImage | None = None
        self._shift = QPointF()
        self._kind = ""
        self.theme: Theme | None = None
        self.hide()

    def follow(
        self, event: BoardEvent | None, aimed: Aimed | None, session: Session, pictures: Pictures
    ) -> None:
        """Show what a click would mark, or nothing where it would mark nothing."""
        pyramid = None
        if aimed is not None:
            pyramid = pictures.pyramids.get(session.document.recipe(aimed.drawing))
        if event is None or aimed is None or pyramid is None or self.theme is None:
            self.hide()
        else:
            self._look(pyramid.levels[0], aimed.px, aimed.kind, event.slot)

    def _look(self, image: Image.Image, px: tuple[float, float], kind: str, slot: str) -> None:
        left, top = int(px[0]) - _SEEN // 2, int(px[1]) - _SEEN // 2
        data = _part(image, left, top, self.theme.chrome.film if self.theme else "#FFFFFF")
        self._picture = QImage(data, _SEEN, _SEEN, 3 * _SEEN, QImage.Format.Format_RGB888).copy()
        self._shift = QPointF(px[0] - left, px[1] - top)
        self._kind = kind
        self._stand(slot)
        self.show()
        self.raise_()
        self.update()

    def _stand(self, slot: str) -> None:
        """In the first of the pane's corners that the pointer is not near, the upper right one
        before the others."""
        rect = self._board.rects()[slot]
        left, right = round(rect.x) + _INSET, round(rect.x + rect.w) - self.width() - _INSET
        top, bottom = round(rect.y) + _INSET, round(rect.y + rect.h) - self.height() - _INSET
        pointer = self._board.mapFromGlobal(self.cursor().pos())
        corners = [
            QRect(x, y, self.width(), self.height())
            for x, y in ((right, top), (right, bottom), (left, bottom), (left, top + _NAME))
        ]
        clear = (c for c in corners if not c.adjusted(-40, -40, 40, 40).contains(pointer))
        self.setGeometry(next(clear, corners[0]))

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._picture is None or self.theme is None:
            return
        chrome = self.theme.chrome
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(chrome.panel))
        view = QRectF(0, 0, _SIZE, _SIZE)
        painter.drawImage(view, self._picture)
        scale = _SIZE / _SEEN
        at = self._shift * scale
        painter.setPen(QPen(QColor(chrome.selection), 1.0))
        for a, b in ((-_SIZE, -6), (6, _SIZE)):
            painter.drawLine(QPointF(at.x() + a, at.y()), QPointF(at.x() + b, at.y()))
            painter.drawLine(QPointF(at.x(), at.y() + a), QPointF(at.x(), at.y() + b))
        painter.fillRect(QRectF(0, _SIZE, _SIZE, _WORDS), QColor(chrome.panel))
        painter.setPen(QPen(QColor(chrome.hairline), 1.0))
        painter.drawRect(QRectF(0.5, 0.5, self.width() - 1, self.height() - 1))
        painter.setPen(QColor(chrome.ink))
        font = QFont(FAMILY)
        font.setPixelSize(11)
        painter.setFont(font)
        words = QRectF(0, _SIZE, _SIZE, _WORDS)
        painter.drawText(words, Qt.AlignmentFlag.AlignCenter, _KINDS[self._kind])
        painter.end()


def _part(image: Image.Image, left: int, top: int, beyond: str) -> bytes:
    """The pixels that are seen of a picture, with a colour where it has none."""
    from PIL import Image

    part = Image.new("RGB", (_SEEN, _SEEN), beyond)
    right, bottom = min(left + _SEEN, image.width), min(top + _SEEN, image.height)
    box = (max(left, 0), max(top, 0), right, bottom)
    if box[0] < right and box[1] < bottom:
        part.paste(image.crop(box).convert("RGB"), (box[0] - left, box[1] - top))
    return part.tobytes()

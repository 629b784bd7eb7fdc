"""A loose picture to look at: zoom by the wheel, pan by dragging, read colours."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRect, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QGuiApplication, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from dimetron.app.kit.theme import Theme
from dimetron.app.sheet.view import qimage
from dimetron.app.work.pictures import Pictures
from dimetron.app.work.session import Session
from dimetron.document import loosening
from dimetron.document.model import with_item
from dimetron.document.parts import LoosePicture

if TYPE_CHECKING:
    from dimetron.imaging.pyramid import Pyramid

_ZOOM_PER_NOTCH = 1.2
#: How long it must rest before where it looks is kept with the project.
_KEPT_AFTER_MS = 600


class LooseView(QWidget):
    """``read``: the colour under the pointer, as ``#RRGGBB``, while colours are read."""

    read = Signal(str)

    def __init__(self, session: Session, pictures: Pictures, id_: str) -> None:
        super().__init__()
        self.setObjectName("looseView")
        self.setAccessibleName("Loose picture")
        self.setMinimumSize(40, 40)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMouseTracking(True)
        self.setToolTip("Wheel: closer. Drag: move it about. Double-click: all of it.")
        self._session = session
        self._pictures = pictures
        self.id = id_
        self.theme: Theme | None = None
        self.reading = False
        self._look: tuple[float, tuple[float, float]] | None = None
        self._last: QPointF | None = None
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_KEPT_AFTER_MS)
        self._rest.timeout.connect(self._keep)
        pictures.ready.connect(self._came)

    def _came(self, recipe: object) -> None:
        # A method, which Qt lets go of when the widget is gone.
        self.update()

    def item(self) -> LoosePicture | None:
        """The picture, as it is looked at here."""
        found = self._session.document.item(self.id)
        if not isinstance(found, LoosePicture):
            return None
        if self._look is not None:
            zoom, middle = self._look
            return loosening.looked_at(found, zoom, middle, kept=False)
        return found

    def show_picture(self, id_: str) -> None:
        """Look at another loose picture."""
        self._keep()
        self.id = id_
        self.update()

    def _pyramid(self) -> Pyramid | None:
        item = self.item()
        return None if item is None else self._pictures.pyramids.get(
            self._session.document.recipe(item))  # fmt: skip

    def _scale(self, item: LoosePicture, size: tuple[int, int]) -> float:
        """Logical pixels of the widget per picture pixel."""
        return min(self.width() / size[0], self.height() / size[1]) * item.zoom

    def _corner(self, item: LoosePicture, size: tuple[int, int]) -> tuple[float, float]:
        """Where the picture's top-left corner lies in the widget."""
        scale = self._scale(item, size)
        x, y = (
            room / 2 - m * side * scale
            for room, m, side in zip((self.width(), self.height()), item.middle, size, strict=True)
        )
        return x, y

    def spot(self, at: QPointF) -> tuple[float, float] | None:
        """The place under a widget position, as shares of the picture's width and height."""
        item, pyramid = self.item(), self._pyramid()
        if item is None or pyramid is None:
            return None
        size = pyramid.size_px
        scale, (x, y) = self._scale(item, size), self._corner(item, size)
        return (at.x() - x) / scale / size[0], (at.y() - y) / scale / size[1]

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        field = QColor(self.theme.chrome.field if self.theme else "#FFFFFF")
        painter.fillRect(self.rect(), field)
        item, pyramid = self.item(), self._pyramid()
        if item is None or pyramid is None:
            ink = QColor(self.theme.chrome.soft_ink if self.theme else "#56646C")
            painter.setPen(ink)
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self._words(item))
            return
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, True)
        self._paint(painter, item, pyramid)

    def _words(self, item: LoosePicture | None) -> str:
        if item is not None and self._session.document.data(item) is None:
            return "The picture is missing."
        return "Reading the picture…"

    def _paint(self, painter: QPainter, item: LoosePicture, pyramid: Pyramid) -> None:
        """The visible part, from the level that has about as many pixels as the screen."""
        size = pyramid.size_px
        scale, (x, y) = self._scale(item, size), self._corner(item, size)
        per_px = 1 / max(scale * self.devicePixelRatioF(), 1e-9)
        level = min(max(0, int(math.log2(max(1.0, per_px)))), len(pyramid.levels) - 1)
        step = 2.0**level
        low = [max(0, int(-corner / scale / step)) for corner in (x, y)]
        ends = (self.width() - x) / scale / step, (self.height() - y) / scale / step
        most = pyramid.levels[level].size
        high = [min(m, math.ceil(end)) for m, end in zip(most, ends, strict=True)]
        if high[0] <= low[0] or high[1] <= low[1]:
            return
        pixels = pyramid.part(level, low[0], low[1], high[0], high[1])
        image = qimage(np.ascontiguousarray(pixels), 1.0)
        left, top = x + low[0] * step * scale, y + low[1] * step * scale
        right, bottom = x + high[0] * step * scale, y + high[1] * step * scale
        target = QRect(round(left), round(top), round(right - left), round(bottom - top))
        painter.drawImage(target, image)

    def colour_at(self, at: QPointF) -> str | None:
        """The picture's colour under a widget position, or None beside it."""
        spot, pyramid = self.spot(at), self._pyramid()
        if spot is None or pyramid is None or not all(0 <= s < 1 for s in spot):
            return None
        w, h = pyramid.size_px
        x, y = int(spot[0] * w), int(spot[1] * h)
        value = pyramid.part(0, x, y, x + 1, y + 1)[0, 0]
        r, g, b = (int(v) for v in (value if len(value) >= 3 else np.repeat(value[:1], 3))[:3])
        return f"#{r:02X}{g:02X}{b:02X}"

    # Looking.

    def look(self, item: LoosePicture) -> None:
        self._look = item.zoom, item.middle
        self._rest.start()
        self.update()

    def _keep(self) -> None:
        """What was looked at last is kept with the project, without a step to undo."""
        self._rest.stop()
        item, self._look = self.item(), None
        known = self._session.committed.item(self.id)
        if item is not None and isinstance(known, LoosePicture) and item != known:
            doc = with_item(self._session.committed, self.id, zoom=item.zoom, middle=item.middle)
            self._session.amend(doc)

    def wheelEvent(self, event: QWheelEvent) -> None:
        item, spot = self.item(), self.spot(event.position())
        if item is not None and spot is not None:
            factor = _ZOOM_PER_NOTCH ** (event.angleDelta().y() / 120)
            self.look(loosening.looked_at(item, item.zoom * factor, spot))
        event.accept()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        colour = self.colour_at(event.position()) if self.reading else None
        if colour is not None:
            QGuiApplication.clipboard().setText(colour)
            self._session.tell(f"Copied the colour {colour}.")
        self._last = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.reading:
            self.read.emit(self.colour_at(event.position()) or "")
        elif self._last is not None and event.buttons() & Qt.MouseButton.LeftButton:
            before, now, item = self.spot(self._last), self.spot(event.position()), self.item()
            if before is not None and now is not None and item is not None:
                x, y = (m + b - n for m, b, n in zip(item.middle, before, now, strict=True))
                self.look(loosening.looked_at(item, item.zoom, (x, y), kept=False))
            self._last = event.position()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._last = None

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        item = self.item()
        if item is not None:
            self.look(loosening.looked_at(item, 1.0, (0.5, 0.5), kept=False))

    def read_colours(self, on: bool) -> None:
        self.reading = on
        shape = Qt.CursorShape.CrossCursor if on else Qt.CursorShape.ArrowCursor
        self.setCursor(shape)

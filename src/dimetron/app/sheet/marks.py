"""What sheet tools ask to have painted, in pixels of the prepared picture, by colour role."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen, QPolygonF

from dimetron.app.kit.theme import FAMILY, Theme
from dimetron.imaging.frame import Crop

Point = tuple[float, float]
#: How much a brush's trail hides.
_TRAIL = 0.45


@dataclass(frozen=True, slots=True)
class Line:
    """A polyline; ``dashed`` for what is only proposed; ``on_sheet``: a see-through trail whose
    width counts in pixels of the sheet."""

    points: tuple[Point, ...]
    role: str = "selection"
    width: float = 1.5
    dashed: bool = False
    closed: bool = False
    wash: bool = False
    on_sheet: bool = False


@dataclass(frozen=True, slots=True)
class Dots:
    """A mark at each point: "square" handles, "cross" or "ring"."""

    points: tuple[Point, ...]
    kind: str = "square"
    role: str = "selection"
    size: float = 7.0


@dataclass(frozen=True, slots=True)
class Words:
    """Text on a small plate beside a point, ``shift`` view pixels right and down."""

    at: Point
    text: str
    role: str = "selection"
    shift: Point = (0.0, -22.0)


Mark = Line | Dots | Words


def corners_of(crop: Crop) -> tuple[Point, ...]:
    """Of a rectangle, as a line takes them."""
    return tuple((float(x), float(y)) for x, y in crop.corners)


def role_colour(theme: Theme, role: str) -> QColor:
    chrome = theme.chrome
    return QColor(
        {
            "selection": chrome.selection,
            "accent": chrome.accent,
            "warning": chrome.warning,
            "soft": chrome.soft_ink,
            "ink": chrome.ink,
        }[role]
    )


class MarkPainter:
    """Paints marks with ``to_view``: prepared pixels (n, 2) to view pixels."""

    def __init__(
        self, painter: QPainter, theme: Theme, scale: float, origin: tuple[float, float]
    ) -> None:
        self._painter = painter
        self._theme = theme
        self._scale = scale
        self._origin = origin
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)

    def _view(self, point: Point) -> QPointF:
        return QPointF(
            (point[0] - self._origin[0]) * self._scale, (point[1] - self._origin[1]) * self._scale
        )

    def paint(self, marks: Sequence[Mark]) -> None:
        for mark in marks:
            if isinstance(mark, Line):
                self._line(mark)
            elif isinstance(mark, Dots):
                self._dots(mark)
        # Words lie over all lines.
        for mark in marks:
            if isinstance(mark, Words):
                self._words(mark)

    def _line(self, mark: Line) -> None:
        colour = role_colour(self._theme, mark.role)
        path = QPolygonF([self._view(p) for p in mark.points])
        if mark.on_sheet:
            colour.setAlphaF(_TRAIL)
            ends, joins = Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin
            width = max(1.0, mark.width * self._scale)
            self._painter.setPen(QPen(colour, width, Qt.PenStyle.SolidLine, ends, joins))
            self._painter.setBrush(Qt.BrushStyle.NoBrush)
            self._painter.drawPolyline(path)
            return
        halo = QColor(self._theme.chrome.field)
        halo.setAlphaF(0.65)
        style = Qt.PenStyle.DashLine if mark.dashed else Qt.PenStyle.SolidLine
        for pen in (QPen(halo, mark.width + 2), QPen(colour, mark.width, style)):
            self._painter.setPen(pen)
            self._painter.setBrush(Qt.BrushStyle.NoBrush)
            if mark.closed:
                self._painter.drawPolygon(path)
            else:
                self._painter.drawPolyline(path)
        if mark.wash and mark.closed:
            colour.setAlphaF(0.07)
            self._painter.setPen(Qt.PenStyle.NoPen)
            self._painter.setBrush(colour)
            self._painter.drawPolygon(path)

    def _dots(self, mark: Dots) -> None:
        colour = role_colour(self._theme, mark.role)
        half = mark.size / 2
        self._painter.setPen(QPen(colour, 1.4))
        self._painter.setBrush(QColor(self._theme.chrome.field))
        for point in mark.points:
            at = self._view(point)
            if mark.kind == "square":
                self._painter.drawRect(QRectF(at.x() - half, at.y() - half, mark.size, mark.size))
            elif mark.kind == "ring":
                self._painter.drawEllipse(at, half, half)
            else:
                for dx, dy in ((half, 0.0), (0.0, half)):
                    self._painter.drawLine(
                        QPointF(at.x() - dx, at.y() - dy), QPointF(at.x() + dx, at.y() + dy)
                    )

    def _words(self, mark: Words) -> None:
        font = QFont(FAMILY)
        font.setPixelSize(12)
        font.setWeight(QFont.Weight.DemiBold)
        box = QFontMetricsF(font).boundingRect(mark.text)
        at = self._view(mark.at) + QPointF(*mark.shift)
        plate = QRectF(at.x(), at.y(), box.width() + 12, 18)
        # Never off the edge of the view.
        room = self._painter.window()
        plate.moveLeft(float(np.clip(plate.left(), 2, max(2.0, room.width() - plate.width() - 2))))
        plate.moveTop(float(np.clip(plate.top(), 2, max(2.0, room.height() - 20.0))))
        self._painter.setPen(Qt.PenStyle.NoPen)
        self._painter.setBrush(role_colour(self._theme, mark.role))
        self._painter.drawRoundedRect(plate, 3, 3)
        self._painter.setFont(font)
        self._painter.setPen(QColor(self._theme.chrome.on_accent))
        self._painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, mark.text)

"""Hairline icons, drawn in the ink of the theme and sharp at any pixel ratio."""

from __future__ import annotations

from functools import cache
from importlib.resources import files

from PySide6.QtCore import QByteArray, QRectF, Qt
from PySide6.QtGui import QIcon, QPainter, QPixmap
from PySide6.QtSvg import QSvgRenderer

_RATIO = 3


@cache
def _svg(name: str) -> str:
    return files("dimetron.app").joinpath("kit", "icons", f"{name}.svg").read_text("utf-8")


@cache
def icon(name: str, colour: str, size: int = 16) -> QIcon:
    """An icon by its file name, in a colour ``#RRGGBB``."""
    renderer = QSvgRenderer(QByteArray(_svg(name).replace("currentColor", colour).encode()))
    pixmap = QPixmap(size * _RATIO, size * _RATIO)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    renderer.render(painter, QRectF(0, 0, size * _RATIO, size * _RATIO))
    painter.end()
    pixmap.setDevicePixelRatio(_RATIO)
    return QIcon(pixmap)

"""The card of an outline: what it looks like, how many points it has, where it lies."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap, QPolygonF

from dimetron.app.kit.fields import length_edit
from dimetron.app.kit.theme import Theme
from dimetron.app.tray.card import Card, CardKind, Numbers
from dimetron.app.work.session import Session
from dimetron.counting import counted
from dimetron.document.model import Item, with_item
from dimetron.document.outline import Outline, polygons, whole_paths
from dimetron.geometry.views import AXIS_NAMES, View
from dimetron.outlines.path import bounds

_THUMB = QSize(46, 40)
_ROOM = 4


class OutlineCard(Card):
    def __init__(self, session: Session, id_: str) -> None:
        super().__init__(session, id_)
        self.row.addStretch(1)
        grid = Numbers(self.body)
        self.depth_edit = length_edit(lambda: session.document.unit)
        self.depth_label = grid.line("depth", self.depth_edit, "Where it lies along its view")
        self.depth_edit.entered.connect(self._enter_depth)
        grid.finish()

    def _sign(self, item: Outline) -> float:
        if not isinstance(item.view, View):
            return 1.0
        return float(item.view.directions.forward[item.view.depth_axis])

    def _enter_depth(self, mm: float) -> None:
        item = self._item()
        if isinstance(item, Outline):
            doc = with_item(self._session.committed, self.id, depth=mm * self._sign(item))
            self._session.commit(doc, f"Move {item.name} to another depth")

    def show_item(self, item: Item, chosen: bool, unfolded: bool, theme: Theme) -> None:
        assert isinstance(item, Outline)
        self.mark(item, chosen, unfolded, theme)
        points = counted(len(item.path), "point", "points")
        kind = ("half, " if item.half else "") + ("opening, " if item.opening else "")
        self.badge.setText(f"{item.view.title}  ·  {kind}{points}")
        boxes = np.array([bounds(path) for path in whole_paths(item)])
        size = boxes[:, 1].max(axis=0) - boxes[:, 0].min(axis=0)
        self.show_size(*(float(s) for s in size))
        self.thumb.setPixmap(_drawn(item, theme.chrome.accent))
        if unfolded:
            axis = AXIS_NAMES[item.view.depth_axis] if isinstance(item.view, View) else ""
            self.depth_label.setText(f"depth {axis}".strip())
            self.depth_edit.set_value(item.depth * self._sign(item))


def _drawn(item: Outline, colour: str) -> QPixmap:
    """It, as large as it goes."""
    ratio = 2
    pixmap = QPixmap(_THUMB * ratio)
    pixmap.fill(Qt.GlobalColor.transparent)
    lines = polygons(item)
    points = np.concatenate(lines)
    low, span = points.min(axis=0), np.ptp(points, axis=0)
    room = np.array([_THUMB.width(), _THUMB.height()]) - 2 * _ROOM
    scale = float((room / np.maximum(span, 1e-9)).min())
    shift = (room - span * scale) / 2 + _ROOM
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.scale(ratio, ratio)
    painter.setPen(QPen(QColor(colour), 1.4))
    for path, line in zip(whole_paths(item), lines, strict=True):
        at = (line - low) * scale + shift
        corners = [QPointF(float(x), _THUMB.height() - float(y)) for x, y in at]
        if path.closed:
            painter.drawPolygon(QPolygonF(corners))
        else:
            painter.drawPolyline(QPolygonF(corners))
    painter.end()
    pixmap.setDevicePixelRatio(ratio)
    return pixmap


CARD = CardKind(Outline, lambda shelf, id_: OutlineCard(shelf.session, id_))

"""The sheet as it is prepared, at the size it is seen; panning and zooming here, the rest to the
tool in hand."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QDragEnterEvent,
    QDropEvent,
    QFont,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QShowEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QComboBox, QWidget

from dimetron.app.kit.dropped import local_files
from dimetron.app.kit.keying import begins_a_number, key_name
from dimetron.app.kit.theme import FAMILY, THEMES, Theme
from dimetron.app.sheet.desk import Desk
from dimetron.app.sheet.marks import MarkPainter
from dimetron.app.sheet.tool import SheetEvent, SheetTool
from dimetron.document.model import Drawing, Sheet
from dimetron.imaging.frame import Frame
from dimetron.imaging.tone import PLAIN, Tone

_MARGIN_PX = 28
_ZOOM_PER_NOTCH = 1.2
#: So pale is what is not read as drawn, while a tool shows that.
_VEIL = 0.72
_NEAREST, _FARTHEST = 64.0, 0.002
_BEFORE = Qt.Key.Key_U
_CURSORS = {
    "cross": Qt.CursorShape.CrossCursor,
    "move": Qt.CursorShape.SizeAllCursor,
    "across": Qt.CursorShape.SizeHorCursor,
    "down": Qt.CursorShape.SizeVerCursor,
    "slant": Qt.CursorShape.SizeFDiagCursor,
    "back-slant": Qt.CursorShape.SizeBDiagCursor,
}


class SheetView(QWidget):
    pointed = Signal(object)  # SheetEvent or None
    dropped = Signal(object)  # paths
    tool_changed = Signal()
    looked = Signal()  # zoomed or fitted
    typed = Signal(str)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.setObjectName("sheetView")
        self.setAccessibleName("Sheet")
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAcceptDrops(True)
        self.setMinimumSize(320, 240)
        self.desk = desk
        self.theme: Theme = THEMES["day"]
        self.tool: SheetTool | None = None
        self.before = False
        #: View pixels for each prepared pixel, and the prepared pixel at the view's top left.
        self.scale = 1.0
        self.corner = (0.0, 0.0)
        self._fitted_for: tuple[object, ...] = ()
        self._drawn: tuple[tuple[object, ...], QImage] | None = None
        self._light: tuple[tuple[object, ...], np.ndarray] | None = None
        self._panning: QPointF | None = None
        self._tool_pressed = False
        self._space_held = False
        self._last: SheetEvent | None = None
        self.picker = QComboBox(self)
        self.picker.setObjectName("sheetPicker")
        self.picker.setToolTip("The sheet, or one drawing of it by itself")
        self.picker.activated.connect(lambda i: desk.lay(self.picker.itemData(i)))
        self.picker.move(10, 10)
        desk.session.changed.connect(self._follow)
        desk.session.replacing.connect(self._on_replacing)
        desk.session.changing.connect(self.update)
        desk.session.chosen_changed.connect(self.update)
        desk.turned.connect(self._follow)
        desk.refreshed.connect(self.update)
        desk.pictures.ready.connect(lambda _: self.update())
        self._follow()

    # What is shown.

    @property
    def frame_(self) -> Frame | None:
        """The frame on show: the tool's own, else that of what lies on the desk."""
        own = self.tool.frame() if self.tool is not None else None
        return own or self.desk.frame

    def _tone(self) -> Tone:
        item = self.desk.item
        if item is None or self.before:
            return PLAIN
        return self.desk.document.recipe(item).tone

    def _follow(self) -> None:
        if self.isVisible():
            self._fill_picker()
            self.update()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._fill_picker()

    def _fill_picker(self) -> None:
        doc, item = self.desk.document, self.desk.item
        self.picker.blockSignals(True)
        self.picker.clear()
        for sheet in doc.sheets:
            page = f", page {sheet.page.number + 1}" if sheet.page.number else ""
            self.picker.addItem(sheet.name + page, sheet.id)
            for drawing in doc.cut_from(sheet.id):
                self.picker.addItem(f"    {drawing.name}", drawing.id)
        self.picker.setCurrentIndex(self.picker.findData(item.id) if item is not None else -1)
        self.picker.blockSignals(False)
        self.picker.setVisible(bool(doc.sheets))
        self.picker.adjustSize()
        self.picker.resize(min(max(self.picker.width(), 170), 320), 26)

    def fit_all(self) -> None:
        """Show all of it."""
        frame = self.frame_
        if frame is None:
            return
        w, h = frame.size_px
        room = max(20, self.width() - 2 * _MARGIN_PX), max(20, self.height() - 2 * _MARGIN_PX - 18)
        self.scale = min(room[0] / w, room[1] / h, 8.0)
        self.corner = (
            (w - self.width() / self.scale) / 2,
            (h - (self.height() + 18) / self.scale) / 2,
        )
        self.looked.emit()
        self.update()

    def fit_chosen(self) -> None:
        """Show the chosen rectangle large."""
        chosen = self.desk.chosen
        if chosen is None or chosen.crop is None or not isinstance(self.desk.item, Sheet):
            self.fit_all()
            return
        crop = chosen.crop
        self.scale = min(self.width() / crop.width, self.height() / crop.height, 32.0) * 0.8
        self.corner = (
            crop.left + crop.width / 2 - self.width() / self.scale / 2,
            crop.top + crop.height / 2 - self.height() / self.scale / 2,
        )
        self.update()

    def _fit_if_new(self) -> None:
        frame, item = self.frame_, self.desk.item
        key = (item.id if item else None, frame.size_px if frame else None)
        if key != self._fitted_for and self.width() > 40:
            self._fitted_for = key
            self.fit_all()

    def zoom(self, factor: float, at: QPointF | None = None) -> None:
        """Zoom about a view point, the pointer's if none is given."""
        at = at or QPointF(self.mapFromGlobal(self.cursor().pos()))
        if not QRectF(self.rect()).contains(at):
            at = QPointF(self.width() / 2, self.height() / 2)
        x, y = self._frame_point(at)
        self.scale = float(np.clip(self.scale * factor, _FARTHEST, _NEAREST))
        self.corner = (x - at.x() / self.scale, y - at.y() / self.scale)
        self.looked.emit()
        self.update()

    def _frame_point(self, at: QPointF) -> tuple[float, float]:
        return self.corner[0] + at.x() / self.scale, self.corner[1] + at.y() / self.scale

    def view_point(self, x: float, y: float) -> QPoint:
        """Where a prepared pixel is in the view."""
        left, top = self.corner
        return QPoint(round((x - left) * self.scale), round((y - top) * self.scale))

    # Painting.

    def paintEvent(self, event: QPaintEvent) -> None:
        self._fit_if_new()
        painter = QPainter(self)
        chrome, pane = self.theme.chrome, self.theme.palette.pane
        painter.fillRect(self.rect(), QColor.fromRgbF(*pane))
        glass = self.tool.glass() if self.tool is not None else None
        if glass is not None:
            self._paint_glass(painter, glass)
            return
        frame, page = self.frame_, self.desk.page
        if frame is None or page is None:
            self._paint_words(painter)
            return
        self._paint_ground(painter, frame)
        image = self._image(frame)
        if image is not None:
            painter.drawImage(self._shown_part(frame).topLeft(), image)
        painter.setPen(QPen(QColor(chrome.hairline), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(self._whole(frame))
        marks = self.tool.marks() if self.tool is not None and not self.before else ()
        MarkPainter(painter, self.theme, self.scale, self.corner).paint(marks)
        if self.before:
            self._plate(painter, "As it came")

    def _paint_glass(self, painter: QPainter, pixels: np.ndarray) -> None:
        """What the scanner sees, as large as it goes."""
        h, w = pixels.shape[:2]
        room = QRectF(self.rect()).adjusted(_MARGIN_PX, _MARGIN_PX + 18, -_MARGIN_PX, -_MARGIN_PX)
        scale = min(room.width() / w, room.height() / h)
        at = room.center() - QPointF(w * scale / 2, h * scale / 2)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(QRectF(at.x(), at.y(), w * scale, h * scale), qimage(pixels))

    def _whole(self, frame: Frame) -> QRectF:
        w, h = frame.size_px
        left, top = self.corner
        return QRectF(-left * self.scale, -top * self.scale, w * self.scale, h * self.scale)

    def _shown_part(self, frame: Frame) -> QRectF:
        """The part of the view that the picture covers, in whole pixels."""
        part = self._whole(frame).intersected(QRectF(self.rect()))
        return QRectF(part.toAlignedRect().intersected(self.rect()))

    def _paint_ground(self, painter: QPainter, frame: Frame) -> None:
        """What shows through clear paper: a fine lattice, so that clear is not taken for white."""
        if not self._tone().lift:
            return
        painter.save()
        painter.setClipRect(self._whole(frame))
        painter.setPen(QPen(QColor.fromRgbF(*self.theme.palette.grid_coarse), 1))
        for x in range(0, self.width(), 14):
            painter.drawLine(x, 0, x, self.height())
        for y in range(0, self.height(), 14):
            painter.drawLine(0, y, self.width(), y)
        painter.restore()

    def _image(self, frame: Frame) -> QImage | None:
        part, tone, page, item = (
            self._shown_part(frame),
            self._tone(),
            self.desk.page,
            self.desk.item,
        )
        ratio = self.devicePixelRatioF()
        size = max(1, round(part.width() * ratio)), max(1, round(part.height() * ratio))
        if part.isEmpty() or page is None or item is None:
            return None
        where = (part.x(), part.y(), size, self.scale, self.corner)
        veil = self.tool.veil() if self.tool is not None and not self.before else None
        key = (id(page), id(frame), tone, where, self._own_tones(), id(veil), self.theme)
        if self._drawn is None or self._drawn[0] != key:
            pixels = self._pixels(frame, tone, (part.x(), part.y()), size, ratio)
            if veil is not None:
                corner = self._frame_point(part.topLeft())
                shown = veil.seen(frame, corner, self.scale * ratio, size)
                pixels = _veiled(pixels, shown, self.theme)
            self._drawn = key, qimage(pixels, ratio)
        return self._drawn[1]

    def _pixels(
        self,
        frame: Frame,
        tone: Tone,
        at: tuple[float, float],
        size: tuple[int, int],
        ratio: float,
    ) -> np.ndarray:
        from dimetron.imaging.prepare import preview

        page = self.desk.page
        assert page is not None
        corner = self.corner[0] + at[0] / self.scale, self.corner[1] + at[1] / self.scale
        scale = self.scale * ratio
        pixels = preview(page, frame, tone, corner, scale, size, self._sheet_light(frame, tone))
        for drawing, own in self._own_tones():
            self._overlay(pixels, frame, drawing, own, corner, scale)
        return pixels

    def _own_tones(self) -> tuple[tuple[Drawing, Tone], ...]:
        """Drawings of the sheet with a tone of their own, when the sheet is on show."""
        sheet = self.desk.item
        if not isinstance(sheet, Sheet) or self.before:
            return ()
        doc = self.desk.document
        return tuple((d, d.tone) for d in doc.cut_from(sheet.id) if d.tone is not None and d.crop)

    def _overlay(
        self,
        pixels: np.ndarray,
        frame: Frame,
        drawing: Drawing,
        tone: Tone,
        corner: tuple[float, float],
        scale: float,
    ) -> None:
        """A drawing's own tone within its rectangle on the sheet."""
        from dimetron.imaging.prepare import preview

        crop, page = drawing.crop, self.desk.page
        assert crop is not None
        assert page is not None
        h, w = pixels.shape[:2]
        x0 = int(np.clip(round((crop.left - corner[0]) * scale), 0, w))
        y0 = int(np.clip(round((crop.top - corner[1]) * scale), 0, h))
        x1 = int(np.clip(round((crop.right - corner[0]) * scale), 0, w))
        y1 = int(np.clip(round((crop.bottom - corner[1]) * scale), 0, h))
        if x1 <= x0 or y1 <= y0:
            return
        at = corner[0] + x0 / scale, corner[1] + y0 / scale
        light = self._sheet_light(frame, tone)
        own = preview(page, frame, tone, at, scale, (x1 - x0, y1 - y0), light)
        pixels[y0:y1, x0:x1] = _fitting(own, pixels.shape[2])

    def _sheet_light(self, frame: Frame, tone: Tone) -> np.ndarray | None:
        if not tone.even:
            return None
        from dimetron.imaging.prepare import sheet_light

        page = self.desk.page
        assert page is not None
        key = (id(page), id(frame))
        if self._light is None or self._light[0] != key:
            self._light = key, sheet_light(page, frame)
        return self._light[1]

    def _paint_words(self, painter: QPainter) -> None:
        sheet = self.desk.sheet
        if sheet is None:
            title = "Drop a scan, a photo, a PDF or an SVG here"
            words = "or paste one, or bring it in or scan it from the route"
        elif self.desk.document.source(sheet.source).data is None:
            title, words = "The picture of this sheet is missing", "Bring it in again"
        else:
            title, words = "Reading the picture…", ""
        for text, size, weight, dy in (
            (title, 18, QFont.Weight.DemiBold, -14),
            (words, 13, QFont.Weight.Normal, 16),
        ):
            font = QFont(FAMILY)
            font.setPixelSize(size)
            font.setWeight(weight)
            painter.setFont(font)
            painter.setPen(QColor(self.theme.chrome.ink if dy < 0 else self.theme.chrome.soft_ink))
            painter.drawText(self.rect().translated(0, dy), Qt.AlignmentFlag.AlignCenter, text)

    def _plate(self, painter: QPainter, text: str) -> None:
        font = QFont(FAMILY)
        font.setPixelSize(13)
        font.setWeight(QFont.Weight.DemiBold)
        painter.setFont(font)
        plate = QRectF(self.width() / 2 - 52, 12, 104, 24)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self.theme.chrome.ink))
        painter.drawRoundedRect(plate, 4, 4)
        painter.setPen(QColor(self.theme.chrome.film))
        painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, text)

    # Tools.

    def take(self, tool: SheetTool | None) -> None:
        if self.tool is not tool:
            if self.tool is not None:
                self.tool.abandon()
            self.tool = tool
            self.tool_changed.emit()
        self.update()

    def _on_replacing(self, project: bool) -> None:
        if project or self._tool_pressed or self.desk.session.previewing:
            self.drop_gesture()

    def drop_gesture(self) -> bool:
        """Escape: whatever is under way ends without a trace."""
        if self._panning is not None:
            self._panning = None
            return True
        self._tool_pressed = False
        return self.tool.abandon() if self.tool is not None else False

    def _event(self, at: QPointF, keys: Qt.KeyboardModifier) -> SheetEvent:
        shift = bool(keys & Qt.KeyboardModifier.ShiftModifier)
        ctrl = bool(keys & Qt.KeyboardModifier.ControlModifier)
        return SheetEvent(self._frame_point(at), self.scale, shift, ctrl)

    # Qt's events.

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        button = event.button()
        if button is Qt.MouseButton.LeftButton and not self._space_held and self.tool is not None:
            seen, tool = self._event(event.position(), event.modifiers()), self.tool
            self._tool_pressed = tool.press(seen)
            if self._tool_pressed:
                self.tool_changed.emit()
                return
        if button is not Qt.MouseButton.BackButton:
            self._panning = event.position()
            self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._panning is not None:
            by = at - self._panning
            self._panning = at
            self.corner = (
                self.corner[0] - by.x() / self.scale,
                self.corner[1] - by.y() / self.scale,
            )
            self.update()
            return
        seen = self._event(at, event.modifiers())
        self._last = seen
        if self.tool is not None:
            self.tool.move(seen, self._tool_pressed)
            shape = self.tool.cursor(seen) if self.frame_ is not None else ""
            self.setCursor(_CURSORS.get(shape, Qt.CursorShape.ArrowCursor))
        self.pointed.emit(seen)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._panning is not None:
            self._panning = None
            self.unsetCursor()
        elif self._tool_pressed and self.tool is not None:
            self._tool_pressed = False
            self.tool.release(self._event(event.position(), event.modifiers()))
            self.tool_changed.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """On a chosen rectangle: that drawing by itself."""
        chosen = self.desk.chosen
        x, y = self._frame_point(event.position())
        crop = chosen.crop if chosen is not None else None
        inside = crop is not None and crop.left <= x <= crop.right and crop.top <= y <= crop.bottom
        if chosen is not None and inside and isinstance(self.desk.item, Sheet):
            self.desk.lay(chosen.id)
        else:
            self.mousePressEvent(event)

    def leaveEvent(self, event: QEvent) -> None:
        self._last = None
        self.pointed.emit(None)

    def wheelEvent(self, event: QWheelEvent) -> None:
        notches = event.angleDelta().y() / 120
        if notches:
            self.zoom(_ZOOM_PER_NOTCH**notches, event.position())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key == _BEFORE and not event.modifiers():
            self._show_before(True)
        elif key == Qt.Key.Key_Space:
            self._space_held = True
        elif self._key_to_tool(key_name(event)):
            self.tool_changed.emit()
        elif begins_a_number(event):
            self.typed.emit(event.text())
        else:
            super().keyPressEvent(event)

    def _key_to_tool(self, name: str | None) -> bool:
        if self.tool is None or name is None:
            return False
        # The sheet's tools know no keys that are held with another.
        return self.tool.key(name.rpartition("+")[2], self._last)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.isAutoRepeat():
            return
        if event.key() == _BEFORE:
            self._show_before(False)
        elif event.key() == Qt.Key.Key_Space:
            self._space_held = False
        else:
            super().keyReleaseEvent(event)

    def _show_before(self, before: bool) -> None:
        if before != self.before:
            self.before = before
            self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._fitted_for = ()
        super().resizeEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = local_files(event.mimeData())
        if paths:
            event.acceptProposedAction()
            self.dropped.emit(paths)


def _veiled(pixels: np.ndarray, shown: np.ndarray, theme: Theme) -> np.ndarray:
    """Pixels (h, w, c) pale but for what is shown (h, w, 1), 0 to 255."""
    share = _VEIL * (1 - shown.astype(np.float32) / 255)
    veil = np.array(theme.palette.pane[:3], np.float32) * 255
    three = _fitting(pixels, 3).astype(np.float32)
    return np.asarray(three * (1 - share) + veil * share + 0.5, np.uint8)


def _fitting(pixels: np.ndarray, channels: int) -> np.ndarray:
    """Pixels with as many channels as those they are laid over."""
    grey = pixels.shape[2] == 1
    if channels == 1:
        return pixels[..., :3].mean(axis=2, keepdims=True).astype(np.uint8)
    three = np.repeat(pixels, 3, axis=2) if grey else pixels[..., :3]
    if channels == 3:
        if pixels.shape[2] == 4:
            solid = pixels[..., 3:].astype(np.float32) / 255
            return (three * solid + 255 * (1 - solid)).astype(np.uint8)
        return three
    alpha = pixels[..., 3:] if pixels.shape[2] == 4 else np.full_like(pixels[..., :1], 255)
    return np.concatenate([three, alpha], axis=2)


def qimage(pixels: np.ndarray, ratio: float = 1.0) -> QImage:
    """A Qt image of (h, w, c) pixels, c = 1, 3 or 4."""
    h, w, c = pixels.shape
    forms: Sequence[QImage.Format] = (
        QImage.Format.Format_Grayscale8,
        QImage.Format.Format_RGB888,
        QImage.Format.Format_RGBA8888,
    )
    data = np.ascontiguousarray(pixels)
    image = QImage(data.data, w, h, w * c, forms[{1: 0, 3: 1, 4: 2}[c]]).copy()
    image.setDevicePixelRatio(ratio)
    return image

"""The card of a drawing: real size, scale, place, turn, stand-off."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QMenu,
    QPushButton,
    QSlider,
    QToolButton,
)

from dimetron.app import actions
from dimetron.app.card import Card, Numbers, size_text
from dimetron.app.fields import MeasureEdit, length_edit, number_edit
from dimetron.app.iconset import icon
from dimetron.app.session import Session
from dimetron.app.theme import Theme
from dimetron.document import edits, preparing
from dimetron.document.model import Document, Drawing, with_item
from dimetron.geometry import placement as place
from dimetron.geometry.placement import Placement
from dimetron.geometry.units import Unit
from dimetron.geometry.views import AXIS_NAMES, EXTENT_NAMES, View, shared_axes

#: Buttons that stand side by side in the narrow tray.
_TIGHT = "padding: 3px 5px; font-size: 12px;"


class DrawingCard(Card):
    """Numbers of a drawing: real size, scale, place, turn, stand-off."""

    def __init__(self, session: Session, id_: str) -> None:
        super().__init__(session, id_)
        self.fade = QSlider(Qt.Orientation.Horizontal)
        self.fade.setRange(5, 100)
        self.fade.setToolTip("Fade: how strongly the drawing shows")
        self.fade.setAccessibleName("Fade")
        self.fade.valueChanged.connect(self._fading)
        self.fade.sliderReleased.connect(self._faded)
        self.row.addWidget(self.fade, 1)
        self.place = QPushButton("Place")
        self.place.setProperty("main", True)
        self.place.setStyleSheet(_TIGHT)
        self.place.setToolTip("Put it on the plane of its view, at its sheet’s scale")
        self.place.clicked.connect(self._place)
        self.row.addWidget(self.place, 1)
        self.match = QToolButton()
        self.match.setText("Match…")
        self.match.setToolTip("Take over the scale or a size of another drawing")
        self.match.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self._menu = QMenu(self.match)
        self._menu.aboutToShow.connect(self._fill_menu)
        self.match.setMenu(self._menu)
        self.match.setStyleSheet(_TIGHT)
        self.mirror = QToolButton()
        self.mirror.setProperty("quiet", True)
        self.mirror.setToolTip("Mirror left to right")
        self.mirror.setAccessibleName("Mirror")
        self.mirror.clicked.connect(self._mirror)
        self.aspect = QToolButton()
        self.aspect.setText("aspect kept")
        self.aspect.setCheckable(True)
        self.aspect.setStyleSheet(_TIGHT)
        self.aspect.setToolTip("Keep width and height in proportion when a size is typed")
        self.aspect.clicked.connect(self._flip_aspect)
        self.view = QComboBox()
        self.view.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        self.view.setMinimumContentsLength(6)
        for view in View:
            self.view.addItem(view.title, view)
        self.view.activated.connect(self._move_to_view)
        self._build()

    def _build(self) -> None:
        def unit() -> Unit:
            return self._session.document.unit

        grid = Numbers(self.body)
        self.numbers = grid
        grid.line("view", self.view, "The plane this drawing lies on")
        self.width_edit, self.height_edit = length_edit(unit), length_edit(unit)
        self._width_name = grid.line("width", self.width_edit, "Real width of the picture")
        self._height_name = grid.line("height", self.height_edit, "Real height of the picture")
        self.scale_edit = number_edit(" mm/px", 5)
        grid.line("scale", self.scale_edit, "Millimetres per pixel")
        self.across_edit, self.up_edit = length_edit(unit), length_edit(unit)
        self._across_name = grid.line("X", self.across_edit, "Where the picture’s middle lies")
        self._up_name = grid.line("Z", self.up_edit, "Where the picture’s middle lies")
        self.turn_edit = number_edit("°", 3)
        grid.line("turned", self.turn_edit, "Turn in its plane, counter-clockwise")
        self.stand_edit = length_edit(unit)
        grid.line("stands off", self.stand_edit, "How far behind the origin the plane stands")
        line = QHBoxLayout()
        line.setSpacing(4)
        for part in (self.match, self.aspect):
            line.addWidget(part)
        line.addStretch(1)
        line.addWidget(self.mirror)
        grid.addLayout(line, grid.row, 0, 1, 2)
        grid.row += 1
        grid.finish()
        self.width_edit.entered.connect(lambda mm: self._enter_size(0, mm))
        self.height_edit.entered.connect(lambda mm: self._enter_size(1, mm))
        self.scale_edit.entered.connect(self._enter_scale)
        self.across_edit.entered.connect(lambda mm: self._enter_middle(0, mm))
        self.up_edit.entered.connect(lambda mm: self._enter_middle(1, mm))
        self.turn_edit.entered.connect(self._enter_turn)
        self.stand_edit.entered.connect(self._enter_stand_off)

    def _place(self) -> None:
        actions.place_one(self._session, self.id)

    def _drawing(self) -> Drawing | None:
        item = self._item()
        return item if isinstance(item, Drawing) else None

    def _fading(self, value: int) -> None:
        drawing = self._drawing()
        if drawing is None or value == round(drawing.fade * 100):
            return
        doc = with_item(self._session.committed, self.id, fade=value / 100)
        if self.fade.isSliderDown():
            self._session.preview(doc)
        else:
            self._session.commit(doc, f"Fade {drawing.name}")

    def _faded(self) -> None:
        drawing = self._drawing()
        if drawing is not None and self._session.document is not self._session.committed:
            self._session.commit(self._session.document, f"Fade {drawing.name}")

    def _apply(
        self, field: MeasureEdit | None, label: str, change: Callable[[Drawing], Placement]
    ) -> None:
        """Commit a changed placement; what has no meaning marks the field."""
        drawing = self._drawing()
        if drawing is None:
            return
        try:
            placed = change(drawing)
            doc = edits.with_placement(self._session.committed, self.id, placed)
        except ValueError as error:
            if field is not None:
                field.refuse(str(error))
            return
        if placed != drawing.placement:
            self._session.commit(doc, f"{label} {drawing.name}")

    def _size_px(self, drawing: Drawing) -> tuple[int, int]:
        return self._session.document.size_px(drawing)

    def _fixed(self, drawing: Drawing) -> tuple[float, float]:
        """The point that stays when a size is typed: the anchor, where the picture stands."""
        return drawing.placement.anchor_mm

    def _enter_size(self, axis: int, mm: float) -> None:
        field = (self.width_edit, self.height_edit)[axis]

        def change(drawing: Drawing) -> Placement:
            now = drawing.placement.size_mm(self._size_px(drawing))
            factor = mm / now[axis]
            p = drawing.placement
            if drawing.aspect_locked:
                return place.resized_about(p, factor, self._fixed(drawing))
            if axis == 1:
                return place.with_stretch(p, p.stretch * factor)
            wider = place.resized_about(p, factor, p.anchor_mm)
            return place.with_stretch(wider, p.stretch / factor)

        self._apply(field, "Set the size of", change)

    def _enter_scale(self, mm_per_px: float) -> None:
        self._apply(
            self.scale_edit,
            "Set the scale of",
            lambda d: place.with_scale(d.placement, mm_per_px, self._fixed(d)),
        )

    def _enter_middle(self, side: int, mm: float) -> None:
        def change(drawing: Drawing) -> Placement:
            middle = drawing.placement.centre(self._size_px(drawing))
            by = np.zeros(2)
            by[side] = mm * drawing.view.paper_signs[side] - middle[side]
            return place.moved(drawing.placement, by)

        self._apply((self.across_edit, self.up_edit)[side], "Move", change)

    def _enter_turn(self, degrees: float) -> None:
        def change(drawing: Drawing) -> Placement:
            w, h = self._size_px(drawing)
            return place.turned(drawing.placement, degrees, (w / 2, h / 2))

        self._apply(self.turn_edit, "Turn", change)

    def _enter_stand_off(self, mm: float) -> None:
        self._apply(
            self.stand_edit, "Stand-off of", lambda d: replace(d.placement, stand_off_mm=mm)
        )

    def _mirror(self) -> None:
        def change(drawing: Drawing) -> Placement:
            w, h = self._size_px(drawing)
            return place.flipped(drawing.placement, (w / 2, h / 2))

        self._apply(None, "Mirror", change)

    def _flip_aspect(self) -> None:
        drawing = self._drawing()
        if drawing is not None:
            locked = not drawing.aspect_locked
            doc = with_item(self._session.committed, self.id, aspect_locked=locked)
            self._session.commit(doc, "Keep the aspect" if locked else "Release the aspect")

    def _move_to_view(self, index: int) -> None:
        drawing = self._drawing()
        view = self.view.itemData(index)
        if drawing is not None and view is not drawing.view:
            doc = edits.moved_to_view(self._session.committed, self.id, view)
            self._session.commit(doc, f"Put {drawing.name} in {view.title}")

    def _fill_menu(self) -> None:
        self._menu.clear()
        drawing = self._drawing()
        if drawing is None:
            return
        others = [d for d in self._session.document.planes if d.id != self.id]
        for other in others:
            self._menu.addAction(f"Scale of {other.name}").triggered.connect(
                lambda _=False, other=other: self._match(other, None)
            )
            for axis in shared_axes(drawing.view, other.view):
                title = f"{EXTENT_NAMES[axis].capitalize()} of {other.name}"
                self._menu.addAction(title).triggered.connect(
                    lambda _=False, other=other, axis=axis: self._match(other, axis)
                )
        if not others:
            self._menu.addAction("There is no other drawing yet").setEnabled(False)

    def _match(self, other: Drawing, axis: int | None) -> None:
        doc = self._session.committed
        drawing = doc.drawing(self.id)
        if axis is None:
            after, what = edits.scaled_like(doc, self.id, other.id), "scale"
        else:
            after, what = edits.matched_extent(doc, self.id, other.id, axis), EXTENT_NAMES[axis]
        self._session.commit(after, f"Match the {what} of {drawing.name}")

    def refresh(self, drawing: Drawing, chosen: bool, unfolded: bool, theme: Theme) -> None:
        doc = self._session.document
        unfolded = unfolded and drawing.placed
        self.mark(drawing, chosen, unfolded, theme)
        self.place.setVisible(not drawing.placed)
        self.place.setEnabled(drawing.named)
        self.fade.setVisible(drawing.placed)
        size_px = doc.size_px(drawing)
        w, h = drawing.placement.size_mm(size_px)
        self.badge.setText(drawing.view.title if drawing.named else "Which view?")
        if doc.data(drawing) is None:
            self.size_words.setText("picture missing")
            self.size_words.setProperty("class", "small wrong")
        else:
            known = drawing.placed or _scale_known(doc, drawing)
            pixels = f"{size_px[0]} × {size_px[1]} px"
            self.size_words.setText(size_text(doc.unit, w, h) if known else pixels)
        if not self.fade.isSliderDown():
            self.fade.blockSignals(True)
            self.fade.setValue(round(drawing.fade * 100))
            self.fade.blockSignals(False)
        self.mirror.setIcon(icon("flip-horizontal", theme.chrome.ink, 17))
        if unfolded:
            self._show_numbers(drawing, size_px)

    def _show_numbers(self, drawing: Drawing, size_px: tuple[int, int]) -> None:
        p = drawing.placement
        w, h = p.size_mm(size_px)
        self.width_edit.set_value(w)
        self.height_edit.set_value(h)
        across, up = drawing.view.axes
        self._width_name.setText(EXTENT_NAMES[across])
        self._height_name.setText(EXTENT_NAMES[up])
        self._across_name.setText(f"middle {AXIS_NAMES[across]}")
        self._up_name.setText(f"middle {AXIS_NAMES[up]}")
        middle = p.centre(size_px) * drawing.view.paper_signs
        self.across_edit.set_value(float(middle[0]))
        self.up_edit.set_value(float(middle[1]))
        self.scale_edit.set_value(p.mm_per_px)
        self.turn_edit.set_value(p.rotation_deg)
        self.stand_edit.set_value(p.stand_off_mm)
        self.view.setCurrentIndex(self.view.findData(drawing.view))
        self.aspect.setChecked(drawing.aspect_locked)
        self.aspect.setText("aspect kept" if drawing.aspect_locked else "aspect free")

    def show_thumb(self, pixmap: QPixmap | None) -> None:
        if pixmap is not None:
            self.thumb.setPixmap(pixmap)


def _scale_known(doc: Document, drawing: Drawing) -> bool:
    return preparing.sheet_mm_per_px(doc, doc.sheet(drawing.sheet)) is not None

"""A card of the tray: one drawing or mesh. The chosen card unfolds to its numbers."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPixmap
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QSlider,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from dimetron.app.fields import MeasureEdit, length_edit, number_edit
from dimetron.app.iconset import icon
from dimetron.app.session import Session
from dimetron.app.theme import Theme
from dimetron.document import edits
from dimetron.document.model import Drawing, MeshObject, with_item
from dimetron.geometry import placement as place
from dimetron.geometry.placement import Placement
from dimetron.geometry.units import Unit, format_length
from dimetron.geometry.views import AXIS_NAMES, EXTENT_NAMES, View, shared_axes
from dimetron.mesh import edit
from dimetron.mesh.mesh import Ints

_THUMB = QSize(52, 46)
#: Buttons that stand side by side in the narrow tray.
_TIGHT = "padding: 3px 5px; font-size: 12px;"


class Card(QFrame):
    clicked = Signal(str, bool)

    def __init__(self, session: Session, id_: str) -> None:
        super().__init__()
        self.setObjectName("card")
        self.id = id_
        self._session = session
        self.thumb = QLabel()
        self.thumb.setObjectName("thumb")
        self.thumb.setFixedSize(_THUMB)
        self.thumb.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.name = QLineEdit()
        self.name.setObjectName("cardName")
        self.name.setProperty("plain", True)
        self.name.setStyleSheet("border: none; padding: 0;")
        self.name.setToolTip("Name; click to change it")
        self.name.setAccessibleName("Name")
        self.name.editingFinished.connect(self._rename)
        self.badge = QLabel()
        self.badge.setObjectName("badge")
        self.size_words = QLabel()
        self.size_words.setProperty("class", "small")
        self.show_button = self._toggle("Show or hide it on the board", "shown")
        self.hold_button = self._toggle("Hold it: protect it from being chosen and moved", "held")
        self.row = QHBoxLayout()
        self.row.setSpacing(4)
        self.row.addWidget(self.show_button)
        self.row.addWidget(self.hold_button)
        words = QVBoxLayout()
        words.setSpacing(0)
        for part in (self.name, self.badge, self.size_words):
            words.addWidget(part)
        top = QHBoxLayout()
        top.setSpacing(8)
        top.addWidget(self.thumb, 0, Qt.AlignmentFlag.AlignTop)
        top.addLayout(words, 1)
        self.body = QWidget()
        self.box = QVBoxLayout(self)
        self.box.setContentsMargins(8, 8, 8, 8)
        self.box.setSpacing(6)
        self.box.addLayout(top)
        self.box.addLayout(self.row)
        self.box.addWidget(self.body)

    def _toggle(self, hint: str, field: str) -> QToolButton:
        button = QToolButton()
        button.setProperty("quiet", True)
        button.setIconSize(QSize(17, 17))
        button.setToolTip(hint)
        button.clicked.connect(lambda: self._flip(field))
        return button

    def _item(self) -> Drawing | MeshObject | None:
        return self._session.document.item(self.id)

    def _flip(self, field: str) -> None:
        item = self._item()
        if item is None:
            return
        words = {
            ("shown", True): "Hide",
            ("shown", False): "Show",
            ("held", True): "Let go of",
            ("held", False): "Hold",
        }
        value = bool(getattr(item, field))
        doc = with_item(self._session.committed, self.id, **{field: not value})
        self._session.commit(doc, f"{words[field, value]} {item.name}")

    def _rename(self) -> None:
        item = self._item()
        wanted = self.name.text().strip()
        if item is not None and wanted and wanted != item.name:
            doc = with_item(self._session.committed, self.id, name=wanted[:200])
            self._session.commit(doc, f"Rename {item.name}")
        self.name.setModified(False)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        adding = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self.clicked.emit(self.id, adding)

    def mark(self, item: Drawing | MeshObject, chosen: bool, unfolded: bool, theme: Theme) -> None:
        """Bring everything that both kinds of card show up to date."""
        if not self.name.isModified():
            self.name.setText(item.name)
        ink, soft = theme.chrome.ink, theme.chrome.soft_ink
        self.show_button.setIcon(icon("eye", ink, 17) if item.shown else icon("eye-off", soft, 17))
        self.show_button.setAccessibleName("Shown" if item.shown else "Hidden")
        self.hold_button.setIcon(
            icon("lock", ink, 17) if item.held else icon("lock-open", soft, 17)
        )
        self.hold_button.setAccessibleName("Held" if item.held else "Free")
        self.body.setVisible(unfolded)
        if bool(self.property("chosen")) != chosen:
            self.setProperty("chosen", chosen)
            self.style().unpolish(self)
            self.style().polish(self)


class _Numbers(QGridLayout):
    """Rows of a name and a field, and under them a line for what is wrong."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setContentsMargins(0, 2, 0, 0)
        self.setHorizontalSpacing(8)
        self.setVerticalSpacing(3)
        self.setColumnStretch(1, 1)
        self._row = 0
        self.wrong = QLabel()
        self.wrong.setObjectName("wrong")
        self.wrong.setProperty("class", "small")
        self.wrong.setWordWrap(True)
        self.wrong.hide()

    def line(self, name: str, widget: QWidget, hint: str) -> QLabel:
        label = QLabel(name)
        label.setProperty("class", "small soft")
        label.setBuddy(widget)
        widget.setToolTip(hint)
        widget.setAccessibleName(name)
        widget.setMinimumWidth(60)
        self.addWidget(label, self._row, 0)
        self.addWidget(widget, self._row, 1)
        self._row += 1
        if isinstance(widget, MeasureEdit):
            widget.setProperty("plain", True)
            widget.refused.connect(self.say)
        return label

    def finish(self) -> None:
        self.addWidget(self.wrong, self._row, 0, 1, 2)

    def say(self, words: str) -> None:
        self.wrong.setText(words)
        self.wrong.setVisible(bool(words))


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

        grid = _Numbers(self.body)
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
        grid.addLayout(line, grid._row, 0, 1, 2)
        grid._row += 1
        grid.finish()
        self.width_edit.entered.connect(lambda mm: self._enter_size(0, mm))
        self.height_edit.entered.connect(lambda mm: self._enter_size(1, mm))
        self.scale_edit.entered.connect(self._enter_scale)
        self.across_edit.entered.connect(lambda mm: self._enter_middle(0, mm))
        self.up_edit.entered.connect(lambda mm: self._enter_middle(1, mm))
        self.turn_edit.entered.connect(self._enter_turn)
        self.stand_edit.entered.connect(self._enter_stand_off)

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
            by[side] = mm * drawing.view.signs[side] - middle[side]
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
        others = [d for d in self._session.document.drawings if d.id != self.id]
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
        self.mark(drawing, chosen, unfolded, theme)
        size_px = doc.size_px(drawing)
        w, h = drawing.placement.size_mm(size_px)
        self.badge.setText(drawing.view.title)
        if doc.source(drawing.source).data is None:
            self.size_words.setText("picture missing")
            self.size_words.setProperty("class", "small wrong")
        else:
            self.size_words.setText(size_text(doc.unit, w, h))
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
        middle = p.centre(size_px) * drawing.view.signs
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


class MeshCard(Card):
    """Numbers of a mesh: its size and where its middle lies."""

    def __init__(self, session: Session, id_: str) -> None:
        super().__init__(session, id_)
        self.row.addStretch(1)

        def unit() -> Unit:
            return self._session.document.unit

        grid = _Numbers(self.body)
        self.size_edits = [length_edit(unit) for _ in range(3)]
        self.middle_edits = [length_edit(unit) for _ in range(3)]
        for axis, field in enumerate(self.size_edits):
            grid.line(EXTENT_NAMES[axis], field, f"Real {EXTENT_NAMES[axis]}; the base stays")
            field.entered.connect(lambda mm, axis=axis: self._enter_size(axis, mm))
        for axis, field in enumerate(self.middle_edits):
            grid.line(f"middle {AXIS_NAMES[axis]}", field, "Where the mesh’s middle lies")
            field.entered.connect(lambda mm, axis=axis: self._enter_middle(axis, mm))
        grid.finish()

    def _mesh(self) -> MeshObject | None:
        item = self._item()
        return item if isinstance(item, MeshObject) else None

    def _enter_size(self, axis: int, mm: float) -> None:
        item = self._mesh()
        if item is None:
            return
        low, high = item.mesh.bounds
        now = float(high[axis] - low[axis])
        if mm <= 0 or now < 1e-9:
            self.size_edits[axis].refuse("The size must be more than zero.")
            return
        factors, about = np.ones(3), (low + high) / 2
        factors[axis], about[2] = mm / now, low[2]
        mesh = edit.scaled(item.mesh, _every(item), factors, about)
        doc = with_item(self._session.committed, self.id, mesh=mesh)
        self._session.commit(doc, f"Set the {EXTENT_NAMES[axis]} of {item.name}")

    def _enter_middle(self, axis: int, mm: float) -> None:
        item = self._mesh()
        if item is None:
            return
        by = np.zeros(3)
        by[axis] = mm - float(item.mesh.bounds.mean(axis=0)[axis])
        mesh = edit.translated(item.mesh, _every(item), by)
        doc = with_item(self._session.committed, self.id, mesh=mesh)
        self._session.commit(doc, f"Move {item.name}")

    def refresh(self, item: MeshObject, chosen: bool, unfolded: bool, theme: Theme) -> None:
        self.mark(item, chosen, unfolded, theme)
        topology = item.mesh.topology
        faces = "1 face" if topology.face_count == 1 else f"{topology.face_count} faces"
        self.badge.setText(f"Mesh  ·  {faces}")
        low, high = item.mesh.bounds
        size = high - low
        unit = self._session.document.unit
        self.size_words.setText(size_text(unit, *(float(s) for s in size)))
        self.thumb.setPixmap(icon("box", theme.chrome.accent, 30).pixmap(30, 30))
        if unfolded:
            for axis in range(3):
                self.size_edits[axis].set_value(float(size[axis]))
                self.middle_edits[axis].set_value(float((low + high)[axis] / 2))


def _every(item: MeshObject) -> Ints:
    return np.arange(item.mesh.topology.vertex_count, dtype=np.int32)


def size_text(unit: Unit, *sizes: float) -> str:
    """``412 × 282 mm``: sizes with the unit once where it follows all of them."""
    if unit in (Unit.INCH, Unit.FEET_INCHES):
        return " × ".join(format_length(s, unit) for s in sizes)
    digits = {Unit.MM: 1, Unit.CM: 2, Unit.M: 4}[unit]
    texts = [format_length(s, unit, digits=digits, suffix=False) for s in sizes]
    return f"{' × '.join(texts)} {unit.value}"

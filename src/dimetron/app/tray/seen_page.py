"""How a drawing is seen: the second page of its card."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QColor, QPixmap
from PySide6.QtWidgets import QCheckBox, QColorDialog, QComboBox, QHBoxLayout, QToolButton, QWidget

from dimetron.app.kit.buttons import choice
from dimetron.app.kit.fields import MeasureEdit, length_edit
from dimetron.app.tray.card import Numbers
from dimetron.app.work.session import Session
from dimetron.document import edits, placing
from dimetron.document.model import Drawing, with_item
from dimetron.document.parts import Order, Seen
from dimetron.geometry.placement import PlacementError
from dimetron.imaging.figure.kind import Kind

_SEEN = (
    (Seen.OWN, "in its own view"),
    (Seen.ALONG, "in 3D, straight on"),
    (Seen.SPACE, "in 3D too"),
    (Seen.EVERYWHERE, "in every pane"),
)
_ORDERS = (
    (Order.BEHIND, "behind meshes"),
    (Order.FRONT, "before meshes"),
    (Order.DEPTH, "by depth"),
)
#: Colours that tell views apart, on paper by day and by night.
TINTS: tuple[tuple[str, tuple[int, int, int] | None], ...] = (
    ("own colours", None),
    ("teal", (30, 123, 110)),
    ("ochre", (176, 120, 24)),
    ("slate", (62, 94, 140)),
    ("rose", (178, 62, 96)),
    ("moss", (96, 128, 48)),
)
_OTHER = "other…"
_DRAWN: tuple[tuple[Kind | None, str], ...] = ((None, "auto"), *((k, k.value) for k in Kind))


class SeenPage(QWidget):
    """In which panes, in which order with meshes, from which sides, where, in which colour."""

    def __init__(self, session: Session, id_: str) -> None:
        super().__init__()
        self._session = session
        self._id = id_
        grid = Numbers(self)
        self.numbers = grid
        self.seen = choice(_SEEN)
        grid.line("seen", self.seen, "In which panes the drawing is seen")
        self.order = choice(_ORDERS)
        grid.line("in its view", self.order, "How it lies against meshes in its own view")
        self.tint = QComboBox()
        self.tint.setIconSize(QSize(11, 11))
        for name, colour in TINTS:
            self.tint.addItem(_swatch(colour), name, colour)
        self.tint.addItem(_OTHER, _OTHER)
        grid.line("lines", self.tint, "A colour for its lines, to tell views apart")
        self.drawn = choice(_DRAWN)
        hint = "Lines, areas, shade or a photo: it decides what is measured and snapped to"
        grid.line("drawn as", self.drawn, hint)
        self.stand: MeasureEdit = length_edit(lambda: session.document.unit)
        self.auto = QToolButton()
        self.auto.setText("auto")
        self.auto.setCheckable(True)
        self.auto.setToolTip("Stand just outside of everything, and go along when that grows")
        self.auto.setStyleSheet("padding: 2px 6px; font-size: 12px;")
        grid.line("stands off", self.stand, "How far behind the origin its plane stands")
        self._join_auto(grid)
        self.alone = QCheckBox("ink alone")
        self.alone.setToolTip("Clear its ground: only what is drawn stands on the board")
        self.clear = QCheckBox("clear where the mesh is")
        self.clear.setToolTip("Faint inside the outline of the meshes, strong outside of it")
        self.both = QCheckBox("seen from both sides")
        self.both.setToolTip("Off: seen from its own side only, like one of two back to back")
        for box in (self.alone, self.clear, self.both):
            grid.addWidget(box, grid.row, 0, 1, 2)
            grid.row += 1
        grid.finish()
        self._connect()

    def _join_auto(self, grid: Numbers) -> None:
        """The button stands in the row of the field it belongs to."""
        row = QHBoxLayout()
        row.setSpacing(3)
        grid.removeWidget(self.stand)
        row.addWidget(self.stand, 1)
        row.addWidget(self.auto)
        grid.addLayout(row, grid.row - 1, 1)

    def _connect(self) -> None:
        self.seen.activated.connect(lambda: self._set(seen=self.seen.currentData()))
        self.order.activated.connect(lambda: self._set(order=self.order.currentData()))
        self.tint.activated.connect(lambda: self._choose_tint())
        self.drawn.activated.connect(lambda: self._set_drawn(self.drawn.currentData()))
        self.alone.clicked.connect(lambda on: self._set(ink_alone=on))
        self.clear.clicked.connect(lambda on: self._set(clear=on))
        self.both.clicked.connect(lambda on: self._set(both_sides=on))
        self.auto.clicked.connect(self._set_auto)
        self.stand.entered.connect(self._enter_stand)

    def _drawing(self) -> Drawing | None:
        item = self._session.document.item(self._id)
        return item if isinstance(item, Drawing) else None

    def _set(self, **changes: Any) -> None:
        drawing = self._drawing()
        if drawing is not None:
            doc = placing.shown_as(self._session.committed, (self._id,), **changes)
            self._session.commit(doc, f"See {drawing.name} differently")

    def _set_drawn(self, kind: Kind | None) -> None:
        drawing = self._drawing()
        if drawing is not None and kind is not drawing.drawn:
            doc = with_item(self._session.committed, self._id, drawn=kind)
            self._session.commit(doc, f"Say how {drawing.name} is drawn")

    def _choose_tint(self) -> None:
        colour = self.tint.currentData()
        drawing = self._drawing()
        if drawing is None:
            return
        if colour == _OTHER:
            now = QColor(*(drawing.showing.tint or (30, 123, 110)))
            picked = QColorDialog.getColor(now, self, "A colour for its lines")
            if not picked.isValid():
                self.show_drawing(drawing)
                return
            colour = (picked.red(), picked.green(), picked.blue())
        self._set(tint=tuple(colour) if colour is not None else None)

    def _set_auto(self, on: bool) -> None:
        drawing = self._drawing()
        if drawing is None:
            return
        doc = self._session.committed
        # What is typed from now on begins where the plane stands.
        stands = edits.stand_off(doc, drawing)
        placement = replace(drawing.placement, stand_off_mm=stands)
        doc = with_item(doc, self._id, stand_auto=on, placement=placement)
        self._session.commit(doc, f"Stand-off of {drawing.name}")

    def _enter_stand(self, mm: float) -> None:
        drawing = self._drawing()
        if drawing is None:
            return
        doc = self._session.committed
        if abs(mm - edits.stand_off(doc, drawing)) < 1e-9:
            return
        try:
            placement = replace(drawing.placement, stand_off_mm=mm)
        except PlacementError as error:
            self.stand.refuse(str(error))
            return
        doc = with_item(doc, self._id, placement=placement, stand_auto=False)
        self._session.commit(doc, f"Stand-off of {drawing.name}")

    def show_drawing(self, drawing: Drawing) -> None:
        """Bring all of the page up to date."""
        showing = drawing.showing
        self.seen.setCurrentIndex([s for s, _ in _SEEN].index(showing.seen))
        self.order.setCurrentIndex([o for o, _ in _ORDERS].index(showing.order))
        self._show_tint(showing.tint)
        self._show_drawn(drawing)
        self.alone.setChecked(showing.ink_alone)
        self.clear.setChecked(showing.clear)
        self.both.setChecked(showing.both_sides)
        self.auto.setChecked(drawing.stand_auto)
        self.stand.set_value(edits.stand_off(self._session.document, drawing))

    def _show_drawn(self, drawing: Drawing) -> None:
        told = self._session.kind_of(self._session.document, drawing)
        by_itself = told is not None and drawing.drawn is None
        self.drawn.setItemText(0, f"auto: {told.value}" if told and by_itself else "auto")
        self.drawn.setCurrentIndex([k for k, _ in _DRAWN].index(drawing.drawn))

    def _show_tint(self, tint: tuple[int, int, int] | None) -> None:
        known = [colour for _, colour in TINTS]
        at = known.index(tint) if tint in known else len(known)
        self.tint.setItemIcon(len(known), _swatch(None if tint in known else tint))
        self.tint.setCurrentIndex(at)


def _swatch(colour: tuple[int, int, int] | None) -> QPixmap:
    picture = QPixmap(12, 12)
    picture.fill(QColor(*colour) if colour else Qt.GlobalColor.transparent)
    return picture

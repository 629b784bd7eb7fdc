"""The card of a drawing: real size, scale, place and turn, and how it is seen."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QSlider,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from dimetron.app.kit.fields import MeasureEdit, length_edit, number_edit
from dimetron.app.kit.iconset import icon
from dimetron.app.kit.theme import Theme
from dimetron.app.tray.card import Card, CardKind, Numbers, Shelf
from dimetron.app.tray.drawing_menu import DrawingMenus
from dimetron.app.tray.seen_page import SeenPage
from dimetron.app.work import actions
from dimetron.app.work.session import Session
from dimetron.document import bodies, edits, formulas, preparing
from dimetron.document.model import Document, Drawing, Item, with_item
from dimetron.geometry import placement as place
from dimetron.geometry.placement import Placement
from dimetron.geometry.units import Unit, format_length

#: Buttons that stand side by side in the narrow tray.
_TIGHT = "padding: 3px 5px; font-size: 12px;"


class DrawingCard(Card):
    """Numbers of a drawing: real size, scale, place, turn; and how it is seen."""

    pictured = True
    paged = Signal(int)

    def __init__(self, session: Session, id_: str) -> None:
        super().__init__(session, id_)
        #: 0: where it is placed; 1: how it is seen.
        self.open_page = 0
        #: By how much its marks miss, in words.
        self.off = ""
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
        self._built = False

    def _build_once(self) -> None:
        """What is seen of an unfolded card only, made when it is first unfolded: there may be
        hundreds of cards."""
        if self._built:
            return
        self._built = True
        self.match = _tight("Match…", "Take over the scale or a size of another drawing")
        self.more = _tight("More…", "Copies, another picture, back to back, alone")
        self._menus = DrawingMenus(self._session, self.id, self.match, self.more)
        self.mirror = QToolButton()
        self.mirror.setProperty("quiet", True)
        self.mirror.setToolTip("Mirror left to right")
        self.mirror.setAccessibleName("Mirror")
        self.mirror.clicked.connect(self._mirror)
        self.aspect = _tight("aspect kept", "Keep width and height in proportion when it is sized")
        self.aspect.setCheckable(True)
        self.aspect.clicked.connect(self._flip_aspect)
        self.view = QComboBox()
        self.view.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        self.view.setMinimumContentsLength(6)
        self.view.activated.connect(self._move_to_view)
        self._build()

    def _build(self) -> None:
        def unit() -> Unit:
            return self._session.document.unit

        self.page = QWidget()
        grid = Numbers(self.page)
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
        self.together = QLabel()
        self.together.setProperty("class", "small")
        self.together.setToolTip(
            "Sizing or turning one sizes or turns all of them, about the origin"
        )
        grid.addWidget(self.together, grid.row, 0, 1, 2)
        grid.row += 1
        for parts in ((self.aspect, self.mirror), (self.match, self.more)):
            line = QHBoxLayout()
            line.setSpacing(4)
            for part in parts:
                line.addWidget(part)
            line.addStretch(1)
            grid.addLayout(line, grid.row, 0, 1, 2)
            grid.row += 1
        grid.finish()
        self._build_pages()
        self.width_edit.entered.connect(lambda mm: self._enter_size(0, mm))
        self.height_edit.entered.connect(lambda mm: self._enter_size(1, mm))
        self.scale_edit.entered.connect(self._enter_scale)
        self.across_edit.entered.connect(lambda mm: self._enter_middle(0, mm))
        self.up_edit.entered.connect(lambda mm: self._enter_middle(1, mm))
        self.turn_edit.entered.connect(self._enter_turn)
        edits_of = (self.width_edit, self.height_edit, self.scale_edit)
        for at, field in enumerate((*edits_of, self.across_edit, self.up_edit, self.turn_edit)):
            field.take_formula = lambda text, at=at: self._follow(at, text)

    def _build_pages(self) -> None:
        """Where it is, and how it is seen: two pages, one of them open."""
        self.seen = SeenPage(self._session, self.id)
        self.tabs = [_tight("Placed", "Where it lies and how large it is"),
                     _tight("Seen", "In which panes, in which order, in which colour")]  # fmt: skip
        row = QHBoxLayout()
        row.setSpacing(0)
        for number, tab in enumerate(self.tabs):
            tab.setCheckable(True)
            tab.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            tab.clicked.connect(lambda _=False, number=number: self.paged.emit(number))
            row.addWidget(tab)
        column = QVBoxLayout(self.body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        column.addLayout(row)
        column.addWidget(self.page)
        column.addWidget(self.seen)

    def _follow(self, at: int, text: str) -> None:
        """A formula for one of the numbers. Raises ValueError, saying what is wrong."""
        drawing = self._session.committed.drawing(self.id)
        number = _numbers(drawing)[at]
        session = self._session
        doc = formulas.with_formula(session.committed, self.id, number, text, session.ink_of)
        self._session.commit(doc, f"Let the {number} of {drawing.name} follow")

    def _place(self) -> None:
        actions.place_one(self._session, self.id)

    def _drawing(self) -> Drawing | None:
        item = self._item()
        return item if isinstance(item, Drawing) else None

    def _fading(self, value: int) -> None:
        drawing = self._drawing()
        if drawing is None or value == round(drawing.opacity * 100):
            return
        doc = with_item(self._session.committed, self.id, opacity=value / 100)
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
            doc = bodies.carried_along(self._session.committed, self.id, placed)
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
                return place.with_pixel_aspect(p, p.pixel_aspect * factor)
            wider = place.resized_about(p, factor, p.anchor_mm)
            return place.with_pixel_aspect(wider, p.pixel_aspect / factor)

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

    def noted(self, shelf: Shelf, item: Item, unfolded: bool) -> tuple[object, ...]:
        assert isinstance(item, Drawing)
        doc, off = self._session.document, shelf.mismatch(item.id)
        self.open_page = shelf.page
        self.off = "" if off is None else f"  ·  off {format_length(off, doc.unit)}"
        stands = edits.stand_off(doc, item) if unfolded else None
        seen = doc.recipe(item), self._session.kind_of(doc, item), item.id in doc.pinned, doc.views
        return *seen, stands, self.off, self.open_page

    def show_item(self, item: Item, chosen: bool, unfolded: bool, theme: Theme) -> None:
        assert isinstance(item, Drawing)
        drawing, page = item, self.open_page
        doc = self._session.document
        unfolded = unfolded and drawing.placed
        self.mark(drawing, chosen, unfolded, theme)
        self.place.setVisible(not drawing.placed)
        self.place.setEnabled(drawing.named)
        self.fade.setVisible(drawing.placed)
        size_px = doc.size_px(drawing)
        w, h = drawing.placement.size_mm(size_px)
        pinned = "  ·  pinned" if drawing.id in doc.pinned else ""
        kind = self._session.kind_of(doc, drawing)
        # Most are lines, which need no word.
        areas = f"  ·  {kind.value}" if kind is not None and kind.areas else ""
        words = drawing.view.title + areas + pinned + self.off
        self.badge.setText(words if drawing.named else "Which view?")
        if doc.data(drawing) is None:
            self.size_words.setText("picture missing")
            self.size_words.setProperty("class", "small wrong")
        else:
            known = drawing.placed or _scale_known(doc, drawing)
            pixels = f"{size_px[0]} × {size_px[1]} px"
            if known:
                self.show_size(w, h)
            else:
                self.size_words.setText(pixels)
        if not self.fade.isSliderDown():
            self.fade.blockSignals(True)
            self.fade.setValue(round(drawing.opacity * 100))
            self.fade.blockSignals(False)
        if unfolded:
            self._build_once()
            self.mirror.setIcon(icon("flip-horizontal", theme.chrome.ink, 17))
            self.page.setVisible(page == 0)
            self.seen.setVisible(page == 1)
            for number, tab in enumerate(self.tabs):
                tab.setChecked(number == page)
            self._show_numbers(drawing, size_px)
            self.seen.show_drawing(drawing)

    def _show_numbers(self, drawing: Drawing, size_px: tuple[int, int]) -> None:
        p = drawing.placement
        middle = p.centre(size_px) * drawing.view.paper_signs
        values = (*p.size_mm(size_px), p.mm_per_px, *(float(m) for m in middle), p.rotation_deg)
        texts = dict(drawing.formulas)
        fields = (
            *(self.width_edit, self.height_edit, self.scale_edit),
            *(self.across_edit, self.up_edit, self.turn_edit),
        )
        for field, value, number in zip(fields, values, _numbers(drawing), strict=True):
            field.set_value(value, texts.get(number, ""))
        for label, name in zip(
            (self._width_name, self._height_name), formulas.size_names(drawing), strict=True
        ):
            label.setText(name.replace("_", " "))
        for label, name in zip(
            (self._across_name, self._up_name), formulas.middle_names(drawing), strict=True
        ):
            label.setText("middle " + (name.upper() if len(name) == 1 else name))
        self._show_views(drawing)
        words = bodies.words_of(self._session.document, drawing.id)
        self.together.setText(words)
        self.together.setVisible(bool(words))
        self.aspect.setChecked(drawing.aspect_locked)
        self.aspect.setText("aspect kept" if drawing.aspect_locked else "aspect free")

    def _show_views(self, drawing: Drawing) -> None:
        views = self._session.document.views
        if [self.view.itemData(i) for i in range(self.view.count())] != list(views):
            self.view.clear()
            for view in views:
                self.view.addItem(view.title, view)
        self.view.setCurrentIndex(views.index(drawing.view))


def _scale_known(doc: Document, drawing: Drawing) -> bool:
    return preparing.sheet_mm_per_px(doc, doc.sheet(drawing.sheet)) is not None


def _numbers(drawing: Drawing) -> tuple[str, ...]:
    """What formulas call the fields of the card, in their order."""
    sizes, middles = formulas.size_names(drawing), formulas.middle_names(drawing)
    return (*sizes, "scale", *middles, "turned")


def _tight(text: str, hint: str) -> QToolButton:
    button = QToolButton()
    button.setText(text)
    button.setToolTip(hint)
    button.setStyleSheet(_TIGHT)
    return button


def _made(shelf: Shelf, id_: str) -> Card:
    card = DrawingCard(shelf.session, id_)
    card.paged.connect(shelf.turn_page)
    return card


CARD = CardKind(Drawing, _made)

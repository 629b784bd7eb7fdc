"""What every card of the tray has: a picture, a name, show and hold, numbers to unfold."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from dimetron.app.kit.buttons import quiet
from dimetron.app.kit.elided import ElidedLabel
from dimetron.app.kit.fields import MeasureEdit
from dimetron.app.kit.iconset import icon
from dimetron.app.kit.name_edit import NameEdit
from dimetron.app.kit.theme import Theme
from dimetron.app.tray.carrying import Press
from dimetron.app.work.pictures import Pictures
from dimetron.app.work.session import Session
from dimetron.document import groups
from dimetron.document.model import Item, with_item
from dimetron.geometry.units import Unit, format_length

_THUMB = QSize(52, 46)
#: Sizes of more characters than this take two lines.
_LINE = 18
#: Cards of a group stand in by this; the style has the same margin.
_INDENT = 9


class Shelf(Protocol):
    """What a card may ask of the tray it lies in. page: the one that drawings' cards have open;
    mismatch: by how much the marks of a drawing miss, in mm; None if nothing is marked in it."""

    session: Session
    pictures: Pictures
    page: int
    mismatch: Callable[[str], float | None]

    def turn_page(self, page: int) -> None: ...
    def wish_floating(self, id_: str) -> None: ...
    def wish_window(self, id_: str) -> None: ...


class Card(QFrame):
    clicked = Signal(str, bool)
    #: Whether it is to stay unfolded, chosen or not.
    kept = Signal(str, bool)
    #: Whether it shows the picture that its item is cut from.
    pictured = False
    #: The class of the item it was made for.
    of_class: type = object

    def __init__(self, session: Session, id_: str) -> None:
        super().__init__()
        self.setObjectName("card")
        self.id = id_
        self._session = session
        self._press = Press(self, id_)
        self.thumb = QLabel()
        self.thumb.setObjectName("thumb")
        self.thumb.setFixedSize(_THUMB)
        self.thumb.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.name = NameEdit(self._rename)
        self.badge = ElidedLabel()
        self.badge.setObjectName("badge")
        self.size_words = QLabel()
        self.size_words.setProperty("class", "small")
        self.keep_button = quiet("Keep it unfolded when another is chosen")
        self.keep_button.setCheckable(True)
        self.keep_button.clicked.connect(lambda on: self.kept.emit(self.id, on))
        self.show_button = self._toggle("Show or hide it on the board", "shown")
        self.hold_button = self._toggle("Hold it: protect it from being chosen and moved", "held")
        self.alone_button = quiet("Show it alone among its kind, or all again")
        self.alone_button.clicked.connect(self._show_alone)
        self.row = QHBoxLayout()
        self.row.setSpacing(2)
        buttons = (self.show_button, self.hold_button, self.alone_button, self.keep_button)
        for button in buttons:
            self.row.addWidget(button)
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

    def show_size(self, *sizes: float) -> None:
        """Its sizes in the project's unit, in two lines if they are long."""
        words = size_text(self._session.document.unit, *sizes)
        self.size_words.setWordWrap(len(words) > _LINE)
        self.size_words.setText(words)

    def _show_alone(self) -> None:
        doc = groups.alone(self._session.committed, (self.id,))
        self._session.commit(doc, "Show alone" if doc.solo else "Show the others again")

    def _toggle(self, hint: str, field: str) -> QToolButton:
        button = quiet(hint)
        button.clicked.connect(lambda: self._flip(field))
        return button

    def _item(self) -> Item | None:
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

    def _rename(self, wanted: str) -> None:
        item = self._item()
        if item is None:
            return
        if wanted and wanted != item.name:
            doc = with_item(self._session.committed, self.id, name=wanted)
            self._session.commit(doc, f"Rename {item.name}")
        else:
            self.name.show_name(item.name)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._press.begin(event)
        adding = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self.clicked.emit(self.id, adding)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._press.go_on(event)

    def noted(self, shelf: Shelf, item: Item, unfolded: bool) -> tuple[object, ...]:
        """Take note of what it shows beside its item; it is written anew when that changes."""
        return ()

    def show_item(self, item: Item, chosen: bool, unfolded: bool, theme: Theme) -> None:
        """Bring the card up to date with its item."""
        raise NotImplementedError

    def mark(self, item: Item, chosen: bool, unfolded: bool, theme: Theme) -> None:
        """Bring everything that all kinds of card show up to date."""
        self.name.show_name(item.name)
        ink, soft = theme.chrome.ink, theme.chrome.soft_ink
        self.show_button.setIcon(icon("eye", ink, 17) if item.shown else icon("eye-off", soft, 17))
        self.show_button.setAccessibleName("Shown" if item.shown else "Hidden")
        self.hold_button.setIcon(
            icon("lock", ink, 17) if item.held else icon("lock-open", soft, 17)
        )
        self.hold_button.setAccessibleName("Held" if item.held else "Free")
        alone = item.id in self._session.document.solo
        self.alone_button.setIcon(
            icon("circle-dot", theme.chrome.accent, 17)
            if alone
            else icon("circle-dotted", soft, 17)
        )
        self.body.setVisible(unfolded)
        self.keep_button.setVisible(unfolded)
        keeps = self.keep_button.isChecked()
        self.keep_button.setIcon(icon("bookmark", theme.chrome.accent if keeps else soft, 17))
        self.keep_button.setAccessibleName("Kept unfolded" if keeps else "Folds by itself")
        grouped = self._session.document.group(item.group) is not None
        if bool(self.property("grouped")) != grouped:
            self.setProperty("grouped", grouped)
            # The style's margin does not move what is inside.
            self.box.setContentsMargins(8 + _INDENT * grouped, 8, 8, 8)
            self.style().unpolish(self)
            self.style().polish(self)
        if bool(self.property("chosen")) != chosen:
            self.setProperty("chosen", chosen)
            self.style().unpolish(self)
            self.style().polish(self)


@dataclass(frozen=True, slots=True)
class CardKind:
    """A card for each item of a class; by standing in ``cards``."""

    of_class: type
    make: Callable[[Shelf, str], Card]


class Numbers(QGridLayout):
    """Rows of a name and a field, and under them a line for what is wrong."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setContentsMargins(0, 2, 0, 0)
        self.setHorizontalSpacing(8)
        self.setVerticalSpacing(3)
        self.setColumnStretch(1, 1)
        self.row = 0
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
        self.addWidget(label, self.row, 0)
        self.addWidget(widget, self.row, 1)
        self.row += 1
        if isinstance(widget, MeasureEdit):
            widget.setProperty("plain", True)
            widget.refused.connect(self.say)
        return label

    def finish(self) -> None:
        self.addWidget(self.wrong, self.row, 0, 1, 2)

    def say(self, words: str) -> None:
        self.wrong.setText(words)
        self.wrong.setVisible(bool(words))


def size_text(unit: Unit, *sizes: float) -> str:
    """``412 × 282 mm``: sizes with the unit once where it follows all of them; a line is broken
    between sizes only."""
    if unit in (Unit.INCH, Unit.FEET_INCHES):
        texts = [format_length(s, unit, digits=2) for s in sizes]
        return " × ".join(text.replace(" ", "\u00a0") for text in texts)
    digits = {Unit.MM: 1, Unit.CM: 2, Unit.M: 4}[unit]
    texts = [format_length(s, unit, digits=digits, suffix=False) for s in sizes]
    return f"{' × '.join(texts)}\u00a0{unit.value}"

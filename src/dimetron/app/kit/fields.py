"""Fields that take what people write: lengths in any spelling, numbers, expressions."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from dimetron.geometry.lengths import LengthError, named_in, parse_length, parse_number
from dimetron.geometry.units import Unit, format_length


class TypedEdit(QLineEdit):
    """A line that enters what was typed when it is left."""

    def drop(self) -> None:
        """Give up what was typed and not entered: what it was typed for is gone from here."""
        raise NotImplementedError


def drop_typed(within: QWidget) -> None:
    """Before fields are taken away or stand for something else: leaving them enters nothing."""
    for edit in within.findChildren(QLineEdit):
        if isinstance(edit, TypedEdit):
            edit.drop()


class MeasureEdit(TypedEdit):
    """A line that holds a measured value. ``entered`` tells a new one; what cannot be read marks
    the field and ``refused`` says what is accepted. Escape brings the old value back.

    Text that names a number of something else, such as ``=front.width/2``, goes to
    ``take_formula``, if there is one; it may raise ValueError. A value that follows from a formula
    is shown behind an equals sign, and as its formula while the field is edited.
    """

    entered = Signal(float)
    refused = Signal(str)

    def __init__(
        self, read: Callable[[str], float], show: Callable[[float], str], parent: QWidget | None
    ) -> None:
        super().__init__(parent)
        self._read = read
        self._show = show
        self._value: float | None = None
        self._shown = ""
        self._formula = ""
        self._clicked_in = False
        self.take_formula: Callable[[str], None] | None = None
        self.returnPressed.connect(self._returned)
        self.textEdited.connect(lambda: self._mark(""))

    @property
    def value(self) -> float | None:
        return self._value

    def set_value(self, value: float | None, formula: str = "") -> None:
        """Show a value, and the formula it follows from; what is being typed is left alone."""
        self._value = value
        if self.hasFocus() and self.isModified():
            return
        self._formula = formula
        self._shown = "" if value is None else ("= " if formula else "") + self._show(value)
        if self.text() != self._shown:
            self.setText(self._shown)
            self.setCursorPosition(0)
        self._mark("")

    def read(self) -> float | None:
        """The value of what stands in the field now; marks the field if there is none."""
        try:
            value = self._read(self.text())
        except LengthError as error:
            self._mark(str(error))
            return None
        self._mark("")
        return value

    def refuse(self, words: str) -> None:
        """Mark the field for a value that can be read and has no meaning."""
        self._mark(words)

    def drop(self) -> None:
        self.setModified(False)
        self.setText(self._shown)
        self._mark("")

    def _returned(self) -> None:
        """Return enters the value and leaves the field, so that keys mean the board again."""
        self._enter()
        if not self.property("wrong"):
            self.setModified(False)
            self.clearFocus()

    def _enter(self) -> None:
        text = self.text()
        if self._formula and text in (self._formula, self._shown):
            self.setModified(False)
            self.setText(self._shown)
            return
        if text == self._shown and self._value is not None:
            self.entered.emit(self._value)
            return
        if self.take_formula is not None and named_in(text):
            self._follow(text, self.take_formula)
            return
        value = self.read()
        if value is not None:
            self.setModified(False)
            self.entered.emit(value)

    def _follow(self, text: str, take: Callable[[str], None]) -> None:
        self.setModified(False)
        try:
            take(text)
        except ValueError as error:
            self.setModified(True)
            self._mark(str(error))

    def _mark(self, words: str) -> None:
        if bool(words) != bool(self.property("wrong")):
            self.setProperty("wrong", bool(words))
            self.style().unpolish(self)
            self.style().polish(self)
        self.refused.emit(words)

    def event(self, event: QEvent) -> bool:
        """While a field is being edited, Escape belongs to it and not to the window."""
        if wants_escape(event):
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.drop()
            self.clearFocus()
            return
        super().keyPressEvent(event)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            # Entered here, it must not go on to the board or the sheet.
            event.accept()

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        if self._formula and not self.isModified():
            self.setText(self._formula)
        self.selectAll()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """The click that enters the field keeps all of it selected, to be typed over."""
        entering = not self._clicked_in
        super().mousePressEvent(event)
        self._clicked_in = True
        if entering:
            self.selectAll()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Leaving the field enters what was typed, as Return does."""
        super().focusOutEvent(event)
        self._clicked_in = False
        if self.isModified() and self.text() != self._shown:
            self._enter()
        elif self._formula and not self.isModified():
            self.setText(self._shown)


def wants_escape(event: QEvent) -> bool:
    """Whether Qt asks if Escape is meant for the widget rather than for a shortcut."""
    return (
        event.type() == QEvent.Type.ShortcutOverride
        and isinstance(event, QKeyEvent)
        and event.key() == Qt.Key.Key_Escape
    )


def length_edit(unit: Callable[[], Unit], parent: QWidget | None = None) -> MeasureEdit:
    """A field for a length; a bare number counts in the project's unit."""
    return MeasureEdit(
        lambda text: parse_length(text, unit()), lambda mm: format_length(mm, unit()), parent
    )


def number_edit(suffix: str = "", digits: int = 4, parent: QWidget | None = None) -> MeasureEdit:
    """A field for a plain number or an angle."""

    def show(value: float) -> str:
        text = f"{value:.{digits}f}".rstrip("0").rstrip(".").replace("-", "−")
        return ("0" if text in ("−0", "") else text) + suffix

    return MeasureEdit(lambda text: parse_number(text.removesuffix(suffix)), show, parent)


class Named(QWidget):
    """A field under its name, or in a row with it, and below it, when needed, what it accepts."""

    def __init__(
        self, name: str, edit: MeasureEdit, parent: QWidget | None = None, in_row: bool = False
    ) -> None:
        super().__init__(parent)
        self.edit = edit
        self._name = QLabel(name)
        self._name.setProperty("class", "small soft")
        self._name.setBuddy(edit)
        edit.setAccessibleName(name)
        self._words = QLabel()
        self._words.setObjectName("wrong")
        self._words.setProperty("class", "small")
        self._words.setWordWrap(True)
        self._words.hide()
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(2)
        pair = QHBoxLayout() if in_row else QVBoxLayout()
        pair.setSpacing(6 if in_row else 2)
        pair.addWidget(self._name, 2)
        pair.addWidget(edit, 3)
        edit.setProperty("plain", in_row)
        box.addLayout(pair)
        box.addWidget(self._words)
        edit.refused.connect(self._say)

    def _say(self, words: str) -> None:
        self._words.setText(words)
        self._words.setVisible(bool(words))

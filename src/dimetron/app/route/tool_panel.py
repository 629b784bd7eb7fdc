"""Options, typed values, switches and actions of the tool in hand, in the route below its name."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFont, QFontMetrics
from PySide6.QtWidgets import (
    QApplication,
    QBoxLayout,
    QButtonGroup,
    QCheckBox,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLayout,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QSlider,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from dimetron.app.kit.fields import MeasureEdit, Named, drop_typed, length_edit, number_edit
from dimetron.app.kit.instrument import Action, Field, Instrument, Option, Switch, Text
from dimetron.app.kit.wrapped import WrappedLabel
from dimetron.app.work.session import Session

#: More choices than this do not fit side by side.
_SIDE_BY_SIDE = 4
#: How wide the panel is in the route; the size of the words of choices, and what is beside them.
_ROOM, _CHOICE_PX, _LEAST_PAD = 186, 12, 2
#: Acts with longer names than this do not stand beside another.
_HALF_ROW = 14
_STEPS = 400
#: Where values stand beside names these have so much of the room, and are not longer than that.
_BESIDE, _NAME_BESIDE = 0.58, 14
#: The list of a choice is no wider than that, in pixels.
_WIDEST_LIST = 460


class SlidField(QWidget):
    """A named value with a slider under it."""

    def __init__(self, named: Named, ends: tuple[float, float]) -> None:
        super().__init__()
        self.named = named
        self.ends = ends
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, _STEPS)
        self.slider.setAccessibleName(named.edit.accessibleName())
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(3)
        box.addWidget(named)
        box.addWidget(self.slider)

    def value(self) -> float:
        low, high = self.ends
        return low + (high - low) * self.slider.value() / _STEPS

    def show_value(self, value: float) -> None:
        if not self.slider.isSliderDown():
            low, high = self.ends
            self.slider.blockSignals(True)
            self.slider.setValue(round((value - low) / (high - low) * _STEPS))
            self.slider.blockSignals(False)


class ToolPanel(QWidget):
    """``acted``: a button was pressed, and no field waits to be typed."""

    acted = Signal()

    def __init__(self, session: Session, in_rows: bool = False, room: int = _ROOM) -> None:
        """in_rows: each value beside its name, not below it; room: how wide it is, in pixels."""
        super().__init__()
        self._session, self._room = session, room
        self.in_rows = in_rows
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 1, 0, 7)
        self._column.setSpacing(5)
        self._shape: tuple[object, ...] = ()
        self._about: object = None
        self.fields: list[Named] = []
        self._slid: dict[int, SlidField] = {}
        self._options: list[QButtonGroup | QComboBox] = []
        self._boxes: list[QCheckBox] = []
        self._buttons: list[QPushButton] = []
        self._told = WrappedLabel()
        self._told.setProperty("class", "small soft")
        self._current: Sequence[Field] = ()
        self._choices: Sequence[Option] = ()
        self._switches: Sequence[Switch] = ()
        self._texts: Sequence[Text] = ()
        self._lines: list[QLineEdit] = []
        self._acts: Sequence[Action] = ()
        #: Fields that wait to be typed; each is given the keyboard once.
        self._ready: set[str] = set()

    def show_tool(self, tool: Instrument | None) -> None:
        self._current = tool.fields() if tool is not None else ()
        self._choices = tool.options() if tool is not None else ()
        self._switches = tool.switches() if tool is not None else ()
        self._texts = tool.texts() if tool is not None else ()
        actions = tool.actions() if tool is not None else ()
        # Buttons are made from the top.
        self._acts = sorted(actions, key=lambda act: not act.above)
        words = tool.told() if tool is not None else ""
        shape = (
            tool.name if tool else None,
            self.in_rows,
            tuple((f.name, f.kind, f.slide, f.formula is None, f.beside) for f in self._current),
            tuple((o.name, o.choices) for o in self._choices),
            tuple(s.name for s in self._switches),
            tuple(t.name for t in self._texts),
            tuple((a.name, a.title, a.above) for a in self._acts),
        )
        about = (tool.name, tool.about()) if tool is not None else None
        if about != self._about:
            # What is half typed was meant for something else.
            drop_typed(self)
            self._about = about
        if shape != self._shape:
            self._shape = shape
            self._rebuild()
        self._write_back()
        self._told.setText(words)
        self._told.setVisible(bool(words))
        parts = (self._current, self._choices, self._switches, self._acts, self._texts)
        self.setVisible(any(parts) or bool(words))

    def begin(self, text: str) -> bool:
        """A number begun over the board goes on in the first field; False if there is none."""
        there = bool(self.fields) and self.isVisible()
        if there:
            edit = self.fields[0].edit
            edit.setFocus()
            edit.clear()
            edit.insert(text)
            edit.setModified(True)
        return there

    # Building.

    def _rebuild(self) -> None:
        drop_typed(self)
        self._told.setParent(None)
        _emptied(self._column)
        self.fields, self._options, self._slid = [], [], {}
        self._boxes, self._buttons, self._lines = [], [], []
        self._column.addLayout(self._act_rows(above=True))
        for number, text in enumerate(self._texts):
            self._column.addWidget(self._text_line(text, number))
        for number, option in enumerate(self._choices):
            self._column.addWidget(self._option_row(option, number))
        row = QHBoxLayout()
        for number, field in enumerate(self._current):
            if not field.beside:
                row = QHBoxLayout()
                row.setSpacing(4)
                self._column.addLayout(row)
            row.addWidget(self._field_row(field, number), 1)
        for number, switch in enumerate(self._switches):
            self._column.addWidget(self._switch_row(switch, number))
        self._column.addLayout(self._act_rows(above=False))
        self._column.addWidget(self._told)

    def _field_row(self, field: Field, number: int) -> QWidget:
        edit = self._edit(field)
        named = Named(field.name, edit, in_row=self.in_rows)
        edit.entered.connect(lambda value: self._enter(number, value))
        if field.formula is not None:
            edit.take_formula = lambda text: self._follow(number, text)
        self.fields.append(named)
        if field.slide is None:
            return named
        slid = self._slid[number] = SlidField(named, field.slide)
        slid.slider.valueChanged.connect(lambda _: self._slide(number))
        slid.slider.sliderReleased.connect(lambda: self._enter(number, slid.value()))
        slid.slider.setToolTip(edit.toolTip())
        return slid

    def _text_line(self, text: Text, number: int) -> QLineEdit:
        line = QLineEdit()
        line.setPlaceholderText(text.name)
        line.setAccessibleName(text.name)
        line.setToolTip(text.hint or text.name)
        line.textEdited.connect(lambda words: self._write(number, words))
        line.returnPressed.connect(self.acted.emit)
        self._lines.append(line)
        return line

    def _edit(self, field: Field) -> MeasureEdit:
        if field.kind == "length":
            edit = length_edit(lambda: self._session.document.unit)
        else:
            suffix = {"angle": "°", "percent": " %"}.get(field.kind, "")
            edit = number_edit(suffix)
        edit.setToolTip(field.hint or f"Type the {field.name.lower()} and press Enter")
        return edit

    def _option_row(self, option: Option, number: int) -> QWidget:
        row = QWidget()
        words = QLabel(option.name)
        words.setProperty("class", "small soft")
        listed = option.listed or not self._fits(option, self._room)
        beside = self.in_rows and len(option.name) <= _NAME_BESIDE
        beside = beside and (listed or self._fits(option, self._room * _BESIDE))
        line: QBoxLayout = QHBoxLayout(row) if beside else QVBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(6 if beside else 2)
        line.addWidget(words, 2)
        words.setVisible(beside or not (self.in_rows and option.plain))
        if listed:
            line.addWidget(self._list(option, number), 3)
        else:
            line.addLayout(self._side_by_side(row, option, number), 3)
        return row

    def _fits(self, option: Option, room: float) -> bool:
        """Whether its choices can all be read side by side."""
        font = QFont(self.font())
        font.setPixelSize(_CHOICE_PX)
        metrics, total = QFontMetrics(font), sum(_share(title) for _, title in option.choices)
        return len(option.choices) <= _SIDE_BY_SIDE and all(
            metrics.horizontalAdvance(title) + _LEAST_PAD <= room * _share(title) / total
            for _, title in option.choices
        )

    def _list(self, option: Option, number: int) -> QComboBox:
        box = QComboBox()
        box.setAccessibleName(option.name)
        box.setToolTip(option.name)
        # However long a choice is, the route does not become wider; its list shows all of it.
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(6)
        for value, title in option.choices:
            box.addItem(title, value)
            box.setItemData(box.count() - 1, title, Qt.ItemDataRole.ToolTipRole)
        wide = max(box.fontMetrics().horizontalAdvance(title) for _, title in option.choices)
        box.view().setMinimumWidth(min(wide + 30, _WIDEST_LIST))
        box.activated.connect(lambda i: self._choose(number, box.itemData(i)))
        # Enter and the tool's own keys are for the hand again, not for the list.
        box.activated.connect(self._hand_on)
        self._options.append(box)
        return box

    def _side_by_side(self, row: QWidget, option: Option, number: int) -> QHBoxLayout:
        group = QButtonGroup(row)
        line = QHBoxLayout()
        line.setSpacing(0)
        for value, title in option.choices:
            button = QToolButton()
            button.setText(title)
            button.setCheckable(True)
            button.setProperty("value", value)
            button.setToolTip(f"{option.name}: {title}")
            room = 2 if self.in_rows else 3
            button.setStyleSheet(
                f"padding: {room}px 0; font-size: {_CHOICE_PX}px; font-weight: 400;"
            )
            button.setMinimumWidth(10)
            button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            button.clicked.connect(lambda _=False, value=value: self._choose(number, value))
            group.addButton(button)
            # Shares of the row follow the words in them.
            line.addWidget(button, _share(title))
        self._options.append(group)
        return line

    def _switch_row(self, switch: Switch, number: int) -> QCheckBox:
        box = QCheckBox(switch.name)
        box.setToolTip(switch.hint or switch.name)
        box.clicked.connect(lambda on: self._turn(number, on))
        self._boxes.append(box)
        return box

    def _act_rows(self, above: bool) -> QGridLayout:
        """Main actions and long names take a row, the others stand two by two."""
        grid = QGridLayout()
        grid.setSpacing(4)
        at = 0
        for number, act in enumerate(self._acts):
            if act.above is not above:
                continue
            button = self._act_button(act, number)
            if act.main or len(act.title) > _HALF_ROW:
                at += at % 2
                grid.addWidget(button, at // 2, 0, 1, 2)
                at += 2
            else:
                grid.addWidget(button, at // 2, at % 2)
                at += 1
        return grid

    def _act_button(self, act: Action, number: int) -> QPushButton:
        button = QPushButton(act.title)
        button.setToolTip(act.hint)
        button.setProperty("act", act.name)
        button.setProperty("main", act.main)
        button.setStyleSheet("padding: 4px 8px; font-size: 12px;")
        button.clicked.connect(lambda: self._act(number))
        self._buttons.append(button)
        return button

    def _write(self, number: int, words: str) -> None:
        self._guarded(lambda: self._texts[number].enter(words))

    def _choose(self, number: int, value: str) -> None:
        self._guarded(lambda: self._choices[number].choose(value))

    def _turn(self, number: int, on: bool) -> None:
        self._guarded(lambda: self._switches[number].turn(on))

    def _act(self, number: int) -> None:
        self._guarded(lambda: self._acts[number].run())
        self._hand_on()

    # Keeping up.

    def _write_back(self) -> None:
        for widget, option in zip(self._options, self._choices, strict=True):
            if isinstance(widget, QComboBox):
                widget.setCurrentIndex(widget.findData(option.value))
                continue
            for button in widget.buttons():
                button.setChecked(button.property("value") == option.value)
        for number, (named, field) in enumerate(zip(self.fields, self._current, strict=True)):
            named.edit.set_value(field.value, field.follows)
            if number in self._slid and field.value is not None:
                self._slid[number].show_value(field.value)
            if field.first and field.name not in self._ready:
                named.edit.setFocus()
        self._ready = {field.name for field in self._current if field.first}
        self._write_words_back()
        for box, switch in zip(self._boxes, self._switches, strict=True):
            box.setChecked(switch.on)
        for button, act in zip(self._buttons, self._acts, strict=True):
            button.setEnabled(act.enabled)

    def _write_words_back(self) -> None:
        for line, text in zip(self._lines, self._texts, strict=True):
            if line.text() != text.value:
                line.setText(text.value)

    def _slide(self, number: int) -> None:
        slid, field = self._slid[number], self._current[number]
        if slid.slider.isSliderDown() and field.sliding is not None:
            slide = field.sliding
            self._guarded(lambda: slide(slid.value()))
        elif not slid.slider.isSliderDown():
            # By keyboard or a click beside the handle.
            self._enter(number, slid.value())

    def _enter(self, number: int, value: float) -> None:
        try:
            self._current[number].enter(value)
        except LookupError:
            self._session.cancel()
        except ValueError as error:
            self.fields[number].edit.refuse(str(error))
            return
        self._hand_on()

    def _hand_on(self) -> None:
        """What had the keyboard may be gone now; it goes on where the hand is, not to whatever is
        next."""
        if not isinstance(QApplication.focusWidget(), QLineEdit):
            self.acted.emit()

    def _follow(self, number: int, text: str) -> None:
        take = self._current[number].formula
        if take is not None:
            take(text)

    def _guarded(self, run: Callable[[], None]) -> None:
        try:
            run()
        except (LookupError, StopIteration):
            # What it was about is gone; so is the button with the next refresh.
            self._session.cancel()
        except ValueError as error:
            self._session.warn(str(error))


def _share(title: str) -> int:
    """What of a row is a choice's: more where its word is longer."""
    return len(title) + 4


def _emptied(layout: QLayout) -> None:
    while layout.count():
        taken = layout.takeAt(0)
        inner = taken.layout() if taken is not None else None
        if inner is not None:
            _emptied(inner)
            inner.deleteLater()
            continue
        widget = taken.widget() if taken is not None else None
        if widget is not None:
            widget.hide()
            widget.deleteLater()

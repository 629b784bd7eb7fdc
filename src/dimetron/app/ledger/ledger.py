"""The ledger: landmarks, known lengths and drawings as tables, with how far each misses."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from dimetron.app.kit.fields import length_edit
from dimetron.app.kit.theme import Theme
from dimetron.app.ledger import rows as ledger_rows
from dimetron.app.ledger.table import LedgerTable
from dimetron.app.work.registering import Registration
from dimetron.app.work.session import Session
from dimetron.document import registering
from dimetron.document.model import with_item
from dimetron.geometry.lengths import LengthError, parse_length, parse_number
from dimetron.geometry.units import format_length
from dimetron.geometry.views import AXIS_NAMES
from dimetron.registration.problem import Length, RegistrationError

if TYPE_CHECKING:
    from dimetron.registration.solve import Solution

_HEIGHT = 196
#: So much is said above the table at once.
_SAID = 3
_CSV = "Marks (*.csv)"
_ALONG = (("straight", None), ("along X", 0), ("along Y", 1), ("along Z", 2))
_PAGES = ("Landmarks", "Lengths", "Drawings", "Steps")
_HINTS = {
    "Landmarks": "Type over it; a coordinate that is emptied is left open",
    "Lengths": "Type over it. ±: how exactly it is known; empty: as lengths usually are; check: it "
    "does not count and is only compared",
    "Steps": "Click a step to go back or forth to it",
    "Drawings": "Trust: how much its marks count. Stays, scaled apart: yes or no",
}


class Ledger(QWidget):
    """``chosen``: the name of the landmark in the row that was clicked."""

    chosen = Signal(str)

    def __init__(self, session: Session, registration: Registration, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("ledger")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(_HEIGHT)
        self._session = session
        self._registration = registration
        self.table = self._table("Landmarks", ledger_rows.LANDMARKS, {0, 1, 2, 3}, theme)
        self.lengths = self._table("Lengths", ledger_rows.LENGTHS, {3, 4}, theme)
        self.drawings = self._table("Drawings", ledger_rows.DRAWINGS, {1, 2, 3}, theme)
        self.table.typed.connect(self._guarded(self._typed_landmark))
        self.lengths.typed.connect(self._guarded(self._typed_length))
        self.drawings.typed.connect(self._guarded(self._typed_drawing))
        self.table.chosen.connect(self.chosen)
        self.lengths.chosen.connect(self._went_to_length)
        self.drawings.chosen.connect(lambda id_: self._session.choose((id_,)))
        self.pages = QStackedWidget()
        self.steps = self._table("Steps", ledger_rows.STEPS, set(), theme)
        self.steps.chosen.connect(lambda key: self._session.go_to(int(key)))
        for table in (self.table, self.lengths, self.drawings, self.steps):
            self.pages.addWidget(table)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(self._head_row())
        column.addWidget(self.pages, 1)
        column.addLayout(self._lengths_row())
        session.changed.connect(self.refresh)

    @staticmethod
    def _table(title: str, columns: tuple[str, ...], typed: set[int], theme: Theme) -> LedgerTable:
        return LedgerTable(title, columns, frozenset(typed), theme, lambda _: _HINTS[title])

    def _head_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setContentsMargins(8, 3, 8, 3)
        row.setSpacing(0)
        self._tabs = QButtonGroup(self)
        for number, title in enumerate(_PAGES):
            button = QToolButton()
            button.setText(title)
            button.setCheckable(True)
            button.setChecked(number == 0)
            button.setToolTip(f"Show the {title.lower()}")
            button.clicked.connect(lambda _=False, number=number: self.turn_to(number))
            self._tabs.addButton(button, number)
            row.addWidget(button)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.words.setProperty("class", "small")
        self.words.setContentsMargins(12, 0, 2, 0)
        row.addWidget(self.words, 1)
        return row

    def turn_to(self, page: int) -> None:
        """Show another of the tables."""
        self.pages.setCurrentIndex(page)
        self._tabs.button(page).setChecked(True)
        self.refresh()

    def _lengths_row(self) -> QHBoxLayout:
        self.a, self.b, self.along = QComboBox(), QComboBox(), QComboBox()
        for box, hint in ((self.a, "From"), (self.b, "To"), (self.along, "How it counts")):
            box.setToolTip(hint)
            box.setAccessibleName(hint)
            box.setMinimumWidth(96)
        for title, axis in _ALONG:
            self.along.addItem(title, axis)
        self.length = length_edit(lambda: self._session.document.unit)
        self.length.setAccessibleName("Known length")
        self.length.setToolTip("The real distance between the two; Enter adds it")
        self.length.setPlaceholderText("412 mm")
        self.length.setFixedWidth(110)
        self.length.entered.connect(self._add_length)
        self.length.refused.connect(self._refused)
        self.known = QLabel()
        self.known.setProperty("class", "small soft")
        row = QHBoxLayout()
        row.setContentsMargins(8, 4, 8, 4)
        words = QLabel("Known length")
        words.setProperty("class", "small")
        for part in (words, self.a, self.b, self.along, self.length):
            row.addWidget(part)
        row.addWidget(self.known, 1)
        self.drop = _button("Remove", "Remove the row gone to", self.remove_row)
        self.bring = _button(
            "Marks from CSV…", "Marks from a file with landmark,view,x_px,y_px", self._ask_bring
        )
        self.save = _button("Save CSV…", "All marks as landmark,view,x_px,y_px", self._ask_save)
        self.copy = _button("Copy table", "Copy all rows, for a spreadsheet", self._copy)
        for button in (self.drop, self.bring, self.save, self.copy):
            row.addWidget(button)
        return row

    def _refused(self, words: str) -> None:
        if words:
            self.known.setText(words)

    def set_theme(self, theme: Theme) -> None:
        for table in (self.table, self.lengths, self.drawings, self.steps):
            table.theme = theme
        self.refresh()

    def refresh(self) -> None:
        """Bring rows and lengths up to date."""
        if self.isHidden():
            return
        doc = self._session.document
        solution = self._registration.solution(doc)
        self.table.fill(ledger_rows.landmark_rows(doc, solution))
        self.lengths.fill(ledger_rows.length_rows(doc, solution))
        self.drawings.fill(ledger_rows.drawing_rows(doc, solution))
        history = self._session.history
        self.steps.fill(ledger_rows.step_rows(history))
        self.steps.choose(len(history.steps) - 1 - history.at)
        self._show_lengths()
        self.words.setText(self._in_words(solution))
        self.drop.setEnabled(self.pages.currentWidget() in (self.table, self.lengths))

    def _in_words(self, solution: Solution | None) -> str:
        """How well the marks agree, what does not, and what cannot be known."""
        doc, registration = self._session.document, self._registration
        if not doc.sightings:
            return "Mark the same point in two drawings; it is listed here."
        fault = registration.fault(doc)
        if solution is None or fault:
            return fault
        said = [f"Mismatch {format_length(solution.rms_mm, doc.unit)}"]
        said += [*registration.suspected_words(doc), *registration.problems(doc), *solution.said]
        self.words.setToolTip("\n".join(said))
        more = len(said) - _SAID
        if more > 1:
            said = [*said[:_SAID], f"{more} more: hold the pointer here"]
        return "  ·  ".join(said)

    def _show_lengths(self) -> None:
        doc = self._session.document
        names = [m.name for m in doc.landmarks]
        for number, box in enumerate((self.a, self.b)):
            if [box.itemText(i) for i in range(box.count())] != names:
                now = box.currentText()
                box.clear()
                box.addItems(names)
                known = box.findText(now) if now else min(number, len(names) - 1)
                box.setCurrentIndex(max(0, known))
        count = len(ledger_rows.every_length(doc))
        said = {0: "no known length yet", 1: "1 known length"}
        self.known.setText(said.get(count, f"{count} known lengths"))

    # What is typed.

    def _guarded(self, take: Callable[[str, int, str], None]) -> Callable[[str, int, str], None]:
        """What cannot be read is said, and the cell shows what it was."""

        def guarded(key: str, column: int, text: str) -> None:
            try:
                take(key, column, text)
            except (RegistrationError, LengthError) as error:
                self._session.warn(str(error))
            self.refresh()

        return guarded

    def _typed_landmark(self, name: str, column: int, text: str) -> None:
        doc = self._session.committed
        if column == 0:
            if text != name:
                after = registering.renamed_landmark(doc, name, text)
                self._session.commit(after, f"Rename {name}")
                self.chosen.emit(text)
            return
        axis = column - 1
        plain = text.rstrip("* ").strip()
        value = None if plain in ("", "–") else parse_length(plain, doc.unit)
        after = registering.with_fixed(doc, name, axis, value)
        if after != doc:
            self._session.commit(after, f"Say {AXIS_NAMES[axis]} of {name}")

    def _typed_length(self, key: str, column: int, text: str) -> None:
        doc = self._session.committed
        old = ledger_rows.every_length(doc)[int(key)]
        if column == 3:
            new = replace(old, mm=parse_length(text, doc.unit))
        else:
            check = text.lower() in ("check", ledger_rows.CHECK)
            plain = "" if check or text == ledger_rows.USUAL else text
            tolerance = parse_length(plain, doc.unit) if plain else None
            new = replace(old, tolerance_mm=tolerance, counts=not check)
        if new != old:
            self._session.commit(registering.with_other_length(doc, old, new), "Known length")

    def _typed_drawing(self, id_: str, column: int, text: str) -> None:
        doc = self._session.committed
        name = doc.drawing(id_).name
        if column == 1:
            after, words = registering.with_trust(doc, id_, parse_number(text)), f"Trust {name}"
        else:
            yes = text.lower() in ("yes", "y", "1", "true")
            if not yes and text.lower() not in ("no", "n", "0", "false"):
                raise RegistrationError("Type yes or no.")
            if column == 2:
                after = registering.with_pinned(doc, id_, yes)
                words = f"Pin {name}" if yes else f"Let go of {name}"
            else:
                after = with_item(doc, id_, aspect_locked=not yes)
                words = f"Scale {name} apart" if yes else f"Scale {name} alike"
        if after != doc:
            self._session.commit(after, words)

    def _went_to_length(self, key: str) -> None:
        """The landmark it begins at lights up, or the drawing it lies in is chosen."""
        length = ledger_rows.every_length(self._session.document)[int(key)]
        if isinstance(length, Length):
            self.chosen.emit(length.a)
        else:
            self._session.choose((length.picture,))

    def choose(self, name: str) -> None:
        """Light up the row of a landmark."""
        names = [m.name for m in self._session.document.landmarks]
        self.table.choose(names.index(name) if name in names else None)

    def _add_length(self, mm: float) -> None:
        a, b, axis = self.a.currentText(), self.b.currentText(), self.along.currentData()
        try:
            length = Length(a, b, mm, axis)
            doc = registering.with_length(self._session.committed, length)
        except RegistrationError as error:
            self.length.refuse(str(error))
            return
        along = "" if axis is None else f" along {AXIS_NAMES[axis]}"
        self._session.commit(doc, f"Known length {a} to {b}{along}")
        self.length.set_value(None)

    def remove_row(self) -> None:
        """Remove the landmark or known length gone to."""
        doc = self._session.committed
        landmark, length = self.table.current_key, self.lengths.current_key
        if self.pages.currentWidget() is self.table and landmark is not None:
            self._session.commit(registering.without_landmark(doc, landmark), f"Remove {landmark}")
        elif self.pages.currentWidget() is self.lengths and length is not None:
            gone = ledger_rows.every_length(doc)[int(length)]
            self._session.commit(registering.with_other_length(doc, gone, None), "Forget a length")

    def _ask_bring(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Marks from CSV", "", _CSV)
        if name:
            self.bring_marks(Path(name))

    def bring_marks(self, path: Path) -> None:
        """Add the marks of a CSV file; those that are there move."""
        from dimetron.formats.marks import MarksError, read_marks
        from dimetron.imaging.errors import PictureError
        from dimetron.imaging.files import file_bytes

        doc = self._session.committed
        views = {d.view.key: d.id for d in reversed(doc.planes)}
        try:
            sizes = {view: doc.size_px(doc.drawing(id_)) for view, id_ in views.items()}
            marks = read_marks(file_bytes(path), path.name, sizes)
        except (MarksError, PictureError) as error:
            self._session.warn(str(error))
            return
        for mark in marks:
            doc = registering.marked(doc, mark.landmark, views[mark.view], mark.px)
        self._session.commit(doc, f"Marks from {path.name}")
        self._session.tell(f"Brought in {len(marks)} marks.")

    def _ask_save(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save marks", "marks.csv", _CSV)
        if name:
            self.save_marks(Path(name))

    def save_marks(self, path: Path) -> None:
        """Write all marks as CSV."""
        from dimetron.document.atomic import WriteError, write_bytes
        from dimetron.formats.marks import Mark, written_marks

        doc = self._session.committed
        views = {d.id: d.view.key for d in doc.planes}
        marks = [Mark(m.landmark, views[m.picture], m.px) for m in doc.sightings]
        try:
            write_bytes(path, written_marks(marks))
        except WriteError as error:
            self._session.warn(str(error))
            return
        self._session.tell(f"Saved {len(marks)} marks in {path.name}.")

    def _copy(self) -> None:
        table = self.pages.currentWidget()
        if isinstance(table, LedgerTable):
            what = _PAGES[self.pages.currentIndex()].lower()
            self._session.tell(f"Copied {table.copy()} {what}.")


def _button(title: str, hint: str, run: Callable[[], None]) -> QPushButton:
    button = QPushButton(title)
    button.setToolTip(hint)
    button.clicked.connect(run)
    return button

"""The ledger: landmarks and known lengths as a table, with how far each misses."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QModelIndex, QPersistentModelIndex, Qt, Signal
from PySide6.QtGui import QColor, QGuiApplication, QPainter
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from dimetron.app.fields import length_edit
from dimetron.app.registering import Registration
from dimetron.app.session import Session
from dimetron.app.theme import Theme
from dimetron.document import registering
from dimetron.geometry.units import format_length
from dimetron.geometry.views import AXIS_NAMES
from dimetron.registration.problem import Landmark, Length, RegistrationError

if TYPE_CHECKING:
    from dimetron.registration.solve import Solution

_COLUMNS = ("landmark", "X", "Y", "Z", "±", "marked in", "mismatch")
_HEIGHT = 196
_CSV = "Marks (*.csv)"
_ALONG = (("straight", None), ("along X", 0), ("along Y", 1), ("along Z", 2))


class _Bars(QStyledItemDelegate):
    """Draws a bar under the figure of a cell, as long as the share it holds."""

    def __init__(self, ledger: Ledger) -> None:
        super().__init__(ledger)
        self._ledger = ledger

    def paint(
        self,
        painter: QPainter,
        option: QStyleOptionViewItem,
        index: QModelIndex | QPersistentModelIndex,
    ) -> None:
        super().paint(painter, option, index)
        share = float(index.data(Qt.ItemDataRole.UserRole) or 0.0)
        bar = option.rect
        bar.setTop(bar.bottom() - 3)
        bar.setWidth(round(bar.width() * share))
        painter.fillRect(bar, QColor(self._ledger.theme.chrome.warning))


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
        self.theme = theme
        self.table = QTableWidget(0, len(_COLUMNS))
        self.table.setHorizontalHeaderLabels(_COLUMNS)
        self.table.verticalHeader().hide()
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setAccessibleName("Landmarks")
        self.table.setItemDelegateForColumn(len(_COLUMNS) - 1, _Bars(self))
        head = self.table.horizontalHeader()
        head.setStretchLastSection(True)
        head.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.table.verticalHeader().setDefaultSectionSize(22)
        self.table.itemChanged.connect(self._edited)
        self.table.currentItemChanged.connect(self._went_to)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.words.setProperty("class", "small")
        self.words.setContentsMargins(10, 4, 10, 4)
        column.addWidget(self.words)
        column.addWidget(self.table, 1)
        column.addLayout(self._lengths_row())
        session.changed.connect(self.refresh)

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
        self.known = QLabel()
        self.known.setProperty("class", "small soft")
        self.length.refused.connect(self._refused)
        self.drop = QPushButton("Forget lengths")
        self.drop.setToolTip("Remove all known lengths")
        self.drop.clicked.connect(self._drop_lengths)
        self.bring = QPushButton("Marks from CSV…")
        self.bring.setToolTip("Marks from a file with landmark,view,x_px,y_px")
        self.bring.clicked.connect(self._ask_bring)
        self.save = QPushButton("Save CSV…")
        self.save.setToolTip("All marks as landmark,view,x_px,y_px")
        self.save.clicked.connect(self._ask_save)
        self.copy = QPushButton("Copy table")
        self.copy.setToolTip("Copy all rows, for a spreadsheet")
        self.copy.clicked.connect(self._copy)
        row = QHBoxLayout()
        row.setContentsMargins(8, 4, 8, 4)
        words = QLabel("Known length")
        words.setProperty("class", "small")
        for part in (words, self.a, self.b, self.along, self.length):
            row.addWidget(part)
        row.addWidget(self.known, 1)
        for button in (self.drop, self.bring, self.save, self.copy):
            row.addWidget(button)
        return row

    def _refused(self, words: str) -> None:
        if words:
            self.known.setText(words)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.refresh()

    def refresh(self) -> None:
        """Bring rows and lengths up to date."""
        if self.isHidden():
            return
        doc = self._session.document
        solution = self._registration.solution(doc)
        self.table.blockSignals(True)
        self.table.setRowCount(len(doc.landmarks))
        worst = _worst(solution)
        most = max(worst.values(), default=0.0)
        for row, landmark in enumerate(doc.landmarks):
            self._fill(row, landmark, solution, worst.get(landmark.name), most)
        self.table.blockSignals(False)
        self._show_lengths(solution)
        self.words.setText(self._in_words(solution))

    def _in_words(self, solution: Solution | None) -> str:
        """How well the marks agree, what does not, and what cannot be known."""
        doc, registration = self._session.document, self._registration
        if not doc.sightings:
            return "Mark the same point in two drawings; it is listed here."
        if solution is None:
            return registration.fault(doc)
        said = [f"Mismatch {format_length(solution.rms_mm, doc.unit)}"]
        said += [*registration.suspected_words(doc), *registration.problems(doc)]
        return "  ·  ".join(said)

    def _fill(
        self,
        row: int,
        landmark: Landmark,
        solution: Solution | None,
        miss: float | None,
        most: float,
    ) -> None:
        unit = self._session.document.unit
        at = solution.points.get(landmark.name) if solution else None
        by = solution.sigmas.get(landmark.name) if solution else None
        texts = [landmark.name]
        for axis in range(3):
            value = at[axis] if at else None
            held = " *" if landmark.fixed[axis] is not None else ""
            texts.append("–" if value is None else format_length(value, unit) + held)
        known = [v for v in by or () if v is not None]
        texts.append(format_length(float(np.linalg.norm(known)), unit) if known else "–")
        texts.append(self._drawings(landmark.name))
        texts.append("–" if miss is None else format_length(miss, unit))
        for column, text in enumerate(texts):
            cell = self.table.item(row, column)
            if cell is None:
                cell = QTableWidgetItem()
                self.table.setItem(row, column, cell)
            cell.setText(text)
            flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
            if column == 0:
                flags |= Qt.ItemFlag.ItemIsEditable
                cell.setData(Qt.ItemDataRole.UserRole, landmark.name)
            cell.setFlags(flags)
        bar = self.table.item(row, len(_COLUMNS) - 1)
        if bar is not None:
            share = 0.0 if miss is None or most <= 0 else miss / most
            bar.setData(Qt.ItemDataRole.UserRole, share)

    def _drawings(self, name: str) -> str:
        doc = self._session.document
        ids = [m.picture for m in doc.sightings if m.landmark == name]
        return ", ".join(d.view.title.lower() for d in doc.planes if d.id in ids) or "nowhere yet"

    def _show_lengths(self, solution: Solution | None) -> None:
        doc = self._session.document
        names = [m.name for m in doc.landmarks]
        for number, box in enumerate((self.a, self.b)):
            if [box.itemText(i) for i in range(box.count())] != names:
                now = box.currentText()
                box.clear()
                box.addItems(names)
                known = box.findText(now) if now else min(number, len(names) - 1)
                box.setCurrentIndex(max(0, known))
        unit = doc.unit
        parts = [f"{n.words}: {format_length(n.mm, unit)}" for n in doc.lengths]
        self.known.setText("  ·  ".join(parts) or "no known length yet")
        self.known.setToolTip("\n".join(parts))
        self.drop.setEnabled(bool(doc.lengths))

    # What is typed.

    def _edited(self, cell: QTableWidgetItem) -> None:
        old = cell.data(Qt.ItemDataRole.UserRole)
        if cell.column() != 0 or not old or cell.text().strip() == old:
            return
        try:
            doc = registering.renamed_landmark(self._session.committed, old, cell.text())
        except RegistrationError as error:
            self._session.warn(str(error))
            self.refresh()
            return
        self._session.commit(doc, f"Rename {old}")
        self.chosen.emit(cell.text().strip())

    def _went_to(self, now: QTableWidgetItem | None, before: QTableWidgetItem | None) -> None:
        first = self.table.item(now.row(), 0) if now is not None else None
        if first is not None:
            self.chosen.emit(first.data(Qt.ItemDataRole.UserRole))

    def choose(self, name: str) -> None:
        """Light up the row of a landmark."""
        names = [m.name for m in self._session.document.landmarks]
        self.table.blockSignals(True)
        if name in names:
            self.table.setCurrentCell(names.index(name), 0)
        else:
            self.table.clearSelection()
        self.table.blockSignals(False)

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

    def _drop_lengths(self) -> None:
        doc = self._session.committed
        for length in doc.lengths:
            doc = registering.without_length(doc, length)
        self._session.commit(doc, "Forget the known lengths")

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
            marks = read_marks(file_bytes(path), path.name, views.keys())
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
        rows = ["\t".join(_COLUMNS)]
        for row in range(self.table.rowCount()):
            cells = (self.table.item(row, c) for c in range(len(_COLUMNS)))
            rows.append("\t".join(cell.text() if cell is not None else "" for cell in cells))
        QGuiApplication.clipboard().setText("\n".join(rows) + "\n")
        self._session.tell(f"Copied {len(rows) - 1} landmarks.")


def _worst(solution: Solution | None) -> dict[str, float]:
    """The largest mismatch of each landmark's marks, in mm."""
    found: dict[str, float] = {}
    if solution is not None:
        for mark, off in zip(solution.problem.sightings, solution.off_mm, strict=True):
            found[mark.landmark] = max(found.get(mark.landmark, 0.0), float(off))
    return found

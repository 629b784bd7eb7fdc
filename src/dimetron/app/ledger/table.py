"""A table of the ledger: texts, some of which can be typed over, and a bar in the last column."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, Qt, Signal
from PySide6.QtGui import QColor, QGuiApplication, QPainter
from PySide6.QtWidgets import (
    QAbstractItemView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableWidget,
    QTableWidgetItem,
)

from dimetron.app.kit.theme import Theme

_ROW = 22


@dataclass(frozen=True, slots=True)
class Row:
    """key: what the row is of; texts: one for each column; share: how long its bar is, 0 to 1."""

    key: str
    texts: tuple[str, ...]
    share: float = 0.0


class _Bars(QStyledItemDelegate):
    """Draws a bar under the figure of a cell, as long as the share it holds."""

    def __init__(self, table: LedgerTable) -> None:
        super().__init__(table)
        self._table = table

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
        painter.fillRect(bar, QColor(self._table.theme.chrome.warning))


class LedgerTable(QTableWidget):
    """``typed``: the row's key, the column, and the text that was typed over a cell; ``chosen``:
    the key of the row that was gone to."""

    typed = Signal(str, int, str)
    chosen = Signal(str)

    def __init__(
        self,
        title: str,
        columns: Sequence[str],
        editable: frozenset[int],
        theme: Theme,
        hint: Callable[[int], str] = lambda _: "",
    ) -> None:
        super().__init__(0, len(columns))
        self.theme = theme
        self._columns = tuple(columns)
        self._editable = editable
        self._hint = hint
        self.setHorizontalHeaderLabels(list(columns))
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(_ROW)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setAccessibleName(title)
        self.setItemDelegateForColumn(len(columns) - 1, _Bars(self))
        head = self.horizontalHeader()
        head.setStretchLastSection(True)
        head.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.itemChanged.connect(self._changed)
        self.currentItemChanged.connect(self._went_to)
        self.itemClicked.connect(self._clicked)
        self._just_gone = False

    def fill(self, rows: Sequence[Row]) -> None:
        """Show these rows; what is the same stays as it is."""
        self.blockSignals(True)
        self.setRowCount(len(rows))
        for number, row in enumerate(rows):
            for column, text in enumerate(row.texts):
                self._put(number, column, text, row.key)
            bar = self.item(number, self.columnCount() - 1)
            if bar is not None:
                bar.setData(Qt.ItemDataRole.UserRole, row.share)
        self.blockSignals(False)

    def _put(self, row: int, column: int, text: str, key: str) -> None:
        cell = self.item(row, column)
        if cell is None:
            cell = QTableWidgetItem()
            self.setItem(row, column, cell)
        cell.setText(text)
        flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        if column in self._editable:
            flags |= Qt.ItemFlag.ItemIsEditable
            cell.setToolTip(self._hint(column))
        cell.setFlags(flags)
        if column == 0:
            cell.setData(Qt.ItemDataRole.UserRole, key)

    def key_of(self, row: int) -> str | None:
        first = self.item(row, 0)
        key = first.data(Qt.ItemDataRole.UserRole) if first is not None else None
        return str(key) if key is not None else None

    @property
    def current_key(self) -> str | None:
        """What the row gone to is of; None if none is."""
        return self.key_of(self.currentRow()) if self.currentRow() >= 0 else None

    def _changed(self, cell: QTableWidgetItem) -> None:
        key = self.key_of(cell.row())
        if key is not None and cell.column() in self._editable:
            self.typed.emit(key, cell.column(), cell.text().strip())

    def _went_to(self, now: QTableWidgetItem | None, before: QTableWidgetItem | None) -> None:
        key = self.key_of(now.row()) if now is not None else None
        self._just_gone = True
        if key is not None:
            self.chosen.emit(key)

    def _clicked(self, cell: QTableWidgetItem) -> None:
        """A click goes to the row it is in already, too: something else may be chosen by now."""
        key, gone = self.key_of(cell.row()), self._just_gone
        self._just_gone = False
        if key is not None and not gone:
            self.chosen.emit(key)

    def choose(self, row: int | None) -> None:
        """Light up a row without telling of it."""
        self.blockSignals(True)
        if row is None:
            self.clearSelection()
        else:
            self.setCurrentCell(row, 0)
        self.blockSignals(False)

    def copy(self) -> int:
        """Put all rows on the clipboard, for a spreadsheet; returns how many there are."""
        rows = ["\t".join(self._columns)]
        for row in range(self.rowCount()):
            cells = (self.item(row, c) for c in range(self.columnCount()))
            rows.append("\t".join(cell.text() if cell is not None else "" for cell in cells))
        QGuiApplication.clipboard().setText("\n".join(rows) + "\n")
        return self.rowCount()

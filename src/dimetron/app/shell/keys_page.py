"""F1: all shortcuts on one page, each of which can be changed."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QKeySequenceEdit,
    QLabel,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from dimetron.app.work.commands import Commands

#: What the mouse does on the board; not changeable, so told above the table.
MOUSE = (
    "Wheel: zoom at the pointer.  Right drag, or Space and drag: pan.  "
    "Left or middle drag in the 3D pane: turn.  "
    "While dragging: X, Y, Z keep to an axis, Escape abandons."
)


class KeysPage(QDialog):
    def __init__(self, commands: Commands, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Shortcuts")
        self.resize(640, 560)
        self._commands = commands
        self.table = QTableWidget(0, 3)
        self.table.setHorizontalHeaderLabels(["Command", "Belongs to", "Shortcut"])
        self.table.verticalHeader().hide()
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.table.setShowGrid(False)
        self.table.setAlternatingRowColors(True)
        self.table.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.keys = QKeySequenceEdit()
        self.keys.setMaximumSequenceLength(1)
        self.told = QLabel()
        self.told.setProperty("class", "small soft")
        change = QPushButton("Change the chosen one to")
        change.clicked.connect(self._change)
        restore = QPushButton("Restore all")
        restore.clicked.connect(self._restore)
        mouse = QLabel(MOUSE)
        mouse.setWordWrap(True)
        mouse.setProperty("class", "small soft")
        row = QHBoxLayout()
        for part in (change, self.keys, restore):
            row.addWidget(part)
        box = QVBoxLayout(self)
        box.addWidget(mouse)
        box.addWidget(self.table)
        box.addLayout(row)
        box.addWidget(self.told)
        self._fill()

    def _fill(self) -> None:
        commands = list(self._commands)
        self.table.setRowCount(len(commands))
        for row, command in enumerate(commands):
            keys = command.action.shortcut().toString(QKeySequence.SequenceFormat.NativeText)
            for column, text in enumerate((command.title, command.group, keys)):
                item = QTableWidgetItem(text)
                item.setToolTip(command.hint)
                item.setData(Qt.ItemDataRole.UserRole, command.id)
                self.table.setItem(row, column, item)

    def _change(self) -> None:
        item = self.table.currentItem()
        if item is None:
            self.told.setText("Choose a command in the table first.")
            return
        loser = self._commands.rebind(
            item.data(Qt.ItemDataRole.UserRole), self.keys.keySequence().toString()
        )
        row = self.table.currentRow()
        self._fill()
        self.table.selectRow(row)
        self.told.setText(f"“{loser}” has no shortcut now." if loser else "Changed.")

    def _restore(self) -> None:
        self._commands.restore()
        self._fill()
        self.told.setText("All shortcuts are as they came.")

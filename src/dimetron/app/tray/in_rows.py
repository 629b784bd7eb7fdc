"""Rows on a card: a word, and beside it what it is about."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QWidget

#: The look of a button in a row.
SMALL = "padding: 1px 5px; font-size: 12px; font-weight: 400; min-width: 16px;"
#: Where the words of rows end.
_WORDS_WIDTH = 48


def in_rows(owner: QWidget, rows: Sequence[tuple[str, QWidget]]) -> list[tuple[QLabel, QWidget]]:
    """Lay widgets out one below the other, each with its word; returns both of each row."""
    grid = QGridLayout(owner)
    grid.setContentsMargins(0, 0, 0, 0)
    grid.setHorizontalSpacing(8)
    grid.setVerticalSpacing(3)
    grid.setColumnMinimumWidth(0, _WORDS_WIDTH)
    grid.setColumnStretch(1, 1)
    made = []
    for number, (name, widget) in enumerate(rows):
        words = QLabel(name)
        words.setProperty("class", "small soft")
        grid.addWidget(words, number, 0, Qt.AlignmentFlag.AlignVCenter)
        grid.addWidget(widget, number, 1)
        made.append((words, widget))
    return made


def beside(*widgets: QWidget, wide: QWidget | None = None) -> QWidget:
    """Widgets in a row; one of them may be as wide as there is room."""
    whole = QWidget()
    row = QHBoxLayout(whole)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(4)
    for widget in widgets:
        if isinstance(widget, QLabel):
            widget.setProperty("class", "small" if widget is wide else "small soft")
        row.addWidget(widget, 1 if widget is wide else 0)
    if wide is None:
        row.addStretch(1)
    return whole

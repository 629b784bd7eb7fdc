"""Small buttons and choices that many places have."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from PySide6.QtCore import QSize
from PySide6.QtWidgets import QComboBox, QPushButton, QToolButton


def quiet(hint: str, size: int = 17) -> QToolButton:
    """A button that is only its icon, of so many pixels, until the pointer is over it."""
    button = QToolButton()
    button.setProperty("quiet", True)
    button.setIconSize(QSize(size, size))
    button.setToolTip(hint)
    button.setAccessibleName(hint)
    return button


def choice(items: Iterable[tuple[Any, str]]) -> QComboBox:
    """A list that unfolds, of values with their titles."""
    box = QComboBox()
    for value, title in items:
        box.addItem(title, value)
    return box


def plain_button(title: str, hint: str, run: Callable[[], None]) -> QPushButton:
    """A button that does something at once."""
    button = QPushButton(title)
    button.setToolTip(hint)
    button.clicked.connect(run)
    return button

"""Small buttons that many places have."""

from __future__ import annotations

from PySide6.QtCore import QSize
from PySide6.QtWidgets import QToolButton


def quiet(hint: str, size: int = 17) -> QToolButton:
    """A button that is only its icon, of so many pixels, until the pointer is over it."""
    button = QToolButton()
    button.setProperty("quiet", True)
    button.setIconSize(QSize(size, size))
    button.setToolTip(hint)
    button.setAccessibleName(hint)
    return button

"""Keys by the names that tools know them by."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent

_NAMES = {
    Qt.Key.Key_Left: "left",
    Qt.Key.Key_Right: "right",
    Qt.Key.Key_Up: "up",
    Qt.Key.Key_Down: "down",
    Qt.Key.Key_Return: "enter",
    Qt.Key.Key_Enter: "enter",
    Qt.Key.Key_X: "x",
    Qt.Key.Key_Y: "y",
    Qt.Key.Key_Z: "z",
}
#: Keys held with another, the last one named first.
_HELD = (
    (Qt.KeyboardModifier.ControlModifier, "ctrl"),
    (Qt.KeyboardModifier.ShiftModifier, "shift"),
    (Qt.KeyboardModifier.AltModifier, "alt"),
)
#: Typing one of these over the board or the sheet goes to the first field of the tool in hand.
_BEGINS_A_NUMBER = "0123456789=.,"


def key_name(event: QKeyEvent) -> str | None:
    """Such as "left" or "shift+x"; None for a key that means nothing to tools."""
    name = _NAMES.get(Qt.Key(event.key()))
    if name is None:
        return None
    for held, word in _HELD:
        if event.modifiers() & held:
            name = f"{word}+{name}"
    return name


def begins_a_number(event: QKeyEvent) -> bool:
    return bool(event.text()) and event.text() in _BEGINS_A_NUMBER

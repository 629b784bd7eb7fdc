"""When a board is drawn for pictures that arrive one after the other."""

from __future__ import annotations

import time
from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer

#: No frame for them until so many frames' time has passed, or that long.
_PAUSE_PER_FRAME, _LONGEST_PAUSE_S = 3.0, 1.0


class Pace:
    """They are drawn together, so that the most time is left for making them."""

    def __init__(self, parent: QObject, draw: Callable[[], None]) -> None:
        self._timer = QTimer(parent)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(draw)
        self._drawn_at, self._draw_s = 0.0, 0.0

    def drawn(self, begin: float) -> None:
        """A frame is there that was begun at that time (monotonic)."""
        self._drawn_at = time.monotonic()
        self._draw_s = self._drawn_at - begin

    def arrived(self) -> None:
        if not self._timer.isActive():
            waited = time.monotonic() - self._drawn_at
            wait = min(self._draw_s * _PAUSE_PER_FRAME, _LONGEST_PAUSE_S) - waited
            self._timer.start(max(0, round(wait * 1000)))

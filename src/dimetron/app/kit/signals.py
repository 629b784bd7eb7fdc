"""The system tells the program to end: from a terminal, at log-out, or before it shuts down."""

from __future__ import annotations

import signal
import socket
from collections.abc import Callable

from PySide6.QtCore import QObject, QSocketNotifier

_ENDING = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)


class Signals(QObject):
    """Calls ``end`` on the interface thread, from its event loop, when the system says so."""

    def __init__(self, end: Callable[[], None], parent: QObject) -> None:
        super().__init__(parent)
        # Python's own handlers run only with Python code; a byte on a socket wakes Qt's loop.
        self._here, self._there = socket.socketpair()
        for side in (self._here, self._there):
            side.setblocking(False)
        signal.set_wakeup_fd(self._there.fileno(), warn_on_full_buffer=False)
        for number in _ENDING:
            # One that is ignored (as nohup wants it) stays so.
            if signal.getsignal(number) is not signal.SIG_IGN:
                signal.signal(number, lambda *_: None)
        self._end = end
        self._notifier = QSocketNotifier(self._here.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._told)

    def _told(self) -> None:
        if set(self._here.recv(64)) & set(_ENDING):
            self._end()

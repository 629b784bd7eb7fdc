"""Long work off the interface thread: a frozen request in, a frozen answer back."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable
from typing import Any, TypeVar

from PySide6.QtCore import QObject, QRunnable, Qt, QThreadPool, Signal, Slot

_LOG = logging.getLogger(__name__)
#: What the interface may wait for without being felt.
FRAME_S = 0.016
_Kept = TypeVar("_Kept")


class _Told(QObject):
    done = Signal(object)
    failed = Signal(object)


class _Job(QRunnable):
    def __init__(self, work: Callable[[], Any], told: _Told) -> None:
        super().__init__()
        self._work = work
        self._told = told

    @Slot()
    def run(self) -> None:
        try:
            answer = self._work()
        except BaseException as error:  # noqa: BLE001 - carried to the interface thread, told there
            # A binding's panic is none of Python's own errors; a job never ends without a word.
            plain = error if isinstance(error, Exception) else RuntimeError(str(error))
            _LOG.debug("a job failed", exc_info=True)
            self._tell(self._told.failed, plain)
        else:
            self._tell(self._told.done, answer)

    @staticmethod
    def _tell(signal: Any, value: object) -> None:
        try:
            signal.emit(value)
        except RuntimeError:
            # The window that asked is gone.
            return


class Worker(QObject):
    """Runs jobs on its own pool and calls back on the interface thread."""

    def __init__(self, parent: QObject, threads: int = 2) -> None:
        super().__init__(parent)
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(threads)
        self._open: set[_Told] = set()
        self._ended = False

    def run(
        self,
        work: Callable[[], Any],
        done: Callable[[Any], None],
        failed: Callable[[Exception], None],
    ) -> None:
        if self._ended:
            return
        told = _Told(self)
        self._open.add(told)

        def finish(call: Callable[[Any], None]) -> Callable[[object], None]:
            def finished(value: object) -> None:
                self._open.discard(told)
                told.deleteLater()
                if not self._ended:
                    call(value)

            return finished

        told.done.connect(finish(done), Qt.ConnectionType.QueuedConnection)
        told.failed.connect(finish(failed), Qt.ConnectionType.QueuedConnection)
        self._pool.start(_Job(work, told))

    @property
    def busy(self) -> bool:
        return bool(self._open)

    def end(self) -> None:
        """For good: drop what has not begun, and wait for what has. A pool that is taken apart
        waits with the interpreter's lock in its hand, which its jobs need, so nothing may begin any
        more, and no answer may bring about that something does."""
        self._ended = True
        self._pool.clear()
        self.wait()

    def wait(self) -> None:
        """Until all jobs have ended; their answers may still be on the way."""
        # In short turns: the jobs need the interpreter's lock, which waiting may hold.
        while not self._pool.waitForDone(5):
            time.sleep(0.001)


class Waited:
    """Asks a worker and waits no longer than a frame: what is quick is there at once, what is not
    comes later, when ``told`` is called (with why it failed, if it did). Of what is asked for while
    the worker is busy only the last is done."""

    def __init__(self, parent: QObject, told: Callable[[str], None]) -> None:
        self._worker = Worker(parent, threads=1)
        self._told = told
        self._wanted: object = None
        self.patience_s = FRAME_S

    def ask(
        self, wanted: object, work: Callable[[], Any], keep: Callable[[Any], _Kept]
    ) -> _Kept | None:
        """What ``keep`` makes of the work's answer, or None if that is not there yet; then ``keep``
        is called when it is. wanted: the same again is not asked for twice."""
        if self._wanted == wanted:
            return None
        self._wanted = wanted
        there = threading.Event()
        answers: list[Any] = []

        def job() -> None:
            if self._wanted == wanted:
                answers.append(work())
                there.set()

        def finished(_: object) -> None:
            if self._wanted == wanted and answers:
                self._wanted = None
                keep(answers[0])
                self._told("")

        def failed(error: Exception) -> None:
            if self._wanted == wanted:
                self._wanted = None
                self._told(str(error))

        self._worker.run(job, finished, failed)
        if there.wait(self.patience_s):
            self._wanted = None
            return keep(answers[0])
        return None

    @property
    def busy(self) -> bool:
        return self._worker.busy

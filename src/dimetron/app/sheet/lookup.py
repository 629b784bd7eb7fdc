"""What is worked out to be shown: one thing at a time, on a worker, when it is first asked for."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from functools import partial
from typing import Generic, TypeVar

from PySide6.QtCore import QObject

from dimetron.app.sheet.desk import Desk
from dimetron.app.work.worker import Worker

T = TypeVar("T")


class Lookup(QObject, Generic[T]):
    """``about`` and ``answer``: what came last, until the next comes. What a thing is about may not
    hold pictures, which would stay in memory with it. ``told``: is told of what failed."""

    def __init__(self, desk: Desk, told: Callable[[Exception], None] | None = None) -> None:
        super().__init__(desk)
        self._desk = desk
        self._told = told
        self._worker = Worker(self, threads=1)
        self._asked: Hashable = None
        self.about: Hashable = None
        self.answer: T | None = None

    def ask(self, about: Hashable, job: Callable[[], T]) -> T | None:
        """The answer to what is asked, once it is there; None until then or if it failed."""
        if about != self._asked:
            self._asked = about
            if about != self.about:
                work = partial(self._work, about, job)
                self._worker.run(work, partial(self._came, about), partial(self._failed, about))
        return self.answer if about == self.about else None

    def _work(self, about: Hashable, job: Callable[[], T]) -> T | None:
        """On the worker; nothing if something else is asked for by now."""
        return job() if about == self._asked else None

    def _came(self, about: Hashable, answer: T | None) -> None:
        if about == self._asked:
            self.about, self.answer = about, answer
            self._desk.refresh()

    def _failed(self, about: Hashable, error: Exception) -> None:
        if about == self._asked:
            self.about, self.answer = about, None
            if self._told is not None:
                self._told(error)
            self._desk.refresh()

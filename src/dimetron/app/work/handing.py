"""Handing off: the way in hand with its choices, and the work of it."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass, field
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QTimer, Signal

from dimetron.app.work.session import Session
from dimetron.app.work.settings import Settings
from dimetron.app.work.worker import Worker
from dimetron.counting import counted
from dimetron.document.handing import handed, with_handed
from dimetron.handoff.way import Given, Stopped, Way, way

if TYPE_CHECKING:
    from dimetron.imaging.pyramid import Pyramid
    from dimetron.imaging.recipe import Recipe
    from dimetron.receiving.receiver import Answer
    from dimetron.render.palette import Palette
    from dimetron.render.scene import PaneScene

_KEY = "handoff/"
#: How often it is looked how far a job is.
_LOOK_EVERY_MS = 120


@dataclass(frozen=True, eq=False)
class Seen:
    """What the board shows: see ``handoff.way.Given``."""

    scenes: Mapping[str, PaneScene] = field(default_factory=dict)
    pyramids: Mapping[Recipe, Pyramid] = field(default_factory=dict)
    palette: Palette | None = None


class Handing(QObject):
    """``changed``: another way is in hand, its choices are others, or the work is farther."""

    changed = Signal()
    #: A picture file's bytes, for the clipboard.
    copied = Signal(object)

    def __init__(self, session: Session, settings: Settings, seen: Callable[[], Seen]) -> None:
        super().__init__(session)
        self._session, self._settings, self._seen = session, settings, seen
        self._worker = Worker(self, threads=1)
        self._way = "meshes"
        #: Choices that were made since, by way; of one project.
        self._own: dict[str, Any] = {}
        self._of: object = None
        self._share = 0.0
        self._stopping = False
        self.exported = ""
        self.answer: Answer | None = None
        self._look = QTimer(self)
        self._look.setInterval(_LOOK_EVERY_MS)
        self._look.timeout.connect(self.changed.emit)

    # The way in hand.

    @property
    def way(self) -> Way:
        return way(self._way)

    def take(self, name: str) -> None:
        """Take a way in hand. Raises KeyError."""
        way(name)
        self._way = name
        self.changed.emit()

    def how(self) -> Any:
        """Its choices: made just now, remembered with the project, or used last anywhere."""
        if self._of is not self._session.project:
            self._own, self._of, self.answer = {}, self._session.project, None
        known = self._own.get(self._way)
        if known is None:
            kept = handed(self._session.committed, self._way) or self._used_last()
            known = self._own[self._way] = self.way.restored(kept)
        return known

    def _used_last(self) -> dict[str, Any]:
        try:
            found = json.loads(self._settings.text(f"{_KEY}{self._way}", "{}"))
        except ValueError:
            return {}
        return found if isinstance(found, dict) else {}

    def choose(self, how: Any) -> None:
        """Other choices for the way in hand."""
        if how != self.how():
            self._own[self._way] = how
            # What was answered was about something else.
            self.answer = None
            self.changed.emit()

    @property
    def receiver(self) -> str:
        """The name of the receiving end that is tried against."""
        known = [name for name, _ in self.receiving_ends()]
        kept = self._settings.text(f"{_KEY}receiver", known[0])
        return kept if kept in known else known[0]

    @property
    def receiver_title(self) -> str:
        """What it is called."""
        return dict(self.receiving_ends())[self.receiver]

    def receiving_ends(self) -> tuple[tuple[str, str], ...]:
        """Names and titles of all receiving ends."""
        from dimetron.receiving.receiver import receivers  # only the station needs it

        return tuple((name, found.title) for name, found in receivers().items())

    def choose_receiver(self, name: str) -> None:
        self._settings.set(f"{_KEY}receiver", name)
        self.answer = None
        self.changed.emit()

    def _remember(self) -> None:
        """With the project, which does not make a step of it, and for other ones."""
        how = asdict(self.how())
        self._settings.set(f"{_KEY}{self._way}", json.dumps(how))
        if how:
            self._session.amend(with_handed(self._session.committed, self._way, how))

    # The work.

    @property
    def busy(self) -> bool:
        return self._worker.busy

    @property
    def share(self) -> float:
        """How far the work is, 0 to 1."""
        return self._share

    def stop(self) -> None:
        """The work is not wanted any more."""
        self._stopping = True
        self.changed.emit()

    def _progress(self, share: float) -> None:
        # Told on the worker's thread.
        if self._stopping:
            raise Stopped("It was stopped; nothing was written.")
        self._share = share

    def _given(self, stem: str) -> Given:
        seen = self._seen()
        return Given(
            self._session.committed,
            stem,
            self._session.chosen,
            seen.scenes,
            seen.pyramids,
            seen.palette,
            self._progress,
        )

    def write(self, path: Path) -> None:
        """Hand off to a file or a folder, on a worker."""
        self._remember()
        taken, how = self.way, self.how()
        stem = path.stem if taken.ending(how) else path.name
        given = self._given(stem)

        def work() -> list[Path]:
            from dimetron.handoff.putting import handed_off  # only handing off needs it

            return handed_off(taken, given, how, path)

        def done(files: list[Path]) -> None:
            self.exported = path.name
            more = counted(len(files) - 1, "more file", "more files")
            with_others = f" and {more}" if len(files) > 1 else ""
            whole = counted(len(files), "file", "files")
            told = f"{path.name}{with_others}" if taken.ending(how) else f"{path.name}, {whole}"
            self._session.tell(f"Written: {told}.")

        self._run(work, done)

    def copy(self) -> None:
        """The one picture that the way in hand makes, for the clipboard."""
        self._remember()
        taken, given, how = self.way, self._given("picture"), self.how()

        def work() -> bytes:
            (picture,) = taken.write(given, how).values()
            return picture

        self._run(work, self.copied.emit)

    def try_out(self) -> None:
        """Hand over to the receiving end, and see what arrives."""
        given, how, receiver = self._given(self._stem()), self.how(), self.receiver
        self.answer = None

        def work() -> Answer:
            from dimetron.handoff.trying import tried  # only trying needs it

            return tried(given, how, receiver, lambda: self._stopping)

        def done(answer: Answer) -> None:
            self.answer = answer

        self._run(work, done)

    def _stem(self) -> str:
        path = self._session.path
        return path.stem if path else "Untitled"

    def _run(self, work: Callable[[], Any], done: Callable[[Any], None]) -> None:
        if self.busy:
            return
        self._share, self._stopping = 0.0, False
        self._worker.run(work, partial(self._ended, done), self._failed)
        self._look.start()
        self.changed.emit()

    def _ended(self, done: Callable[[Any], None], value: Any) -> None:
        self._look.stop()
        done(value)
        self._session.changed.emit()
        self.changed.emit()

    def _failed(self, error: Exception) -> None:
        self._look.stop()
        if isinstance(error, Stopped):
            self._session.tell(str(error))
        elif isinstance(error, MemoryError):
            self._session.warn("There is not enough memory for this; hand off less at once.")
        else:
            self._session.warn(str(error))
        self.changed.emit()

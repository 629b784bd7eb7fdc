"""The project's file: new, open, save, and the copies kept for recovery."""

from __future__ import annotations

import contextlib
import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from dimetron.app.shell.notices import Actions
from dimetron.app.work.session import Session
from dimetron.app.work.worker import Worker
from dimetron.document import container, recovery
from dimetron.document.atomic import ChangedError, ProtectedError, Stamp, WriteError
from dimetron.document.container import SUFFIX, Opened
from dimetron.document.locks import Hold, hold
from dimetron.document.model import Document

KEEP_EVERY_MS = 60_000
_FILTER = f"Dimetron projects (*{SUFFIX})"


class Files(QObject):
    """``ask``: shows a sentence and what can be done about it, and waits for no answer."""

    opened = Signal()

    def __init__(
        self,
        session: Session,
        window: QWidget,
        busy: Callable[[str], None],
        ask: Callable[[str, Actions], None],
        folder: Path | None = None,
    ) -> None:
        super().__init__(window)
        self._session = session
        self._window = window
        self._busy = busy
        self._ask = ask
        self._worker = Worker(self, threads=1)
        self._folder = folder or recovery.state_folder()
        self._keeper = recovery.Keeper(self._folder)
        self._kept: Document | None = None
        self._keeping = False
        self._timer = QTimer(self)
        self._timer.setInterval(KEEP_EVERY_MS)
        self._timer.timeout.connect(self.keep)
        self._timer.start()
        #: The documents that are being saved, of the project that is open and of others before it.
        self._saving: list[Document] = []
        self._then: list[Callable[[], None]] = []
        self._held: Hold | None = Hold()
        #: What files were like when this window last read or wrote them.
        self._stamps: dict[Path, Stamp] = {}

    @property
    def saving(self) -> bool:
        return bool(self._saving)

    # Opening.

    def new(self) -> None:
        self.leave(lambda: self.begin(Document()))

    def open_dialog(self) -> None:
        def ask() -> None:
            start = str(self._session.path.parent) if self._session.path else ""
            name, _ = QFileDialog.getOpenFileName(self._window, "Open a project", start, _FILTER)
            if name:
                self.open(Path(name))

        self.leave(ask)

    def open(self, path: Path, after: Callable[[], None] = lambda: None) -> None:
        """Read a project on a worker; what is open now stays until the new one is there. after:
        what is done then, or when it cannot be opened."""
        path = path.absolute()
        self._busy(f"Opening {path.name}…")
        before = self._session.committed

        def done(opened: Opened) -> None:
            self._busy("")
            self.when_left(before, lambda: self._begin_read(path, opened))
            after()

        def failed(error: Exception) -> None:
            self._busy("")
            self._session.warn(str(error))
            after()

        self._worker.run(lambda: container.load(path), done, failed)

    def open_made(
        self, words: str, make: Callable[[], Document], after: Callable[[], None] = lambda: None
    ) -> None:
        """Open a project that is made on a worker, not read; ``words`` say what goes on."""

        def begin() -> None:
            before = self._session.committed

            def done(document: Document) -> None:
                self._busy("")
                self.when_left(before, lambda: self.begin(document))
                after()

            self._busy(words)
            self._worker.run(make, done, failed)

        def failed(error: Exception) -> None:
            self._busy("")
            self._session.warn(f"The project could not be made: {error}")
            after()

        self.leave(begin)

    def when_left(self, before: Document, go_on: Callable[[], None]) -> None:
        """Put something that was made ready in the place of the project, which was asked about
        already as it was ``before``; asks again if it was worked on meanwhile."""
        if self._session.committed is before:
            go_on()
        else:
            self.leave(go_on)

    def _begin_read(self, path: Path, opened: Opened) -> None:
        if opened.stamp is not None:
            self._stamps[path] = opened.stamp
        held = self._held if path == self._session.path and not self.read_only else hold(path)
        self.begin(opened.document, path, held)
        for note in opened.notes:
            self._session.warn(note)
        if held is None:
            self._session.warn(
                f"{path.name} is open in another window; here it is read-only, and saving asks for "
                "another name."
            )

    def begin(
        self,
        document: Document,
        path: Path | None = None,
        held: Hold | None = None,
        *,
        saved: bool = True,
    ) -> None:
        """Work on another project from now on; whoever asked for it has made sure that nothing is
        lost. held: the lock on its file; without one it is not saved under that name."""
        if saved:
            self._kept = None
            self._forget()
        self._take_hold(held if path is not None else Hold())
        self._session.open(document, path, saved=saved)
        self.opened.emit()

    def _take_hold(self, held: Hold | None) -> None:
        if self._held is not None and self._held is not held:
            self._held.let_go()
        self._held = held

    @property
    def read_only(self) -> bool:
        """Whether the project is open in another window, which alone may write it."""
        return self._held is None

    # Saving.

    def save(self, then: Callable[[], None] | None = None) -> None:
        if self._session.path is None or self.read_only:
            self.save_as(then)
        else:
            self._write(self._session.path, then)

    def save_as(self, then: Callable[[], None] | None = None) -> None:
        start = str(self._session.path or f"Untitled{SUFFIX}")
        name, _ = QFileDialog.getSaveFileName(self._window, "Save the project", start, _FILTER)
        if not name:
            return
        path = Path(name).absolute()
        if path.suffix == SUFFIX:
            self._write(path, then)
            return
        path = path.with_name(path.name + SUFFIX)
        if path.exists():
            # The dialog asked about a name without the ending.
            words = f"{path.name} is there already."
            self._ask(words, self._ways_out(path, then))
        else:
            self._write(path, then)

    def _ways_out(self, path: Path, then: Callable[[], None] | None) -> Actions:
        return (
            ("Save under another name…", lambda: self.save_as(then)),
            ("Replace it", lambda: self._write(path, then, over=True)),
        )

    def _write(self, path: Path, then: Callable[[], None] | None, over: bool = False) -> None:
        """over: whatever is there now is replaced."""
        document, project = self._session.committed, self._session.project
        mine = path == self._session.path and not self.read_only
        self._saving.append(document)
        self._busy(f"Saving {path.name}…")

        def work() -> Hold | None:
            other = None if mine else hold(path)
            if other is None and not mine:
                raise WriteError(
                    f"{path.name} was not saved: it is open in another window; choose another name."
                )
            try:
                known = self._stamps.get(path) if mine and not over else None
                self._stamps[path] = container.save(
                    document, path, only_over=known, over_protected=over
                )
            finally:
                if other is not None:
                    other.let_go()
            # The file is another one now.
            return hold(path)

        def done(held: Hold | None) -> None:
            if self._session.project is project:
                self._take_hold(held)
                self._session.mark_saved(document, path)
                if not self._session.dirty:
                    self._forget()
            elif held is not None:
                held.let_go()
            self._ended(document, lambda: self._session.tell(f"Saved {path.name}."), then)

        def failed(error: Exception) -> None:
            if isinstance(error, ChangedError | ProtectedError):
                self._ended(document, lambda: self._ask(str(error), self._ways_out(path, then)))
            else:
                self._ended(document, lambda: self._session.warn(str(error)))

        self._worker.run(work, done, failed)

    def _ended(
        self,
        document: Document,
        say: Callable[[], None],
        then: Callable[[], None] | None = None,
    ) -> None:
        """A save came to its end: say so, then do what waited for it."""
        self._saving = [other for other in self._saving if other is not document]
        self._busy("")
        say()
        waiting, self._then = self._then, []
        for go_on in (*(() if then is None else (then,)), *waiting):
            go_on()

    # Keeping copies.

    def keep(self) -> None:
        """Keep a copy of unsaved work in the state folder, on a worker."""
        document = self._session.committed
        if not self._session.dirty or document is self._kept or self._keeping:
            return
        self._keeping = True
        saved_as, project = self._session.path, self._session.project
        stamp = self._stamps.get(saved_as) if saved_as is not None else None

        def done(_: object) -> None:
            self._keeping = False
            if self._session.project is project:
                self._kept = document
            if not self._session.dirty:
                self._forget()

        def failed(error: Exception) -> None:
            self._keeping = False
            self._session.warn(f"No recovery copy could be kept: {error}")

        self._worker.run(lambda: self._keeper.keep(document, saved_as, stamp), done, failed)

    def _forget(self) -> None:
        """Remove the copy, after whatever the worker is at."""
        self._kept = None
        self._worker.run(self._keeper.forget, lambda _: None, lambda _: None)

    def offer_recovered(self) -> None:
        """After a crash: say what was kept, and open or discard it."""
        copies = recovery.found(self._folder)
        if not copies:
            return
        copy = copies[0]

        def discard() -> None:
            recovery.discard(copy)
            self.offer_recovered()

        ways = (("Open it", lambda: self.open_recovered(copy)), ("Discard it", discard))
        self._ask(self._described(copy), ways)

    def open_recovered(self, copy: recovery.Recovered) -> None:
        """Open a copy as unsaved work; it is removed once this window has kept or saved its own."""
        self.leave(lambda: self._open_copy(copy))

    def _open_copy(self, copy: recovery.Recovered) -> None:
        before = self._session.committed
        path = copy.saved_as

        def done(opened: Opened) -> None:
            self.when_left(before, lambda: begin(opened))

        def begin(opened: Opened) -> None:
            if path is not None and copy.stamp is not None:
                self._stamps[path] = copy.stamp
            document = opened.document
            held = hold(path) if path is not None else None
            self.begin(document, path, held, saved=False)
            for note in opened.notes:
                self._session.warn(note)
            # Kept as this window's own before the old copy goes.
            self._worker.run(lambda: self._take_over(copy, document), kept, failed)

        def kept(document: Document) -> None:
            self._kept = document

        def failed(error: Exception) -> None:
            self._session.warn(str(error))

        self._worker.run(lambda: recovery.opened(copy), done, failed)

    def _take_over(self, copy: recovery.Recovered, document: Document) -> Document:
        self._keeper.keep(document, copy.saved_as, copy.stamp)
        recovery.discard(copy)
        return document

    @staticmethod
    def _described(copy: recovery.Recovered) -> str:
        name = copy.saved_as.name if copy.saved_as else "an unsaved project"
        when = time.strftime("%H:%M on %d %B", time.localtime(copy.kept_at))
        return f"Dimetron ended without a save. Work on {name} was kept at {when}."

    # Leaving.

    def leave(self, go_on: Callable[[], None]) -> bool:
        """Ask about unsaved work, then go on. False if that is not now: the person stays, or it is
        being saved first."""
        if not self._session.dirty:
            go_on()
            return True
        if any(document is self._session.committed for document in self._saving):
            # Nothing to ask about: just this is being saved.
            self._then.append(lambda: self._leave_again(go_on))
            return False
        asked = QMessageBox(self._window)
        asked.setWindowTitle("Unsaved changes")
        asked.setText(f"{self._session.title} has unsaved changes.")
        save = asked.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        drop = asked.addButton("Don’t save", QMessageBox.ButtonRole.DestructiveRole)
        asked.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
        asked.exec()
        if asked.clickedButton() is drop:
            go_on()
            return True
        if asked.clickedButton() is save:
            self.save(then=lambda: self._leave_again(go_on))
        return False

    def _leave_again(self, go_on: Callable[[], None]) -> None:
        self.leave(go_on)

    def close(self) -> None:
        """The window closes for good and on purpose."""
        self._timer.stop()
        self._worker.wait()
        self._keeper.forget()
        self._take_hold(None)

    def end(self) -> None:
        """The program is told to end at once: unsaved work is kept to be offered at the next
        start."""
        self._timer.stop()
        self._worker.wait()
        path = self._session.path
        if self._session.dirty:
            with contextlib.suppress(OSError):  # there is nobody left to tell
                self._keeper.keep(self._session.committed, path, self._stamps.get(path or Path()))
            self._keeper.let_go()
        else:
            self._keeper.forget()
        self._take_hold(None)

"""The project's file: new, open, save, and the copies kept for recovery."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from dimetron.app.session import Session
from dimetron.app.work import Worker
from dimetron.document import container, recovery
from dimetron.document.container import SUFFIX, Opened
from dimetron.document.model import Document

KEEP_EVERY_MS = 60_000
_FILTER = f"Dimetron projects (*{SUFFIX})"


class Files(QObject):
    opened = Signal()

    def __init__(
        self,
        session: Session,
        window: QWidget,
        busy: Callable[[str], None],
        folder: Path | None = None,
    ) -> None:
        super().__init__(window)
        self._session = session
        self._window = window
        self._busy = busy
        self._worker = Worker(self, threads=1)
        self._folder = folder or recovery.state_folder()
        self._keeper = recovery.Keeper(self._folder)
        self._kept: Document | None = None
        self._keeping = False
        self._timer = QTimer(self)
        self._timer.setInterval(KEEP_EVERY_MS)
        self._timer.timeout.connect(self.keep)
        self._timer.start()
        self.saving = False

    # Opening.

    def new(self) -> None:
        self.leave(lambda: self._begin(Document(), None))

    def open_dialog(self) -> None:
        def ask() -> None:
            start = str(self._session.path.parent) if self._session.path else ""
            name, _ = QFileDialog.getOpenFileName(self._window, "Open a project", start, _FILTER)
            if name:
                self.open(Path(name))

        self.leave(ask)

    def open(self, path: Path) -> None:
        """Read a project on a worker; what is open now stays until the new one is there."""
        self._busy(f"Opening {path.name}…")

        def done(opened: Opened) -> None:
            self._busy("")
            self._begin(opened.document, path)
            for note in opened.notes:
                self._session.warn(note)

        def failed(error: Exception) -> None:
            self._busy("")
            self._session.warn(str(error))

        self._worker.run(lambda: container.load(path), done, failed)

    def _begin(self, document: Document, path: Path | None) -> None:
        self._keeper.forget()
        self._kept = None
        self._session.open(document, path)
        self.opened.emit()

    # Saving.

    def save(self, then: Callable[[], None] | None = None) -> None:
        if self._session.path is None:
            self.save_as(then)
        else:
            self._write(self._session.path, then)

    def save_as(self, then: Callable[[], None] | None = None) -> None:
        start = str(self._session.path or f"Untitled{SUFFIX}")
        name, _ = QFileDialog.getSaveFileName(self._window, "Save the project", start, _FILTER)
        if name:
            path = Path(name)
            self._write(path if path.suffix == SUFFIX else path.with_name(path.name + SUFFIX), then)

    def _write(self, path: Path, then: Callable[[], None] | None) -> None:
        document = self._session.committed
        self.saving = True
        self._busy(f"Saving {path.name}…")

        def done(_: object) -> None:
            self.saving = False
            self._busy("")
            self._session.mark_saved(document, path)
            if not self._session.dirty:
                self._keeper.forget()
                self._kept = None
            self._session.tell(f"Saved {path.name}.")
            if then is not None:
                then()

        def failed(error: Exception) -> None:
            self.saving = False
            self._busy("")
            self._session.warn(str(error))

        self._worker.run(lambda: container.save(document, path), done, failed)

    # Keeping copies.

    def keep(self) -> None:
        """Keep a copy of unsaved work in the state folder, on a worker."""
        document = self._session.committed
        if not self._session.dirty or document is self._kept or self._keeping:
            return
        self._keeping = True
        saved_as = self._session.path

        def done(_: object) -> None:
            self._keeping = False
            self._kept = document
            if not self._session.dirty:
                self._keeper.forget()

        def failed(error: Exception) -> None:
            self._keeping = False
            self._session.warn(f"No recovery copy could be kept: {error}")

        self._worker.run(lambda: self._keeper.keep(document, saved_as), done, failed)

    def recovered(self) -> list[recovery.Recovered]:
        return recovery.found(self._folder)

    def open_recovered(self, copy: recovery.Recovered) -> None:
        """Open a copy as unsaved work; it is removed once this window has kept or saved its own."""

        def work() -> Opened:
            opened = container.load(copy.file)
            # Kept as this window's own before the old copy goes.
            self._keeper.keep(opened.document, copy.saved_as)
            recovery.discard(copy)
            return opened

        def done(opened: Opened) -> None:
            self._kept = opened.document
            self._session.open(opened.document, copy.saved_as, saved=False)
            self.opened.emit()
            for note in opened.notes:
                self._session.warn(note)

        def failed(error: Exception) -> None:
            self._session.warn(str(error))

        self._worker.run(work, done, failed)

    @staticmethod
    def described(copy: recovery.Recovered) -> str:
        name = copy.saved_as.name if copy.saved_as else "an unsaved project"
        when = time.strftime("%H:%M on %d %B", time.localtime(copy.kept_at))
        return f"Dimetron ended unexpectedly. Work on {name} was kept at {when}."

    # Leaving.

    def leave(self, go_on: Callable[[], None]) -> bool:
        """Ask about unsaved work, then go on. False if the person stays."""
        if not self._session.dirty:
            go_on()
            return True
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
            self.save(then=go_on)
        return False

    def close(self) -> None:
        """The window closes for good and on purpose."""
        self._timer.stop()
        self._worker.wait()
        self._keeper.forget()

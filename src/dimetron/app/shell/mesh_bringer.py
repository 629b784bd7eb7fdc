"""Bringing meshes in: read on a worker, shown with their size before they are taken."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject
from PySide6.QtWidgets import (
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from dimetron.app.kit.buttons import choice
from dimetron.app.tray.card import size_text
from dimetron.app.work.session import Session
from dimetron.app.work.settings import Settings
from dimetron.app.work.worker import Worker
from dimetron.counting import counted
from dimetron.handoff.ways.meshes import UNIT_TITLES

if TYPE_CHECKING:
    from dimetron.formats.reading import MeshFile

_UP_TITLES = (("z", "Z up"), ("y", "Y up"))
#: So many oddities of a file are told; there may be one for each of its lines.
_TOLD = 6


class MeshDialog(QDialog):
    """What a file holds and how large it would be; what its numbers mean can be set."""

    def __init__(self, read: MeshFile, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Bring in {read.name}")
        self._read, self._session = read, session
        self.unit, self.up = choice(UNIT_TITLES), choice(_UP_TITLES)
        for name, field, value in (("unit", self.unit, read.unit), ("axis", self.up, read.up)):
            field.setAccessibleName(name)
            field.setCurrentIndex(field.findData(value))
            field.currentIndexChanged.connect(self._show_size)
        self.size_words = QLabel()
        self.size_words.setToolTip("Width, depth and height of all of it")
        form = QFormLayout()
        form.addRow("file", QLabel(read.name))
        form.addRow("holds", QLabel(_holds(read)))
        form.addRow("numbers are", self.unit)
        form.addRow("axis", self.up)
        form.addRow("size", self.size_words)
        box = QVBoxLayout(self)
        box.addLayout(form)
        for odd in _shortened(read.odd):
            words = QLabel(odd)
            words.setWordWrap(True)
            words.setProperty("class", "soft")
            box.addWidget(words)
        box.addLayout(self._made_foot())
        self._show_size()

    def _made_foot(self) -> QHBoxLayout:
        self.take, self.leave = QPushButton("Bring in"), QPushButton("Leave it")
        self.take.setProperty("main", True)
        self.take.setDefault(True)
        self.take.clicked.connect(self.accept)
        self.leave.clicked.connect(self.reject)
        foot = QHBoxLayout()
        foot.addStretch(1)
        foot.addWidget(self.leave)
        foot.addWidget(self.take)
        return foot

    @property
    def meant(self) -> MeshFile:
        """The file as it is to be taken. Raises MeshFileError."""
        from dimetron.formats.reading import taken_as

        return taken_as(self._read, self.unit.currentData(), self.up.currentData())

    def _show_size(self) -> None:
        try:
            size = self.meant.size_mm
        except ValueError as error:
            self.size_words.setText(str(error))
            self.take.setEnabled(False)
            return
        unit = self._session.document.unit
        self.size_words.setText(size_text(unit, *(float(n) for n in size)))
        self.take.setEnabled(True)


def _holds(read: MeshFile) -> str:
    faces = sum(part.mesh.topology.face_count for part in read.parts)
    count = counted(faces, "face", "faces")
    return count if len(read.parts) == 1 else f"{len(read.parts)} meshes of {count}"


def _shortened(odd: Sequence[str]) -> list[str]:
    more = len(odd) - _TOLD
    return [*odd[:_TOLD], *([f"and {more} more of the kind"] if more > 0 else [])]


@dataclass(slots=True, eq=False)
class _Wanted:
    """A file that is being read, until it is stopped."""

    path: Path
    stopped: bool = False


class MeshBringer(QObject):
    """Reads mesh files one by one and asks about each when it is there. ``busy``: says what goes on
    and how it can be stopped."""

    def __init__(
        self,
        session: Session,
        settings: Settings,
        busy: Callable[[str, Callable[[], None]], None],
        window: QWidget,
    ) -> None:
        super().__init__(window)
        self._session, self._settings = session, settings
        self._busy, self._window = busy, window
        self._worker = Worker(self, threads=1)
        self._waiting: list[Path] = []
        #: What is being read; another one for each, so that what was stopped is not taken for it.
        self._reading: _Wanted | None = None
        #: What is being asked about.
        self.dialog: MeshDialog | None = None

    @property
    def active(self) -> bool:
        return bool(self._reading or self._waiting or self.dialog)

    def stop(self) -> None:
        """Cancel: what is being read, or waits to be, is not brought in."""
        if self._reading is not None:
            self._reading.stopped = True
        self._waiting, self._reading = [], None
        self._busy("", self.stop)

    def bring(self, paths: Sequence[Path]) -> None:
        self._waiting += paths
        self._next()

    def _next(self) -> None:
        if self._reading or self.dialog is not None or not self._waiting:
            return
        path = self._waiting.pop(0)
        wanted = self._reading = _Wanted(path)
        self._busy(f"Reading {path.name}…", self.stop)
        unit = self._remembered(path, "unit", dict(UNIT_TITLES))
        up = self._remembered(path, "up", dict(_UP_TITLES))
        self._worker.run(
            partial(_read, wanted, unit, up),
            partial(self._ask, wanted),
            partial(self._refuse, wanted),
        )

    def _remembered(self, path: Path, what: str, known: dict[str, str]) -> str | None:
        """How numbers of such files were meant last; None if none was taken yet."""
        value = self._settings.text(f"bring/{path.suffix.lower()}/{what}", "")
        return value if value in known else None

    def _ask(self, wanted: _Wanted, read: MeshFile) -> None:
        if self._reading is not wanted:
            # It was stopped meanwhile.
            self._next()
            return
        self._reading = None
        self._busy("", self.stop)
        self.dialog = MeshDialog(read, self._session, self._window)
        self.dialog.finished.connect(partial(self._answered, wanted.path))
        self.dialog.open()

    def _answered(self, path: Path, answer: int) -> None:
        dialog, self.dialog = self.dialog, None
        if dialog is None:
            return
        dialog.deleteLater()
        if answer == QDialog.DialogCode.Accepted:
            self._take(path, dialog.meant)
        self._next()

    def _take(self, path: Path, read: MeshFile) -> None:
        from dimetron.formats.bringing import with_meshes

        for what, value in (("unit", read.unit), ("up", read.up)):
            self._settings.set(f"bring/{path.suffix.lower()}/{what}", value)
        before = self._session.committed
        doc = with_meshes(before, read)
        self._session.commit(doc, f"Bring in {read.name}")
        self._session.choose(tuple(mesh.id for mesh in doc.meshes[len(before.meshes) :]))

    def _refuse(self, wanted: _Wanted, error: Exception) -> None:
        if self._reading is wanted:
            self._reading = None
            self._busy("", self.stop)
            self._session.warn(str(error))
        self._next()


def _read(wanted: _Wanted, unit: str | None, up: str | None) -> MeshFile:
    # The window starts without the readers; the first mesh loads them on this worker.
    from dimetron.formats.apart.ask import read_apart

    read = read_apart(wanted.path, unit, up, lambda: wanted.stopped)
    for part in read.parts:
        part.mesh.ready()
    return read

"""Recovered work: copies kept while one works, and found again after a crash.

Each running window owns in the state folder a copy of the project (``copies.py``), a small note
that names where it was saved last, and a lock file. It holds the lock from before the first copy
until it ends, so a copy whose lock is free belongs to nobody any more.
"""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
from dataclasses import astuple, dataclass
from pathlib import Path
from typing import IO

from dimetron.document import copies
from dimetron.document.atomic import Stamp, clear_parts, write_bytes
from dimetron.document.container import SUFFIX, Opened, load
from dimetron.document.model import Document, new_id

_NOTE, _LOCK = ".json", ".lock"
#: What stands beside the copy itself; earlier versions kept whole project files.
_BESIDE = (SUFFIX, _NOTE, _LOCK)


def state_folder() -> Path:
    """The user's state folder for Dimetron (XDG), not created here."""
    base = os.environ.get("XDG_STATE_HOME") or str(Path.home() / ".local" / "state")
    return Path(base) / "dimetron" / "recovery"


@dataclass(frozen=True, slots=True)
class Recovered:
    """A copy without an owner: where it lies, where it was saved last (if ever), when kept, and
    what the saved file was like then."""

    file: Path
    saved_as: Path | None
    kept_at: float
    stamp: Stamp | None = None


class Keeper:
    """Keeps one window's work. Not thread-safe: one worker uses it at a time."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._stem = new_id()
        self._lock: IO[bytes] | None = None
        self._noted: str | None = None
        self._copier = copies.Copier(folder / (self._stem + copies.INDEX))

    @property
    def file(self) -> Path:
        """Where the copy lies, once there is one."""
        return self._copier.index

    def keep(self, doc: Document, saved_as: Path | None, stamp: Stamp | None = None) -> None:
        """Write a copy, or what is new of it. stamp: what the file it was saved as last was like.
        Raises WriteError or OSError if the state folder cannot be written."""
        self._folder.mkdir(parents=True, exist_ok=True)
        if self._lock is None:
            self._lock = _locked(self._folder / (self._stem + _LOCK))
        # The note first: a copy is never without one.
        told = {
            "saved_as": str(saved_as.absolute()) if saved_as else None,
            "stamp": astuple(stamp) if stamp else None,
        }
        note = json.dumps(told)
        if note != self._noted:
            write_bytes(self._folder / (self._stem + _NOTE), note.encode())
            self._noted = note
        self._copier.write(doc)

    def forget(self) -> None:
        """Remove the copy: the work was saved, or given up on purpose."""
        self._copier.forget()
        _remove_beside(self._folder, self._stem)
        self.let_go()

    def let_go(self) -> None:
        """The window ends; the copy stays, to be offered at the next start."""
        self._noted = None
        if self._lock is not None:
            self._lock.close()
            self._lock = None


def _locked(path: Path) -> IO[bytes]:
    """A new lock file, held."""
    while True:
        lock = path.open("ab")
        # Whoever only looks holds it for a moment.
        fcntl.flock(lock, fcntl.LOCK_EX)
        # A look that found it without an owner may have cleared it away.
        if os.fstat(lock.fileno()).st_nlink:
            return lock
        lock.close()


def found(folder: Path) -> list[Recovered]:
    """Copies that no running window owns, newest first. What a killed window left half-made is
    removed."""
    clear_parts(folder)
    try:
        names = sorted(folder.iterdir())
    except OSError:
        return []
    kept = []
    own = (copies.INDEX, copies.PARTS, *_BESIDE)
    for stem in dict.fromkeys(path.stem for path in names if path.suffix in own):
        if _owned(folder, stem):
            continue
        file = folder / (stem + copies.INDEX)
        file = file if file.exists() else folder / (stem + SUFFIX)
        try:
            saved_as, stamp = _noted(folder / (stem + _NOTE))
            kept.append(Recovered(file, saved_as, file.stat().st_mtime, stamp))
        except OSError:
            # Killed before its first copy was whole.
            _remove(folder, stem)
    return sorted(kept, key=lambda copy: -copy.kept_at)


def _noted(note: Path) -> tuple[Path | None, Stamp | None]:
    """Where a copy was saved last and what that file was like; a spoiled note hides no copy."""
    try:
        told = json.loads(note.read_text("utf-8"))
        stamp = told.get("stamp")
        return Path(told["saved_as"]), Stamp(*stamp) if stamp else None
    except (OSError, ValueError, TypeError, AttributeError, KeyError):
        return None, None


def _owned(folder: Path, stem: str) -> bool:
    """Whether a running window holds its lock; earlier versions held their note."""
    for suffix in (_LOCK, _NOTE):
        try:
            with (folder / (stem + suffix)).open("rb") as handle:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            return True
        except OSError:
            continue
    return False


def _remove(folder: Path, stem: str) -> None:
    copies.remove(folder / (stem + copies.INDEX))
    _remove_beside(folder, stem)


def _remove_beside(folder: Path, stem: str) -> None:
    for suffix in _BESIDE:
        with contextlib.suppress(OSError):
            (folder / (stem + suffix)).unlink(missing_ok=True)


def opened(copy: Recovered) -> Opened:
    """The project of a copy. Raises ProjectError."""
    return copies.load(copy.file) if copy.file.suffix == copies.INDEX else load(copy.file)


def discard(copy: Recovered) -> None:
    """Remove a copy that nobody owns."""
    _remove(copy.file.parent, copy.file.stem)

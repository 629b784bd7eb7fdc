"""Recovered work: copies kept while one works, and found again after a crash.

Each running window owns one pair of files in the state folder: the project and a small note that
names where it was saved last. The owner holds a lock on the note for as long as it lives, so a
copy whose lock is free belongs to nobody any more.
"""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
import time
from dataclasses import dataclass
from pathlib import Path
from typing import IO

from dimetron.document.atomic import write_bytes
from dimetron.document.container import SUFFIX, save
from dimetron.document.model import Document, new_id


def state_folder() -> Path:
    """The user's state folder for Dimetron (XDG), not created here."""
    base = os.environ.get("XDG_STATE_HOME") or str(Path.home() / ".local" / "state")
    return Path(base) / "dimetron" / "recovery"


@dataclass(frozen=True, slots=True)
class Recovered:
    """A copy without an owner: where it lies, where it was saved last (if ever), when kept."""

    file: Path
    note: Path
    saved_as: Path | None
    kept_at: float


class Keeper:
    """Keeps one window's work. Not thread-safe: one worker uses it at a time."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._stem = new_id()
        self._lock: IO[str] | None = None

    @property
    def file(self) -> Path:
        return self._folder / (self._stem + SUFFIX)

    def keep(self, doc: Document, saved_as: Path | None) -> None:
        """Write a copy. Raises WriteError or OSError if the state folder cannot be written."""
        self._folder.mkdir(parents=True, exist_ok=True)
        save(doc, self.file)
        note = {"saved_as": str(saved_as) if saved_as else None, "kept_at": time.time()}
        path = self._folder / f"{self._stem}.json"
        self._release()
        write_bytes(path, json.dumps(note).encode())
        self._lock = path.open("r+")
        fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)

    def forget(self) -> None:
        """Remove the copy: the work was saved, or given up on purpose."""
        self._release()
        for suffix in (".json", SUFFIX):
            with contextlib.suppress(OSError):
                (self._folder / (self._stem + suffix)).unlink(missing_ok=True)

    def _release(self) -> None:
        if self._lock is not None:
            self._lock.close()
            self._lock = None


def found(folder: Path) -> list[Recovered]:
    """Copies that no running window owns, newest first."""
    copies = []
    for note in sorted(folder.glob("*.json")) if folder.is_dir() else []:
        file = note.with_suffix(SUFFIX)
        if not file.exists() or _owned(note):
            continue
        try:
            told = json.loads(note.read_text("utf-8"))
            saved_as = Path(told["saved_as"]) if told.get("saved_as") else None
            kept_at = float(told.get("kept_at", 0.0))
        except (OSError, ValueError, TypeError, AttributeError):
            saved_as, kept_at = None, file.stat().st_mtime
        copies.append(Recovered(file, note, saved_as, kept_at))
    return sorted(copies, key=lambda copy: -copy.kept_at)


def _owned(note: Path) -> bool:
    try:
        with note.open("r+") as handle:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return True
    except OSError:
        return False
    return False


def discard(copy: Recovered) -> None:
    for path in (copy.note, copy.file):
        with contextlib.suppress(OSError):
            path.unlink(missing_ok=True)

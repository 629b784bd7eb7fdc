"""A copy of a project as an index and parts that are named by what they hold: writing it again
writes only what is new."""

from __future__ import annotations

import contextlib
import hashlib
import json
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from dimetron.border import border
from dimetron.document.atomic import clear_parts, write_bytes
from dimetron.document.container import Opened, as_text, assembled, refuse_unreadable
from dimetron.document.kind import filed
from dimetron.document.model import Document
from dimetron.document.serial import ProjectError, source_file
from dimetron.imaging.errors import PictureError
from dimetron.imaging.files import file_bytes

INDEX, PARTS = ".copy", ".parts"


class Copier:
    """Writes copies of one project after another under one index. Not thread-safe."""

    def __init__(self, index: Path) -> None:
        self.index = index
        self._parts = index.with_suffix(PARTS)
        #: What was written of an object, as long as that is still part of the project.
        self._known: dict[int, tuple[object, str]] = {}

    def write(self, doc: Document) -> None:
        """Write what is new of a project, then the index, then clear what is in no copy any more.

        A kill at any moment leaves the copy before or this one. Raises WriteError.
        """
        refuse_unreadable(doc, self.index.name)
        self._parts.mkdir(parents=True, exist_ok=True)
        clear_parts(self._parts)
        known: dict[int, tuple[object, str]] = {}
        files: dict[str, str] = {}
        for file, held, write in _files(doc):
            key = self._written(held) or self._put(write(held))
            known[id(held)] = held, key
            files[file] = key
        told = {"project": as_text(doc).decode(), "files": files}
        write_bytes(self.index, json.dumps(told).encode())
        self._known = known
        self._clear(set(files.values()))

    def _written(self, held: object) -> str:
        """The key of what was written of an object, if that is still there; else nothing."""
        _, key = self._known.get(id(held), (None, ""))
        return key if key and (self._parts / key).exists() else ""

    def _put(self, data: bytes) -> str:
        key = hashlib.sha256(data).hexdigest()
        if not (self._parts / key).exists():
            write_bytes(self._parts / key, data)
        return key

    def _clear(self, kept: set[str]) -> None:
        with contextlib.suppress(OSError):
            for part in self._parts.iterdir():
                if part.name not in kept:
                    part.unlink()

    def forget(self) -> None:
        """Remove the copy."""
        self._known = {}
        remove(self.index)


def _files(doc: Document) -> Iterator[tuple[str, Any, Callable[[Any], bytes]]]:
    """The files of a project beside project.json: name, what it holds, how that is written."""
    for source in doc.sources:
        if source.data is not None:
            yield source_file(source), source.data, bytes
    for member, item in filed(doc):
        yield member.name(item), member.held(item), member.write


def remove(index: Path) -> None:
    """Remove a copy with its parts."""
    with contextlib.suppress(OSError):
        index.unlink(missing_ok=True)
    shutil.rmtree(index.with_suffix(PARTS), ignore_errors=True)


def load(index: Path) -> Opened:
    """The project that was kept. Raises ProjectError with one sentence."""
    damaged = "is damaged: the work that was kept cannot be opened."
    with border(ProjectError, index.name, damaged):
        told: dict[str, Any] = json.loads(file_bytes(index))
        files: dict[str, str] = told["files"]
        text = told["project"].encode()

        def member(file: str) -> bytes | None:
            key = files.get(file, "")
            try:
                data = file_bytes(index.with_suffix(PARTS) / key)
            except PictureError:
                return None
            return data if hashlib.sha256(data).hexdigest() == key else None

        return assembled(text, index.name, member)

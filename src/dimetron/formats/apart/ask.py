"""Asking a process of its own for what a mesh file holds."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

from dimetron import apart
from dimetron.border import border
from dimetron.formats.format import MeshFileError
from dimetron.formats.named import NamedMesh
from dimetron.formats.reading import MeshFile
from dimetron.mesh.ply import from_ply

#: Longer than this no mesh takes that one can work with.
MOST_S = 600.0


class Stopped(MeshFileError):
    """Whoever asked for the meshes does not want them any more."""


def read_apart(
    path: Path, unit: str | None, up: str | None, stop: Callable[[], bool] = apart.never
) -> MeshFile:
    """``reading.read_meshes``, elsewhere. stop: asked again and again whether the answer is not
    wanted any more.

    Raises MeshFileError with one sentence that names the file; Stopped if it was not wanted.
    """
    name = path.name
    request = json.dumps({"path": str(path.absolute()), "unit": unit, "up": up}).encode()
    with border(MeshFileError, name, "cannot be read just now; close other programs, try again."):
        try:
            told = apart.answer("dimetron.formats.apart", (request,), MOST_S, stop)
        except apart.TooLong as error:
            raise MeshFileError(
                f"{name} takes more than {MOST_S / 60:.0f} minutes to read; save it in another "
                "format, or with fewer faces, and bring that."
            ) from error
        except apart.NotWanted as error:
            raise Stopped(f"{name} was stopped.") from error
    return _read(told, name)


def _read(told: bytes, name: str) -> MeshFile:
    head, line, rest = told.partition(b"\n")
    if not line:
        # It came to its end without a word: its memory was used up, or its stack.
        raise MeshFileError(
            f"{name} cannot be read: it is damaged, or needs more memory than it may; save it in "
            "another format, or with fewer faces, and bring that."
        )
    found: dict[str, Any] = json.loads(head)
    if "error" in found:
        raise MeshFileError(found["error"])
    parts, at, body = [], 0, memoryview(rest)
    with border(MeshFileError, name, "came to an end while it was read; try again."):
        for title, length in found["parts"]:
            parts.append(NamedMesh(title, from_ply(bytes(body[at : at + length]))))
            at += length
    return MeshFile(name, tuple(parts), tuple(found["odd"]), found["unit"], found["up"])

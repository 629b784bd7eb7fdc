"""The ``.dimetron`` file: a ZIP with project.json, the source pictures and the meshes.

Members are only ever read into memory; their names never become paths on disk. Reading refuses
what a hostile file might try, and says which member was missing or damaged when it can go on.
"""

from __future__ import annotations

import json
import zipfile
import zlib
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from typing import Any, BinaryIO

from dimetron.document.atomic import begin_writing, write_whole
from dimetron.document.model import Document
from dimetron.document.serial import (
    ProjectError,
    from_json,
    mesh_file,
    parsed,
    source_file,
    to_json,
)
from dimetron.mesh.mesh import Mesh, MeshError
from dimetron.mesh.ply import from_ply, to_ply

SUFFIX = ".dimetron"
PROJECT = "project.json"

#: Refused beyond these: no project comes near them, and memory is not endless.
MAX_MEMBERS = 30_000
MAX_JSON_BYTES = 64 << 20
MAX_TOTAL_BYTES = 8 << 30
#: A member that unpacks to more than this many times its size, and is large, is a bomb.
MAX_RATIO, RATIO_FREE_BYTES = 100, 16 << 20

_DAMAGE = (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError, ValueError)


@dataclass(frozen=True, slots=True)
class Opened:
    """A document read from a file, and in plain sentences what was missing."""

    document: Document
    notes: tuple[str, ...] = ()


def save(doc: Document, path: Path) -> None:
    """Write the project, whole or not at all. Raises WriteError (see ``atomic``)."""
    write_whole(path, lambda out: _write(doc, out))


def _write(doc: Document, out: BinaryIO) -> None:
    text = json.dumps(to_json(doc), indent=1, ensure_ascii=False, allow_nan=False)
    # Pictures are compressed already; packing them again would cost time and gain nothing.
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED, allowZip64=True) as box:
        _add(box, PROJECT, text.encode(), zipfile.ZIP_DEFLATED)
        for source in doc.sources:
            if source.data is not None:
                _add(box, source_file(source), source.data, zipfile.ZIP_STORED)
                begin_writing(out)
        for item in doc.meshes:
            _add(box, mesh_file(item), to_ply(item.mesh), zipfile.ZIP_DEFLATED)


def _add(box: zipfile.ZipFile, name: str, data: bytes, how: int) -> None:
    # A fixed date: the same project gives the same bytes.
    info = zipfile.ZipInfo(name, (2026, 1, 1, 0, 0, 0))
    info.compress_type = how
    info.external_attr = 0o644 << 16
    box.writestr(info, data, compresslevel=1 if how == zipfile.ZIP_DEFLATED else None)


def load(path: Path) -> Opened:
    """Read a project. Raises ProjectError with one sentence on what is wrong and what to do."""
    name = path.name
    try:
        with path.open("rb") as file, zipfile.ZipFile(file) as box:
            return _read(box, name)
    except ProjectError:
        raise
    except FileNotFoundError as error:
        raise ProjectError(f"{name} does not exist any more.") from error
    except PermissionError as error:
        raise ProjectError(f"{name} may not be read; ask for permission or copy it.") from error
    except IsADirectoryError as error:
        raise ProjectError(f"{name} is a folder, not a Dimetron project.") from error
    except _DAMAGE as error:
        raise ProjectError(f"{name} is not a Dimetron project, or is damaged.") from error
    except MemoryError as error:
        raise ProjectError(f"{name} needs more memory than there is.") from error
    except OSError as error:
        raise ProjectError(f"{name} cannot be read: {error.strerror or error}.") from error


def _read(box: zipfile.ZipFile, name: str) -> Opened:
    members = _checked_members(box, name)
    if PROJECT not in members:
        raise ProjectError(f"{name} is not a Dimetron project: it has no {PROJECT}.")
    if members[PROJECT].file_size > MAX_JSON_BYTES:
        raise ProjectError(f"{name} is not opened: its {PROJECT} is larger than any project's.")
    tree = parsed(box.read(PROJECT), name)
    notes: list[str] = []
    pictures = _pictures(box, members, tree, notes)
    meshes = _meshes(box, members, tree, notes)
    return Opened(from_json(tree, pictures, meshes, name), tuple(notes))


def _checked_members(box: zipfile.ZipFile, name: str) -> dict[str, zipfile.ZipInfo]:
    infos = box.infolist()
    if len(infos) > MAX_MEMBERS:
        raise ProjectError(f"{name} is not opened: it holds more files than any project.")
    for info in infos:
        inner = PurePosixPath(info.filename)
        if (
            inner.is_absolute()
            or ".." in inner.parts
            or "\\" in info.filename
            or ":" in info.filename
        ):
            raise ProjectError(
                f"{name} is not opened: a file in it points outside the project. "
                "Do not trust where it came from."
            )
        large = info.file_size > RATIO_FREE_BYTES
        if large and info.file_size > MAX_RATIO * max(info.compress_size, 1):
            raise ProjectError(
                f"{name} is not opened: a file in it unpacks to an absurd size. "
                "Do not trust where it came from."
            )
    if sum(info.file_size for info in infos) > MAX_TOTAL_BYTES:
        raise ProjectError(f"{name} is not opened: it unpacks to more than 8 GB.")
    return {info.filename: info for info in infos}


def _member(box: zipfile.ZipFile, members: dict[str, zipfile.ZipInfo], file: str) -> bytes | None:
    """The bytes of a member; None if it is missing or damaged."""
    if file not in members:
        return None
    try:
        return box.read(file)
    except _DAMAGE:
        return None


def _pictures(
    box: zipfile.ZipFile,
    members: dict[str, zipfile.ZipInfo],
    tree: dict[str, Any],
    notes: list[str],
) -> dict[str, bytes]:
    found: dict[str, bytes] = {}
    for source in tree["sources"]:
        data = _member(box, members, source["file"])
        if data is None:
            notes.append(
                f"The picture “{source['name']}” is missing from the project; "
                "its drawing keeps its place. Bring the picture again."
            )
        else:
            found[source["id"]] = data
    return found


def _meshes(
    box: zipfile.ZipFile,
    members: dict[str, zipfile.ZipInfo],
    tree: dict[str, Any],
    notes: list[str],
) -> dict[str, Mesh]:
    found: dict[str, Mesh] = {}
    for item in tree["meshes"]:
        data = _member(box, members, item["file"])
        try:
            if data is None:
                raise MeshError("missing")
            found[item["id"]] = from_ply(data)
        except MeshError:
            notes.append(
                f"The mesh “{item['name']}” is missing or damaged and was left out. "
                "Save under another name to keep the file as it is."
            )
    return found

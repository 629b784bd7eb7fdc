"""The ``.dimetron`` file: a ZIP with project.json, the source pictures and the meshes.

Members are only ever read into memory; their names never become paths on disk. Reading refuses
what a hostile file might try, and says which member was missing or damaged when it can go on.
"""

from __future__ import annotations

import errno
import json
import lzma
import struct
import zipfile
import zlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path, PurePosixPath
from typing import Any, BinaryIO

from dimetron.border import border
from dimetron.document.atomic import Stamp, WriteError, begin_writing, stamp_of_open, write_whole
from dimetron.document.kind import filed, kinds
from dimetron.document.model import Document
from dimetron.document.naming import tidied
from dimetron.document.serial import (
    ProjectError,
    check,
    from_json,
    parsed,
    source_file,
    to_json,
)
from dimetron.imaging import memory
from dimetron.imaging.files import opened_file

SUFFIX = ".dimetron"
PROJECT = "project.json"

#: Refused beyond these: no project comes near them, and memory is not endless.
MAX_MEMBERS = 30_000
MAX_JSON_BYTES = 64 << 20
MAX_TOTAL_BYTES = 8 << 30
#: A member that unpacks to more than this many times its size, and is large, is a bomb.
MAX_RATIO, RATIO_FREE_BYTES = 100, 16 << 20
_DISTRUST = "Do not trust where it came from"

#: A large member that packs better than this is stored as it is, so that it is never taken for one.
_WORTH_PACKING, _SAMPLES, _SAMPLE_BYTES = 20, 16, 1 << 16

_DAMAGE = (
    *(zipfile.BadZipFile, zlib.error, lzma.LZMAError, EOFError, NotImplementedError),
    *(RuntimeError, ValueError, struct.error, OverflowError),
)


@dataclass(frozen=True, slots=True)
class Opened:
    """A document read from a file, in plain sentences what was missing, and what the file was
    like."""

    document: Document
    notes: tuple[str, ...] = ()
    stamp: Stamp | None = None


def save(
    doc: Document, path: Path, *, only_over: Stamp | None = None, over_protected: bool = False
) -> Stamp:
    """Write the project, whole or not at all; what could not be opened again is not written.

    only_over, over_protected: see ``atomic.write_whole``. Returns what the file is now. Raises
    WriteError.
    """
    refuse_unreadable(doc, path.name)
    return write_whole(
        path, lambda out: _write(doc, out), only_over=only_over, over_protected=over_protected
    )


def refuse_unreadable(doc: Document, name: str) -> None:
    """Raises WriteError if what would be written of a project could not be opened again."""
    try:
        check(doc)
    except ProjectError as error:
        raise WriteError(
            f"{name} was not saved, since it could not be opened again: {error}. Undo the "
            "last steps and save again; the file is as it was."
        ) from error
    except MemoryError as error:
        raise WriteError(f"{name} was not saved: it needs more memory than there is.") from error


def as_text(doc: Document) -> bytes:
    """What project.json says."""
    return json.dumps(to_json(doc), indent=1, ensure_ascii=False, allow_nan=False).encode()


def _write(doc: Document, out: BinaryIO) -> None:
    # Pictures are compressed already; packing them again would cost time and gain nothing.
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED, allowZip64=True) as box:
        _add(box, PROJECT, as_text(doc), zipfile.ZIP_DEFLATED)
        for source in doc.sources:
            if source.data is not None:
                _add(box, source_file(source), source.data, zipfile.ZIP_STORED)
                begin_writing(out)
        for member, item in filed(doc):
            data = member.write(member.held(item))
            packed = zipfile.ZIP_STORED if _packs_absurdly(data) else zipfile.ZIP_DEFLATED
            _add(box, member.name(item), data, packed)
        fault = _members_fault(box.infolist())
        if fault:
            raise WriteError(f"The project was not saved: {fault}. The file is as it was.")


def _packs_absurdly(data: bytes) -> bool:
    if len(data) <= RATIO_FREE_BYTES:
        return False
    step = len(data) // _SAMPLES
    parts = b"".join(data[at : at + _SAMPLE_BYTES] for at in range(0, len(data), step))
    return len(parts) > _WORTH_PACKING * len(zlib.compress(parts, 1))


def _add(box: zipfile.ZipFile, name: str, data: bytes, how: int) -> None:
    # A fixed date: the same project gives the same bytes.
    info = zipfile.ZipInfo(name, (2026, 1, 1, 0, 0, 0))
    info.compress_type = how
    info.external_attr = 0o644 << 16
    box.writestr(info, data, compresslevel=1 if how == zipfile.ZIP_DEFLATED else None)


def load(path: Path) -> Opened:
    """Read a project. Raises ProjectError with one sentence on what is wrong and what to do."""
    with border(ProjectError, path.name, "is damaged in a way nobody foresaw; open an older copy."):
        return _load(path)


def _load(path: Path) -> Opened:
    name = path.name
    try:
        with opened_file(path) as file:
            stamp = stamp_of_open(file.fileno())
            with zipfile.ZipFile(file) as box:
                return replace(_read(box, name), stamp=stamp)
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
    except OSError as error:
        if error.errno == errno.EINVAL:
            # A place in it that is none.
            raise ProjectError(f"{name} is not a Dimetron project, or is damaged.") from error
        raise ProjectError(f"{name} cannot be read: {error.strerror or error}.") from error


def _read(box: zipfile.ZipFile, name: str) -> Opened:
    infos = box.infolist()
    fault = _members_fault(infos)
    if fault:
        raise ProjectError(f"{name} is not opened: {fault}.")
    members = {info.filename: info for info in infos}
    if PROJECT not in members:
        raise ProjectError(f"{name} is not a Dimetron project: it has no {PROJECT}.")
    return assembled(box.read(PROJECT), name, lambda file: _member(box, members, file))


def assembled(text: bytes, name: str, member: Callable[[str], bytes | None]) -> Opened:
    """The document of a project.json and its other files. member: the bytes of one by its name in
    the project, None if it is missing or damaged. Raises ProjectError."""
    notes: list[str] = []
    tree = parsed(text, name, notes)
    pictures = _pictures(member, tree, notes)
    own = _own_files(member, tree, notes)
    read = from_json(tree, pictures, own, name)
    document = tidied(read)
    left_out = _marks_in(read) - _marks_in(document)
    # What hung on a mesh that is left out goes with it without a word of its own.
    if left_out or (document is not read and not notes):
        what = f"{left_out} marks or lengths of it" if left_out else "Some of it"
        notes.append(f"{name} was damaged: {what} named what is not there, and were left out.")
    return Opened(document, tuple(notes))


def _marks_in(doc: Document) -> int:
    return len(doc.sightings) + len(doc.lengths) + len(doc.drawing_lengths)


def _members_fault(infos: Sequence[zipfile.ZipInfo]) -> str:
    """Why a file with these members is not opened; empty if it is."""
    if len(infos) > MAX_MEMBERS:
        return "it holds more files than any project"
    for info in infos:
        inner = PurePosixPath(info.filename)
        if (
            inner.is_absolute()
            or ".." in inner.parts
            or "\\" in info.filename
            or ":" in info.filename
        ):
            return f"a file in it points outside the project. {_DISTRUST}"
        large = info.file_size > RATIO_FREE_BYTES
        if large and info.file_size > MAX_RATIO * max(info.compress_size, 1):
            return f"a file in it unpacks to an absurd size. {_DISTRUST}"
        if info.filename == PROJECT and info.file_size > MAX_JSON_BYTES:
            return f"its {PROJECT} is larger than any project's ({MAX_JSON_BYTES >> 20} MB)"
    total = sum(info.file_size for info in infos)
    if total > MAX_TOTAL_BYTES:
        return f"it unpacks to more than {MAX_TOTAL_BYTES >> 30} GB"
    if not memory.there_is(total):
        return f"it needs {total / 1e9:.1f} GB of memory, more than is free; close other programs"
    return ""


def _member(box: zipfile.ZipFile, members: dict[str, zipfile.ZipInfo], file: str) -> bytes | None:
    """The bytes of a member; None if it is missing or damaged."""
    if file not in members:
        return None
    try:
        return box.read(file)
    except _DAMAGE:
        return None


def _pictures(
    member: Callable[[str], bytes | None], tree: dict[str, Any], notes: list[str]
) -> dict[str, bytes]:
    found: dict[str, bytes] = {}
    for source in tree["sources"]:
        data = member(source["file"])
        if data is None:
            notes.append(
                f"The picture “{source['name']}” is missing from the project; "
                "its drawing keeps its place. Bring the picture again."
            )
        else:
            found[source["id"]] = data
    return found


def _own_files(
    member: Callable[[str], bytes | None], tree: dict[str, Any], notes: list[str]
) -> dict[str, Any]:
    """What items' own files hold, by the items' ids."""
    found: dict[str, Any] = {}
    for kind in kinds():
        for item in tree.get(kind.field, ()) if kind.member is not None else ():
            data = member(item["file"])
            try:
                if data is None:
                    raise ValueError("missing")
                assert kind.member is not None
                found[item["id"]] = kind.member.read(data)
            except ValueError:
                notes.append(
                    f"The {kind.name} “{item['name']}” is missing or damaged and was left out. "
                    "Save under another name to keep the file as it is."
                )
    return found

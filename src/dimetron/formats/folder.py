"""Several files at once, all or none: beside another, or into a folder."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from dimetron.document.atomic import WriteError, write_all
from dimetron.formats.handover import ExportError


def write_beside(files: Mapping[str, bytes], path: Path, main: str) -> list[Path]:
    """Put the files beside ``path``, which becomes the main one of them; all, or none. It is
    written last: once it is there, all that it names is there too. Returns them. Raises
    WriteError."""
    others = {path.with_name(name): data for name, data in files.items() if name != main}
    written = others | {path: files[main]}
    write_all(written)
    return list(written)


def write_folder(files: Mapping[str, bytes], folder: Path, known: str = "") -> list[Path]:
    """Put the files into a folder that is new, empty, holds ``known``, by which an earlier one of
    its kind is known, or nothing but files of these names; all of them, or none that was not there.
    ``known`` is written last. Returns them. Raises ExportError, WriteError."""
    try:
        _check(files, folder, known)
        rooms = {folder, *((folder / name).parent for name in files)}
        made = [path for path in sorted(rooms, key=lambda p: len(p.parts)) if not path.exists()]
        for path in made:
            path.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise WriteError(f"{folder}: the folder cannot be made: {error.strerror}.") from error
    names = sorted(files, key=lambda name: name == known)
    try:
        write_all({folder / name: files[name] for name in names})
    except WriteError:
        for path in reversed(made):
            if path.is_dir() and not any(path.iterdir()):
                path.rmdir()
        raise
    return [folder / name for name in names]


def _check(files: Mapping[str, bytes], folder: Path, known: str) -> None:
    if folder.exists() and not folder.is_dir():
        raise ExportError(f"{folder}: this is a file; choose a folder.")
    there = {entry.name for entry in folder.iterdir()} if folder.is_dir() else set()
    ours = {name.partition("/")[0] for name in files}
    if not there <= ours and (not known or known not in there):
        raise ExportError(f"{folder}: this folder holds other things; choose a new one.")

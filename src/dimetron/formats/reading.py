"""Mesh files from disk, in millimetres with Z up."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from dimetron.border import border
from dimetron.formats.format import Format, MeshFileError, Read, readers
from dimetron.formats.handover import UNITS, UP_AXES
from dimetron.formats.named import NamedMesh
from dimetron.imaging import memory
from dimetron.imaging.errors import PictureError
from dimetron.imaging.files import file_bytes
from dimetron.mesh.arrays import Floats, MeshError

#: What reading a file needs of memory, against its size.
_NEEDED = 12


@dataclass(frozen=True, slots=True)
class MeshFile:
    """What a file holds, in mm with Z up, and as what its numbers were taken."""

    name: str
    parts: tuple[NamedMesh, ...]
    odd: tuple[str, ...]
    unit: str
    up: str

    @property
    def size_mm(self) -> Floats:
        """(3,) extents of all of it together."""
        boxes = np.array([part.mesh.bounds for part in self.parts])
        return np.asarray(boxes[:, 1].max(axis=0) - boxes[:, 0].min(axis=0))


def is_mesh(path: Path) -> bool:
    """Whether a file's ending is that of a mesh."""
    return path.suffix.lower() in readers()


def read_meshes(path: Path, unit: str | None = None, up: str | None = None) -> MeshFile:
    """Read a mesh file. unit, up: how its numbers are meant, where not as the format's standard or
    the file itself says.

    Raises MeshFileError with one sentence that names the file.
    """
    reader = readers().get(path.suffix.lower())
    if reader is None:
        endings = ", ".join(sorted(readers()))
        raise MeshFileError(f"{path.name} is no mesh file that can be read: {endings}.")
    if unit not in (None, *UNITS) or up not in (None, *UP_AXES):
        raise MeshFileError(f"The unit is one of {', '.join(UNITS)}, the up-axis z or y.")
    read = _read(path, reader)
    as_it_says = MeshFile(path.name, read.parts, read.odd, "mm", "z")
    return taken_as(as_it_says, unit or read.unit or reader.unit, up or reader.up)


def taken_as(read: MeshFile, unit: str, up: str) -> MeshFile:
    """The same file with its numbers meant otherwise. Raises MeshFileError if it would be too
    large."""
    if (unit, up) == (read.unit, read.up):
        return read
    by = UNITS[unit] / UNITS[read.unit]
    with border(MeshFileError, read.name, "is beyond all measure: check its unit."):
        turned = (_turned(part.mesh.positions, read.up, up) for part in read.parts)
        parts = tuple(
            NamedMesh(part.name, part.mesh.with_similar(positions * by))
            for part, positions in zip(read.parts, turned, strict=True)
        )
    return MeshFile(read.name, parts, read.odd, unit, up)


def _turned(positions: Floats, was: str, up: str) -> Floats:
    """What was up along one axis and is up along another: from Y up to Z up, or back."""
    x, y, z = positions.T
    if was == up:
        return positions
    return np.stack([x, -z, y] if up == "y" else [x, z, -y], axis=1)


def _read(path: Path, reader: Format) -> Read:
    try:
        data = file_bytes(path)
    except PictureError as error:
        raise MeshFileError(str(error)) from error
    if not memory.there_is(len(data) * _NEEDED):
        raise MeshFileError(f"{path.name} needs more memory than is free; close other programs.")

    def beside(name: str) -> bytes | None:
        """Only of the same folder: a file may not name any other place."""
        name = name.removeprefix("./")
        if not name or Path(name).name != name:
            return None
        try:
            return file_bytes(path.with_name(name))
        except PictureError:
            return None

    unreadable = "is damaged and cannot be read; get the file again."
    # Numbers that are none are seen to afterwards, and need no words of NumPy's.
    with border(MeshFileError, path.name, unreadable), np.errstate(all="ignore"):
        assert reader.read is not None
        try:
            read = reader.read(data, path.stem, beside)
        except MeshFileError as error:
            raise MeshFileError(f"{path.name} {error}") from error
        except MeshError as error:
            raise MeshFileError(f"{path.name} holds no mesh: {error}") from error
    kept = tuple(part for part in read.parts if part.mesh.topology.face_count)
    if not kept:
        raise MeshFileError(f"{path.name} holds no mesh: it has no faces.")
    return replace(read, parts=kept)

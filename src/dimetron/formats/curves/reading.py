"""Curves from a file on disk, as outlines in mm with y upward."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from dimetron.border import border
from dimetron.formats.drawn import DrawnPath
from dimetron.formats.format import MeshFileError
from dimetron.imaging.errors import PictureError
from dimetron.imaging.files import file_bytes

ENDINGS = (".svg", ".dxf")
#: More curves than this would only slow the board down.
MOST = 5000


@dataclass(frozen=True, slots=True)
class CurveFile:
    """What a file holds; odd: what could not be read."""

    name: str
    paths: tuple[DrawnPath, ...]
    odd: tuple[str, ...]


def read_curves(path: Path) -> CurveFile:
    """Read a file of curves. Raises MeshFileError with one sentence that names it."""
    ending = path.suffix.lower()
    if ending not in ENDINGS:
        raise MeshFileError(f"{path.name} is no file of outlines: {', '.join(ENDINGS)}.")
    try:
        data = file_bytes(path)
    except PictureError as error:
        raise MeshFileError(str(error)) from error
    with border(MeshFileError, path.name, "is damaged and cannot be read; get the file again."):
        try:
            if ending == ".svg":
                from dimetron.formats.curves.svg import read as read_svg

                found, odd = read_svg(data)
            else:
                from dimetron.formats.curves.dxf import read as read_dxf

                found, odd = read_dxf(data)
        except MeshFileError as error:
            raise MeshFileError(f"{path.name} {error}") from error
    if not found:
        raise MeshFileError(f"{path.name} holds no curves.")
    if len(found) > MOST:
        raise MeshFileError(f"{path.name} holds {len(found)} curves; {MOST} is the most.")
    return CurveFile(path.name, tuple(found), tuple(odd))

"""OFF (Object File Format): polygons, with or without normals and colours.

Format: Geomview manual, "OFF: Object File Format" (text form).
"""

from __future__ import annotations

import numpy as np

from dimetron.formats.faces import mesh_of
from dimetron.formats.format import Beside, Carries, Format, MeshFileError, Read
from dimetron.formats.named import NamedMesh
from dimetron.formats.writing.off import write

_MOST = 200_000_000


def read(data: bytes, name: str, beside: Beside) -> Read:
    """Read it; see ``format.Reading``."""
    lines = [line for line in (raw.partition(b"#")[0].split() for raw in data.splitlines()) if line]
    if not lines or not lines[0][0].upper().endswith(b"OFF"):
        raise MeshFileError("is no OFF file: its first word is not OFF.")
    kind = lines[0][0].upper()
    if b"BINARY" in (word.upper() for word in lines[0]) or kind.startswith((b"4", b"N4")):
        raise MeshFileError("is a binary or four-dimensional OFF; save it as plain text OFF.")
    # The counts stand beside the first word or on a line of their own.
    head, at = (lines[0][1:], 1) if len(lines[0]) > 1 else (lines[1] if lines[1:] else [], 2)
    vertices, faces = _counts(head)
    if len(lines) - at < vertices + faces:
        raise MeshFileError("is cut short; get the file again.")
    positions = np.array([_three(line) for line in lines[at : at + vertices]]).reshape(-1, 3)
    odd: list[str] = []
    rows = [_face(line) for line in lines[at + vertices : at + vertices + faces]]
    sizes = np.array([len(row) for row in rows], np.int64)
    corners = np.array([v for row in rows for v in row], np.int64)
    return Read((NamedMesh(name, mesh_of(positions, sizes, corners, odd)),), tuple(odd))


FORMAT = Format(
    (".off",),
    "OFF (polygons)",
    "mm",
    "z",
    read,
    write,
    frozenset({Carries.MESHES, Carries.POLYGONS}),
    written=(("off", "OFF (polygons, meshes only)"),),
)


def _counts(words: list[bytes]) -> tuple[int, int]:
    if len(words) < 2 or not (words[0].isdigit() and words[1].isdigit()):
        raise MeshFileError("does not say how many vertices and faces it has; get it again.")
    vertices, faces = int(words[0]), int(words[1])
    if max(vertices, faces) > _MOST:
        raise MeshFileError("claims more faces than can be; get the file again.")
    return vertices, faces


def _three(words: list[bytes]) -> tuple[float, ...]:
    try:
        x, y, z = (float(word) for word in words[:3])
    except ValueError:
        return (np.nan,) * 3
    return x, y, z


def _face(words: list[bytes]) -> list[int]:
    """The vertices of a face; colours may follow them. Of what cannot be read, one that names
    none."""
    try:
        size = int(words[0])
        found = [int(word) for word in words[1 : 1 + size]]
    except ValueError:
        return [-1, -1, -1]
    return found if len(found) == size and size >= 0 else [-1, -1, -1]

"""STL, binary and text: triangles, joined where their corners stand at the same place.

Format: StereoLithography Interface Specification (3D Systems, 1988).
"""

from __future__ import annotations

import re

import numpy as np

from dimetron.formats.faces import joined_corners, mesh_of, numbers_of
from dimetron.formats.format import Beside, Format, MeshFileError, Read
from dimetron.formats.named import NamedMesh
from dimetron.formats.writing.triangles import write
from dimetron.mesh.arrays import Floats
from dimetron.mesh.mesh import Mesh

_HEAD = 84
_TRIANGLE = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("more", "<u2")])
_VERTEX = re.compile(rb"^[ \t]*vertex[ \t]+(.*)$", re.MULTILINE | re.IGNORECASE)
_SOLID = re.compile(rb"^[ \t]*solid\b[ \t]*(.*?)[ \t\r]*$", re.MULTILINE | re.IGNORECASE)


def read(data: bytes, name: str, beside: Beside) -> Read:
    """The solids of a file; a binary one holds one."""
    odd: list[str] = []
    if _is_text(data):
        return Read(_solids(data, name, odd), tuple(odd))
    if len(data) < _HEAD:
        raise MeshFileError("is cut short; get the file again.")
    count = int(np.frombuffer(data, "<u4", 1, 80)[0])
    there = (len(data) - _HEAD) // _TRIANGLE.itemsize
    if count > there:
        raise MeshFileError(f"is cut short: {there} of {count} triangles are there; get it again.")
    if len(data) - _HEAD > count * _TRIANGLE.itemsize:
        odd.append("what stands after its last triangle was left out")
    corners = np.frombuffer(data, _TRIANGLE, count, _HEAD)["corners"].reshape(-1, 3)
    return Read((NamedMesh(name, _joined(corners.astype(np.float64), odd)),), tuple(odd))


FORMAT = Format(
    (".stl",),
    "STL (triangles)",
    "mm",
    "z",
    read,
    write,
    written=(("stl", "STL (triangles, meshes only)"),),
)


def _is_text(data: bytes) -> bool:
    """Binary files may begin with the word, too; but only their length fits their count."""
    if data.lstrip()[:5].lower() != b"solid":
        return False
    if len(data) < _HEAD:
        return True
    count = int(np.frombuffer(data, "<u4", 1, 80)[0])
    return len(data) != _HEAD + count * _TRIANGLE.itemsize


def _solids(data: bytes, name: str, odd: list[str]) -> tuple[NamedMesh, ...]:
    if b"endsolid" not in data[-4096:].lower():
        raise MeshFileError("is cut short: its last solid has no end; get the file again.")
    begins = list(_SOLID.finditer(data))
    ends = [match.start() for match in begins[1:]] + [len(data)]
    return tuple(
        NamedMesh(_name(match.group(1)) or name, _text_mesh(data[match.end() : end], odd))
        for match, end in zip(begins, ends, strict=True)
    )


def _name(given: bytes) -> str:
    return given.decode("utf-8", "replace").strip()


def _text_mesh(text: bytes, odd: list[str]) -> Mesh:
    rows = _VERTEX.findall(text)
    points = numbers_of(b" ".join(rows), 3 * len(rows))
    if points is None:
        points = np.concatenate([_row(row) for row in rows])
    if len(rows) % 3:
        raise MeshFileError("is cut short: a triangle of it lacks corners; get the file again.")
    return _joined(points.reshape(-1, 3), odd)


def _row(row: bytes) -> Floats:
    numbers = numbers_of(row, 3)
    return np.full(3, np.nan) if numbers is None else numbers


def _joined(corners: Floats, odd: list[str]) -> Mesh:
    points, vertex = joined_corners(corners)
    return mesh_of(points, np.full(len(corners) // 3, 3), vertex, odd)

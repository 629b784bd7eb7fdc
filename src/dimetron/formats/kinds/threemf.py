"""3MF: the objects that its build list names, with their components; triangles.

Format: 3MF Core Specification 1.3 (3MF Consortium; ISO/IEC 25422).
"""

from __future__ import annotations

import io
import zipfile
from typing import Any

import numpy as np
from defusedxml import ElementTree

from dimetron.formats.faces import mesh_of
from dimetron.formats.format import Beside, Carries, Format, MeshFileError, Read
from dimetron.formats.named import NamedMesh
from dimetron.formats.writing.threemf import write
from dimetron.mesh.arrays import Floats
from dimetron.mesh.mesh import Mesh

_UNITS = {"millimeter": "mm", "centimeter": "cm", "meter": "m", "inch": "in", "foot": "ft"}
_DEEPEST = 32
_MOST_BYTES, _MOST_RATIO = 2 << 30, 200
_FLAT = np.eye(4, 3)


def read(data: bytes, name: str, beside: Beside) -> Read:
    """Read it; see ``format.Reading``."""
    root = ElementTree.fromstring(_model(data), forbid_dtd=True)
    unit = root.get("unit", "millimeter")
    objects = {o.get("id"): o for o in root.iter() if _tag(o) == "object"}
    odd: list[str] = []
    if unit not in _UNITS and unit != "micron":
        odd.append(f"its unit “{unit}” is not known, and taken as mm")
    parts: list[NamedMesh] = []
    for item in root.iter():
        if _tag(item) == "item":
            found = objects.get(item.get("objectid"))
            if found is None:
                odd.append("an item of its build list names an object that does not exist")
            else:
                _put(found, objects, _matrix(item), name, parts, odd, 0)
    if unit == "micron":
        parts = [NamedMesh(p.name, p.mesh.with_positions(p.mesh.positions / 1000)) for p in parts]
    return Read(tuple(parts), tuple(odd), _UNITS.get(unit, "mm"))


FORMAT = Format(
    (".3mf",),
    "3MF (triangles)",
    "mm",
    "z",
    read,
    write,
    frozenset({Carries.MESHES, Carries.COLOURS}),
    written=(("3mf", "3MF (triangles, meshes only)"),),
    says_unit=True,
)


def _tag(element: Any) -> str:
    return str(element.tag).rpartition("}")[2]


def _model(data: bytes) -> bytes:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as box:
            models = [i for i in box.infolist() if i.filename.lower().endswith(".model")]
            if not models:
                raise MeshFileError("is no 3MF file: it holds no model.")
            # The one of the package's own folder, if there are several.
            first = min(models, key=lambda i: (i.filename.count("/"), i.filename))
            large = first.file_size > _MOST_RATIO * max(first.compress_size, 1)
            if first.file_size > _MOST_BYTES or (large and first.file_size > 64 << 20):
                raise MeshFileError("unpacks to an absurd size; do not trust where it came from.")
            return box.read(first)
    except zipfile.BadZipFile as error:
        raise MeshFileError("is no 3MF file, or is cut short.") from error


def _matrix(element: Any) -> Floats:
    """(4, 3): points as rows times it."""
    words = (element.get("transform") or "").split()
    if not words:
        return _FLAT
    numbers = np.array([float(word) for word in words])
    if numbers.size != 12 or not np.isfinite(numbers).all():
        raise MeshFileError("has a transform that is no matrix; get the file again.")
    return numbers.reshape(4, 3)


def _put(
    element: Any,
    objects: dict[str | None, Any],
    matrix: Floats,
    name: str,
    parts: list[NamedMesh],
    odd: list[str],
    depth: int,
) -> None:
    """The object's mesh, and its components' where they stand in it."""
    if depth > _DEEPEST:
        raise MeshFileError("has objects that are made of themselves; get the file again.")
    for child in element:
        if _tag(child) == "mesh":
            title = element.get("name") or f"{name} {element.get('id')}"
            parts.append(NamedMesh(title, _mesh(child, matrix, odd)))
        elif _tag(child) == "components":
            for part in child:
                found = objects.get(part.get("objectid"))
                if found is None:
                    odd.append("a component names an object that does not exist")
                    continue
                own = _matrix(part)
                both = own @ matrix[:3] + np.concatenate([np.zeros((3, 3)), matrix[3:]])
                _put(found, objects, both, name, parts, odd, depth + 1)


def _mesh(element: Any, matrix: Floats, odd: list[str]) -> Mesh:
    points = [
        [_number(v.get(axis)) for axis in "xyz"] for v in element.iter() if _tag(v) == "vertex"
    ]
    faces = [
        [_index(t.get(corner)) for corner in ("v1", "v2", "v3")]
        for t in element.iter()
        if _tag(t) == "triangle"
    ]
    at = np.array(points, np.float64).reshape(-1, 3) @ matrix[:3] + matrix[3]
    corners = np.array(faces, np.int64).reshape(-1, 3)
    # What mirrors turns its faces over.
    corners = corners[:, ::-1] if np.linalg.det(matrix[:3]) < 0 else corners
    return mesh_of(at, np.full(len(corners), 3), corners.ravel(), odd)


def _number(text: str | None) -> float:
    try:
        return float(text or "")
    except ValueError:
        return float("nan")


def _index(text: str | None) -> int:
    return int(text) if text is not None and text.isdigit() and len(text) < 12 else -1

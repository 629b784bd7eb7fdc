"""``dimetron mesh``: meshes read, changed and written by a script."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import Any

from dimetron import console
from dimetron.document import edits
from dimetron.document.model import Document
from dimetron.formats.export import export
from dimetron.formats.named import NamedMesh
from dimetron.formats.ply import joined
from dimetron.formats.reading.files import read_meshes
from dimetron.formats.reading.reader import standard
from dimetron.mesh import whole
from dimetron.mesh.edit import turned_over
from dimetron.mesh.health import health
from dimetron.mesh.mesh import Mesh

Operation = Callable[[Mesh], Mesh]


class MeshFault(ValueError):
    """What was asked for has no meaning; the message says what to do."""


def run(given: argparse.Namespace) -> int:
    """Read, change, write, and tell the health of the result. Raises MeshFault, MeshError,
    MeshFileError, ExportError and WriteError."""
    operations = [_operation(text) for text in given.do]
    parts = [part for path in given.input for part in read_meshes(path).parts]
    for operation in operations:
        parts = [NamedMesh(part.name, operation(part.mesh)) for part in parts]
    if not any(part.mesh.topology.face_count for part in parts):
        raise MeshFault("Nothing is left of the meshes; nothing was written.")
    unit, up = standard(given.out)
    export(_document(parts), given.out, unit=given.unit or unit, up=given.up or up)
    told = asdict(health(joined([part.mesh for part in parts])))
    if given.json:
        console.say_json(told)
    else:
        console.say(_in_words(given.out, told))
    return 0


def _document(parts: list[NamedMesh]) -> Document:
    doc = Document()
    for part in parts:
        doc, _ = edits.with_mesh(doc, part.mesh, part.name)
    return doc


def _operation(text: str) -> Operation:
    name, _, value = text.partition("=")
    made = _OPERATIONS.get(name)
    if made is None:
        raise MeshFault(f"“{name}” is no operation; there is {', '.join(_OPERATIONS)}.")
    return made(name, value)


def _plain(operation: Operation) -> Callable[[str, str], Operation]:
    """One that takes no value."""

    def made(name: str, value: str) -> Operation:
        if value:
            raise MeshFault(f"“{name}” takes no value; leave “={value}” out.")
        return operation

    return made


def _weld(name: str, value: str) -> Operation:
    try:
        within = float(value)
    except ValueError as error:
        raise MeshFault(f"“{name}” needs a distance in mm, such as {name}=0.01.") from error
    return lambda mesh: whole.welded(mesh, within)


def _mirror(name: str, value: str) -> Operation:
    if value not in ("x", "y", "z"):
        raise MeshFault(f"“{name}” needs an axis: {name}=x, {name}=y or {name}=z.")
    return lambda mesh: whole.mirrored(mesh, "xyz".index(value))


_OPERATIONS: dict[str, Callable[[str, str], Operation]] = {
    "weld": _weld,
    "triangulate": _plain(whole.of_triangles),
    "mirror": _mirror,
    "flip": _plain(turned_over),
}
_SEVERAL = {
    "open_edges": "open edges",
    "nonmanifold_edges": "edges of three or more faces",
    "doubled_vertices": "doubled vertices",
    "doubled_faces": "doubled faces",
    "zero_area_faces": "faces without area",
    "flipped_faces": "faces the wrong way round",
    "ngons": "faces of more than four corners",
    "loose_vertices": "loose vertices",
}


def _in_words(out: Path, told: dict[str, Any]) -> str:
    closed = "closed" if told["closed"] else "open"
    lines = [
        f"{out.name}: {told['vertices']} vertices, {told['faces']} faces, {told['shells']} shells, "
        f"{closed}; {told['area_mm2']:g} mm², {told['volume_mm3']:g} mm³"
    ]
    lines += [f"  {told[key]} {words}" for key, words in _SEVERAL.items() if told[key]]
    return "\n".join(lines)

"""Files of either kind into a project: pictures as sheets, meshes as meshes."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from dimetron.document import edits
from dimetron.document.model import Document, source_from
from dimetron.formats.reading import MeshFile, is_mesh, read_meshes
from dimetron.imaging.files import file_bytes
from dimetron.imaging.read import probe


def with_file(
    doc: Document, path: Path, unit: str | None = None, up: str | None = None
) -> tuple[Document, dict[str, list[dict[str, Any]]]]:
    """The project with what one file holds, and what that is, for a script to read. unit, up: how
    a mesh file is meant.

    Raises MeshFileError and PictureError with one sentence that names the file.
    """
    if is_mesh(path):
        read = read_meshes(path, unit, up)
        return with_meshes(doc, read), {"meshes": _meshes_told(read)}
    data = file_bytes(path)
    info = probe(data, path.name)
    source = source_from(data, path.name, info.extension, info.size_px, info.mm_per_px)
    doc, _ = edits.with_sheet(doc, source)
    return doc, {"sheets": [{"file": path.name, "size_px": list(info.size_px)}]}


def with_meshes(doc: Document, read: MeshFile) -> Document:
    """The project with every mesh of a file."""
    for part in read.parts:
        doc, _ = edits.with_mesh(doc, part.mesh, part.name)
    return doc


def with_files(
    doc: Document, paths: Sequence[Path], unit: str | None = None, up: str | None = None
) -> tuple[Document, dict[str, list[dict[str, Any]]]]:
    """``with_file`` of all of them, in order; if one cannot be taken, none is."""
    told: dict[str, list[dict[str, Any]]] = {"meshes": [], "sheets": []}
    for path in paths:
        doc, more = with_file(doc, path, unit, up)
        for kind, entries in more.items():
            told[kind] += entries
    return doc, told


def _meshes_told(read: MeshFile) -> list[dict[str, Any]]:
    """What was odd stands with the first mesh of the file."""
    return [
        {
            "name": part.name,
            "vertices": len(part.mesh.positions),
            "faces": part.mesh.topology.face_count,
            "size_mm": [round(float(n), 6) for n in np.diff(part.mesh.bounds, axis=0)[0]],
            "odd": [] if number else list(read.odd),
        }
        for number, part in enumerate(read.parts)
    ]

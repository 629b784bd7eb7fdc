"""Exporting a project to a file in an open format, whole or not at all."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

from dimetron.document.model import Document
from dimetron.document.outline import outlines_of
from dimetron.formats.folder import write_beside
from dimetron.formats.format import Carries, writers
from dimetron.formats.handover import ExportError, Wanted, handover


def _of_meshes() -> list[str]:
    """The endings that meshes can be written with."""
    return [ending for ending, found in writers().items() if Carries.MESHES in found.carries]


def export(doc: Document, path: Path, **asked: Any) -> list[Path]:
    """Write ``path`` and the files that belong to it; returns all of them, the main one last.
    asked: fields of ``Wanted``.

    Raises ExportError if it has no meaning, WriteError if a file cannot be written.
    """
    kind = path.suffix.lower().removeprefix(".")
    files = exported_files(doc, path.stem, kind, Wanted(**asked))
    return write_beside(files, path, f"{path.stem}.{kind}")


def exported_files(doc: Document, stem: str, kind: str, wanted: Wanted) -> dict[str, bytes]:
    """The files of an export by their names, the main one among them: ``stem`` with the ending
    ``kind``. Raises ExportError, MeshError."""
    found = writers().get(kind)
    if found is None or found.write is None:
        raise ExportError(f"{stem}.{kind}: choose a name ending in .{', .'.join(writers())}.")
    if found.carries == {Carries.OUTLINES}:
        wanted = _only_lines(doc, stem, kind, wanted)
    given = handover(doc, wanted)
    if given.planes and Carries.PLANES not in found.carries:
        raise ExportError(f"{kind.upper()} cannot carry drawings; export OBJ or GLB for them.")
    if given.outlines and Carries.OUTLINES not in found.carries:
        raise ExportError(f"{kind.upper()} cannot carry outlines; export SVG or DXF for them.")
    return found.write(given, stem, kind)


def _only_lines(doc: Document, stem: str, kind: str, wanted: Wanted) -> Wanted:
    """Of what is wanted that which a format of outlines can carry: those, if nothing is."""
    what = tuple(one for one in wanted.what if one in ("outlines", "lines")) or ("outlines",)
    traced = any(doc.visible(item) for item in outlines_of(doc))
    if what == ("outlines",) and not traced:
        raise ExportError(
            f"{stem}.{kind}: {kind.upper()} carries outlines, and this project has none; "
            f"export {', '.join(e.upper() for e in _of_meshes())}."
        )
    return replace(wanted, what=what)

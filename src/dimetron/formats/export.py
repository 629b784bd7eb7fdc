"""Exporting a project to a file in an open format, whole or not at all."""

from __future__ import annotations

from pathlib import Path

from dimetron.document.atomic import write_all
from dimetron.document.model import Document
from dimetron.document.outline import outlines_of
from dimetron.formats.format import Carries, writers
from dimetron.formats.handover import ExportError, handover


def _of_meshes() -> list[str]:
    """The endings that meshes can be written with."""
    return [ending for ending, found in writers().items() if Carries.MESHES in found.carries]


def export(
    doc: Document,
    path: Path,
    *,
    what: tuple[str, ...] = ("meshes",),
    unit: str = "mm",
    up: str = "z",
) -> list[Path]:
    """Write ``path`` and the files that belong to it; returns all of them, the main one last.

    Raises ExportError if it has no meaning, WriteError if a file cannot be written.
    """
    kind = path.suffix.lower().removeprefix(".")
    found = writers().get(kind)
    if found is None or found.write is None:
        raise ExportError(f"{path.name}: choose a name ending in .{', .'.join(writers())}.")
    if found.carries == {Carries.OUTLINES}:
        if not any(doc.visible(item) for item in outlines_of(doc)):
            raise ExportError(
                f"{path.name}: {kind.upper()} carries outlines, and this project has none; "
                f"export {', '.join(e.upper() for e in _of_meshes())}."
            )
        what = ("outlines",)
    given = handover(doc, what=what, unit=unit, up=up)
    if given.planes and Carries.PLANES not in found.carries:
        raise ExportError(f"{kind.upper()} cannot carry drawings; export OBJ or GLB for them.")
    files = found.write(given, path.stem, kind)
    main = files.pop(path.stem + f".{kind}")
    # The main file comes last: once it is there, all that it names is there too.
    written = {path.with_name(name): data for name, data in files.items()} | {path: main}
    write_all(written)
    return list(written)

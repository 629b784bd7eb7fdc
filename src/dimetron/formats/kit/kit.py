"""Everything another program needs, put into a folder."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

from dimetron import __version__
from dimetron.document.fitting import fits
from dimetron.document.model import Document
from dimetron.document.outline import outlines_of
from dimetron.document.reporting import in_lines, report_told
from dimetron.formats.export import exported_files
from dimetron.formats.folder import write_folder
from dimetron.formats.handover import ExportError, Wanted, without_hidden_drawings
from dimetron.formats.kit.placed import as_csv, placed
from dimetron.formats.kit.table import TABLE
from dimetron.formats.kit.words import readme
from dimetron.formats.report.pages import report_pdf

#: What is written of each kind, with the unit and up-axis that the format's standard asks for.
_MESHES = (("glb", "m", "y"), ("obj", "mm", "z"))
_OUTLINES = (("svg", "mm", "z"), ("dxf", "mm", "z"))
_SAID = {
    "meshes.glb": "the meshes",
    "meshes.obj": "the meshes, polygons kept",
    "planes.glb": "the drawings as textured planes at their places",
    "planes.obj": "the same, with planes.mtl and its pictures",
    "outlines.svg": "the outlines, a group for each view",
    "outlines.dxf": "the outlines, a layer for each view",
    "drawings/": "the drawings as pictures of true size",
    "placement.csv": "where each stands, as a table",
    TABLE: "the same for a script",
    "report.pdf": "how far the meshes miss the drawings, with a page for each",
    "report.txt": "the same in words: how far the meshes miss the drawings, sizes, health, notes",
    "report.json": "the same for a script",
}


def kit_of(
    doc: Document,
    title: str,
    progress: Callable[[float], None] = lambda share: None,
) -> dict[str, bytes]:
    """The files of a kit by their names. Raises ExportError, PictureError, MeshError."""
    drawings = placed(doc)
    shown = [item for item in doc.meshes if doc.visible(item) and item.mesh.topology.face_count]
    if not drawings and not shown:
        raise ExportError("There is nothing to hand on yet; place a drawing, or add a mesh.")
    files: dict[str, bytes] = {}
    if shown:
        files |= _written(doc, "meshes", _MESHES)
    progress(0.3)
    if drawings:
        files |= _written(doc, "planes", _MESHES)
    if any(doc.visible(item) for item in outlines_of(doc)):
        files |= _written(doc, "outlines", _OUTLINES)
    progress(0.6)
    rows = [one.row for one in drawings]
    files |= {f"drawings/{one.file}": one.data for one in drawings}
    files["placement.csv"] = as_csv(rows)
    told: dict[str, Any] = {"written_by": f"Dimetron {__version__}", "unit": "mm", "up": "z"}
    files[TABLE] = _json({**told, "drawings": rows})
    compared = fits(doc, inner=True) if shown and drawings else ()
    report = report_told(doc, compared)
    files["report.json"] = _json(report)
    files["report.pdf"] = report_pdf(doc, title, compared, report)
    lines = [title, "", *in_lines(report), *report["problems"]]
    files["report.txt"] = ("\n".join(lines) + "\n").encode("utf-8", "replace")
    there = {name.partition("/")[0] + ("/" if "/" in name else "") for name in files}
    known = [(name, words) for name, words in _SAID.items() if name in there]
    files["README.txt"] = readme(title, known, rows)
    progress(1.0)
    return files


def _written(doc: Document, what: str, how: tuple[tuple[str, str, str], ...]) -> dict[str, bytes]:
    files: dict[str, bytes] = {}
    shown = frozenset(item.id for item in doc.meshes if doc.visible(item))
    for ending, unit, up in how:
        wanted = Wanted((what,), unit, up, shown)
        files |= exported_files(without_hidden_drawings(doc), what, ending, wanted)
    return files


def _json(told: Any) -> bytes:
    return (json.dumps(told, indent=1, ensure_ascii=False, allow_nan=False) + "\n").encode(
        "utf-8", "backslashreplace"
    )


def write_kit(files: dict[str, bytes], folder: Path) -> None:
    """Put the files into a folder that is new, empty, or holds an earlier kit. Raises ExportError,
    WriteError."""
    write_folder(files, folder, TABLE)

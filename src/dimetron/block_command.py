"""``dimetron block``: a solid from the outlines of a project's drawings, for a script."""

from __future__ import annotations

import argparse
from typing import Any

from dimetron import console
from dimetron.document import edits
from dimetron.document.blocking import blocked, fit_of_block, outlined
from dimetron.document.container import load, save
from dimetron.document.fitting import Fit
from dimetron.document.model import Document
from dimetron.formats.export import export
from dimetron.formats.format import standard
from dimetron.mesh.health import health

WHAT = ("hull", "quads")
_NAME = "block"


def run(given: argparse.Namespace) -> int:
    """Block out and write. Raises OutlineError, MeshError, ExportError, and what reading and
    writing raise."""
    opened = load(given.project)
    for note in opened.notes:
        console.note(f"{given.project.name}: {note}")
    doc = opened.document
    console.progress("Reading the outlines of the drawings…")
    outlines = outlined(doc)
    console.progress("Making the solid…")
    mesh = blocked(outlines, given.what == "quads")
    fits = fit_of_block(mesh, outlines)
    with_block, _ = edits.with_mesh(doc, mesh, _NAME)
    if given.out.suffix.lower() == ".dimetron":
        save(with_block, given.out)
    else:
        alone, _ = edits.with_mesh(Document(), mesh, _NAME)
        unit, up = standard(given.out)
        export(alone, given.out, unit=unit, up=up)
    told: dict[str, Any] = {
        "faces": mesh.topology.face_count,
        "volume_mm3": round(health(mesh).volume_mm3 or 0.0, 3),
        "views": [_told(one) for one in fits],
    }
    if given.json:
        console.say_json(told)
        return 0
    console.say(f"{told['faces']} faces, {told['volume_mm3'] / 1000:.1f} cm³")
    for one in fits:
        assert one.miss is not None
        miss = one.miss
        console.say(f"{one.drawing.name}: {miss.mean:.2f} mm off, at most {miss.largest:.2f}")
    return 0


def _told(one: Fit) -> dict[str, Any]:
    assert one.miss is not None
    return {
        "view": one.drawing.view.key,
        "drawing": one.drawing.name,
        "mean_mm": round(one.miss.mean, 4),
        "max_mm": round(one.miss.largest, 4),
    }

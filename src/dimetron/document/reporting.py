"""What is to be said of a project's fit, as plain values: for scripts, kits and reports."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

from dimetron.document.checks import Places, said_of, sized
from dimetron.document.fitting import Fit, counts
from dimetron.document.model import Document
from dimetron.mesh.health import health


def view_told(one: Fit) -> dict[str, Any]:
    """The figures of a drawing that was compared."""
    assert one.miss is not None and one.at is not None
    miss, areas = one.miss, one.miss.areas
    return {
        "view": one.drawing.view.key,
        "drawing": one.drawing.name,
        "mean_mm": round(miss.mean, 4),
        "p95_mm": round(miss.p95, 4),
        "max_mm": round(miss.largest, 4),
        "at_mm": one.at.round(4).tolist(),
        "over_mm2": round(areas.over, 3),
        "under_mm2": round(areas.short, 3),
        "overlap": round(areas.common, 6),
    }


def fit_told(doc: Document, fits: Sequence[Fit]) -> dict[str, Any]:
    """The figures of each drawing that could be compared, the health of each mesh that counts, and
    what could not be told."""
    shown = [item for item in doc.meshes if counts(doc, item)]
    return {
        "views": [view_told(one) for one in fits if one.miss is not None],
        "meshes": [{"name": item.name, **asdict(health(item.mesh))} for item in shown],
        "problems": [one.problem for one in fits if one.problem],
    }


def checks_told(doc: Document, landmarks: Places) -> dict[str, Any]:
    """The sizes that are checked, and the notes."""
    sizes = []
    for check in doc.sizes:
        now = sized(doc, check, landmarks)
        sizes.append(
            {
                "name": check.name,
                "of": said_of(doc, check),
                "wanted_mm": check.mm,
                "tolerance_mm": check.tolerance_mm,
                "is_mm": None if now.mm is None else round(now.mm, 4),
                "holds": now.holds(check),
            }
        )
    notes = [{"text": n.text, "view": n.view or "all", "at_mm": list(n.at)} for n in doc.notes]
    return {"sizes": sizes, "notes": notes}


def in_lines(told: dict[str, Any]) -> list[str]:
    """What is told, a line each."""
    lines = [
        f"{view['drawing']}: {view['mean_mm']:.2f} mm off on average, at most "
        f"{view['max_mm']:.2f}; {view['overlap']:.1%} common"
        for view in told["views"]
    ]
    for mesh in told["meshes"]:
        sound = "closed" if mesh["closed"] else f"{mesh['open_edges']} open edges"
        lines.append(f"{mesh['name']}: {mesh['faces']} faces, {sound}")
    for size in told.get("sizes", ()):
        holds = "holds" if size["holds"] else "does not hold"
        now = "gone" if size["is_mm"] is None else f"{size['is_mm']:.2f} mm"
        lines.append(f"{size['name']}: {now}, wanted {size['wanted_mm']:g} mm: {holds}")
    lines += [f"Note: {note['text']}" for note in told.get("notes", ())]
    return lines

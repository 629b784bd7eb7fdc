"""What is to be said of a project's fit, as plain values: for scripts, kits and reports."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

import numpy as np

from dimetron.counting import counted
from dimetron.document.checks import Places, said_of, sized
from dimetron.document.fitting import Fit, counts
from dimetron.document.landmarked import landmark_places
from dimetron.document.model import Document
from dimetron.document.registering import problem_of
from dimetron.mesh.health import health
from dimetron.registration.problem import RegistrationError
from dimetron.registration.solve import Solution, solve
from dimetron.registration.suspects import suspects


def view_told(one: Fit) -> dict[str, Any]:
    """The figures of a drawing that was compared."""
    assert one.miss is not None and one.at is not None
    miss, areas, inner = one.miss, one.miss.areas, one.inner
    told = {
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
    if inner is not None:
        told["inner_mean_mm"], told["inner_max_mm"] = round(inner.mean, 4), round(inner.largest, 4)
    return told


def fit_told(doc: Document, fits: Sequence[Fit]) -> dict[str, Any]:
    """The figures of each drawing that could be compared, the health of each mesh that counts, and
    what could not be told."""
    shown = [item for item in doc.meshes if counts(doc, item)]
    return {
        "views": [view_told(one) for one in fits if one.miss is not None],
        "meshes": [{"name": item.name, **asdict(health(item.mesh))} for item in shown],
        "problems": [one.problem for one in fits if one.problem],
    }


def report_told(doc: Document, fits: Sequence[Fit]) -> dict[str, Any]:
    """All that a report says: fit, sizes and notes, and how well the drawings agree."""
    solution = _solved(doc)
    return {
        **fit_told(doc, fits),
        **checks_told(doc, landmark_places(doc, solution)),
        **registered_told(doc, solution),
    }


def _solved(doc: Document) -> Solution | None:
    """What the marks of a project say; None if there are none, or they say nothing."""
    try:
        return solve(problem_of(doc)) if doc.sightings else None
    except RegistrationError:
        return None


def registered_told(doc: Document, solution: Solution | None) -> dict[str, Any]:
    """By how much the marks of landmarks miss, of all drawings and of each, and which are odd."""
    if solution is None:
        return {"mismatch": None}
    rows = []
    for drawing in doc.planes:
        marks = zip(solution.problem.sightings, solution.off_mm, strict=True)
        off = np.array([off for mark, off in marks if mark.picture == drawing.id])
        if len(off):
            rms = float(np.sqrt(np.mean(off**2)))
            rows.append({"drawing": drawing.name, "marks": len(off), "rms_mm": round(rms, 4)})
    return {
        "mismatch": {
            "rms_mm": round(solution.rms_mm, 4),
            "drawings": rows,
            "suspects": [suspect.words for suspect in suspects(solution)],
        }
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


def mismatch_lines(told: dict[str, Any]) -> list[str]:
    """How well the drawings agree, a line each; none if nothing is marked."""
    found = told.get("mismatch")
    if not found:
        return []
    lines = [f"All drawings: marks miss by {found['rms_mm']:.2f} mm (root mean square)"]
    lines += [
        f"{row['drawing']}: {counted(row['marks'], 'mark misses', 'marks miss')} by "
        f"{row['rms_mm']:.2f} mm"
        for row in found["drawings"]
    ]
    return [*lines, *found["suspects"]]


def inner_words(view: dict[str, Any]) -> str:
    """Of the lines within an outline, where they were compared."""
    if "inner_mean_mm" not in view:
        return ""
    mean, most = view["inner_mean_mm"], view["inner_max_mm"]
    return f"; inner lines {mean:.2f} mm off, at most {most:.2f}"


def in_lines(told: dict[str, Any]) -> list[str]:
    """What is told, a line each."""
    lines = [
        f"{view['drawing']}: {view['mean_mm']:.2f} mm off on average, at most "
        f"{view['max_mm']:.2f}; {view['overlap']:.1%} common{inner_words(view)}"
        for view in told["views"]
    ]
    for mesh in told["meshes"]:
        sound = "closed" if mesh["closed"] else f"{mesh['open_edges']} open edges"
        lines.append(f"{mesh['name']}: {mesh['faces']} faces, {sound}")
    for size in told.get("sizes", ()):
        holds = "holds" if size["holds"] else "does not hold"
        now = "gone" if size["is_mm"] is None else f"{size['is_mm']:.2f} mm"
        lines.append(f"{size['name']}: {now}, wanted {size['wanted_mm']:g} mm: {holds}")
    lines += mismatch_lines(told)
    lines += [f"Note: {note['text']}" for note in told.get("notes", ())]
    return lines

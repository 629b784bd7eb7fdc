"""The rows of the ledger's tables: landmarks, known lengths, drawings. Pure functions."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from dimetron.app.ledger.table import Row
from dimetron.document import registering
from dimetron.document.model import Document
from dimetron.geometry.units import format_length
from dimetron.geometry.views import AXIS_NAMES
from dimetron.registration.problem import Landmark, Length, PictureLength

if TYPE_CHECKING:
    from dimetron.document.history import History
    from dimetron.registration.solve import Solution

LANDMARKS = ("landmark", "X", "Y", "Z", "±", "marked in", "mismatch")
LENGTHS = ("from", "to", "along", "known", "±", "comes out", "off by")
DRAWINGS = ("drawing", "trust", "stays", "scaled apart", "turned", "marks", "mismatch")
STEPS = ("step", "what was done")
_NONE = "–"
#: Where the greatest miss is less than this, in mm (or as a share of a length), bars stay short.
_LEAST = 0.01
#: Instead of how exactly a length is known: as lengths usually are; or it does not count.
USUAL, CHECK = "usual", "only a check"


def step_rows(history: History) -> list[Row]:
    """The steps done so far, the last one first; those that were undone stand above the current
    one."""
    found = []
    for number, step in enumerate(history.steps):
        words = step.label or "as it was opened"
        if number > history.at:
            words += "  (undone)"
        found.append(Row(str(number), (str(number), words)))
    return found[::-1]


def landmark_rows(doc: Document, solution: Solution | None) -> list[Row]:
    worst = _worst(solution)
    most = max(worst.values(), default=0.0)
    return [_landmark_row(doc, m, solution, worst.get(m.name), most) for m in doc.landmarks]


def _landmark_row(
    doc: Document, landmark: Landmark, solution: Solution | None, miss: float | None, most: float
) -> Row:
    at = solution.points.get(landmark.name) if solution else None
    by = solution.sigmas.get(landmark.name) if solution else None
    texts = [landmark.name]
    for axis in range(3):
        fixed = landmark.fixed[axis]
        value = fixed if at is None else at[axis]
        held = "" if fixed is None else " *"
        texts.append(_NONE if value is None else format_length(value, doc.unit) + held)
    known = [v for v in by or () if v is not None]
    texts.append(format_length(float(np.linalg.norm(known)), doc.unit) if known else _NONE)
    ids = [m.picture for m in doc.sightings if m.landmark == landmark.name]
    there = [d.view.title.lower() for d in doc.planes if d.id in ids]
    texts.append(", ".join(there) or "nowhere yet")
    texts.append(_NONE if miss is None else format_length(miss, doc.unit))
    return Row(landmark.name, tuple(texts), _share(miss, most))


def _share(miss: float | None, most: float) -> float:
    return 0.0 if miss is None else min(1.0, abs(miss) / max(most, _LEAST))


def _worst(solution: Solution | None) -> dict[str, float]:
    """The largest mismatch of each landmark's marks, in mm."""
    found: dict[str, float] = {}
    if solution is not None:
        for mark, off in zip(solution.problem.sightings, solution.off_mm, strict=True):
            found[mark.landmark] = max(found.get(mark.landmark, 0.0), float(off))
    return found


def every_length(doc: Document) -> tuple[Length | PictureLength, ...]:
    """All known lengths in the order of their rows."""
    return (*doc.lengths, *doc.drawing_lengths)


def length_rows(doc: Document, solution: Solution | None) -> list[Row]:
    offs = [_length_off(solution, length) for length in every_length(doc)]
    shares = [
        abs(off) / length.mm if off is not None else 0.0
        for off, length in zip(offs, every_length(doc), strict=True)
    ]
    most = max(shares, default=0.0)
    return [
        _length_row(doc, number, length, off, _share(share, most))
        for number, (length, off, share) in enumerate(
            zip(every_length(doc), offs, shares, strict=True)
        )
    ]


def _length_row(
    doc: Document, number: int, length: Length | PictureLength, off: float | None, share: float
) -> Row:
    if isinstance(length, Length):
        along = "straight" if length.axis is None else AXIS_NAMES[length.axis]
        ends = length.a, length.b, along
    else:
        ends = "two points", f"in {doc.drawing(length.picture).name}", "straight"
    tolerance = length.tolerance_mm
    exactly = USUAL if tolerance is None else format_length(tolerance, doc.unit)
    texts = (
        *ends,
        format_length(length.mm, doc.unit),
        CHECK if not length.counts else exactly,
        _NONE if off is None else format_length(length.mm + off, doc.unit),
        _NONE if off is None else format_length(off, doc.unit),
    )
    return Row(str(number), texts, share)


def _length_off(solution: Solution | None, length: Length | PictureLength) -> float | None:
    """By how much a known length comes out longer, in mm."""
    if solution is None:
        return None
    if isinstance(length, PictureLength):
        pose = solution.poses.get(length.picture)
        if pose is None:
            return None
        ends = pose.to_plane(np.array([length.a_px, length.b_px]))
        return float(np.hypot(*(ends[1] - ends[0]))) - length.mm
    found = solution.problem.lengths
    if length in found:
        return float(solution.length_off_mm[found.index(length)])
    p, q = solution.points.get(length.a), solution.points.get(length.b)
    axes = range(3) if length.axis is None else (length.axis,)
    ways = [(p[k], q[k]) for k in axes] if p and q else []
    if not ways or any(a is None or b is None for a, b in ways):
        return None
    apart = [b - a for a, b in ways if a is not None and b is not None]
    return float(np.linalg.norm(apart)) - length.mm


def drawing_rows(doc: Document, solution: Solution | None) -> list[Row]:
    missed: dict[str, list[float]] = {}
    if solution is not None:
        for mark, off in zip(solution.problem.sightings, solution.off_mm, strict=True):
            missed.setdefault(mark.picture, []).append(float(off))
    rms = {id_: float(np.sqrt(np.mean(np.square(v)))) for id_, v in missed.items()}
    most = max(rms.values(), default=0.0)
    rows = []
    for drawing in doc.planes:
        pose = solution.poses.get(drawing.id) if solution is not None else None
        count = sum(m.picture == drawing.id for m in doc.sightings)
        miss = rms.get(drawing.id)
        texts = (
            drawing.name,
            f"{registering.trust_of(doc, drawing.id):g}",
            "yes" if drawing.id in doc.pinned else "no",
            "no" if drawing.aspect_locked else "yes",
            _NONE if pose is None else f"{pose.rotation_deg:.2f}°",
            str(count),
            _NONE if miss is None else format_length(miss, doc.unit),
        )
        rows.append(Row(drawing.id, texts, _share(miss, most)))
    return rows

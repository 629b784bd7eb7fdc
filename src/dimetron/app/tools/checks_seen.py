"""Checks, ties and notes as marks over the panes."""

from __future__ import annotations

import numpy as np

from dimetron.document.checks import Places, sized, ties_of
from dimetron.document.model import Document
from dimetron.geometry.units import format_length
from dimetron.render.overlays import Label, Marks, Overlay, Strokes


def size_marks(doc: Document, landmarks: Places) -> list[Overlay]:
    """Each check between its ends: as it is, and whether it holds."""
    marks: list[Overlay] = []
    for check in doc.sizes:
        now = sized(doc, check, landmarks)
        if now.mm is None or now.ends is None:
            continue
        holds = now.holds(check)
        role = "accent" if holds else "warning"
        wanted = "holds" if holds else f"wanted {format_length(check.mm, doc.unit)}"
        words = f"{format_length(now.mm, doc.unit)}, {wanted}"
        marks.append(Strokes(now.ends, role, 1.4, dash=0.0 if holds else 5.0))
        marks.append(Marks(now.ends, "dot", role, 6.0))
        marks.append(Label(now.ends.mean(axis=0), words, role))
    return marks


def tie_marks(doc: Document, landmarks: Places) -> list[Overlay]:
    """Tied vertices, each with a line to where its landmark lies."""
    marks: list[Overlay] = []
    for _, name, place in ties_of(doc):
        to = landmarks.get(name)
        marks.append(Marks(place[None], "square", "accent", 7.0))
        if to is None:
            marks.append(Label(place, name, "accent"))
            continue
        off = float(np.linalg.norm(to - place))
        marks.append(Strokes(np.stack([place, to]), "warning", 1.6))
        marks.append(Marks(to[None], "cross", "accent"))
        marks.append(Label(place, f"{name}: {format_length(off, doc.unit)} off", "accent"))
    return marks


def note_marks(doc: Document) -> list[Overlay]:
    """Notes where they are pinned."""
    marks: list[Overlay] = []
    for note in doc.notes:
        view = doc.view_by_key(note.view) if note.view else None
        at = np.array(note.at)
        marks.append(Marks(at[None], "square", "soft_ink", 6.0, only=view))
        marks.append(Label(at, note.text, "soft_ink", (9.0, 4.0), only=view))
    return marks

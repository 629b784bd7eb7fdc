"""A project's outlines and its meshes' lines as a file holds them: on layers for each view, in the
file's unit."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.document.model import Document
from dimetron.document.outline import outlines_of, whole_paths
from dimetron.formats.drawn import DrawnPath
from dimetron.geometry.views import AnyView, View
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.seen_lines import Together, seen_lines
from dimetron.outlines.path import MOST_POINTS, mapped, path_of

#: Views whose lines are wanted where no drawing says which.
_USUAL = (View.FRONT, View.RIGHT, View.TOP)


def line_paths(
    doc: Document, meshes: Sequence[Mesh], mm: float, view: str = ""
) -> tuple[DrawnPath, ...]:
    """What is seen of meshes together in a view by its key, or in each view that has a drawing:
    right and up in units of ``mm`` millimetres."""
    found = []
    together = Together(meshes)
    for seen in views_of(doc, view):
        for line in seen_lines(together, seen):
            plane = seen.to_plane(line) / mm
            for at in range(0, len(plane) - 1, MOST_POINTS - 1):
                run = plane[at : at + MOST_POINTS]
                ring = len(line) == len(run) > 3 and bool(np.allclose(run[0], run[-1], atol=0))
                path = path_of(run[:-1] if ring else run, closed=ring)
                found.append(DrawnPath("", path, f"{seen.title} mesh"))
    return tuple(found)


def views_of(doc: Document, key: str = "") -> tuple[AnyView, ...]:
    """The view with a key; without one those that drawings stand in, or else the usual ones."""
    if key:
        found = doc.view_by_key(key)
        return () if found is None else (found,)
    return tuple(dict.fromkeys(d.view for d in doc.planes if doc.visible(d))) or _USUAL


def drawn_paths(doc: Document, mm: float, view: str = "") -> tuple[DrawnPath, ...]:
    """Whole outlines, as seen in their views, or in the one with a key: right and up in units of
    ``mm`` millimetres."""
    scale = np.eye(2) / mm
    return tuple(
        DrawnPath(item.name, mapped(path, scale), item.view.title)
        for item in outlines_of(doc)
        if doc.visible(item) and view in ("", item.view.key)
        for path in whole_paths(item)
    )

"""Size references: things of known size to stand beside the object. Pure functions."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from dimetron.document.edits import free_name
from dimetron.document.model import Document, new_id
from dimetron.document.parts import Reference, ReferenceKind
from dimetron.geometry.views import Triple, Vector
from dimetron.mesh.arrays import Floats, MeshError, box_corners
from dimetron.mesh.lofts import figure, figure_outlines, figure_rings
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.primitives import box

#: Sizes to begin with: width, depth, height.
FIRST_SIZE: dict[ReferenceKind, Triple] = {
    ReferenceKind.BOX: (200.0, 200.0, 200.0),
    ReferenceKind.FIGURE: (560.0, 240.0, 1700.0),
    ReferenceKind.RULER: (300.0, 20.0, 4.0),
}
#: Width and depth of the figure as shares of its height.
_FIGURE_SHARES = (0.36, 0.14)
_MOST_TICKS = 60


def with_reference(
    doc: Document, gauge: ReferenceKind, at: Triple = (0.0, 0.0, 0.0)
) -> tuple[Document, str]:
    """Add a size reference, standing on a point; returns the document and its id."""
    names = {
        ReferenceKind.BOX: "size box",
        ReferenceKind.FIGURE: "figure",
        ReferenceKind.RULER: "ruler",
    }
    item = Reference(new_id(), free_name(doc, names[gauge]), gauge, FIRST_SIZE[gauge], at)
    return replace(doc, references=(*doc.references, item)), item.id


def resized(item: Reference, axis: int, mm: float) -> Reference:
    """Give a reference a size along an axis; a figure keeps its proportions.

    Raises MeshError unless it is more than zero.
    """
    if not np.isfinite(mm) or mm <= 0:
        raise MeshError("The size must be more than zero.")
    if item.gauge is ReferenceKind.FIGURE:
        height = mm if axis == 2 else mm / _FIGURE_SHARES[axis]
        wide, deep = (share * height for share in _FIGURE_SHARES)
        return replace(item, size=(wide, deep, height))
    size = list(item.size)
    size[axis] = mm
    return replace(item, size=(size[0], size[1], size[2]))


def reference_box(item: Reference) -> Floats:
    """(2, 3) world bounds."""
    w, d, h = item.size
    half = np.array([w / 2, d / 2, 0.0])
    at = np.array(item.at)
    return np.stack([at - half, at + half + [0, 0, h]])


def reference_mesh(item: Reference) -> Mesh:
    """The reference as a mesh, for an export that asks for it."""
    if item.gauge is ReferenceKind.FIGURE:
        body = figure(item.size[2])
        return body.with_positions(body.positions + np.array(item.at))
    return box(*reference_box(item))


def reference_lines(item: Reference, forward: Vector | None) -> list[Floats]:
    """Polylines (n, 3) to draw it with: for a view along ``forward``, or all of them for None."""
    if item.gauge is ReferenceKind.FIGURE:
        return _figure_lines(item, forward)
    edges = _box_edges(reference_box(item))
    return [*edges, *_ticks(item)] if item.gauge is ReferenceKind.RULER else edges


def _figure_lines(item: Reference, forward: Vector | None) -> list[Floats]:
    height, at = item.size[2], np.array(item.at)
    facing = None if forward is None else int(np.argmax(np.abs(forward)))
    lines: list[Floats] = []
    if facing in (None, 1):
        lines += figure_outlines(height, side=False)
    if facing in (None, 0):
        lines += figure_outlines(height, side=True)
    if facing in (None, 2):
        lines += figure_rings(height)
    return [line + at for line in lines]


def _box_edges(ends: Floats) -> list[Floats]:
    corners = box_corners(ends)
    pairs = [(i, i | 1 << axis) for i in range(8) for axis in range(3) if not i & 1 << axis]
    return [corners[list(pair)] for pair in pairs]


def tick_mm(length: float) -> float:
    """Spacing of a ruler's ticks: 1, 2 or 5 times a power of ten, at most sixty of them."""
    least = length / _MOST_TICKS
    power = 10.0 ** np.floor(np.log10(least))
    return float(next(power * step for step in (1, 2, 5, 10) if power * step >= least))


def _ticks(item: Reference) -> list[Floats]:
    """Strokes across the ruler, from both of its broad sides, every tenth the whole width."""
    ends = reference_box(item)
    along = int(np.argmax(item.size))
    across = max((a for a in range(3) if a != along), key=lambda a: item.size[a])
    step = tick_mm(item.size[along])
    lines = []
    for number in range(1, int(item.size[along] / step + 1e-9) + 1):
        share = 1.0 if number % 10 == 0 else 0.55 if number % 5 == 0 else 0.3
        line = np.stack([ends[0], ends[0]])
        line[:, along] = ends[0, along] + number * step
        line[1, across] = ends[0, across] + share * item.size[across]
        lines.append(line)
    return lines

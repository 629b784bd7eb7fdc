"""Faces that are hidden on the board: not drawn, not picked and not selected. Everything else is
done to them as to the others."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.arrays import Ints, Mask, freeze
from dimetron.mesh.layers import HIDDEN, Layer, On
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.select import Kind, Selection, valid


def hidden_values(mesh: Mesh) -> object:
    """What tells whether other faces are hidden than before: the same object as long as not."""
    layer = _layer(mesh)
    return None if layer is None else layer.values


def hidden_faces(mesh: Mesh) -> Mask | None:
    """(f,) which faces are hidden; None if none is."""
    layer = _layer(mesh)
    if layer is None:
        return None
    found = layer.values > 0
    return np.asarray(found) if found.any() else None


def _layer(mesh: Mesh) -> Layer | None:
    """None as well where a file has something else under that name."""
    layer = mesh.layers.get(HIDDEN)
    return layer if layer is not None and layer.on is On.FACE and layer.values.ndim == 1 else None


def hidden_parts(mesh: Mesh, kind: Kind) -> Mask | None:
    """Which parts of a kind are hidden: faces, and edges and vertices at hidden faces only. None if
    none is."""
    faces = hidden_faces(mesh)
    if faces is None or kind is Kind.WHOLE:
        return None
    if kind is Kind.FACE:
        return faces
    t = mesh.topology
    of, count = (t.corner_edge, len(t.edges)) if kind is Kind.EDGE else (t.corners, t.vertex_count)
    hidden, shown = np.zeros(count, bool), np.zeros(count, bool)
    gone = faces[t.corner_face]
    hidden[of[gone]] = True
    shown[of[~gone]] = True
    return np.asarray(hidden & ~shown)


def with_hidden(mesh: Mesh, faces: Mask) -> Mesh:
    """Just these faces (f,) hidden."""
    return mesh.with_layer(HIDDEN, Layer(On.FACE, faces.astype(np.uint8)))


def selectable(mesh: Mesh, selection: Selection) -> Selection:
    """The selection without what the mesh does not have, or what is hidden of it."""
    kept = valid(mesh, selection)
    hidden = hidden_parts(mesh, kept.kind)
    if hidden is None or not hidden[kept.indices].any():
        return kept
    return Selection(kept.kind, kept.indices[~hidden[kept.indices]])


def drawn_triangles(mesh: Mesh) -> Ints:
    """(t, 3) as they are drawn: hidden ones shrink to a point."""
    faces = hidden_faces(mesh)
    if faces is None:
        return mesh.triangles
    drawn = np.where(faces[mesh.topology.triangle_faces][:, None], 0, mesh.triangles)
    freeze(drawn)
    return drawn


def drawn_edges(mesh: Mesh) -> Ints:
    """(e, 2) as they are drawn: hidden ones shrink to a point."""
    edges = hidden_parts(mesh, Kind.EDGE)
    if edges is None:
        return mesh.topology.edges
    return np.where(edges[:, None], 0, mesh.topology.edges)

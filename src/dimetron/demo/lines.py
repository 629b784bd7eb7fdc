"""Line drawings of solids: silhouettes and sharp edges with hidden lines removed.

Edges are tested point by point against a depth picture of the solid (image-space hidden-line
removal; see Appel's "quantitative invisibility", 1967, for the exact relative).
"""

from __future__ import annotations

import numpy as np
from scipy import ndimage

from dimetron.geometry.views import View
from dimetron.mesh.arrays import Floats, Ints, Mask
from dimetron.mesh.mesh import Mesh

#: Depth picture resolution, mm; and how far behind it a line still counts as on the surface.
_CELL_MM = 0.7
_TOLERANCE_MM = 1.4
#: Edges that bend by more than this are drawn.
_SHARP_DEG = 28.0
_SAMPLE_MM = 0.4


def visible_lines(mesh: Mesh, view: View) -> list[Floats]:
    """Visible line runs (k, 2) in view-plane millimetres. ``mesh`` must be closed triangles."""
    edges, faces = _edges_with_faces(mesh)
    normals = mesh.face_normals
    facing = normals @ view.directions.forward < 0
    bend = np.einsum("ij,ij->i", normals[faces[:, 0]], normals[faces[:, 1]])
    sharp = bend < np.cos(np.radians(_SHARP_DEG))
    outline = facing[faces[:, 0]] != facing[faces[:, 1]]
    drawn = (sharp & (facing[faces[:, 0]] | facing[faces[:, 1]])) | outline
    return _seen_runs(mesh, view, edges[drawn], facing)


def _edges_with_faces(mesh: Mesh) -> tuple[Ints, Ints]:
    """Edges (e, 2) that have exactly two faces, and those faces (e, 2)."""
    topology = mesh.topology
    order = np.argsort(topology.corner_edge, kind="stable")
    two = topology.edge_face_count == 2
    first = np.concatenate([[0], np.cumsum(topology.edge_face_count)[:-1]])[two]
    corner_face = topology.corner_face[order]
    return topology.edges[two], np.stack([corner_face[first], corner_face[first + 1]], axis=1)


def _seen_runs(mesh: Mesh, view: View, edges: Ints, facing: Mask) -> list[Floats]:
    plane = view.to_plane(mesh.positions)
    depth = mesh.positions @ view.directions.forward
    low = plane.min(axis=0) - 4 * _CELL_MM
    picture = _depth_picture(mesh, plane, depth, low, facing)
    # The farthest of the cells around: at an outline the line itself must not hide behind its own
    # surface.
    around = ndimage.maximum_filter(picture, size=3)

    a, b = edges[:, 0], edges[:, 1]
    counts = np.ceil(np.linalg.norm(plane[b] - plane[a], axis=1) / _SAMPLE_MM).astype(int) + 1
    runs: list[Floats] = []
    for i in np.flatnonzero(counts > 1):
        t = np.linspace(0, 1, counts[i] + 1)[:, None]
        points = plane[a[i]] * (1 - t) + plane[b[i]] * t
        depths = depth[a[i]] * (1 - t[:, 0]) + depth[b[i]] * t[:, 0]
        column, row = np.floor((points - low) / _CELL_MM).astype(int).T
        seen = depths <= around[row, column] + _TOLERANCE_MM
        if seen.all():
            runs.append(points[[0, -1]])
            continue
        labels, count = ndimage.label(seen)
        spans = ndimage.find_objects(labels, count)
        runs += [points[[s[0].start, s[0].stop - 1]] for s in spans if s[0].stop - s[0].start > 1]
    return runs


def hatching(mesh: Mesh, view: View, spacing_mm: float) -> list[Floats]:
    """Slanted pencil strokes (2, 2) in view-plane mm over what a light from the upper left leaves
    dark."""
    plane = view.to_plane(mesh.positions)
    depth = mesh.positions @ view.directions.forward
    low = plane.min(axis=0) - 4 * _CELL_MM
    facing = mesh.face_normals @ view.directions.forward < 0
    picture = _depth_picture(mesh, plane, depth, low, facing)
    solid = np.isfinite(picture)
    # Empty cells within the solid come from sampling; the far side of the outline must not tilt it.
    filled = ndimage.gaussian_filter(np.where(solid, picture, depth.max()), 2.0)
    up, right = np.gradient(filled, _CELL_MM)
    light = (right * 0.55 - up * 0.5 + 0.75) / np.sqrt(1 + right**2 + up**2)
    dark = ndimage.binary_erosion(solid, iterations=3) & (light < 0.55)
    return _slanted(dark, low, spacing_mm)


def _slanted(dark: Mask, low: Floats, spacing_mm: float) -> list[Floats]:
    """Runs at 45 degrees through the cells that are set."""
    rows, columns = dark.shape
    step = max(1, round(spacing_mm * np.sqrt(2) / _CELL_MM))
    strokes: list[Floats] = []
    for start in range(1 - rows, columns, step):
        row = np.arange(max(0, -start), min(rows, columns - start))
        labels, count = ndimage.label(dark[row, row + start])
        for span in ndimage.find_objects(labels, count):
            a, b = row[span[0].start], row[span[0].stop - 1]
            if b - a > 4:
                cells = np.array([[a + start, a], [b + start, b]], dtype=np.float64)
                strokes.append(low + (cells + 0.5) * _CELL_MM)
    return strokes


def _depth_picture(mesh: Mesh, plane: Floats, depth: Floats, low: Floats, facing: Mask) -> Floats:
    """(rows, columns) nearest depth in each cell; rows run upwards."""
    size = np.ceil((plane.max(axis=0) - low) / _CELL_MM).astype(int) + 6
    nearest = np.full(int(size[0] * size[1]), np.inf)
    triangles = mesh.triangles[facing[mesh.topology.triangle_faces]]
    corners = plane[triangles]
    longest = np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2).max(axis=1)
    # Triangles are sampled on lattices fine enough for their longest side, grouped by fineness.
    steps = np.ceil(longest / (0.7 * _CELL_MM)).astype(int).clip(1)
    for n in np.unique(steps):
        group = triangles[steps == n]
        i, j = np.meshgrid(np.arange(n + 1), np.arange(n + 1), indexing="ij")
        keep = i + j <= n
        weights = np.stack([i[keep], j[keep], n - i[keep] - j[keep]], axis=1) / n
        for part in np.array_split(group, max(1, len(group) * len(weights) // 2_000_000)):
            across, up = (weights @ plane[part, axis].T for axis in (0, 1))
            points = np.stack([across.ravel(), up.ravel()], axis=1)
            depths = (weights @ depth[part].T).ravel()
            column, row = np.floor((points - low) / _CELL_MM).astype(int).T
            np.minimum.at(nearest, row * size[0] + column, depths)
    return nearest.reshape(size[1], size[0])

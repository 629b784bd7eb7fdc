"""The outline of what is modelled, as a view shows it, and where in space it runs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.spatial import cKDTree

from dimetron.geometry.segments import nearest_on
from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.seen_outline import chains_of, contour, joined

#: Edges are found by places that are this share of the extent apart.
_FINE = 1000


@dataclass(frozen=True, eq=False)
class Modelled:
    """loops: closed polygons (n, 2) in the view's plane; none where nothing is seen. edges (k, 2):
    of which vertices the outline may consist, of the meshes one after the other; positions (n, 3):
    of those; plane (n, 2): where they are seen."""

    view: AnyView
    loops: tuple[Floats, ...]
    edges: Ints
    positions: Floats
    plane: Floats

    @cached_property
    def _marks(self) -> tuple[cKDTree, Ints]:
        """Places along all edges, near enough to each other to find the nearest edge by."""
        a, b = self.plane[self.edges].swapaxes(0, 1)
        long = np.hypot(*(b - a).T)
        step = max(float(np.ptp(self.plane, axis=0).max()) / _FINE, 1e-9)
        counts = np.ceil(long / step).astype(np.intp) + 1
        which = np.repeat(np.arange(len(counts)), counts)
        first = np.repeat(np.cumsum(counts) - counts, counts)
        share = (np.arange(len(which)) - first) / np.maximum(counts - 1, 1)[which]
        return cKDTree(a[which] + (b - a)[which] * share[:, None]), which

    def nearest_edges(self, places: Floats) -> tuple[Ints, Floats]:
        """(m,) of ``edges`` that are seen nearest to places (m, 2) of the plane, and (m,) how far
        along each of them."""
        tree, which = self._marks
        edge = which[tree.query(places)[1]]
        a, b = self.plane[self.edges[edge]].swapaxes(0, 1)
        return edge, nearest_on(places, a, b)[0]

    def in_space(self, places: Floats) -> Floats:
        """(m, 3) where in space the outline has places (m, 2) of the plane."""
        edge, share = self.nearest_edges(places)
        a, b = self.positions[self.edges[edge]].swapaxes(0, 1)
        depth = (a + (b - a) * share[:, None]) @ self.view.directions.forward
        return np.asarray(
            self.view.to_world(places) + depth[:, None] * self.view.directions.forward
        )


def modelled(meshes: Sequence[Mesh], view: AnyView) -> Modelled:
    """The outline of meshes seen together."""
    chains, edges, planes, first = [], [np.zeros((0, 2), np.intp)], [np.zeros((0, 2))], 0
    for mesh in meshes:
        plane = view.to_plane(mesh.positions)
        ends = contour(mesh, view)
        chains += [plane[chain] for chain in chains_of(ends)]
        edges.append(first + ends)
        planes.append(plane)
        first += len(plane)
    positions = [np.zeros((0, 3)), *(mesh.positions for mesh in meshes)]
    return Modelled(
        view,
        joined(chains),
        np.concatenate(edges),
        np.concatenate(positions),
        np.concatenate(planes),
    )

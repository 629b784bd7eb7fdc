"""The outline of what is modelled, as a view shows it, and where in space it runs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.geometry.segments import nearest_on
from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.seen_outline import chains_of, contour, joined

#: So many places at a time are looked up among all edges.
_AT_A_TIME = 256


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

    def nearest_edges(self, places: Floats) -> tuple[Ints, Floats]:
        """(m,) of ``edges`` that are seen nearest to places (m, 2) of the plane, and (m,) how far
        along each of them."""
        a, b = self.plane[self.edges].swapaxes(0, 1)
        found, shares = np.zeros(len(places), np.intp), np.zeros(len(places))
        for start in range(0, len(places), _AT_A_TIME):
            at = places[start : start + _AT_A_TIME]
            share, off = nearest_on(at[:, None], a[None], b[None])
            best = off.argmin(axis=1)
            found[start : start + len(at)] = best
            shares[start : start + len(at)] = share[np.arange(len(at)), best]
        return found, shares

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
        ends = contour(mesh, plane)
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

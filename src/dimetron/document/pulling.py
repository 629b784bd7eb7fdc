"""Meshes of a project pulled to its drawings."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.document.fitting import counts, seen
from dimetron.document.following import followed
from dimetron.document.model import Document, Drawing, MeshObject, with_item
from dimetron.document.registering import trust_of
from dimetron.fit.miss import Drawn
from dimetron.fit.pull import Part, Wanted, pulled, unturned
from dimetron.mesh.arrays import Floats, MeshError
from dimetron.mesh.layers import MASK
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.select import Kind, Selection, vertices_of


@dataclass(frozen=True, eq=False)
class Pull:
    """What is to be pulled: meshes by their items, those that are seen with them, and what is
    drawn."""

    items: tuple[MeshObject, ...]
    parts: tuple[Part, ...]
    others: tuple[Mesh, ...]
    wanted: tuple[Wanted, ...]

    def run(self, progress: Callable[[float], None]) -> Pulled:
        """Raises MeshError."""
        places = pulled(self.parts, self.others, self.wanted, progress)
        far = min(
            unturned(item.mesh, place) for item, place in zip(self.items, places, strict=True)
        )
        return Pulled(self.items, places, far)


@dataclass(frozen=True, eq=False)
class Pulled:
    """Where the vertices of meshes go, and how far of that way no face turns over."""

    items: tuple[MeshObject, ...]
    places: tuple[Floats, ...]
    far: float

    def put_into(self, doc: Document, share: float) -> Document:
        """The project with the meshes so far of the way. Raises LookupError if one is gone."""
        for item, places in zip(self.items, self.places, strict=True):
            before = item.mesh.positions
            moved = before + min(share, self.far) * (places - before)
            now = doc.mesh(item.id)
            if now.mesh is not item.mesh:
                raise LookupError(item.id)
            every = np.arange(len(moved), dtype=np.int32)
            doc = with_item(doc, item.id, mesh=item.mesh.with_moved(every, moved))
        return doc


def pull_of(
    doc: Document,
    chosen: Sequence[str],
    part: Selection,
    drawn: Sequence[tuple[Drawing, Drawn]],
) -> Pull:
    """Pull the chosen meshes, or the part that is selected of one; all of them if none is. Raises
    MeshError if there are none, or no drawing to pull them to."""
    modelled = [item for item in doc.meshes if counts(doc, item)]
    mine = [item for item in modelled if item.id in chosen] or modelled
    items = tuple(item for item in mine if doc.free(item))
    if not items:
        raise MeshError("There is no mesh to pull; show one that is not held.")
    if not drawn:
        raise MeshError("There is nothing to pull to; place a drawing that encloses something.")
    selected = part if len(chosen) == 1 and part.kind is not Kind.WHOLE else None
    ids = [d.id for d, _ in drawn]
    parts = tuple(_part(item, selected, ids) for item in items)
    others = tuple(seen(item) for item in modelled if item not in items)
    wanted = tuple(Wanted(d.view, one, trust_of(doc, d.id)) for d, one in drawn)
    return Pull(items, parts, others, wanted)


def _part(item: MeshObject, selected: Selection | None, drawings: Sequence[str]) -> Part:
    smooth = item.smooth
    levels = 0 if smooth.shown == "cage" else smooth.view
    free = np.ones(len(item.mesh.positions))
    if MASK in item.mesh.layers:
        free -= item.mesh.layers[MASK].values.astype(np.float64)
    if selected is not None and len(selected.indices):
        kept = vertices_of(item.mesh, selected.kind, selected.indices)
        only = np.zeros(len(free))
        only[kept] = 1.0
        free *= only
    return Part(item.mesh, levels, free, item.even, followed(item.mesh, drawings))

"""What the panes are to show: what is chosen, or everything again when it changed its size."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from dimetron.app.work.session import Session
from dimetron.document.aligning import box_of
from dimetron.document.edits import bounds
from dimetron.document.kind import only
from dimetron.document.model import Document
from dimetron.geometry.camera import OrthoCamera
from dimetron.mesh.arrays import Floats, box_corners
from dimetron.mesh.select import vertices_of
from dimetron.render.scene import space_box

#: What shrinks to less than this share of what it was is looked at anew.
_SMALL = 0.45
#: Pixels that may be cut off; and the share of a pane that what was only moved may leave it by: a
#: hand that slides something sees where it goes.
_CUT, _MOVED_CUT = 3.0, 0.25
#: Sizes that differ by less are the same.
_SAME = 0.02


class Whole:
    """Remembers how large everything was. A person who had all of it in sight is to have it so
    again; who was looking at a part of it is not disturbed."""

    def __init__(self) -> None:
        self._box: Floats | None = None
        self._ids: frozenset[str] = frozenset()
        self._sizes: list[float] = []

    def lost(self, doc: Document, cameras: Iterable[OrthoCamera]) -> bool:
        """Whether all of the document before was in sight in flat panes, and that of this one is
        not, or has become small in them."""
        before, known, had = self._box, self._ids, self._sizes
        box, sizes = self._box, self._sizes = bounds(doc), _sizes(doc)
        ids = self._ids = frozenset(item.id for item in doc.items)
        seen = list(cameras)
        if before is None or box is None or box is before or not seen:
            return False
        if not all(_sees(camera, before) for camera in seen):
            return False
        size, was = (float(np.ptp(b, axis=0).max()) for b in (box, before))
        alike = ids == known and len(sizes) == len(had)
        moved = alike and np.allclose(sizes, had, rtol=_SAME)
        if not all(_sees(camera, box, _MOVED_CUT if moved else 0.0) for camera in seen):
            return True
        return ids == known and size < _SMALL * was


def _sizes(doc: Document) -> list[float]:
    """How large drawings and meshes are, each by itself."""
    drawings = [d.placement.mm_per_px for d in doc.planes]
    return drawings + [float(np.ptp(m.mesh.bounds, axis=0).max()) for m in doc.meshes]


def _sees(camera: OrthoCamera, box: Floats, share: float = 0.0) -> bool:
    """Whether all of a box (2, 3) lies in a pane, or leaves it by no more than a share of it."""
    px = camera.project(box_corners(box))
    size = np.array(camera.size)
    cut = _CUT + share * size
    return bool((px >= -cut).all() and (px <= size + cut).all())


def chosen_boxes(session: Session) -> tuple[Floats, Floats | None] | None:
    """The boxes (2, 3) of the selected part of a mesh, or of what is chosen, for flat panes and for
    the 3D pane; None if nothing is."""
    doc, mesh = session.document, session.chosen_mesh
    if mesh is not None and len(session.selected):
        vertices = vertices_of(mesh.mesh, session.kind, session.selected)
        points = mesh.mesh.positions[vertices]
        box = np.stack([points.min(axis=0), points.max(axis=0)])
        return box, box
    around = box_of(doc, session.chosen)
    return None if around is None else (around, space_box(only(doc, session.chosen)))

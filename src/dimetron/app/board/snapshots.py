"""Taking a pane's view of the meshes as a drawing of its own."""

from __future__ import annotations

import io
from dataclasses import replace

from dimetron.app.board.widget import Board
from dimetron.app.tools.slots import SPACE
from dimetron.app.work.session import Session
from dimetron.document import edits, placing
from dimetron.document.model import Document, new_id, source_from, with_item
from dimetron.geometry import auxiliary
from dimetron.geometry.camera import OrbitCamera, OrthoCamera
from dimetron.geometry.views import AnyView, Auxiliary, Directions
from dimetron.render.taken import NothingToTake, Taken


def take(session: Session, board: Board, how: Taken) -> None:
    """From the pane under the pointer, else from the 3D pane; a perspective one is taken
    parallel."""
    rects = board.rects()
    slot = board.pointed_slot if board.pointed_slot in rects else None
    slot = slot or (SPACE if SPACE in rects else next(iter(rects)))
    camera = board.camera(slot)
    doc, view = _viewed(session.committed, camera)
    try:
        taken = board.snapshot(view, how)
    except NothingToTake as error:
        session.warn(str(error))
        return
    store = io.BytesIO()
    taken.picture.save(store, "PNG")
    mm_per_px = taken.placement.mm_per_px
    name = f"{view.title.lower()} {how.value}"
    source = source_from(store.getvalue(), f"{name}.png", "png", taken.picture.size, mm_per_px)
    doc, id_ = edits.with_drawing(doc, source, view)
    stood = doc.drawing(id_).placement.stand_off_mm
    placement = replace(taken.placement, stand_off_mm=stood)
    # Behind the meshes it shows, also where it lies on an inclined plane.
    doc = with_item(doc, id_, placement=placement, stand_auto=True)
    session.commit(doc, f"Take a snapshot: {name}")
    session.choose((id_,))
    session.tell(f"Took “{name}”; its card lies in the tray.")


def _viewed(doc: Document, camera: OrbitCamera | OrthoCamera) -> tuple[Document, AnyView]:
    """The view of a pane, as one that a drawing can lie on."""
    if isinstance(camera, OrthoCamera):
        return doc, camera.view
    right, up, forward = camera.axes
    directions = Directions(right, up, forward)
    alike = auxiliary.principal_like(directions)
    if alike is not None:
        return doc, alike
    known = next(
        (a for a in doc.auxiliaries if auxiliary.looks_like(a.directions, directions)), None
    )
    if known is not None:
        return doc, known
    name = placing.free_view_name(doc, "snapshot view")
    view: Auxiliary = auxiliary.along(new_id(), name, camera.axes, camera.target)
    return placing.with_auxiliary(doc, view), view

"""Edits of the window's commands on what is chosen."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from dimetron.app.session import Session
from dimetron.document import edits, preparing
from dimetron.document.model import Sheet, with_item
from dimetron.geometry.units import Unit
from dimetron.mesh import edit, select
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind

FADE_STEP = 0.15


def delete(session: Session) -> None:
    """Delete the selected faces of the chosen mesh, else what is chosen."""
    item = session.chosen_mesh
    if item is not None and session.kind is Kind.FACE and len(session.selected):
        mesh = edit.without_faces(item.mesh, session.selected)
        session.commit(with_item(session.committed, item.id, mesh=mesh), "Delete faces")
        return
    if item is not None and session.kind is not Kind.WHOLE and len(session.selected):
        session.warn("Only faces or whole meshes can be deleted; select faces first.")
        return
    doc = session.committed
    held = [i for i in session.chosen if getattr(doc.item(i), "held", False)]
    if held:
        session.warn("What is held is not deleted; let go of it on its card first.")
        return
    for id_ in session.chosen:
        doc = edits.without_item(doc, id_)
    session.commit(doc, "Delete")


def set_flag(session: Session, field: str) -> None:
    """Show or hide, hold or let go of what is chosen."""
    doc = session.committed
    items = [i for i in (doc.item(id_) for id_ in session.chosen) if i is not None]
    if not items:
        return
    value = not all(getattr(i, field) for i in items)
    for item in items:
        doc = with_item(doc, item.id, **{field: value})
    words = {"shown": ("Show", "Hide"), "held": ("Hold", "Let go of")}[field]
    what = items[0].name if len(items) == 1 else f"{len(items)} items"
    session.commit(doc, f"{words[0] if value else words[1]} {what}")


def hold_all_drawings(session: Session) -> None:
    """Hold every drawing, or let go of all if all are held."""
    doc = session.committed
    value = not all(d.held for d in doc.drawings)
    held = tuple(replace(d, held=value) for d in doc.drawings)
    label = "Hold all drawings" if value else "Let go of all drawings"
    session.commit(replace(doc, drawings=held), label)


def show_everything(session: Session) -> None:
    doc = session.committed
    session.commit(
        replace(
            doc,
            drawings=tuple(replace(d, shown=True) for d in doc.drawings),
            meshes=tuple(replace(m, shown=True) for m in doc.meshes),
        ),
        "Show everything",
    )


def fade(session: Session, by: float) -> None:
    """Fade the chosen drawing, or all drawings, by a step."""
    doc = session.committed
    chosen = [d for d in doc.drawings if d.id in session.chosen] or list(doc.drawings)
    if not chosen:
        return
    for drawing in chosen:
        value = min(1.0, max(0.05, drawing.fade + by))
        doc = with_item(doc, drawing.id, fade=round(value, 3))
    session.commit(doc, "Fade")


def add_box(session: Session) -> None:
    """A box as large as the drawings show, without dragging."""
    known = edits.bounds(session.committed)
    low, high = known if known is not None else np.array([[-50.0] * 3, [50.0] * 3])
    size = np.maximum(high - low, 1.0)
    if known is not None:
        low = np.array([low[0], low[1], max(low[2], 0.0) if high[2] > 0 else low[2]])
    doc, id_ = edits.with_mesh(
        session.committed, box(low, np.maximum(high, low + size * 0.01)), "box"
    )
    session.commit(doc, "Add a box")
    session.choose((id_,))


def select_all(session: Session) -> None:
    item = session.chosen_mesh
    if item is None or session.kind is Kind.WHOLE:
        doc = session.document
        session.choose((*(d.id for d in doc.planes), *(m.id for m in doc.meshes)))
        return
    topology = item.mesh.topology
    count = {
        Kind.VERTEX: topology.vertex_count,
        Kind.EDGE: len(topology.edges),
        Kind.FACE: topology.face_count,
    }[session.kind]
    session.select(session.kind, np.arange(count, dtype=np.int32))


def select_none(session: Session) -> None:
    if len(session.selected):
        session.select(session.kind, select.none())
    else:
        session.choose(())


def set_unit(session: Session, unit: Unit) -> None:
    if unit is not session.document.unit:
        session.commit(replace(session.committed, unit=unit), f"Show lengths in {unit.value}")


def switch_projection(session: Session) -> None:
    other = session.document.projection.other
    session.commit(replace(session.committed, projection=other), f"Go to {other.value} projection")


def place_waiting(session: Session, sheet: Sheet | None = None) -> None:
    """Place every named drawing that is not placed yet, of one sheet or of all."""
    before = doc = session.committed
    for found in (sheet,) if sheet is not None else before.sheets:
        doc = preparing.place_all(doc, found.id)
    session.commit(doc, "Place all views")
    count = len(doc.planes) - len(before.planes)
    session.tell(f"Placed {count}: each on its plane, level and to one scale.")


def place_one(session: Session, id_: str) -> None:
    name = session.committed.drawing(id_).name
    session.commit(preparing.placed(session.committed, [id_]), f"Place {name}")


def remove_sheet(session: Session, sheet: Sheet | None) -> None:
    if sheet is not None:
        session.commit(edits.without_sheet(session.committed, sheet.id), f"Remove {sheet.name}")

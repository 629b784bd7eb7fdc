"""Edits of the window's commands on what is chosen."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from dimetron.app.work.session import Session
from dimetron.document import (
    bodies,
    edits,
    groups,
    loosening,
    placing,
    preparing,
    registering,
    size_references,
    turning,
)
from dimetron.document.kind import lying
from dimetron.document.model import Sheet, with_item
from dimetron.document.parts import ReferenceKind
from dimetron.document.version import with_version
from dimetron.geometry.placement import PlacementError
from dimetron.geometry.units import Unit
from dimetron.mesh import select
from dimetron.mesh.operation import by_name
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind

FADE_STEP = 0.15


def delete(session: Session) -> None:
    """Delete the selected parts of the chosen mesh, else what is chosen."""
    item = session.chosen_mesh
    if item is not None and session.kind is not Kind.WHOLE and len(session.selected):
        done = by_name("delete")(item.mesh, session.part)
        words = f"Delete {session.kind.many}"
        session.commit(with_item(session.committed, item.id, mesh=done.mesh), words)
        session.select(done.selection.kind, done.selection.indices)
        return
    doc = session.committed
    held = [i for i in session.chosen if getattr(doc.item(i), "held", False)]
    if held:
        session.refuse("What is held is not deleted; let go of it on its card first.")
        return
    for id_ in session.chosen:
        doc = edits.without_item(doc, id_)
    session.commit(doc, "Delete")


def keep_version(session: Session) -> None:
    """Keep the chosen mesh as it is now."""
    item = session.chosen_mesh
    if item is not None:
        doc, _ = with_version(session.committed, item.id)
        session.commit(doc, f"Keep a version of {item.name}")


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
    session.commit(groups.all_shown(doc), "Show everything")


def fade(session: Session, by: float) -> None:
    """Fade the chosen drawing, or all drawings, by a step."""
    doc = session.committed
    chosen = [d for d in doc.drawings if d.id in session.chosen] or list(doc.drawings)
    if not chosen:
        return
    for drawing in chosen:
        value = min(1.0, max(0.05, drawing.opacity + by))
        doc = with_item(doc, drawing.id, opacity=round(value, 3))
    session.commit(doc, "Fade")


def fade_level(session: Session) -> None:
    """Step the chosen drawings, or all, to the next weaker of three levels, and round again."""
    doc = session.committed
    chosen = [d for d in doc.drawings if d.id in session.chosen] or list(doc.drawings)
    if not chosen:
        return
    level = placing.next_opacity(max(d.opacity for d in chosen))
    for drawing in chosen:
        doc = with_item(doc, drawing.id, opacity=level)
    session.commit(doc, "Fade")
    session.tell(f"Drawings at {round(level * 100)} %.")


def chosen_drawings(session: Session) -> tuple[str, ...]:
    return tuple(d.id for d in session.document.drawings if d.id in session.chosen)


def duplicate(session: Session, ids: tuple[str, ...] = ()) -> None:
    """The chosen drawings once more, each with its placement."""
    doc, copies = session.committed, []
    for id_ in ids or chosen_drawings(session):
        doc, copy = placing.duplicated(doc, id_)
        copies.append(copy)
    if copies:
        session.commit(doc, "Duplicate")
        session.choose(tuple(copies))


def copy_placement(session: Session, id_: str = "") -> None:
    """Keep the placement of a drawing, for pasting onto others."""
    ids = (id_,) if id_ else chosen_drawings(session)
    if len(ids) == 1:
        doc = session.committed
        drawing = doc.drawing(ids[0])
        session.copied = drawing, doc.size_px(drawing)
        session.tell(f"Copied the placement of {drawing.name}.")


def paste_placement(session: Session) -> None:
    """Give the chosen drawings the placement that was copied."""
    ids = chosen_drawings(session)
    if session.copied is None or not ids:
        session.refuse("Copy the placement of one drawing first, then choose others.")
        return
    doc = session.committed
    for id_ in ids:
        doc = placing.pasted(doc, id_, *session.copied)
    session.commit(doc, f"Paste the placement of {session.copied[0].name}")


def show_alone(session: Session, ids: tuple[str, ...] = ()) -> None:
    """Show what is chosen alone among its kind, or all again."""
    ids = ids or session.chosen
    if ids:
        doc = groups.alone(session.committed, ids)
        session.commit(doc, "Show alone" if doc.solo else "Show the others again")


def group_chosen(session: Session) -> None:
    """Put what is chosen into a new group."""
    if session.chosen:
        doc, _ = groups.grouped(session.committed, session.chosen)
        session.commit(doc, "Group")


def separate(session: Session, ids: tuple[str, ...] = ()) -> None:
    """Let each of the chosen drawings be sized by itself."""
    ids = ids or chosen_drawings(session)
    if ids:
        session.commit(bodies.separated(session.committed, ids), "Size apart")


def join(session: Session, ids: tuple[str, ...] = ()) -> None:
    """Let the chosen drawings be sized and turned together; one alone joins those of its sheet."""
    ids = ids or chosen_drawings(session)
    if ids:
        session.commit(bodies.joined(session.committed, ids), "Size together")


def pin(session: Session, id_: str) -> None:
    """Let the other drawings be registered to this one, or let it be registered again."""
    doc = session.committed
    on = id_ not in doc.pinned
    name = doc.drawing(id_).name
    session.commit(registering.with_pinned(doc, id_, on), f"{'Pin' if on else 'Let go of'} {name}")


def loosen(session: Session, id_: str) -> None:
    name = session.committed.drawing(id_).name
    doc = loosening.loosened(session.committed, id_)
    session.commit(doc, f"Make {name} a loose picture")


def add_reference(session: Session, gauge: ReferenceKind) -> None:
    """Stand a size reference beside everything there is."""
    doc = session.committed
    known = (edits.bounds(doc), lying(doc, doc.references))
    ends = [float(box[1, 0]) for box in known if box is not None]
    wide = size_references.FIRST_SIZE[gauge][0]
    at = (max(ends) + wide * 0.7, 0.0, 0.0) if ends else (0.0, 0.0, 0.0)
    doc, id_ = size_references.with_reference(doc, gauge, at)
    session.commit(doc, f"Add a {gauge.value}")
    session.choose((id_,))


def flip_references(session: Session) -> None:
    """Show all size references, or hide them if all are shown."""
    doc = session.committed
    shown = not all(r.shown for r in doc.references)
    references = tuple(replace(r, shown=shown) for r in doc.references)
    words = "Show the size references" if shown else "Hide the size references"
    session.commit(replace(doc, references=references), words)


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
        session.choose(tuple(i.id for i in doc.items if doc.free(i) and doc.visible(i)))
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


def turn_set(session: Session, quarters: int, ids: tuple[str, ...] = ()) -> None:
    """Turn the object that drawings show: the given ones, else those that are one with the chosen
    ones, else all."""
    doc = session.committed
    keys = {bodies.body_key(doc.drawing(id_)) for id_ in chosen_drawings(session)}
    found = ids or tuple(d.id for d in doc.drawings if not keys or bodies.body_key(d) in keys)
    try:
        after = turning.set_turned(doc, found, quarters)
    except PlacementError as error:
        session.refuse(str(error))
        return
    session.commit(after, "Turn the set around" if quarters == 2 else "Turn the set by a quarter")
    session.tell(
        "What was the front is the back now."
        if quarters == 2
        else "What was the front is the right side now."
    )


def remove_sheet(session: Session, sheet: Sheet | None) -> None:
    if sheet is not None:
        session.commit(edits.without_sheet(session.committed, sheet.id), f"Remove {sheet.name}")

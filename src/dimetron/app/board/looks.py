"""Saved looks: what the board shows as a value of the project, and back."""

from __future__ import annotations

from dataclasses import replace

from dimetron.app.board.layout import Layout
from dimetron.app.board.sight import Sight
from dimetron.app.tools.slots import SLOTS
from dimetron.document.model import Document, new_id
from dimetron.document.names import plain_name
from dimetron.document.parts import PaneLook, SavedLook
from dimetron.render.scene import Shading

SPACE_VIEW = "3d"


def saved(doc: Document, sight: Sight, layout: Layout, number: int, name: str = "") -> SavedLook:
    """What the board shows now, under a number and a name."""
    panes = tuple(
        (
            slot,
            PaneLook(
                SPACE_VIEW if (view := sight.views[slot]) is None else view.key,
                sight.shading[slot].value,
                sight.opacities.get(slot, 1.0),
                slot not in sight.gridless,
            ),
        )
        for slot in SLOTS
    )
    orbit = sight.orbit
    return SavedLook(
        new_id(),
        name or f"look {number}",
        panes,
        layout.slots,
        layout.full,
        layout.split,
        sight.focus,
        sight.mm_per_px,
        orbit.target,
        orbit.azimuth_deg,
        orbit.elevation_deg,
        orbit.mm_per_px,
        orbit.perspective,
        tuple(d.id for d in doc.drawings if d.shown),
        number,
    )


def recalled(look: SavedLook, doc: Document, sight: Sight, layout: Layout) -> tuple[Sight, Layout]:
    """What the board looks at under a saved look. A view that is gone leaves its pane as it is."""
    shadings = {shading.value: shading for shading in Shading}
    for slot, pane in look.panes:
        view = doc.view_by_key(pane.view)
        if view is not None or pane.view == SPACE_VIEW:
            sight = sight.with_view(slot, view)
        sight = sight.with_shading(slot, shadings.get(pane.shading, sight.shading[slot]))
        sight = sight.with_opacity(slot, pane.fade).with_grid(slot, pane.grid)
    orbit = replace(
        sight.orbit,
        target=look.target,
        azimuth_deg=look.azimuth_deg,
        elevation_deg=look.elevation_deg,
        mm_per_px=look.orbit_mm_per_px,
        perspective=look.perspective,
    )
    sight = replace(
        sight, focus=look.focus, mm_per_px=look.mm_per_px, orbit=orbit, strays={}, scales={}
    )
    return sight, replace(layout, slots=look.slots, full=look.full, split=look.split)


def with_look(doc: Document, look: SavedLook) -> Document:
    """Keep a look, in the place of one of the same number."""
    kept = tuple(k for k in doc.looks if k.number != look.number)
    return replace(doc, looks=tuple(sorted((*kept, look), key=lambda k: k.number)))


def named(doc: Document, number: int, name: str) -> Document:
    """Give the look of a number another name."""
    name = plain_name(name)
    looks = tuple(replace(k, name=name) if k.number == number else k for k in doc.looks)
    return replace(doc, looks=looks)


def with_shown(doc: Document, look: SavedLook) -> Document:
    """The drawings shown that the look showed; those that came later stay as they are."""
    if all(d.shown == (d.id in look.drawings) for d in doc.drawings):
        return doc
    drawings = tuple(replace(d, shown=d.id in look.drawings) for d in doc.drawings)
    return replace(doc, drawings=drawings)

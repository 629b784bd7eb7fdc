"""Loose pictures: brought in, made from drawings, and put to use as drawings. Pure functions."""

from __future__ import annotations

from dataclasses import replace

from dimetron.document import edits
from dimetron.document.model import Document, Drawing, Source, new_id, with_item
from dimetron.document.naming import tidied
from dimetron.document.parts import Floating, LoosePicture
from dimetron.geometry.views import AnyView

#: The closest and farthest a loose picture is looked at; 1 shows all of it.
ZOOMS = (1.0, 400.0)
#: Least side of a floating picture, in pixels of the screen.
LEAST_SIDE = 60.0


def with_loose(doc: Document, source: Source) -> tuple[Document, str]:
    """Add a picture as a loose one; returns the document and its id."""
    name = edits.free_name(doc, source.name.rpartition(".")[0] or source.name)
    doc, sheet = edits.with_sheet(doc, source)
    item = LoosePicture(new_id(), name, sheet)
    return replace(doc, loose=(*doc.loose, item)), item.id


def loosened(doc: Document, id_: str) -> Document:
    """Make a loose picture of a drawing; it keeps its id, its name and its group."""
    d = doc.drawing(id_)
    item = LoosePicture(
        d.id, d.name, d.sheet, d.crop, d.straightening, d.tone, shown=d.shown, group=d.group
    )
    drawings = tuple(other for other in doc.drawings if other.id != id_)
    solo = tuple(i for i in doc.solo if i != id_)
    return tidied(replace(doc, drawings=drawings, loose=(*doc.loose, item), solo=solo))


def aligned(doc: Document, id_: str, view: AnyView) -> Document:
    """Make a drawing of a loose picture, on a view, at a first size."""
    item = next(p for p in doc.loose if p.id == id_)
    size = doc.size_px(item)
    sheet = doc.sheet(item.sheet)
    scale = sheet.mm_per_px or edits.FIRST_WIDTH_MM / size[0]
    drawing = Drawing(
        item.id,
        item.name,
        view,
        item.sheet,
        edits.first_placement(doc, size, view, scale),
        item.crop,
        item.straightening,
        item.tone,
        group=item.group,
    )
    loose = tuple(p for p in doc.loose if p.id != id_)
    after = replace(doc, loose=loose, drawings=(*doc.drawings, drawing))
    return edits.moved_to_view(after, id_, view)


def looked_at(
    item: LoosePicture, zoom: float, at: tuple[float, float], kept: bool = True
) -> LoosePicture:
    """Zoom a loose picture. at: the spot (shares of width and height) that stays where it is seen;
    without ``kept`` it becomes the middle."""
    zoom = min(ZOOMS[1], max(ZOOMS[0], zoom))
    share = item.zoom / zoom if kept else 0.0
    x, y = (a + (m - a) * share for a, m in zip(at, item.middle, strict=True))
    half = 0.5 / zoom
    middle = (min(1 - half, max(half, x)), min(1 - half, max(half, y)))
    return replace(item, zoom=zoom, middle=middle)


def floated(doc: Document, id_: str, floating: Floating | None) -> Document:
    """Let a loose picture float over a pane, or pin it to the tray again."""
    if floating is not None:
        w, h = (max(LEAST_SIDE, side) for side in floating.size)
        floating = replace(floating, size=(w, h))
    return with_item(doc, id_, floating=floating)

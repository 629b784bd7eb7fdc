"""What lies over the panes: the tool's own marks, what it would catch, and ink about to be used."""

from __future__ import annotations

from collections.abc import Sequence

from dimetron.app.tools.base import Tool
from dimetron.app.tools.inked import box_marks
from dimetron.app.tools.picking import marks_of
from dimetron.app.work.pictures import Pictures
from dimetron.app.work.session import Session
from dimetron.document.model import Drawing
from dimetron.render.overlays import Overlay


def overlaid(tool: Tool | None, session: Session, pictures: Pictures) -> Sequence[Overlay]:
    """All of it, lowest first."""
    marks: list[Overlay] = []
    doc = session.document
    for id_ in session.ink_shown:
        drawing = doc.item(id_)
        found = pictures.inked(doc, drawing) if isinstance(drawing, Drawing) else None
        if found is not None and isinstance(drawing, Drawing):
            marks += box_marks(drawing, found)
    if tool is not None:
        marks += [*tool.overlays(), *marks_of(tool.aimed)]
    return marks

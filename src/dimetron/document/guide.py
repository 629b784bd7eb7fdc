"""Guides: lines at a known place along an axis, and circles on a view's plane, to snap to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from dimetron.document.edits import free_name
from dimetron.document.model import Document, new_id
from dimetron.geometry.views import AXIS_NAMES, AnyView, Vector
from dimetron.mesh.arrays import Floats

#: A guide line is drawn so far to both sides, in mm.
_REACH = 20_000.0
#: A circle is drawn by so many places.
_ROUND = 96
#: A view along a circle's own line of sight, from either side, shows it.
_ALONG = 1 - 1e-9


@dataclass(frozen=True, slots=True)
class Guide:
    """axis: 0 to 2; a line at ``at`` mm along it, in every flat view that shows the axis. With a
    radius it is a circle instead, about ``centre`` on the plane of ``view``."""

    id: str
    name: str
    axis: int = 0
    at: float = 0.0
    radius: float = 0.0
    centre: tuple[float, float] = (0.0, 0.0)
    view: AnyView | None = None
    shown: bool = True
    held: bool = False
    group: str | None = None


def guides_of(doc: Document) -> tuple[Guide, ...]:
    """All guides of a project."""
    return tuple(item for item in doc.further if isinstance(item, Guide))


def with_guide(doc: Document, guide: Guide) -> tuple[Document, str]:
    """The project with one guide more, under an id and a name of its own."""
    base = "guide circle" if guide.radius else f"guide {AXIS_NAMES[guide.axis]}"
    made = replace(guide, id=new_id(), name=free_name(doc, guide.name or base))
    return replace(doc, further=(*doc.further, made)), made.id


def guide_lines(item: Guide, forward: Vector | None) -> Sequence[Floats]:
    """(n, 3) each: what it is drawn with in a view along ``forward``; in space only circles."""
    if item.radius and item.view is not None:
        if forward is not None and abs(float(forward @ item.view.directions.forward)) < _ALONG:
            return ()
        turn = np.linspace(0, 2 * np.pi, _ROUND + 1)
        ring = np.stack([np.cos(turn), np.sin(turn)], axis=1) * item.radius
        return [item.view.to_world(ring + np.array(item.centre))]
    if forward is None or abs(float(forward[item.axis])) > 1e-6:
        return ()
    # Square to the axis and to the line of sight.
    way = np.cross(forward, np.eye(3)[item.axis])
    point = item.at * np.eye(3)[item.axis]
    return [np.stack([point - _REACH * way, point + _REACH * way])]

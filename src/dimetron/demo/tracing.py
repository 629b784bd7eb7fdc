"""Outlines of the props, traced on their drawings, and what is made of them."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from dimetron.demo import can
from dimetron.demo.solids import smooth_path
from dimetron.document.making import makers, with_made
from dimetron.document.model import Document, Drawing
from dimetron.document.outline import Outline, to_mm, with_outline
from dimetron.document.pictures import pyramid_of
from dimetron.geometry.views import View
from dimetron.outlines import halves
from dimetron.outlines.fit import fitted
from dimetron.outlines.follow import run_along, ways_from
from dimetron.outlines.path import Path, joined, path_of
from dimetron.outlines.silhouette import silhouette

#: By how much outlines may miss the ink, in mm, and how far lines are looked for, in pixels.
_MISS, _REACH = 0.3, 14.0
#: Up the right side of the can's body in the front drawing: places on its outer line, as its shape
#: is made.
_BODY = ((84.0, 0.2), (82.0, 60.0), (77.9, 140.0), (77.5, 189.0), (74.5, 193.0))
#: Along the middle of its spout and of its handle in the side drawing, and how thick they are.
_SPOUT = ((-60, 44), (-100, 70), (-146, 118), (-182, 172), (-214, 219))
_HANDLE = (
    *((-74, 184), (-75, 206), (-62, 242), (-20, 272), (40, 280)),
    *((100, 256), (136, 204), (141, 146), (118, 96), (76, 72)),
)


def traced_can(doc: Document) -> Document:
    """The can's drawings with outlines, and a can made of them."""
    by_view = {drawing.view: drawing for drawing in doc.drawings}
    front, side = by_view[View.FRONT], by_view[View.RIGHT]
    body = halves.onto_axis(_body(doc, front), 0, 1e-6)
    doc = _made(doc, "turned", body, front, "body profile", half="x")
    spout, handle = (_smooth(points) for points in (_SPOUT, _HANDLE))
    doc = _made(
        doc, "swept", spout, side, "spout", begin=21.0 * can.scale(), end=10.5 * can.scale()
    )
    return _made(doc, "swept", handle, side, "handle", begin=7.5, end=7.5, rows=56)


def traced_odo(doc: Document) -> Document:
    """Odo's drawings, each with its outermost outline, and the solid that all of them allow."""
    outlines: list[Outline] = []
    for drawing in doc.drawings:
        pyramid = pyramid_of(doc, drawing)
        assert pyramid is not None
        path = max(silhouette(pyramid, _MISS / drawing.placement.mm_per_px), key=len)
        name = f"{drawing.view.title.lower()} outline"
        doc, made = with_outline(doc, to_mm(drawing, path), drawing.view, name, drawing=drawing.id)
        item = doc.item(made)
        assert isinstance(item, Outline)
        outlines.append(item)
    how = makers()["common"].settings(faces="quads", size=3.0)
    return with_made(doc, makers()["common"], outlines, how)[0]


def _body(doc: Document, drawing: Drawing) -> Path:
    """Half of the body's profile: along the ground, up its side on the ink, back to the axis."""
    pyramid = pyramid_of(doc, drawing)
    assert pyramid is not None
    place = drawing.placement
    px = [place.to_px(can.scale() * np.array(point)) for point in _BODY]
    pieces: list[Path] = []
    for a, b in pairwise(px):
        ways = ways_from(pyramid, a, b, _REACH)
        way = None if ways is None else ways.to(b, _REACH)
        start = a if not pieces else place.to_px(pieces[-1].points[-1])
        if way is None:
            pieces.append(path_of(place.to_plane(np.stack([start, b]))))
            continue
        run = run_along(pyramid, way, start, None)
        path = fitted(run.points, _MISS / place.mm_per_px, run.corners)
        pieces.append(to_mm(drawing, path))
    foot, rim = pieces[0].points[0], pieces[-1].points[-1]
    low = path_of([[0.0, foot[1]], foot])
    high = path_of([rim, [0.0, rim[1]]])
    return joined([low, *pieces, high])


def _smooth(points: Sequence[tuple[float, float]]) -> Path:
    line = can.scale() * smooth_path([(0.0, *point) for point in points], 120)[:, 1:]
    return fitted(line, _MISS, np.zeros(0, np.intp))


def _made(
    doc: Document, maker: str, path: Path, on: Drawing, name: str, half: str = "", **numbers: float
) -> Document:
    doc, id_ = with_outline(doc, path, on.view, name, half=half, drawing=on.id)
    item = doc.item(id_)
    assert isinstance(item, Outline)
    found = makers()[maker]
    return with_made(doc, found, [item], found.settings(**numbers))[0]

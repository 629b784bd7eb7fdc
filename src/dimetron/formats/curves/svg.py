"""SVG read as outlines, by svgelements: its paths and shapes, their y turned upward."""

from __future__ import annotations

import io
from collections import Counter
from collections.abc import Iterator
from typing import Any

import defusedxml.ElementTree
import numpy as np
import svgelements

from dimetron.formats.drawn import DrawnPath
from dimetron.formats.format import MeshFileError
from dimetron.outlines.path import from_pieces

#: CSS pixels an inch, and millimetres.
_PPI, _MM = 96.0, 25.4
#: Elements that draw nothing of their own.
_QUIET = (svgelements.Group, svgelements.SVG, svgelements.Use)


def read(data: bytes) -> tuple[list[DrawnPath], list[str]]:
    """Paths in mm with y upward, and what could not be read. Raises MeshFileError with words that
    follow the file's name."""
    try:
        defusedxml.ElementTree.fromstring(data)
    except defusedxml.DefusedXmlException as error:
        raise MeshFileError("names things outside of itself, which are not read.") from error
    except Exception as error:
        raise MeshFileError("is damaged and cannot be read; get the file again.") from error
    tree = svgelements.SVG.parse(io.BytesIO(data), reify=True, ppi=_PPI)
    origin = _origin(tree)
    found: list[DrawnPath] = []
    odd: Counter[str] = Counter()
    for element, layer in _elements(tree, ""):
        if isinstance(element, svgelements.Shape):
            found.extend(_paths(element, layer, origin))
        elif not isinstance(element, _QUIET):
            odd[type(element).__name__.lower()] += 1
    words = [f"{count} × {kind} was left out" for kind, count in odd.items()]
    return found, words


def _origin(tree: Any) -> tuple[float, float]:
    """Where the user units' own origin lies, in pixels: a view box that begins elsewhere only says
    what is shown."""
    box = tree.viewbox
    if box is None or not (box.width and box.height and tree.width and tree.height):
        return 0.0, 0.0
    scale = min(float(tree.width) / float(box.width), float(tree.height) / float(box.height))
    return float(box.x) * scale, float(box.y) * scale


def _elements(group: Any, layer: str) -> Iterator[tuple[Any, str]]:
    for element in group:
        yield element, layer
        if isinstance(element, svgelements.Group):
            name = _title(element) or str(element.values.get("id") or "") or layer
            yield from _elements(element, name)


def _title(element: Any) -> str:
    return next((str(e.title) for e in element if isinstance(e, svgelements.Title) and e.title), "")


def _paths(shape: Any, layer: str, origin: tuple[float, float]) -> Iterator[DrawnPath]:
    path = svgelements.Path(shape)
    path.reify()
    name = str(shape.values.get("id") or "")
    for part in path.as_subpaths():
        cubics, closed = _cubics(svgelements.Path(part))
        if cubics:
            flat = (np.array(cubics) + origin) * (_MM / _PPI) * (1, -1)
            yield DrawnPath(name, from_pieces(flat, closed), layer)


def _cubics(path: Any) -> tuple[list[list[tuple[float, float]]], bool]:
    """The cubics of a run, and whether it closes."""
    cubics: list[list[tuple[float, float]]] = []
    closed = False
    for segment in path:
        if isinstance(segment, svgelements.Move):
            continue
        if isinstance(segment, svgelements.Close):
            closed = True
        parts = segment.as_cubic_curves() if isinstance(segment, svgelements.Arc) else [segment]
        for part in parts:
            ends = [(p.x, p.y) for p in (part.start, part.end) if p is not None]
            if len(ends) < 2 or ends[0] == ends[1]:
                continue
            cubics.append(_cubic(part, np.array(ends)))
    if closed and len(cubics) < 1:
        closed = False
    return cubics, closed


def _cubic(part: Any, ends: np.ndarray) -> list[tuple[float, float]]:
    a, d = ends
    if isinstance(part, svgelements.CubicBezier):
        b, c = (np.array((p.x, p.y)) for p in (part.control1, part.control2))
    elif isinstance(part, svgelements.QuadraticBezier):
        middle = np.array((part.control.x, part.control.y))
        b, c = a + (middle - a) * 2 / 3, d + (middle - d) * 2 / 3
    else:
        b, c = a, d
    return [tuple(p) for p in (a, b, c, d)]

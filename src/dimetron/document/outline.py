"""An outline in a project: a path on a view's plane, at a depth."""

from __future__ import annotations

from dataclasses import dataclass, replace
from weakref import WeakKeyDictionary

import numpy as np

from dimetron.document.model import Document, Drawing, new_id
from dimetron.document.names import plain_name
from dimetron.geometry.views import AXIS_NAMES, AnyView
from dimetron.mesh.arrays import Floats
from dimetron.outlines import halves
from dimetron.outlines.path import OutlineError, Path, mapped, sampled
from dimetron.outlines.rounding import rounded

#: An outline's polygon misses it by at most this share of its extent.
_FINE = 2e-4
#: Axes by which a half may be mirrored.
AXES = tuple(name.lower() for name in AXIS_NAMES)


@dataclass(frozen=True, slots=True)
class Tie:
    """Where a point stays. to: "origin", an axis ("x": its coordinate along it is nothing),
    "ground" (name: the id of a drawing, on whose lower edge it stays), "landmark" (name), or
    "point" (name: the id of another outline, number: of its point)."""

    point: int
    to: str
    name: str = ""
    number: int = 0


@dataclass(frozen=True, slots=True)
class Outline:
    """path: in the view's plane, in mm. depth: how far along the view's forward direction it lies.
    half: the axis ("x", "y", "z") across which it is mirrored; empty if it is whole. drawing: the
    id of the one that it was drawn on, which it is held against. ties: where points stay. opening:
    whether the object is seen through within it."""

    id: str
    name: str
    view: AnyView
    path: Path
    depth: float = 0.0
    shown: bool = True
    held: bool = False
    group: str | None = None
    half: str = ""
    drawing: str | None = None
    ties: tuple[Tie, ...] = ()
    opening: bool = False


def outlines_of(doc: Document) -> tuple[Outline, ...]:
    """All outlines of a project."""
    return tuple(item for item in doc.further if isinstance(item, Outline))


def with_outline(
    doc: Document,
    path: Path,
    view: AnyView,
    name: str,
    *,
    depth: float = 0.0,
    half: str = "",
    drawing: str | None = None,
) -> tuple[Document, str]:
    """The project with one outline more, and its id; a name that is taken gets a number."""
    taken = {item.name for item in doc.items}
    plain = plain_name(name) or "outline"
    number, wanted = 2, plain
    while wanted in taken:
        wanted, number = f"{plain} {number}", number + 1
    made = Outline(new_id(), wanted, view, path, depth, half=half, drawing=drawing)
    return replace(doc, further=(*doc.further, made)), made.id


def with_path(doc: Document, id_: str, path: Path) -> Document:
    """The project with another path for an outline; ties go along with their points."""
    return replace(
        doc,
        further=tuple(
            replace(i, path=path, ties=_carried(i, path))
            if i.id == id_ and isinstance(i, Outline)
            else i
            for i in doc.further
        ),
    )


def _carried(item: Outline, path: Path) -> tuple[Tie, ...]:
    """Ties of points that are still there: of as many points they are the same ones, else those
    in the same places."""
    if not item.ties or len(path) == len(item.path):
        return item.ties
    kept = []
    for tie in item.ties:
        away = np.abs(path.points - item.path.points[tie.point]).max(axis=1)
        if away.min() < 1e-9:
            kept.append(replace(tie, point=int(np.argmin(away))))
    return tuple(kept)


def side_of(view: AnyView, axis: str) -> int | None:
    """Which coordinate of a view's plane runs along an axis; None if it does not show it."""
    number = AXES.index(axis)
    axes = view.paper_axes
    return axes.index(number) if number in axes else None


def halving_axes(view: AnyView) -> tuple[str, ...]:
    """The axes across which an outline of a view can be mirrored."""
    return tuple(AXES[axis] for axis in view.paper_axes if axis is not None)


def whole_paths(item: Outline) -> tuple[Path, ...]:
    """What it is with its mirrored half and its radii: one path, or two that stand apart. A radius
    without room is left out until there is some."""
    known = _whole.get(item.path)
    if known is None:
        known = _whole[item.path] = {}
    if item.half not in known:
        known[item.half] = _made_whole(item)
    return known[item.half]


#: What was made of a path, for as long as that is there.
_whole: WeakKeyDictionary[Path, dict[str, tuple[Path, ...]]] = WeakKeyDictionary()


def _made_whole(item: Outline) -> tuple[Path, ...]:
    side = side_of(item.view, item.half) if item.half else None
    paths = (item.path,) if side is None else halves.whole(item.path, side)
    return tuple(_rounded(path) for path in paths)


def _rounded(path: Path) -> Path:
    try:
        return rounded(path)
    except OutlineError:
        return path


def polygons(item: Outline) -> tuple[Floats, ...]:
    """(n, 2) each: what it is in the view's plane, as polygons; the last place of a closed one is
    not the first again."""
    return tuple(sampled(path, fineness(path)) for path in whole_paths(item))


def closed_polygons(item: Outline) -> tuple[Floats, ...]:
    """The same of an outline that encloses something. Raises OutlineError if it is open."""
    if not all(path.closed for path in whole_paths(item)):
        raise OutlineError(f"{item.name} is open; close it first.")
    return polygons(item)


def to_px(drawing: Drawing, path: Path) -> Path:
    """A path of a drawing's view in the drawing's pixels."""
    matrix = np.linalg.inv(drawing.placement.matrix)
    anchor = drawing.placement.to_px(np.zeros(2))
    return mapped(path, matrix, anchor)


def to_mm(drawing: Drawing, path: Path) -> Path:
    """A path in a drawing's pixels in its view's plane."""
    return mapped(path, drawing.placement.matrix, drawing.placement.to_plane(np.zeros(2)))


def fineness(path: Path) -> float:
    """By how much polygons may miss a path, in mm."""
    return max(1e-6, _FINE * float(np.ptp(path.points, axis=0).max()))


def world_lines(item: Outline) -> list[Floats]:
    """(n, 3) each: polylines in space, closed ones back to their beginning."""
    lines = []
    for path in whole_paths(item):
        points = sampled(path, fineness(path))
        if path.closed:
            points = np.concatenate([points, points[:1]])
        lines.append(item.view.to_world(points, item.depth))
    return lines


def world_points(item: Outline, points: Floats) -> Floats:
    """(n, 3) where places of its plane lie."""
    return item.view.to_world(points, item.depth)

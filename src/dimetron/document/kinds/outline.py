"""Outlines: Bézier paths on the planes of views."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import ArrayLike

from dimetron.document.kind import ItemKind, Json, Naming, Reading, Told
from dimetron.document.model import Document
from dimetron.document.outline import Outline, Tie, whole_paths, world_lines
from dimetron.geometry.views import AnyView, Auxiliary, Vector
from dimetron.mesh.arrays import Floats
from dimetron.outlines.path import MOST_POINTS, bounds, mapped, path_of

#: A view along an outline's own line of sight, from either side, shows it.
_ALONG = 1 - 1e-9

_PAIRS = {
    "type": "array",
    "minItems": 1,
    "maxItems": MOST_POINTS,
    "items": {"$ref": "#/$defs/pair"},
}
_TIE: Json = {
    "type": "object",
    "required": ["point", "to", "name", "number"],
    "properties": {
        "point": {"type": "integer", "minimum": 0},
        "to": {"enum": ["origin", "x", "y", "z", "ground", "landmark", "point"]},
        "name": {
            "description": "of a landmark; the id of an outline or drawing",
            "type": "string",
        },
        "number": {"description": "of the other outline's point", "type": "integer", "minimum": 0},
    },
}
_SCHEMA: Json = {
    "type": "object",
    "required": [
        *("id", "name", "view", "points", "before", "after", "corner", "radius", "closed"),
        *("depth_mm", "half", "drawing", "ties", "opening", "shown", "held", "group"),
    ],
    "properties": {
        "id": {"$ref": "#/$defs/id"},
        "name": {"$ref": "#/$defs/name"},
        "view": {
            "description": "a principal view or the id of an auxiliary one",
            "anyOf": [{"$ref": "#/$defs/principal"}, {"$ref": "#/$defs/id"}],
        },
        "points": {**_PAIRS, "description": "right and up in the view's plane, in mm"},
        "before": {**_PAIRS, "description": "the handle of each point towards the one before"},
        "after": {**_PAIRS, "description": "and towards the next one"},
        "corner": {"type": "array", "items": {"type": "boolean"}},
        "radius": {"type": "array", "items": {"type": "number", "minimum": 0, "maximum": 1e7}},
        "closed": {"type": "boolean"},
        "depth_mm": {"$ref": "#/$defs/finite"},
        "half": {"enum": ["", "x", "y", "z"]},
        "drawing": {"anyOf": [{"type": "null"}, {"$ref": "#/$defs/id"}]},
        "ties": {"type": "array", "maxItems": MOST_POINTS, "items": _TIE},
        "opening": {
            "description": "whether the object is seen through within it",
            "type": "boolean",
        },
        "shown": {"type": "boolean"},
        "held": {"type": "boolean"},
        "group": {"anyOf": [{"type": "null"}, {"$ref": "#/$defs/id"}]},
    },
}


def _to_json(item: Outline) -> Json:
    path = item.path
    return {
        "id": item.id,
        "name": item.name,
        "view": item.view.key,
        "points": path.points.tolist(),
        "before": path.before.tolist(),
        "after": path.after.tolist(),
        "corner": path.corner.tolist(),
        "radius": path.radius.tolist(),
        "closed": path.closed,
        "depth_mm": item.depth,
        "half": item.half,
        "drawing": item.drawing,
        "ties": [
            {"point": t.point, "to": t.to, "name": t.name, "number": t.number} for t in item.ties
        ],
        "opening": item.opening,
        "shown": item.shown,
        "held": item.held,
        "group": item.group,
    }


def _from_json(tree: Json, reading: Reading) -> Outline:
    """Raises OutlineError, KeyError."""
    path = path_of(
        tree["points"],
        tree["before"],
        tree["after"],
        tree["corner"],
        tree["radius"],
        tree["closed"],
    )
    return Outline(
        tree["id"],
        tree["name"],
        reading.views[tree["view"]],
        path,
        float(tree["depth_mm"]),
        tree["shown"],
        tree["held"],
        tree["group"],
        tree["half"],
        tree["drawing"],
        tuple(
            Tie(t["point"], t["to"], t["name"], t["number"])
            for t in tree["ties"]
            if t["point"] < len(path)
        ),
        tree["opening"],
    )


def _lies(doc: Document, item: Outline) -> Floats | None:
    return np.concatenate(world_lines(item))


def _scaled(item: Outline, factor: float, views: Mapping[str, Auxiliary]) -> Outline:
    view = views[item.view.id] if isinstance(item.view, Auxiliary) else item.view
    path = mapped(item.path, factor * np.eye(2))
    return replace(item, path=path, depth=item.depth * factor, view=view)


def _moved(item: Outline, by: ArrayLike, view: AnyView) -> Outline:
    """Slid in the plane of a view, its own or one that shows it from the side."""
    way = view.to_world(np.asarray(by, dtype=float))
    path = mapped(item.path, np.eye(2), item.view.to_plane(way))
    return replace(item, path=path, depth=item.depth + float(way @ item.view.directions.forward))


def _lines(item: Outline, forward: Vector | None) -> Sequence[Floats]:
    if forward is not None and abs(float(forward @ item.view.directions.forward)) < _ALONG:
        return ()
    return world_lines(item)


def _inclined(item: Outline) -> Iterable[str]:
    return (item.view.id,) if isinstance(item.view, Auxiliary) else ()


def _drawn_on(item: Outline) -> Iterable[str]:
    return () if item.drawing is None else (item.drawing,)


def _tied_to(kind: str) -> Callable[[Outline], Iterable[str]]:
    return lambda item: [tie.name for tie in item.ties if tie.to == kind]


def _untied(kind: str) -> Callable[[Outline, frozenset[str]], Outline]:
    """Without the ties to what is gone."""
    return lambda item, there: replace(
        item, ties=tuple(t for t in item.ties if t.to != kind or t.name in there)
    )


def _told(doc: Document, item: Outline) -> Json:
    boxes = np.array([bounds(path) for path in whole_paths(item)])
    size = boxes[:, 1].max(axis=0) - boxes[:, 0].min(axis=0)
    return {
        "name": item.name,
        "view": item.view.title.lower() if item.view in doc.auxiliaries else item.view.key,
        "points": len(item.path),
        "closed": all(path.closed for path in whole_paths(item)),
        "size_mm": size.round(4).tolist(),
        "depth_mm": item.depth,
        "half": item.half,
    }


def _words(told: Json) -> str:
    w, h = told["size_mm"]
    kind = "closed" if told["closed"] else "open"
    what = f"{told['view']}, {kind}, {told['points']} points"
    return f"outline  {told['name']}: {what}, {w:g} × {h:g} mm"


KIND = ItemKind(
    "outline",
    "outlines",
    Outline,
    _to_json,
    _from_json,
    Told("outlines", _told, _words),
    schema=_SCHEMA,
    names=(
        Naming("outlines", "auxiliary", _inclined),
        Naming("outlines", "landmark", _tied_to("landmark"), _untied("landmark")),
        Naming("outlines", "outline", _tied_to("point"), _untied("point")),
        Naming("outlines", "drawing", _tied_to("ground"), _untied("ground")),
        Naming("outlines", "drawing", _drawn_on, lambda item, _: replace(item, drawing=None)),
    ),
    lies=_lies,
    scaled=_scaled,
    moved=_moved,
    lines=_lines,
    drawn=("accent", 2.0),
    over=True,
)

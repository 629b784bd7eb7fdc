"""Guides: lines along an axis and circles, to snap to."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import ArrayLike

from dimetron.document.guide import Guide, guide_lines
from dimetron.document.kind import ItemKind, Json, Naming, Reading, Told
from dimetron.document.model import Document
from dimetron.geometry.views import AXIS_NAMES, AnyView, Auxiliary

_SCHEMA: Json = {
    "type": "object",
    "required": [
        *("id", "name", "axis", "at_mm", "radius_mm", "centre", "view"),
        *("shown", "held", "group"),
    ],
    "properties": {
        "id": {"$ref": "#/$defs/id"},
        "name": {"$ref": "#/$defs/name"},
        "axis": {"enum": ["x", "y", "z"]},
        "at_mm": {"$ref": "#/$defs/finite"},
        "radius_mm": {"description": "0: a line", "type": "number", "minimum": 0, "maximum": 1e7},
        "centre": {"$ref": "#/$defs/pair"},
        "view": {
            "description": "of a circle: a principal view or the id of an auxiliary one; else null",
            "anyOf": [
                {"type": "null"},
                {"$ref": "#/$defs/principal"},
                {"$ref": "#/$defs/id"},
            ],
        },
        "shown": {"type": "boolean"},
        "held": {"type": "boolean"},
        "group": {"anyOf": [{"type": "null"}, {"$ref": "#/$defs/id"}]},
    },
}


def _to_json(item: Guide) -> Json:
    return {
        "id": item.id,
        "name": item.name,
        "axis": "xyz"[item.axis],
        "at_mm": item.at,
        "radius_mm": item.radius,
        "centre": list(item.centre),
        "view": None if item.view is None else item.view.key,
        "shown": item.shown,
        "held": item.held,
        "group": item.group,
    }


def _from_json(tree: Json, reading: Reading) -> Guide:
    view = None if tree["view"] is None else reading.views[tree["view"]]
    return Guide(
        tree["id"],
        tree["name"],
        "xyz".index(tree["axis"]),
        float(tree["at_mm"]),
        float(tree["radius_mm"]),
        (float(tree["centre"][0]), float(tree["centre"][1])),
        view,
        tree["shown"],
        tree["held"],
        tree["group"],
    )


def _scaled(item: Guide, factor: float, views: Mapping[str, Auxiliary]) -> Guide:
    x, y = item.centre
    view = views[item.view.id] if isinstance(item.view, Auxiliary) else item.view
    return replace(
        item,
        at=item.at * factor,
        radius=item.radius * factor,
        centre=(x * factor, y * factor),
        view=view,
    )


def _moved(item: Guide, by: ArrayLike, view: AnyView) -> Guide:
    way = view.to_world(np.asarray(by, dtype=float))
    if item.radius and item.view is not None:
        x, y = np.array(item.centre) + item.view.to_plane(way)
        return replace(item, centre=(float(x), float(y)))
    return replace(item, at=item.at + float(way[item.axis]))


def _inclined(item: Guide) -> Iterable[str]:
    return (item.view.id,) if isinstance(item.view, Auxiliary) else ()


def _told(doc: Document, item: Guide) -> Json:
    if item.radius:
        return {"name": item.name, "radius_mm": item.radius, "centre": list(item.centre)}
    return {"name": item.name, "axis": "xyz"[item.axis], "at_mm": item.at}


def _words(told: Json) -> str:
    if "radius_mm" in told:
        return f"guide    {told['name']}: a circle of radius {told['radius_mm']:g} mm"
    axis = AXIS_NAMES["xyz".index(told["axis"])]
    return f"guide    {told['name']}: {axis} {told['at_mm']:g} mm"


KIND = ItemKind(
    "guide",
    "guides",
    Guide,
    _to_json,
    _from_json,
    Told("guides", _told, _words),
    schema=_SCHEMA,
    names=(Naming("guides", "auxiliary", _inclined),),
    scaled=_scaled,
    moved=_moved,
    lines=guide_lines,
    drawn=("slate", 1.3),
    over=True,
)

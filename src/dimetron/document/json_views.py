"""What stands beside drawings and meshes, as plain JSON and back: auxiliary views, how drawings are
seen, groups, saved looks; and projects of older formats."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

import numpy as np

from dimetron.document.json_landmarks import NO_LANDMARKS
from dimetron.document.model import Document
from dimetron.document.parts import (
    Group,
    Order,
    PaneLook,
    SavedLook,
    Seen,
    Showing,
)
from dimetron.geometry.placement import PlacementError
from dimetron.geometry.views import Auxiliary, Hinge, Triple, View

Json = dict[str, Any]


def views_json(doc: Document) -> Json:
    """Views, groups, looks and order as JSON."""
    return {
        "auxiliaries": [_auxiliary_json(a) for a in doc.auxiliaries],
        "groups": [asdict(g) for g in doc.groups],
        "looks": [_look_json(look) for look in doc.looks],
        "order": list(doc.order),
        "solo": list(doc.solo),
    }


def showing_json(showing: Showing) -> Json:
    """How a drawing is seen, as JSON."""
    return {
        "seen": showing.seen.value,
        "order": showing.order.value,
        "clear": showing.clear,
        "both_sides": showing.both_sides,
        "tint": None if showing.tint is None else list(showing.tint),
        "ink_alone": showing.ink_alone,
    }


def showing(tree: Json) -> Showing:
    """The way back from ``showing_json``."""
    tint = tree["tint"]
    return Showing(
        Seen(tree["seen"]),
        Order(tree["order"]),
        tree["clear"],
        tree["both_sides"],
        None if tint is None else (tint[0], tint[1], tint[2]),
        tree["ink_alone"],
    )


def _auxiliary_json(view: Auxiliary) -> Json:
    hinge = view.hinge
    return {
        "id": view.id,
        "name": view.name,
        "right": list(view.right),
        "up": list(view.up),
        "through": list(view.through),
        "hinge": None
        if hinge is None
        else {
            "base": hinge.base.value,
            "point": list(hinge.point),
            "way": list(hinge.way),
            "angle_deg": hinge.angle_deg,
        },
    }


def auxiliary(tree: Json) -> Auxiliary:
    """Raises PlacementError if its directions are no unit vectors square to each other."""
    hinge = tree["hinge"]
    across = np.array([tree["right"], tree["up"]], dtype=float)
    if not np.allclose(across @ across.T, np.eye(2), atol=1e-6):
        raise PlacementError(f"The directions of the view “{tree['name']}” are not square.")
    return Auxiliary(
        tree["id"],
        tree["name"],
        _triple(tree["right"]),
        _triple(tree["up"]),
        _triple(tree["through"]),
        None
        if hinge is None
        else Hinge(
            View(hinge["base"]),
            _triple(hinge["point"]),
            _triple(hinge["way"]),
            float(hinge["angle_deg"]),
        ),
    )


def group(tree: Json) -> Group:
    """A group from its JSON."""
    return Group(tree["id"], tree["name"], tree["shown"], tree["held"], tree["folded"])


def _look_json(look: SavedLook) -> Json:
    plain = asdict(look)
    plain["panes"] = {slot: asdict(pane) for slot, pane in look.panes}
    return {key: list(v) if isinstance(v, tuple) else v for key, v in plain.items()}


def look(tree: Json) -> SavedLook:
    """A saved look from its JSON."""
    panes = tuple(
        (slot, PaneLook(p["view"], p["shading"], float(p["fade"]), p["grid"]))
        for slot, p in tree["panes"].items()
    )
    return SavedLook(
        tree["id"],
        tree["name"],
        panes,
        tuple(tree["slots"]),
        tree["full"],
        _pair(tree["split"]),
        _triple(tree["focus"]),
        float(tree["mm_per_px"]),
        _triple(tree["target"]),
        float(tree["azimuth_deg"]),
        float(tree["elevation_deg"]),
        float(tree["orbit_mm_per_px"]),
        tree["perspective"],
        tuple(tree["drawings"]),
        tree["number"],
    )


def _pair(values: list[float]) -> tuple[float, float]:
    return float(values[0]), float(values[1])


def _triple(values: list[float]) -> Triple:
    return float(values[0]), float(values[1]), float(values[2])


#: What a project of format 2 lacked.
_NO_VIEWS = {**views_json(Document()), "loose": [], "references": []}


def from_format_2(tree: Json) -> Json:
    """A project of format 2, whose drawings stood where they were told, as one of format 3."""
    drawn_before = {"showing": showing_json(Showing()), "stand_auto": False, "formulas": {}}
    return {
        **_NO_VIEWS,
        **NO_LANDMARKS,
        **tree,
        "version": 3,
        "drawings": _each_with(tree.get("drawings"), {**drawn_before, "group": None}),
        "meshes": _each_with(tree.get("meshes"), {"group": None}),
    }


def _each_with(items: Any, usual: Json) -> Any:
    """The usual values for what each lacks; what is no list of objects is left to the schema."""
    if not isinstance(items, list) or not all(isinstance(item, dict) for item in items):
        return items
    return [{**usual, **item} for item in items]


def from_format_4(tree: Json) -> Json:
    """A project of format 4, in which meshes were only shapes, as one of 5."""
    meshes = tree.get("meshes")
    if isinstance(meshes, list):
        plain: Json = {"even": [], "made": None}
        meshes = [{**plain, **m} if isinstance(m, dict) else m for m in meshes]
    return {**tree, "meshes": meshes, "version": 5}

"""Drawings: image planes in space."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from dimetron.document import edits, json_sheets, json_views
from dimetron.document.kind import Extent, ItemKind, Json, Naming, Reading, Told
from dimetron.document.model import Document, Drawing
from dimetron.geometry import placement as place
from dimetron.geometry.placement import Placement
from dimetron.geometry.views import AnyView, Auxiliary
from dimetron.imaging.figure.kind import Kind
from dimetron.mesh.arrays import Floats


def _to_json(drawing: Drawing) -> Json:
    p = drawing.placement
    return {
        "id": drawing.id,
        "name": drawing.name,
        "view": drawing.view.key,
        "sheet": drawing.sheet,
        "crop": json_sheets.crop_json(drawing.crop),
        "straightening": json_sheets.straightening_json(drawing.straightening),
        "tone": None if drawing.tone is None else json_sheets.tone_json(drawing.tone),
        "placed": drawing.placed,
        "named": drawing.named,
        "unsure": drawing.unsure,
        "placement": {
            "mm_per_px": p.mm_per_px,
            "stretch": p.pixel_aspect,
            "rotation_deg": p.rotation_deg,
            "mirrored": p.mirrored,
            "anchor_px": list(p.anchor_px),
            "anchor_mm": list(p.anchor_mm),
            "stand_off_mm": p.stand_off_mm,
        },
        "shown": drawing.shown,
        "held": drawing.held,
        "fade": drawing.opacity,
        "aspect_locked": drawing.aspect_locked,
        "showing": json_views.showing_json(drawing.showing),
        "stand_auto": drawing.stand_auto,
        "group": drawing.group,
        "formulas": dict(drawing.formulas),
        "body": drawing.body,
        "drawn": "" if drawing.drawn is None else drawing.drawn.value,
        "fit_by": drawing.fit_by,
        "left_out": [[list(px) for px in part] for part in drawing.left_out],
    }


def _from_json(tree: Json, reading: Reading) -> Drawing:
    p = tree["placement"]
    return Drawing(
        tree["id"],
        tree["name"],
        reading.views[tree["view"]],
        tree["sheet"],
        Placement(
            mm_per_px=float(p["mm_per_px"]),
            anchor_px=(float(p["anchor_px"][0]), float(p["anchor_px"][1])),
            anchor_mm=(float(p["anchor_mm"][0]), float(p["anchor_mm"][1])),
            rotation_deg=float(p["rotation_deg"]),
            mirrored=p["mirrored"],
            stand_off_mm=float(p["stand_off_mm"]),
            pixel_aspect=float(p["stretch"]),
        ),
        crop=json_sheets.crop(tree["crop"]),
        straightening=json_sheets.straightening(tree["straightening"]),
        tone=None if tree["tone"] is None else json_sheets.tone(tree["tone"]),
        placed=tree["placed"],
        named=tree["named"],
        unsure=tree.get("unsure", ""),
        shown=tree["shown"],
        held=tree["held"],
        opacity=float(tree["fade"]),
        aspect_locked=tree.get("aspect_locked", True),
        showing=json_views.showing(tree["showing"]),
        stand_auto=tree["stand_auto"],
        group=tree["group"],
        formulas=tuple(tree["formulas"].items()),
        body=tree["body"],
        drawn=Kind(tree["drawn"]) if tree["drawn"] else None,
        fit_by=tree["fit_by"],
        left_out=tuple(tuple((float(x), float(y)) for x, y in part) for part in tree["left_out"]),
    )


def _inclined(drawing: Drawing) -> Iterable[str]:
    return (drawing.view.id,) if isinstance(drawing.view, Auxiliary) else ()


def _bounds(doc: Document, drawings: Sequence[Drawing]) -> Iterable[Extent]:
    """A drawing counts with the two axes it shows; its stand-off does not."""
    of_view: dict[AnyView, list[Floats]] = {}
    for drawing in drawings:
        if drawing.placed:
            view = drawing.view
            depth = view.depth_mm if isinstance(view, Auxiliary) else 0.0
            corners = drawing.placement.world_corners(view, doc.size_px(drawing), depth)
            of_view.setdefault(view, []).append(corners)
    for view, quads in of_view.items():
        # A plane that is inclined shows where it lies along every axis.
        axes = [0, 1, 2] if isinstance(view, Auxiliary) else list(view.axes)
        yield Extent(axes, np.concatenate(quads)[:, axes])


def _lies(doc: Document, drawing: Drawing) -> Floats | None:
    return edits.world_corners(doc, drawing) if drawing.placed else None


def _scaled(drawing: Drawing, factor: float, views: Mapping[str, Auxiliary]) -> Drawing:
    p = drawing.placement
    placement = replace(
        p,
        mm_per_px=p.mm_per_px * factor,
        anchor_mm=(p.anchor_mm[0] * factor, p.anchor_mm[1] * factor),
        stand_off_mm=p.stand_off_mm * factor,
    )
    view = views[drawing.view.id] if isinstance(drawing.view, Auxiliary) else drawing.view
    return replace(drawing, placement=placement, view=view)


def _told(doc: Document, drawing: Drawing) -> Json:
    corners = edits.world_corners(doc, drawing)
    view, size_px = drawing.view, doc.size_px(drawing)
    return {
        "name": drawing.name,
        "view": view.title.lower() if view in doc.auxiliaries else view.key,
        "picture": doc.sheet(drawing.sheet).name,
        "placed": drawing.placed,
        "size_px": list(size_px),
        "size_mm": [round(s, 4) for s in drawing.placement.size_mm(size_px)],
        "mm_per_px": drawing.placement.mm_per_px,
        "rotation_deg": drawing.placement.rotation_deg,
        "mirrored": drawing.placement.mirrored,
        "position_mm": _rounded(corners.mean(axis=0)),
        "corners_mm": _rounded(corners),
        "shown": drawing.shown,
        "held": drawing.held,
    }


def _rounded(points: Floats) -> Any:
    return points.round(6).tolist()


def _words(told: Json) -> str:
    w, h = told["size_mm"]
    scale = f"{told['mm_per_px']:.6g} mm per pixel"
    return f"drawing  {told['name']}: {told['view']}, {w:g} × {h:g} mm, {scale}"


KIND = ItemKind(
    "drawing",
    "drawings",
    Drawing,
    _to_json,
    _from_json,
    Told("drawings", _told, _words),
    names=(
        Naming("drawings", "sheet", lambda d: (d.sheet,)),
        Naming("drawings", "auxiliary", _inclined),
    ),
    bounds=_bounds,
    lies=_lies,
    scaled=_scaled,
    moved=lambda d, by, view: replace(d, placement=place.moved(d.placement, by)),
)

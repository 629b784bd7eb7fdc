"""Loose pictures: they lie beside the object, not in space."""

from __future__ import annotations

from dimetron.document import json_sheets
from dimetron.document.kind import ItemKind, Json, Naming, Reading, Told
from dimetron.document.model import Document
from dimetron.document.parts import Floating, LoosePicture


def _to_json(item: LoosePicture) -> Json:
    floating = item.floating
    return {
        "id": item.id,
        "name": item.name,
        "sheet": item.sheet,
        "crop": json_sheets.crop_json(item.crop),
        "straightening": json_sheets.straightening_json(item.straightening),
        "tone": None if item.tone is None else json_sheets.tone_json(item.tone),
        "middle": list(item.middle),
        "zoom": item.zoom,
        "floating": None
        if floating is None
        else {"slot": floating.slot, "at": list(floating.at), "size": list(floating.size)},
        "shown": item.shown,
        "held": item.held,
        "group": item.group,
    }


def _from_json(tree: Json, reading: Reading) -> LoosePicture:
    floating = tree["floating"]
    return LoosePicture(
        tree["id"],
        tree["name"],
        tree["sheet"],
        json_sheets.crop(tree["crop"]),
        json_sheets.straightening(tree["straightening"]),
        None if tree["tone"] is None else json_sheets.tone(tree["tone"]),
        _pair(tree["middle"]),
        float(tree["zoom"]),
        None
        if floating is None
        else Floating(floating["slot"], _pair(floating["at"]), _pair(floating["size"])),
        tree["shown"],
        tree["held"],
        tree["group"],
    )


def _pair(values: list[float]) -> tuple[float, float]:
    return float(values[0]), float(values[1])


def _told(doc: Document, item: LoosePicture) -> Json:
    return {"name": item.name, "size_px": list(doc.size_px(item))}


def _words(told: Json) -> str:
    return f"loose    {told['name']}: {told['size_px'][0]} × {told['size_px'][1]} px"


KIND = ItemKind(
    "loose",
    "loose",
    LoosePicture,
    _to_json,
    _from_json,
    Told("loose_pictures", _told, _words),
    names=(Naming("loose", "sheet", lambda p: (p.sheet,)),),
)

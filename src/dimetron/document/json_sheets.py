"""What is done to sheets and drawings, as plain JSON and back; and projects of format 1."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

from dimetron.document.model import Drawing, Sheet
from dimetron.document.parts import LoosePicture
from dimetron.imaging.figure.kind import Kind
from dimetron.imaging.figure.said import Colour, Figure, Touch
from dimetron.imaging.flat import Circle, Rectangle
from dimetron.imaging.frame import Crop, Flattening, Straightening, drawing_frame, sheet_frame
from dimetron.imaging.page import Page
from dimetron.imaging.tone import Tone

Json = dict[str, Any]


def sheet_json(sheet: Sheet) -> Json:
    """A sheet as JSON."""
    flat = sheet.flattening
    return {
        "id": sheet.id,
        "name": sheet.name,
        "source": sheet.source,
        "size_px": list(sheet.size_px),
        "page": sheet.page.number,
        "drawn_at_dpi": sheet.page.dpi,
        "mm_per_px": sheet.mm_per_px,
        "flattening": {
            "bulge": flat.bulge,
            "known": _known_json(flat.known),
            "straightening": straightening_json(flat.straightening),
            "scale": flat.scale,
        },
        "tone": tone_json(sheet.tone),
        "figure": _figure_json(sheet.figure),
    }


def _figure_json(figure: Figure) -> Json:
    return {
        "drawn": "" if figure.kind is None else figure.kind.value,
        "light": figure.light,
        "guides": [list(colour) for colour in figure.guides],
        "touches": [
            {"points": [list(p) for p in t.points], "radius": t.radius, "adds": t.adds}
            for t in figure.touches
        ],
    }


def _known_json(known: Rectangle | Circle | None) -> Json | None:
    if isinstance(known, Rectangle):
        return {
            "kind": "rectangle",
            "corners_px": [list(c) for c in known.corners],
            "sides": list(known.sides),
            "measured": known.measured,
        }
    if isinstance(known, Circle):
        return {
            "kind": "circle",
            "rim_px": [list(p) for p in known.rim],
            "centre_px": list(known.centre),
            "diameter_mm": known.diameter_mm,
        }
    return None


def straightening_json(how: Straightening) -> Json:
    """Turn and mirror as JSON."""
    return asdict(how)


def crop_json(crop: Crop | None) -> list[float] | None:
    """Left, top, width and height; None for all of the sheet."""
    return None if crop is None else [crop.left, crop.top, crop.width, crop.height]


def tone_json(tone: Tone) -> Json:
    """A tone as JSON."""
    return {key: list(v) if isinstance(v, tuple) else v for key, v in asdict(tone).items()}


def sheet(tree: Json) -> Sheet:
    """Raises FrameError or ToneError for values without meaning."""
    flat = tree["flattening"]
    dpi, scale = tree["drawn_at_dpi"], tree["mm_per_px"]
    return Sheet(
        tree["id"],
        tree["name"],
        tree["source"],
        (tree["size_px"][0], tree["size_px"][1]),
        Page(tree["page"], None if dpi is None else float(dpi)),
        None if scale is None else float(scale),
        Flattening(
            float(flat["bulge"]),
            _known(flat["known"]),
            straightening(flat["straightening"]),
            float(flat["scale"]),
        ),
        tone(tree["tone"]),
        _figure(tree["figure"]),
    )


def _figure(tree: Json) -> Figure:
    return Figure(
        Kind(tree["drawn"]) if tree["drawn"] else None,
        tree["light"],
        tuple(_colour(c) for c in tree["guides"]),
        tuple(
            Touch(tuple(_pair(p) for p in t["points"]), float(t["radius"]), t["adds"])
            for t in tree["touches"]
        ),
    )


def _colour(values: Sequence[int]) -> Colour:
    return int(values[0]), int(values[1]), int(values[2])


def _known(tree: Json | None) -> Rectangle | Circle | None:
    if tree is None:
        return None
    if tree["kind"] == "circle":
        rim = tuple(_pair(p) for p in tree["rim_px"])
        return Circle(rim, _pair(tree["centre_px"]), float(tree["diameter_mm"]))
    a, b, c, d = (_pair(p) for p in tree["corners_px"])
    return Rectangle((a, b, c, d), _pair(tree["sides"]), tree["measured"])


def _pair(values: Sequence[float]) -> tuple[float, float]:
    return float(values[0]), float(values[1])


def straightening(tree: Json) -> Straightening:
    """The way back from ``straightening_json``."""
    return Straightening(tree["turns"], float(tree["angle_deg"]), tree["mirrored"])


def crop(values: Sequence[float] | None) -> Crop | None:
    """The way back from ``crop_json``. Raises FrameError."""
    return None if values is None else Crop(*(float(v) for v in values))


def tone(tree: Json) -> Tone:
    """The way back from ``tone_json``. Raises ToneError."""
    fixed: Json = {key: tuple(v) if isinstance(v, list) else v for key, v in tree.items()}
    return Tone(**fixed)


def check_frames(sheets: Sequence[Sheet], drawings: Sequence[Drawing | LoosePicture]) -> None:
    """Raises FrameError if a sheet cannot be flattened or a drawing cut as the file says."""
    frames = {s.id: sheet_frame(s.size_px, s.flattening) for s in sheets}
    for drawing in drawings:
        drawing_frame(frames[drawing.sheet], drawing.crop, drawing.straightening)


def upgraded(tree: Json) -> Json:
    """A project of format 1, in which each picture was one drawing, as one of format 2."""
    if tree.get("version") != 1 or not isinstance(tree.get("sources"), list):
        return tree
    sheets = [
        {
            **sheet_json(Sheet(f"{source.get('id')}-1", "", "", (1, 1))),
            "name": source.get("name"),
            "source": source.get("id"),
            "size_px": source.get("size_px"),
            "mm_per_px": source.get("mm_per_px"),
        }
        for source in tree["sources"]
        if isinstance(source, dict)
    ]
    cut = {
        "crop": None,
        "straightening": straightening_json(Straightening()),
        "tone": None,
        "placed": True,
        "named": True,
    }
    old = tree.get("drawings")
    drawings = [
        {**{k: v for k, v in d.items() if k != "source"}, "sheet": f"{d.get('source')}-1", **cut}
        for d in (old if isinstance(old, list) else [])
        if isinstance(d, dict)
    ]
    return {**tree, "version": 2, "sheets": sheets, "drawings": drawings}


def from_format_5(tree: Json) -> Json:
    """A project of format 5, in which drawings of one sheet were sized each by itself, as one of
    6."""
    drawings = tree.get("drawings")
    if isinstance(drawings, list):
        drawings = [{"body": "", **d} if isinstance(d, dict) else d for d in drawings]
    return {**tree, "drawings": drawings, "version": 6}


def from_format_6(tree: Json) -> Json:
    """A project of format 6, in which what a drawing consists of was told each time and its ground
    always shown, as one of 7."""
    drawings = tree.get("drawings")
    if isinstance(drawings, list):
        drawings = [_from_6(d) if isinstance(d, dict) else d for d in drawings]
    return {**tree, "drawings": drawings, "version": 7}


def _from_6(drawing: Json) -> Json:
    showing = drawing.get("showing")
    if isinstance(showing, dict):
        drawing = {**drawing, "showing": {"ink_alone": False, **showing}}
    return {"drawn": "", **drawing}


def from_format_7(tree: Json) -> Json:
    """A project of format 7, in which nothing was said about what is drawn on a sheet, as one of
    8."""
    sheets = tree.get("sheets")
    if isinstance(sheets, list):
        nothing = _figure_json(Figure())
        sheets = [{"figure": nothing, **s} if isinstance(s, dict) else s for s in sheets]
    return {**tree, "sheets": sheets, "version": 8}

"""``project.json``: the document as plain JSON and back, held against its schema."""

from __future__ import annotations

import json
import re
from functools import cache
from importlib.resources import files
from typing import Any

from dimetron import __version__
from dimetron.document import aside, known, meshing, prepared
from dimetron.document.model import Document, Drawing, Source
from dimetron.document.references import tidied
from dimetron.geometry.placement import Placement, PlacementError
from dimetron.geometry.units import Unit
from dimetron.geometry.views import AnyView, Projection, View
from dimetron.imaging.flat import FrameError
from dimetron.imaging.tone import ToneError
from dimetron.mesh.mesh import Mesh

FORMAT_VERSION = 5


class ProjectError(ValueError):
    """The file is not a project that can be opened; the message says why and what to do."""


@cache
def schema() -> dict[str, Any]:
    """The JSON Schema of ``project.json``."""
    text = files("dimetron.document").joinpath("project.schema.json").read_text("utf-8")
    return dict(json.loads(text))


def source_file(source: Source) -> str:
    return f"sources/{source.id}.{source.extension}"


def to_json(doc: Document) -> dict[str, Any]:
    """The document without the bytes of pictures and meshes."""
    return {
        "format": "dimetron",
        "version": FORMAT_VERSION,
        "written_by": f"Dimetron {__version__}",
        "unit": doc.unit.value,
        "projection": doc.projection.value,
        "sources": [
            {
                "id": s.id,
                "name": s.name,
                "file": source_file(s),
                "size_px": list(s.size_px),
                "sha256": s.sha256,
                "mm_per_px": s.mm_per_px,
            }
            for s in doc.sources
        ],
        "sheets": [prepared.sheet_json(s) for s in doc.sheets],
        "drawings": [_drawing_json(d) for d in doc.drawings],
        "meshes": [meshing.mesh_json(m) for m in doc.meshes],
        **aside.aside_json(doc),
        **known.known_json(doc),
    }


def _drawing_json(drawing: Drawing) -> dict[str, Any]:
    p = drawing.placement
    return {
        "id": drawing.id,
        "name": drawing.name,
        "view": drawing.view.key,
        "sheet": drawing.sheet,
        "crop": prepared.crop_json(drawing.crop),
        "straightening": prepared.straightening_json(drawing.straightening),
        "tone": None if drawing.tone is None else prepared.tone_json(drawing.tone),
        "placed": drawing.placed,
        "named": drawing.named,
        "unsure": drawing.unsure,
        "placement": {
            "mm_per_px": p.mm_per_px,
            "stretch": p.stretch,
            "rotation_deg": p.rotation_deg,
            "mirrored": p.mirrored,
            "anchor_px": list(p.anchor_px),
            "anchor_mm": list(p.anchor_mm),
            "stand_off_mm": p.stand_off_mm,
        },
        "shown": drawing.shown,
        "held": drawing.held,
        "fade": drawing.fade,
        "aspect_locked": drawing.aspect_locked,
        "showing": aside.showing_json(drawing.showing),
        "stand_auto": drawing.stand_auto,
        "group": drawing.group,
        "formulas": dict(drawing.formulas),
    }


def parsed(data: bytes, name: str, notes: list[str] | None = None) -> dict[str, Any]:
    """Read and check ``project.json``; what was left out of it is added to ``notes``.

    Raises ProjectError.
    """
    try:
        tree = json.loads(data.decode("utf-8"), parse_constant=_no_number)
    except (ValueError, RecursionError) as error:
        raise ProjectError(
            f"{name} is damaged: its project.json cannot be read. Open an older copy."
        ) from error
    if not isinstance(tree, dict) or tree.get("format") != "dimetron":
        raise ProjectError(f"{name} is not a Dimetron project.")
    if _HALF_A_LETTER.search(data) and not _is_text(tree):
        raise ProjectError(f"{name} is damaged: a name in it is no text. Open an older copy.")
    version = tree.get("version")
    if isinstance(version, int) and version > FORMAT_VERSION:
        raise ProjectError(
            f"{name} was written by a newer Dimetron (format {version}; this one reads up to "
            f"{FORMAT_VERSION}). Update Dimetron to open it."
        )
    tree = prepared.upgraded(tree)
    for before, upgraded in _UPGRADES.items():
        if tree.get("version") == before:
            tree = upgraded(tree)
    if not _validator().is_valid(tree):
        tree, left_out = _without_spoiled_looks(tree)
        if notes is not None:
            notes.extend(left_out)
    where = _fault(tree)
    if where:
        raise ProjectError(f"{name} is damaged: {where}. Open an older copy.")
    return tree


#: From each format to the next one, in order.
_UPGRADES = {
    2: aside.from_format_2,
    3: known.from_format_3,
    4: meshing.from_format_4,
}
#: How JSON spells half of a letter beyond the first 65,536; two make one.
_HALF_A_LETTER = re.compile(rb"\\u[dD][89abAB]|\\u[dD][c-fC-F]")


def _is_text(tree: Any) -> bool:
    """Whether all strings in a tree can be written as UTF-8."""
    try:
        json.dumps(tree, ensure_ascii=False).encode()
    except UnicodeEncodeError:
        return False
    return True


def _no_number(text: str) -> float:
    raise ValueError(f"{text} is no number")


@cache
def _validator(of: str = "") -> Any:
    """The compiled schema, or that of one of its definitions."""
    import jsonschema_rs  # only opening and saving a file need it

    if not of:
        return jsonschema_rs.validator_for(schema())
    return jsonschema_rs.validator_for({"$ref": f"#/$defs/{of}", "$defs": schema()["$defs"]})


def _without_spoiled_looks(tree: dict[str, Any]) -> tuple[dict[str, Any], list[str]]:
    """Looks that an earlier version kept from farther away than the file takes are no loss."""
    looks = tree.get("looks")
    if not isinstance(looks, list):
        return tree, []
    kept = [look for look in looks if _validator("look").is_valid(look)]
    if len(kept) == len(looks):
        return tree, []
    return {**tree, "looks": kept}, ["A kept look of the board was damaged and was left out."]


def _fault(tree: dict[str, Any]) -> str:
    """What is wrong with a tree, in words; empty if it can be a document."""
    if not _validator().is_valid(tree):
        fault = next(_validator().iter_errors(tree))
        where = "/".join(str(step) for step in fault.instance_path) or "the top"
        return f"project.json is wrong at {where}"
    kinds = (
        *("sources", "sheets", "drawings", "meshes"),
        *("auxiliaries", "loose", "references", "groups", "looks"),
    )
    ids = [item["id"] for kind in kinds for item in tree[kind]]
    if len(set(ids)) != len(ids):
        return "an id stands twice in it"
    files = [s["file"] for s in tree["sources"]]
    if len(set(files)) != len(files):
        return "two pictures in it name one file"
    sources = {s["id"] for s in tree["sources"]}
    sheets = {s["id"] for s in tree["sheets"]}
    wanted = [(s["name"], s["source"], sources) for s in tree["sheets"]]
    wanted += [(d["name"], d["sheet"], sheets) for d in (*tree["drawings"], *tree["loose"])]
    for item, of, there in wanted:
        if of not in there:
            return f"“{item}” names a picture that is not listed"
    views = {view.value for view in View} | {a["id"] for a in tree["auxiliaries"]}
    for drawing in tree["drawings"]:
        if drawing["view"] not in views:
            return f"“{drawing['name']}” shows a view that is not listed"
    return ""


def check(doc: Document) -> None:
    """Raises ProjectError, saying where, if what would be written of a document could not be
    read again."""
    tree = to_json(doc)
    where = _fault(tree) or ("" if _is_text(tree) else "a name in it is no text")
    if where:
        raise ProjectError(where)
    read = from_json(tree, {}, {m.id: m.mesh for m in doc.meshes}, "it")
    if tidied(read) is not read:
        raise ProjectError("something in it names what is not there")


def from_json(
    tree: dict[str, Any], pictures: dict[str, bytes], meshes: dict[str, Mesh], name: str
) -> Document:
    """Build the document from a checked tree and the members by their id.

    A source without bytes stays, empty; a mesh that is not given is left out.
    Raises ProjectError for a placement without meaning.
    """
    try:
        sheets = tuple(prepared.sheet(s) for s in tree["sheets"])
        auxiliaries = tuple(aside.auxiliary(a) for a in tree["auxiliaries"])
        views: dict[str, AnyView] = {view.key: view for view in (*View, *auxiliaries)}
        drawings = tuple(_drawing(d, views) for d in tree["drawings"])
        loose = tuple(aside.loose(p) for p in tree["loose"])
        prepared.check_frames(sheets, (*drawings, *loose))
    except (PlacementError, FrameError, ToneError) as error:
        raise ProjectError(f"{name} is damaged: {error} Open an older copy.") from error
    return Document(
        unit=Unit(tree["unit"]),
        projection=Projection(tree["projection"]),
        sources=tuple(
            Source(
                s["id"],
                s["name"],
                s["file"].rpartition(".")[2],
                (s["size_px"][0], s["size_px"][1]),
                s["sha256"],
                pictures.get(s["id"]),
                s.get("mm_per_px"),
            )
            for s in tree["sources"]
        ),
        sheets=sheets,
        drawings=drawings,
        meshes=tuple(
            meshing.mesh_item(m, meshes[m["id"]]) for m in tree["meshes"] if m["id"] in meshes
        ),
        auxiliaries=auxiliaries,
        loose=loose,
        references=tuple(aside.reference(r) for r in tree["references"]),
        groups=tuple(aside.group(g) for g in tree["groups"]),
        looks=tuple(aside.look(look) for look in tree["looks"]),
        order=tuple(tree["order"]),
        solo=tuple(tree["solo"]),
        **known.known_from(tree),
    )


def _drawing(tree: dict[str, Any], views: dict[str, AnyView]) -> Drawing:
    p = tree["placement"]
    return Drawing(
        tree["id"],
        tree["name"],
        views[tree["view"]],
        tree["sheet"],
        Placement(
            mm_per_px=float(p["mm_per_px"]),
            anchor_px=(float(p["anchor_px"][0]), float(p["anchor_px"][1])),
            anchor_mm=(float(p["anchor_mm"][0]), float(p["anchor_mm"][1])),
            rotation_deg=float(p["rotation_deg"]),
            mirrored=p["mirrored"],
            stand_off_mm=float(p["stand_off_mm"]),
            stretch=float(p["stretch"]),
        ),
        crop=prepared.crop(tree["crop"]),
        straightening=prepared.straightening(tree["straightening"]),
        tone=None if tree["tone"] is None else prepared.tone(tree["tone"]),
        placed=tree["placed"],
        named=tree["named"],
        unsure=tree.get("unsure", ""),
        shown=tree["shown"],
        held=tree["held"],
        fade=float(tree["fade"]),
        aspect_locked=tree.get("aspect_locked", True),
        showing=aside.showing(tree["showing"]),
        stand_auto=tree["stand_auto"],
        group=tree["group"],
        formulas=tuple(tree["formulas"].items()),
    )

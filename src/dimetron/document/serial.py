"""``project.json``: the document as plain JSON and back, held against its schema."""

from __future__ import annotations

import json
import re
from functools import cache
from importlib.resources import files
from typing import Any

from dimetron import __version__
from dimetron.document import handing, json_checks, json_landmarks, json_sheets, json_views
from dimetron.document.kind import ItemKind, Reading, filed, kinds
from dimetron.document.model import Document, Pictured, Source
from dimetron.document.naming import tidied
from dimetron.geometry.placement import PlacementError
from dimetron.geometry.units import Unit
from dimetron.geometry.views import AnyView, Projection, View
from dimetron.imaging.flat import FrameError
from dimetron.imaging.tone import ToneError
from dimetron.outlines.path import OutlineError

FORMAT_VERSION = 13


class ProjectError(ValueError):
    """The file is not a project that can be opened; the message says why and what to do."""


@cache
def schema() -> dict[str, Any]:
    """The JSON Schema of ``project.json``."""
    text = files("dimetron.document").joinpath("project.schema.json").read_text("utf-8")
    whole: dict[str, Any] = json.loads(text)
    for kind in kinds():
        if kind.schema is not None:
            whole["$defs"][kind.name] = kind.schema
            items = {"type": "array", "maxItems": 10000, "items": {"$ref": f"#/$defs/{kind.name}"}}
            whole["properties"][kind.field] = items
    return whole


def source_file(source: Source) -> str:
    """Where a picture's file lies in the project."""
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
        "sheets": [json_sheets.sheet_json(s) for s in doc.sheets],
        **{kind.field: [kind.to_json(item) for item in kind.of(doc)] for kind in kinds()},
        **json_views.views_json(doc),
        **json_landmarks.landmarks_json(doc),
        **json_checks.checks_json(doc),
        **handing.handing_json(doc),
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
    tree = json_sheets.upgraded(tree)
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


def _from_format_8(tree: dict[str, Any]) -> dict[str, Any]:
    """A project of format 8, which had no outlines, as one of 9."""
    return {"outlines": [], "guides": [], **tree, "version": 9}


def _from_format_9(tree: dict[str, Any]) -> dict[str, Any]:
    """A project of format 9, in which nothing was made with picked places and no outline was an
    opening, as one of 10."""
    outlines = tree.get("outlines")
    if isinstance(outlines, list):
        outlines = [{"opening": False, **o} if isinstance(o, dict) else o for o in outlines]
    return {**tree, "outlines": outlines, "version": 10}


def _from_format_10(tree: dict[str, Any]) -> dict[str, Any]:
    """A project of format 10, whose meshes were shown as they are, as one of 11."""
    meshes = tree.get("meshes")
    if isinstance(meshes, list):
        plain = {
            "smooth": {"view": 0, "export": 0, "shown": "both"},
            "colour": "",
            "opacity": 1.0,
            "guide": False,
        }
        meshes = [{**plain, **m} if isinstance(m, dict) else m for m in meshes]
    return {"versions": [], **tree, "meshes": meshes, "version": 11}


def _from_format_11(tree: dict[str, Any]) -> dict[str, Any]:
    """A project of format 11, in which meshes were held against all ink and nothing was checked, as
    one of 12."""
    drawings = tree.get("drawings")
    if isinstance(drawings, list):
        plain: dict[str, Any] = {"fit_by": "ink", "left_out": []}
        drawings = [{**plain, **d} if isinstance(d, dict) else d for d in drawings]
    return {"sizes": [], "notes": [], **tree, "drawings": drawings, "version": 12}


def _from_format_12(tree: dict[str, Any]) -> dict[str, Any]:
    """A project of format 12, which did not remember how it was handed off, as one of 13."""
    return {"hand_off": {}, **tree, "version": 13}


#: From each format to the next one, in order.
_UPGRADES = {
    2: json_views.from_format_2,
    3: json_landmarks.from_format_3,
    4: json_views.from_format_4,
    5: json_sheets.from_format_5,
    6: json_sheets.from_format_6,
    7: json_sheets.from_format_7,
    8: _from_format_8,
    9: _from_format_9,
    10: _from_format_10,
    11: _from_format_11,
    12: _from_format_12,
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
    fields = ("sources", "sheets", *(k.field for k in kinds()), "auxiliaries", "groups", "looks")
    ids = [item["id"] for field in fields for item in tree.get(field, ())]
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
    for item in (*tree["drawings"], *tree.get("outlines", ()), *tree.get("guides", ())):
        if item["view"] is not None and item["view"] not in views:
            return f"“{item['name']}” shows a view that is not listed"
    return ""


def check(doc: Document) -> None:
    """Raises ProjectError, saying where, if what would be written of a document could not be
    read again."""
    tree = to_json(doc)
    where = _fault(tree) or ("" if _is_text(tree) else "a name in it is no text")
    if where:
        raise ProjectError(where)
    # Their own files are checked as they are written.
    members = {item.id: member.held(item) for member, item in filed(doc)}
    read = from_json(tree, {}, members, "it")
    if tidied(read) is not read:
        raise ProjectError("something in it names what is not there")


def from_json(
    tree: dict[str, Any], pictures: dict[str, bytes], members: dict[str, Any], name: str
) -> Document:
    """Build the document from a checked tree, the bytes of pictures and what items' own files held,
    by their ids.

    A source without bytes stays, empty; an item without its file is left out.
    Raises ProjectError for a placement without meaning.
    """
    try:
        sheets = tuple(json_sheets.sheet(s) for s in tree["sheets"])
        auxiliaries = tuple(json_views.auxiliary(a) for a in tree["auxiliaries"])
        views: dict[str, AnyView] = {view.key: view for view in (*View, *auxiliaries)}
        reading = Reading(views, members)
        items = {kind: _items(kind, tree, reading) for kind in kinds()}
        pictured = [i for some in items.values() for i in some if isinstance(i, Pictured)]
        json_sheets.check_frames(sheets, pictured)
    except (PlacementError, FrameError, ToneError, OutlineError) as error:
        raise ProjectError(f"{name} is damaged: {error} Open an older copy.") from error
    doc = Document(
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
        auxiliaries=auxiliaries,
        groups=tuple(json_views.group(g) for g in tree["groups"]),
        looks=tuple(json_views.look(look) for look in tree["looks"]),
        order=tuple(tree["order"]),
        solo=tuple(tree["solo"]),
        **json_landmarks.landmarks_from(tree),
        **json_checks.checks_from(tree),
        **handing.handing_from(tree),
    )
    for kind, some in items.items():
        doc = kind.put(doc, some)
    return doc


def _items(kind: ItemKind, tree: dict[str, Any], reading: Reading) -> list[Any]:
    """Items of a kind; those whose own file is missing are left out."""
    there = tree.get(kind.field, ())
    if kind.member is not None:
        there = [item for item in there if item["id"] in reading.members]
    return [kind.from_json(item, reading) for item in there]

"""Versions of meshes: each shape lies in a file of its own in the project."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from dimetron.counting import counted
from dimetron.document.kind import ItemKind, Json, Member, Naming, Reading, Told
from dimetron.document.model import Document
from dimetron.document.version import Version
from dimetron.geometry.views import Auxiliary
from dimetron.mesh.ply import from_ply, to_ply

_SCHEMA: Json = {
    "type": "object",
    "required": ["id", "name", "file", "of", "shown", "held", "group"],
    "properties": {
        "id": {"$ref": "#/$defs/id"},
        "name": {"$ref": "#/$defs/name"},
        "file": {"type": "string", "pattern": "^versions/[A-Za-z0-9_-]{1,64}\\.ply$"},
        "of": {"description": "the id of a mesh", "$ref": "#/$defs/id"},
        "shown": {"type": "boolean"},
        "held": {"type": "boolean"},
        "group": {"anyOf": [{"type": "null"}, {"$ref": "#/$defs/id"}]},
    },
}


def version_file(item: Version) -> str:
    """Where its shape lies in the project."""
    return f"versions/{item.id}.ply"


def _to_json(item: Version) -> Json:
    return {
        "id": item.id,
        "name": item.name,
        "file": version_file(item),
        "of": item.of,
        "shown": item.shown,
        "held": item.held,
        "group": item.group,
    }


def _from_json(tree: Json, reading: Reading) -> Version:
    return Version(
        tree["id"],
        tree["name"],
        reading.members[tree["id"]],
        tree["of"],
        tree["shown"],
        tree["held"],
        tree["group"],
    )


def _scaled(item: Version, factor: float, views: Mapping[str, Auxiliary]) -> Version:
    return replace(item, mesh=item.mesh.with_positions(item.mesh.positions * factor))


def _told(doc: Document, item: Version) -> Json:
    return {"name": item.name, "of": item.of, "faces": item.mesh.topology.face_count}


def _words(told: Json) -> str:
    return f"version  {told['name']}: {counted(told['faces'], 'face', 'faces')}"


KIND = ItemKind(
    "version",
    "versions",
    Version,
    _to_json,
    _from_json,
    Told("versions", _told, _words),
    schema=_SCHEMA,
    names=(Naming("versions", "item", lambda version: (version.of,)),),
    member=Member(version_file, lambda item: item.mesh, to_ply, from_ply),
    scaled=_scaled,
)

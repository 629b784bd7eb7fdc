"""Meshes as JSON: what they are beside their shape, which lies in a file of its own."""

from __future__ import annotations

from typing import Any

from dimetron.document.model import Made, MeshObject
from dimetron.mesh.mesh import Mesh

Json = dict[str, Any]


def mesh_file(item: MeshObject) -> str:
    return f"meshes/{item.id}.ply"


def mesh_json(item: MeshObject) -> Json:
    return {
        "id": item.id,
        "name": item.name,
        "file": mesh_file(item),
        "shown": item.shown,
        "held": item.held,
        "group": item.group,
        "even": list(item.even),
        "made": None if item.made is None else _made_json(item.made),
    }


def _made_json(made: Made) -> Json:
    return {"by": made.by, "numbers": dict(made.numbers), "of": list(made.of)}


def mesh_item(tree: Json, mesh: Mesh) -> MeshObject:
    made = tree["made"]
    return MeshObject(
        tree["id"],
        tree["name"],
        mesh,
        tree["shown"],
        tree["held"],
        tree["group"],
        tuple(tree["even"]),
        None
        if made is None
        else Made(made["by"], tuple(made["numbers"].items()), tuple(made["of"])),
    )


def from_format_4(tree: Json) -> Json:
    """A project of format 4, in which meshes were only shapes, as one of 5."""
    meshes = tree.get("meshes")
    if isinstance(meshes, list):
        plain: Json = {"even": [], "made": None}
        meshes = [{**plain, **m} if isinstance(m, dict) else m for m in meshes]
    return {**tree, "meshes": meshes, "version": 5}

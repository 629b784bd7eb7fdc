"""Meshes: their shape lies in a file of its own in the project."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, replace
from typing import Any

import numpy as np

from dimetron.document.kind import Extent, ItemKind, Json, Member, Naming, Reading, Told
from dimetron.document.making import scaled_made
from dimetron.document.model import Document, Made, MeshObject, Smoothing
from dimetron.geometry.views import Auxiliary
from dimetron.mesh.arrays import Floats
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.ply import from_ply, to_ply


def mesh_file(item: MeshObject) -> str:
    """Where its shape lies in the project."""
    return f"meshes/{item.id}.ply"


def _to_json(item: MeshObject) -> Json:
    return {
        "id": item.id,
        "name": item.name,
        "file": mesh_file(item),
        "shown": item.shown,
        "held": item.held,
        "group": item.group,
        "even": list(item.even),
        "made": None if item.made is None else _made_json(item.made),
        "smooth": asdict(item.smooth),
        "colour": item.colour,
        "opacity": item.opacity,
        "guide": item.guide,
    }


def _made_json(made: Made) -> Json:
    return {"by": made.by, "numbers": dict(made.numbers), "of": list(made.of)}


def _numbers(tree: Json) -> tuple[tuple[str, Any], ...]:
    """Places come as lists."""
    return tuple(
        (name, tuple(tuple(place) for place in value) if isinstance(value, list) else value)
        for name, value in tree.items()
    )


def _from_json(tree: Json, reading: Reading) -> MeshObject:
    made = tree["made"]
    return MeshObject(
        tree["id"],
        tree["name"],
        reading.members[tree["id"]],
        tree["shown"],
        tree["held"],
        tree["group"],
        tuple(tree["even"]),
        None if made is None else Made(made["by"], _numbers(made["numbers"]), tuple(made["of"])),
        Smoothing(**tree["smooth"]),
        tree["colour"],
        tree["opacity"],
        tree["guide"],
    )


def _read(data: bytes) -> Mesh:
    # Whoever opens it draws it next, and should not have to wait then.
    return from_ply(data).ready()


def _bounds(doc: Document, meshes: Sequence[MeshObject]) -> Iterable[Extent]:
    boxes = [item.mesh.bounds for item in meshes if len(item.mesh.positions)]
    return (Extent((0, 1, 2), np.concatenate(boxes)),) if boxes else ()


def _lies(doc: Document, item: MeshObject) -> Floats | None:
    return item.mesh.bounds if len(item.mesh.positions) else None


def _scaled(item: MeshObject, factor: float, views: Mapping[str, Auxiliary]) -> MeshObject:
    mesh = item.mesh.with_positions(item.mesh.positions * factor)
    made = None if item.made is None else scaled_made(item.made, factor)
    return replace(item, mesh=mesh, made=made)


def _told(doc: Document, item: MeshObject) -> Json:
    topology = item.mesh.topology
    return {
        "name": item.name,
        "vertices": topology.vertex_count,
        "edges": len(topology.edges),
        "faces": topology.face_count,
        "bounds_mm": item.mesh.bounds.round(6).tolist(),
    }


def _words(told: Json) -> str:
    return f"mesh     {told['name']}: {told['vertices']} vertices, {told['faces']} faces"


def _plain(item: MeshObject, there: frozenset[str]) -> MeshObject:
    """What it was made of is gone: it stays, as it is."""
    return replace(item, made=None)


KIND = ItemKind(
    "mesh",
    "meshes",
    MeshObject,
    _to_json,
    _from_json,
    Told("meshes", _told, _words),
    names=(Naming("meshes", "item", lambda m: m.made.of if m.made else (), _plain),),
    member=Member(mesh_file, lambda item: item.mesh, to_ply, _read),
    bounds=_bounds,
    lies=_lies,
    scaled=_scaled,
)

"""Formats of triangles through trimesh: glTF, GLB and STL."""

from __future__ import annotations

from typing import Any

import numpy as np

from dimetron.formats.handover import Handover, TexturedPlane
from dimetron.formats.named import NamedMesh
from dimetron.formats.writing.pictures import image
from dimetron.mesh.coloured import vertex_colours

#: Two triangles of a plane's corners, facing where its view looks from; both sides are drawn.
_PLANE_TRIANGLES = np.array([[3, 2, 1], [3, 1, 0]])
_PLANE_UV = np.array([[0.0, 1.0], [1.0, 1.0], [1.0, 0.0], [0.0, 0.0]])
_CLAY = (0.44, 0.71, 0.66, 1.0)


def write(given: Handover, stem: str, kind: str) -> dict[str, bytes]:
    """``kind``: "glb", "gltf" or "stl"; file names to bytes."""
    import trimesh  # slow to load, and only exporting needs it

    scene = trimesh.Scene()
    for item in given.meshes:
        solid = trimesh.Trimesh(item.mesh.positions, item.mesh.triangles, process=False)
        if kind != "stl":
            solid.visual = _visual(item, solid, trimesh)
        scene.add_geometry(solid, node_name=item.name, geom_name=item.name)
    if kind == "stl":
        return {f"{stem}.stl": bytes(scene.export(file_type="stl"))}
    for plane in given.planes:
        scene.add_geometry(_plane(plane, trimesh), node_name=plane.name, geom_name=plane.name)
    if kind == "glb":
        return {f"{stem}.glb": bytes(scene.export(file_type="glb"))}
    parts: dict[str, bytes] = scene.export(file_type="gltf")
    return {f"{stem}.gltf" if name == "model.gltf" else name: data for name, data in parts.items()}


def _visual(item: NamedMesh, solid: Any, trimesh: Any) -> Any:
    """The colours of its vertices, or else its own one."""
    colours = vertex_colours(item.mesh)
    if colours is not None:
        return trimesh.visual.ColorVisuals(solid, vertex_colors=colours)
    return trimesh.visual.TextureVisuals(material=_material(item, trimesh))


def _material(item: NamedMesh, trimesh: Any) -> Any:
    own = item.rgba
    return trimesh.visual.material.PBRMaterial(
        name="clay" if own is None else item.colour,
        baseColorFactor=own or _CLAY,
        metallicFactor=0.0,
        roughnessFactor=0.9,
        alphaMode="BLEND" if item.opacity < 1 else None,
    )


def _plane(plane: TexturedPlane, trimesh: Any) -> Any:
    material = trimesh.visual.material.PBRMaterial(
        name=plane.name,
        baseColorTexture=image(plane.pixels),
        baseColorFactor=(1.0, 1.0, 1.0, plane.opacity),
        metallicFactor=0.0,
        roughnessFactor=1.0,
        alphaMode="BLEND",
        doubleSided=True,
    )
    visual = trimesh.visual.TextureVisuals(uv=_PLANE_UV, material=material)
    return trimesh.Trimesh(plane.corners, _PLANE_TRIANGLES, visual=visual, process=False)

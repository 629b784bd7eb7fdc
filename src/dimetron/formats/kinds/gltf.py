"""glTF and GLB: every mesh where its nodes put it; triangles.

Format: glTF 2.0 (Khronos Group; ISO/IEC 12113:2022).
"""

from __future__ import annotations

import io
import json
from collections.abc import Mapping
from typing import Any

import numpy as np

from dimetron.formats.faces import mesh_of
from dimetron.formats.format import Beside, Carries, Format, MeshFileError, Read
from dimetron.formats.named import NamedMesh
from dimetron.formats.writing.triangles import write
from dimetron.mesh.arrays import Ints
from dimetron.mesh.layers import COLOUR, MATERIAL, UV, Layer, On


class _Files(Mapping[str, bytes]):
    """What lies beside the file, as trimesh asks for it."""

    def __init__(self, beside: Beside) -> None:
        self._beside = beside
        self.missing: list[str] = []

    def get(self, name: str, default: Any = None) -> Any:
        data = self._beside(name)
        if data is None:
            self.missing.append(name)
            raise FileNotFoundError(name)
        return data

    def __getitem__(self, name: str) -> bytes:
        return bytes(self.get(name))

    def __iter__(self) -> Any:
        return iter(())

    def __len__(self) -> int:
        return 0


def read(data: bytes, name: str, beside: Beside) -> Read:
    """Read it; see ``format.Reading``."""
    import trimesh  # takes a while; only these files need it

    kind = "glb" if data[:4] == b"glTF" else "gltf"
    if kind == "gltf":
        json.loads(data)  # says what is wrong in its own words, which are logged
    files = _Files(beside)
    try:
        scene = trimesh.load_scene(
            io.BytesIO(data), file_type=kind, resolver=files, process=False, merge_primitives=True
        )
    except NotImplementedError as error:
        raise MeshFileError("is of another version of glTF than 2.0; save it as 2.0.") from error
    except FileNotFoundError as error:
        raise MeshFileError(f"needs {error.args[0]}, which is not beside it.") from error
    odd = [f"its picture {name} is not beside it" for name in files.missing]
    parts = []
    for node in sorted(scene.graph.nodes_geometry):
        matrix, geometry = scene.graph[node]
        body = scene.geometry[geometry]
        if not isinstance(body, trimesh.Trimesh):
            odd.append(f"{geometry} is no surface and was left out")
            continue
        at = np.asarray(body.vertices, np.float64) @ matrix[:3, :3].T + matrix[:3, 3]
        faces = np.asarray(body.faces, np.int64)
        # A node that mirrors turns its faces over.
        faces = faces[:, ::-1] if np.linalg.det(matrix[:3, :3]) < 0 else faces
        given = _layers(body.visual, len(at), faces)
        mesh = mesh_of(at, np.full(len(faces), 3), faces.ravel(), odd, given)
        parts.append(NamedMesh(_title(str(node), str(geometry), name), mesh))
    return Read(tuple(parts), tuple(odd))


FORMAT = Format(
    (".glb", ".gltf"),
    "glTF (triangles)",
    "m",
    "y",
    read,
    write,
    frozenset({Carries.MESHES, Carries.PLANES, Carries.COLOURS}),
    (
        ("glb", "GLB (triangles, drawings as textured planes)"),
        ("gltf", "glTF (as GLB, in several files)"),
    ),
    says_unit=True,
)


def _layers(visual: Any, vertices: int, faces: Ints) -> dict[str, Layer]:
    """Colours, texture coordinates and the material's name, as far as they are there."""
    found: dict[str, Layer] = {}
    if visual.kind == "vertex" and len(visual.vertex_colors) == vertices:
        colours = np.asarray(visual.vertex_colors, np.float32) / 255
        found[COLOUR] = Layer(On.VERTEX, colours, 1.0)
    uv = getattr(visual, "uv", None)
    if uv is not None and len(uv) == vertices:
        found[UV] = Layer(On.CORNER, np.asarray(uv, np.float32)[faces.ravel()])
    name = getattr(getattr(visual, "material", None), "name", None)
    if name:
        every = np.zeros(len(faces), np.int32)
        found[MATERIAL] = Layer(On.FACE, every, -1, (str(name),))
    return found


def _title(node: str, geometry: str, name: str) -> str:
    """Its own name; what has none, and was only numbered, is called after the file."""
    title = geometry if node in ("world", "") else node
    number = title.removeprefix("geometry_")
    if not number.isdigit():
        return title
    return name if number == "0" else f"{name} {number}"

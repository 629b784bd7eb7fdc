"""The pictures that a mesh file brings along."""

from __future__ import annotations

import base64
import io
import json
import re
import struct
from pathlib import Path
from typing import Any

from PIL import Image

from dimetron.border import border
from dimetron.formats.format import MeshFileError

#: What is looked at of them: the size of a picture, by its name; None if it is not there.
Sizes = list[tuple[str, tuple[int, int] | None]]
_JSON, _DATA = 0x4E4F534A, "data:"


def texture_sizes(path: Path) -> Sizes:
    """Of all pictures that a file names or holds. Raises MeshFileError."""
    with border(MeshFileError, path.name, "its pictures cannot be read; hand it over again."):
        if path.suffix.lower() == ".glb":
            return _in_glb(path.read_bytes())
        if path.suffix.lower() == ".gltf":
            tree = json.loads(path.read_bytes())
            return [_beside(path, image) for image in tree.get("images", ())]
        if path.suffix.lower() == ".obj":
            return [(name, _size_of_file(path.with_name(name))) for name in _in_obj(path)]
    return []


def _in_glb(data: bytes) -> Sizes:
    """Format: glTF 2.0, chapter 4 (GLB File Format)."""
    length, kind = struct.unpack_from("<II", data, 12)
    if kind != _JSON:
        return []
    tree = json.loads(data[20 : 20 + length])
    body = data[20 + length + 8 :]
    found: Sizes = []
    for number, image in enumerate(tree.get("images", ()), 1):
        view = tree["bufferViews"][image["bufferView"]]
        at = view.get("byteOffset", 0)
        part = body[at : at + view["byteLength"]]
        found.append((image.get("name") or f"picture {number}", _size(part)))
    return found


def _beside(path: Path, image: dict[str, Any]) -> tuple[str, tuple[int, int] | None]:
    uri = str(image.get("uri", ""))
    if uri.startswith(_DATA):
        return image.get("name") or "a picture", _size(base64.b64decode(uri.partition(",")[2]))
    return uri, _size_of_file(path.with_name(Path(uri).name))


def _in_obj(path: Path) -> list[str]:
    """What its materials name."""
    text = path.read_text("utf-8", "replace")
    found: list[str] = []
    for name in re.findall(r"^mtllib\s+(.+?)\s*$", text, re.MULTILINE):
        materials = path.with_name(Path(name).name)
        if materials.is_file():
            words = materials.read_text("utf-8", "replace")
            found += re.findall(r"^\s*map_Kd\s+(.+?)\s*$", words, re.MULTILINE)
    return list(dict.fromkeys(Path(name).name for name in found))


def _size_of_file(path: Path) -> tuple[int, int] | None:
    return _size(path.read_bytes()) if path.is_file() else None


def _size(data: bytes) -> tuple[int, int] | None:
    try:
        with Image.open(io.BytesIO(data)) as picture:
            return picture.size
    except OSError:
        return None

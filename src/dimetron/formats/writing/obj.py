"""Wavefront OBJ with its MTL: polygons kept, drawings as textured quads beside their PNGs."""

from __future__ import annotations

import io
import re
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dimetron.formats.handover import Handover, TexturedPlane
from dimetron.formats.named import NamedMesh
from dimetron.formats.writing.pictures import png
from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.layers import GROUP, MATERIAL, UV, Layer
from dimetron.mesh.mesh import Mesh

#: Of meshes without a colour, where others have one.
_PLAIN = (0.8, 0.8, 0.8, 1.0)


def write(given: Handover, stem: str, ending: str) -> dict[str, bytes]:
    """File names to bytes; ``stem`` names the MTL and the textures. Vertex indices count from 1."""
    out = io.StringIO()
    out.write(f"# lengths in {given.unit}, {given.up.upper()} up\n")
    files: dict[str, bytes] = {}
    coloured = any(item.colour for item in given.meshes)
    if given.planes or coloured:
        files[f"{stem}.mtl"] = _encoded(_materials(given, stem))
        out.write(f"mtllib {stem}.mtl\n")
    first, first_uv = 1, 1
    for item in given.meshes:
        out.write(f"o {_word(item.name)}\n")
        _write_vertices(out, item.mesh.positions)
        # A material holds until another one is named, beyond the mesh.
        if coloured and MATERIAL not in item.mesh.layers:
            out.write(f"usemtl {_colour_name(item)}\n")
        first_uv += _write_faces(out, item.mesh, first, first_uv)
        first += len(item.mesh.positions)
    for number, plane in enumerate(given.planes):
        _write_plane(out, plane, number, first, first_uv)
        files[texture_name(stem, number)] = png(plane.pixels)
        first += 4
    files[f"{stem}.obj"] = _encoded(out.getvalue())
    return files


def _encoded(text: str) -> bytes:
    """File names in it stand as the disk has them, even if they are no text."""
    return text.encode("utf-8", "surrogateescape")


def texture_name(stem: str, number: int) -> str:
    """The file of a drawing's picture beside the OBJ; numbers count from 0."""
    return f"{stem}-drawing-{number + 1}.png"


def _word(name: str) -> str:
    """OBJ names end at white space."""
    return re.sub(r"\s+", "_", name.strip()) or "unnamed"


def _write_vertices(out: io.StringIO, positions: Floats) -> None:
    np.savetxt(out, positions, fmt="v %.9g %.9g %.9g")


def _write_faces(out: io.StringIO, mesh: Mesh, first: int, first_uv: int) -> int:
    """Faces in their own order, written in one pass over the corners as text; groups, materials
    and texture coordinates as far as they are known. Returns how many of the last."""
    topology = mesh.topology
    words = np.char.add(" ", (topology.corners + first).astype(str))
    uv, count = mesh.layers.get(UV), 0
    if uv is not None and len(uv.values):
        places, which = np.unique(uv.values, axis=0, return_inverse=True)
        np.savetxt(out, places, fmt="vt %.9g %.9g")
        named = np.char.add("/", (which.reshape(-1) + first_uv).astype(str))
        words, count = np.char.add(words, named), len(places)
    rows = words.astype(object)
    begins = topology.offsets[:-1]
    rows[begins] = "\nf" + rows[begins]
    for layer, word in ((GROUP, "g"), (MATERIAL, "usemtl")):
        _write_names(rows, begins, mesh.layers.get(layer), word)
    out.write("".join(rows.tolist()).lstrip("\n") + "\n")
    return count


def _write_names(rows: NDArray[Any], begins: Ints, layer: Layer | None, word: str) -> None:
    """Before each face that bears another name than the one before it."""
    if layer is None or not len(layer.values):
        return
    other = np.flatnonzero(np.diff(layer.values, prepend=-2) != 0)
    for face in other.tolist():
        number = int(layer.values[face])
        name = _word(layer.names[number]) if 0 <= number < len(layer.names) else "default"
        rows[begins[face]] = f"\n{word} {name}{rows[begins[face]]}"


def _write_plane(
    out: io.StringIO, plane: TexturedPlane, number: int, first: int, first_uv: int
) -> None:
    out.write(f"o {_word(plane.name)}\n")
    _write_vertices(out, plane.corners)
    if number == 0:
        out.write("vt 0 1\nvt 1 1\nvt 1 0\nvt 0 0\n")
    # From bottom-left on, counter-clockwise as its view sees it.
    order = (4, 3, 2, 1)
    corners = " ".join(f"{first + i - 1}/{first_uv + i - 1}" for i in order)
    out.write(f"usemtl drawing-{number + 1}\nf {corners}\n")


def _colour_name(item: NamedMesh) -> str:
    return (
        "plain" if not item.colour else f"colour-{item.colour.lstrip('#')}-{item.opacity * 100:.0f}"
    )


def _materials(given: Handover, stem: str) -> str:
    coloured = any(item.colour for item in given.meshes)
    own = {_colour_name(item): item.rgba or _PLAIN for item in given.meshes if coloured}
    colours = "".join(
        f"newmtl {name}\nKd {red:.6g} {green:.6g} {blue:.6g}\nd {opacity:g}\nillum 1\n"
        for name, (red, green, blue, opacity) in own.items()
    )
    return colours + "".join(
        f"newmtl drawing-{number + 1}\nKa 0 0 0\nKd 1 1 1\nKs 0 0 0\nd {plane.opacity:g}\n"
        f"illum 0\nmap_Kd {texture_name(stem, number)}\n"
        for number, plane in enumerate(given.planes)
    )

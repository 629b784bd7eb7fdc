"""Binary PLY with polygons of any size: the meshes' form inside the project and as an export.

Format: the Stanford PLY description (G. Turk, 1994). Written little-endian with double positions,
so a mesh comes back bit for bit. What is known of its elements beside (``mesh.layers``) stands in
elements of their own, each told of in a comment.
"""

from __future__ import annotations

import io
import json
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dimetron.mesh.arrays import Ints, MeshError
from dimetron.mesh.layers import CREASE, Layer, On, layers
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.topology import Topology

#: More than this in a file's header is taken for damage, not for a mesh.
MAX_ELEMENTS = 200_000_000
_MAX_HEADER = 1 << 20
_VERTEX = np.dtype([("xyz", "<f8", 3)])
#: Creases as earlier versions wrote them.
_EDGE = np.dtype([("ends", "<i4", 2), ("crease", "<f4")])
_LAYER = "comment layer "
_COLOURS = ("red", "green", "blue", "alpha")
#: What numbers a layer may have.
_TYPES = {"f": ("float", "<f4"), "i": ("int", "<i4"), "u": ("uchar", "u1"), "b": ("uchar", "u1")}


def to_ply(mesh: Mesh, colours: NDArray[np.uint8] | None = None) -> bytes:
    """The mesh as a binary PLY file. colours (n, 4): of its vertices, as other programs read
    them."""
    topology = mesh.topology
    out = io.BytesIO()
    kept = [(name, layer, _numbers(layer)) for name, layer in sorted(mesh.layers.items())]
    header = [
        "ply",
        "format binary_little_endian 1.0",
        "comment lengths in millimetres, Z up",
        *(_LAYER + json.dumps(_told(name, layer)) for name, layer, _ in kept),
        f"element vertex {topology.vertex_count}",
        *(f"property double {axis}" for axis in "xyz"),
        *(f"property uchar {name}" for name in _COLOURS if colours is not None),
        f"element face {topology.face_count}",
        "property list uint int vertex_indices",
    ]
    for number, (_, layer, values) in enumerate(kept):
        header.append(f"element layer_{number} {len(values)}")
        word = _TYPES[layer.values.dtype.kind][0]
        header += [f"property {word} value_{k}" for k in range(values.shape[1])]
    out.write(("\n".join([*header, "end_header"]) + "\n").encode())
    places = mesh.positions.astype("<f8")
    if colours is None:
        out.write(places.tobytes())
    else:
        rows = np.empty(len(places), np.dtype([("xyz", "<f8", 3), ("rgba", "u1", 4)]))
        rows["xyz"], rows["rgba"] = places, colours
        out.write(rows.tobytes())
    out.write(_interleaved(topology).tobytes())
    for _, _, values in kept:
        out.write(values.tobytes())
    return out.getvalue()


def _numbers(layer: Layer) -> np.ndarray[Any, Any]:
    """(n, k) as they are written."""
    values = layer.values.reshape(len(layer.values), -1)
    return values.astype(_TYPES[layer.values.dtype.kind][1])


def _told(name: str, layer: Layer) -> dict[str, Any]:
    flat = layer.values.ndim == 1
    told = {"name": name, "on": layer.on.value, "default": layer.default, "flat": flat}
    return {**told, "kind": layer.values.dtype.kind, "names": list(layer.names)}


def _interleaved(topology: Topology) -> Ints:
    """Each face's size before its corners, as one run of 4-byte integers."""
    sizes = topology.sizes
    run = np.empty(len(topology.corners) + topology.face_count, "<i4")
    at_size = topology.offsets[:-1] + np.arange(topology.face_count)
    is_size = np.zeros(len(run), bool)
    is_size[at_size] = True
    run[is_size] = sizes
    run[~is_size] = topology.corners
    return run


def from_ply(data: bytes) -> Mesh:
    """Read what ``to_ply`` writes. Raises MeshError if the file is of another kind or damaged."""
    end = data.find(b"\nend_header\n", 0, _MAX_HEADER)
    if not data.startswith(b"ply\n") or end < 0:
        raise MeshError("This is not a PLY file as Dimetron writes it.")
    header = data[:end].decode("ascii", "replace").splitlines()
    body = memoryview(data)[end + len(b"\nend_header\n") :]
    counts = _counts(header)
    vertices, faces = counts.pop("vertex", 0), counts.pop("face", 0)
    try:
        points = np.frombuffer(body, _VERTEX, vertices)["xyz"].astype(np.float64)
        offsets, corners, used = _faces(body[points.nbytes :], faces)
        mesh = Mesh(points, Topology(offsets, corners, vertices))
        return _with_layers(mesh, header, counts, body[points.nbytes + used :])
    except MeshError:
        raise
    except (ValueError, LookupError, TypeError, AttributeError, StopIteration) as error:
        raise MeshError("The mesh is cut short or damaged.") from error


def _with_layers(mesh: Mesh, header: list[str], counts: dict[str, int], body: memoryview) -> Mesh:
    if "edge" in counts:
        table = np.frombuffer(body, _EDGE, counts["edge"])
        if not np.array_equal(table["ends"], mesh.topology.edges):
            raise MeshError("The creases of this mesh do not lie on its edges.")
        return mesh.with_layer(CREASE, Layer(On.EDGE, table["crease"].astype(np.float32)))
    found, at = {}, 0
    told = [json.loads(line[len(_LAYER) :]) for line in header if line.startswith(_LAYER)]
    for number, words in enumerate(told):
        name = f"layer_{number}"
        begin = next(i for i, line in enumerate(header) if line.startswith(f"element {name} "))
        rest = (line.startswith("property ") for line in header[begin + 1 :])
        wide = next((k for k, own in enumerate(rest) if not own), len(header) - begin - 1)
        values = np.frombuffer(body[at:], _TYPES[words["kind"]][1], counts[name] * wide)
        at += values.nbytes
        own = np.dtype(bool) if words["kind"] == "b" else values.dtype
        shaped = values.astype(own) if words["flat"] else values.reshape(-1, wide).astype(own)
        on, names = On(words["on"]), tuple(str(n) for n in words["names"])
        found[str(words["name"])] = Layer(on, shaped, float(words["default"]), names)
    return Mesh(mesh.positions, mesh.topology, layers(**found))


def _counts(header: list[str]) -> dict[str, int]:
    counts: dict[str, int] = {}
    if "format binary_little_endian 1.0" not in header:
        raise MeshError("This is not a PLY file as Dimetron writes it.")
    for line in header:
        words = line.split()
        if len(words) == 3 and words[0] == "element":
            known = words[1] in ("vertex", "face", "edge") or words[1].startswith("layer_")
            if not known or not words[2].isdigit():
                raise MeshError("The mesh has parts Dimetron does not know.")
            counts[words[1]] = int(words[2])
    if max(counts.values(), default=0) > MAX_ELEMENTS:
        raise MeshError("The mesh claims more elements than can be.")
    return counts


def _faces(body: memoryview, count: int) -> tuple[Ints, Ints, int]:
    """Offsets, corners and bytes used."""
    run = np.frombuffer(body, "<i4", len(body) // 4)
    sizes = _sizes(run, count)
    offsets = np.concatenate([[0], np.cumsum(sizes, dtype=np.int64)])
    used = int(offsets[-1]) + count
    is_corner = np.ones(used, bool)
    is_corner[offsets[:-1] + np.arange(count)] = False
    return offsets.astype(np.int32), run[:used][is_corner].astype(np.int32), used * 4


def _sizes(run: Ints, count: int) -> Ints:
    """(count,) corners of each face, of a run in which each size stands before its corners."""
    if 4 * count > len(run):
        raise MeshError("The mesh is cut short.")
    first = int(run[0]) if count else 3
    if first >= 3 and count * (first + 1) <= len(run):
        heads = run[: count * (first + 1) : first + 1]
        if (heads == first).all():
            return np.full(count, first, np.int32)
    # Where a face begins is known only when the one before is read, so one by one.
    view, end, at = np.array(run, np.int32).data, len(run), 0
    sizes = np.empty(count, np.int32)
    for number in range(count):
        size = view[at] if at < end else 0
        if size < 3 or size >= end - at:
            raise MeshError("A face of this mesh is damaged or cut short.")
        sizes[number] = size
        at += size + 1
    return sizes

"""Binary PLY with polygons of any size: the meshes' form inside the project and as an export.

Format: the Stanford PLY description (G. Turk, 1994). Written little-endian with double positions,
so a mesh comes back bit for bit; creases stand in an ``edge`` element.
"""

from __future__ import annotations

import io

import numpy as np

from dimetron.mesh.mesh import Ints, Mesh, MeshError, Topology

#: More than this in a file's header is taken for damage, not for a mesh.
MAX_ELEMENTS = 200_000_000
_VERTEX = np.dtype([("xyz", "<f8", 3)])
_EDGE = np.dtype([("ends", "<i4", 2), ("crease", "<f4")])


def to_ply(mesh: Mesh) -> bytes:
    """The mesh as a binary PLY file."""
    topology = mesh.topology
    out = io.BytesIO()
    edges = len(mesh.crease)
    header = [
        "ply",
        "format binary_little_endian 1.0",
        "comment lengths in millimetres, Z up",
        f"element vertex {topology.vertex_count}",
        *(f"property double {axis}" for axis in "xyz"),
        f"element face {topology.face_count}",
        "property list uint int vertex_indices",
    ]
    if edges:
        header += [
            f"element edge {edges}",
            "property int vertex1",
            "property int vertex2",
            "property float crease",
        ]
    out.write(("\n".join([*header, "end_header"]) + "\n").encode())
    out.write(mesh.positions.astype("<f8").tobytes())
    out.write(_interleaved(topology).tobytes())
    if edges:
        table = np.zeros(edges, _EDGE)
        table["ends"], table["crease"] = topology.edges, mesh.crease
        out.write(table.tobytes())
    return out.getvalue()


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
    end = data.find(b"end_header\n", 0, 4096)
    if not data.startswith(b"ply\n") or end < 0:
        raise MeshError("This is not a PLY file as Dimetron writes it.")
    counts = _counts(data[:end].decode("ascii", "replace"))
    body = memoryview(data)[end + len(b"end_header\n") :]
    vertices, faces, edges = counts
    try:
        points = np.frombuffer(body, _VERTEX, vertices)["xyz"].astype(np.float64)
        offsets, corners, used = _faces(body[points.nbytes :], faces)
        topology = Topology(offsets, corners, vertices)
        crease = np.zeros(0, np.float32)
        if edges:
            table = np.frombuffer(body[points.nbytes + used :], _EDGE, edges)
            if not np.array_equal(table["ends"], topology.edges):
                raise MeshError("The creases of this mesh do not lie on its edges.")
            crease = table["crease"].astype(np.float32)
        return Mesh(points, topology, crease)
    except (ValueError, IndexError) as error:
        if isinstance(error, MeshError):
            raise
        raise MeshError("The mesh is cut short or damaged.") from error


def _counts(header: str) -> tuple[int, int, int]:
    counts = {"vertex": 0, "face": 0, "edge": 0}
    if "format binary_little_endian 1.0" not in header:
        raise MeshError("This is not a PLY file as Dimetron writes it.")
    for line in header.splitlines():
        words = line.split()
        if len(words) == 3 and words[0] == "element":
            if words[1] not in counts or not words[2].isdigit():
                raise MeshError("The mesh has parts Dimetron does not know.")
            counts[words[1]] = int(words[2])
    if max(counts.values()) > MAX_ELEMENTS:
        raise MeshError("The mesh claims more elements than can be.")
    return counts["vertex"], counts["face"], counts["edge"]


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

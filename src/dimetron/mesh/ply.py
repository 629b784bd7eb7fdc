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
    """Offsets, corners and bytes used. Runs of faces of one size are read at once."""
    run = np.frombuffer(body, "<i4", len(body) // 4)
    sizes = np.empty(count, np.int32)
    at = done = 0
    while done < count:
        size = int(run[at])
        if not 3 <= size <= len(run):
            raise MeshError("A face of this mesh is damaged.")
        most = min(count - done, (len(run) - at) // (size + 1))
        heads = run[at : at + most * (size + 1) : size + 1]
        other = np.flatnonzero(heads != size)
        same = int(other[0]) if len(other) else len(heads)
        if same == 0:
            raise MeshError("The mesh is cut short.")
        sizes[done : done + same] = size
        done += same
        at += same * (size + 1)
    offsets = np.concatenate([[0], np.cumsum(sizes)]).astype(np.int32)
    is_corner = np.ones(at, bool)
    is_corner[offsets[:-1] + np.arange(count)] = False
    return offsets, run[:at][is_corner].astype(np.int32), at * 4

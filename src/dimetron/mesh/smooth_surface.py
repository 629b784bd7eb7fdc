"""The smooth surface of a cage as a mesh: kept while the cage is the same, quick to follow it."""

from __future__ import annotations

from weakref import WeakKeyDictionary

import numpy as np

from dimetron.mesh.arrays import Ints, freeze
from dimetron.mesh.catmull_clark import Smooth, smooth_of
from dimetron.mesh.hiding import hidden_faces
from dimetron.mesh.layers import HIDDEN, Layer, On
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.patch import Patch
from dimetron.mesh.topology import Topology

#: On the board a surface has no more faces than about this; it takes fewer levels then.
_MOST_FACES = 1_500_000

_surfaces: WeakKeyDictionary[Mesh, tuple[int, Mesh]] = WeakKeyDictionary()
_moved: WeakKeyDictionary[Patch, tuple[int, Mesh]] = WeakKeyDictionary()
_hiding: WeakKeyDictionary[Topology, tuple[Layer, Layer]] = WeakKeyDictionary()
_triangles: WeakKeyDictionary[Topology, Ints] = WeakKeyDictionary()


def surface_of(mesh: Mesh, levels: int, patch: Patch | None = None) -> Mesh:
    """The surface of quads that the mesh is the cage of, ``levels`` deep (less where it would be
    too fine to be shown), with vertices elsewhere as a patch says. Raises MeshError."""
    while levels > 1 and len(mesh.topology.corners) * 4 ** (levels - 1) > _MOST_FACES:
        levels -= 1
    if patch is None:
        return _kept(_surfaces, mesh, levels, mesh, None)
    return _kept(_moved, patch, levels, mesh, patch)


def _kept(
    known: WeakKeyDictionary[Mesh, tuple[int, Mesh]] | WeakKeyDictionary[Patch, tuple[int, Mesh]],
    key: Mesh | Patch,
    levels: int,
    mesh: Mesh,
    patch: Patch | None,
) -> Mesh:
    found = known.get(key)  # type: ignore[arg-type]
    if found is not None and found[0] == levels:
        return found[1]
    made = _made(mesh, smooth_of(mesh, levels), patch)
    known[key] = levels, made  # type: ignore[index]
    return made


def _made(mesh: Mesh, smooth: Smooth, patch: Patch | None) -> Mesh:
    cage = mesh.positions
    if patch is not None and len(patch.vertices):
        cage = cage.copy()
        cage[patch.vertices] = patch.positions
    made = Mesh(smooth.positions(cage), smooth.topology)
    made.__dict__["triangles"] = _halved(smooth.topology)
    return made if hidden_faces(mesh) is None else _hidden(made, mesh, mesh.layers[HIDDEN])


def _hidden(made: Mesh, mesh: Mesh, hidden: Layer) -> Mesh:
    """With the faces hidden that hidden ones became: quads stand in the order of the corners that
    they come from. The same values as long as they mean the same."""
    known = _hiding.get(made.topology)
    if known is None or known[0] is not hidden:
        each = made.topology.face_count // len(mesh.topology.corners)
        values = np.repeat(hidden.values[mesh.topology.corner_face], each)
        _hiding[made.topology] = known = hidden, Layer(On.FACE, values)
    return made.with_layer(HIDDEN, known[1])


def _halved(topology: Topology) -> Ints:
    """Quads as triangles along the same diagonal, whatever their shape: it is the same for all
    places of the cage."""
    found = _triangles.get(topology)
    if found is None:
        quads = topology.corners.reshape(-1, 4)
        found = quads[:, [0, 1, 2, 0, 2, 3]].reshape(-1, 3).astype(np.int32)
        freeze(found)
        _triangles[topology] = found
    return found


def exported(mesh: Mesh, levels: int) -> Mesh:
    """The mesh as files get it: its surface, so many levels deep, with all that is known of its
    elements; itself for none. Raises MeshError."""
    if not levels:
        return mesh
    from dimetron.mesh.operation import by_name

    return by_name("subdivide")(mesh, levels=levels).mesh

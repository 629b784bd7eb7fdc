"""What is not sound about a mesh, each kind with its places and what repairs it."""

from __future__ import annotations

from dataclasses import dataclass
from weakref import WeakKeyDictionary

import numpy as np

from dimetron.counting import counted
from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.crossing import crossing_faces
from dimetron.mesh.edited import Edited, Note
from dimetron.mesh.health import (
    doubled_faces,
    doubled_vertices,
    face_areas,
    flipped_faces,
    shells,
    without_area,
)
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.thickness import thin_faces

#: A quad is out of its plane when a corner stands farther off than this share of its size.
_OFF_PLANE = 0.05
#: At a pole more or fewer edges meet than four; from so many on it is told.
_POLE = 6


@dataclass(frozen=True, slots=True, eq=False)
class Finding:
    """name: of the kind of trouble; words: how much of it there is, and short the same in a word or
    two; where: the parts it is about;
    repair: the operation that mends it, and with which numbers; none if only a person can say."""

    name: str
    short: str
    words: str
    where: Selection
    repair: str = ""
    numbers: tuple[tuple[str, object], ...] = ()


@dataclass(frozen=True, slots=True)
class _Kind:
    name: str
    short: str
    one: str
    many: str
    kind: Kind
    repair: str = ""
    numbers: tuple[tuple[str, object], ...] = ()


_KINDS = (
    _Kind("nonmanifold", "crowded", "edge of three or more faces",
          "edges of three or more faces", Kind.EDGE),
    _Kind("flipped", "turned", "face the wrong way round", "faces the wrong way round",
          Kind.FACE, "alike"),
    _Kind("doubled-faces", "faces doubled", "doubled face", "doubled faces", Kind.FACE, "delete"),
    _Kind("doubled-vertices", "doubled", "doubled vertex", "doubled vertices",
          Kind.VERTEX, "weld", (("within", 1e-6),)),
    _Kind("no-area", "without area", "face without area", "faces without area",
          Kind.FACE, "merge", (("apart", True),)),
    _Kind("loose", "loose", "loose vertex", "loose vertices", Kind.VERTEX, "delete"),
    _Kind("open", "open edges", "open edge", "open edges", Kind.EDGE, "fill-holes"),
    _Kind("ngons", "large faces", "face of more than four corners",
          "faces of more than four corners", Kind.FACE, "split-faces"),
    _Kind("off-plane", "bent quads", "quad out of its plane", "quads out of their plane",
          Kind.FACE, "triangulate"),
    _Kind("poles", "poles", f"vertex where {_POLE} edges or more meet",
          f"vertices where {_POLE} edges or more meet", Kind.VERTEX),
)  # fmt: skip


_known: WeakKeyDictionary[Mesh, tuple[Finding, ...]] = WeakKeyDictionary()


def is_known(mesh: Mesh) -> bool:
    """Whether it was found already what is to be said of a mesh."""
    return mesh in _known


def findings(mesh: Mesh) -> tuple[Finding, ...]:
    """All that is to be said, the gravest first; nothing of a sound mesh. Kept while it is
    there."""
    found = _known.get(mesh)
    if found is None:
        found = _known[mesh] = _looked_over(mesh)
    return found


def _looked_over(mesh: Mesh) -> tuple[Finding, ...]:
    places = {
        "nonmanifold": np.flatnonzero(mesh.topology.edge_face_count > 2),
        "flipped": flipped_faces(mesh),
        "doubled-faces": doubled_faces(mesh),
        "doubled-vertices": doubled_vertices(mesh),
        "no-area": without_area(mesh, face_areas(mesh)),
        "loose": mesh.topology.loose_vertices,
        "open": np.flatnonzero(mesh.topology.edge_face_count == 1),
        "ngons": np.flatnonzero(mesh.topology.sizes > 4),
        "off-plane": off_plane(mesh),
        "poles": np.flatnonzero(mesh.topology.valence >= _POLE),
    }
    found = []
    for kind in _KINDS:
        where = places[kind.name]
        if len(where):
            words = counted(len(where), kind.one, kind.many)
            chosen = Selection(kind.kind, where.astype(np.int32))
            short = f"{len(where)} {kind.short}"
            found.append(Finding(kind.name, short, words, chosen, kind.repair, kind.numbers))
    return tuple(found)


def deeper_findings(mesh: Mesh, wall_mm: float) -> tuple[Finding, ...]:
    """What takes longer to find: where the surface runs through itself, and walls that are thinner
    than ``wall_mm`` mm."""
    found = []
    crossed, thin = crossing_faces(mesh), thin_faces(mesh, wall_mm)
    if len(crossed):
        words = counted(len(crossed), "face", "faces") + " that others run through"
        # Shells that run through each other are made one; one that runs through itself is not.
        repair = "shells-union" if shells(mesh.topology).max() > 0 else ""
        chosen = Selection(Kind.FACE, crossed)
        found.append(Finding("crossing", f"{len(crossed)} crossing", words, chosen, repair))
    if len(thin):
        words = f"{counted(len(thin), 'face', 'faces')} of walls under {wall_mm:g} mm"
        found.append(Finding("thin", f"{len(thin)} thin", words, Selection(Kind.FACE, thin)))
    return tuple(found)


def off_plane(mesh: Mesh) -> Ints:
    """(k,) quads of which a corner stands noticeably out of the plane of the others."""
    t = mesh.topology
    quads = np.flatnonzero(t.sizes == 4)
    corner = mesh.positions[t.corners[t.offsets[quads][:, None] + np.arange(4)]]
    one, two = corner[:, 2] - corner[:, 0], corner[:, 3] - corner[:, 1]
    normal = np.cross(one, two)
    long = np.linalg.norm(normal, axis=1)
    between = np.abs(((corner[:, 1] - corner[:, 0]) * normal).sum(axis=1))
    size: Floats = np.sqrt(long / 2)
    # How far apart both diagonals pass, against the size of the face.
    return np.asarray(quads[between > _OFF_PLANE * size * long])


#: Larger meshes are not looked over after every step.
_MOST_CORNERS = 40_000


def left_by(before: Mesh, done: Edited) -> tuple[Note, ...]:
    """What an operation left behind that was not there: faces of many corners, doubled vertices,
    unless it says so itself."""
    mesh = done.mesh
    if len(mesh.topology.corners) > _MOST_CORNERS:
        return ()
    found = []
    if not any(note.kind is Kind.FACE for note in done.notes):
        large = np.flatnonzero(mesh.topology.sizes > 4)
        more = len(large) - int((before.topology.sizes > 4).sum())
        if more > 0:
            words = counted(more, "face", "faces")
            note = Note(f"{words} of more than four corners.", Kind.FACE, large.astype(np.int32))
            found.append(note)
    doubled = doubled_vertices(mesh)
    more = len(doubled) - len(doubled_vertices(before))
    if more > 0:
        words = counted(more, "vertex stands", "vertices stand")
        found.append(Note(f"{words} where another one does.", Kind.VERTEX, doubled))
    return tuple(found)

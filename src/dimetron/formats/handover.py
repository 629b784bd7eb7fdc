"""What is handed on: meshes, image planes and lines in the receiver's unit and axes."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from dimetron.document.edits import world_corners
from dimetron.document.model import Document, MeshObject
from dimetron.document.pictures import picture_of
from dimetron.document.size_references import reference_mesh
from dimetron.formats.drawn import DrawnPath
from dimetron.formats.named import NamedMesh
from dimetron.formats.outlined import drawn_paths, line_paths
from dimetron.geometry.units import MM_PER_INCH
from dimetron.imaging.errors import PictureError
from dimetron.imaging.prepare import pixels_of
from dimetron.imaging.read import Pixels
from dimetron.mesh.arrays import Floats
from dimetron.mesh.layers import COLOUR
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import by_name
from dimetron.mesh.select import Kind, Selection, every
from dimetron.mesh.smooth_surface import exported

#: Export units to millimetres.
UNITS = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": MM_PER_INCH, "ft": 12 * MM_PER_INCH}
UP_AXES = ("z", "y")
WHAT = ("meshes", "planes", "outlines", "lines", "references")


class ExportError(ValueError):
    """The export has no meaning as asked for; the message says what to do."""


@dataclass(frozen=True, slots=True)
class TexturedPlane:
    """corners (4, 3): top-left, top-right, bottom-right, bottom-left of the picture, seen from
    where its view looks; pixels (h, w, c); opacity: 0 to 1."""

    name: str
    corners: Floats
    pixels: Pixels
    opacity: float


@dataclass(frozen=True, slots=True)
class Handover:
    """Everything that is handed on, and in which unit and axes."""

    meshes: tuple[NamedMesh, ...]
    planes: tuple[TexturedPlane, ...]
    unit: str
    up: str
    outlines: tuple[DrawnPath, ...] = ()


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is to be handed on. what: of ``WHAT``. only: ids of the meshes; None for all. levels:
    how often faces are divided into the smooth surface, 0 for the cages; None for what each mesh
    says. triangles: faces become triangles; colours: meshes bear their own, if they have one. view:
    the key of the one whose outlines and lines are wanted; empty for all that show something."""

    what: tuple[str, ...] = ("meshes",)
    unit: str = "mm"
    up: str = "z"
    only: frozenset[str] | None = None
    levels: int | None = None
    triangles: bool = False
    colours: bool = True
    view: str = ""

    def takes(self, item: MeshObject) -> bool:
        """Whether a mesh is among those that are wanted."""
        return self.only is None or item.id in self.only


def handover(doc: Document, wanted: Wanted) -> Handover:
    """Collect what is to be exported. Raises ExportError with what to do instead."""
    _check(wanted)
    unit, up = wanted.unit, wanted.up
    meshes = _meshes(doc, wanted) if "meshes" in wanted.what else ()
    if "references" in wanted.what:
        meshes += tuple(NamedMesh(r.name, reference_mesh(r)) for r in doc.references)
    planes = _planes(doc, unit, up) if "planes" in wanted.what else ()
    outlines: tuple[DrawnPath, ...] = ()
    if "outlines" in wanted.what:
        outlines += drawn_paths(doc, UNITS[unit], wanted.view)
    if "lines" in wanted.what:
        shown = [exported_mesh(m, wanted.levels) for m in doc.meshes if wanted.takes(m)]
        outlines += line_paths(doc, shown, UNITS[unit], wanted.view)
    if not meshes and not planes and not outlines:
        raise ExportError("There is nothing to export yet; add a mesh, or include the drawings.")
    placed = tuple(
        replace(one, mesh=one.mesh.with_positions(_turned(one.mesh.positions, unit, up)))
        for one in meshes
    )
    return Handover(placed, planes, unit, up, outlines)


def without_hidden_drawings(doc: Document) -> Document:
    """The project with just the drawings that are shown."""
    return replace(doc, drawings=tuple(d for d in doc.drawings if doc.visible(d)))


def _check(wanted: Wanted) -> None:
    for kind in wanted.what:
        if kind not in WHAT:
            raise ExportError(f"“{kind}” cannot be exported; choose from {', '.join(WHAT)}.")
    if wanted.unit not in UNITS:
        raise ExportError(
            f"“{wanted.unit}” is not a unit to export in; choose from {', '.join(UNITS)}."
        )
    if wanted.up not in UP_AXES:
        raise ExportError("The up-axis is z or y.")


def exported_mesh(item: MeshObject, levels: int | None = None) -> Mesh:
    """A mesh as files get it. Raises MeshError."""
    return exported(item.mesh, item.smooth.export if levels is None else levels)


def _meshes(doc: Document, wanted: Wanted) -> tuple[NamedMesh, ...]:
    found = []
    for item in doc.meshes:
        if wanted.takes(item):
            mesh = exported_mesh(item, wanted.levels)
            if wanted.triangles and (mesh.topology.sizes > 3).any():
                split = by_name("triangulate")
                whole = Selection(Kind.FACE, every(mesh, Kind.FACE))
                mesh = split(mesh, whole, split.made()).mesh
            plain = item.colour if wanted.colours else ""
            mesh = mesh if wanted.colours else mesh.without_layer(COLOUR)
            found.append(NamedMesh(item.name, mesh, plain, item.opacity if plain else 1.0))
    return tuple(found)


def _turned(points: Floats, unit: str, up: str) -> Floats:
    """World mm, Z up, to the receiver's unit and up-axis; still right-handed."""
    scaled = points / UNITS[unit]
    if up == "z":
        return scaled
    return np.stack([scaled[:, 0], scaled[:, 2], -scaled[:, 1]], axis=1)


def _planes(doc: Document, unit: str, up: str) -> tuple[TexturedPlane, ...]:
    planes = []
    for drawing in doc.planes:
        try:
            picture = picture_of(doc, drawing)
        except PictureError as error:
            raise ExportError(str(error)) from error
        if picture is None:
            continue
        pixels = pixels_of(picture)
        corners = world_corners(doc, drawing)
        planes.append(
            TexturedPlane(drawing.name, _turned(corners, unit, up), pixels, drawing.opacity)
        )
    return tuple(planes)

"""What is handed on: meshes and image planes in the receiver's unit and axes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.document.edits import world_corners
from dimetron.document.model import Document
from dimetron.document.pictures import picture_of
from dimetron.document.size_references import reference_mesh
from dimetron.formats.drawn import DrawnPath
from dimetron.formats.named import NamedMesh
from dimetron.formats.outlined import drawn_paths
from dimetron.geometry.units import MM_PER_INCH
from dimetron.imaging.errors import PictureError
from dimetron.imaging.prepare import pixels_of
from dimetron.imaging.read import Pixels
from dimetron.mesh.arrays import Floats
from dimetron.mesh.smooth_surface import exported

#: Export units to millimetres.
UNITS = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": MM_PER_INCH, "ft": 12 * MM_PER_INCH}
UP_AXES = ("z", "y")
WHAT = ("meshes", "planes", "outlines", "references")


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


def handover(
    doc: Document, *, what: tuple[str, ...] = ("meshes",), unit: str = "mm", up: str = "z"
) -> Handover:
    """Collect what is to be exported. Raises ExportError with what to do instead."""
    for kind in what:
        if kind not in WHAT:
            raise ExportError(f"“{kind}” cannot be exported; choose from {', '.join(WHAT)}.")
    if unit not in UNITS:
        raise ExportError(f"“{unit}” is not a unit to export in; choose from {', '.join(UNITS)}.")
    if up not in UP_AXES:
        raise ExportError("The up-axis is z or y.")
    meshes = tuple(
        NamedMesh(item.name, mesh.with_positions(_turned(mesh.positions, unit, up)))
        for item in doc.meshes
        if "meshes" in what
        for mesh in (exported(item.mesh, item.smooth.export),)
    )
    if "references" in what:
        meshes += tuple(
            NamedMesh(r.name, body.with_positions(_turned(body.positions, unit, up)))
            for r in doc.references
            for body in (reference_mesh(r),)
        )
    planes = _planes(doc, unit, up) if "planes" in what else ()
    outlines = drawn_paths(doc, UNITS[unit]) if "outlines" in what else ()
    if not meshes and not planes and not outlines:
        raise ExportError("There is nothing to export yet; add a mesh, or include the drawings.")
    return Handover(meshes, planes, unit, up, outlines)


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

"""Handing meshes over to the receiving end, as they would be written."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from dimetron.formats.export import exported_files
from dimetron.formats.handover import exported_mesh
from dimetron.handoff.way import Given, HandOffError
from dimetron.handoff.ways.meshes import ExportOptions, wanted
from dimetron.mesh.arrays import Floats
from dimetron.mesh.mesh import Mesh
from dimetron.receiving.ask import handed_over
from dimetron.receiving.receiver import Answer


def tried(given: Given, how: ExportOptions, receiver: str, stop: Callable[[], bool]) -> Answer:
    """What a receiver says to the export. Raises ExportError, HandOffError, MeshError, NoAnswer,
    NotWanted, WriteError."""
    asked = wanted(given, how)
    if "meshes" not in asked.what:
        raise HandOffError("The receiving end takes meshes; choose a format that carries them.")
    files = exported_files(given.doc, given.stem, how.kind, asked)
    given.progress(0.5)
    meshes = [exported_mesh(item, asked.levels) for item in given.doc.meshes if asked.takes(item)]
    return handed_over(files, f"{given.stem}.{how.kind}", receiver, _size(meshes), stop)


def _size(meshes: list[Mesh]) -> Floats | None:
    boxes = [mesh.bounds for mesh in meshes if len(mesh.positions)]
    if not boxes:
        return None
    return np.asarray(np.max([b[1] for b in boxes], axis=0) - np.min([b[0] for b in boxes], axis=0))

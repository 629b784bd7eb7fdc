"""The set-up as a kit: a folder from which it can be built in any program."""

from __future__ import annotations

from dimetron.formats.kit.table import TABLE
from dimetron.handoff.way import Given, Way
from dimetron.mesh.parameters import NoParameters


def write(given: Given, how: NoParameters) -> dict[str, bytes]:
    """See ``Way.write``. Raises ExportError, MeshError, PictureError."""
    from dimetron.formats.kit.kit import kit_of  # only a kit needs it

    return kit_of(given.doc, given.stem, given.progress)


WAY = Way(
    "kit",
    "Kit",
    "The set-up as a kit…",
    "A folder with meshes, drawings of true size, where each stands, and a report",
    20,
    NoParameters,
    lambda how: "",
    write,
    known=TABLE,
)

"""A report: what the meshes miss, with sizes, health and notes."""

from __future__ import annotations

from dimetron.handoff.way import Given, Way
from dimetron.mesh.parameters import NoParameters


def write(given: Given, how: NoParameters) -> dict[str, bytes]:
    """See ``Way.write``. Raises MeshError, PictureError."""
    from dimetron.formats.report.pages import report_of  # only a report needs it

    given.progress(0.0)
    return {f"{given.stem}.pdf": report_of(given.doc, given.stem)}


WAY = Way(
    "report",
    "Report",
    "Report…",
    "A PDF of what the meshes miss, with sizes, health and notes",
    30,
    NoParameters,
    lambda how: ".pdf",
    write,
)

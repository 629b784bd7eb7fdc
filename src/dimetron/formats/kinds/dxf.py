"""DXF: outlines as splines, a layer a view; y runs up."""

from __future__ import annotations

from typing import TYPE_CHECKING

from dimetron.formats.format import Carries, Format

if TYPE_CHECKING:
    from dimetron.formats.handover import Handover


def write(given: Handover, stem: str, ending: str) -> dict[str, bytes]:
    """File name to bytes."""
    from dimetron.formats.writing.dxf import dxf_of  # slow to load

    return {f"{stem}.dxf": dxf_of(given.outlines, given.unit)}


FORMAT = Format(
    (".dxf",),
    "DXF (outlines)",
    "mm",
    "z",
    write=write,
    carries=frozenset({Carries.OUTLINES}),
    written=(("dxf", "DXF (outlines and lines)"),),
)

"""How a sheet is to be drawn, furnished and scanned."""

from __future__ import annotations

from dataclasses import dataclass, field

from dimetron.geometry.views import Projection, View


@dataclass(frozen=True, slots=True)
class Clutter:
    """Which furniture a sheet has. thin: line weight of dimensions against the views' own lines.

    extension_gap_mm: between the object and an extension line; 0 lets them touch.
    arrow: "filled", "open" or "tick".
    """

    frame: bool = True
    zones: bool = False
    title_block: bool = True
    notes: int = 4
    captions: bool = True
    dimensions: int = 2
    centrelines: bool = True
    leaders: int = 0
    projection_lines: bool = False
    thin: float = 0.5
    extension_gap_mm: float = 1.0
    arrow: str = "filled"
    reserved_mm: tuple[float, float] = (0.0, 34.0)
    shift_mm: tuple[float, float] = (0.0, 0.0)


@dataclass(frozen=True, slots=True)
class SheetPlan:
    """How a sheet is drawn and scanned. ``scale`` is paper mm per real mm.

    skew_deg: how far the sheet lies counter-clockwise in the scan. mirrored: views drawn the wrong
    way round. shading: strength of the pencil shading, 0 for none.
    """

    views: tuple[View, ...]
    scale: float
    title: str
    projection: Projection = Projection.THIRD_ANGLE
    paper_mm: tuple[float, float] = (420.0, 297.0)
    dpi: float = 200.0
    skew_deg: float = 0.6
    gap_mm: float = 26.0
    line_mm: float = 0.5
    strength: float = 0.85
    shading: float = 0.0
    noise: float = 1.0
    mirrored: tuple[View, ...] = ()
    paper: tuple[int, int, int] = (246, 240, 226)
    clutter: Clutter = field(default_factory=Clutter)
    seed: int = 1

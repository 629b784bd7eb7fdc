"""Colours by role, for day and night. Components 0..1."""

from __future__ import annotations

from dataclasses import dataclass

Colour = tuple[float, float, float, float]


def colour(code: str, alpha: float = 1.0) -> Colour:
    """``#RRGGBB`` with an opacity."""
    r, g, b = (int(code[i : i + 2], 16) / 255 for i in (1, 3, 5))
    return r, g, b, alpha


@dataclass(frozen=True, slots=True)
class Palette:
    """Colours by what they are for."""

    pane: Colour
    pane_deep: Colour
    grid_fine: Colour
    grid_coarse: Colour
    axis: Colour
    border: Colour
    ink: Colour
    soft_ink: Colour
    clay: Colour
    clay_edge: Colour
    veil: Colour
    accent: Colour
    selection: Colour
    warning: Colour
    label_back: Colour
    missing: Colour
    cut: Colour
    ochre: Colour
    slate: Colour
    rose: Colour


DAY = Palette(
    pane=colour("#E3E7E8"),
    pane_deep=colour("#D3D9DB"),
    grid_fine=colour("#B9C6CA", 0.45),
    grid_coarse=colour("#9DB0B6", 0.75),
    axis=colour("#5C7480", 0.9),
    border=colour("#22313B"),
    ink=colour("#22313B"),
    soft_ink=colour("#4E5F69"),
    clay=colour("#8CC9BC"),
    clay_edge=colour("#14594F"),
    veil=colour("#BCDAD5"),
    accent=colour("#1E7B6E"),
    selection=colour("#6B3FD4"),
    warning=colour("#B2492B"),
    label_back=colour("#FBF9F4", 0.88),
    missing=colour("#C9BFAE", 0.6),
    cut=colour("#B98C4A"),
    ochre=colour("#D9B56C"),
    slate=colour("#9AA8B8"),
    rose=colour("#D7A0A0"),
)

NIGHT = Palette(
    pane=colour("#1B2D33"),
    pane_deep=colour("#15252A"),
    grid_fine=colour("#36505A", 0.45),
    grid_coarse=colour("#47656F", 0.75),
    axis=colour("#7FA0A8", 0.9),
    border=colour("#0A1518"),
    ink=colour("#E2EBE9"),
    soft_ink=colour("#A9BDBF"),
    clay=colour("#6FB5A6"),
    clay_edge=colour("#0E3B35"),
    veil=colour("#A6CDC4"),
    accent=colour("#58BFAD"),
    selection=colour("#A58BF5"),
    warning=colour("#E38A66"),
    label_back=colour("#13242A", 0.88),
    missing=colour("#4A5A5C", 0.6),
    cut=colour("#C79B58"),
    ochre=colour("#C9A45E"),
    slate=colour("#8796A8"),
    rose=colour("#C08888"),
)

"""What tools ask to have drawn over the panes: named marks in world units, by colour role."""

from __future__ import annotations

from dataclasses import dataclass

from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats


@dataclass(frozen=True, slots=True, eq=False)
class Strokes:
    """A polyline through world points (n, 3)."""

    points: Floats
    role: str = "selection"
    width: float = 1.5
    dash: float = 0.0
    only: AnyView | None = None


@dataclass(frozen=True, slots=True, eq=False)
class Segments:
    """Straight lines (n, 2, 3) between world points."""

    ends: Floats
    role: str = "selection"
    width: float = 1.2
    only: AnyView | None = None


@dataclass(frozen=True, slots=True, eq=False)
class Marks:
    """A mark at each world point (n, 3); kind is "cross", "dot", "square" or "ring"."""

    points: Floats
    kind: str = "cross"
    role: str = "selection"
    size: float = 7.0
    only: AnyView | None = None


@dataclass(frozen=True, slots=True, eq=False)
class Label:
    """Text beside a world point (3,), moved by (right, down) pixels."""

    point: Floats
    text: str
    role: str = "selection"
    shift: tuple[float, float] = (8.0, -8.0)
    only: AnyView | None = None


@dataclass(frozen=True, slots=True)
class Corner:
    """Words in the upper right corner of the panes that show a view; short: where the pane is too
    narrow for them."""

    text: str
    short: str
    only: AnyView
    role: str = "ink"


@dataclass(frozen=True, slots=True)
class Legend:
    """In 3D panes, what the colours of meshes mean: above and below, and nothing between."""

    above: str
    below: str
    role: str = "ink"


@dataclass(frozen=True, slots=True)
class PaneBox:
    """A box in the pixels of one pane (named by its slot): the picking box."""

    slot: str
    low: tuple[float, float]
    high: tuple[float, float]
    role: str = "selection"


@dataclass(frozen=True, slots=True)
class PanePath:
    """A line in the pixels of one pane: a lasso, which is closed, or where a brush goes."""

    slot: str
    path: tuple[tuple[float, float], ...]
    width: float = 1.2
    closed: bool = True
    role: str = "selection"


Overlay = Strokes | Segments | Marks | Label | Corner | Legend | PaneBox | PanePath

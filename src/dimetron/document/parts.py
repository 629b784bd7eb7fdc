"""What stands in the tray beside drawings and meshes, and how a drawing is seen: plain values."""

from __future__ import annotations

import enum
import math
from dataclasses import dataclass

from dimetron.geometry.placement import MAX_MM, PlacementError
from dimetron.geometry.views import Triple
from dimetron.imaging.frame import LEVEL, Crop, Straightening
from dimetron.imaging.tone import Tone


class Seen(enum.Enum):
    """In which panes a drawing is seen. ALONG: in 3D only while that looks along its view."""

    OWN = "own"
    ALONG = "along"
    SPACE = "space"
    EVERYWHERE = "everywhere"


class Order(enum.Enum):
    """How a drawing lies against the meshes in the pane of its own view."""

    BEHIND = "behind"
    FRONT = "front"
    DEPTH = "depth"


@dataclass(frozen=True, slots=True)
class Showing:
    """How a drawing is seen. clear: it is faint inside the meshes' outline. both_sides: it is seen
    from behind too. tint: its lines take this colour (red, green, blue; 0 to 255). ink_alone: its
    ground is clear; lines without a tint are of the board's ink."""

    seen: Seen = Seen.SPACE
    order: Order = Order.BEHIND
    clear: bool = False
    both_sides: bool = True
    tint: tuple[int, int, int] | None = None
    ink_alone: bool = False


USUAL = Showing()


@dataclass(frozen=True, slots=True)
class Group:
    """A named heap of cards, shown and held together."""

    id: str
    name: str
    shown: bool = True
    held: bool = False
    folded: bool = False


@dataclass(frozen=True, slots=True)
class Floating:
    """A loose picture over a pane: ``at`` its corner and ``size``, in pixels of the screen."""

    slot: str
    at: tuple[float, float]
    size: tuple[float, float]


@dataclass(frozen=True, slots=True)
class LoosePicture:
    """A picture that is not aligned with anything: a detail, a mood. ``middle`` (shares of its
    width and height) and ``zoom`` (1: all of it) say which part is looked at. floating: None while
    it is pinned to the tray."""

    id: str
    name: str
    sheet: str
    crop: Crop | None = None
    straightening: Straightening = LEVEL
    tone: Tone | None = None
    middle: tuple[float, float] = (0.5, 0.5)
    zoom: float = 1.0
    floating: Floating | None = None
    shown: bool = True
    held: bool = False
    group: str | None = None


class ReferenceKind(enum.Enum):
    """Kinds of size reference."""

    BOX = "box"
    FIGURE = "figure"
    RULER = "ruler"


@dataclass(frozen=True, slots=True)
class Reference:
    """Something of known size to compare with. ``size``: width, depth and height in mm; ``at``: the
    middle of its base. A figure goes by its height, a ruler by its longest side. Raises
    PlacementError beyond 10 km."""

    id: str
    name: str
    gauge: ReferenceKind
    size: Triple
    at: Triple = (0.0, 0.0, 0.0)
    shown: bool = True
    held: bool = False
    group: str | None = None

    def __post_init__(self) -> None:
        if not all(math.isfinite(n) and abs(n) <= MAX_MM for n in (*self.size, *self.at)):
            raise PlacementError("A size reference can be, and stand, within 10 km.")


@dataclass(frozen=True, slots=True)
class PaneLook:
    """view: a principal view's name, an auxiliary view's id, or "3d"."""

    view: str
    shading: str
    fade: float = 1.0
    grid: bool = True


@dataclass(frozen=True, slots=True)
class SavedLook:
    """What the board looked at, under a name and the number of its key: its panes by slot, the
    focus and scale of the flat ones, the 3D view, and which drawings were shown. split: borders as
    shares of width and height."""

    id: str
    name: str
    panes: tuple[tuple[str, PaneLook], ...]
    slots: tuple[str, ...]
    full: str | None
    split: tuple[float, float]
    focus: Triple
    mm_per_px: float
    target: Triple
    azimuth_deg: float
    elevation_deg: float
    orbit_mm_per_px: float
    perspective: bool
    drawings: tuple[str, ...]
    number: int = 1

"""What a tool is, what it sees, and what it is fed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

from dimetron.app.kit.instrument import Instrument
from dimetron.app.tools.bench import Bench
from dimetron.document.model import Drawing
from dimetron.geometry.camera import Camera, OrthoCamera
from dimetron.geometry.units import Unit, format_length
from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats
from dimetron.render.overlays import Overlay
from dimetron.render.scene import Section

#: A press that moves less than this is a click, in pixels.
CLICK_PX = 4.0
#: How near the pointer must be to a vertex or an edge, in pixels.
REACH_PX = 9.0


@dataclass(frozen=True, slots=True, eq=False)
class BoardEvent:
    """A pointer event. ``px`` from the pane's top-left corner; ``point`` (3,) world, in the plane
    through the camera's focus. section: what cuts the meshes off."""

    slot: str
    camera: Camera
    px: tuple[float, float]
    point: Floats
    shift: bool = False
    ctrl: bool = False
    section: Section | None = None

    @property
    def view(self) -> AnyView | None:
        """The view of the pane; None in 3D."""
        return self.camera.view if isinstance(self.camera, OrthoCamera) else None


class Aimed(NamedTuple):
    """What a click would pick: a pixel of a drawing, and what of the ink it is: "corner",
    "extreme", "stroke" or nothing."""

    drawing: Drawing
    px: tuple[float, float]
    kind: str


class Tool(Instrument):
    """A tool of the board. Idle until pressed. Subclasses override what they need. aimed: what is
    under the pointer, for the magnifier."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        self.aimed: Aimed | None = None

    def refuse(self, words: str) -> None:
        self.bench.warn(words)

    def about(self) -> object:
        return self.bench.chosen

    def press(self, event: BoardEvent) -> bool:
        """Left button down. False leaves the gesture to the board."""
        return False

    def move(self, event: BoardEvent, pressed: bool) -> None:
        """The pointer moved, with the left button down or not."""

    def release(self, event: BoardEvent) -> None:
        """Left button up after a press that was taken."""

    def wheel(self, notches: float, event: BoardEvent) -> bool:
        """The wheel, turned away from whoever holds it while something is dragged, by notches or
        parts of one; False if that means nothing to the tool."""
        return False

    def key(self, key: str, event: BoardEvent | None) -> bool:
        """A key by its name ("x", "left", ...); False if it means nothing to the tool."""
        return False

    def taken_up(self) -> None:
        """It is in hand now."""

    def put_down(self) -> None:
        """Another tool is taken up; nothing is under way."""

    def overlays(self) -> Sequence[Overlay]:
        return ()

    def unit(self) -> Unit:
        return self.bench.committed.unit

    def length(self, mm: float) -> str:
        return format_length(mm, self.unit())


def far_apart(a: tuple[float, float], b: tuple[float, float]) -> bool:
    """Whether a press has become a drag."""
    return max(abs(a[0] - b[0]), abs(a[1] - b[1])) > CLICK_PX


AXIS_KEYS = {"x": 0, "y": 1, "z": 2}

"""What a tool is, what it sees, and what it is fed."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Protocol

from dimetron.app.instrument import Instrument
from dimetron.document.aligning import Box
from dimetron.document.model import Document, Drawing, MeshObject
from dimetron.geometry.camera import Camera, OrthoCamera
from dimetron.geometry.units import Unit, format_length
from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, Ints, Mask
from dimetron.mesh.patch import Patch
from dimetron.mesh.select import Kind, Selection
from dimetron.render.overlays import Overlay
from dimetron.render.scene import Section, Shading

if TYPE_CHECKING:
    from dimetron.app.operating import Operating
    from dimetron.imaging.inkpoint import InkPoint
    from dimetron.registration.byink.features import Feature
    from dimetron.registration.byink.proposal import Proposal
    from dimetron.registration.diagnosis import Finding
    from dimetron.registration.solve import Solution

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


class Bench(Protocol):
    """What tools may see and do. ``committed`` is the document without a running preview."""

    @property
    def committed(self) -> Document: ...
    @property
    def document(self) -> Document: ...
    def preview(self, document: Document) -> None: ...
    def move(self, id_: str, patch: Patch) -> None:
        """Show a mesh with vertices elsewhere."""

    def commit(self, document: Document, label: str) -> None: ...
    def cancel(self) -> None: ...
    @property
    def chosen(self) -> tuple[str, ...]: ...
    @property
    def chosen_mesh(self) -> MeshObject | None: ...
    def choose(self, ids: tuple[str, ...]) -> None: ...
    @property
    def kind(self) -> Kind: ...
    @property
    def selected(self) -> Ints: ...
    @property
    def part(self) -> Selection: ...
    def select(self, kind: Kind, indices: Ints) -> None: ...
    @property
    def operating(self) -> Operating:
        """Operations on the chosen mesh."""

    @property
    def snaps(self) -> frozenset[str]: ...
    def shading(self, slot: str) -> Shading: ...
    def in_sight(self, slot: str, points: Floats) -> Mask: ...
    def scale_of(self, view: AnyView) -> float | None:
        """mm per pixel of the first pane that shows a view; None if none does."""

    def ink(self, drawing: Drawing) -> Box | None:
        """Where a drawing's ink lies: left, top, right and bottom in its pixels."""

    def ink_point(self, drawing: Drawing, px: tuple[float, float], reach: float) -> InkPoint | None:
        """The ink's own point nearest to a pixel, within reach (pixels); None where there is
        none."""

    def propose(
        self,
        done: Callable[[Proposal], None],
        only: tuple[str, ...] = (),
        mesh: MeshObject | None = None,
    ) -> None:
        """Let the drawings' ink say how they lie, on a worker; only: of these, of which the first
        stays; mesh: about it and as large as it. Raises ValueError."""

    def features(self, done: Callable[[tuple[Feature, ...]], None]) -> None:
        """Find what several drawings show at the same place, on a worker. Raises ValueError."""

    def show_view(self, slot: str, view: AnyView) -> None:
        """Let a pane look at a view."""

    def registered(self, document: Document) -> Solution | None:
        """What the marks of a document say; None if there is nothing to solve."""

    def registration_words(self, document: Document) -> tuple[str, tuple[str, ...]]:
        """Why there is no solution; and what does not agree or cannot be known, worst first."""

    def repairs(self) -> tuple[Finding, ...]:
        """What is wrong with the marks and can be set right."""

    @property
    def section(self) -> Section | None: ...
    def cut(self, section: Section | None) -> None:
        """Cut the meshes on the board off at a plane, or show all of them."""

    def warn(self, words: str) -> None: ...
    def refresh(self) -> None: ...


class Tool(Instrument):
    """A tool of the board. Idle until pressed. Subclasses override what they need."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench

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

    def key(self, key: str, event: BoardEvent | None) -> bool:
        """A key by its name ("x", "left", ...); False if it means nothing to the tool."""
        return False

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

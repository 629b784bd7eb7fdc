"""What tools may see and do, as small protocols; whoever needs less than a bench asks for those."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Protocol, TypeVar

from dimetron.document.aligning import Box
from dimetron.document.formulas import InkOf
from dimetron.document.model import Document, Drawing, MeshObject
from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, Ints, Mask
from dimetron.mesh.patch import Patch
from dimetron.mesh.select import Kind, Selection
from dimetron.render.scene import Section, Shading

if TYPE_CHECKING:
    from dimetron.app.work.fitting import Fitting
    from dimetron.app.work.operating import Operating
    from dimetron.imaging.inkpoint import InkPoint
    from dimetron.imaging.pyramid import Pyramid
    from dimetron.imaging.tighten import Inked
    from dimetron.mesh.findings import Finding as Unsound
    from dimetron.mesh.mesh import Mesh
    from dimetron.outlines.trace import Traced
    from dimetron.registration.byink.features import Feature
    from dimetron.registration.byink.proposal import Proposal
    from dimetron.registration.diagnosis import Finding
    from dimetron.registration.gain import Gain
    from dimetron.registration.solve import Solution


_T = TypeVar("_T")


class Edits(Protocol):
    """The document, with and without what is under way, and how it is changed."""

    @property
    def committed(self) -> Document:
        """Without a running preview."""

    @property
    def document(self) -> Document:
        """As it is shown."""

    def preview(self, document: Document) -> None:
        """Show another document without making a step of it."""

    def move(self, id_: str, patch: Patch) -> None:
        """Show a mesh with vertices elsewhere."""

    def commit(self, document: Document, label: str) -> None:
        """Make a step of history; ends a preview."""

    def recommit(self, document: Document, label: str) -> None:
        """Make the current step another one, as done with other numbers."""

    def cancel(self) -> None:
        """Drop a preview."""

    def undo(self) -> None:
        """Back to the step before."""


class Picks(Protocol):
    """What is chosen, and selected of a mesh."""

    @property
    def chosen(self) -> tuple[str, ...]:
        """Ids of items."""

    @property
    def chosen_mesh(self) -> MeshObject | None:
        """The chosen mesh, if just one item is chosen and it is one."""

    def choose(self, ids: tuple[str, ...]) -> None:
        """Choose items; nothing is selected of them then."""

    @property
    def kind(self) -> Kind:
        """What is selected: vertices, edges, faces, or meshes as a whole."""

    @property
    def selected(self) -> Ints:
        """Indices of the selected parts of the chosen mesh."""

    @property
    def part(self) -> Selection:
        """Both together."""

    def select(self, kind: Kind, indices: Ints, last: int = -1) -> None:
        """Select parts of the chosen mesh; last: the one that was picked last, by itself."""


class Sight(Protocol):
    """What the panes show."""

    @property
    def snaps(self) -> frozenset[str]:
        """What points snap to."""

    def shading(self, slot: str) -> Shading:
        """How meshes are shaded in a pane."""

    def in_sight(self, slot: str, points: Floats) -> Mask:
        """(n,) which world points (n, 3) no mesh hides in a pane."""

    def scale_of(self, view: AnyView) -> float | None:
        """mm per pixel of the first pane that shows a view; None if none does."""

    def view_in(self, slot: str) -> AnyView | None:
        """What a pane looks at; None for 3D."""

    def show_view(self, slot: str, view: AnyView) -> None:
        """Let a pane look at a view."""

    def give_back(self, slot: str) -> None:
        """Let a pane that looks at an auxiliary view show again what it did before."""

    @property
    def section(self) -> Section | None:
        """What the meshes are cut off at."""

    def cut(self, section: Section | None) -> None:
        """Cut the meshes on the board off at a plane, or show all of them."""


class Ink(Protocol):
    """What is drawn in the drawings."""

    def ink(self, drawing: Drawing) -> Box | None:
        """Where a drawing's ink lies: left, top, right and bottom in its pixels."""

    def inked(self, drawing: Drawing) -> Inked | None:
        """The same with the strokes that are left out."""

    @property
    def ink_of(self) -> InkOf:
        """Where ink lies, for formulas."""

    def ink_point(self, drawing: Drawing, px: tuple[float, float], reach: float) -> InkPoint | None:
        """The ink's own point nearest to a pixel, within reach (pixels); None where there is
        none."""

    def ink_crossings(
        self, drawing: Drawing, a: tuple[float, float], b: tuple[float, float]
    ) -> Floats:
        """(k,) how far from a pixel to another one strokes are crossed, in pixels."""

    def pyramid(self, drawing: Drawing) -> Pyramid | None:
        """A drawing's picture; None while it is being read."""

    def trace(
        self,
        drawing: Drawing,
        line: str,
        miss_px: float,
        done: Callable[[tuple[Traced, ...]], None],
        within: Floats | None = None,
    ) -> None:
        """Trace what is drawn on a worker: all of it as in ``outlines.trace``, or ("outermost")
        what it encloses; within: only what lies in a polygon (n, 2) of its pixels. Raises
        ValueError while its picture is being read."""

    def block(self, quads: bool, size: float | None, done: Callable[[Mesh], None]) -> None:
        """The largest solid that the drawings' outlines allow, on a worker: as cut, or as quads
        about ``size`` mm large. Raises ValueError while a picture is being read."""

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


class Marks(Protocol):
    """What the landmarks say."""

    def registered(self, document: Document) -> Solution | None:
        """What the marks of a document say; None if there is nothing to solve."""

    def registration_words(self, document: Document) -> tuple[str, tuple[str, ...]]:
        """Why there is no solution; and what does not agree or cannot be known, worst first."""

    def landmarks(self) -> dict[str, Floats]:
        """(3,) where landmarks lie, as far as that is known along all axes, by their names."""

    def gain(self, document: Document) -> Gain | None:
        """What registering would better; None while it is not known."""

    def repairs(self) -> tuple[Finding, ...]:
        """What is wrong with the marks and can be set right."""


class Shaping(Edits, Picks, Sight, Protocol):
    """What it takes to aim at the board, snap and change what is there."""


@dataclass
class Soft:
    """How far around what is selected goes along with it, mm, and how that lessens."""

    mm: float = 0.0
    shape: str = "smooth"


@dataclass
class Frame:
    """Along which axes things are moved, turned and resized: those of the "world", of the "view"
    last pointed at, of what is selected ("part"), or those that were "kept"; the pivot that was
    picked."""

    axes: str = "world"
    view: Floats | None = None
    kept: Floats | None = None
    pivot: Floats | None = None


class Bench(Shaping, Ink, Marks, Protocol):
    """All of it, and operations on the chosen mesh."""

    @property
    def soft(self) -> Soft:
        """As whoever moves, turns or resizes set it last."""

    @property
    def frame(self) -> Frame:
        """As whoever moves, turns or resizes set it last."""

    @property
    def operating(self) -> Operating:
        """Operations on the chosen mesh."""

    def work_out(
        self, words: str, work: Callable[[Callable[[float], None]], _T], done: Callable[[_T], None]
    ) -> None:
        """Do something long on a worker, which is told how to tell how far it is; words say what,
        while it can be stopped. What the project has moved on from is dropped."""

    @property
    def fitting(self) -> Fitting:
        """How far the meshes miss the drawings."""

    def findings(self, item: MeshObject) -> tuple[Unsound, ...] | None:
        """What is not sound about a mesh, the gravest first; None while that is not known."""

    def warn(self, words: str) -> None:
        """Say why nothing comes of what was done."""

    def refresh(self) -> None:
        """What the route shows of the tool is another."""

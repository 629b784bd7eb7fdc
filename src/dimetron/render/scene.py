"""What one pane shows, as values; and how it follows from a document."""

from __future__ import annotations

import enum
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from dimetron.document.edits import bounds, world_corners
from dimetron.document.kind import kind_of, lined_items, lines_of, lying
from dimetron.document.model import Document, Drawing, MeshObject
from dimetron.document.parts import USUAL, Seen, Showing
from dimetron.geometry.camera import Camera, OrbitCamera, OrthoCamera, clamped_zoom, within_reach
from dimetron.geometry.units import Unit
from dimetron.geometry.views import AnyView, Triple, View
from dimetron.mesh.arrays import Floats, Ints, Mask, MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.patch import Patch
from dimetron.mesh.select import Kind, none
from dimetron.mesh.smooth_surface import surface_of
from dimetron.render.palette import DAY, Palette

if TYPE_CHECKING:
    from dimetron.imaging.pyramid import Pyramid
    from dimetron.imaging.recipe import Recipe


#: Cosine of how far 3D may be turned off a view to look along it still: half a degree.
_STRAIGHT = 0.99996
#: Behind the id of a mesh, that of its smooth surface.
_SURFACE = " surface"
#: How strong a mesh is that is set aside.
_ASIDE = 0.35


class Shading(enum.Enum):
    """How meshes are drawn in a pane."""

    SOLID = "solid"
    LINED = "solid with edges"
    SEE_THROUGH = "see-through"
    WIRE = "wire"
    SILHOUETTE = "silhouette"

    @property
    def opaque(self) -> bool:
        """Whether what lies behind a mesh cannot be seen, and so not picked."""
        return self in (Shading.SOLID, Shading.LINED, Shading.SILHOUETTE)


@dataclass(frozen=True, eq=False, slots=True)
class PlaneItem:
    """corners (4, 3) world: top-left, top-right, bottom-right, bottom-left of the picture."""

    id: str
    corners: Floats
    size_px: tuple[int, int]
    pyramid: Pyramid | None
    opacity: float
    chosen: bool = False
    missing: bool = False
    showing: Showing = USUAL


@dataclass(frozen=True, eq=False, slots=True)
class MeshItem:
    """A mesh as a pane shows it, and what of it is selected. faces, lines: whether these are drawn;
    of a cage over its smooth surface only the lines are, of the surface only the faces. colour: its
    own, "#rrggbb"; opacity: 0 to 1."""

    id: str
    mesh: Mesh
    chosen: bool = False
    kind: Kind = Kind.WHOLE
    selected: Ints = field(default_factory=none)
    #: Vertices that are elsewhere while it is dragged.
    patch: Patch | None = None
    faces: bool = True
    lines: bool = True
    colour: str = ""
    opacity: float = 1.0
    #: Of each vertex, -1 to 1: how far its colour goes over into that of what falls short, or of
    #: what stands out.
    tints: NDArray[np.float32] | None = None


@dataclass(frozen=True, eq=False, slots=True)
class LineItem:
    """What is drawn with lines alone: polylines (n, 3) in the world; drawn: in which of the
    palette's colours, and how wide; over: over all else."""

    id: str
    lines: tuple[Floats, ...]
    chosen: bool = False
    drawn: tuple[str, float] = ("soft_ink", 1.1)
    over: bool = False


@dataclass(frozen=True, slots=True)
class Section:
    """What lies beyond a plane is cut away: points p with normal · p > offset_mm."""

    normal: Triple
    offset_mm: float

    def keeps(self, points: Floats) -> Mask:
        """(n,) which points (n, 3) are not cut away."""
        return np.asarray(points @ np.array(self.normal) <= self.offset_mm)


@dataclass(frozen=True, slots=True)
class MeshLook:
    """How meshes are coloured. colour: a role of the palette; opacity: 0 to 1, None for the
    shading's own."""

    colour: str = "clay"
    opacity: float | None = None


USUAL_LOOK = MeshLook()


@dataclass(frozen=True, eq=False, slots=True)
class PaneScene:
    """``half_depth``: mm before and behind the camera's focus within which everything lies."""

    camera: Camera
    shading: Shading
    planes: tuple[PlaneItem, ...]
    meshes: tuple[MeshItem, ...]
    half_depth: float
    unit: Unit = Unit.MM
    palette: Palette = DAY
    pixel_ratio: float = 1.0
    grid: bool = True
    lined: tuple[LineItem, ...] = ()
    section: Section | None = None
    mesh_look: MeshLook = USUAL_LOOK

    @property
    def faced(self) -> tuple[MeshItem, ...]:
        """The meshes whose faces are drawn."""
        return tuple(item for item in self.meshes if item.faces)


@dataclass(frozen=True, eq=False, slots=True)
class Picked:
    """What is chosen, as far as drawing is concerned."""

    items: frozenset[str] = frozenset()
    kind: Kind = Kind.WHOLE
    selected: Ints = field(default_factory=none)


def pane_scene(
    doc: Document,
    camera: Camera,
    shading: Shading,
    pyramids: Mapping[Recipe, Pyramid],
    picked: Picked | None = None,
    stands: Mapping[str, float] | None = None,
    pane_opacity: float = 1.0,
    patch: tuple[str, Patch] | None = None,
    tints: Mapping[str, NDArray[np.float32]] | None = None,
    **look: object,
) -> PaneScene:
    """The scene of one pane. ``stands``: where drawings stand, if not as the document alone tells;
    pane_opacity: how strong drawings are in this pane; patch: of a mesh by its id; tints: of the
    vertices that are seen of meshes, by their ids."""
    picked = picked or Picked()
    planes = tuple(
        PlaneItem(
            d.id,
            world_corners(doc, d)
            if stands is None
            else d.placement.world_corners(d.view, doc.size_px(d), stands[d.id]),
            doc.size_px(d),
            pyramids.get(doc.recipe(d)),
            d.opacity * pane_opacity,
            d.id in picked.items,
            doc.data(d) is None,
            d.showing,
        )
        for d in drawings_in(doc, camera)
    )
    forward = camera.forward if isinstance(camera, OrthoCamera) else None
    lined = tuple(
        LineItem(
            item.id,
            tuple(lines_of(item, forward)),
            item.id in picked.items,
            kind_of(item).drawn,
            kind_of(item).over,
        )
        for item in lined_items(doc)
        if doc.visible(item)
    )
    meshes = tuple(
        item
        for m in doc.meshes
        if doc.visible(m)
        for item in _tinted(
            mesh_items(m, picked, patch[1] if patch is not None and patch[0] == m.id else None),
            (tints or {}).get(m.id),
        )
    )
    half_depth = _reach(camera, planes, meshes)
    scene = PaneScene(camera, shading, planes, meshes, half_depth, lined=lined)
    return replace(scene, **look)  # type: ignore[arg-type]


def _tinted(items: tuple[MeshItem, ...], tints: NDArray[np.float32] | None) -> tuple[MeshItem, ...]:
    """With tints on what has faces, if it still has those vertices."""
    if tints is None:
        return items
    return tuple(
        replace(item, tints=tints)
        if item.faces and len(item.mesh.positions) == len(tints)
        else item
        for item in items
    )


def mesh_items(item: MeshObject, picked: Picked, patch: Patch | None) -> tuple[MeshItem, ...]:
    """A mesh as it is shown: as it is, or as a cage with its smooth surface."""
    chosen = item.id in picked.items
    cage = MeshItem(
        item.id,
        item.mesh,
        chosen,
        picked.kind if chosen else Kind.WHOLE,
        picked.selected if chosen else none(),
        patch,
        colour=item.colour,
        opacity=item.opacity * (_ASIDE if item.guide else 1.0),
    )
    smooth = item.smooth
    if not smooth.view or smooth.shown == "cage" or not item.mesh.topology.face_count:
        return (cage,)
    try:
        surface = surface_of(item.mesh, smooth.view, patch)
    except MeshError:
        return (cage,)
    skin = replace(
        cage,
        id=f"{item.id}{_SURFACE}",
        mesh=surface,
        chosen=chosen and cage.kind is Kind.WHOLE,
        kind=Kind.WHOLE,
        selected=none(),
        patch=None,
        lines=False,
    )
    return skin, replace(cage, faces=False, lines=smooth.shown == "both")


def drawings_in(doc: Document, camera: Camera) -> tuple[Drawing, ...]:
    """The drawings that a pane shows, the lowest first."""
    shown = [d for d in doc.planes if doc.visible(d)]
    if not isinstance(camera, OrthoCamera):
        return tuple(
            d for d in shown if _in_space(d, camera) and (d.showing.both_sides or _faces(d, camera))
        )
    own = {d.view for d in shown}
    return tuple(d for d in shown if _in_flat(d, camera.view, camera.view in own))


def _in_space(drawing: Drawing, camera: OrbitCamera) -> bool:
    if drawing.showing.seen is Seen.ALONG:
        # From behind it is seen as from before; whether it may is another question.
        along = abs(float(drawing.view.directions.forward @ camera.forward))
        return along > _STRAIGHT
    return drawing.showing.seen is not Seen.OWN


def _faces(drawing: Drawing, camera: OrbitCamera) -> bool:
    return float(drawing.view.directions.forward @ camera.forward) > 0


def _in_flat(drawing: Drawing, view: AnyView, has_own: bool) -> bool:
    """A pane shows its own view's drawings; those of the opposite view from behind, if it has none
    of its own; and those that are seen everywhere."""
    if drawing.view == view or drawing.showing.seen is Seen.EVERYWHERE:
        return True
    behind = isinstance(view, View) and drawing.view is view.opposite
    return behind and drawing.showing.both_sides and not has_own


def _reach(camera: Camera, planes: tuple[PlaneItem, ...], meshes: tuple[MeshItem, ...]) -> float:
    points = [item.corners for item in planes] + [item.mesh.bounds for item in meshes]
    points += [item.patch.bounds for item in meshes if item.patch is not None]
    centre = camera.focus if isinstance(camera, OrthoCamera) else camera.target
    if not points:
        return 1000.0
    away = np.concatenate(points) - centre
    return float(np.linalg.norm(away, axis=1).max()) * 1.8 + 10.0


def fitted_ortho(
    box: Floats | None, view: AnyView, size: tuple[float, float], margin: float = 0.12
) -> OrthoCamera:
    """A camera on a view that shows the world box (2, 3), or 400 mm about the origin."""
    if box is None:
        box = np.array([[-200.0, -200.0, -50.0], [200.0, 200.0, 350.0]])
    room = np.array(size) * (1 - 2 * margin)
    scale = clamped_zoom(max(float((span_on(box, view) / room).max()), 1e-5))
    focus = box.mean(axis=0)
    return OrthoCamera(view, (float(focus[0]), float(focus[1]), float(focus[2])), scale, size)


def span_on(box: Floats, view: AnyView) -> Floats:
    """(2,) how wide and high a world box (2, 3) looks in a view."""
    frame = view.directions
    ways = np.abs(np.stack([frame.right, frame.up]))
    return np.asarray(ways @ (box[1] - box[0]))


def fitted_orbit(box: Floats | None, like: OrbitCamera, margin: float = 0.12) -> OrbitCamera:
    """The same direction, moved and zoomed so that the world box (2, 3) fills the pane."""
    if box is None:
        box = np.array([[-200.0, -200.0, -50.0], [200.0, 200.0, 350.0]])
    centre = box.mean(axis=0)
    corners = np.array(np.meshgrid(*box.T)).reshape(3, -1).T - centre
    seen = np.abs(corners @ like.axes[:2].T).max(axis=0) * 2
    room = np.array(like.size) * (1 - 2 * margin)
    scale = clamped_zoom(max(float((seen / room).max()), 1e-5))
    return replace(like, target=within_reach(centre), mm_per_px=scale)


def space_box(doc: Document, with_references: bool = True) -> Floats | None:
    """World bounds of what is shown with drawings where they stand, for fitting the 3D pane."""
    beside = () if with_references else doc.references
    return lying(doc, (item for item in doc.items if doc.visible(item) and item not in beside))


def document_box(doc: Document) -> Floats | None:
    """World bounds of what is shown, for fitting."""
    return bounds(doc, shown_only=True)

"""What one pane shows, as values; and how it follows from a document."""

from __future__ import annotations

import enum
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

import numpy as np

from dimetron.document.edits import bounds
from dimetron.document.model import Document
from dimetron.geometry.camera import Camera, OrbitCamera, OrthoCamera, clamped_zoom
from dimetron.geometry.units import Unit
from dimetron.geometry.views import View
from dimetron.mesh.mesh import Floats, Ints, Mesh
from dimetron.mesh.select import Kind, none
from dimetron.render.palette import DAY, Palette

if TYPE_CHECKING:
    from dimetron.imaging.pyramid import Pyramid
    from dimetron.imaging.recipe import Recipe


class Shading(enum.Enum):
    SOLID = "solid"
    SEE_THROUGH = "see-through"
    WIRE = "wire"


@dataclass(frozen=True, eq=False, slots=True)
class PlaneItem:
    """corners (4, 3) world: top-left, top-right, bottom-right, bottom-left of the picture."""

    id: str
    corners: Floats
    size_px: tuple[int, int]
    pyramid: Pyramid | None
    fade: float
    chosen: bool = False
    missing: bool = False


@dataclass(frozen=True, eq=False, slots=True)
class MeshItem:
    id: str
    mesh: Mesh
    chosen: bool = False
    kind: Kind = Kind.WHOLE
    selected: Ints = field(default_factory=none)


@dataclass(frozen=True, eq=False, slots=True)
class PaneScene:
    """``reach``: mm before and behind the camera's focus within which everything lies."""

    camera: Camera
    shading: Shading
    planes: tuple[PlaneItem, ...]
    meshes: tuple[MeshItem, ...]
    reach: float
    unit: Unit = Unit.MM
    palette: Palette = DAY
    pixel_ratio: float = 1.0
    grid: bool = True


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
    **look: object,
) -> PaneScene:
    """The scene of one pane. Orthographic panes show the drawings of their own view only."""
    picked = picked or Picked()
    view = camera.view if isinstance(camera, OrthoCamera) else None
    planes = tuple(
        PlaneItem(
            d.id,
            d.placement.world_corners(d.view, doc.size_px(d)),
            doc.size_px(d),
            pyramids.get(doc.recipe(d)),
            d.fade,
            d.id in picked.items,
            doc.data(d) is None,
        )
        for d in doc.planes
        if d.shown and view in (None, d.view)
    )
    meshes = tuple(
        MeshItem(
            m.id,
            m.mesh,
            m.id in picked.items,
            picked.kind if m.id in picked.items else Kind.WHOLE,
            picked.selected if m.id in picked.items else none(),
        )
        for m in doc.meshes
        if m.shown
    )
    scene = PaneScene(camera, shading, planes, meshes, _reach(camera, planes, meshes))
    return replace(scene, **look)  # type: ignore[arg-type]


def _reach(camera: Camera, planes: tuple[PlaneItem, ...], meshes: tuple[MeshItem, ...]) -> float:
    points = [item.corners for item in planes] + [item.mesh.bounds for item in meshes]
    centre = camera.focus if isinstance(camera, OrthoCamera) else camera.target
    if not points:
        return 1000.0
    away = np.concatenate(points) - centre
    return float(np.linalg.norm(away, axis=1).max()) * 1.8 + 10.0


def fitted_ortho(
    box: Floats | None, view: View, size: tuple[float, float], margin: float = 0.12
) -> OrthoCamera:
    """A camera on a principal view that shows the world box (2, 3), or 400 mm about the origin."""
    if box is None:
        box = np.array([[-200.0, -200.0, -50.0], [200.0, 200.0, 350.0]])
    span = box[1] - box[0]
    across, up = view.axes
    room = np.array(size) * (1 - 2 * margin)
    scale = clamped_zoom(max(span[across] / room[0], span[up] / room[1], 1e-5))
    focus = box.mean(axis=0)
    return OrthoCamera(view, (float(focus[0]), float(focus[1]), float(focus[2])), scale, size)


def fitted_orbit(box: Floats | None, like: OrbitCamera, margin: float = 0.12) -> OrbitCamera:
    """The same direction, moved and zoomed so that the world box (2, 3) fills the pane."""
    if box is None:
        box = np.array([[-200.0, -200.0, -50.0], [200.0, 200.0, 350.0]])
    centre = box.mean(axis=0)
    corners = np.array(np.meshgrid(*box.T)).reshape(3, -1).T - centre
    seen = np.abs(corners @ like.axes[:2].T).max(axis=0) * 2
    room = np.array(like.size) * (1 - 2 * margin)
    scale = clamped_zoom(max(float((seen / room).max()), 1e-5))
    target = (float(centre[0]), float(centre[1]), float(centre[2]))
    return replace(like, target=target, mm_per_px=scale)


def space_box(doc: Document) -> Floats | None:
    """World bounds of what is shown with drawings where they stand, for fitting the 3D pane."""
    parts = [m.mesh.bounds for m in doc.meshes if m.shown]
    parts += [d.placement.world_corners(d.view, doc.size_px(d)) for d in doc.planes if d.shown]
    if not parts:
        return None
    points = np.concatenate(parts)
    return np.stack([points.min(axis=0), points.max(axis=0)])


def document_box(doc: Document) -> Floats | None:
    """World bounds of what is shown, for fitting."""
    return bounds(doc, shown_only=True)

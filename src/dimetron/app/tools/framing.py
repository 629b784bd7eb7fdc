"""The axes and the point about which things are moved, turned and resized."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from dimetron.app.kit.instrument import Option
from dimetron.app.tools import aim, snap
from dimetron.app.tools.base import BoardEvent
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.remembered import Remembered
from dimetron.app.tools.surface_snap import on_surface
from dimetron.document.model import MeshObject
from dimetron.geometry.camera import Camera, OrthoCamera
from dimetron.geometry.views import AXIS_NAMES
from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.frames import WORLD, axes_of, fixed_point, piece_middles
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.select import Kind, Selection, vertices_of
from dimetron.render.overlays import Label, Marks, Overlay, Strokes

_AXES = (
    ("world", "the world’s"),
    ("view", "the view’s"),
    ("part", "the selection’s"),
    ("kept", "kept as they are"),
)
#: What stays where it is when things are turned and resized.
PIVOTS = (
    ("middle", "the middle"),
    ("base", "the base"),
    ("origin", "the origin"),
    ("each", "each apart"),
    ("picked", "a picked point"),
)


class Framing:
    """What it is set to is the bench's, the same for all tools."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        self._axes: Remembered[Floats] = Remembered()
        self._middle: Remembered[Floats | None] = Remembered()

    # Axes.

    @property
    def is_world(self) -> bool:
        return self.bench.frame.axes == "world"

    def axes(self, item: MeshObject | None) -> Floats:
        """(3, 3) as rows."""
        frame = self.bench.frame
        if frame.axes == "part" and item is not None:
            mesh, part = item.mesh, self.bench.part
            return self._axes.of((mesh, part), lambda: axes_of(mesh, part))
        known = {"view": frame.view, "kept": frame.kept}.get(frame.axes)
        return WORLD if known is None else known

    def look(self, camera: Camera) -> bool:
        """The pointer is in a pane: X runs to the right there, Y up, Z towards whoever looks. True
        if the axes are others for that."""
        frame = self.bench.frame
        up = camera.view.directions.up if isinstance(camera, OrthoCamera) else camera.axes[1]
        seen = np.stack([np.cross(up, -camera.forward), up, -camera.forward])
        changed = frame.view is None or not np.allclose(seen, frame.view)
        frame.view = seen
        return changed and frame.axes == "view"

    def option(self) -> Option:
        def choose(value: str) -> None:
            frame = self.bench.frame
            if value == "kept":
                frame.kept = self.axes(self.bench.chosen_mesh)
            frame.axes = value
            self.bench.refresh()

        return Option("Axes", _AXES, self.bench.frame.axes, choose, listed=True)

    # Pivots.

    def pivot(self, item: MeshObject, vertices: Ints, about: str) -> Floats:
        """The point (3,) that stays; what is turned each apart is dragged about its middle."""
        picked = self.bench.frame.pivot
        if about == "picked" and picked is not None:
            return picked
        return fixed_point(item.mesh.positions[vertices], about, self.axes(item))

    def middles(self, item: MeshObject, vertices: Ints) -> Floats:
        """(k, 3) for each vertex the point that stays, where pieces are turned each apart."""
        return piece_middles(item.mesh, self.bench.part, vertices)

    def pick(self, event: BoardEvent) -> None:
        """Put the pivot where the pointer is."""
        self.bench.frame.pivot = self.place(event)
        self.bench.refresh()

    def place(self, event: BoardEvent) -> Floats:
        """(3,) where the pointer is: on a vertex, else where points snap to, as deep as the pivot
        was."""
        item = self.bench.chosen_mesh
        part = None if item is None else aim.part_at(self.bench, item, Kind.VERTEX, event)
        if part is not None:
            return part.point
        hit = aim.mesh_at(self.bench.document, event)
        if event.view is None and hit is not None:
            return on_surface(self.bench, event, hit.point).point
        before = self.bench.frame.pivot
        if before is None:
            before = item.mesh.bounds.mean(axis=0) if item is not None else np.zeros(3)
        forward = event.camera.forward
        point = event.point + forward * float((before - event.point) @ forward)
        return snap.snap(self.bench, event, point).point

    def pivot_option(self, name: str, about: str, choose: Callable[[str], None]) -> Option:
        return Option(name, PIVOTS, about, choose, listed=True)

    # What shows it.

    def overlays(self, about: str) -> Sequence[Overlay]:
        """The picked pivot, and the axes where they are not the world's."""
        frame, item = self.bench.frame, self.bench.chosen_mesh
        marks: list[Overlay] = []
        if about == "picked" and frame.pivot is not None:
            marks.append(Marks(frame.pivot[None], "cross", "accent", 9.0))
        if item is not None and not self.is_world and len(item.mesh.positions):
            marks += self._triad(item)
        return marks

    def _triad(self, item: MeshObject) -> list[Overlay]:
        mesh, part = item.mesh, self.bench.part
        middle = self._middle.of((mesh, part), lambda: _middle(mesh, part))
        if middle is None:
            return []
        long = 0.2 * float(np.linalg.norm(np.ptp(item.mesh.bounds, axis=0)))
        marks: list[Overlay] = []
        for name, way in zip(AXIS_NAMES, self.axes(item), strict=True):
            end = middle + way * long
            marks.append(Strokes(np.stack([middle, end]), "accent", 1.6))
            marks.append(Label(end, name, "accent", shift=(4.0, -4.0)))
        return marks


def _middle(mesh: Mesh, part: Selection) -> Floats | None:
    """Of what is selected; None of nothing."""
    vertices = vertices_of(mesh, part.kind, part.indices)
    return fixed_point(mesh.positions[vertices], "middle") if len(vertices) else None

"""Push faces out along their normal."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.app.instrument import Field, Option
from dimetron.app.tools import aim, snap
from dimetron.app.tools.base import Bench, BoardEvent
from dimetron.app.tools.mesh_tool import (
    Drag,
    MeshTool,
)
from dimetron.geometry.camera import OrthoCamera
from dimetron.mesh import edit, select
from dimetron.mesh.mesh import Floats, Ints, Mesh
from dimetron.mesh.select import Kind
from dimetron.render.overlays import Label, Overlay, Strokes


class Extrude(MeshTool):
    """Drag a face out along its normal, or type how far."""

    name, title, icon = "extrude", "Extrude", "arrow-bar-up"
    hint = "Drag a face out along its normal, or select faces and type how far."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._distance = 0.0
        self._grown: Ints = select.none()

    def press(self, event: BoardEvent) -> bool:
        hit = aim.mesh_at(self.bench.document, event)
        if hit is None:
            return False
        carry_over = hit.item.id in self.bench.chosen and self.bench.kind is Kind.FACE
        faces = self.bench.selected if carry_over else select.none()
        if hit.face not in faces:
            faces = np.array([hit.face], np.int32)
        self.bench.choose((hit.item.id,))
        self.bench.select(Kind.FACE, faces)
        self._drag = Drag(hit.item, faces, hit.point, event.px)
        return True

    def move(self, event: BoardEvent, pressed: bool) -> None:
        drag = self.pulled(event, pressed)
        if drag is None:
            return
        normal = self._way(drag.item.mesh, drag.vertices)
        self._distance = _pulled(event, drag, normal)
        if "grid" in self.bench.snaps:
            self._distance = _on_grid(self.bench, event, drag.grabbed, normal, self._distance)
        mesh, self._grown = edit.extruded(drag.item.mesh, drag.vertices, normal * self._distance)
        self.bench.preview(self.with_mesh(drag.item, mesh))

    def _way(self, mesh: Mesh, faces: Ints) -> Floats:
        if self.axis is None:
            return edit.region_normal(mesh, faces)
        return np.asarray((np.arange(3) == self.axis).astype(np.float64))

    def release(self, event: BoardEvent) -> None:
        drag, self._drag = self._drag, None
        if drag is None or not drag.dragging:
            return
        if abs(self._distance) < 1e-9:
            self.bench.cancel()
            return
        self.bench.commit(self.bench.document, f"Extrude {self.length(self._distance)}")
        self.bench.select(Kind.FACE, self._grown)

    def fields(self) -> Sequence[Field]:
        value = self._distance if self._drag is not None and self._drag.dragging else None
        return (Field("Distance", value, self._enter),)

    def _enter(self, distance: float) -> None:
        item = self.bench.chosen_mesh
        if item is None or self.bench.kind is not Kind.FACE or not len(self.bench.selected):
            raise ValueError("Click a face first.")
        if distance == 0:
            raise ValueError("The distance must not be zero.")
        faces = self.bench.selected
        mesh, grown = edit.extruded(item.mesh, faces, self._way(item.mesh, faces) * distance)
        self.bench.commit(self.with_mesh(item, mesh), f"Extrude {self.length(distance)}")
        self.bench.select(Kind.FACE, grown)

    def options(self) -> Sequence[Option]:
        choices = (("free", "normal"), ("x", "X"), ("y", "Y"), ("z", "Z"))
        plain = self.axis_option()
        return (Option("Along", choices, plain.value, plain.choose),)

    def overlays(self) -> Sequence[Overlay]:
        drag = self._drag
        if drag is None or not drag.dragging:
            return ()
        way = self._way(drag.item.mesh, drag.vertices) * self._distance
        ends = np.stack([drag.grabbed, drag.grabbed + way])
        return (Strokes(ends, width=1.6), Label(ends[1], self.length(self._distance)))


def _pulled(event: BoardEvent, drag: Drag, normal: Floats) -> float:
    """How far the pointer has pulled along ``normal``, mm; up the pane where it faces the eye."""
    camera = event.camera
    scale = camera.mm_per_px_at(drag.grabbed)
    ends = camera.project(np.stack([drag.grabbed, drag.grabbed + normal * scale]))
    way = ends[1] - ends[0]
    by = np.array(event.px) - drag.px
    length = float(np.hypot(*way))
    if length < 0.08:
        return float(-by[1]) * scale
    return float(by @ way) / length**2 * scale


def _on_grid(
    bench: Bench, event: BoardEvent, start: Floats, normal: Floats, distance: float
) -> float:
    """The distance that brings the face onto a grid line, where its normal runs along an axis."""
    axis = int(np.argmax(np.abs(normal)))
    camera = event.camera
    if abs(normal[axis]) < 0.999 or not isinstance(camera, OrthoCamera):
        return distance
    target = start + normal * distance
    moved = snap.snap(bench, event, target).point
    return float((moved - start)[axis] / normal[axis])

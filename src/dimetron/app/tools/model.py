"""Tools of the Model station: box, choose and move, resize, extrude."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.app.tools import aim
from dimetron.app.tools.base import AXIS_KEYS, Bench, BoardEvent, Field, Option, Tool, far_apart
from dimetron.document import edits
from dimetron.document.model import Document, MeshObject, with_item
from dimetron.geometry.camera import Camera, OrthoCamera
from dimetron.geometry.views import AXIS_NAMES, EXTENT_NAMES
from dimetron.mesh import edit, select
from dimetron.mesh.mesh import Floats, Ints, Mesh, MeshError
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind
from dimetron.render.overlays import Label, Marks, Overlay, PaneBox, Strokes

_KIND_CHOICES = (
    ("whole", "whole"),
    ("vertex", "vertices"),
    ("edge", "edges"),
    ("face", "faces"),
)
_ZERO = np.zeros(3)


class MeshTool(Tool):
    """What the tools on a chosen mesh share: its selected part, and axes to keep to."""

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self.axis: int | None = None

    def vertices(self, item: MeshObject) -> Ints:
        """Vertices that the selection moves; the whole mesh when no part is selected."""
        if self.bench.kind is not Kind.WHOLE and not len(self.bench.selected):
            return select.none()
        return select.vertices_of(item.mesh, self.bench.kind, self.bench.selected)

    def with_mesh(self, item: MeshObject, mesh: Mesh) -> Document:
        return with_item(self.bench.committed, item.id, mesh=mesh)

    def key(self, key: str, event: BoardEvent | None) -> bool:
        if key not in AXIS_KEYS:
            return False
        self.axis = None if self.axis == AXIS_KEYS[key] else AXIS_KEYS[key]
        if event is not None:
            self.move(event, pressed=self.active)
        self.bench.refresh()
        return True

    @property
    def active(self) -> bool:
        """Whether a drag is under way."""
        return False

    def axis_option(self) -> Option:
        def choose(value: str) -> None:
            self.axis = AXIS_KEYS.get(value)
            self.bench.refresh()

        choices = (("free", "free"), ("x", "X"), ("y", "Y"), ("z", "Z"))
        value = "free" if self.axis is None else "xyz"[self.axis]
        return Option("Keep to", choices, value, choose)

    def axis_line(self, through: Floats) -> list[Overlay]:
        """A long line along the axis that is kept to."""
        if self.axis is None:
            return []
        way = np.zeros(3)
        way[self.axis] = 1e4
        line = np.stack([through - way, through + way])
        return [Strokes(line, "accent", 1.2, dash=6.0)]


def dragged_to(camera: Camera, px: tuple[float, float], start: Floats, axis: int | None) -> Floats:
    """Where the world point ``start`` (3,) goes when its pixel is dragged to ``px``.

    Without an axis it moves in the plane that faces the pane; with one, to the point of the axis
    line that is nearest to the pointer's ray.
    """
    ray = camera.ray(px)
    forward = camera.forward
    if axis is None:
        along = float((start - ray.origin) @ forward) / float(ray.direction @ forward)
        return np.asarray(ray.origin + along * ray.direction)
    way = np.zeros(3)
    way[axis] = 1.0
    across = float(way @ ray.direction)
    bottom = 1 - across * across
    if bottom < 1e-6:
        return start.copy()
    between = start - ray.origin
    t = (across * float(between @ ray.direction) - float(between @ way)) / bottom
    return np.asarray(start + t * way)


@dataclass(slots=True)
class _Drag:
    item: MeshObject
    vertices: Ints
    grabbed: Floats
    px: tuple[float, float]
    dragging: bool = False


class Shape(MeshTool):
    """Choose a mesh or its parts by click or box, and move what is selected."""

    name, title, icon = "shape", "Select and move", "pointer"
    hint = "Click or box to select, Shift adds. Drag to move; X, Y or Z keeps to an axis."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._drag: _Drag | None = None
        self._box: tuple[BoardEvent, BoardEvent] | None = None

    @property
    def active(self) -> bool:
        return self._drag is not None

    def press(self, event: BoardEvent) -> bool:
        item, index, point = self._aimed(event)
        if item is None:
            if event.view is None and not event.shift:
                return False
            self._box = (event, event)
            return True
        self.bench.choose((item.id,))
        if self.bench.kind is not Kind.WHOLE:
            assert index is not None
            picked = np.array([index], np.int32)
            known = index in self.bench.selected
            if event.shift or event.ctrl:
                self._select(picked, "toggle")
            elif not known:
                self._select(picked, "replace")
        vertices = self.vertices(item)
        if len(vertices):
            self._drag = _Drag(item, vertices, point, event.px)
        return True

    def _aimed(self, event: BoardEvent) -> tuple[MeshObject | None, int | None, Floats]:
        """What a press here takes hold of: a part of the chosen mesh, else a mesh."""
        kind, chosen = self.bench.kind, self.bench.chosen_mesh
        hit = aim.mesh_at(self.bench.document, event)
        if kind is Kind.WHOLE:
            return (hit.item, None, hit.point) if hit else (None, None, _ZERO)
        if chosen is None or chosen.held or not chosen.shown:
            chosen = hit.item if hit else None
        part = aim.part_at(self.bench, chosen, kind, event) if chosen else None
        if part is None or chosen is None:
            return None, None, _ZERO
        return chosen, part.part, part.point

    def _select(self, picked: Ints, how: str) -> None:
        self.bench.select(self.bench.kind, select.combined(self.bench.selected, picked, how))

    def move(self, event: BoardEvent, pressed: bool) -> None:
        if not pressed:
            return
        if self._box is not None:
            if event.slot == self._box[0].slot:
                self._box = (self._box[0], event)
            return
        drag = self._drag
        if drag is None or (not drag.dragging and not far_apart(event.px, drag.px)):
            return
        drag.dragging = True
        mesh = edit.translated(drag.item.mesh, drag.vertices, self._by(drag, event))
        self.bench.preview(self.with_mesh(drag.item, mesh))

    def _by(self, drag: _Drag, event: BoardEvent) -> Floats:
        begin, now = (
            dragged_to(event.camera, px, drag.grabbed, self.axis) for px in (drag.px, event.px)
        )
        by = now - begin
        # What snaps is the moved vertex that is nearest to where the mesh was taken hold of.
        points = drag.item.mesh.positions[drag.vertices]
        leader = points[int(np.argmin(((points - drag.grabbed) ** 2).sum(axis=1)))]
        moving = (drag.item.id, drag.vertices)
        by = aim.snap(self.bench, event, leader + by, moving).point - leader
        if self.axis is not None:
            by = by * (np.arange(3) == self.axis)
        return np.asarray(by)

    def release(self, event: BoardEvent) -> None:
        if self._box is not None:
            self._finish_box(event)
        drag, self._drag = self._drag, None
        if drag is not None and drag.dragging:
            self.bench.commit(self.bench.document, f"Move {self._what(drag.item)}")

    def _what(self, item: MeshObject) -> str:
        kind, count = self.bench.kind, len(self.bench.selected)
        if kind is Kind.WHOLE:
            return item.name
        plural = {Kind.VERTEX: "vertices", Kind.EDGE: "edges", Kind.FACE: "faces"}[kind]
        return f"{count} {plural}" if count != 1 else f"a {kind.value}"

    def _finish_box(self, event: BoardEvent) -> None:
        assert self._box is not None
        first, last = self._box
        self._box = None
        item = self.bench.chosen_mesh
        adding = event.shift
        if not far_apart(first.px, last.px):
            if not adding:
                self._clear()
            return
        if self.bench.kind is Kind.WHOLE or item is None:
            return
        low, high = _ordered(first.px, last.px)
        picked = aim.parts_in_box(self.bench, item, self.bench.kind, last, low, high)
        self._select(picked, "add" if adding else "replace")

    def _clear(self) -> None:
        if self.bench.kind is Kind.WHOLE or not len(self.bench.selected):
            self.bench.choose(())
        else:
            self._select(select.none(), "replace")

    def abandon(self) -> bool:
        active = self._drag is not None or self._box is not None
        self._drag = self._box = None
        if active:
            self.bench.cancel()
        return active

    def fields(self) -> Sequence[Field]:
        item = self.bench.chosen_mesh
        vertices = self.vertices(item) if item is not None else select.none()
        names = [f"{name} of the middle" for name in AXIS_NAMES]
        if item is None or not len(vertices):
            return [Field(name, None, _nothing) for name in names]
        middle = _middle(item.mesh, vertices)
        return [
            Field(name, float(middle[axis]), self._put(item, vertices, axis, float(middle[axis])))
            for axis, name in enumerate(names)
        ]

    def _put(
        self, item: MeshObject, vertices: Ints, axis: int, now: float
    ) -> Callable[[float], None]:
        def enter(value: float) -> None:
            by = np.zeros(3)
            by[axis] = value - now
            mesh = edit.translated(item.mesh, vertices, by)
            self.bench.commit(self.with_mesh(item, mesh), f"Move {self._what(item)}")

        return enter

    def options(self) -> Sequence[Option]:
        def choose(value: str) -> None:
            change_kind(self.bench, Kind(value))

        return (
            Option("Select", _KIND_CHOICES, self.bench.kind.value, choose),
            self.axis_option(),
        )

    def overlays(self) -> Sequence[Overlay]:
        marks: list[Overlay] = []
        if self._box is not None:
            low, high = _ordered(self._box[0].px, self._box[1].px)
            marks.append(PaneBox(self._box[0].slot, low, high))
        if self._drag is not None and self._drag.dragging:
            shown = self.bench.document.mesh(self._drag.item.id).mesh
            first = self._drag.vertices[0]
            by = shown.positions[first] - self._drag.item.mesh.positions[first]
            at = self._drag.grabbed + by
            marks += self.axis_line(at)
            marks.append(Label(at, "  ".join(_moved_words(self, by)), shift=(14.0, -12.0)))
        return marks


def _moved_words(tool: Tool, by: Floats) -> list[str]:
    words = [f"{AXIS_NAMES[i]} {tool.length(float(by[i]))}" for i in range(3) if abs(by[i]) > 5e-4]
    return words or [tool.length(0.0)]


def _nothing(value: float) -> None:
    raise ValueError("Select a mesh or a part of it first.")


def _ordered(
    a: tuple[float, float], b: tuple[float, float]
) -> tuple[tuple[float, float], tuple[float, float]]:
    low = min(a[0], b[0]), min(a[1], b[1])
    return low, (max(a[0], b[0]), max(a[1], b[1]))


def _middle(mesh: Mesh, vertices: Ints) -> Floats:
    points = mesh.positions[vertices]
    return np.asarray((points.min(axis=0) + points.max(axis=0)) / 2)


def change_kind(bench: Bench, kind: Kind) -> None:
    """Go over to vertices, edges, faces or whole meshes; the selection is carried over."""
    item = bench.chosen_mesh
    carried = select.none()
    if item is not None:
        carried = select.converted(item.mesh, bench.kind, bench.selected, kind)
    bench.select(kind, carried)


class AddBox(Tool):
    """Drag a box in a pane; its third size follows the drawings, and all can be typed."""

    name, title, icon = "box", "Box", "cube-plus"
    hint = "Drag from corner to corner in a pane; then type exact sizes."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._start: tuple[BoardEvent, Floats] | None = None
        self._made: str | None = None

    def press(self, event: BoardEvent) -> bool:
        if event.view is None:
            return False
        self._start = event, aim.snap(self.bench, event, event.point).point
        return True

    def move(self, event: BoardEvent, pressed: bool) -> None:
        if self._start is None or not pressed or event.view is not self._start[0].view:
            return
        if not far_apart(event.px, self._start[0].px):
            return
        end = aim.snap(self.bench, event, event.point).point
        try:
            low, high = self._ends(self._start[0], self._start[1], end)
            doc, self._made = edits.with_mesh(self.bench.committed, box(low, high), "box")
        except MeshError:
            return
        self.bench.preview(doc)

    def _ends(self, event: BoardEvent, start: Floats, end: Floats) -> tuple[Floats, Floats]:
        """Opposite corners; along the line of sight as deep as what is there, else as wide."""
        assert event.view is not None
        depth = event.view.depth_axis
        low, high = np.minimum(start, end), np.maximum(start, end)
        known = edits.bounds(self.bench.committed)
        width = float(high[event.view.axes[0]] - low[event.view.axes[0]])
        if depth == 2:
            low[2], high[2] = 0.0, width
        else:
            low[depth], high[depth] = -width / 2, width / 2
        if known is not None and known[1, depth] - known[0, depth] > 1e-6:
            low[depth], high[depth] = known[:, depth]
            if depth == 2:
                low[2] = max(low[2], 0.0)
        return low, high

    def release(self, event: BoardEvent) -> None:
        if self._start is not None and self._made is not None:
            self.bench.commit(self.bench.document, "Add a box")
            self.bench.choose((self._made,))
        self._start = self._made = None

    def abandon(self) -> bool:
        active = self._start is not None
        self._start = self._made = None
        if active:
            self.bench.cancel()
        return active

    def fields(self) -> Sequence[Field]:
        return size_fields(self.bench, "base")


def size_fields(bench: Bench, about: str) -> list[Field]:
    """Width, depth and height of what is selected, to be typed."""
    item = bench.chosen_mesh
    names = [name.capitalize() for name in EXTENT_NAMES]
    if item is None:
        return [Field(name, None, _nothing) for name in names]
    vertices = select.vertices_of(item.mesh, bench.kind, bench.selected)
    if not len(vertices):
        return [Field(name, None, _nothing) for name in names]
    points = item.mesh.positions[vertices]
    size = points.max(axis=0) - points.min(axis=0)

    def enter_along(axis: int) -> Callable[[float], None]:
        def enter(value: float) -> None:
            if size[axis] < 1e-9:
                raise MeshError(f"What is selected has no {EXTENT_NAMES[axis]} to change.")
            if value <= 0:
                raise MeshError("The size must be more than zero.")
            factors = np.ones(3)
            factors[axis] = value / size[axis]
            mesh = edit.scaled(item.mesh, vertices, factors, fixed_point(points, about))
            doc = with_item(bench.committed, item.id, mesh=mesh)
            bench.commit(doc, f"Set the {EXTENT_NAMES[axis]}")

        return enter

    return [Field(name, float(size[axis]), enter_along(axis)) for axis, name in enumerate(names)]


def fixed_point(points: Floats, about: str) -> Floats:
    """The point that stays when things are resized: their middle, the middle of their base,
    or the world's origin."""
    if about == "origin":
        return np.zeros(3)
    low, high = points.min(axis=0), points.max(axis=0)
    middle = (low + high) / 2
    if about == "base":
        middle[2] = low[2]
    return np.asarray(middle)


class Resize(MeshTool):
    """Drag away from the fixed point to enlarge what is selected, or type its size."""

    name, title, icon = "resize", "Resize", "resize"
    hint = "Drag away from or towards the fixed point; X, Y or Z keeps to an axis."
    _ABOUT = (("base", "base"), ("middle", "middle"), ("origin", "origin"))

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._about = "base"
        self._drag: _Drag | None = None
        self._factor = 1.0

    @property
    def active(self) -> bool:
        return self._drag is not None

    def press(self, event: BoardEvent) -> bool:
        item = self.bench.chosen_mesh
        if item is None:
            hit = aim.mesh_at(self.bench.document, event)
            if hit is None:
                return False
            self.bench.choose((hit.item.id,))
            item = hit.item
        vertices = self.vertices(item)
        if not len(vertices) or item.held:
            return False
        fixed = fixed_point(item.mesh.positions[vertices], self._about)
        self._drag = _Drag(item, vertices, fixed, event.px)
        return True

    def move(self, event: BoardEvent, pressed: bool) -> None:
        drag = self._drag
        if drag is None or not pressed:
            return
        if not drag.dragging and not far_apart(event.px, drag.px):
            return
        drag.dragging = True
        centre = event.camera.project(drag.grabbed)
        before = np.array(drag.px) - centre
        away = max(float(before @ before), 25.0)
        self._factor = max(0.001, float((np.array(event.px) - centre) @ before) / away)
        factors = np.ones(3) if self.axis is not None else np.full(3, self._factor)
        if self.axis is not None:
            factors[self.axis] = self._factor
        mesh = edit.scaled(drag.item.mesh, drag.vertices, factors, drag.grabbed)
        self.bench.preview(self.with_mesh(drag.item, mesh))

    def release(self, event: BoardEvent) -> None:
        drag, self._drag = self._drag, None
        if drag is not None and drag.dragging:
            self.bench.commit(self.bench.document, f"Resize to {self._factor:.4g} times")

    def abandon(self) -> bool:
        active = self._drag is not None
        self._drag = None
        if active:
            self.bench.cancel()
        return active

    def fields(self) -> Sequence[Field]:
        return [
            *size_fields(self.bench, self._about),
            Field("Times", 1.0, self._enter_factor, kind="number"),
        ]

    def _enter_factor(self, factor: float) -> None:
        item = self.bench.chosen_mesh
        vertices = self.vertices(item) if item is not None else select.none()
        if item is None or not len(vertices):
            _nothing(factor)
            return
        factors = np.ones(3) if self.axis is not None else np.full(3, factor)
        if self.axis is not None:
            factors[self.axis] = factor
        fixed = fixed_point(item.mesh.positions[vertices], self._about)
        mesh = edit.scaled(item.mesh, vertices, factors, fixed)
        self.bench.commit(self.with_mesh(item, mesh), f"Resize to {factor:.4g} times")

    def options(self) -> Sequence[Option]:
        def choose(value: str) -> None:
            self._about = value
            self.bench.refresh()

        return (Option("Fixed", self._ABOUT, self._about, choose), self.axis_option())

    def overlays(self) -> Sequence[Overlay]:
        drag = self._drag
        if drag is None or not drag.dragging:
            return ()
        text = f"{self._factor:.3f} times"
        marks: list[Overlay] = [Marks(drag.grabbed[None], "ring"), Label(drag.grabbed, text)]
        return [*marks, *self.axis_line(drag.grabbed)]


class Extrude(MeshTool):
    """Drag a face out along its normal, or type how far."""

    name, title, icon = "extrude", "Extrude", "arrow-bar-up"
    hint = "Drag a face out along its normal, or select faces and type how far."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._drag: _Drag | None = None
        self._distance = 0.0
        self._grown: Ints = select.none()

    @property
    def active(self) -> bool:
        return self._drag is not None

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
        self._drag = _Drag(hit.item, faces, hit.point, event.px)
        return True

    def move(self, event: BoardEvent, pressed: bool) -> None:
        drag = self._drag
        if drag is None or not pressed:
            return
        if not drag.dragging and not far_apart(event.px, drag.px):
            return
        drag.dragging = True
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

    def abandon(self) -> bool:
        active = self._drag is not None
        self._drag = None
        if active:
            self.bench.cancel()
        return active

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


def _pulled(event: BoardEvent, drag: _Drag, normal: Floats) -> float:
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
    moved = aim.snap(bench, event, target).point
    return float((moved - start)[axis] / normal[axis])


TOOL_KINDS = (Shape, AddBox, Resize, Extrude)

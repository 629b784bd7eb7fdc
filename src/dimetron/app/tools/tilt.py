"""Auxiliary view: tilt a plane about a hinge line, or lay one through three points or a face."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import numpy as np

from dimetron.app.kit.instrument import Action, Field, Option
from dimetron.app.tools import aim, picking
from dimetron.app.tools.base import BoardEvent, Tool, far_apart
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.slots import ELEVATION, FLAT_SLOTS, PLAN, SIDE, SPACE
from dimetron.document import edits, placing
from dimetron.document.model import Document, new_id
from dimetron.geometry import auxiliary
from dimetron.geometry.camera import OrthoCamera
from dimetron.geometry.placement import wrapped
from dimetron.geometry.views import AnyView, Auxiliary, Hinge, Triple, View
from dimetron.mesh.arrays import Floats
from dimetron.mesh.select import Kind
from dimetron.render.overlays import Label, Marks, Overlay, Strokes

_WAYS = (("hinge", "hinge"), ("points", "3 points"), ("face", "face"))
_PANES = (
    ("", "pane beside"),
    (SIDE, "side pane"),
    (PLAN, "plan pane"),
    (ELEVATION, "front pane"),
    (SPACE, "3D pane"),
)
_NEW = "a new one"
#: How a drag turns a plane where the hinge is not seen end-on.
_DEG_PER_PX = 0.5
#: A hinge seen this nearly end-on turns with the pointer around it.
_END_ON = 0.9
#: Half the side of the square that shows a plane, if there is nothing to measure by.
_HALF_MM = 100.0


class AuxiliaryView(Tool):
    """Make a view square to an inclined plane, and look at it in a pane of its own."""

    shortcut = "Shift+A"
    name, title, icon = "auxiliary", "Auxiliary view", "angle"
    hint = "Click two points of the hinge line in a flat pane."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._way = "hinge"
        #: Where views are shown, as it was chosen; empty: in one that is not needed for picking.
        self._pane = ""
        #: Where the one that is worked on is shown.
        self._shown_in = ""
        self._which = ""
        self._points: list[Floats] = []
        self._base: View | None = None
        self._hover: Floats | None = None
        self._turning: tuple[BoardEvent, float] | None = None

    def words(self) -> str:
        view = self._view()
        if self._way == "face":
            return "Click the face of a mesh that the view is to be square to."
        if self._way == "points":
            left = 3 - len(self._points)
            return f"Click {left} {'points' if left > 1 else 'point'} of a mesh; vertices catch."
        if view is not None:
            return "Drag to tilt it, or type the angle. Click two points for another."
        return "Click the hinge’s second point." if self._points else self.hint

    # Pointing.

    def press(self, event: BoardEvent) -> bool:
        try:
            if self._way == "hinge":
                return self._press_hinge(event)
            return self._press_mesh(event)
        except ValueError as error:
            self._points = []
            self.bench.warn(str(error))
            return True

    def _press_hinge(self, event: BoardEvent) -> bool:
        view = self._view()
        if event.view is None:
            return False
        if view is not None and view.hinge is not None and not self._points:
            self._turning = event, view.hinge.angle_deg
            return True
        self._pick_hinge(event)
        return True

    def _pick_hinge(self, event: BoardEvent) -> None:
        if not isinstance(event.view, View):
            self.bench.warn("A hinge is drawn in a principal view.")
            return
        point = picking.on_board(self.bench, event).point
        if self._points and event.view is not self._base:
            self._points = []
        self._base = event.view
        if len(self._points) == 1:
            way = point - self._points[0]
            length = float(np.linalg.norm(way))
            if length < 1e-6:
                raise ValueError("The hinge line needs two different points.")
            angle = auxiliary.first_angle(event.view, way)
            hinge = Hinge(event.view, _triple(self._points[0]), _triple(way / length), angle)
            self._points = []
            self._add(lambda id_, name: auxiliary.tilted(id_, name, hinge), event.slot)
        else:
            self._points = [point]
        self.bench.refresh()

    def _press_mesh(self, event: BoardEvent) -> bool:
        if self._way == "points":
            near = self._vertex_near(event)
            if near is not None:
                self._pick_third(near, event)
                return True
        hit = aim.mesh_at(self.bench.document, event)
        if hit is None:
            if event.view is None:
                return False
            self.bench.warn("Click on a mesh; only there a point has a depth.")
            return True
        if self._way == "face":
            normal = hit.item.mesh.face_normals[hit.face]
            centre = hit.item.mesh.face_centres[hit.face]
            self._add(lambda id_, name: auxiliary.square_to(id_, name, normal, centre), event.slot)
            return True
        self._pick_third(hit.point, event)
        return True

    def _vertex_near(self, event: BoardEvent) -> Floats | None:
        """The vertex of a mesh under the pointer; on an outline no face need be under it."""
        doc = self.bench.document
        for item in doc.meshes:
            if doc.visible(item) and doc.free(item):
                part = aim.part_at(self.bench, item, Kind.VERTEX, event)
                if part is not None:
                    return part.point
        return None

    def _pick_third(self, point: Floats, event: BoardEvent) -> None:
        self._points.append(point)
        if len(self._points) == 3:
            points, forward = self._points, event.camera.forward
            self._points = []
            self._add(
                lambda id_, name: auxiliary.through_points(id_, name, points, forward), event.slot
            )
        self.bench.refresh()

    def _add(self, made: Callable[[str, str], Auxiliary], picked_in: str) -> None:
        """Make a step of a new view and show it in a pane. Raises AuxiliaryError."""
        doc = self.bench.committed
        view = made(new_id(), placing.free_view_name(doc, "auxiliary"))
        alike = auxiliary.principal_like(view.directions)
        if alike is not None and view.hinge is None:
            self.bench.warn(f"This plane is square to {alike.title.lower()}; that view is shown.")
            self.bench.show_view(self._pane_for(alike, picked_in), alike)
            return
        self._which = view.id
        self.bench.commit(placing.with_auxiliary(doc, view), f"Add the view {view.name}")
        self._show(view, picked_in)

    def _show(self, view: Auxiliary, picked_in: str = "") -> None:
        """Show a view in its pane, after the one that was lent to another is given back. picked_in:
        the pane that is needed; else the one that shows what its hinge was picked in."""
        self._give_back()
        self._shown_in = self._pane_for(view, picked_in or self._picked_in(view))
        self.bench.show_view(self._shown_in, view)

    def _give_back(self) -> None:
        shown, self._shown_in = self._shown_in, ""
        if shown:
            self.bench.give_back(shown)

    def _pane_for(self, view: AnyView, picked_in: str) -> str:
        """The chosen pane; else one that is neither picked in nor sees the hinge end-on, where it
        is tilted by hand."""
        if self._pane:
            return self._pane
        hinge = view.hinge if isinstance(view, Auxiliary) else None
        for slot in (SIDE, PLAN, ELEVATION):
            shown = self.bench.view_in(slot)
            if slot == picked_in or shown is None:
                continue
            end_on = hinge is not None and abs(shown.directions.forward @ np.array(hinge.way))
            if end_on < _END_ON:
                return slot
        return PLAN if picked_in == SIDE else SIDE

    def _picked_in(self, view: Auxiliary) -> str:
        """The pane that shows what a view's hinge was picked in; none if it has no hinge."""
        base = None if view.hinge is None else view.hinge.base
        shown = (slot for slot in FLAT_SLOTS if self.bench.view_in(slot) == base)
        return "" if base is None else next(shown, "")

    def put_down(self) -> None:
        """The pane shows again what it did, unless drawings are laid on the view."""
        view = self._view()
        drawn_on = view is not None and any(d.view == view for d in self.bench.committed.drawings)
        if drawn_on:
            self._shown_in = ""
        else:
            self._give_back()
        self._which = ""

    def move(self, event: BoardEvent, pressed: bool) -> None:
        self._hover = self.aimed = None
        picks = self._way == "hinge" and self._view() is None and isinstance(event.view, View)
        if picks:
            picked = picking.on_board(self.bench, event)
            self.aimed = picked.aimed
            self._hover = picked.point if event.view is self._base and self._points else None
        view = self._view()
        if self._turning is None or not pressed or view is None or view.hinge is None:
            return
        begin, start = self._turning
        if far_apart(event.px, begin.px):
            angle = start + _turned_by(view.hinge, begin, event)
            if event.shift:
                angle = round(angle / 15.0) * 15.0
            self.bench.preview(self._tilted(angle))

    def _tilted(self, angle: float) -> Document:
        """The view that is worked on at an angle. Raises AuxiliaryError."""
        doc = self.bench.committed
        now = next((view for view in doc.auxiliaries if view.id == self._which), None)
        if now is None:
            raise auxiliary.AuxiliaryError("This view is gone; draw its hinge again.")
        return placing.with_auxiliary(doc, auxiliary.tilted_to(now, wrapped(angle)))

    def release(self, event: BoardEvent) -> None:
        turning, self._turning = self._turning, None
        if turning is None:
            return
        if far_apart(event.px, turning[0].px):
            view = self._view()
            self.bench.commit(self.bench.document, f"Tilt {view.name if view else 'a view'}")
        else:
            # A click begins another hinge.
            self._which = ""
            self._pick_hinge(event)

    def abandon(self) -> bool:
        active = bool(self._points) or self._turning is not None
        self._points, self._turning, self.aimed = [], None, None
        if active:
            self.bench.cancel()
        return active

    def _view(self) -> Auxiliary | None:
        """The auxiliary view that is being worked on."""
        views = self.bench.document.auxiliaries
        return next((view for view in views if view.id == self._which), None)

    # The panel.

    def options(self) -> Sequence[Option]:
        def way(value: str) -> None:
            self._way, self._points = value, []
            self.bench.refresh()

        def pane(value: str) -> None:
            self._pane = value
            view = self._view()
            if view is not None:
                self._show(view)
            self.bench.refresh()

        def which(value: str) -> None:
            self._which, self._points = value, []
            view = self._view()
            if view is not None:
                self._show(view)
            else:
                self._give_back()
            self.bench.refresh()

        views = self.bench.document.auxiliaries
        choices = (("", _NEW), *((view.id, view.name) for view in views))
        chosen = self._which if self._view() is not None else ""
        found = [
            Option("Square to", _WAYS, self._way, way),
            Option("Shown in the", _PANES, self._pane, pane, listed=True),
        ]
        return [*found, Option("View", choices, chosen, which, listed=True)] if views else found

    def fields(self) -> Sequence[Field]:
        view = self._view()
        if view is None or view.hinge is None:
            return ()

        def enter(angle: float) -> None:
            self.bench.commit(self._tilted(angle), f"Tilt {view.name}")

        hint = "Tilt about the hinge, counter-clockwise seen against it"
        return (Field("Angle", view.hinge.angle_deg, enter, "angle", hint),)

    def actions(self) -> Sequence[Action]:
        view = self._view()
        if view is None:
            return ()
        moving = [d for d in self.bench.document.planes if d.id in self.bench.chosen]

        def remove() -> None:
            doc = placing.without_auxiliary(self.bench.committed, view.id)
            self.bench.commit(doc, f"Remove the view {view.name}")

        def lay() -> None:
            doc = self.bench.committed
            for drawing in moving:
                doc = edits.moved_to_view(doc, drawing.id, view)
            self.bench.commit(doc, f"Lay on {view.name}")

        return (
            Action("lay", "Lay on it", lay, "Put the chosen drawings into its plane", bool(moving)),
            Action("remove", "Remove", remove, "Remove this auxiliary view"),
        )

    def overlays(self) -> Sequence[Overlay]:
        marks: list[Overlay] = []
        if self._points:
            marks.append(Marks(np.array(self._points), "cross"))
            if self._hover is not None and self._way == "hinge":
                marks.append(Strokes(np.stack([self._points[0], self._hover]), dash=4.0))
        view = self._view()
        if view is not None:
            marks += _plane_marks(self.bench.document, view)
        return marks


def _turned_by(hinge: Hinge, begin: BoardEvent, now: BoardEvent) -> float:
    """Degrees that a drag turns a plane: round the hinge where it is seen end-on, else by how far
    the pointer went up."""
    camera = begin.camera
    if isinstance(camera, OrthoCamera):
        end_on = float(camera.forward @ np.array(hinge.way))
        if abs(end_on) > _END_ON:
            at = camera.project(np.array(hinge.point))
            a, b = np.array(begin.px) - at, np.array(now.px) - at
            # Pixels count downwards, so this is clockwise as seen.
            seen = math.degrees(math.atan2(b[1], b[0]) - math.atan2(a[1], a[0]))
            return seen * math.copysign(1.0, end_on)
    return (begin.px[1] - now.px[1]) * _DEG_PER_PX


def _plane_marks(doc: Document, view: Auxiliary) -> list[Overlay]:
    """The plane as a square about its point, with its hinge."""
    box = edits.bounds(doc)
    half = _HALF_MM if box is None else float(np.linalg.norm(box[1] - box[0])) / 3
    frame, through = view.directions, np.array(view.through)
    ways = [(-1, -1), (1, -1), (1, 1), (-1, 1), (-1, -1)]
    square = np.array([through + half * (a * frame.right + b * frame.up) for a, b in ways])
    marks: list[Overlay] = [
        Strokes(square, "accent", 1.3, dash=6.0),
        Label(square[2], view.name, "accent"),
    ]
    if view.hinge is not None:
        way = np.array(view.hinge.way) * half * 1.1
        marks.append(Strokes(np.stack([through - way, through + way]), "accent", 2.2))
    return marks


def _triple(point: Floats) -> Triple:
    return float(point[0]), float(point[1]), float(point[2])

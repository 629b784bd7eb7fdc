"""Mark landmarks: the same point of the object in two or more drawings."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

import numpy as np

from dimetron.app.instrument import Act, Field, Option
from dimetron.app.tools import aim
from dimetron.app.tools.base import REACH_PX, Bench, BoardEvent, Tool
from dimetron.document import registering
from dimetron.document.model import Document, Drawing
from dimetron.geometry.camera import OrthoCamera
from dimetron.geometry.views import AXIS_NAMES
from dimetron.mesh.mesh import Floats
from dimetron.render.overlays import Label, Marks, Overlay, Strokes

if TYPE_CHECKING:
    from dimetron.registration.solve import Solution

#: What the next click marks if no landmark is chosen.
_NEW = ""
#: Names in the panes only while there are no more marks than this in one.
_NAMED = 40


class MarkLandmarks(Tool):
    """Click a point in one drawing, then the same point in the others."""

    name, title, icon = "mark", "Mark landmarks", "map-pin"
    hint = "Click a point of the object in a drawing, then the same point in the other drawings."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self.current = _NEW
        self._dragged: tuple[str, str] | None = None
        #: The mark last clicked: landmark and drawing.
        self._touched: tuple[str, str] | None = None
        self._exaggerated = 10.0

    def words(self) -> str:
        if self._landmark() is None:
            return self.hint
        lacking = self._lacking()
        if lacking:
            return f"Now mark {self.current} in {', '.join(lacking)}, or press Enter for a new one."
        return f"Drag marks to better them. Enter: a new landmark after {self.current}."

    def _landmark(self) -> str | None:
        """The landmark being marked; None if the next click makes a new one."""
        known = registering.landmark_of(self.bench.document, self.current)
        return known.name if known is not None else None

    def _lacking(self) -> list[str]:
        doc = self.bench.document
        marked = {m.picture for m in doc.sightings if m.landmark == self.current}
        return [d.name for d in doc.planes if d.id not in marked and doc.visible(d)]

    # Pointing.

    def press(self, event: BoardEvent) -> bool:
        if event.view is None:
            return False
        near = self._mark_at(event)
        if near is not None:
            self.current, self._dragged = near[0], near
            self._touched = near
            self.bench.refresh()
            return True
        drawing = _drawing_at(self.bench.document, event)
        if drawing is None:
            self.bench.warn("Click on a drawing that is shown.")
            return True
        self._mark(drawing, event)
        return True

    def _mark(self, drawing: Drawing, event: BoardEvent) -> None:
        doc = self.bench.committed
        name = self._landmark()
        marked = {(m.landmark, m.picture) for m in doc.sightings}
        if name is None or (name, drawing.id) in marked:
            doc, name = registering.new_landmark(doc, "point")
        self.current = name
        doc = registering.marked(doc, name, drawing.id, aim.picture_px(drawing, event))
        self._dragged = self._touched = name, drawing.id
        self.bench.commit(doc, f"Mark {name} in {drawing.name}")
        self.bench.refresh()

    def _mark_at(self, event: BoardEvent) -> tuple[str, str] | None:
        """The mark nearest to the pointer, within reach: landmark and drawing."""
        doc, best, found = self.bench.document, REACH_PX, None
        for mark in doc.sightings:
            drawing = _shown(doc, mark.picture)
            if drawing is None or drawing.view != event.view:
                continue
            at = event.camera.project(_world(drawing, np.array(mark.px)))
            away = float(np.hypot(*(at - event.px)))
            if away < best:
                best, found = away, (mark.landmark, mark.picture)
        return found

    def move(self, event: BoardEvent, pressed: bool) -> None:
        if self._dragged is None or not pressed:
            return
        name, id_ = self._dragged
        drawing = _shown(self.bench.committed, id_)
        if drawing is not None and event.view == drawing.view:
            px = aim.picture_px(drawing, event)
            self.bench.preview(registering.marked(self.bench.committed, name, id_, px))

    def release(self, event: BoardEvent) -> None:
        dragged, self._dragged = self._dragged, None
        if dragged is not None and self.bench.document is not self.bench.committed:
            self.bench.commit(self.bench.document, f"Move the mark of {dragged[0]}")

    def key(self, key: str, event: BoardEvent | None) -> bool:
        if key != "enter":
            return False
        self.current = _NEW
        self.bench.refresh()
        return True

    def abandon(self) -> bool:
        active = self._dragged is not None or self._landmark() is not None
        if self._dragged is not None:
            self.bench.cancel()
        self._dragged, self.current = None, _NEW
        return active

    # The panel.

    def options(self) -> Sequence[Option]:
        def choose(value: str) -> None:
            self.current = value
            self.bench.refresh()

        names = [m.name for m in self.bench.document.landmarks]
        choices = ((_NEW, "a new one"), *((name, name) for name in names))
        found = [Option("Landmark", choices, self._landmark() or _NEW, choose, listed=True)]
        name = self._landmark()
        if name is None or len(names) < 2:
            return found

        def mirror(twin: str) -> None:
            doc = registering.with_mirror(self.bench.committed, name, twin or None)
            words = f"Mirror {name} by {twin}" if twin else f"Let {name} have no twin"
            self.bench.commit(doc, words)

        others = (("", "no other"), *((n, n) for n in names if n != name))
        return [*found, Option("Mirrored by", others, self._twin(name), mirror, listed=True)]

    def _twin(self, name: str) -> str:
        """The landmark beyond the centre plane that mirrors one, or nothing."""
        for mark in self.bench.document.landmarks:
            if mark.name == name and mark.mirror:
                return mark.mirror
            if mark.mirror == name:
                return mark.name
        return ""

    def fields(self) -> Sequence[Field]:
        name = self._landmark()
        landmark = registering.landmark_of(self.bench.document, self.current)
        if name is None or landmark is None:
            return ()

        def entering(axis: int) -> Callable[[float], None]:
            def enter(mm: float) -> None:
                doc = registering.with_fixed(self.bench.committed, name, axis, mm)
                self.bench.commit(doc, f"Say {AXIS_NAMES[axis]} of {name}")

            return enter

        hint = "Where it is known to lie: 0 for Z is the ground, 0 for X the centre plane"
        known = [
            Field(f"Known {AXIS_NAMES[axis]}", landmark.fixed[axis], entering(axis), hint=hint)
            for axis in range(3)
        ]
        return [*known, self._exaggeration()]

    def _exaggeration(self) -> Field:
        def enter(times: float) -> None:
            if not 0 <= times <= 1000:
                raise ValueError("Type how many times as long as the miss, 0 to 1000.")
            self._exaggerated = times
            self.bench.refresh()

        hint = "How many times as long as the miss its line is drawn"
        return Field("Lines, times the miss", self._exaggerated, enter, "number", hint)

    def acts(self) -> Sequence[Act]:
        name = self._landmark()
        landmark = registering.landmark_of(self.bench.document, self.current)
        solution = self.bench.registered(self.bench.document)

        def register() -> None:
            doc = registering.with_solution(self.bench.committed, _there(solution))
            self.bench.commit(doc, "Register the drawings")

        def open_again() -> None:
            doc = self.bench.committed
            for axis in range(3):
                doc = registering.with_fixed(doc, name or "", axis, None)
            self.bench.commit(doc, f"Leave {name} open")

        def remove() -> None:
            doc = registering.without_landmark(self.bench.committed, name or "")
            self.bench.commit(doc, f"Remove {name}")

        known = landmark is not None and any(v is not None for v in landmark.fixed)
        ready = solution is not None and len(self.bench.document.planes) > 0
        hint = "Scale, turn and place every drawing as the marks say"
        return (
            Act("register", "Register", register, hint, ready, main=True),
            Act("open", "Leave it open", open_again, "Forget its known coordinates", known),
            Act(
                "unmark", "Unmark", self._unmark, "Take the mark clicked last away", self._marked()
            ),
            Act("remove", "Remove it", remove, "The landmark with all its marks", name is not None),
        )

    def _marked(self) -> bool:
        """Whether the mark clicked last is still there."""
        marks = self.bench.document.sightings
        return any((m.landmark, m.picture) == self._touched for m in marks)

    def _unmark(self) -> None:
        if self._touched is None or not self._marked():
            return
        name, drawing = self._touched
        doc = registering.unmarked(self.bench.committed, name, drawing)
        self.bench.commit(doc, f"Unmark {name} in {doc.drawing(drawing).name}")

    def told(self) -> str:
        doc = self.bench.document
        if not doc.sightings:
            return ""
        fault, problems = self.bench.registration_words(doc)
        solution = self.bench.registered(doc)
        if solution is None:
            return fault
        words = f"Mismatch {self.length(solution.rms_mm)}."
        return " ".join([words, *(f"{p[0].upper()}{p[1:]}." for p in problems[:3])])

    def overlays(self) -> Sequence[Overlay]:
        doc = self.bench.document
        solution = self.bench.registered(doc)
        marks: list[Overlay] = []
        misses = _misses(solution)
        crowded = len(doc.sightings) > _NAMED * max(1, len(doc.planes))
        for mark in doc.sightings:
            drawing = _shown(doc, mark.picture)
            if drawing is None:
                continue
            at = _world(drawing, np.array(mark.px))
            mine = mark.landmark == self.current
            role = "selection" if mine else "accent"
            marks.append(Marks(at[None], "cross", role, 6.0, only=drawing.view))
            if mine or not crowded:
                marks.append(Label(at, mark.landmark, role, only=drawing.view))
            off = misses.get((mark.landmark, mark.picture))
            if off is not None:
                end = _world(drawing, np.array(mark.px) - off * self._exaggerated)
                line = np.stack([at, end])
                marks.append(Strokes(line, "warning", 1.6, only=drawing.view))
        return [*marks, *self._expected(doc, solution)]

    def _expected(self, doc: Document, solution: Solution | None) -> list[Overlay]:
        """Where the current landmark must lie in drawings it is not marked in yet."""
        name = self._landmark()
        if name is None or solution is None:
            return []
        point = solution.points.get(name)
        if point is None or any(v is None for v in point):
            return []
        marked = {m.picture for m in doc.sightings if m.landmark == name}
        marks: list[Overlay] = []
        for drawing in doc.planes:
            pose = solution.poses.get(drawing.id)
            if drawing.id in marked or pose is None or not doc.visible(drawing):
                continue
            px = pose.to_px(drawing.view.to_plane(np.array(point, np.float64)))
            at = _world(drawing, px)
            marks.append(Marks(at[None], "ring", "selection", 9.0, only=drawing.view))
        return marks


def _there(solution: Solution | None) -> Solution:
    if solution is None:
        raise ValueError("Mark a landmark in two drawings first.")
    return solution


def _misses(solution: Solution | None) -> dict[tuple[str, str], Floats]:
    """By how many pixels each sighting misses, from where it should be to where it is."""
    if solution is None:
        return {}
    marks = solution.problem.sightings
    return {(m.landmark, m.picture): off for m, off in zip(marks, solution.off, strict=True)}


def _shown(doc: Document, id_: str) -> Drawing | None:
    item = doc.item(id_)
    there = isinstance(item, Drawing) and item.placed and doc.visible(item)
    return item if there and isinstance(item, Drawing) else None


def _drawing_at(doc: Document, event: BoardEvent) -> Drawing | None:
    """The topmost shown drawing under the pointer, held or not: marking does not move it."""
    if not isinstance(event.camera, OrthoCamera):
        return None
    for drawing in doc.planes:
        if doc.visible(drawing) and drawing.view == event.view:
            x, y = aim.picture_px(drawing, event)
            w, h = doc.size_px(drawing)
            if 0 <= x <= w and 0 <= y <= h:
                return drawing
    return None


def _world(drawing: Drawing, px: Floats) -> Floats:
    """A pixel of a drawing in its view's plane through the origin."""
    return drawing.view.to_world(drawing.placement.to_plane(px))

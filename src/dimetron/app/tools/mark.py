"""Mark landmarks: the same point of the object in two or more drawings."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from dimetron.app.kit.instrument import Action, Field, Option, Switch
from dimetron.app.tools import mark_panel, picking
from dimetron.app.tools.base import REACH_PX, Aimed, BoardEvent, Tool
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.compared import LookBack
from dimetron.app.tools.mark_seen import lengths_seen, marks_seen, shown, where_it_must_lie, world
from dimetron.document import registering
from dimetron.render.overlays import Overlay

if TYPE_CHECKING:
    from dimetron.registration.diagnosis import Finding
    from dimetron.registration.problem import Sighting
    from dimetron.registration.solve import Solution

#: What the next click marks if no landmark is chosen.
_NEW = ""


class MarkLandmarks(Tool):
    """Click a point in one drawing, then the same point in the others."""

    shortcut = "Ctrl+M"
    name, title, icon = "mark", "Mark landmarks", "map-pin"
    hint = "Click a point of the object in a drawing, then the same point in the other drawings."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self.current = _NEW
        self._dragged: tuple[str, str] | None = None
        #: The mark last clicked: landmark and drawing.
        self._touched: tuple[str, str] | None = None
        self._exaggerated = 10.0
        #: What new marks count for: every axis, or one.
        self._counts = mark_panel.ALL
        self._back = LookBack(bench)

    def words(self) -> str:
        if self._landmark() is None:
            return self.hint
        lacking = self._lacking()
        if lacking:
            where = ", ".join(lacking)
            return (
                f"Now mark {self.current} in {where}; Enter: a new one; Shift: hold what is there."
            )
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
        aimed = self._aim(event)
        if near is not None and not self._meant_anew(near, aimed, event):
            self.current, self._dragged = near[0], near
            self._touched = near
            self.bench.refresh()
            return True
        if aimed is None:
            self.bench.warn("Click on a drawing that is shown.")
            return True
        self._mark(aimed)
        return True

    def _meant_anew(self, near: tuple[str, str], aimed: Aimed | None, event: BoardEvent) -> bool:
        """Whether a click on another landmark's mark marks the one in hand at the same spot, as
        seen from above where one lies over the other. With Shift it takes hold of what is there."""
        name = self._landmark()
        if name is None or near[0] == name or aimed is None or event.shift:
            return False
        marks = self.bench.document.sightings
        return not any((m.landmark, m.picture) == (name, aimed.drawing.id) for m in marks)

    def _aim(self, event: BoardEvent) -> Aimed | None:
        drawing = picking.drawing_shown_at(self.bench.document, event)
        return None if drawing is None else picking.on_drawing(self.bench, drawing, event)

    def _mark(self, aimed: Aimed) -> None:
        doc, drawing = self.bench.committed, aimed.drawing
        name = self._landmark()
        marked = {(m.landmark, m.picture) for m in doc.sightings}
        if name is None or (name, drawing.id) in marked:
            doc, name = registering.new_landmark(doc, "point")
        self.current = name
        axis = None if self._counts == mark_panel.ALL else int(self._counts)
        if axis not in drawing.view.paper_axes:
            axis = None
        doc = registering.marked(doc, name, drawing.id, aimed.px, axis)
        self._dragged = self._touched = name, drawing.id
        self.bench.commit(doc, f"Mark {name} in {drawing.name}")
        self.bench.refresh()

    def _mark_at(self, event: BoardEvent) -> tuple[str, str] | None:
        """The mark nearest to the pointer, within reach: landmark and drawing."""
        doc, best, found = self.bench.document, REACH_PX, None
        for mark in doc.sightings:
            drawing = shown(doc, mark.picture)
            if drawing is None or drawing.view != event.view:
                continue
            at = event.camera.project(world(drawing, np.array(mark.px)))
            away = float(np.hypot(*(at - event.px)))
            if away < best:
                best, found = away, (mark.landmark, mark.picture)
        return found

    def move(self, event: BoardEvent, pressed: bool) -> None:
        self.aimed = self._aim(event) if event.view is not None else None
        if self._dragged is None or not pressed:
            return
        name, id_ = self._dragged
        drawing = shown(self.bench.committed, id_)
        if drawing is not None and event.view == drawing.view:
            self.aimed = picking.on_drawing(self.bench, drawing, event)
            doc = registering.marked(self.bench.committed, name, id_, self.aimed.px)
            self.bench.preview(doc)

    def release(self, event: BoardEvent) -> None:
        dragged, self._dragged = self._dragged, None
        if dragged is not None and self.bench.document is not self.bench.committed:
            self.bench.commit(self.bench.document, f"Move the mark of {dragged[0]}")

    def key(self, key: str, event: BoardEvent | None) -> bool:
        if key == "delete" and self._mark_touched() is not None:
            self._unmark()
            return True
        if key != "enter":
            return False
        self.current, self._touched = _NEW, None
        self.bench.refresh()
        return True

    def abandon(self) -> bool:
        active = self._dragged is not None or self._landmark() is not None
        active = self._back.forget() or active
        if self._dragged is not None:
            self.bench.cancel()
        self._dragged = self._touched = self.aimed = None
        self.current = _NEW
        return active

    # The panel.

    def _mark_touched(self) -> Sighting | None:
        """The mark clicked last, if it is still there and of the landmark in hand."""
        if self._touched is None or self._touched[0] != self.current:
            return None
        marks = self.bench.document.sightings
        return next((m for m in marks if (m.landmark, m.picture) == self._touched), None)

    def options(self) -> Sequence[Option]:
        def choose(value: str) -> None:
            self.current, self._touched = value, None
            self.bench.refresh()

        def count(value: str) -> None:
            mark = self._mark_touched()
            self._counts = value
            if mark is not None:
                axis = None if value == mark_panel.ALL else int(value)
                doc = registering.guided(self.bench.committed, mark.landmark, mark.picture, axis)
                self.bench.commit(doc, f"Say what the mark of {mark.landmark} counts for")
            self.bench.refresh()

        names = [m.name for m in self.bench.document.landmarks]
        choices = ((_NEW, "a new one"), *((name, name) for name in names))
        found = [*self._back.options()]
        found.append(Option("Landmark", choices, self._landmark() or _NEW, choose, listed=True))
        found.append(mark_panel.counts_for(self.bench, self._mark_touched(), self._counts, count))
        name = self._landmark()
        if name is None or len(names) < 2:
            return found
        return [*found, mark_panel.mirrored_by(self.bench, name)]

    def switches(self) -> Sequence[Switch]:
        mark = self._mark_touched()
        return () if mark is None else (mark_panel.let_it_count(self.bench, mark),)

    def fields(self) -> Sequence[Field]:
        landmark = registering.landmark_of(self.bench.document, self.current)
        if landmark is None:
            return ()
        mark = self._mark_touched()
        known = mark_panel.known_coordinates(self.bench, landmark)
        picked = [] if mark is None else [mark_panel.picked_to(self.bench, mark)]
        return [*known, self._exaggeration(), *picked]

    def _exaggeration(self) -> Field:
        def enter(times: float) -> None:
            if not 0 <= times <= 1000:
                raise ValueError("Type how many times as long as the miss, 0 to 1000.")
            self._exaggerated = times
            self.bench.refresh()

        hint = "How many times as long as the miss its line is drawn"
        return Field("Lines, times", self._exaggerated, enter, "number", hint)

    def actions(self) -> Sequence[Action]:
        name = self._landmark()
        landmark = registering.landmark_of(self.bench.document, self.current)
        solution = self.bench.registered(self.bench.document)

        gain = self.bench.gain(self.bench.document)

        def register() -> None:
            before = self.bench.committed
            self.aimed = None
            doc = registering.with_solution(before, _there(solution))
            self.bench.commit(doc, "Register the drawings")
            if gain is not None:
                was, now = self.length(gain.before_mm), self.length(gain.after_mm)
                self._back.keep(before, f"Mismatch {was} before, {now} after.")
            self.bench.refresh()

        def open_again() -> None:
            doc = self.bench.committed
            for axis in range(3):
                doc = registering.with_fixed(doc, name or "", axis, None)
            self.bench.commit(doc, f"Leave {name} open")

        def remove() -> None:
            doc = registering.without_landmark(self.bench.committed, name or "")
            self.bench.commit(doc, f"Remove {name}")

        known = landmark is not None and any(v is not None for v in landmark.fixed)
        # While a worker is at it, what is shown is of the marks before.
        fault, _ = self.bench.registration_words(self.bench.document)
        ready = solution is not None and not fault
        touched = self._mark_touched() is not None
        hint = mark_panel.register_hint(gain)
        worth = gain is not None and gain.worth
        return (
            Action("register", "Register", register, hint, ready and worth, worth, above=True),
            *self._back.actions(),
            *(self._repair(finding) for finding in self.bench.repairs()[:1]),
            Action("open", "Leave it open", open_again, "Forget its known coordinates", known),
            Action("unmark", "Unmark", self._unmark, "Take the mark clicked last away", touched),
            Action(
                "remove", "Remove it", remove, "The landmark with all its marks", name is not None
            ),
        )

    def _repair(self, finding: Finding) -> Action:
        """What is wrong with the marks and can be set right at once."""

        def run() -> None:
            assert finding.repair is not None
            doc = registering.repaired(self.bench.committed, finding.repair)
            self.bench.commit(doc, finding.do)

        said = f"{finding.words[0].upper()}{finding.words[1:]}"
        return Action("repair", finding.do, run, said, main=True, above=True)

    def _unmark(self) -> None:
        mark = self._mark_touched()
        if mark is not None:
            doc = registering.unmarked(self.bench.committed, mark.landmark, mark.picture)
            drawing = doc.drawing(mark.picture)
            self.bench.commit(doc, f"Unmark {mark.landmark} in {drawing.name}")

    def told(self) -> str:
        doc = self.bench.document
        if not doc.sightings:
            return ""
        fault, problems = self.bench.registration_words(doc)
        solution = self.bench.registered(doc)
        if solution is None or fault:
            return fault
        words = self._back.told() or f"Mismatch {self.length(solution.rms_mm)}."
        return "\n".join([words, *(f"{p[0].upper()}{p[1:]}." for p in problems[:3])])

    def overlays(self) -> Sequence[Overlay]:
        doc = self.bench.document
        solution = self.bench.registered(doc)
        marks = list(marks_seen(doc, solution, self.current, self._exaggerated))
        marks += lengths_seen(doc)
        if self._landmark() is not None:
            marks += where_it_must_lie(doc, solution, self.current)
        return marks


def _there(solution: Solution | None) -> Solution:
    if solution is None:
        raise ValueError("Mark a landmark in two drawings first.")
    return solution

"""Arrange: slide, size and turn drawings by hand or by typing; move size references."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.app.kit.instrument import Action, Field, Option, Switch
from dimetron.app.tools import aim, picking, snap
from dimetron.app.tools.base import BoardEvent, Tool, far_apart
from dimetron.app.tools.bench import Bench
from dimetron.app.tools.handles import (
    Handle,
    handle_at,
    handle_marks,
    handles_of,
    pivot_for,
    sized,
    turned,
)
from dimetron.document import bodies, edits, formulas
from dimetron.document.aligning import extent_on_paper
from dimetron.document.kind import lying, moved
from dimetron.document.model import Document, Drawing, with_item
from dimetron.document.placing import pivots, scaled, turned_about
from dimetron.geometry import placement as place
from dimetron.geometry.camera import OrthoCamera
from dimetron.geometry.placement import PlacementError
from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats
from dimetron.render.overlays import Label, Overlay

_ARROWS = {"left": (-1, 0), "right": (1, 0), "up": (0, 1), "down": (0, -1)}
#: Nudges by the keys held with an arrow: pixels of the picture, and degrees with Alt.
NUDGES_PX = {"": 1.0, "shift": 10.0, "ctrl": 0.1}
NUDGES_DEG = {"": 0.1, "shift": 1.0, "ctrl": 0.01}
_PIVOTS = (
    ("opposite", "opposite side"),
    ("centre", "centre"),
    ("top-left", "top left corner"),
    ("top-right", "top right corner"),
    ("bottom-left", "bottom left corner"),
    ("bottom-right", "bottom right corner"),
    ("picked", "a picked point"),
)


@dataclass(slots=True)
class _Grip:
    """What is being dragged: drawings or a reference by themselves, or a drawing by a handle."""

    ids: tuple[str, ...]
    name: str
    view: AnyView
    start: Floats
    px: tuple[float, float]
    handle: Handle | None = None
    pivot: Floats | None = None
    dragging: bool = False
    #: What a click with Shift adds to what is chosen, or takes from it; a drag slides it instead.
    toggles: str = ""


class Arrange(Tool):
    """Choose drawings by a click, slide them by dragging, size and turn one by its handles."""

    shortcut = "A"
    name, title, icon = "arrange", "Arrange drawings", "arrows-move"
    hint = "Drag a drawing to slide it, its handles to size or turn it. Shift: one axis."

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._grip: _Grip | None = None
        self._along = "both"
        self._mode = "opposite"
        self._picked: Floats = np.zeros(2)
        self._picking = False
        self._guides: tuple[Overlay, ...] = ()
        self._told = ""

    def words(self) -> str:
        if self._picking:
            return "Click the point that is to stay when a drawing is sized or turned."
        if self._grip is not None and self._grip.handle is not None:
            size = self._grip.handle.kind == "size"
            return "Ctrl: let go of the aspect." if size else "Shift: turn in steps of 15°."
        drawing = self._chosen()
        if drawing is None or not self._others(drawing):
            return self.hint
        words = bodies.words_of(self.bench.committed, drawing.id)
        return f"{words}, and turned with them, about the origin. Drag it to slide it."

    # Pointing.

    def press(self, event: BoardEvent) -> bool:
        self._told = ""
        view = event.view
        if view is None:
            drawing = aim.drawing_at(self.bench.document, event)
            if drawing is not None:
                self.bench.choose((drawing.id,))
            return False
        if self._picking:
            self._picked = view.to_plane(picking.on_board(self.bench, event).point)
            self.aimed = None
            self._picking = False
            self.bench.refresh()
            return True
        self._grip = self._by_handle(event, view) or self._by_itself(event, view)
        if self._grip is None and not event.shift:
            self.bench.choose(())
        return True

    def _by_handle(self, event: BoardEvent, view: AnyView) -> _Grip | None:
        drawing = self._chosen()
        if drawing is None or drawing.view != view:
            return None
        handle = handle_at(self._handles(drawing, event), event)
        if handle is None:
            return None
        doc = self.bench.committed
        pivot = pivot_for(doc, drawing, handle, self._mode, self._picked)
        if handle.kind == "size" and self._others(drawing):
            pivot = np.zeros(2)
        at = view.to_plane(event.point)
        return _Grip((drawing.id,), drawing.name, view, at, event.px, handle, pivot)

    def _handles(self, drawing: Drawing, event: BoardEvent) -> list[Handle]:
        assert isinstance(event.camera, OrthoCamera)
        return handles_of(self.bench.document, drawing, event.camera.mm_per_px)

    def _by_itself(self, event: BoardEvent, view: AnyView) -> _Grip | None:
        doc = self.bench.document
        item = aim.lined_at(doc, event) or aim.drawing_at(doc, event)
        if item is None:
            return None
        if not event.shift and item.id not in self.bench.chosen:
            self.bench.choose((item.id,))
        ids: tuple[str, ...] = (item.id,)
        if isinstance(item, Drawing) and item.id in self.bench.chosen:
            ids = tuple(d.id for d in self._all_chosen() if d.view == view)
        name = item.name if len(ids) == 1 else f"{len(ids)} drawings"
        toggles = item.id if event.shift else ""
        start = view.to_plane(event.point)
        return _Grip(ids, name, view, start, event.px, toggles=toggles)

    def move(self, event: BoardEvent, pressed: bool) -> None:
        grip = self._grip
        self.aimed = picking.on_board(self.bench, event).aimed if self._picking else None
        if grip is None or not pressed or event.view != grip.view:
            return
        if not grip.dragging and not far_apart(event.px, grip.px):
            return
        grip.dragging = True
        self._guides = ()
        try:
            if grip.handle is None:
                self.bench.preview(self._slid(grip, event))
            else:
                self.bench.preview(self._pulled(grip, grip.handle, event))
            self._told = ""
        except PlacementError as error:
            # The last sensible state stays until the pointer comes back.
            self._told = str(error)

    def _slid(self, grip: _Grip, event: BoardEvent) -> Document:
        doc = self.bench.committed
        found = snap.snap(self.bench, event, event.point, skip=frozenset(grip.ids))
        if found.to == "vertex":
            by = self._limited(grip.view.to_plane(found.point) - grip.start, event.shift)
        else:
            by = self._limited(grip.view.to_plane(event.point) - grip.start, event.shift)
            extent = self._extent(doc, grip) + by
            more, _, guides = snap.snapped_by(self.bench, event, extent, frozenset(grip.ids))
            free = self._limited(np.ones(2), False) if not event.shift else (by != 0)
            by = by + more * free
            self._guides = guides
        for id_ in grip.ids:
            item = doc.item(id_)
            if item is not None:
                doc = moved(doc, item, by, grip.view)
        return doc

    def _extent(self, doc: Document, grip: _Grip) -> Floats:
        """(2, 2) lowest and highest view-plane coordinates of what is being slid."""
        parts = []
        for id_ in grip.ids:
            item = doc.item(id_)
            if isinstance(item, Drawing):
                parts.append(extent_on_paper(doc, item))
            elif item is not None and (box := lying(doc, (item,))) is not None:
                parts.append(np.sort(grip.view.to_plane(box), axis=0))
        return np.stack([np.min(parts, axis=(0, 1)), np.max(parts, axis=(0, 1))])

    def _limited(self, by: Floats, one_axis: bool) -> Floats:
        along = self._along
        if one_axis:
            along = "across" if abs(by[0]) >= abs(by[1]) else "up"
        return np.asarray(by * {"both": (1, 1), "across": (1, 0), "up": (0, 1)}[along])

    def _pulled(self, grip: _Grip, handle: Handle, event: BoardEvent) -> Document:
        doc = self.bench.committed
        drawing = doc.drawing(grip.ids[0])
        assert grip.pivot is not None
        if handle.kind == "turn":
            to = grip.view.to_plane(event.point)
            after, _ = turned(drawing.placement, grip.start, grip.pivot, to, event.shift)
            return bodies.carried_along(doc, drawing.id, after)
        aimed = event.point + grip.view.to_world(handle.at - grip.start)
        found = snap.snap(self.bench, event, aimed, skip=frozenset(grip.ids))
        self._guides = found.guides
        aspect = drawing.aspect_locked and not event.ctrl
        to = grip.view.to_plane(found.point)
        after = sized(drawing.placement, handle, grip.pivot, to, aspect)
        return bodies.carried_along(doc, drawing.id, after)

    def release(self, event: BoardEvent) -> None:
        grip, self._grip = self._grip, None
        self._guides, self._told = (), ""
        if grip is None:
            return
        if not grip.dragging:
            if grip.toggles:
                self._toggle(grip.toggles)
            return
        if grip.toggles and grip.toggles not in self.bench.chosen:
            self.bench.choose((grip.toggles,))
        word = "Slide"
        if grip.handle is not None:
            word = "Size" if grip.handle.kind == "size" else "Turn"
        self.bench.commit(self.bench.document, f"{word} {grip.name}")

    def _toggle(self, id_: str) -> None:
        chosen = self.bench.chosen
        others = tuple(i for i in chosen if i != id_)
        self.bench.choose(others if id_ in chosen else (*chosen, id_))

    def abandon(self) -> bool:
        active = self._grip is not None or self._picking
        self._grip, self._picking, self._guides, self._told = None, False, (), ""
        self.aimed = None
        if active:
            self.bench.cancel()
        return active

    # Keys.

    def key(self, key: str, event: BoardEvent | None) -> bool:
        held, _, arrow = key.rpartition("+")
        drawings = self._all_chosen()
        if arrow not in _ARROWS or not drawings:
            return False
        doc = self.bench.committed
        alt = held.startswith("alt")
        step = held.removeprefix("alt").removeprefix("+")
        done: set[str] = set()
        for drawing in drawings:
            if not alt:
                doc = self._nudged(doc, drawing, arrow, step)
            elif bodies.body_key(drawing) not in done:
                doc = self._turned_or_sized(doc, drawing, arrow, step)
            done.add(bodies.body_key(drawing))
        what = drawings[0].name if len(drawings) == 1 else f"{len(drawings)} drawings"
        self.bench.commit(doc, f"Nudge {what}")
        return True

    def _nudged(self, doc: Document, drawing: Drawing, arrow: str, step: str) -> Document:
        by = np.array(_ARROWS[arrow]) * NUDGES_PX[step] * drawing.placement.mm_per_px
        return edits.slid(doc, drawing.id, by)

    def _turned_or_sized(self, doc: Document, drawing: Drawing, arrow: str, step: str) -> Document:
        """With Alt: left and right turn, up and down make it larger and smaller by pixels."""
        pivot = self._pivot(drawing)
        across, up = _ARROWS[arrow]
        if across:
            after = turned_about(drawing.placement, -across * NUDGES_DEG[step], pivot)
        else:
            wide = doc.size_px(drawing)[0]
            factor = max(0.5, 1 + up * NUDGES_PX[step] / wide)
            after = scaled(drawing.placement, (factor, factor), pivot)
        return bodies.carried_along(doc, drawing.id, after)

    def _pivot(self, drawing: Drawing) -> Floats:
        """The point that stays when a size or a turn is typed or nudged: the origin, if others are
        sized along."""
        if self._others(drawing):
            return np.zeros(2)
        if self._mode == "picked":
            return self._picked
        spots = pivots(self.bench.committed, drawing)
        return spots["centre" if self._mode == "opposite" else self._mode]

    def _others(self, drawing: Drawing) -> int:
        """How many drawings are one body with it."""
        return len(bodies.body_of(self.bench.committed, drawing.id)) - 1

    # What is chosen.

    def _all_chosen(self) -> list[Drawing]:
        doc = self.bench.document
        return [d for d in doc.planes if d.id in self.bench.chosen and doc.free(d)]

    def _chosen(self) -> Drawing | None:
        found = self._all_chosen()
        return found[0] if len(found) == 1 else None

    # The panel.

    def fields(self) -> Sequence[Field]:
        drawing = self._chosen()
        if drawing is None:
            return ()
        sizes, middles = formulas.size_names(drawing), formulas.middle_names(drawing)
        numbers = (*sizes, *middles, "turned")
        return [self._field(drawing, number, number in middles) for number in numbers]

    def _field(self, drawing: Drawing, number: str, middle: bool) -> Field:
        words = number.replace("_", " ")
        title = f"Middle {words.upper() if len(words) == 1 else words}" if middle else (
            words.capitalize())  # fmt: skip
        return Field(
            title,
            formulas.value_of(self.bench.document, drawing, number),
            self._entering(drawing, number),
            "angle" if number == "turned" else "length",
            "A number, a sum, or another drawing’s such as =front.width/2, =front.ink.width",
            # Width and height in one row, and the middle's two places.
            beside=number in (formulas.size_names(drawing)[1], formulas.middle_names(drawing)[1]),
            formula=self._following(drawing, number),
            follows=dict(drawing.formulas).get(number, ""),
        )

    def _entering(self, drawing: Drawing, number: str) -> Callable[[float], None]:
        def enter(value: float) -> None:
            doc = self.bench.committed
            now = formulas.value_of(doc, drawing, number)
            if number in formulas.size_names(drawing):
                side = formulas.size_names(drawing).index(number)
                if value <= 0:
                    raise PlacementError("The size must be more than zero.")
                factors = (value / now, 1.0) if side == 0 else (1.0, value / now)
                both = (value / now, value / now) if drawing.aspect_locked else factors
                after = scaled(drawing.placement, both, self._pivot(drawing), aspect=False)
                doc = bodies.carried_along(doc, drawing.id, after)
            elif number == "turned":
                by = value - now
                after = turned_about(drawing.placement, by, self._pivot(drawing))
                doc = bodies.carried_along(doc, drawing.id, after)
            else:
                doc = formulas.with_value(doc, drawing.id, number, value)
            self.bench.commit(doc, f"Set the {number.replace('_', ' ')} of {drawing.name}")

        return enter

    def _following(self, drawing: Drawing, number: str) -> Callable[[str], None]:
        def follow(text: str) -> None:
            doc = formulas.with_formula(
                self.bench.committed, drawing.id, number, text, self.bench.ink_of
            )
            self.bench.commit(doc, f"Let the {number} of {drawing.name} follow")

        return follow

    def options(self) -> Sequence[Option]:
        def slide(value: str) -> None:
            self._along = value
            self.bench.refresh()

        def stay(value: str) -> None:
            self._mode = value
            self._picking = value == "picked"
            self.bench.refresh()

        ways = (("both", "both ways"), ("across", "across"), ("up", "up"))
        found = [Option("Slide", ways, self._along, slide)]
        drawing = self._chosen()
        if drawing is None or not self._others(drawing):
            found.append(Option("Stays in place", _PIVOTS, self._mode, stay, listed=True))
        return found

    def switches(self) -> Sequence[Switch]:
        drawing = self._chosen()
        if drawing is None:
            return ()

        def keep(on: bool) -> None:
            doc = with_item(self.bench.committed, drawing.id, aspect_locked=on)
            self.bench.commit(doc, "Keep the aspect" if on else "Release the aspect")

        hint = "Off: width and height are sized apart"
        return (Switch("Aspect kept", drawing.aspect_locked, keep, hint),)

    def actions(self) -> Sequence[Action]:
        drawing = self._chosen()
        if drawing is None:
            return ()

        def turn() -> None:
            middle = pivots(self.bench.committed, drawing)["centre"]
            pivot = middle if self._others(drawing) else self._pivot(drawing)
            after = turned_about(drawing.placement, 90.0, pivot)
            doc = edits.with_placement(self.bench.committed, drawing.id, after)
            self.bench.commit(doc, f"Turn {drawing.name}")

        def mirror() -> None:
            w, h = self.bench.committed.size_px(drawing)
            after = place.flipped(drawing.placement, (w / 2, h / 2))
            doc = edits.with_placement(self.bench.committed, drawing.id, after)
            self.bench.commit(doc, f"Mirror {drawing.name}")

        return (
            Action("quarter", "Quarter turn", turn, "Turn by 90° counter-clockwise"),
            Action("mirror", "Mirror", mirror, "Mirror left to right"),
        )

    def told(self) -> str:
        return self._told

    def overlays(self) -> Sequence[Overlay]:
        drawing = self._chosen()
        if drawing is None:
            return self._guides
        doc, grip = self.bench.document, self._grip
        pivot = self._pivot(drawing)
        if grip is not None and grip.pivot is not None:
            pivot = grip.pivot
        marks: list[Overlay] = [*self._guides]
        scale = self.bench.scale_of(drawing.view)
        if scale is not None:
            marks += handle_marks(doc, drawing, handles_of(doc, drawing, scale), pivot)
        if grip is not None and grip.dragging:
            marks.append(self._read_out(doc, drawing, grip))
        return marks

    def _read_out(self, doc: Document, drawing: Drawing, grip: _Grip) -> Overlay:
        """What the drag has come to, beside the picture."""
        before = self.bench.committed.drawing(drawing.id).placement
        now = drawing.placement
        if grip.handle is None:
            by = now.to_plane(before.anchor_px) - np.array(before.anchor_mm)
            text = f"{self.length(float(by[0]))}  {self.length(float(by[1]))}"
        elif grip.handle.kind == "turn":
            text = f"{now.rotation_deg:.2f}°"
        else:
            w, h = now.size_mm(doc.size_px(drawing))
            text = f"{self.length(w)} × {self.length(h)}"
        at = drawing.view.to_world(pivots(doc, drawing)["top"])
        return Label(at, text, shift=(14.0, -16.0), only=drawing.view)

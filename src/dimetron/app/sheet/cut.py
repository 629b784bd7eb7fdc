"""Cutting a sheet into its views: found at once, then moved, resized, named and placed by hand."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from dimetron.app.kit.instrument import Action, Field, Option, Switch
from dimetron.app.sheet.desk import Desk
from dimetron.app.sheet.marks import Dots, Line, Mark, Words, corners_of
from dimetron.app.sheet.tight import TightLook, tight_crop
from dimetron.app.sheet.tool import CLICK_PX, Point, SheetEvent, SheetTool
from dimetron.app.work import actions
from dimetron.document import preparing
from dimetron.document.model import Document, Drawing, Sheet
from dimetron.document.preparing import FoundView
from dimetron.geometry.views import Projection, View, shared_axes
from dimetron.imaging.frame import Crop, Flattening, Frame, Straightening, crop_of, sheet_frame

if TYPE_CHECKING:
    from dimetron.imaging.pyramid import Pyramid
    from dimetron.imaging.tighten import Tight

#: The handles round a rectangle: (x, y) as shares of its sides.
_HANDLES = ((0, 0), (0.5, 0), (1, 0), (1, 0.5), (1, 1), (0.5, 1), (0, 1), (0, 0.5))
_CURSORS = ("slant", "down", "back-slant", "across", "slant", "down", "back-slant", "across")
_EDGES = ("left", "top", "right", "bottom")
#: Edges of tied views nearer than this share of their length were level before.
_TIED = 0.06


class Proposals(NamedTuple):
    """What was found on a sheet: how to level it, the views on it then, how it was read, and
    whether their names are by their places."""

    flattening: Flattening
    found: list[FoundView]
    projection: Projection
    arranged: bool


@dataclass(frozen=True, slots=True)
class _Grip:
    """What a press took hold of: a drawing by a handle, by its middle, or a new rectangle."""

    start: Point
    drawing: str | None = None
    handle: int | None = None
    crop: Crop | None = None


class CutViews(SheetTool):
    shortcut = "Shift+C"
    name = "cut"
    title = "Cut into views"
    icon = "frame"
    hint = "Drag a rectangle round a view, or let them be found"

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._grip: _Grip | None = None
        self._new: Crop | None = None
        self._moved = False
        self._projection = "auto"
        self._tied = True
        self._tight = TightLook(desk)

    def words(self) -> str:
        if self._grip is not None and self._grip.drawing:
            return "Drag to move or resize; arrow keys nudge by a pixel"
        if self.desk.chosen is not None:
            return "Drag the rectangle or its handles; drag elsewhere for another"
        return self.hint

    # By mouse.

    def press(self, event: SheetEvent) -> bool:
        if not isinstance(self.desk.item, Sheet):
            return False
        self._moved = False
        self._grip = self._gripped(event)
        if self._grip.drawing is not None:
            self.desk.session.choose((self._grip.drawing,))
        return True

    def _gripped(self, event: SheetEvent) -> _Grip:
        chosen = self.desk.chosen
        if chosen is not None and not chosen.held:
            crop = self._crop(chosen)
            for number, at in enumerate(_handle_points(crop)):
                if event.near(at):
                    return _Grip(event.at, chosen.id, number, crop)
        inside = [d for d in self._drawings() if _holds(self._crop(d), event.at) and not d.held]
        if inside:
            smallest = min(inside, key=lambda d: self._crop(d).width * self._crop(d).height)
            return _Grip(event.at, smallest.id, None, self._crop(smallest))
        return _Grip(event.at)

    def move(self, event: SheetEvent, pressed: bool) -> None:
        grip = self._grip
        if grip is None or not pressed:
            return
        away = max(abs(event.at[0] - grip.start[0]), abs(event.at[1] - grip.start[1]))
        if not self._moved and away * event.px < CLICK_PX:
            return
        self._moved = True
        if grip.drawing is None:
            self._new = _between(grip.start, event.at, self._size())
            self.desk.refresh()
            return
        assert grip.crop is not None
        by = event.at[0] - grip.start[0], event.at[1] - grip.start[1]
        wanted = _dragged(grip.crop, grip.handle, by)
        snap = self._snapped(wanted, grip, event)
        self.desk.preview(self._with_crop(self.desk.session.committed, grip.drawing, snap))

    def release(self, event: SheetEvent) -> None:
        grip, self._grip = self._grip, None
        new, self._new = self._new, None
        if grip is None:
            return
        if grip.drawing is not None and self._moved:
            doc = self.desk.document
            self.desk.commit(doc, f"Crop {doc.drawing(grip.drawing).name}")
        elif new is not None and min(new.width, new.height) * event.px > CLICK_PX:
            self._add(new)
        elif grip.drawing is None:
            self.desk.session.choose(())

    def _add(self, crop: Crop) -> None:
        sheet = self.desk.sheet
        assert sheet is not None
        doc, id_ = preparing.cut(self.desk.session.committed, sheet.id, crop)
        self.desk.commit(doc, "Cut a drawing")
        self.desk.session.choose((id_,))

    def key(self, key: str, event: SheetEvent | None) -> bool:
        by = {"left": (-1, 0), "right": (1, 0), "up": (0, -1), "down": (0, 1)}.get(key)
        chosen = self.desk.chosen
        if by is None or chosen is None or chosen.held or chosen.crop is None:
            return False
        crop = _dragged(self._crop(chosen), None, by)
        self.desk.commit(
            preparing.recropped(self.desk.session.committed, chosen.id, crop), f"Crop {chosen.name}"
        )
        return True

    def abandon(self) -> bool:
        under_way = self._grip is not None
        self._grip = self._new = None
        if under_way:
            self.desk.session.cancel()
            self.desk.refresh()
        return under_way

    def cursor(self, event: SheetEvent) -> str:
        grip = self._grip or self._gripped(event)
        if grip.drawing is None:
            return "cross"
        return "move" if grip.handle is None else _CURSORS[grip.handle]

    # Rectangles.

    def _drawings(self) -> tuple[Drawing, ...]:
        sheet = self.desk.sheet
        return self.desk.document.cut_from(sheet.id) if sheet is not None else ()

    def _size(self) -> tuple[int, int]:
        frame = self.desk.frame
        return frame.size_px if frame is not None else (1, 1)

    def _crop(self, drawing: Drawing) -> Crop:
        if drawing.crop is not None:
            return drawing.crop
        sheet = self.desk.document.sheet(drawing.sheet)
        w, h = self.desk.document.frame(sheet).size_px
        return Crop(0, 0, w, h)

    def _snapped(self, crop: Crop, grip: _Grip, event: SheetEvent) -> Crop:
        """Edges go to those of the other rectangles; Ctrl leaves them free."""
        if event.ctrl:
            return crop
        others = [self._crop(d) for d in self._drawings() if d.id != grip.drawing]
        edges = [crop.left, crop.top, crop.right, crop.bottom]
        moving = _moving(grip.handle)
        for axis in (0, 1):
            lines = [getattr(o, _EDGES[e]) for o in others for e in (axis, axis + 2)]
            near = [
                (abs(line - edges[e]), line - edges[e])
                for line in lines
                for e in (axis, axis + 2)
                if e in moving and abs(line - edges[e]) <= event.reach * 0.75
            ]
            if near:
                by = min(near)[1]
                for e in (axis, axis + 2):
                    edges[e] += by if e in moving else 0.0
        return _from_edges(edges)

    def _with_crop(self, doc: Document, id_: str, crop: Crop) -> Document:
        """Recrop, and take the tied edges of level neighbours along."""
        drawing = doc.drawing(id_)
        before = self._crop(drawing)
        doc = preparing.recropped(doc, id_, crop)
        if not self._tied or not drawing.named:
            return doc
        for other in doc.cut_from(drawing.sheet):
            if other.id == id_ or not other.named or other.held or other.crop is None:
                continue
            edges = [getattr(other.crop, e) for e in _EDGES]
            for axis in self._level_axes(drawing, other):
                for e in (axis, axis + 2):
                    was, now = getattr(before, _EDGES[e]), getattr(crop, _EDGES[e])
                    side = before.width if axis == 0 else before.height
                    if now != was and abs(edges[e] - was) < _TIED * side:
                        edges[e] = now
            if edges != [getattr(other.crop, e) for e in _EDGES]:
                doc = preparing.recropped(doc, other.id, _from_edges(edges))
        return doc

    def _level_axes(self, a: Drawing, b: Drawing) -> tuple[int, ...]:
        """Axes of the sheet (0 across, 1 down) along which two views stand level."""
        shared = shared_axes(a.view, b.view)
        return tuple(
            axis for axis in (0, 1) if a.view.axes[axis] in shared and b.view.axes[axis] in shared
            and a.view.axes[axis] == b.view.axes[axis]
        )  # fmt: skip

    # What can be typed, chosen and done.

    def fields(self) -> Sequence[Field]:
        chosen = self.desk.chosen
        if chosen is None or not isinstance(self.desk.item, Sheet):
            return ()
        w, h = self.desk.document.size_px(chosen)
        scale = self.desk.mm_per_px
        if chosen.placed:
            scale = chosen.placement.mm_per_px
        hint = "Type its real {}; the sheet gets its scale from it"

        def size(axis: int) -> Field:
            value = (w, h)[axis] * scale if scale else None
            name = ("width", "height")[axis]
            return Field(
                name.capitalize(),
                value,
                lambda mm: self._set_size(mm, axis),
                hint=hint.format(name),
                beside=axis == 1,
            )

        return (size(0), size(1))

    def _set_size(self, mm: float, axis: int) -> None:
        chosen = self.desk.chosen
        assert chosen is not None
        if chosen.placed:
            raise ValueError("It is placed; type its size on its card.")
        doc = preparing.sized(self.desk.session.committed, chosen.id, mm, axis)
        self.desk.commit(doc, "Size the sheet")

    def options(self) -> Sequence[Option]:
        projections = (("auto", "auto"), *((p.value, p.value.split("-")[0]) for p in Projection))
        found = [Option("Read the sheet as", projections, self._projection, self._set_projection)]
        chosen = self.desk.chosen
        if chosen is not None:
            views = tuple((v.value, v.title) for v in View)
            unnamed = () if chosen.named else (("", "not told yet"),)
            value = chosen.view.key if chosen.named else ""
            found.append(
                Option("This rectangle shows", (*unnamed, *views), value, self._name, listed=True)
            )
        return found

    def _set_projection(self, value: str) -> None:
        self._projection = value
        self.desk.refresh()

    def _name(self, value: str) -> None:
        chosen = self.desk.chosen
        if chosen is not None and value:
            doc = preparing.with_view(self.desk.session.committed, chosen.id, View(value))
            self.desk.commit(doc, f"Name the {value} view")

    def switches(self) -> Sequence[Switch]:
        hint = "Moving an edge takes along those of the views that stand level with it"
        return (Switch("Keep views level", self._tied, self._set_tied, hint),)

    def _set_tied(self, on: bool) -> None:
        self._tied = on
        self.desk.refresh()

    def actions(self) -> Sequence[Action]:
        sheet, chosen = self.desk.sheet, self.desk.chosen
        waiting = [d for d in self._drawings() if d.named and not d.placed]
        ready = sheet is not None and self.desk.page is not None
        return (
            # What comes next stands out: to find the views, then to place them.
            Action("find", "Find the views", self.find, "Box each view of the sheet", ready,
                   not self._drawings()),
            Action(
                "tighten", "Tighten", self.tighten, "Shrink the rectangle to the ink in it",
                chosen is not None and ready,
            ),
            *self._takes(),
            Action("around", "Turn the set", self.turn_set,
                   "Front becomes back and right becomes left, in all of its views",
                   any(d.named for d in self._drawings())),
            Action(
                "place-all", "Place all", self.place_all,
                "Put every named view on its plane, to one scale and level", bool(waiting), True,
            ),
        )  # fmt: skip

    def _takes(self) -> Sequence[Action]:
        chosen = self.desk.chosen
        if chosen is None or not chosen.named or not chosen.unsure:
            return ()
        title = f"It is the {chosen.view.title.lower()} view"
        return (Action("take", title, self.take, "What is proposed for it is right"),)

    # Acts.

    def find(self) -> None:
        """Level the sheet and propose its views, on a worker."""
        sheet, page = self.desk.sheet, self.desk.page
        if sheet is None or page is None:
            return
        self.desk.lay(sheet.id)
        chosen = None if self._projection == "auto" else Projection(self._projection)
        before = self.desk.session.committed
        recipe = before.recipe(sheet)

        def job() -> Proposals:
            return proposals_on(page, sheet, recipe.size_px, chosen)

        def done(answer: Proposals) -> None:
            flattening, found, projection, arranged = answer
            if not found:
                self.desk.session.refuse(
                    "No views can be told apart on this sheet; drag a rectangle round each."
                )
                return
            doc = self.desk.session.committed
            doc = preparing.flattened(doc, sheet.id, flattening)
            doc = preparing.with_found_views(doc, sheet.id, found)
            self.desk.commit(doc, "Find the views")
            self.desk.session.choose(())
            self.desk.session.tell(_summary(found, projection, arranged))

        self.desk.work("Looking for the views…", job, done, "The views could not be looked for.")

    def tighten(self) -> None:
        """Shrink the chosen rectangle to the ink in it, on a worker."""
        chosen, sheet, page = self.desk.chosen, self.desk.sheet, self.desk.page
        if chosen is None or sheet is None or page is None:
            return
        frame, crop = self.desk.session.committed.frame(sheet), self._crop(chosen)

        def done(tight: Tight | None) -> None:
            if tight is None:
                self.desk.session.refuse("There is no ink in this rectangle.")
            else:
                now = self.desk.session.committed
                self.desk.commit(
                    preparing.recropped(now, chosen.id, tight.crop), f"Tighten {chosen.name}"
                )

        known = self._tight.look(crop)
        if known is not None:
            done(known)
            return
        job = partial(tight_crop, page, sheet.figure, frame, crop)
        self.desk.work("Looking for ink…", job, done, "The ink could not be looked for.")

    def take(self) -> None:
        """What is proposed for the chosen rectangle is right."""
        chosen = self.desk.chosen
        if chosen is not None and chosen.named:
            doc = preparing.with_view(self.desk.session.committed, chosen.id, chosen.view)
            self.desk.commit(doc, f"Take {chosen.name}")

    def turn_set(self) -> None:
        """The other way round: an even object does not tell which end is its front."""
        actions.turn_set(self.desk.session, 2, tuple(d.id for d in self._drawings()))

    def place_all(self) -> None:
        actions.place_waiting(self.desk.session, self.desk.sheet)

    # Marks.

    def marks(self) -> Sequence[Mark]:
        if not isinstance(self.desk.item, Sheet):
            return ()
        found: list[Mark] = []
        chosen = self.desk.chosen
        for drawing in self._drawings():
            its_own = chosen is not None and drawing.id == chosen.id
            if drawing.crop is not None or its_own:
                found += self._drawing_marks(drawing, its_own)
        if self._new is not None:
            found.append(Line(corners_of(self._new), "selection", closed=True, wash=True))
            w, h = self.desk.length(self._new.width), self.desk.length(self._new.height)
            found.append(Words(corners_of(self._new)[3], f"{w} × {h}", shift=(0.0, 4.0)))
        return found

    def _drawing_marks(self, drawing: Drawing, chosen: bool) -> list[Mark]:
        crop = self._crop(drawing)
        sure = drawing.named and not drawing.unsure
        role = "selection" if chosen else "accent" if sure else "warning"
        title = drawing.view.title if drawing.named else "Which view?"
        words = title if not drawing.unsure or not drawing.named else f"{title}?"
        if drawing.placed:
            words += " · placed"
        found: list[Mark] = [
            Line(corners_of(crop), role, 2.0 if chosen else 1.5, not sure, closed=True, wash=True),
            Words((crop.left, crop.top), words, role),
        ]
        if chosen:
            w, h = self.desk.length(crop.width), self.desk.length(crop.height)
            found.append(Words((crop.left, crop.bottom), f"{w} × {h}", "selection", (0.0, 4.0)))
            if not drawing.held:
                if self._grip is None:
                    found += self._tight.marks(crop)
                found.append(Dots(tuple(_handle_points(crop))))
        return found

    def told(self) -> str:
        unsure = [d for d in self._drawings() if (d.unsure or not d.named) and not d.placed]
        chosen = self.desk.chosen
        if chosen is not None and chosen.unsure:
            return f"Look at this one: {chosen.unsure}."
        left_out = (
            self._tight.words(self._crop(chosen))
            if chosen is not None and self._grip is None
            else ""
        )
        if left_out:
            return left_out
        if unsure:
            return f"{len(unsure)} of them in red: look at them, and say what they show."
        return ""


def proposals_on(
    page: Pyramid, sheet: Sheet, size_px: tuple[int, int], projection: Projection | None
) -> Proposals:
    """Find the views on a sheet as it is prepared: how to level it, and the proposals on it
    then."""
    from dimetron.imaging.prepare import pyramid_on
    from dimetron.imaging.tone import Tone
    from dimetron.registration.onsheet.views import sheet_views

    flattening = sheet.flattening
    turns = replace(flattening.straightening, angle_deg=0.0)
    plain = replace(flattening, straightening=turns)
    before = sheet_frame(size_px, plain)
    picture = pyramid_on(page, before, Tone(), sheet.figure)
    split = sheet_views(picture.levels[0], projection, medium=picture.medium)
    angle = -split.skew.deg if split.skew.sure else 0.0
    # A mirrored sheet is turned before it is mirrored.
    how = Straightening(turns.turns, -angle if turns.mirrored else angle, turns.mirrored)
    level = replace(flattening, straightening=how)
    frame: Frame = sheet_frame(size_px, level)
    found = [
        FoundView(crop_of(frame, before.to_source(v.corners)), v.view, v.doubt, v.turns, v.size)
        for v in split.found
    ]
    return Proposals(level, found, split.projection, split.arranged)


def _summary(found: Sequence[FoundView], projection: Projection, arranged: bool) -> str:
    sure = [p.view.value for p in found if p.view is not None and not p.doubt]
    words = f"Found {', '.join(sure)}" if sure else "Found no view for sure"
    left = len(found) - len(sure)
    if left:
        words += f"; look at {left} more" if left > 1 else "; look at one more"
    how = f"Read as {projection.value}"
    if not arranged:
        how = "Named by what they show and what is written"
    return f"{words}. {how}."


def _handle_points(crop: Crop) -> list[Point]:
    return [(crop.left + fx * crop.width, crop.top + fy * crop.height) for fx, fy in _HANDLES]


def _holds(crop: Crop, at: Point) -> bool:
    return crop.left <= at[0] <= crop.right and crop.top <= at[1] <= crop.bottom


def _between(a: Point, b: Point, size: tuple[int, int]) -> Crop:
    x0, x1 = sorted(float(np.clip(p[0], 0, size[0])) for p in (a, b))
    y0, y1 = sorted(float(np.clip(p[1], 0, size[1])) for p in (a, b))
    return Crop(x0, y0, max(1.0, x1 - x0), max(1.0, y1 - y0))


def _moving(handle: int | None) -> set[int]:
    """Which edges (0 left, 1 top, 2 right, 3 bottom) a handle moves; all without one."""
    if handle is None:
        return {0, 1, 2, 3}
    fx, fy = _HANDLES[handle]
    found = set()
    if fx != 0.5:
        found.add(0 if fx == 0 else 2)
    if fy != 0.5:
        found.add(1 if fy == 0 else 3)
    return found


def _dragged(crop: Crop, handle: int | None, by: tuple[float, float]) -> Crop:
    edges = [crop.left, crop.top, crop.right, crop.bottom]
    for e in _moving(handle):
        edges[e] += by[e % 2]
    return _from_edges(edges)


def _from_edges(edges: Sequence[float]) -> Crop:
    x0, x1 = sorted((edges[0], edges[2]))
    y0, y1 = sorted((edges[1], edges[3]))
    return Crop(x0, y0, max(1.0, x1 - x0), max(1.0, y1 - y0))

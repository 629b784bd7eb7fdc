"""What is drawn on a sheet: read by itself and shown, said by a person, gone over with a brush."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from typing import TYPE_CHECKING

import numpy as np

from dimetron.app.kit.colour_words import colour_word
from dimetron.app.kit.instrument import Action, Field, Option, Switch
from dimetron.app.sheet.desk import Desk
from dimetron.app.sheet.lookup import Lookup
from dimetron.app.sheet.marks import Line, Mark
from dimetron.app.sheet.tool import Point, SheetEvent, SheetTool
from dimetron.document import preparing
from dimetron.imaging.figure.kind import Kind
from dimetron.imaging.figure.said import AS_FOUND, MOST_TOUCHES, Figure, Touch

if TYPE_CHECKING:
    from dimetron.imaging.figure.inks import Ink
    from dimetron.imaging.pyramid import Pyramid
    from dimetron.imaging.reading import Reading

#: The brush is so wide at first, at least and at most, as a share of the root of the page's area.
_BRUSH, _FINEST, _BROADEST = 0.02, 0.001, 0.2
#: An arrow key makes it so many times as wide.
_WIDER = 1.25
#: A stroke turns from point to point by no less than this share of the brush.
_STEP, _SMOOTH = 0.3, 0.12
#: What can be said: the words, the kind, and whether lines are lighter than their ground.
_SAID: dict[str, tuple[str, Kind | None, bool | None]] = {
    "": ("auto", None, None),
    "dark": ("dark lines", Kind.LINES, False),
    "light": ("light lines", Kind.LINES, True),
    "filled": ("filled areas", Kind.FILLED, None),
    "shaded": ("shade", Kind.SHADED, None),
    "photo": ("an object in a photo", Kind.PHOTO, None),
}


class SayDrawn(SheetTool):
    shortcut = "Shift+W"
    name = "figure"
    title = "What is drawn"
    icon = "figure"
    hint = "Pale is what is not read as drawn: drag over it to mend that; Ctrl does the opposite"

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._adds = True
        self._brush = _BRUSH
        self._stroke: list[Point] = []
        self._stroke_adds = True
        self._lookup: Lookup[Reading] = Lookup(desk, self._failed)

    # What is read.

    def _now(self) -> Figure:
        sheet = self.desk.sheet
        return sheet.figure if sheet is not None else AS_FOUND

    def _before(self) -> Figure:
        sheet = self.desk.sheet
        return self.desk.session.committed.sheet(sheet.id).figure if sheet else AS_FOUND

    def _about(self) -> tuple[int, Figure]:
        return id(self.desk.page), self._now()

    def veil(self) -> Reading | None:
        """The last reading of the page on the desk; a new one is asked for where it is stale."""
        page = self.desk.page
        if page is None:
            return None
        self._lookup.ask(self._about(), partial(_read, page, self._now()))
        return self._lookup.answer if self._of_page() else None

    def _of_page(self) -> bool:
        """Whether what was read last is the page on the desk."""
        about = self._lookup.about
        return isinstance(about, tuple) and about[0] == id(self.desk.page)

    @property
    def reading(self) -> Reading | None:
        return self._lookup.answer if self._lookup.about == self._about() else None

    def _failed(self, error: Exception) -> None:
        words = "What is drawn on this sheet could not be read; say what it shows."
        self.desk.session.warn(str(error) or words)

    # The brush.

    def press(self, event: SheetEvent) -> bool:
        if self.desk.sheet is None or self.desk.page is None:
            return False
        self._stroke = [event.at]
        self._stroke_adds = self._adds is not event.ctrl
        self.desk.refresh()
        return True

    def move(self, event: SheetEvent, pressed: bool) -> None:
        if not pressed or not self._stroke:
            return
        if math.dist(self._stroke[-1], event.at) >= _STEP * self._radius_px(self._brush / 2):
            self._stroke.append(event.at)
            self.desk.refresh()

    def release(self, event: SheetEvent) -> None:
        stroke, self._stroke = [*self._stroke, event.at], []
        sheet, frame = self.desk.sheet, self.desk.frame
        if len(stroke) < 2 or sheet is None or frame is None:
            return
        by = _SMOOTH * self._radius_px(self._brush / 2)
        from dimetron.imaging.figure.touched import simplified

        at = frame.to_source(simplified(np.array(stroke), by))
        shares = at / np.array(sheet.size_px)
        points = tuple((float(x), float(y)) for x, y in np.clip(shares, -1.0, 2.0))
        touch = Touch(points, self._brush / 2, self._stroke_adds)
        figure = self._before()
        if len(figure.touches) == MOST_TOUCHES:
            self.refuse(f"{MOST_TOUCHES} strokes are on this sheet; wipe the brush to begin anew.")
            return
        words = "Say what is drawn" if touch.adds else "Say what is not drawn"
        self._set(replace(figure, touches=(*figure.touches, touch)), words)

    def _radius_px(self, share: float) -> float:
        """Half a stroke's width in pixels of the prepared picture."""
        sheet, frame = self.desk.sheet, self.desk.frame
        if sheet is None or frame is None:
            return 1.0
        radius = share * math.sqrt(sheet.size_px[0] * sheet.size_px[1])
        x, y = (side / 2 for side in sheet.size_px)
        here = frame.to_frame(np.array([[x, y], [x + 1, y]]))
        return radius * float(np.hypot(*(here[1] - here[0])))

    def abandon(self) -> bool:
        under_way, self._stroke = bool(self._stroke), []
        self.desk.refresh()
        return under_way

    def cursor(self, event: SheetEvent) -> str:
        return "cross"

    def marks(self) -> Sequence[Mark]:
        trails = [self._trail(touch) for touch in self._unread()]
        if self._stroke:
            # A click is a dot, which a line of no length shows.
            way = (*self._stroke, self._stroke[-1])
            trails.append(_line(way, self._stroke_adds, self._radius_px(self._brush / 2)))
        return trails

    def _unread(self) -> Sequence[Touch]:
        """Strokes that the sheet is not shown with yet."""
        about = self._lookup.about
        shown = about[1].touches if self._of_page() and isinstance(about, tuple) else ()
        return [touch for touch in self._now().touches if touch not in shown]

    def _trail(self, touch: Touch) -> Line:
        sheet, frame = self.desk.sheet, self.desk.frame
        assert sheet is not None
        assert frame is not None
        at = frame.to_frame(np.array(touch.points) * sheet.size_px)
        way = tuple((float(x), float(y)) for x, y in at)
        return _line((*way, way[-1]), touch.adds, self._radius_px(touch.radius))

    # What can be said.

    def options(self) -> Sequence[Option]:
        if self.desk.sheet is None:
            return ()
        now = self._now()
        said = "" if now.kind is None else _key(now.kind, bool(now.light))
        kinds = tuple((k, words if k else self._auto(words)) for k, (words, *_) in _SAID.items())
        found = [Option("The sheet shows", kinds, said, self._set_kind, listed=True)]
        brush = (("add", "adds"), ("take", "takes away"))
        found.append(Option("The brush", brush, "add" if self._adds else "take", self._set_brush))
        return found

    def _auto(self, words: str) -> str:
        reading = self.reading
        if reading is None or self._now().kind is not None:
            return words
        medium = reading.medium
        return f"{words}: {_SAID[_key(medium.kind, medium.light)][0]}"

    def _set_kind(self, value: str) -> None:
        _, kind, light = _SAID[value]
        self._set(replace(self._before(), kind=kind, light=light), "Say what the sheet shows")

    def _set_brush(self, value: str) -> None:
        self._adds = value == "add"
        self.desk.refresh()

    def fields(self) -> Sequence[Field]:
        if self.desk.sheet is None:
            return ()
        hint = "How wide, as a share of the sheet’s side; arrow keys change it"
        return (
            Field(
                "Its width", self._brush * 100, self._enter_brush, "percent", hint,
            ),
        )  # fmt: skip

    def key(self, key: str, event: SheetEvent | None) -> bool:
        by = {"up": _WIDER, "right": _WIDER, "down": 1 / _WIDER, "left": 1 / _WIDER}.get(key)
        if by is None:
            return False
        self._brush = round(min(max(self._brush * by, _FINEST), _BROADEST), 4)
        self.desk.refresh()
        return True

    def _enter_brush(self, percent: float) -> None:
        if not _FINEST * 100 <= percent <= _BROADEST * 100:
            least, most = (f"{share * 100:g} %" for share in (_FINEST, _BROADEST))
            raise ValueError(f"A brush is {least} to {most} of the side wide.")
        self._brush = percent / 100
        self.desk.refresh()

    def switches(self) -> Sequence[Switch]:
        inks = self._inks()
        if len(inks) < 2:
            return ()
        words = [colour_word(ink.colour) for ink in inks]
        found = []
        for at, (ink, word) in enumerate(zip(inks, words, strict=True)):
            before = words[:at].count(word)
            title = f"{word.capitalize()} lines{f' ({before + 1})' if before else ''} are guides"
            hint = f"{ink.share * 100:.0f} % of all lines: axes, grids, dimensions"
            found.append(Switch(title, ink.guide, partial(self._set_guide, ink), hint))
        return found

    def _inks(self) -> Sequence[Ink]:
        """Those of the page, as it is said now which of them are guides."""
        from dimetron.imaging.figure.inks import with_guides

        reading = self.veil()
        return () if reading is None else with_guides(reading.inks, self._now().guides)

    def _set_guide(self, ink: Ink, on: bool) -> None:
        others = [i.colour for i in self._inks() if i.guide and i.colour != ink.colour]
        word = colour_word(ink.colour).capitalize()
        words = f"{word} lines are {'guides' if on else 'the object'}"
        guides = (*others, ink.colour) if on else tuple(others)
        self._set(replace(self._before(), guides=guides), words)

    def actions(self) -> Sequence[Action]:
        now = self._now()
        return (
            Action("wipe", "Wipe the brush", self.wipe, "Take back all that it did",
                   bool(now.touches)),
            Action("reset", "As found", self.reset, "Nothing is said; all of it is found",
                   now != AS_FOUND),
        )  # fmt: skip

    def wipe(self) -> None:
        self._set(replace(self._before(), touches=()), "Wipe the brush")

    def reset(self) -> None:
        self._set(AS_FOUND, "What is drawn as found")

    def _set(self, figure: Figure, label: str) -> None:
        sheet = self.desk.sheet
        if sheet is not None and figure != self._before():
            doc = preparing.with_figure(self.desk.session.committed, sheet.id, figure)
            self.desk.commit(doc, label)

    def told(self) -> str:
        waits = self.desk.page is not None and self._lookup.about != self._about()
        return "Reading what is drawn…" if waits else ""


def _key(kind: Kind, light: bool) -> str:
    """What is said by a kind, and by how its lines are."""
    return next(
        k for k, (_, of, are) in _SAID.items() if of is kind and (are is None or are is light)
    )


def _line(way: tuple[Point, ...], adds: bool, radius_px: float) -> Line:
    return Line(way, "accent" if adds else "warning", 2 * radius_px, on_sheet=True)


def _read(page: Pyramid, figure: Figure) -> Reading:
    from dimetron.imaging.reading import reading_of

    return reading_of(page, figure)

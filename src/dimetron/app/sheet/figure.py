"""What is drawn on a sheet: read by itself and shown, said by a person, gone over with a brush."""

from __future__ import annotations

import colorsys
import math
from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from typing import TYPE_CHECKING

import numpy as np

from dimetron.app.kit.instrument import Action, Field, Option, Switch
from dimetron.app.sheet.desk import Desk
from dimetron.app.sheet.marks import Line, Mark
from dimetron.app.sheet.tool import Point, SheetEvent, SheetTool
from dimetron.app.work.worker import Worker
from dimetron.document import preparing
from dimetron.imaging.figure.kind import Kind
from dimetron.imaging.figure.said import AS_FOUND, Colour, Figure, Touch

if TYPE_CHECKING:
    from dimetron.imaging.pyramid import Pyramid
    from dimetron.imaging.reading import Reading

#: The brush is so wide at first, at least and at most, as a share of the root of the page's area.
_BRUSH, _FINEST, _BROADEST = 0.02, 0.001, 0.2
#: An arrow key makes it so many times as wide.
_WIDER = 1.25
#: A stroke turns from point to point by no less than this share of the brush.
_STEP, _SMOOTH = 0.3, 0.12
_MOST_POINTS = 1500
#: What can be said: the words, the kind, and whether lines are lighter than their ground.
_SAID: dict[str, tuple[str, Kind | None, bool | None]] = {
    "": ("auto", None, None),
    "dark": ("dark lines", Kind.LINES, False),
    "light": ("light lines", Kind.LINES, True),
    "filled": ("filled areas", Kind.FILLED, None),
    "shaded": ("shade", Kind.SHADED, None),
    "photo": ("an object in a photo", Kind.PHOTO, None),
}
_HUES = (
    (0.04, "red"), (0.11, "orange"), (0.19, "yellow"), (0.45, "green"), (0.53, "turquoise"),
    (0.71, "blue"), (0.84, "violet"), (0.93, "pink"), (1.01, "red"),
)  # fmt: skip


class Figured(SheetTool):
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
        self._worker = Worker(desk, threads=1)
        self._about: tuple[object, ...] = ()
        self._asked: tuple[object, ...] = ()
        self._reading: Reading | None = None

    # What is read.

    def _now(self) -> Figure:
        sheet = self.desk.sheet
        return sheet.figure if sheet is not None else AS_FOUND

    def _before(self) -> Figure:
        sheet = self.desk.sheet
        return self.desk.session.committed.sheet(sheet.id).figure if sheet else AS_FOUND

    def veil(self) -> Reading | None:
        """The last reading of the page on the desk; a new one is asked for where it is stale."""
        page = self.desk.page
        if page is None:
            return None
        wanted = (page, self._now())
        if wanted not in (self._about, self._asked):
            self._asked = wanted
            job = partial(self._read, wanted)
            self._worker.run(job, partial(self._came, wanted), partial(self._failed, wanted))
        return self._reading if self._about[:1] == (page,) else None

    def _read(self, wanted: tuple[Pyramid, Figure]) -> Reading | None:
        """On the worker; nothing if something else is wanted by now."""
        from dimetron.imaging.reading import reading_of

        return reading_of(*wanted) if wanted == self._asked else None

    def _came(self, wanted: tuple[object, ...], reading: Reading | None) -> None:
        if wanted == self._asked and reading is not None:
            self._about, self._reading = wanted, reading
            self.desk.refresh()

    def _failed(self, wanted: tuple[object, ...], error: Exception) -> None:
        if wanted == self._asked:
            self._about, self._reading = wanted, None
            self.desk.session.warn(str(error) or "What is drawn could not be read.")

    @property
    def reading(self) -> Reading | None:
        return self._reading if self._about == (self.desk.page, self._now()) else None

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
        at = frame.to_source(
            _smoothed(np.array(stroke), _SMOOTH * self._radius_px(self._brush / 2))
        )
        shares = at / np.array(sheet.size_px)
        points = tuple((float(x), float(y)) for x, y in np.clip(shares, -1.0, 2.0))
        touch = Touch(points, self._brush / 2, self._stroke_adds)
        figure = self._before()
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
        shown = self._about[1] if self._about[:1] == (self.desk.page,) else AS_FOUND
        assert isinstance(shown, Figure)
        return [touch for touch in self._now().touches if touch not in shown.touches]

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
        reading = self._reading
        if reading is None or len(reading.inks) < 2:
            return ()
        guides = self._now().guides
        taken: set[str] = set()
        found = []
        for ink in reading.inks:
            name = colour_word(ink.colour)
            number = next(n for n in range(1, 20) if f"{name}{n}" not in taken)
            taken.add(f"{name}{number}")
            title = f"{name.capitalize()} lines{f' ({number})' if number > 1 else ''} are guides"
            found.append(
                Switch(
                    title,
                    ink.colour in guides,
                    partial(self._set_guide, ink.colour),
                    f"{ink.share * 100:.0f} % of all lines: axes, grids, dimensions",
                )
            )
        return found

    def _set_guide(self, colour: Colour, on: bool) -> None:
        figure = self._before()
        others = tuple(c for c in figure.guides if c != colour)
        words = f"{colour_word(colour).capitalize()} lines are {'guides' if on else 'the object'}"
        self._set(replace(figure, guides=(*others, colour) if on else others), words)

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
        if self.desk.sheet is None:
            return ""
        if self.veil() is None or self.reading is None:
            return "Reading what is drawn…"
        return ""


def _key(kind: Kind, light: bool) -> str:
    """What is said by a kind, and by how its lines are."""
    return next(
        k for k, (_, of, are) in _SAID.items() if of is kind and (are is None or are is light)
    )


def _line(way: tuple[Point, ...], adds: bool, radius_px: float) -> Line:
    return Line(way, "accent" if adds else "warning", 2 * radius_px, on_sheet=True)


def _smoothed(points: np.ndarray, by: float) -> np.ndarray:
    """A stroke (n, 2) of as few points as keep it within ``by`` pixels."""
    import cv2

    while True:
        line = cv2.approxPolyDP(points.astype(np.float32)[:, None], by, False)
        if len(line) <= _MOST_POINTS:
            return np.asarray(line[:, 0], np.float64)
        by *= 2


def colour_word(colour: Colour) -> str:
    """What people call a colour."""
    hue, light, full = colorsys.rgb_to_hls(*(c / 255 for c in colour))
    if full * min(light, 1 - light) * 2 < 0.12:
        return "black" if light < 0.3 else "white" if light > 0.85 else "grey"
    word = next(word for end, word in _HUES if hue < end)
    return "brown" if word in ("orange", "yellow") and light < 0.4 else word

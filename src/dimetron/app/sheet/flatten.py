"""Flattening a photo taken at an angle, from a known rectangle or circle; and the lens."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from dimetron.app.kit.instrument import Action, Field, Option, Switch
from dimetron.app.sheet.desk import Desk
from dimetron.app.sheet.marks import Dots, Line, Mark, Words
from dimetron.app.sheet.tool import Point, SheetEvent, SheetTool
from dimetron.document import preparing
from dimetron.document.model import Sheet
from dimetron.imaging.errors import PictureError
from dimetron.imaging.flat import Circle, FrameError, Rectangle, inverse, projected
from dimetron.imaging.frame import Flattening, Frame, sheet_frame
from dimetron.imaging.lens import ratio_of
from dimetron.imaging.read import probe
from dimetron.imaging.rectify import bulge_from_lines, flattened

#: Squares of the grid along each side of the known rectangle.
_GRID = 4
_ENOUGH_RIM = 5


class FlattenPhoto(SheetTool):
    """Marks are kept in pixels of the photo as it came, so they stay on it whatever is done."""

    shortcut = "Shift+F"
    name = "flatten"
    title = "Flatten a photo"
    icon = "perspective"
    hint = "Click the four corners of a rectangle, clockwise from the top left"

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._mode = "rectangle"
        self._marks: list[Point] = []
        self._line: list[Point] = []
        self._lines: list[list[Point]] = []
        self._check: list[Point] = []
        self._checks: list[tuple[Point, Point, float]] = []
        self._sides: tuple[float, float] = (1.0, 1.0)
        self._measured = False
        #: By what the sides are proposed: the camera's lens or how they come together; or "".
        self._proposed = ""
        #: Focal lengths by the ids of sources: some files are read in a process of their own.
        self._focals: dict[str, float | None] = {}
        self._diameter = 0.0
        self._flat = False
        self._held: int | None = None
        self._sheet = ""
        self._seen: Rectangle | Circle | None = None
        self.desk.turned.connect(self._read)
        self.desk.session.changed.connect(self._sync)
        self._read()

    # State from and to the document.

    def _sync(self) -> None:
        """Follow undo and whatever else changes how the sheet is flattened."""
        sheet = self.desk.sheet
        if sheet is None or sheet.id != self._sheet or sheet.flattening.known != self._seen:
            self._read()

    def _read(self) -> None:
        """Take up what the sheet on the desk has."""
        sheet = self.desk.sheet
        if sheet is None or sheet.id != self._sheet:
            self._lines, self._checks = [], []
        self._sheet = sheet.id if sheet is not None else ""
        self._marks, self._line, self._check, self._held = [], [], [], None
        self._seen = sheet.flattening.known if sheet is not None else None
        if self._proposed:
            self._sides, self._proposed = (1.0, 1.0), ""
        known = sheet.flattening.known if sheet is not None else None
        if isinstance(known, Rectangle):
            self._mode, self._marks = "rectangle", list(known.corners)
            self._sides, self._measured = known.sides, known.measured
        elif isinstance(known, Circle):
            self._mode, self._marks = "circle", [known.centre, *known.rim]
            self._diameter = known.diameter_mm
        self._flat = known is not None

    def _known(self) -> Rectangle | Circle | None:
        if self._mode == "rectangle" and len(self._marks) == 4:
            a, b, c, d = self._marks
            return Rectangle((a, b, c, d), self._sides, self._measured)
        if self._mode == "circle" and len(self._marks) > _ENOUGH_RIM:
            return Circle(tuple(self._marks[1:]), self._marks[0], self._diameter)
        return None

    @property
    def _flattening(self) -> Flattening:
        sheet = self.desk.sheet
        return sheet.flattening if sheet is not None else Flattening()

    def frame(self) -> Frame | None:
        """The photo itself while it is being marked, the flat picture when asked for."""
        sheet = self.desk.sheet
        if sheet is None or self._flat or not isinstance(self.desk.item, Sheet):
            return None
        return sheet_frame(sheet.size_px, Flattening())

    # By mouse.

    def words(self) -> str:
        if self._flat:
            return "Click two points of a known length to check it"
        if self._mode == "lines":
            return "Click along something straight, three points or more; Enter ends the line"
        if self._mode == "circle":
            if not self._marks:
                return "Click the centre of the circle"
            return "Click its rim, five points or more, all the way round"
        if len(self._marks) < 4:
            corner = ("top left", "top right", "bottom right", "bottom left")[len(self._marks)]
            return f"Click the {corner} corner of the rectangle"
        return "Drag a corner to place it better"

    def _current(self) -> Frame | None:
        return self.frame() or self.desk.frame

    def press(self, event: SheetEvent) -> bool:
        frame = self._current()
        if frame is None or not isinstance(self.desk.item, Sheet):
            return False
        at = frame.to_source(np.array(event.at))
        point = float(at[0]), float(at[1])
        if self._flat:
            self._press_check(point)
        elif self._mode == "lines":
            self._line.append(point)
        else:
            self._press_mark(event, point)
        self.desk.refresh()
        return True

    def _press_check(self, point: Point) -> None:
        if len(self._check) >= 2:
            self._check = []
        self._check.append(point)

    def _press_mark(self, event: SheetEvent, point: Point) -> None:
        frame = self._current()
        assert frame is not None
        for number, mark in enumerate(self._marks):
            if event.near(frame.to_frame(np.array(mark))):
                self._held = number
                return
        if self._mode == "rectangle" and len(self._marks) == 4:
            return
        self._marks.append(point)
        self._held = len(self._marks) - 1

    def move(self, event: SheetEvent, pressed: bool) -> None:
        frame = self._current()
        if self._held is None or not pressed or frame is None:
            return
        at = frame.to_source(np.array(event.at))
        self._marks[self._held] = (float(at[0]), float(at[1]))
        self.desk.refresh()

    def release(self, event: SheetEvent) -> None:
        if self._held is not None:
            self._held = None
            self._propose()
            sheet = self.desk.sheet
            if sheet is not None and sheet.flattening.known is not None:
                # It is flat already: a better corner makes it better at once.
                self._apply_quietly()

    def _propose(self) -> None:
        """The ratio of the sides, as long as nobody has said it."""
        sheet, known = self.desk.sheet, self._known()
        if sheet is None or not isinstance(known, Rectangle) or self._measured:
            return
        if self._sides != (1.0, 1.0) and not self._proposed:
            return
        try:
            focal = self._focal(sheet)
            ratio = ratio_of(known, sheet.size_px, focal, self._flattening.bulge)
        except (FrameError, PictureError):
            return
        if ratio is not None:
            self._sides = (round(ratio, 3), 1.0)
            self._proposed = "the camera’s lens" if focal else "how its sides come together"
            self.desk.refresh()

    def _focal(self, sheet: Sheet) -> float | None:
        """Of the lens, as the camera noted it. Raises PictureError."""
        if sheet.source not in self._focals:
            source = self.desk.session.committed.source(sheet.source)
            noted = None if source.data is None else probe(source.data, source.name, sheet.page)
            self._focals[sheet.source] = None if noted is None else noted.focal
        return self._focals[sheet.source]

    def key(self, key: str, event: SheetEvent | None) -> bool:
        if key == "enter" and self._mode == "lines" and len(self._line) >= 3:
            self._end_line()
            return True
        if key == "enter" and self._known() is not None and not self._flat:
            self.apply()
            return True
        return False

    def abandon(self) -> bool:
        under_way = bool(self._line or self._check) or (bool(self._marks) and not self._flat)
        if self._line or self._check:
            self._line, self._check = [], []
        elif self._marks and self._flattening.known is None:
            self._marks.pop()
        else:
            under_way = False
        self.desk.refresh()
        return under_way

    def cursor(self, event: SheetEvent) -> str:
        return "cross"

    # Acts.

    def apply(self) -> None:
        """Make the photo flat by what is marked."""
        known = self._known()
        if known is None:
            raise FrameError(self.words() + ".")
        sheet = self.desk.sheet
        assert sheet is not None
        doc = preparing.flattened(
            self.desk.session.committed, sheet.id, replace(sheet.flattening, known=known)
        )
        self.desk.commit(doc, "Flatten the photo")
        self._flat = True
        self.desk.refresh()

    def _apply_quietly(self) -> None:
        flat = self._flat
        try:
            self.apply()
        except FrameError as error:
            self.desk.session.refuse(str(error))
        self._flat = flat
        self.desk.refresh()

    def clear(self) -> None:
        """Drop the marks, and the flattening with them."""
        sheet = self.desk.sheet
        self._marks, self._line, self._lines, self._checks, self._check = [], [], [], [], []
        self._flat = False
        if sheet is not None and sheet.flattening.known is not None:
            doc = preparing.flattened(
                self.desk.session.committed, sheet.id, replace(sheet.flattening, known=None)
            )
            self.desk.commit(doc, "Undo the flattening")
        self.desk.refresh()

    def _end_line(self) -> None:
        self._lines.append(self._line)
        self._line = []
        sheet = self.desk.sheet
        assert sheet is not None
        bulge = bulge_from_lines([np.array(line) for line in self._lines], sheet.size_px)
        self._set_bulge(bulge)

    def _set_bulge(self, bulge: float) -> None:
        sheet = self.desk.sheet
        if sheet is not None:
            doc = preparing.flattened(
                self.desk.session.committed, sheet.id, replace(sheet.flattening, bulge=bulge)
            )
            self.desk.commit(doc, "Correct the lens")

    def _slide_bulge(self, bulge: float) -> None:
        sheet = self.desk.sheet
        if sheet is not None:
            doc = preparing.flattened(
                self.desk.session.committed, sheet.id, replace(sheet.flattening, bulge=bulge)
            )
            self.desk.preview(doc)

    # What can be typed and chosen.

    def options(self) -> Sequence[Option]:
        modes = (("rectangle", "rectangle"), ("circle", "circle"), ("lines", "straight"))
        found = [Option("What is known in the photo", modes, self._mode, self._set_mode)]
        if self._mode == "rectangle":
            kinds = (("measured", "lengths"), ("ratio", "a ratio"))
            value = "measured" if self._measured else "ratio"
            found.append(Option("Its sides are", kinds, value, self._set_measured))
        return found

    def _set_mode(self, mode: str) -> None:
        if mode != self._mode:
            self._line = []
            if mode != "lines" and self._mode != "lines":
                self._marks = []
            elif mode == "lines":
                self._flat = False
            self._mode = mode
            self.desk.refresh()

    def _set_measured(self, value: str) -> None:
        self._proposed = ""
        self._measured = value == "measured"
        self._again()

    def fields(self) -> Sequence[Field]:
        found: list[Field] = []
        if self._mode == "rectangle":
            kind = "length" if self._measured else "number"
            for i, name in enumerate(("Width", "Height")):
                found.append(Field(name, self._sides[i], lambda v, i=i: self._set_side(i, v), kind))  # type: ignore[misc]
        elif self._mode == "circle":
            hint = "Its true diameter, 0 if only its being round is known"
            found.append(Field("Diameter", self._diameter, self._set_diameter, hint=hint))
        if self._flat and len(self._check) == 2:
            found.insert(0, Field("Its true length", None, self._add_check, first=True))
        found.append(
            Field(
                "Lens bulge", self._flattening.bulge, self._set_bulge, "number",
                "Straight lines that bulge outwards need a positive value",
                slide=(-0.3, 0.3), sliding=self._slide_bulge,
            )
        )  # fmt: skip
        return found

    def _set_side(self, number: int, value: float) -> None:
        if value <= 0:
            raise FrameError("A side must be more than zero.")
        self._proposed = ""
        self._sides = (value, self._sides[1]) if number == 0 else (self._sides[0], value)
        self._again()

    def _set_diameter(self, value: float) -> None:
        if value < 0:
            raise FrameError("A diameter is not negative.")
        self._diameter = value
        self._again()

    def _again(self) -> None:
        """Flatten anew if it is flat already."""
        if self._flattening.known is not None and self._known() is not None:
            self._apply_quietly()
        self.desk.refresh()

    def _add_check(self, mm: float) -> None:
        if mm <= 0:
            raise FrameError("The length must be more than zero.")
        self._checks.append((self._check[0], self._check[1], mm))
        self._check = []
        self.desk.refresh()

    def switches(self) -> Sequence[Switch]:
        if self._flattening.known is None:
            return ()
        return (
            Switch("Show it flat", self._flat, self._show_flat, "The flat picture, or the photo"),
        )

    def _show_flat(self, on: bool) -> None:
        self._flat = on
        self.desk.refresh()

    def actions(self) -> Sequence[Action]:
        any_marks = bool(self._marks or self._lines)
        enough = self._known() is not None
        actions = [Action("clear", "Start again", self.clear, "Drop all marks", any_marks)]
        if self._flattening.known is None:
            actions.append(
                Action("apply", "Make it flat", self.apply, "Flatten the photo", enough, True)
            )
        return actions

    def told(self) -> str:
        if not self._checks:
            return f"Its ratio follows from {self._proposed}." if self._proposed else ""
        worst = max(abs(self._found(c) / c[2] - 1) for c in self._checks)
        many = f"{len(self._checks)} checks" if len(self._checks) > 1 else "One check"
        return f"{many}; worst error {worst * 100:.2f} %."

    def _found(self, check: tuple[Point, Point, float]) -> float:
        frame, scale = self.desk.frame, self.desk.mm_per_px
        if frame is None or scale is None:
            return math.nan
        ends = frame.to_frame(np.array(check[:2]))
        return float(np.hypot(*(ends[1] - ends[0]))) * scale

    # Marks.

    def marks(self) -> Sequence[Mark]:
        frame = self._current()
        if frame is None or not isinstance(self.desk.item, Sheet):
            return ()
        return (*self._known_marks(frame), *self._line_marks(frame), *self._check_marks(frame))

    def _known_marks(self, frame: Frame) -> list[Mark]:
        if not self._marks:
            return []
        points = _pairs(frame.to_frame(np.array(self._marks)))
        if self._mode == "circle":
            found: list[Mark] = [Dots(points[:1], "cross", "selection", 15)]
            found.append(Dots(points[1:], "ring", "selection", 9))
            return [*self._grid(frame), *found]
        closed = len(points) == 4
        found = [*self._grid(frame), Line(points, "selection", 2.0, not closed, closed)]
        return [*found, Dots(points, "square", "selection", 9)]

    def _grid(self, frame: Frame) -> list[Mark]:
        """The grid that becomes square, drawn over the photo."""
        known, sheet = self._known(), self.desk.sheet
        if known is None or sheet is None or self._mode == "lines":
            return []
        try:
            matrix, _ = flattened(known, sheet.size_px, self._flattening.bulge)
        except FrameError:
            return []
        photo = sheet_frame(sheet.size_px, Flattening(self._flattening.bulge))
        marks = known.corners if isinstance(known, Rectangle) else known.rim
        unbulged = photo.to_frame(np.array(marks))
        shift = photo.matrix
        flat = projected(matrix @ inverse(shift), unbulged)
        low, high = flat.min(axis=0), flat.max(axis=0)
        lines: list[Mark] = []
        for i in range(_GRID + 1):
            x, y = low + (high - low) * i / _GRID
            for ends in (((x, low[1]), (x, high[1])), ((low[0], y), (high[0], y))):
                t = np.linspace(0, 1, 9)[:, None]
                way = np.array(ends[0]) * (1 - t) + np.array(ends[1]) * t
                back = photo.to_source(projected(shift @ inverse(matrix), way))
                lines.append(Line(_pairs(frame.to_frame(back)), "accent", 1.0))
        return lines

    def _line_marks(self, frame: Frame) -> list[Mark]:
        found: list[Mark] = []
        for line in (*self._lines, self._line):
            if line:
                points = _pairs(frame.to_frame(np.array(line)))
                found += [Line(points, "accent", 1.5), Dots(points, "cross", "accent", 11)]
        return found

    def _check_marks(self, frame: Frame) -> list[Mark]:
        found: list[Mark] = []
        for check in self._checks:
            points = _pairs(frame.to_frame(np.array(check[:2])))
            off = self._found(check) / check[2] - 1
            words = f"{off * 100:+.2f} %".replace("-", "−")
            found += [Line(points, "accent", 1.5), Words(points[1], words, "accent", (8.0, 4.0))]
        if self._check:
            points = _pairs(frame.to_frame(np.array(self._check)))
            found += [Line(points, "selection", 1.5), Dots(points, "cross", "selection", 13)]
        return found


def _pairs(points: np.ndarray) -> tuple[Point, ...]:
    return tuple((float(x), float(y)) for x, y in points)

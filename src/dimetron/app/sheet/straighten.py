"""Straightening a sheet or one drawing: found, by a line that should be level or upright, typed."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

from dimetron.app.kit.instrument import Action, Field
from dimetron.app.sheet.desk import Desk
from dimetron.app.sheet.marks import Dots, Line, Mark, Words
from dimetron.app.sheet.tool import CLICK_PX, Point, SheetEvent, SheetTool
from dimetron.document import preparing
from dimetron.document.model import Document, Sheet
from dimetron.imaging.frame import Straightening


class Straighten(SheetTool):
    shortcut = "Shift+S"
    name = "straighten"
    title = "Straighten"
    icon = "rotate-rectangle"
    hint = "Drag along something that should be level or upright"

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._from: Point | None = None
        self._to: Point | None = None

    # A line.

    def press(self, event: SheetEvent) -> bool:
        if self.desk.item is None:
            return False
        self._from, self._to = event.at, None
        return True

    def move(self, event: SheetEvent, pressed: bool) -> None:
        if self._from is not None and pressed:
            self._to = event.at
            self.desk.refresh()

    def release(self, event: SheetEvent) -> None:
        start, end = self._from, self._to
        self._from = self._to = None
        if start is None or end is None or math.dist(start, end) * event.px < CLICK_PX:
            self.desk.refresh()
            return
        self._turn_by(-_slant(start, end), "Straighten along a line")

    def abandon(self) -> bool:
        under_way = self._from is not None
        self._from = self._to = None
        self.desk.refresh()
        return under_way

    def cursor(self, event: SheetEvent) -> str:
        return "cross"

    def marks(self) -> Sequence[Mark]:
        if self._from is None or self._to is None:
            return ()
        slant = _slant(self._from, self._to)
        return (
            Line((self._from, self._to), "selection", 2.0),
            Dots((self._from, self._to), "cross", size=13),
            Words(self._to, f"{slant:+.2f}°".replace("-", "−"), shift=(10.0, 6.0)),
        )

    # Values and actions.

    def fields(self) -> Sequence[Field]:
        now = self._now()
        if now is None:
            return ()
        hint = "Degrees counter-clockwise, up to 45"
        return (Field("Turn", now.angle_deg, self._type_angle, "angle", hint),)

    def _type_angle(self, degrees: float) -> None:
        now = self._now()
        assert now is not None
        self._set(replace(now, angle_deg=degrees), f"Turn by {degrees:g}°")

    def actions(self) -> Sequence[Action]:
        ready = self.desk.page is not None
        return (
            Action(
                "level", "Level it", self.level, "Find and undo how far it lies askew", ready, True
            ),
            Action(
                "left", "Turn left", lambda: self.quarter(1), "A quarter turn to the left", ready
            ),
            Action(
                "right",
                "Turn right",
                lambda: self.quarter(-1),
                "A quarter turn to the right",
                ready,
            ),
            Action("mirror", "Mirror", self.mirror, "Swap left and right", ready),
        )

    def level(self) -> None:
        """Find the skew of what lies on the desk, on a worker."""
        item, page = self.desk.item, self.desk.page
        if item is None or page is None:
            return
        recipe = self.desk.session.committed.recipe(item)
        image = page.levels[0]

        def job() -> object:
            from dimetron.imaging.prepare import prepared
            from dimetron.imaging.recipe import frame_of
            from dimetron.imaging.skew import skew
            from dimetron.imaging.tone import Tone

            return skew(prepared(image, frame_of(recipe), Tone()))

        def done(found: object) -> None:
            deg, sure = found.deg, found.sure  # type: ignore[attr-defined]
            if not sure:
                self.desk.session.refuse(
                    "No lines say what is level here; drag along one that should be."
                )
                return
            self._turn_by(-deg, "Level it")
            self.desk.session.tell(f"Turned by {-deg:.2f}°.".replace("-", "−"))

        self.desk.work("Looking for what is level…", job, done, "The skew could not be found.")

    def quarter(self, turns: int) -> None:
        now = self._now()
        if now is not None:
            # As it is seen: a mirrored picture turns the other way round underneath.
            turns = -turns if now.mirrored else turns
            after = replace(now, turns=(now.turns + turns) % 4)
            self._set(after, "Turn by a quarter")

    def mirror(self) -> None:
        now = self._now()
        if now is not None:
            self._set(replace(now, mirrored=not now.mirrored), "Mirror")

    def _turn_by(self, degrees: float, label: str) -> None:
        now = self._now()
        assert now is not None
        degrees = -degrees if now.mirrored else degrees
        total = now.angle_deg + degrees
        turns = round(total / 90) if abs(total) > 45 else 0
        after = replace(now, turns=(now.turns + turns) % 4, angle_deg=total - 90 * turns)
        self._set(after, label)

    def _now(self) -> Straightening | None:
        item = self.desk.item
        if item is None:
            return None
        return item.flattening.straightening if isinstance(item, Sheet) else item.straightening

    def _set(self, how: Straightening, label: str) -> None:
        self.desk.commit(self._with(self.desk.session.committed, how), label)

    def _with(self, doc: Document, how: Straightening) -> Document:
        item = self.desk.item
        assert item is not None
        if isinstance(item, Sheet):
            return preparing.flattened(doc, item.id, replace(item.flattening, straightening=how))
        return preparing.straightened(doc, item.id, how)

    def told(self) -> str:
        if self.desk.item is None:
            return ""
        what = "the sheet" if isinstance(self.desk.item, Sheet) else "this drawing alone"
        return f"Applies to {what}."


def _slant(a: Point, b: Point) -> float:
    """Degrees counter-clockwise by which a line misses level or upright, whichever is nearer."""
    angle = math.degrees(math.atan2(-(b[1] - a[1]), b[0] - a[0]))
    return (angle + 45) % 90 - 45

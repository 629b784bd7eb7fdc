"""Size: how large the sheet is in truth, measuring on it, pages and resolution."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

from dimetron.app.kit.instrument import Field
from dimetron.app.sheet.desk import Desk
from dimetron.app.sheet.marks import Dots, Line, Mark, Words
from dimetron.app.sheet.tool import CLICK_PX, Point, SheetEvent, SheetTool
from dimetron.document import edits, preparing
from dimetron.document.model import Document, Sheet
from dimetron.geometry.units import MM_PER_INCH
from dimetron.imaging.flat import FrameError
from dimetron.imaging.page import Page

VECTORS = ("pdf", "svg")
PAGED = ("pdf", "tif")


class SizeSheet(SheetTool):
    shortcut = "Shift+M"
    name = "size"
    title = "Size"
    icon = "ruler-2"
    hint = "Drag between two points to measure; Shift keeps it level or upright"

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._ends: tuple[Point, Point] | None = None
        self._dragging = False

    # Measuring.

    def press(self, event: SheetEvent) -> bool:
        if self.desk.item is None:
            return False
        self._ends = (event.at, event.at)
        self._dragging = True
        return True

    def move(self, event: SheetEvent, pressed: bool) -> None:
        if self._ends is None or not self._dragging:
            return
        start, end = self._ends[0], event.at
        if event.shift:
            level = abs(end[0] - start[0]) >= abs(end[1] - start[1])
            end = (end[0], start[1]) if level else (start[0], end[1])
        self._ends = (start, end)
        self.desk.refresh()

    def release(self, event: SheetEvent) -> None:
        self._dragging = False
        if self._ends is not None and math.dist(*self._ends) * event.px < CLICK_PX:
            self._ends = None
        self.desk.refresh()

    def abandon(self) -> bool:
        had = self._ends is not None
        self._ends, self._dragging = None, False
        self.desk.refresh()
        return had

    def cursor(self, event: SheetEvent) -> str:
        return "cross"

    def marks(self) -> Sequence[Mark]:
        if self._ends is None:
            return ()
        a, b = self._ends
        wide, high = abs(b[0] - a[0]), abs(b[1] - a[1])
        words = self.desk.length(math.dist(a, b))
        corner = (b[0], a[1])
        marks: list[Mark] = [
            Line((a, b), "selection", 2.0),
            Dots((a, b), "cross", size=13),
            Words(b, words, shift=(10.0, 6.0)),
        ]
        if min(wide, high) > 0.05 * max(wide, high):
            # The box: how far apart across and down.
            marks.append(Line((a, corner, b), "soft", 1.0, dashed=True))
            marks.append(Words(((a[0] + b[0]) / 2, a[1]), self.desk.length(wide), "soft"))
            middle = (b[0], (a[1] + b[1]) / 2)
            marks.append(Words(middle, self.desk.length(high), "soft", (8.0, -9.0)))
        return marks

    # What can be typed.

    def fields(self) -> Sequence[Field]:
        item, frame = self.desk.item, self.desk.frame
        if item is None or frame is None:
            return ()
        found: list[Field] = []
        scale = self.desk.mm_per_px
        if self._ends is not None and not self._dragging:
            between = math.dist(*self._ends)
            found.append(
                Field(
                    "True length",
                    between * scale if scale else None,
                    lambda mm: self._set_scale(mm / between),
                    hint="How long it is in truth: the sheet gets its scale from it",
                    first=True,
                )
            )
        w, h = frame.size_px
        for name, px in (("Width", w), ("Height", h)):
            found.append(
                Field(
                    name, px * scale if scale else None, lambda mm, px=px: self._set_scale(mm / px),  # type: ignore[misc]
                    hint=f"Its real {name.lower()}",
                )
            )  # fmt: skip
        dpi = MM_PER_INCH / scale if scale else None
        found.append(Field("Dots per inch", dpi, self._set_dpi, "number"))
        if isinstance(item, Sheet):
            found += self._sheet_fields(item)
        return found

    def _sheet_fields(self, sheet: Sheet) -> list[Field]:
        percent = sheet.flattening.scale * 100
        hint = "More or fewer pixels; the real size stays"
        found = [Field("Resample", percent, self._resample, "percent", hint)]
        extension = self.desk.document.source(sheet.source).extension
        if extension in PAGED:
            hint = "A page with drawings cut from it stays; the other page comes beside it"
            found.append(Field("Page", sheet.page.number + 1, self._set_page, "number", hint))
        if extension in VECTORS:
            hint = "How finely it is drawn, in dots per inch"
            found.append(Field("Drawn at", sheet.page.dpi, self._set_drawn_at, "number", hint))
        return found

    def _set_scale(self, mm_per_px: float) -> None:
        sheet = self.desk.sheet
        if sheet is not None:
            if not math.isfinite(mm_per_px) or mm_per_px <= 0:
                raise FrameError("The size must be more than zero.")
            doc = preparing.with_sheet_scale(self.desk.session.committed, sheet.id, mm_per_px)
            self.desk.commit(doc, "Size the sheet")

    def _set_dpi(self, dpi: float) -> None:
        if dpi <= 0:
            raise FrameError("Dots per inch must be more than zero.")
        self._set_scale(MM_PER_INCH / dpi)

    def _resample(self, percent: float) -> None:
        sheet = self.desk.sheet
        assert sheet is not None
        how = replace(sheet.flattening, scale=percent / 100)
        self.desk.commit(
            preparing.flattened(self.desk.session.committed, sheet.id, how), "Resample the sheet"
        )

    def _set_page(self, number: float) -> None:
        sheet = self.desk.sheet
        assert sheet is not None
        if number != round(number) or number < 1:
            raise FrameError("Pages count from 1.")
        self._turn_to(replace(sheet.page, number=round(number) - 1), "Choose the page")

    def _set_drawn_at(self, dpi: float) -> None:
        sheet = self.desk.sheet
        assert sheet is not None
        if not 10 <= dpi <= 4800:
            raise FrameError("It can be drawn at 10 to 4800 dots per inch.")
        self._turn_to(replace(sheet.page, dpi=dpi), "Choose how finely it is drawn")

    def _turn_to(self, page: Page, label: str) -> None:
        """Read the other page's size on a worker, then show it."""
        sheet = self.desk.sheet
        assert sheet is not None
        source = self.desk.document.source(sheet.source)

        def job() -> object:
            from dimetron.imaging.read import probe

            assert source.data is not None
            return probe(source.data, source.name, page)

        def done(info: object) -> None:
            size, scale = info.size_px, info.mm_per_px  # type: ignore[attr-defined]
            doc, id_ = self._with_page(self.desk.session.committed, sheet, page, size, scale)
            self.desk.commit(doc, label)
            self.desk.lay(id_)

        self.desk.work("Reading the page…", job, done, "The page could not be read.")

    def _with_page(
        self, doc: Document, sheet: Sheet, page: Page, size: tuple[int, int], scale: float | None
    ) -> tuple[Document, str]:
        if doc.cut_from(sheet.id) and page.number != sheet.page.number:
            doc, id_ = edits.with_sheet(doc, doc.source(sheet.source), page, size)
            return preparing.with_sheet_changes(doc, id_, mm_per_px=scale), id_
        if page.number == sheet.page.number:
            # Drawn finer: what is cut from it keeps its part of the page.
            return preparing.redrawn(doc, sheet.id, page, size), sheet.id
        changes = {"page": page, "size_px": size, "mm_per_px": scale}
        return preparing.with_sheet_changes(doc, sheet.id, **changes), sheet.id

    def told(self) -> str:
        frame = self.desk.frame
        if frame is None:
            return ""
        w, h = frame.size_px
        return f"{w} × {h} pixels."

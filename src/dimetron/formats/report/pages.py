"""A report as a PDF: what was found in words and figures, and a page for each drawing that was
compared, with the mesh's outline over it."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from reportlab.lib.pagesizes import A4
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfgen.canvas import Canvas

from dimetron.document.fitting import Fit, counts, fits
from dimetron.document.model import Document
from dimetron.document.reporting import inner_words, mismatch_lines, report_told, view_told
from dimetron.fit.miss import lengthened
from dimetron.formats.paper.pdf import PT, put_picture, put_stroke
from dimetron.formats.paper.seen import Laid, Stroke, laid
from dimetron.formats.paper.type import REGULAR, STRONG, register_type
from dimetron.mesh.arrays import Floats

#: What is left free around a page, mm.
_MARGIN = 18.0
_INK, _SOFT, _OVER, _SHORT = "#22313B", "#4E5F69", "#6B3FD4", "#B2492B"
_LINE = 5.2
#: How wide outlines are drawn, mm.
_LINE_WIDTH = 0.2
#: Whiskers are drawn so many times as long as the miss is, one in so many places.
_TIMES, _EVERY = 5.0, 12
_COLUMNS = (
    ("view", 0.0), ("drawing", 22.0), ("mean", 62.0), ("95 %", 80.0), ("largest", 98.0),
    ("over", 118.0), ("short", 137.0), ("common", 156.0),
)  # fmt: skip


def report_pdf(doc: Document, title: str, fits: Sequence[Fit], told: dict[str, Any]) -> bytes:
    """told: as ``document.reporting`` has it. Raises PictureError."""
    register_type()
    out = io.BytesIO()
    page = _Page(Canvas(out, pagesize=A4, invariant=True), title)
    page.head(title, 16)
    page.gap(2)
    _fit(page, told)
    _listed(page, "Sizes", [_size(size) for size in told["sizes"]])
    _listed(page, "Meshes", [_mesh(mesh) for mesh in told["meshes"]])
    _listed(page, "How well the drawings agree", mismatch_lines(told))
    _listed(page, "Notes", [f"{note['text']} ({note['view']})" for note in told["notes"]])
    _listed(page, "Not compared", told["problems"])
    for one in fits:
        if one.miss is not None:
            _view(page, doc, one)
    page.end()
    return out.getvalue()


def report_of(doc: Document, title: str) -> bytes:
    """The report of a project, worked out. Raises PictureError."""
    found = fits(doc, inner=True) if any(counts(doc, item) for item in doc.meshes) else ()
    return report_pdf(doc, title, found, report_told(doc, found))


class _Page:
    """Writes downward, and goes on to another page where there is no room; lengths in mm."""

    def __init__(self, canvas: Canvas, title: str) -> None:
        self.canvas = canvas
        self.width, self.height = (side / PT for side in A4)
        self._number = 1
        canvas.setTitle(title)
        canvas.setCreator("Dimetron")
        self.y = self.height - _MARGIN

    def head(self, words: str, size: float = 11) -> None:
        """A heading."""
        self.need(3 * _LINE)
        self.gap(size / 4)
        self.put(words, 0.0, size, STRONG)
        self.y -= _LINE + size / 6

    def line(self, words: str, colour: str = _INK) -> None:
        """A line of text, cut where the page ends."""
        self.need(_LINE)
        wide = (self.width - 2 * _MARGIN) * PT
        while pdfmetrics.stringWidth(words, REGULAR, 9) > wide:
            words = words[:-2].rstrip("…") + "…"
        self.put(words, 0.0, 9, REGULAR, colour)
        self.y -= _LINE

    def put(
        self, words: str, x: float, size: float, font: str = REGULAR, colour: str = _INK
    ) -> None:
        """Words so far from the left margin, on the present line."""
        self.canvas.setFillColor(colour)
        self.canvas.setFont(font, size)
        self.canvas.drawString((_MARGIN + x) * PT, self.y * PT, words)

    def gap(self, mm: float) -> None:
        """Some room."""
        self.y -= mm

    def need(self, mm: float) -> None:
        """Go on to another page if there is less room than this."""
        if self.y - mm < _MARGIN:
            self.turn()

    def turn(self) -> None:
        """Another page."""
        self._foot()
        self.canvas.showPage()
        self._number += 1
        self.y = self.height - _MARGIN

    def _foot(self) -> None:
        self.y = _MARGIN / 2
        self.put(f"{self._number}", self.width - 2 * _MARGIN - 4, 8, colour=_SOFT)

    def end(self) -> None:
        """No more comes."""
        self._foot()
        self.canvas.save()


def _fit(page: _Page, told: dict[str, Any]) -> None:
    page.head("How far the meshes miss the drawings")
    if not told["views"]:
        page.line("Nothing could be compared.")
        return
    for name, x in _COLUMNS:
        page.put(name, x, 8, colour=_SOFT)
    page.gap(_LINE)
    for view in told["views"]:
        page.need(_LINE)
        texts = (
            view["view"],
            view["drawing"][:22],
            *(f"{view[key]:.2f} mm" for key in ("mean_mm", "p95_mm", "max_mm")),
            *(f"{view[key]:.0f} mm²" for key in ("over_mm2", "under_mm2")),
            f"{view['overlap']:.1%}",
        )
        for text, (_, x) in zip(texts, _COLUMNS, strict=True):
            page.put(text, x, 9)
        page.gap(_LINE)


def _listed(page: _Page, title: str, lines: Sequence[str]) -> None:
    if lines:
        page.head(title)
        for line in lines:
            page.line(line, _SHORT if "does not hold" in line else _INK)


def _size(size: dict[str, Any]) -> str:
    now = "gone" if size["is_mm"] is None else f"{size['is_mm']:.2f} mm"
    wanted = f"{size['wanted_mm']:g} ± {size['tolerance_mm']:g} mm"
    holds = "holds" if size["holds"] else "does not hold"
    return f"{size['name']} ({size['of']}): {now}, wanted {wanted}: {holds}"


def _mesh(mesh: dict[str, Any]) -> str:
    odd = [
        f"{mesh[key]} {words}"
        for key, words in (
            ("open_edges", "open edges"),
            ("nonmanifold_edges", "edges of more than two faces"),
            ("doubled_vertices", "doubled vertices"),
            ("flipped_faces", "faces the wrong way round"),
            ("zero_area_faces", "faces without area"),
        )
        if mesh[key]
    ]
    volume = "" if mesh["volume_mm3"] is None else f", {mesh['volume_mm3'] / 1000:.1f} cm³"
    return f"{mesh['name']}: {mesh['faces']} faces{volume}; {', '.join(odd) or 'sound'}"


# A page for each view.


@dataclass(frozen=True, eq=False)
class _Sheet:
    """Where a drawing's plane lies on the page: points are ``at`` + mm of the plane times
    ``scale``."""

    at: Floats
    scale: float

    def __call__(self, plane: Floats) -> Floats:
        return np.asarray(self.at + plane * self.scale)


def _view(page: _Page, doc: Document, one: Fit) -> None:
    miss = one.miss
    assert miss is not None
    page.turn()
    drawing = one.drawing
    page.head(f"{drawing.view.title}: {drawing.name}", 13)
    way = "over" if miss.worst[2] > 0 else "short"
    inner = inner_words(view_told(one))
    page.line(f"mean {miss.mean:.2f} mm, largest {miss.largest:.2f} mm {way}{inner}")
    corners = drawing.placement.corners(doc.size_px(drawing))
    low, high = corners.min(axis=0), corners.max(axis=0)
    room = np.array([page.width - 2 * _MARGIN, page.y - 2 * _MARGIN])
    scale = float((room / (high - low)).min()) * PT
    top = (page.y - 4) * PT
    sheet = _Sheet(np.array([_MARGIN * PT, top - (high - low)[1] * scale]) - low * scale, scale)
    canvas = page.canvas
    canvas.saveState()
    # What is far off does not run over the page.
    frame = canvas.beginPath()
    frame.rect(*sheet(low), *((high - low) * scale))
    canvas.clipPath(frame, stroke=0)
    picture = laid(doc, drawing)
    if picture is not None:
        put_picture(canvas, Laid(picture.picture, sheet(picture.corners) / PT))
    for loop in miss.loops:
        put_stroke(canvas, Stroke(sheet(np.concatenate([loop, loop[:1]])) / PT, _INK, _LINE_WIDTH))
    _whiskers(canvas, one, sheet)
    canvas.restoreState()
    x, y = sheet(miss.worst[0])
    canvas.setStrokeColor(_OVER if miss.worst[2] > 0 else _SHORT)
    canvas.circle(float(x), float(y), 7)
    page.y = float(top - (high - low)[1] * scale) / PT - 6
    page.line(f"1 : {PT / scale:.2f}; whiskers {_TIMES:g} times as long as the miss", _SOFT)


def _whiskers(canvas: Canvas, one: Fit, sheet: _Sheet) -> None:
    assert one.miss is not None
    off = one.miss.modelled
    rows = np.arange(0, len(off.off), _EVERY)
    for over, colour in ((True, _OVER), (False, _SHORT)):
        mine = rows[(off.off[rows] > 0) == over]
        begin = sheet(off.nearest[mine])
        tips = lengthened(off.nearest[mine], off.places[mine], _TIMES, one.miss.of.size)
        end = sheet(tips)
        canvas.setStrokeColor(colour)
        canvas.setLineWidth(0.5)
        canvas.lines([(*a, *b) for a, b in zip(begin, end, strict=True)])

"""Pages as a PDF."""

from __future__ import annotations

import io
from collections.abc import Sequence

from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from dimetron.formats.paper.pages import Page
from dimetron.formats.paper.seen import Laid, Stroke
from dimetron.formats.paper.type import REGULAR, register_type

#: Points to a millimetre.
PT = 72 / 25.4


def pdf_of(pages: Sequence[Page], title: str) -> bytes:
    """All pages in one file, each of its own size."""
    register_type()
    out = io.BytesIO()
    canvas = Canvas(out, invariant=True)
    canvas.setTitle(title)
    canvas.setCreator("Dimetron")
    # Printers are asked not to fit it to the page.
    canvas.setViewerPreference("PrintScaling", "None")
    for page in pages:
        canvas.setPageSize((page.size[0] * PT, page.size[1] * PT))
        canvas.saveState()
        left, low, wide, high = (side * PT for side in page.window)
        frame = canvas.beginPath()
        frame.rect(left, low, wide, high)
        canvas.clipPath(frame, stroke=0)
        for one in page.pictures:
            put_picture(canvas, one)
        for stroke in page.strokes:
            put_stroke(canvas, stroke)
        canvas.restoreState()
        for stroke in page.marks:
            put_stroke(canvas, stroke)
        for word in page.words:
            canvas.setFillColor("#22313B")
            canvas.setFont(REGULAR, word.size)
            canvas.drawString(word.at[0] * PT, word.at[1] * PT, word.text)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def put_picture(canvas: Canvas, one: Laid) -> None:
    """A picture at its place, however it is turned."""
    top, right, low = one.corners * PT
    canvas.saveState()
    # From the unit square, y up, to the page.
    canvas.transform(*(right - top), *(top - low), *low)
    canvas.drawImage(ImageReader(one.picture), 0, 0, 1, 1)
    canvas.restoreState()


def put_stroke(canvas: Canvas, stroke: Stroke) -> None:
    """A line through all its points."""
    points = stroke.points * PT
    path = canvas.beginPath()
    path.moveTo(*points[0])
    for point in points[1:]:
        path.lineTo(*point)
    canvas.setStrokeColor(stroke.colour)
    canvas.setLineWidth(stroke.width * PT)
    canvas.drawPath(path)

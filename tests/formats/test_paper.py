"""Prints at true scale: read again from the PDF and the SVG."""

from __future__ import annotations

import io
import re

import numpy as np
import pypdf
import pytest
import svgelements

from dimetron.document.model import Document
from dimetron.formats.handover import ExportError
from dimetron.formats.paper.pages import MOST_PAGES, PAPERS, Paper, pages, place_name
from dimetron.formats.paper.pdf import pdf_of
from dimetron.formats.paper.seen import SeenView, seen_view
from dimetron.formats.paper.svg import svg_of
from dimetron.geometry.views import View
from dimetron.handoff.way import Given, way
from dimetron.mesh.primitives import box
from dimetron.mesh.seen_lines import Together

MM = 25.4 / 72


def front(wide: float, high: float) -> SeenView:
    mesh = Together([box((0, 0, 0), (wide, 10, high))])
    return seen_view(Document(), View.FRONT, mesh)


def lines_of(pdf: bytes, page: int = 0) -> np.ndarray:
    """(k, 2, 2) all straight pieces that are drawn on a page, mm."""
    content = pypdf.PdfReader(io.BytesIO(pdf)).pages[page].get_contents()
    assert content is not None
    text = content.get_data().decode("latin1")
    found, at = [], np.zeros(2)
    for x, y, what in re.findall(r"([-\d.]+) ([-\d.]+) ([ml])\b", text):
        to = np.array([float(x), float(y)]) * MM
        if what == "l":
            found.append((at, to))
        at = to
    return np.array(found)


def test_a_view_that_fits_takes_one_page_and_is_as_large_as_it_is() -> None:
    made = pages(front(120, 80), Paper())
    assert len(made) == 1
    pdf = pdf_of(made, "t")
    lines = lines_of(pdf)
    long = np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1)
    assert np.isclose(long, 120, atol=0.01).sum() == 2
    assert np.isclose(long, 80, atol=0.01).sum() == 2
    half = lines_of(pdf_of(pages(front(120, 80), Paper(scale=0.5)), "t"))
    assert np.isclose(np.linalg.norm(half[:, 1] - half[:, 0], axis=1), 60, atol=0.01).sum() == 2


def test_the_ruler_is_100_mm_at_any_scale() -> None:
    for scale in (1.0, 0.25, 3.0):
        lines = lines_of(pdf_of(pages(front(20, 20), Paper(scale=scale)), "t"))
        level = np.isclose(lines[:, 0, 1], lines[:, 1, 1], atol=1e-6)
        lowest = lines[level][np.argmin(lines[level][:, 0, 1])]
        assert abs(lowest[1, 0] - lowest[0, 0]) == pytest.approx(100, abs=0.01)


@pytest.mark.parametrize("lying", [False, True])
def test_tiles_overlap_cover_all_and_marks_meet(lying: bool) -> None:
    seen = front(500, 700)
    paper = Paper("a4", overlap=12.0, lying=lying)
    made = pages(seen, paper)
    size = PAPERS["a4"][::-1] if lying else PAPERS["a4"]
    assert all(page.size == size for page in made)
    names = [page.words[0].text.split(" · ")[2] for page in made]
    columns = sum(name.startswith("A") for name in names)
    # Where the object's lower left corner would be on each page.
    origin = []
    for page in made:
        stroke = page.strokes[0].points
        origin.append(stroke.min(axis=0))
    a, b = made[0], made[1]
    step = origin[0] - origin[1]
    assert step[0] == pytest.approx(a.window[2] - 12.0) and step[1] == pytest.approx(0)
    below = origin[columns] - origin[0]
    assert below[1] == pytest.approx(a.window[3] - 12.0)
    rows = len(made) // columns
    assert (columns - 1) * step[0] + a.window[2] >= 500 and rows * below[1] + 12 >= 700
    # A cross on one page stands at the same place of the object on the next.
    on_first = {tuple(np.round(mark.points.mean(axis=0) - origin[0], 3)) for mark in a.marks[4:]}
    on_second = {tuple(np.round(mark.points.mean(axis=0) - origin[1], 3)) for mark in b.marks[4:]}
    assert len(on_first & on_second) >= 2


def test_what_cannot_be_printed_is_said_in_a_sentence() -> None:
    with pytest.raises(ExportError, match="no room within its margins"):
        pages(front(10, 10), Paper(margin=100.0))
    with pytest.raises(ExportError, match="print it smaller"):
        pages(front(1000, 1000), Paper(scale=20.0))
    with pytest.raises(ExportError, match="more than nothing"):
        pages(front(10, 10), Paper(scale=0.0))
    with pytest.raises(ExportError, match="Nothing is seen in Front"):
        pages(SeenView("Front", (), ()), Paper())
    assert len(pages(front(1000, 1000), Paper(scale=2.0))) <= MOST_PAGES


def test_rows_are_lettered() -> None:
    assert [place_name(row, 0) for row in (0, 25, 26, 52)] == ["A1", "Z1", "AA1", "BA1"]


def test_drawings_are_printed_where_they_stand(can_project: Document) -> None:
    seen = seen_view(can_project, View.FRONT)
    drawing = next(d for d in can_project.planes if d.view is View.FRONT)
    corners = drawing.placement.corners(can_project.size_px(drawing))
    assert seen.box is not None
    assert np.allclose(seen.box, [corners.min(axis=0), corners.max(axis=0)])
    first = pages(seen, Paper("a4"))[0]
    assert len(first.pictures) == 1
    part = first.pictures[0]
    per_px = np.linalg.norm(part.corners[1] - part.corners[0]) / part.picture.size[0]
    assert per_px == pytest.approx(drawing.placement.mm_per_px)
    assert part.picture.size[1] < can_project.size_px(drawing)[1], "only what the page shows"
    for page in pages(seen, Paper("a4", scale=2.0)):
        left, low, wide, high = page.window
        for one in page.pictures:
            a, b, d = one.corners
            px = np.hypot(*(b - a)) / one.picture.size[0]
            assert px == pytest.approx(2 * drawing.placement.mm_per_px, rel=1e-6)
            points = np.stack([a, b, d, b + d - a])
            assert (points > [left - 2 * px, low - 2 * px]).all()
            assert (points < [left + wide + 2 * px, low + high + 2 * px]).all()


def test_svg_pages_say_the_same_in_millimetres() -> None:
    page = pages(front(120, 80), Paper())[0]
    svg = svgelements.SVG.parse(io.BytesIO(svg_of(page)), ppi=25.4)
    assert (float(svg.width), float(svg.height)) == pytest.approx(page.size)
    lines = [e for e in svg.elements() if isinstance(e, svgelements.Polyline)]
    boxes = [e.bbox() for e in lines]
    wide = max(b[2] - b[0] for b in boxes if b is not None and b[3] - b[1] > 79)
    assert wide == pytest.approx(120, abs=0.01)
    assert svg_of(page).count(b"100 mm when printed") == 1


def test_a_project_is_printed_view_by_view(can_project: Document) -> None:
    prints = way("prints")
    told: list[float] = []
    given = Given(can_project, "can", progress=told.append)
    pdf = prints.write(given, prints.restored({"scale": 4.0, "lines": False}))["can.pdf"]
    reader = pypdf.PdfReader(io.BytesIO(pdf))
    assert len(reader.pages) == 3 and told[0] == 0.0
    assert "Front · 1 : 4 · A1" in reader.pages[0].extract_text()
    content = reader.pages[0].get_contents()
    assert content is not None and b"W* n" in content.get_data(), "cut off"
    files = prints.write(given, prints.restored({"scale": 4.0, "kind": "svg", "lines": False}))
    assert sorted(files) == ["front-001.svg", "right-001.svg", "top-001.svg"]

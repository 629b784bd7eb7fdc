"""Lines within the outline against the lines that are drawn."""

from __future__ import annotations

import numpy as np
import pytest
from PIL import Image, ImageDraw

from dimetron.document.fitting import Held
from dimetron.document.model import Drawing
from dimetron.fit.inner import Strokes, inner_missed
from dimetron.fit.miss import Drawn
from dimetron.geometry.placement import Placement
from dimetron.geometry.views import View
from dimetron.imaging.pyramid import build
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.joined import joined
from dimetron.mesh.layers import CREASE, Layer, On
from dimetron.mesh.mesh import from_faces
from dimetron.mesh.primitives import box
from dimetron.mesh.seen_lines import Together, inner_lines
from dimetron.outlines.silhouette import strokes

SQUARE = np.array([[0.0, 0], [100, 0], [100, 100], [0, 100], [0, 0]])
FRAME = Drawn([SQUARE[:4]])


def line(*points: tuple[float, float]) -> np.ndarray:
    return np.array(points, float)


def test_a_line_that_is_shifted_is_off_by_just_that() -> None:
    miss = inner_missed([line((10, 53), (90, 53))], [line((0, 50), (100, 50)), SQUARE], FRAME)
    assert (miss.mean, miss.p95, miss.largest) == pytest.approx((3.0, 3.0, 3.0))
    assert miss.nearest[:, 1] == pytest.approx(50)
    assert miss.weights.sum() == pytest.approx(80)


def test_the_worst_place_and_the_mean_of_a_slanted_line() -> None:
    miss = inner_missed([line((20, 50), (80, 62))], [line((0, 50), (100, 50))], FRAME)
    assert miss.mean == pytest.approx(6.0, rel=0.01)
    assert miss.p95 == pytest.approx(0.95 * 12, rel=0.02)
    assert miss.largest == pytest.approx(12.0) and miss.at == pytest.approx([80, 62])


def test_lines_end_where_they_end() -> None:
    nearest, off = Strokes([line((0, 0), (10, 0)), line((30, 0), (40, 0))], 1.0).nearest(
        np.array([[20.0, 0], [14.0, 3], [5.5, 2]])
    )
    assert off == pytest.approx([10, 5, 2])
    assert nearest[1] == pytest.approx([10, 0]) and nearest[2] == pytest.approx([5.5, 0])


def test_what_is_left_out_and_what_is_not_there() -> None:
    off = np.array([[0.0, 40], [100, 40], [100, 60], [0, 60]])
    less = Drawn([SQUARE[:4]], left_out=[off])
    lines = [line((10, 50), (90, 50)), line((10, 80), (90, 80))]
    assert inner_missed(lines, [line((0, 79), (100, 79))], less).largest == pytest.approx(1.0)
    with pytest.raises(MeshError, match="No line is drawn"):
        inner_missed(lines, [], FRAME)
    with pytest.raises(MeshError, match="no creases"):
        inner_missed([], [SQUARE], FRAME)
    with pytest.raises(MeshError, match="no creases"):
        inner_missed(lines[:1], [SQUARE], less)


def test_creases_borders_and_sharp_edges_are_inner_lines() -> None:
    def long(mesh: object, view: View = View.FRONT) -> float:
        lines = [view.to_plane(found) for found in inner_lines(Together([mesh]), view)]
        return float(sum(np.linalg.norm(np.diff(one, axis=0), axis=1).sum() for one in lines))

    points = [(x, 0.0, z) for z in (0.0, 100.0) for x in (0.0, 50.0, 100.0)]
    sheet = from_faces(np.array(points), [[0, 1, 4, 3], [1, 2, 5, 4]])
    assert long(sheet) == pytest.approx(400, abs=0.1), "its borders"
    shared = (sheet.topology.edge_face_count == 2).astype(np.float32)
    creased = sheet.with_layer(CREASE, Layer(On.EDGE, shared))
    assert long(creased) == pytest.approx(500, abs=0.1)
    assert long(box((0, 0, 0), (100, 10, 100))) == pytest.approx(400, abs=0.5)


def test_a_step_on_a_box_is_found_in_its_drawing() -> None:
    """A ledge at 60 mm is drawn at 64."""
    picture = Image.new("L", (520, 620), 255)
    pen = ImageDraw.Draw(picture)
    pen.rectangle((60, 60, 460, 560), outline=0, width=5)
    pen.line((60, 240, 460, 240), fill=0, width=5)
    read = strokes(build(picture))
    placement = Placement(0.2, (260.0, 560.0), (0.0, 0.0))
    drawing = Drawing("d", "front", View.FRONT, "s", placement)
    lines = [placement.to_plane(found) for found in read]
    mesh = joined([box((-40, 0, 0), (40, 40, 100)), box((-40, -20, 0), (40, 0, 60))])
    drawn = Drawn([placement.to_plane(np.array([[60.0, 60], [460, 60], [460, 560], [60, 560]]))])
    fit = Held([mesh]).against(drawing, drawn, lines)
    assert fit.inner is not None and fit.miss is not None
    assert fit.inner.largest == pytest.approx(4.0, abs=0.5)
    assert Held([mesh]).against(drawing, drawn).inner is None
    assert Held([mesh]).against(drawing, drawn, []).inner is None
    assert Held([]).against(drawing, drawn, lines).problem != ""

from __future__ import annotations

import io
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from dimetron.document import aligning, edits
from dimetron.document.history import new_history
from dimetron.document.model import Document, Source, source_from, with_item
from dimetron.geometry import placement as place
from dimetron.geometry.placement import PlacementError
from dimetron.geometry.views import View
from dimetron.imaging.frame import Crop
from dimetron.mesh.primitives import box


def picture(
    name: str = "a.png", size: tuple[int, int] = (200, 100), dpi: float | None = None
) -> Source:
    out = io.BytesIO()
    Image.new("L", size, 255).save(out, "PNG")
    return source_from(out.getvalue(), name, "png", size, 25.4 / dpi if dpi else None)


def two_views() -> tuple[Document, str, str]:
    doc, front = edits.with_drawing(Document(), picture("front.png"), View.FRONT)
    doc, side = edits.with_drawing(doc, picture("side.png", (300, 160)), View.RIGHT)
    return doc, front, side


def test_a_first_drawing_stands_centred_on_the_ground_at_a_sensible_size() -> None:
    doc, front = edits.with_drawing(Document(), picture(), View.FRONT)
    drawing = doc.drawing(front)
    corners = drawing.placement.corners((200, 100))
    assert corners[:, 0].min() == pytest.approx(-100)
    assert corners[:, 1].min() == pytest.approx(0)
    assert drawing.name == "a"
    doc, top = edits.with_drawing(doc, picture(), View.TOP)
    assert np.allclose(doc.drawing(top).placement.centre((200, 100)), 0)
    assert doc.drawing(top).name == "a 2"


def test_a_files_own_resolution_counts() -> None:
    doc, front = edits.with_drawing(Document(), picture(dpi=300), View.FRONT)
    assert edits.extent(doc, front, 0) == pytest.approx(200 * 25.4 / 300)


@given(st.floats(1, 5000), st.sampled_from([0, 2]))
def test_extent_is_reached_and_the_ground_kept(mm: float, axis: int) -> None:
    doc, front, _ = two_views()
    after = edits.with_extent(doc, front, axis, mm)
    assert edits.extent(after, front, axis) == pytest.approx(mm)
    assert after.drawing(front).placement.corners((200, 100))[:, 1].min() == pytest.approx(0)


@given(st.floats(0.1, 10), st.floats(-200, 200))
def test_matching_a_shared_height_makes_both_level(scale: float, up: float) -> None:
    doc, front, side = two_views()
    doc = edits.with_placement(doc, front, replace(doc.drawing(front).placement, mm_per_px=scale))
    doc = edits.slid(doc, front, (0, up))
    after = aligning.matched_extent(doc, side, front, 2)
    assert edits.extent(after, side, 2) == pytest.approx(edits.extent(doc, front, 2))
    mine = after.drawing(side).placement.corners((300, 160))[:, 1]
    other = after.drawing(front).placement.corners((200, 100))[:, 1]
    assert mine.min() == pytest.approx(other.min(), abs=1e-6)
    assert mine.max() == pytest.approx(other.max(), abs=1e-6)


def test_matching_across_views_that_look_the_other_way() -> None:
    doc, front, _ = two_views()
    doc, back = edits.with_drawing(doc, picture("back.png"), View.BACK)
    doc = edits.slid(doc, front, (30, 0))
    after = aligning.matched_extent(doc, back, front, 0)
    world = after.drawing(back).placement.world_corners(View.BACK, (200, 100))
    assert world[:, 0].mean() == pytest.approx(30)


def test_axes_that_are_not_shared_are_refused() -> None:
    doc, front, side = two_views()
    with pytest.raises(PlacementError, match="do not share"):
        aligning.matched_extent(doc, side, front, 0)
    with pytest.raises(PlacementError, match="does not show"):
        edits.extent(doc, front, 1)
    with pytest.raises(PlacementError, match="more than zero"):
        edits.with_extent(doc, front, 0, 0)


def test_the_same_scale() -> None:
    doc, front, side = two_views()
    doc = edits.with_placement(doc, front, place.with_scale(doc.drawing(front).placement, 0.25))
    assert edits.scaled_like(doc, side, front).drawing(side).placement.mm_per_px == 0.25


@pytest.mark.parametrize(
    ("onto", "expected"), [("ground", (None, 0)), ("centreline", (0, None)), ("origin", (0, 0))]
)
def test_put_a_point(onto: str, expected: tuple[float | None, float | None]) -> None:
    doc, front, _ = two_views()
    before = doc.drawing(front).placement.to_plane((17, 23))
    after = edits.put_point(doc, front, (17, 23), onto).drawing(front).placement.to_plane((17, 23))
    for now, was, wanted in zip(after, before, expected, strict=True):
        assert now == pytest.approx(was if wanted is None else wanted)


def test_history_shares_and_undo_is_exact() -> None:
    doc, front, _ = two_views()
    history = new_history(doc).committed(edits.slid(doc, front, (5, 0)), "Slide front")
    assert history.document.sources is doc.sources
    assert history.undo_label == "Slide front"
    back = history.undone()
    assert back.document is doc
    assert back.redo_label == "Slide front"
    assert back.redone().document is history.document
    other = back.committed(edits.slid(doc, front, (9, 0)), "Slide again")
    assert other.redo_label is None
    assert other.committed(other.document, "nothing") is other
    assert new_history(doc).undone().document is doc


def test_removing_the_last_user_removes_the_source() -> None:
    doc, front, _side = two_views()
    after = edits.without_item(doc, front)
    assert len(after.drawings) == len(after.sources) == 1
    with pytest.raises(KeyError):
        with_item(after, front, name="x")


def test_bounds_count_drawings_with_the_axes_they_show() -> None:
    doc, _front, _ = two_views()
    low, high = edits.bounds(doc)
    assert high[0] - low[0] == pytest.approx(200)
    assert high[1] - low[1] == pytest.approx(300)
    doc, _ = edits.with_mesh(doc, box((-500, 0, 0), (0, 1, 1)), "body")
    assert edits.bounds(doc)[0, 0] == -500
    assert edits.bounds(Document()) is None


def test_a_drawing_says_nothing_of_the_depth_it_is_looked_along() -> None:
    doc, _ = edits.with_drawing(Document(), picture(), View.FRONT)
    doc, _ = edits.with_mesh(doc, box((0, 30, 0), (1, 40, 1)), "behind")
    box_ = edits.bounds(doc)
    assert box_ is not None
    assert box_[:, 1].tolist() == [30, 40]


def test_another_crop_of_a_drawing_has_another_frame() -> None:
    doc, front = edits.with_drawing(Document(), picture(), View.FRONT)
    drawing = doc.drawing(front)
    assert doc.size_px(drawing) == (200, 100)
    assert doc.size_px(replace(drawing, crop=Crop(10, 10, 50, 40))) == (50, 40)

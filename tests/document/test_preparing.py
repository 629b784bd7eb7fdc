"""What is done to sheets and crops, and where placed drawings stay meanwhile."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dimetron.document import edits, preparing
from dimetron.document.container import load, save
from dimetron.document.model import Document, Source, with_item
from dimetron.document.preparing import FoundView
from dimetron.geometry.placement import PlacementError
from dimetron.geometry.views import View
from dimetron.imaging.flat import Circle, FrameError, Rectangle
from dimetron.imaging.frame import Crop, Flattening, Straightening
from dimetron.imaging.page import Page
from dimetron.imaging.tone import Tone

SIZE = (2000, 1500)


def sheet(mm_per_px: float | None = 0.5) -> tuple[Document, str]:
    source = Source("s1", "can.png", "png", SIZE, "0" * 64, b"x", mm_per_px)
    return preparing.edits.with_sheet(Document(), source)


def proposed() -> tuple[Document, str]:
    """A sheet with front, right (level, to the right) and top (above), sizes 400 x 300 x 200."""
    doc, id_ = sheet()
    found = [
        FoundView(Crop(300, 800, 400, 300), View.FRONT),
        FoundView(Crop(900, 800, 200, 300), View.RIGHT),
        FoundView(Crop(300, 400, 400, 200), View.TOP),
        FoundView(Crop(1500, 100, 90, 90), None, "it stands apart"),
    ]
    return preparing.with_found_views(doc, id_, found), id_


def test_proposals_become_cards_that_are_not_in_space_yet() -> None:
    doc, _ = proposed()
    assert [d.name for d in doc.drawings] == ["can front", "can right", "can top", "can part"]
    assert doc.planes == ()
    assert edits.bounds(doc) is None
    assert not doc.drawings[3].named


def test_place_all_stands_named_drawings_level_and_to_one_scale() -> None:
    doc, id_ = proposed()
    doc = preparing.place_all(doc, id_)
    assert [d.view for d in doc.planes] == [View.FRONT, View.RIGHT, View.TOP]
    assert {d.placement.mm_per_px for d in doc.planes} == {0.5}
    np.testing.assert_allclose(edits.bounds(doc), [[-100, -50, 0], [100, 50, 150]])


def test_a_view_a_little_off_on_the_sheet_is_as_much_off_in_space() -> None:
    doc, id_ = proposed()
    right = doc.drawings[1]
    doc = preparing.recropped(doc, right.id, Crop(900, 794, 200, 300))
    doc = preparing.place_all(doc, id_)
    corners = doc.planes[1].placement.world_corners(View.RIGHT, (200, 300))
    assert corners[:, 2].min() == pytest.approx(3.0)


def test_an_unnamed_drawing_is_not_placed() -> None:
    doc, _ = proposed()
    with pytest.raises(PlacementError, match="which view"):
        preparing.placed(doc, [doc.drawings[3].id])
    doc = preparing.with_view(doc, doc.drawings[3].id, View.LEFT)
    assert doc.drawings[3].name == "can left"
    assert len(preparing.placed(doc, [doc.drawings[3].id]).planes) == 1


def test_proposing_again_keeps_what_is_placed() -> None:
    doc, id_ = proposed()
    front = doc.drawings[0].id
    doc = preparing.placed(doc, [front])
    doc = preparing.with_found_views(
        doc,
        id_,
        [FoundView(Crop(0, 0, 50, 50), View.FRONT), FoundView(Crop(9, 9, 50, 50), View.TOP)],
    )
    assert [d.view for d in doc.drawings] == [View.FRONT, View.TOP]
    assert doc.drawings[0].id == front


def in_space(doc: Document, id_: str, source_px: np.ndarray) -> np.ndarray:
    drawing = doc.drawing(id_)
    return drawing.placement.to_plane(doc.frame(drawing).to_frame(source_px))


crops = st.builds(
    Crop, st.floats(-50, 900), st.floats(-50, 900), st.floats(20, 900), st.floats(20, 500)
)


@given(
    crops, crops, st.floats(-20, 20), st.booleans(), st.integers(0, 3), st.floats(-30, 30)
)  # fmt: skip
def test_a_new_crop_leaves_every_point_of_the_picture_where_it_is(
    first: Crop, second: Crop, skew: float, mirrored: bool, turns: int, placed_turn: float
) -> None:
    doc, id_ = sheet()
    doc = preparing.flattened(doc, id_, Flattening(straightening=Straightening(angle_deg=skew)))
    doc, drawing = preparing.cut(doc, id_, first, View.FRONT)
    doc = preparing.straightened(doc, drawing, Straightening(turns, 0.0, mirrored))
    doc = preparing.placed(doc, [drawing])
    place = replace(doc.drawing(drawing).placement, rotation_deg=placed_turn)
    doc = with_item(doc, drawing, placement=place)
    points = np.array([[10.0, 20.0], [700, 300], [1500, 1400]])
    before = in_space(doc, drawing, points)
    after = in_space(preparing.recropped(doc, drawing, second), drawing, points)
    np.testing.assert_allclose(after, before, atol=1e-6)


@pytest.mark.parametrize(
    "how",
    [
        Flattening(straightening=Straightening(1)),
        Flattening(straightening=Straightening(0, 3.0, True)),
        Flattening(scale=0.5),
        Flattening(bulge=0.05),
    ],
)
def test_a_sheet_done_anew_keeps_crops_on_what_they_show(how: Flattening) -> None:
    doc, id_ = proposed()
    doc = preparing.place_all(doc, id_)
    after = preparing.flattened(doc, id_, how)
    for old, new in zip(doc.planes, after.planes, strict=True):
        middle = np.array(doc.size_px(old)) / 2
        there = doc.frame(old).to_source(middle)
        np.testing.assert_allclose(
            after.frame(new).to_frame(there), np.array(after.size_px(new)) / 2, atol=1.6
        )
        np.testing.assert_allclose(
            in_space(after, new.id, there), in_space(doc, old.id, there), atol=1e-6
        )
        scale = new.placement.mm_per_px / old.placement.mm_per_px
        assert scale == pytest.approx(1 / how.scale, rel=0.05)


def test_a_quarter_turn_turns_the_crop() -> None:
    doc, id_ = proposed()
    after = preparing.flattened(doc, id_, Flattening(straightening=Straightening(1)))
    crop = after.drawings[0].crop
    assert crop is not None
    assert (crop.width, crop.height) == (300, 400)
    back = preparing.flattened(after, id_, Flattening())
    assert back.drawings[0].crop == doc.drawings[0].crop


def test_a_typed_size_gives_the_sheet_its_scale() -> None:
    doc, id_ = proposed()
    doc = preparing.sized(doc, doc.drawings[0].id, 412.0, 0)
    assert preparing.sheet_mm_per_px(doc, doc.sheet(id_)) == pytest.approx(1.03)
    doc = preparing.place_all(doc, id_)
    assert [d.placement.mm_per_px for d in doc.planes] == pytest.approx([1.03] * 3)
    with pytest.raises(FrameError, match="more than zero"):
        preparing.sized(doc, doc.drawings[0].id, 0.0, 1)


def test_resampling_changes_pixels_and_not_sizes() -> None:
    doc, id_ = proposed()
    doc = preparing.flattened(doc, id_, Flattening(scale=2.0))
    assert preparing.sheet_mm_per_px(doc, doc.sheet(id_)) == pytest.approx(0.25)
    assert doc.size_px(doc.drawings[0]) == (800, 600)


def test_a_measured_rectangle_tells_the_scale() -> None:
    doc, id_ = sheet(None)
    known = Rectangle(((100, 100), (1100, 150), (1080, 1100), (90, 1000)), (200.0, 180.0), True)
    doc = preparing.flattened(doc, id_, Flattening(known=known))
    scale = preparing.sheet_mm_per_px(doc, doc.sheet(id_))
    flat = doc.frame(doc.sheet(id_)).to_frame(np.array(known.corners))
    assert scale is not None
    np.testing.assert_allclose(np.hypot(*(flat[1] - flat[0])) * scale, 200)


def test_a_drawing_has_its_sheets_tone_until_it_has_its_own() -> None:
    doc, id_ = proposed()
    first, second = doc.drawings[0].id, doc.drawings[1].id
    doc = preparing.with_tone(doc, first, Tone(lift=True))
    doc = preparing.with_tone(doc, id_, Tone(grey=True))
    assert preparing.tone_of(doc, doc.drawing(first)) == Tone(lift=True)
    assert preparing.tone_of(doc, doc.drawing(second)) == Tone(grey=True)
    assert preparing.tone_of(preparing.with_tone(doc, first, None), doc.drawing(second)).grey


def test_a_sheet_goes_with_what_was_cut_from_it() -> None:
    doc, id_ = proposed()
    gone = edits.without_sheet(doc, id_)
    assert (gone.sheets, gone.drawings, gone.sources) == ((), (), ())
    # A prepared sheet stays when its drawings go; a picture that was just dropped does not.
    for drawing in doc.drawings:
        doc = edits.without_item(doc, drawing.id)
    assert len(doc.sheets) == 1
    doc, dropped = edits.with_drawing(Document(), doc.sources[0], View.FRONT)
    assert edits.without_item(doc, dropped).sources == ()


def test_everything_prepared_is_saved(tmp_path: Path) -> None:
    doc, id_ = proposed()
    circle = Circle(tuple((float(x), float(x * x % 97)) for x in range(6)), (3.0, 4.0), 240.0)
    doc = preparing.with_sheet_changes(
        doc,
        id_,
        page=Page(3, 150.0),
        tone=Tone(
            True, 0.2, -0.1, (1, 1.5, 2), True, (1, 2, 3), (4, 5, 6), True, 7, (8, 9, 9), True
        ),
    )
    doc = preparing.with_tone(doc, doc.drawings[0].id, Tone(lift=True))
    doc = with_item(doc, doc.drawings[1].id, straightening=Straightening(3, 1.5, True))
    save(doc, tmp_path / "a.dimetron")
    assert load(tmp_path / "a.dimetron").document == doc
    bent = preparing.with_sheet_changes(doc, id_, flattening=Flattening(0.1, circle, scale=0.5))
    assert bent.sheet(id_).flattening.known == circle

"""Registration from ink alone, against the truth of drawings of solids."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from dimetron.demo.lines import visible_lines
from dimetron.demo.odo import solid
from dimetron.demo.pencil import Scan, drawn
from dimetron.geometry.views import View
from dimetron.imaging.pyramid import build
from dimetron.imaging.shape import Shape, shape_of
from dimetron.registration.byink.coherence import CELLS, uncovered, unlike
from dimetron.registration.byink.proposal import Given, Proposal, proposed, reading_words
from dimetron.registration.byink.signature import Signature, odds
from dimetron.registration.byink.ways import WAYS, Reading, pose_of_reading, read_as
from dimetron.registration.pose import Pose
from dimetron.registration.problem import Picture, RegistrationError

F, R, T = View.FRONT, View.RIGHT, View.TOP
SCANS = {
    F: Scan(F, "f.png", (760, 1020), (380.0, 960.0), 0.205, rotation_deg=1.1, line_px=2.4, seed=3),
    R: Scan(R, "r.png", (1150, 800), (480.0, 700.0), 0.31, rotation_deg=-0.8, line_px=2.0, seed=4),
    T: Scan(T, "t.png", (480, 1050), (230.0, 650.0), 0.33, line_px=1.8, seed=5),
}


@cache
def picture(view: View) -> Image.Image:
    return drawn(SCANS[view], visible_lines(solid(), view))


@cache
def shape(view: View, turn: Image.Transpose | None = None) -> Shape:
    image = picture(view) if turn is None else picture(view).transpose(turn)
    found = shape_of(build(image))
    assert found is not None
    return found


def proposal_of(shapes: dict[View, Shape], pinned: View | None = None) -> Proposal:
    pose = Pose(1 / 0.5, 0.0, (300.0, 400.0))
    pictures = [Picture(v.key, v.key, v, pose, pinned=v is pinned) for v in shapes]
    depth = {} if pinned else {1: float(np.subtract(*solid().bounds[::-1])[1])}
    return proposed(pictures, {v.key: s for v, s in shapes.items()}, Given(depth))


def true_pose(scan: Scan) -> Pose:
    a = np.exp(1j * np.radians(scan.rotation_deg)) / scan.mm_per_px
    return Pose(float(a.real), float(a.imag), scan.origin_px)


def off(found: Proposal, view: View, points: np.ndarray) -> np.ndarray:
    """By how many mm points of the object are off in a drawing's plane, but for a common shift."""
    px = true_pose(SCANS[view]).to_px(view.to_plane(points))
    return np.asarray(found.poses[view.key].to_plane(px) - view.to_plane(points))


def test_three_drawings_as_they_are_called_are_registered() -> None:
    found = proposal_of({v: shape(v) for v in SCANS})
    assert found.sure and found.said == ()
    assert all(found.readings[v.key] == Reading(v, False, 0) for v in SCANS)
    low, high = (np.array(b) for b in solid().bounds)
    assert found.size_mm == pytest.approx(tuple(high - low), rel=0.006)
    for view in SCANS:
        assert found.poses[view.key].mm_per_px == pytest.approx(SCANS[view].mm_per_px, rel=0.005)
    corners = np.array([low, high])
    errors = [off(found, v, corners) for v in SCANS]
    # The height's origin is the ground; along X the sail-backed lizard is even about its middle.
    assert np.abs(errors[0]).max() < 1.0
    assert np.abs(errors[1] - errors[1].mean(axis=0)).max() < 1.0


def test_a_mirrored_drawing_is_recognised() -> None:
    flip = Image.Transpose.FLIP_LEFT_RIGHT
    found = proposal_of({F: shape(F), R: shape(R, flip), T: shape(T)})
    assert found.readings["right"].mirrored and not found.readings["top"].mirrored
    assert "right is mirrored" in found.said
    assert found.poses["right"].mirrored
    assert found.poses["right"].rotation_deg == pytest.approx(0.8, abs=0.25)


@pytest.mark.parametrize(
    ("turn", "words", "degrees"),
    [
        (Image.Transpose.ROTATE_90, "top is turned a quarter left", 90),
        (Image.Transpose.ROTATE_270, "top is turned a quarter right", -90),
    ],
)
def test_a_drawing_on_its_side_is_recognised(
    turn: Image.Transpose, words: str, degrees: float
) -> None:
    found = proposal_of({F: shape(F), R: shape(R), T: shape(T, turn)})
    assert words in found.said
    assert found.poses["top"].rotation_deg == pytest.approx(degrees, abs=0.3)


def lying_so(view: View, present: Pose, *turn: Image.Transpose) -> Proposal:
    """What is proposed of Odo's drawings of which one was placed otherwise by hand."""
    shapes = {v: shape(v, *turn) if v is view else shape(v) for v in SCANS}
    pictures = [
        Picture(v.key, v.key, v, present if v is view else Picture("", "", v).present)
        for v in SCANS
    ]
    return proposed(pictures, {v.key: s for v, s in shapes.items()})


def test_what_was_placed_by_hand_counts_as_said() -> None:
    # The plan lies on its side in its picture, and a person has set it upright.
    quarter = Pose(0.0, 2.0, (0.0, 0.0))
    found = lying_so(T, quarter, Image.Transpose.ROTATE_90)
    assert found.readings["top"] == Reading(T, False, 1) and found.said == ()
    assert found.poses["top"].rotation_deg == pytest.approx(90, abs=0.3)
    # Set wrongly, it is said against how it lies now.
    found = lying_so(T, quarter)
    assert "top is turned a quarter right" in found.said
    mirrored = Pose(2.0, 0.0, (0.0, 0.0), mirrored=True)
    assert "right should not be mirrored" in lying_so(R, mirrored).said


def test_a_small_turn_that_the_ink_does_not_tell_of_stays() -> None:
    shapes = {v.key: replace(shape(v), told=False, turn_deg=0.0) for v in SCANS}
    turned = Pose(float(np.cos(0.03)), float(np.sin(0.03)), (0.0, 0.0))
    pictures = [Picture(v.key, v.key, v, turned) for v in SCANS]
    found = proposed(pictures, shapes)
    assert found.poses["top"].rotation_deg == pytest.approx(np.degrees(0.03))


def test_readings_are_told_apart_in_words() -> None:
    pictures = [Picture(v.key, v.key, v) for v in SCANS]
    flip = Image.Transpose.FLIP_LEFT_RIGHT
    found = proposal_of({F: shape(F), R: shape(R, flip), T: shape(T)})
    assert reading_words(pictures, found) == "right is mirrored"
    assert "way it is placed" in reading_words(pictures, proposal_of({v: shape(v) for v in SCANS}))


def test_names_that_were_exchanged_are_set_right() -> None:
    found = proposal_of({F: shape(R), R: shape(F), T: shape(T)})
    assert found.readings["front"].view is R and found.readings["right"].view is F
    assert "front looks like a right view" in found.said


def test_a_pinned_drawing_stays_and_the_others_come_to_it() -> None:
    found = proposal_of({v: shape(v) for v in SCANS}, pinned=F)
    assert found.poses["front"] == Pose(1 / 0.5, 0.0, (300.0, 400.0))
    ratio = found.poses["right"].mm_per_px / found.poses["front"].mm_per_px
    assert ratio == pytest.approx(0.31 / 0.205, rel=0.006)


def test_what_three_drawings_cannot_all_have_is_told() -> None:
    stretched = picture(T).resize((480, round(1050 * 1.03)))
    longer = shape_of(build(stretched))
    assert longer is not None
    found = proposal_of({F: shape(F), R: shape(R), T: longer})
    assert any("top had 3" in words and "too much depth" in words for words in found.said)


def test_sides_that_are_not_as_long_as_they_should_be_are_not_called_sure() -> None:
    assert proposal_of({F: shape(F), R: shape(R), T: shape(T)}).sure
    stretched = shape_of(build(picture(T).resize((480, round(1050 * 1.025)))))
    assert stretched is not None
    found = proposal_of({F: shape(F), R: shape(R), T: stretched})
    assert found.confidence > 0.9
    assert not found.sure
    assert found.doubt == "drawings differ in sides that they share"


def test_one_drawing_or_blank_paper_is_no_proposal() -> None:
    with pytest.raises(RegistrationError, match="two drawings"):
        proposal_of({F: shape(F)})
    assert shape_of(build(Image.new("RGB", (400, 300), "white"))) is None


@given(st.sampled_from(WAYS), st.sampled_from(list(View)), st.floats(-2, 2), st.floats(0.1, 3))
def test_a_reading_puts_the_axes_where_its_way_says(
    way: object, called: View, turn_deg: float, scale: float
) -> None:
    reading = read_as(way, called)  # type: ignore[arg-type]
    pose = pose_of_reading(reading, turn_deg, scale, (70.0, 90.0))
    c, s = np.cos(np.radians(turn_deg)), np.sin(np.radians(turn_deg))
    for side, step in enumerate([(c, -s), (-s, -c)]):
        world = reading.view.to_world(pose.to_plane(np.add((70.0, 90.0), step)))
        expected = np.zeros(3)
        expected[way.axes[side]] = way.signs[side] * scale  # type: ignore[attr-defined]
        assert np.allclose(world, expected, atol=1e-9)


@given(st.integers(0, 2**32 - 1))
def test_outlines_of_one_solid_allow_each_other(seed: int) -> None:
    rng = np.random.default_rng(seed)
    solid = np.zeros((CELLS, CELLS, CELLS), bool)
    for _ in range(4):
        low = rng.integers(0, CELLS - 8, 3)
        high = [int(rng.integers(v + 4, CELLS + 1)) for v in low]
        solid[low[0] : high[0], low[1] : high[1], low[2] : high[2]] = True
    by_xy, by_yz, by_xz = solid.any(axis=2), solid.any(axis=0), solid.any(axis=1)
    assert uncovered(by_xy, by_yz, by_xz) == 0.0
    assert unlike(by_xy, by_xy) == 0.0
    # A column where the top view shows nothing cannot be seen from the front.
    by_xy[: CELLS // 3] = False
    if by_xz[: CELLS // 3 - 2].any():
        assert uncovered(by_xy, by_yz, by_xz) > 0.0


@settings(deadline=None)
@given(st.sampled_from([(F, R), (R, T), (F, T)]), st.integers(0, 1), st.integers(0, 1))
def test_what_sides_say_of_each_other_turns_round_with_them(
    views: tuple[View, View], i: int, j: int
) -> None:
    a, b = (Signature(shape(v)).channels for v in views)
    before, turned = odds(a, b), odds(a, b[..., ::-1])
    assert turned[i, j] == pytest.approx(before[i, j, ::-1])
    assert odds(b, a)[j, i] == pytest.approx(before[i, j])
    # A side is most like itself, the way it runs.
    own = odds(a, a)
    assert own[i, i, 0] >= own[i, i, 1]


def test_sides_that_show_the_same_axis_say_so() -> None:
    front, side, top = (Signature(shape(v)).channels for v in SCANS)
    height, depth, width = odds(front, side)[1, 1], odds(side, top)[0, 1], odds(front, top)[0, 0]
    for same in (height, depth, width):
        assert same[0] > 0
    # The lizard's head and tail, its feet and sail, are told apart; left and right are alike.
    assert height[0] > height[1] + 4 and depth[0] > depth[1] + 4
    assert odds(front, side)[0, 0].max() < width[0]


@settings(max_examples=6, deadline=None)
@given(st.sampled_from([(F, F), (R, T)]), st.floats(1.05, 1.6))
def test_drawings_of_two_planes_at_other_sizes_are_brought_to_one(
    views: tuple[View, View], factor: float
) -> None:
    view = views[1]
    larger = picture(view).resize([round(v * factor) for v in picture(view).size])
    found = shape_of(build(larger))
    assert found is not None
    plain = proposal_of({F: shape(F), R: shape(R), T: shape(T)})
    shapes = {F: shape(F), R: shape(R), T: shape(T)} | {view: found}
    other = proposal_of(shapes)
    ratio = plain.poses[view.key].mm_per_px / other.poses[view.key].mm_per_px
    assert ratio == pytest.approx(factor, rel=0.01)
    assert other.readings == plain.readings


def of_one_body(shapes: dict[View, Shape], sizes: dict[View, float] | None = None) -> Proposal:
    """What is proposed of drawings of one body, true to one another but for ``sizes``."""
    pictures = [
        Picture(v.key, v.key, v, Pose(1 / (SCANS[v].mm_per_px * (sizes or {}).get(v, 1.0)), 0.0,
                                      (300.0, 400.0)), body="sheet")
        for v in shapes
    ]  # fmt: skip
    return proposed(pictures, {v.key: s for v, s in shapes.items()})


def test_drawings_of_one_body_keep_their_one_scale_exactly() -> None:
    found = of_one_body({v: shape(v) for v in SCANS})
    assert found.sure
    ratios = [found.poses[v.key].mm_per_px / SCANS[v].mm_per_px for v in SCANS]
    assert ratios == pytest.approx([ratios[0]] * 3, rel=1e-9)
    apart = proposal_of({v: shape(v) for v in SCANS})
    loose = [apart.poses[v.key].mm_per_px / SCANS[v].mm_per_px for v in SCANS]
    assert np.ptp(loose) / loose[0] > 1e-5


@pytest.mark.parametrize("turn", [Image.Transpose.ROTATE_90, Image.Transpose.ROTATE_270])
def test_two_drawings_of_one_body_tell_that_one_lies_on_its_side(turn: Image.Transpose) -> None:
    shapes = {F: shape(F), T: shape(T, turn)}
    found = of_one_body(shapes)
    assert found.readings["top"].quarters % 2 == 1
    assert not found.readings["front"].quarters
    # By themselves either may be of any size, and nothing tells.
    by_themselves = proposal_of(shapes)
    assert by_themselves.confidence < found.confidence


@pytest.mark.parametrize("view", SCANS)
def test_ink_that_contradicts_a_body_outvotes_it(view: View) -> None:
    found = of_one_body({v: shape(v) for v in SCANS}, {view: 1.3})
    sizes = {v: found.poses[v.key].mm_per_px / SCANS[v].mm_per_px for v in SCANS}
    assert list(sizes.values()) == pytest.approx([sizes[F]] * 3, rel=0.02)

"""What a drag means, worked out without a window: pulling, sizing and turning, a cut."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dimetron.app.tools import handles, pulling
from dimetron.app.tools.base import BoardEvent
from dimetron.document import edits
from dimetron.geometry.camera import Camera, OrbitCamera, OrthoCamera
from dimetron.geometry.placement import Placement
from dimetron.geometry.views import View
from dimetron.render.scene import Section
from tests.document.test_edits import two_views

SIZE = (800.0, 600.0)
cameras = st.one_of(
    st.builds(OrthoCamera, st.sampled_from(View), st.just((3.0, 4.0, 5.0)), st.floats(0.05, 5),
              st.just(SIZE)),
    st.builds(OrbitCamera, st.just((3.0, 4.0, 5.0)), st.floats(-180, 180), st.floats(-80, 80),
              st.floats(0.05, 5), st.just(False), st.just(SIZE)),
)  # fmt: skip
ways = st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda w: np.linalg.norm(w) > 0.1)


def event(camera: Camera, px: tuple[float, float]) -> BoardEvent:
    return BoardEvent("pane", camera, px, camera.point_at(px))


@given(cameras, ways, st.floats(-120, 120))
def test_what_is_pulled_along_a_way_stays_under_the_pointer(
    camera: Camera, way: tuple[float, float, float], far: float
) -> None:
    unit = np.array(way) / np.linalg.norm(way)
    grabbed = np.array([10.0, -20.0, 30.0])
    begin, end = camera.project(np.stack([grabbed, grabbed + unit * far]))
    if np.hypot(*(end - begin)) < abs(far) / camera.mm_per_px * 0.1:
        return
    pulled = pulling.along(event(camera, tuple(end)), tuple(begin), grabbed, unit)
    assert pulled == pytest.approx(far, abs=1e-6)


@pytest.mark.parametrize("view", View)
def test_what_comes_towards_the_eye_is_pulled_up_the_pane(view: View) -> None:
    camera = OrthoCamera(view, (0.0, 0.0, 0.0), 0.5, SIZE)
    up = pulling.along(event(camera, (400, 280)), (400, 300), np.zeros(3), -view.directions.forward)
    assert up == pytest.approx(10.0)
    across = pulling.across(event(camera, (430, 280)), (400, 300), np.zeros(3))
    assert across == pytest.approx(15.0)


@given(st.floats(-180, 180), st.floats(-179, 179), st.booleans())
def test_a_turn_is_told_the_short_way_round(start: float, by: float, steps: bool) -> None:
    placement, pivot = Placement(1.0, (0, 0), (0, 0)), np.array([5.0, 7.0])

    def at(degrees: float) -> np.ndarray:
        angle = np.radians(degrees)
        return pivot + 30 * np.array([np.cos(angle), np.sin(angle)])

    after, told = handles.turned(placement, at(start), pivot, at(start + by), steps)
    assert abs(told) <= 180 and told == pytest.approx(by, abs=7.51 if steps else 1e-6)
    turned = np.radians(after.rotation_deg - told)
    assert np.cos(turned) == pytest.approx(1.0)


@pytest.mark.parametrize("rotation", [0.0, 30.0, -100.0])
@pytest.mark.parametrize("edge", handles.EDGES)
@pytest.mark.parametrize("mode", ["opposite", "picked"])
def test_an_edge_is_pulled_along_its_own_normal_only(edge: str, rotation: float, mode: str) -> None:
    doc, id_, _ = two_views()
    placement = replace(doc.drawing(id_).placement, rotation_deg=rotation)
    doc = edits.with_placement(doc, id_, placement)
    drawing, size = doc.drawing(id_), doc.size_px(doc.drawing(id_))
    handle = next(h for h in handles.handles_of(doc, drawing, 0.01) if h.name == edge)
    # A pivot beside the middle, so that the edge lies askew of it.
    beside = placement.centre(size) + np.array([7.0, 3.0])
    pivot = handles.pivot_for(doc, drawing, handle, mode, beside)
    out = handle.at - placement.centre(size)
    normal = out / np.hypot(*out)
    along = np.array([-normal[1], normal[0]])
    far = float((handle.at - pivot) @ normal)
    to = handle.at + normal * far * 0.5 + along * 11.0
    after = handles.sized(placement, handle, pivot, to, False)
    grown = np.array(after.size_mm(size)) / np.array(placement.size_mm(size))
    assert grown == pytest.approx((1.5, 1.0) if edge in ("left", "right") else (1.0, 1.5))


def test_a_handle_that_is_the_pivot_itself_is_sized_about_the_middle() -> None:
    doc, id_, _ = two_views()
    drawing = doc.drawing(id_)
    middle = drawing.placement.centre(doc.size_px(drawing))
    for handle in handles.handles_of(doc, drawing, 0.01):
        found = handles.pivot_for(doc, drawing, handle, handle.name, np.zeros(2))
        assert np.allclose(found, middle)
        other = "left" if handle.name == "top" else "top"
        assert not np.allclose(handles.pivot_for(doc, drawing, handle, other, middle), middle)


@given(ways, st.floats(-50, 50), st.tuples(*[st.floats(-90, 90)] * 3))
def test_a_cut_keeps_what_lies_before_its_plane(
    way: tuple[float, float, float], offset: float, point: tuple[float, float, float]
) -> None:
    normal = tuple((np.array(way) / np.linalg.norm(way)).tolist())
    ahead = float(np.dot(normal, point)) - offset
    if abs(ahead) > 1e-6:
        assert Section(normal, offset).keeps(np.array([point])).tolist() == [ahead < 0]

"""The drawings of the demo, held against the shapes they were made from."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image

from dimetron.demo import can
from dimetron.demo.lines import visible_lines
from dimetron.demo.project import CAN_SCANS, TOP_TOO_LONG_MM
from dimetron.document.model import Document
from dimetron.geometry.views import View
from dimetron.mesh.primitives import box


def ink_extent(data: bytes, strength: int = 130) -> tuple[np.ndarray, np.ndarray]:
    """Lowest and highest (x, y) of clearly dark pixels, beyond the faint construction lines."""
    grey = np.asarray(Image.open(io.BytesIO(data)).convert("L"))
    rows, columns = np.nonzero(grey < strength)
    low = np.array([np.percentile(columns, 0.02), np.percentile(rows, 0.02)])
    return low, np.array([np.percentile(columns, 99.98), np.percentile(rows, 99.98)])


def test_the_can_is_a_closed_solid_of_its_stated_length() -> None:
    mesh = can.solid()
    assert (mesh.topology.edge_face_count == 2).all()
    low, high = mesh.bounds
    assert high[1] - low[1] == pytest.approx(can.LENGTH_MM, abs=1e-3)
    assert low[2] == pytest.approx(0, abs=1e-3)
    assert high[0] == pytest.approx(-low[0], abs=1e-3)


def test_landmarks_lie_on_the_can() -> None:
    mesh = can.solid()
    for name, point in can.landmarks().items():
        if name != "foot centre":
            nearest = np.linalg.norm(mesh.positions - point, axis=1).min()
            assert nearest < 6, name


@pytest.mark.parametrize("scan", CAN_SCANS, ids=lambda s: s.view.value)
def test_ink_lies_where_the_truth_says(can_project: Document, scan: object) -> None:
    source = next(s for s in can_project.sources if s.name == scan.file)
    low, high = ink_extent(source.data)
    plane = scan.true_placement.to_plane(np.stack([low, high]))
    seen = np.sort(plane, axis=0)
    truth = scan.view.to_plane(can.solid().bounds)
    truth = np.sort(truth, axis=0)
    truth[:, 1] *= scan.lengthened
    # Half a line's width, its wobble and the wobble of pencil: about three pixels.
    assert np.allclose(seen, truth, atol=3.5 * scan.mm_per_px)


def test_the_top_view_contradicts_the_side_by_three_millimetres() -> None:
    top = next(s for s in CAN_SCANS if s.view is View.TOP)
    side = next(s for s in CAN_SCANS if s.view is View.RIGHT)
    assert can.LENGTH_MM * (top.lengthened - side.lengthened) == pytest.approx(TOP_TOO_LONG_MM)
    assert len({s.mm_per_px for s in CAN_SCANS}) == 3


def test_hidden_lines_are_removed() -> None:
    cube = box((0, 0, 0), (100, 100, 100))
    triangles = type(cube)(cube.positions, _triangulated(cube))
    runs = visible_lines(triangles, View.FRONT)
    length = sum(float(np.linalg.norm(r[-1] - r[0])) for r in runs)
    # Four edges of the near face; each edge behind it coincides with one of them.
    assert length == pytest.approx(400, rel=0.02) or length == pytest.approx(800, rel=0.02)
    ends = np.concatenate(runs)
    inside = ((ends > 2) & (ends < 98)).all(axis=1)
    assert not inside.any()


def _triangulated(mesh: object) -> object:
    from dimetron.mesh.mesh import from_faces

    return from_faces(mesh.positions, mesh.triangles).topology

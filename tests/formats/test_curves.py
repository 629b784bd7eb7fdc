from __future__ import annotations

import io
from pathlib import Path

import ezdxf
import numpy as np
import pytest

from dimetron.document.model import Document
from dimetron.document.outline import with_outline
from dimetron.formats.curves.reading import read_curves
from dimetron.formats.export import export
from dimetron.formats.format import MeshFileError
from dimetron.geometry.views import View
from dimetron.outlines.path import area, bounds
from dimetron.outlines.shapes import arc, ellipse, rectangle
from dimetron.outlines.trace import distances
from tests.outlines.drawn import along, wavy

SVG = """<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"
 width="100mm" height="50mm" viewBox="0 0 200 100"><g id="body" transform="translate(20 10)">
 <path id="a" d="M0 0h40a20 20 0 0 1 0 40h-40z"/><circle cx="100" cy="20" r="10"/>
 <path d="M0 60q20 -20 40 0t40 0"/></g><text x="3" y="3">no</text></svg>"""


@pytest.mark.parametrize("ending", ["svg", "dxf"])
def test_what_is_written_is_read_again(tmp_path: Path, ending: str) -> None:
    paths = {"blob": wavy((30, 40), 25, 3), "box": rectangle((-9, -4), (5, 6))}
    paths["bow"] = arc((0, 0), (5, 3), (10, 0))
    doc = Document()
    for name, path in paths.items():
        doc, _ = with_outline(doc, path, View.FRONT, name)
    export(doc, tmp_path / f"o.{ending}")
    read = read_curves(tmp_path / f"o.{ending}")
    assert len(read.paths) == 3
    assert {drawn.layer for drawn in read.paths} == {"Front"}
    for drawn, path in zip(read.paths, paths.values(), strict=True):
        assert drawn.path.closed == path.closed
        assert distances(path, along(drawn.path, 0.2)).max() < 0.02
        assert distances(drawn.path, along(path, 0.2)).max() < 0.02


def test_an_svg_of_another_hand_is_read_at_its_size(tmp_path: Path) -> None:
    (tmp_path / "a.svg").write_text(SVG)
    read = read_curves(tmp_path / "a.svg")
    assert [drawn.layer for drawn in read.paths] == ["body"] * 3
    assert len(read.odd) == 1 and "text" in read.odd[0]
    # Half a millimetre a user unit; y upward.
    first, circle, wave = (drawn.path for drawn in read.paths)
    assert abs(area(first)) == pytest.approx(20 * 20 + np.pi * 50, rel=1e-3)
    assert abs(area(circle)) == pytest.approx(np.pi * 25, rel=1e-3)
    assert bounds(circle).mean(axis=0) == pytest.approx([60, -15], abs=1e-3)
    assert not wave.closed and first.closed
    assert wave.points[0] == pytest.approx([10, -35])


def _dxf(tmp_path: Path, units: int) -> Path:
    document = ezdxf.new("R2000")
    document.units = units
    space = document.modelspace()
    layer = {"layer": "plan"}
    for a, b in (((0, 0), (4, 0)), ((4, 3), (4, 0)), ((4, 3), (0, 3)), ((0, 3), (0, 0))):
        space.add_line(a, b, dxfattribs=layer)
    space.add_circle((10, 0), 2, dxfattribs={"layer": "hole"})
    space.add_arc((20, 0), 2, 0, 90, dxfattribs={"layer": "hole"})
    space.add_lwpolyline([(30, 0, 0.0), (32, 0, 1.0), (32, 2, 0.0)], format="xyb", close=True)
    space.add_text("no")
    block = document.blocks.new("B")
    block.add_line((0, 0), (1, 1))
    space.add_blockref("B", (50, 50), dxfattribs={"xscale": 2, "yscale": 2})
    document.saveas(tmp_path / "a.dxf")
    return tmp_path / "a.dxf"


def test_a_dxf_of_another_hand_is_read_in_its_unit_and_joined(tmp_path: Path) -> None:
    read = read_curves(_dxf(tmp_path, ezdxf.units.CM))
    plan = next(d.path for d in read.paths if d.layer == "plan")
    assert plan.closed and len(plan) == 4
    assert abs(area(plan)) == pytest.approx(1200)
    circle, bow = (d.path for d in read.paths if d.layer == "hole")
    circle, bow = (circle, bow) if circle.closed else (bow, circle)
    assert abs(area(circle)) == pytest.approx(np.pi * 400, rel=1e-3)
    assert np.hypot(*(along(bow) - (200, 0)).T) == pytest.approx(20, abs=0.02)
    others = [d.path for d in read.paths if d.layer == "0"]
    assert sorted(p.closed for p in others) == [False, True]
    line = next(p for p in others if not p.closed)
    assert line.points == pytest.approx(np.array([[500, 500], [520, 520]]))
    assert any("text" in odd for odd in read.odd)


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("a.svg", b"<svg", "damaged"),
        (
            "b.svg",
            b'<!DOCTYPE s [<!ENTITY x SYSTEM "file:///etc/passwd">]><svg>&x;</svg>',
            "outside",
        ),
        ("c.svg", b'<svg xmlns="http://www.w3.org/2000/svg"/>', "no curves"),
        ("d.dxf", b"rubbish", "no DXF|damaged|no curves"),
        ("e.png", b"", "no file of outlines"),
    ],
)
def test_what_cannot_be_read_is_said_in_a_sentence(
    tmp_path: Path, name: str, data: bytes, words: str
) -> None:
    (tmp_path / name).write_bytes(data)
    with pytest.raises(MeshFileError, match=words) as fault:
        read_curves(tmp_path / name)
    assert str(fault.value).startswith(name)
    with pytest.raises(MeshFileError, match=r"gone\.svg"):
        read_curves(tmp_path / "gone.svg")


def test_an_ellipse_of_dxf_is_one(tmp_path: Path) -> None:
    document = ezdxf.new("R2010", units=ezdxf.units.MM)
    document.modelspace().add_ellipse((5, 5), (10, 0), 0.5)
    out = io.StringIO()
    document.write(out)
    (tmp_path / "e.dxf").write_text(out.getvalue())
    (drawn,) = read_curves(tmp_path / "e.dxf").paths
    assert distances(drawn.path, along(ellipse((5, 5), (10, 5)), 0.3)).max() < 0.05

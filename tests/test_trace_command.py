from __future__ import annotations

import json
from pathlib import Path

import ezdxf
import numpy as np
import pytest
import svgelements

from dimetron.cli import main
from dimetron.outlines.path import Floats, from_pieces
from dimetron.outlines.trace import distances
from tests.outlines.drawn import AREAS, LINES, along, drawn


@pytest.fixture
def picture(tmp_path: Path) -> Path:
    drawn(LINES).save(tmp_path / "lines.png")
    return tmp_path / "lines.png"


def _from_lines(places: Floats) -> float:
    return float(np.min([distances(path, places) for path in LINES], axis=0).mean())


def test_svg_is_read_again_where_the_picture_has_its_lines(
    picture: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out = picture.with_suffix(".svg")
    assert main(["trace", str(picture), "--out", str(out), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)["outlines"]
    paths = [e for e in svgelements.SVG.parse(out).elements() if isinstance(e, svgelements.Path)]
    assert len(paths) == len(told)
    assert sum(o["closed"] for o in told) == 5
    assert max(o["miss_px"]["max"] for o in told) < 0.55
    places = [_cubics(path) for path in paths]
    assert _from_lines(np.concatenate([along(from_pieces(p, closed=False)) for p in places])) < 0.3


def _cubics(path: svgelements.Path) -> list[list[tuple[float, float]]]:
    return [
        [(p.x, p.y) for p in (s.start, s.control1, s.control2, s.end)]
        for s in path
        if isinstance(s, svgelements.CubicBezier)
    ]


def test_dxf_in_mm_has_y_upward(picture: Path) -> None:
    out = picture.with_suffix(".dxf")
    assert main(["trace", str(picture), "--out", str(out), "--mm-per-px", "0.5"]) == 0
    document = ezdxf.readfile(out)
    assert not document.audit().errors
    assert document.units == ezdxf.units.MM
    splines = list(document.modelspace().query("SPLINE"))
    places = np.concatenate([np.array([(p.x, p.y) for p in s.flattening(0.01)]) for s in splines])
    assert _from_lines(places * (2, -2)) < 0.3


def test_an_area_and_its_hole_stand_in_one_group(tmp_path: Path) -> None:
    drawn(areas=AREAS[:1]).save(tmp_path / "a.png")
    assert main(["trace", str(tmp_path / "a.png"), "--out", str(tmp_path / "a.svg")]) == 0
    assert (tmp_path / "a.svg").read_text().count("<g ") == 1
    assert (tmp_path / "a.svg").read_text().count("<path ") == 2


@pytest.mark.parametrize(
    ("more", "words"),
    [
        (["--out", "x.png"], ".svg or .dxf"),
        (["--out", "x.svg", "--miss", "0"], "--miss must be more"),
        (["--out", "x.svg", "--mm-per-px", "nan"], "--mm-per-px must be more"),
    ],
)
def test_what_has_no_meaning_is_refused_in_a_line(
    picture: Path, more: list[str], words: str, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["trace", str(picture), *more]) == 2
    said = capsys.readouterr().err
    assert words in said
    assert said.count("\n") == 1


def test_a_blank_picture_is_said_to_be_blank(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    drawn(grain=0).save(tmp_path / "b.png")
    assert main(["trace", str(tmp_path / "b.png"), "--out", str(tmp_path / "b.svg")]) == 2
    assert "nothing is drawn here" in capsys.readouterr().err
    assert not (tmp_path / "b.svg").exists()

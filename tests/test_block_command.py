from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
import trimesh

from dimetron.cli import main
from dimetron.demo import can, project
from dimetron.document import edits
from dimetron.document.blocking import blocked, fit_of_block, outlined
from dimetron.document.container import load, save
from dimetron.document.model import Document, with_item
from dimetron.document.outline import with_outline
from dimetron.geometry.views import View
from dimetron.mesh.health import health
from dimetron.outlines.shapes import ellipse


@pytest.fixture(scope="module")
def can_file(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("block") / "can.dimetron"
    save(project.project("watering-can"), path)
    return path


@pytest.mark.parametrize("what", ["hull", "quads"])
def test_a_solid_lies_on_the_outlines_of_the_drawings(
    can_file: Path, tmp_path: Path, what: str, capsys: pytest.CaptureFixture[str]
) -> None:
    out = tmp_path / "can.obj"
    assert main(["block", str(can_file), "--out", str(out), "--what", what, "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    solid = trimesh.load_mesh(out, process=False)
    assert solid.is_watertight
    assert solid.volume == pytest.approx(told["volume_mm3"], rel=1e-3)
    # It holds the can, and is no larger than it is seen.
    assert solid.volume > (health(can.solid()).volume_mm3 or 0)
    assert solid.extents == pytest.approx([175, 415, 290], abs=4)
    assert [v["view"] for v in told["views"]] == ["front", "right", "top"]
    assert max(v["mean_mm"] for v in told["views"]) < 0.006 * 412 / 4
    assert max(v["max_mm"] for v in told["views"]) < 5


@pytest.mark.parametrize("what", ["hull", "quads"])
def test_openings_are_seen_through(
    can_file: Path, tmp_path: Path, what: str, capsys: pytest.CaptureFixture[str]
) -> None:
    doc = load(can_file).document
    # From the left, whose lines of sight are those of the right; and one that is not shown.
    doc, hole = with_outline(doc, ellipse((0, 90), (30, 30)), View.LEFT, "hole")
    doc, other = with_outline(doc, ellipse((0, 90), (40, 40)), View.FRONT, "other")
    solid, told = {}, {}
    for on in (False, True):
        doc = with_item(with_item(doc, hole, opening=on), other, opening=on, shown=False)
        path = tmp_path / f"{on}.dimetron"
        save(doc, path)
        out = tmp_path / f"{on}.obj"
        assert main(["block", str(path), "--out", str(out), "--what", what, "--json"]) == 0
        solid[on] = trimesh.load_mesh(out, process=False)
        told[on] = json.loads(capsys.readouterr().out)
    assert solid[True].is_watertight
    assert (solid[False].euler_number, solid[True].euler_number) == (2, 0)
    bored = solid[False].volume - solid[True].volume
    assert bored == pytest.approx(np.pi * 30**2 * 168, rel=0.03)
    # The border of the opening is looked at too.
    assert all(0 < view["max_mm"] < 5 for view in told[True]["views"])


def test_a_mesh_without_the_opening_misses_it(can_file: Path) -> None:
    doc, hole = with_outline(
        load(can_file).document, ellipse((0, 90), (30, 30)), View.RIGHT, "hole"
    )
    plain = outlined(doc)
    pierced = outlined(with_item(doc, hole, opening=True))
    whole = blocked(plain, quads=False)
    by_view = {one.drawing.view: one.miss.largest for one in fit_of_block(whole, pierced)}
    assert by_view[View.RIGHT] > 25 > by_view[View.FRONT]


def test_openings_that_leave_nothing_are_said(
    can_file: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    doc, all_of_it = with_outline(
        load(can_file).document, ellipse((0, 100), (900, 900)), View.FRONT, "all"
    )
    save(with_item(doc, all_of_it, opening=True), tmp_path / "none.dimetron")
    assert main(["block", str(tmp_path / "none.dimetron"), "--out", str(tmp_path / "x.obj")]) == 2
    assert "openings leave nothing" in capsys.readouterr().err


def test_it_is_put_into_a_project(can_file: Path, tmp_path: Path) -> None:
    out = tmp_path / "blocked.dimetron"
    assert main(["block", str(can_file), "--out", str(out)]) == 0
    assert [m.name for m in load(out).document.meshes][-1] == "block"


def test_what_leaves_the_depth_open_is_said(
    can_file: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    doc = load(can_file).document
    for drawing in doc.drawings[1:]:
        doc = with_item(doc, drawing.id, placed=False)
    for name, one, words in (
        ("one", doc, "depth open"),
        ("none", Document(), "no placed drawings"),
    ):
        path = tmp_path / f"{name}.dimetron"
        save(one if name == "one" else edits.with_mesh(one, can.solid(), "can")[0], path)
        assert main(["block", str(path), "--out", str(tmp_path / "x.obj")]) == 2
        assert words in capsys.readouterr().err
    assert not (tmp_path / "x.obj").exists()

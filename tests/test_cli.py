from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from dimetron.cli import main
from dimetron.demo import can
from dimetron.demo.sheet import DrawnSheet, SheetPlan, drawn_sheet
from dimetron.document.container import save
from dimetron.document.model import Document
from dimetron.geometry.views import View


@pytest.fixture
def project(tmp_path: Path, can_project: Document) -> Path:
    save(can_project, tmp_path / "can.dimetron")
    return tmp_path / "can.dimetron"


def test_info_tells_what_is_in_it(project: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["info", str(project), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert [d["view"] for d in told["drawings"]] == ["front", "right", "top"]
    assert told["drawings"][0]["mm_per_px"] == pytest.approx(0.2143)
    assert told["meshes"][0]["faces"] == 6
    assert main(["info", str(project)]) == 0
    assert "can front: front" in capsys.readouterr().out


def test_render_writes_the_view_at_the_size(project: Path, tmp_path: Path) -> None:
    out = tmp_path / "front.png"
    assert main(["render", str(project), "--view", "front", "--size", "320x200", str(out)]) == 0
    with Image.open(out) as picture:
        assert picture.size == (320, 200)
        assert np.asarray(picture).std() > 10


def test_demo_writes_a_project_and_export_reads_it(tmp_path: Path) -> None:
    project, out = tmp_path / "demo.dimetron", tmp_path / "can.glb"
    assert main(["demo", "watering-can", "--write", str(project)]) == 0
    assert main(["export", str(project), "--to", str(out), "--unit", "cm", "--up", "y"]) == 0
    assert out.read_bytes()[:4] == b"glTF"


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["info", "nowhere.dimetron"], "nowhere.dimetron does not exist"),
        (["nowhere.dimetron"], "no such project"),
        (["render", "x", "--view", "askew", "y.png"], "askew"),
        (["render", "x", "--view", "front", "--size", "0x5", "y.png"], "a side must be"),
        (["export", "x.dimetron"], "--to"),
        (["demo", "teapot"], "teapot"),
        (["demo", "teapot", "--write", "x"], "there is watering-can"),
    ],
)
def test_faults_leave_with_two_and_one_line(
    arguments: list[str], words: str, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(arguments) == 2
    told = capsys.readouterr()
    assert words in told.err
    assert told.err.count("\n") == 1
    assert told.out == ""


def test_an_export_that_fails_leaves_the_old_file(
    project: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out = tmp_path / "a.stl"
    out.write_text("old")
    assert main(["export", str(project), "--to", str(out), "--what", "meshes,planes"]) == 2
    assert out.read_text() == "old"
    assert "STL cannot carry drawings" in capsys.readouterr().err


@pytest.fixture(scope="module")
def sheet_file(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, SheetPlan, DrawnSheet]:
    plan = SheetPlan((View.FRONT, View.RIGHT, View.TOP), 0.26, "Watering can", dpi=120)
    drawn = drawn_sheet(plan, can.solid())
    path = tmp_path_factory.mktemp("sheets") / "can sheet.png"
    drawn.picture.save(path)
    return path, plan, drawn


def test_split_writes_each_view_and_tells_its_corners(
    sheet_file: tuple[Path, SheetPlan, DrawnSheet],
    tmp_path: Path,
    capsys: pytest.CaptureFixture[str],
) -> None:
    path, plan, drawn = sheet_file
    assert main(["split", str(path), "--out", str(tmp_path / "new" / "views"), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["straightened_deg"] == pytest.approx(plan.skew_deg, abs=0.05)
    assert [v["view"] for v in told["views"]] == ["front", "right", "top"]
    for view in told["views"]:
        true = drawn.corners[View(view["view"])]
        np.testing.assert_allclose(view["corners_px"], true, atol=6)
        with Image.open(tmp_path / "new" / "views" / view["file"]) as picture:
            w, h = picture.size
        sides = np.linalg.norm(np.diff(true[:3], axis=0), axis=1)
        np.testing.assert_allclose((w, h), sides, atol=9)


def test_split_of_what_cannot_be_split_is_one_line(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    blank = tmp_path / "blank.png"
    Image.new("L", (300, 200), 255).save(blank)
    missing = tmp_path / "missing.png"
    for path, words in ((blank, "no views"), (missing, "cannot be read"), (tmp_path, "folder")):
        assert main(["split", str(path), "--out", str(tmp_path / "out")]) == 2
        last = capsys.readouterr().err.strip().splitlines()[-1]
        assert words in last
    assert not (tmp_path / "out").exists()

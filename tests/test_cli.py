from __future__ import annotations

import json
import os
import subprocess
import sys
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh
from PIL import Image, ImageDraw

from dimetron.cli import main
from dimetron.demo import can
from dimetron.demo.plan import SheetPlan
from dimetron.demo.sheet import DrawnSheet, drawn_sheet
from dimetron.document.container import load, save
from dimetron.document.model import Document
from dimetron.geometry.views import View
from dimetron.imaging import memory
from dimetron.log import log_file


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


@pytest.mark.parametrize(("ending", "kind"), [("jpg", "JPEG"), ("webp", "WEBP"), ("tif", "TIFF")])
def test_render_writes_what_the_ending_says(
    project: Path, tmp_path: Path, ending: str, kind: str
) -> None:
    out = tmp_path / f"front.{ending}"
    assert main(["render", str(project), "--view", "front", "--size", "64x40", str(out)]) == 0
    with Image.open(out) as picture:
        assert (picture.format, picture.size) == (kind, (64, 40))


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (
            ["render", "{project}", "--view", "front", "a.xyz"],
            "a.xyz: choose a name ending in .png",
        ),
        (["render", "{project}", "--view", "3d", "--size", "16384x16384", "a.png"], "ask for less"),
        (["{project}", "{project}"], "one window opens one project"),
        (["{folder}/letter.txt"], "is no .dimetron project"),
        (["info", "{folder}/pipe"], "a device or a pipe"),
        (["split", "{folder}/pipe", "--out", "{folder}/o"], "a device or a pipe"),
        (["demo", "--write", "{folder}/pipe"], "a device or a pipe"),
        (["info", "{folder}/loop"], "symbolic links"),
        (["info", "{folder}/packed.dimetron"], "not a Dimetron project, or is damaged"),
    ],
)
def test_what_has_no_answer_is_one_line(
    project: Path,
    tmp_path: Path,
    capsys: pytest.CaptureFixture[str],
    monkeypatch: pytest.MonkeyPatch,
    arguments: list[str],
    words: str,
) -> None:
    os.mkfifo(tmp_path / "pipe")
    (tmp_path / "loop").symlink_to(tmp_path / "loop")
    (tmp_path / "letter.txt").write_text("Dear workshop")
    with zipfile.ZipFile(tmp_path / "packed.dimetron", "w", zipfile.ZIP_LZMA) as packed:
        packed.writestr("project.json", "{}" * 300)
    data = bytearray((tmp_path / "packed.dimetron").read_bytes())
    data[60:90] = bytes(30)
    (tmp_path / "packed.dimetron").write_bytes(bytes(data))
    monkeypatch.setattr(memory, "free", lambda: 4e9)
    monkeypatch.chdir(tmp_path)
    given = [a.format(project=project, folder=tmp_path) for a in arguments]
    assert main(given) == 2
    told = capsys.readouterr()
    assert words in told.err
    assert told.err.count("\n") == 1 and told.out == ""


def run(arguments: list[str], **how: object) -> subprocess.CompletedProcess[bytes]:
    command = [sys.executable, "-m", "dimetron", *arguments]
    return subprocess.run(command, stderr=subprocess.PIPE, check=False, **how)  # type: ignore[call-overload]


def test_a_full_a_closed_and_an_ascii_output(project: Path) -> None:
    with Path("/dev/full").open("wb") as full:
        done = run(["info", str(project), "--json"], stdout=full)
    assert done.returncode == 2
    assert done.stderr == b"dimetron: the result could not be written: No space left on device\n"
    closed = run(["info", str(project)], preexec_fn=lambda: os.close(1))
    assert closed.returncode == 2 and closed.stderr.count(b"\n") == 1
    reading, writing = os.pipe()
    os.close(reading)
    with os.fdopen(writing, "wb") as broken:
        done = run(["info", str(project), "--json"], stdout=broken)
    assert done.returncode == 2 and b"closed before" in done.stderr
    env = {**os.environ, "PYTHONIOENCODING": "ascii"}
    plain = run(["info", str(project)], stdout=subprocess.PIPE, env=env)
    assert plain.returncode == 0 and rb"\xd7" in plain.stdout and plain.stderr == b""
    told = run(["info", str(project), "--json"], stdout=subprocess.PIPE, env=env)
    assert json.loads(told.stdout)["drawings"]


def boxed(path: Path) -> Path:
    """A drawing of a box."""
    picture = Image.new("L", (200, 120), 250)
    ImageDraw.Draw(picture).rectangle((30, 20, 160, 90), outline=10, width=3)
    picture.save(path)
    return path


def test_a_file_name_that_is_no_text_is_taken(tmp_path: Path) -> None:
    odd = tmp_path / os.fsdecode(b"f\xff front.png")
    boxed(tmp_path / "plain.png").rename(odd)
    project = tmp_path / "x.dimetron"
    done = run(
        ["register", "--drawing", f"front={odd}", "--out", str(project), "--json"],
        stdout=subprocess.PIPE,
    )
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout)["drawings"][0]["file"] == odd.name
    assert load(project).document.drawings[0].name == "f? front"
    out = tmp_path / os.fsdecode(b"o\xff.obj")
    exported = run(["export", str(project), "--to", str(out), "--what", "planes"])
    assert exported.returncode == 0, exported.stderr
    assert out.exists()


def test_a_script_is_told_no_progress(project: Path, tmp_path: Path) -> None:
    done = run(["demo", "watering-can", "--write", str(tmp_path / "d.dimetron")])
    assert (done.returncode, done.stderr) == (0, b"")


def test_marks_that_cannot_be_solved_are_one_line(
    monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str], tmp_path: Path
) -> None:
    from dimetron import register_command

    def singular(*_: object) -> object:
        raise np.linalg.LinAlgError("Singular matrix")

    monkeypatch.setattr(register_command, "solve", singular)
    drawing = boxed(tmp_path / "a.png")
    assert main(["register", "--drawing", f"front={drawing}"]) == 2
    assert "contradict each other too much" in capsys.readouterr().err


def test_what_nobody_foresaw_is_one_line_and_logged(
    project: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    from dimetron.document import describe

    def broken(_: object) -> object:
        raise KeyError("surprise")

    monkeypatch.setattr(describe, "described", broken)
    assert main(["info", str(project)]) == 2
    err = capsys.readouterr().err
    assert "surprise" in err and err.count("\n") == 1
    assert "surprise" in log_file().read_text("utf-8")


def test_no_display_is_told_in_one_line() -> None:
    gone = ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    env = {k: v for k, v in os.environ.items() if k not in gone}
    for more, words in (({}, b"neither DISPLAY nor"), ({"DISPLAY": ":4711"}, b":4711 cannot be")):
        done = run([], env={**env, **more}, timeout=60)
        assert done.returncode == 2
        assert words in done.stderr and done.stderr.count(b"\n") == 1


def test_bring_takes_pictures_and_meshes_into_a_project(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    project = tmp_path / "p.dimetron"
    (tmp_path / "a.obj").write_text("v 0 0 0\nv 1 0 0\nv 0 2 3\nf 1 2 3\nf 1 2 9\n")
    Image.new("L", (40, 30), 255).save(tmp_path / "front.png")
    given = [str(project), str(tmp_path / "a.obj"), str(tmp_path / "front.png")]
    assert main(["bring", *given, "--unit", "cm", "--up", "y", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["sheets"] == [{"file": "front.png", "size_px": [40, 30]}]
    (mesh,) = told["meshes"]
    assert (mesh["name"], mesh["vertices"], mesh["faces"]) == ("a", 3, 1)
    assert mesh["size_mm"] == [10, 30, 20]
    assert "does not exist" in mesh["odd"][0]
    # Into another project; a file that cannot be taken leaves it as it was.
    other = tmp_path / "q.dimetron"
    assert main(["bring", str(project), str(tmp_path / "a.obj"), "--out", str(other)]) == 0
    assert len(load(other).document.meshes) == 2
    assert len(load(project).document.meshes) == 1
    before = other.read_bytes()
    capsys.readouterr()
    (tmp_path / "b.stl").write_bytes(b"nothing")
    assert main(["bring", str(other), str(tmp_path / "a.obj"), str(tmp_path / "b.stl")]) == 2
    assert capsys.readouterr().err.strip().startswith("dimetron: b.stl is cut short")
    assert other.read_bytes() == before


def test_mesh_reads_changes_writes_and_tells(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    corners = "\n".join(f"v {x} {y} {z}" for x in (0, 1) for y in (0, 2) for z in (0, 3))
    faces = "f 1 2 4 3\nf 5 7 8 6\nf 1 5 6 2\nf 3 4 8 7\nf 1 3 7 5\nf 2 6 8 4\n"
    (tmp_path / "a.obj").write_text(f"{corners}\n{faces}")
    given = ["mesh", str(tmp_path / "a.obj"), "--out", str(tmp_path / "a.glb")]
    assert main([*given, "--do", "triangulate", "--do", "mirror=x", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert (told["vertices"], told["faces"], told["closed"]) == (8, 12, True)
    assert told["volume_mm3"] == pytest.approx(6)
    # GLB is written in metres with Y up, and read so again; STL in millimetres.
    back = ["mesh", str(tmp_path / "a.glb"), "--out", str(tmp_path / "a.stl")]
    assert main([*back, "--do", "weld=0.001", "--do", "flip"]) == 0
    assert "12 faces the wrong way round" in capsys.readouterr().out
    loaded = trimesh.load_mesh(tmp_path / "a.stl")
    assert np.allclose(loaded.bounds, [[-1, 0, 0], [0, 2, 3]], atol=1e-5)
    for bad in ("blend=1", "weld=x", "weld=-1", "mirror=w", "flip=2"):
        assert main([*given, "--do", bad]) == 2
        assert capsys.readouterr().err.count("\n") == 1
    assert main([*given[:3], str(tmp_path / "a.xyz")]) == 2


def test_mesh_does_any_operation_to_what_is_selected(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    (tmp_path / "a.obj").write_text(
        "".join(f"v {x} {y} {z}\n" for x in (0, 1) for y in (0, 2) for z in (0, 3))
        + "f 1 2 4 3\nf 5 7 8 6\nf 1 5 6 2\nf 3 4 8 7\nf 1 3 7 5\nf 2 6 8 4\n"
    )
    given = ["mesh", str(tmp_path / "a.obj"), "--out", str(tmp_path / "b.obj"), "--json"]

    def done(*operations: str) -> dict[str, Any]:
        do = [word for o in operations for word in ("--do", o)]
        assert main([*given, *do]) == 0, capsys.readouterr().err
        told: dict[str, Any] = json.loads(capsys.readouterr().out)
        return told

    up = ("select=faces:facing=+z", "extrude=5")
    told = done(*up)
    assert (told["vertices"], told["faces"], told["closed"]) == (12, 10, True)
    assert told["volume_mm3"] == pytest.approx(1 * 2 * 8)
    # The face stays selected: once more, in another unit and along an axis.
    assert done(*up, "extrude=1 cm,along=z")["volume_mm3"] == pytest.approx(36)
    assert done("select=faces:facing=-x", "delete")["open_edges"] == 4
    assert done("select=edges:sharp=80", "subdivide=2")["faces"] == 96
    assert done("select=faces:facing=+y", "triangulate", "select=all", "flip")["faces"] == 7
    for bad, words in (
        ("select=faces:facing=up", "needs a direction"),
        ("select=walls", "selects nothing; write one of all, none"),
        ("extrude", "“extrude” needs a value: extrude=MM[,along=out|x|y|z]"),
        ("extrude=5,z", "“z” in “extrude=5,z” needs a name"),
        ("extrude=5,far=2", "“extrude” has no far"),
        ("extrude=5,along=up", "is written extrude=MM"),
        ("subdivide=99", "levels must be between 1 and 6"),
        ("subdivide=two", "needs a number, and “two” is none"),
    ):
        assert main([*given, "--do", bad]) == 2
        told_err = capsys.readouterr().err
        assert words in told_err and told_err.count("\n") == 1
    with pytest.raises(SystemExit):
        main(["mesh", "--help"])
    helped = capsys.readouterr().out
    assert "weld=MM" in helped and "Push faces out" in helped and "select=WHAT" in helped

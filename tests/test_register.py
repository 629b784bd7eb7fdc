"""``dimetron register``, against the watering can's truth."""

from __future__ import annotations

import json
import re
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageOps

from dimetron.cli import main
from dimetron.demo import can
from dimetron.document import registering
from dimetron.document.container import load, save
from dimetron.document.model import Document
from dimetron.registration.problem import Length


@pytest.fixture
def files(tmp_path: Path, can_project: Document) -> list[str]:
    """The can's three drawings as files, and the arguments that name them."""
    given = []
    for drawing in can_project.drawings:
        source = can_project.source(can_project.sheet(drawing.sheet).source)
        path = tmp_path / f"{drawing.view.key}.{source.extension}"
        assert source.data is not None
        path.write_bytes(source.data)
        given += ["--drawing", f"{drawing.view.key}={path}"]
    return given


def marks_of(doc: Document, points: dict[str, tuple[float, float, float]]) -> str:
    rows = ["landmark,view,x_px,y_px"]
    for name, at in points.items():
        for drawing in doc.drawings:
            x, y = drawing.placement.to_px(drawing.view.to_plane(np.array(at)))
            rows.append(f'"{name}",{drawing.view.key},{x},{y}')
    return "\n".join(rows) + "\n"


#: Corners of the can's body and some more, so that scale and turn are well told.
MORE = {"a": (60.0, 10.0, 20.0), "b": (-40.0, -200.0, 210.0), "c": (5.0, 120.0, 150.0),
        "d": (0.0, -60.0, 100.0), "e": (30.0, 40.0, 280.0)}  # fmt: skip


def test_marks_and_a_length_give_placements_and_a_project(
    files: list[str], tmp_path: Path, can_project: Document, capsys: pytest.CaptureFixture[str]
) -> None:
    points = {**can.landmarks(), **MORE}
    (tmp_path / "m.csv").write_text(marks_of(can_project, points), "utf-8")
    long = float(np.linalg.norm(np.subtract(points["b"], points["c"])))
    out = tmp_path / "can.dimetron"
    asked = [*files, "--marks", str(tmp_path / "m.csv"), "--length", f"b,c={long} mm"]
    assert main(["register", *asked, "--out", str(out), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["unit"] == "mm" and told["problems"] == [] and told["suspects"] == []
    assert told["rms_px"] < 1e-3
    for drawing, answer in zip(can_project.drawings, told["drawings"], strict=True):
        assert answer["view"] == drawing.view.key
        assert answer["mm_per_px"] == pytest.approx(drawing.placement.mm_per_px, rel=1e-5)
        assert answer["rotation_deg"] == pytest.approx(0, abs=1e-3)
        assert not answer["mirrored"]
    found = {m["name"]: m["xyz_mm"] for m in told["landmarks"]}
    assert found["b"][1] - found["c"][1] == pytest.approx(-320.0, abs=0.05)
    saved = load(out).document
    a, b = (d.placement for d in (saved.drawings[0], can_project.drawings[0]))
    assert a.mm_per_px == pytest.approx(b.mm_per_px, rel=1e-5)
    assert main(["register", *asked]) == 0
    assert "mismatch 0.00 mm" in capsys.readouterr().out
    # A project that keeps its marks is solved again.
    assert main(["register", str(out)]) == 2
    assert "nothing is marked in this project" in capsys.readouterr().err
    doc = saved
    for name, at in points.items():
        for drawing in can_project.drawings:
            (mine,) = (d for d in doc.drawings if d.view is drawing.view)
            x, y = drawing.placement.to_px(drawing.view.to_plane(np.array(at)))
            doc = registering.marked(doc, name, mine.id, (float(x), float(y)))
    doc = registering.with_length(doc, Length("b", "c", long))
    save(doc, out)
    assert main(["register", str(out), "--json"]) == 0
    again = json.loads(capsys.readouterr().out)
    assert again["rms_px"] < 1e-3
    assert [d["view"] for d in again["drawings"]] == ["front", "right", "top"]


def test_from_ink_alone_the_drawings_are_registered_and_what_does_not_fit_is_said(
    files: list[str], can_project: Document, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["register", *files, "--extent", "depth=412 mm", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["landmarks"] == [] and told["confidence"] > 0.9
    # The plan was drawn 3 mm of 412 too long.
    (words,) = told["problems"]
    said = re.search(r"do not fit together by ([\d.]+)%.*top had \1% too much depth", words)
    assert said is not None and float(said[1]) == pytest.approx(100 * 3 / 412, abs=0.25)
    for drawing, answer in zip(can_project.drawings, told["drawings"], strict=True):
        # The three have to share what the plan is too long.
        true = drawing.placement.mm_per_px
        assert answer["mm_per_px"] == pytest.approx(true, rel=0.009)
        assert answer["looks_like"] == answer["view"] and not answer["mirrored"]


def test_from_ink_alone_a_mirrored_drawing_is_recognised(
    files: list[str], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    side = tmp_path / "right.jpg"
    with Image.open(side) as picture:
        flipped = ImageOps.mirror(picture)
    flipped.save(side, quality=92)
    out = tmp_path / "can.dimetron"
    asked = [*files, "--extent", "depth=412 mm", "--out", str(out)]
    assert main(["register", *asked, "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert [d["mirrored"] for d in told["drawings"]] == [False, True, False]
    assert "right is mirrored" in told["problems"]
    assert [d.placement.mirrored for d in load(out).document.drawings] == [False, True, False]
    assert main(["register", *files]) == 0
    assert ", mirrored" in capsys.readouterr().out


def test_a_drawing_under_the_wrong_name_is_put_where_it_belongs(
    files: list[str], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    wrong = [f.replace("front=", "x=").replace("right=", "front=") for f in files]
    wrong = [f.replace("x=", "right=") for f in wrong]
    out = tmp_path / "can.dimetron"
    assert main(["register", *wrong, "--out", str(out), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert [d["looks_like"] for d in told["drawings"]] == ["front", "right", "top"]
    assert [d.view.key for d in load(out).document.drawings] == ["front", "right", "top"]


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        ([], "give the drawings"),
        (["--drawing", "side=a.png"], "is not VIEW=FILE"),
        (["--drawing", "front=a.png", "--drawing", "front=b.png"], "two drawings for front"),
        (["--drawing", "front=gone.png"], "gone.png"),
        (["x.dimetron", "--length", "a,b=1"], "brings its own drawings and marks"),
        (["gone.dimetron"], "gone.dimetron"),
    ],
)
def test_what_is_wrong_is_one_line_and_two(
    arguments: list[str], words: str, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["register", *arguments]) == 2
    said = capsys.readouterr().err.strip().splitlines()
    assert words in said[-1]


@pytest.mark.parametrize(
    ("more", "words"),
    [
        (["--length", "a=412 mm"], "is not A,B=LENGTH"),
        (["--length", "a,b=412 kg"], "cannot be read"),
        (["--extent", "girth=412"], "is not an extent"),
        (["--extent", "width=0"], "more than zero"),
        (["--length", "nose,chin=412 mm"], "so it needs --marks"),
    ],
)
def test_lengths_and_extents_that_have_no_meaning_are_refused(
    files: list[str], more: list[str], words: str, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["register", *files, *more]) == 2
    assert words in capsys.readouterr().err.strip().splitlines()[-1]


def test_marks_that_were_exchanged_are_told(
    files: list[str], tmp_path: Path, can_project: Document, capsys: pytest.CaptureFixture[str]
) -> None:
    points = {**can.landmarks(), **MORE}
    rows = marks_of(can_project, points).splitlines()
    first = next(k for k, row in enumerate(rows) if row.startswith('"a",right'))
    second = next(k for k, row in enumerate(rows) if row.startswith('"e",right'))
    rows[first], rows[second] = (
        rows[second].replace('"e"', '"a"'),
        rows[first].replace('"a"', '"e"'),
    )
    (tmp_path / "m.csv").write_text("\n".join(rows) + "\n", "utf-8")
    asked = [*files, "--marks", str(tmp_path / "m.csv"), "--length", "b,c=327 mm"]
    assert main(["register", *asked, "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert "a and e seem to be exchanged in right" in told["problems"]

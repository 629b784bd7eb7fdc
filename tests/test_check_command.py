"""``dimetron check`` against meshes that are right, and wrong in known ways."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from dimetron.cli import main
from dimetron.demo import can, project
from dimetron.document import edits
from dimetron.document.container import load, save
from dimetron.document.model import Document, with_item
from dimetron.document.outline import with_outline
from dimetron.document.serial import from_json, parsed, to_json
from dimetron.geometry.views import View
from dimetron.mesh.mesh import Mesh
from dimetron.outlines.shapes import rectangle

_EXTENT = 412.0


@pytest.fixture(scope="module")
def bare() -> Document:
    """The can's drawings, but for the top view, which is drawn too long, and no mesh."""
    doc = replace(project.project("watering-can"), meshes=())
    return with_item(doc, doc.drawings[2].id, shown=False)


def told(
    doc: Document, mesh: Mesh, folder: Path, capsys: pytest.CaptureFixture[str]
) -> dict[str, Any]:
    path = folder / "x.dimetron"
    save(edits.with_mesh(doc, mesh, "can")[0], path)
    assert main(["check", str(path), "--json"]) == 0
    answer: dict[str, Any] = json.loads(capsys.readouterr().out)
    return answer


def by_view(answer: dict[str, Any]) -> dict[str, dict[str, Any]]:
    return {view["view"]: view for view in answer["views"]}


def test_the_right_mesh_and_wrong_ones(
    bare: Document, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    solid = can.solid()
    right = told(bare, solid, tmp_path, capsys)
    assert right["problems"] == []
    assert [m["name"] for m in right["meshes"]] == ["can"]
    assert right["meshes"][0]["closed"] is True
    for view in by_view(right).values():
        assert view["mean_mm"] < 0.0005 * _EXTENT
        assert view["max_mm"] < 0.0025 * _EXTENT
        assert view["overlap"] > 0.997
    lifted = told(
        bare, solid.with_positions(solid.positions + np.array([0, 0, 3.0])), tmp_path, capsys
    )
    for view in by_view(lifted).values():
        assert view["max_mm"] == pytest.approx(3.0, abs=0.0025 * _EXTENT)
        assert view["over_mm2"] > 100 and view["under_mm2"] > 100
    larger = by_view(told(bare, solid.with_positions(solid.positions * 1.02), tmp_path, capsys))
    # The spout's end lies farthest from the origin.
    far = np.abs(np.array(larger["right"]["at_mm"]) / 1.02 - [0, -206, 240])
    assert far.max() < 60
    assert larger["right"]["over_mm2"] > 5 * larger["right"]["under_mm2"]


def test_a_part_that_is_missing(
    bare: Document, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    solid = can.solid()
    cut = by_view(told(bare, _without_the_spout(solid), tmp_path, capsys))["right"]
    assert cut["max_mm"] > 80
    assert cut["under_mm2"] > 4000
    assert cut["overlap"] < 0.95


def _without_the_spout(solid: Mesh) -> Mesh:
    from dimetron.mesh.operation import by_name

    return by_name("cut")(solid, axis="y", at=-90.0).mesh


def test_what_counts_of_a_drawing_is_kept_and_asked_for(
    bare: Document, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    doc = with_item(bare, bare.drawings[1].id, shown=False)
    front = doc.drawings[0]
    doc = with_item(doc, front.id, fit_by="outlines")
    solid = can.solid()
    path = tmp_path / "x.dimetron"
    save(edits.with_mesh(doc, solid, "can")[0], path)
    assert load(path).document.drawings[0].fit_by == "outlines"
    assert main(["check", str(path)]) == 2
    assert "no closed outline is traced" in capsys.readouterr().err
    other, _ = with_outline(doc, rectangle((0, 0), (50, 50)), View.RIGHT, "other")
    save(edits.with_mesh(other, solid, "can")[0], path)
    assert main(["check", str(path)]) == 2
    assert "no closed outline is traced" in capsys.readouterr().err
    low, high = solid.bounds[0, [0, 2]], solid.bounds[1, [0, 2]]
    doc, _ = with_outline(doc, rectangle(low, high), View.FRONT, "round", drawing=front.id)
    boxed = told(doc, solid, tmp_path, capsys)["views"][0]
    assert boxed["max_mm"] > 20
    assert boxed["over_mm2"] == pytest.approx(0, abs=1)
    # Leave out what is above the body.
    place = front.placement
    part = np.array([[-300, 195], [300, 195], [300, 900], [-300, 900]])
    px = tuple(map(tuple, place.to_px(part).tolist()))
    doc = with_item(doc, front.id, left_out=(px,))
    less = told(doc, solid, tmp_path, capsys)["views"][0]
    assert less["max_mm"] < boxed["max_mm"]
    assert load(tmp_path / "x.dimetron").document.drawings[0].left_out == (px,)


def test_a_project_of_format_11_goes_by_all_ink(bare: Document) -> None:
    front = bare.drawings[0].id
    doc = with_item(
        bare, front, fit_by="outlines", left_out=(((0.0, 0.0), (9.0, 0.0), (0.0, 9.0)),)
    )
    tree = to_json(doc)
    tree["version"] = 11
    for drawing in tree["drawings"]:
        del drawing["fit_by"], drawing["left_out"]
    sources = {s.id: s.data for s in doc.sources}
    read = from_json(parsed(json.dumps(tree).encode(), "old"), sources, {}, "old")
    assert read.drawing(front) == bare.drawing(front)


def test_what_cannot_be_compared_is_said(
    bare: Document, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "x.dimetron"
    solid = edits.with_mesh(bare, can.solid(), "can")[0]
    hidden = with_item(solid, solid.meshes[0].id, shown=False)
    for doc, words in (
        (replace(bare, drawings=()), "place one first"),
        (bare, "no mesh with faces"),
        (hidden, "no mesh with faces"),
    ):
        save(doc, path)
        assert main(["check", str(path)]) == 2
        err = capsys.readouterr().err
        assert words in err and err.count("\n") == 1
    lost = tmp_path / "none.dimetron"
    assert main(["check", str(lost)]) == 2
    # A drawing of which nothing can be told does not keep the others from being looked at.
    one = with_item(solid, solid.drawings[0].id, fit_by="outlines")
    save(one, path)
    assert main(["check", str(path)]) == 0
    out, err = capsys.readouterr()
    assert "can side" in out and "can front" not in out
    assert "can front: no closed outline" in err

"""The set-up as a kit, read again by others."""

from __future__ import annotations

import csv
import io
import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pypdfium2
import pytest
import trimesh
from PIL import Image

from dimetron.cli import main
from dimetron.demo import project
from dimetron.document import edits
from dimetron.document.atomic import WriteError
from dimetron.document.checks import with_extent_check, with_note
from dimetron.document.container import save
from dimetron.document.model import Document, with_item
from dimetron.document.outline import with_outline
from dimetron.document.registering import marked
from dimetron.document.reporting import in_lines, report_told
from dimetron.formats.handover import ExportError
from dimetron.formats.kit.kit import kit_of, write_kit
from dimetron.formats.report.pages import report_of
from dimetron.geometry.views import View
from dimetron.mesh.primitives import box
from dimetron.outlines.shapes import rectangle
from dimetron.registration.problem import Landmark


@pytest.fixture(scope="module")
def doc() -> Document:
    made = project.project("watering-can")
    front = made.drawings[0]
    turned = replace(front.placement, mirrored=True, rotation_deg=7.0)
    made = with_item(made, front.id, placement=turned, name="can / front: “ä”")
    made, _ = with_outline(made, rectangle((0, 0), (50, 60)), View.FRONT, "foot")
    made, _ = with_extent_check(made, 2)
    return with_note(made, "assumed", None, np.zeros(3))[0]


@pytest.fixture(scope="module")
def kit(doc: Document) -> dict[str, bytes]:
    return kit_of(doc, "can")


def test_the_report_tells_of_inner_lines(kit: dict[str, bytes]) -> None:
    told = json.loads(kit["report.json"])["views"]
    assert all(0 < view["inner_mean_mm"] <= view["inner_max_mm"] for view in told)
    assert b"inner lines" in kit["report.txt"]


def test_the_report_tells_how_well_the_drawings_agree(doc: Document) -> None:
    places = {"rim": (0, -85, 190), "foot": (0, 85, 10), "side": (60, 0, 120), "knob": (20, 40, 60)}
    marks = doc
    for number, (name, at) in enumerate(places.items()):
        marks = replace(marks, landmarks=(*marks.landmarks, Landmark(name)))
        for drawing in marks.drawings[: 2 if number else 3]:
            x, y = drawing.placement.to_px(drawing.view.to_plane(np.array(at, float)))
            marks = marked(marks, name, drawing.id, (float(x) + number, float(y)))
    told = report_told(marks, ())["mismatch"]
    assert [row["marks"] for row in told["drawings"]] == [4, 4, 1]
    assert [row["drawing"] for row in told["drawings"]] == [d.name for d in doc.drawings]
    rms = np.array([row["rms_mm"] for row in told["drawings"]])
    count = np.array([4, 4, 1])
    assert np.sqrt((rms**2 * count).sum() / 9) == pytest.approx(told["rms_mm"], abs=0.01)
    lines = in_lines(report_told(marks, ()))
    assert any(line.startswith("All drawings: marks miss by") for line in lines)
    assert report_told(doc, ())["mismatch"] is None


def rows_of(kit: dict[str, bytes]) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(kit["placement.csv"].decode())))


def test_pictures_print_at_true_size_and_say_where_they_came_from(
    doc: Document, kit: dict[str, bytes]
) -> None:
    rows = rows_of(kit)
    assert len(rows) == 3
    assert rows[0]["file"] == "drawings/can-front.png"
    for row, drawing in zip(rows, doc.drawings, strict=True):
        picture = Image.open(io.BytesIO(kit[row["file"]]))
        w, h = (n / d * 25.4 for n, d in zip(picture.size, picture.info["dpi"], strict=True))
        assert (w, h) == pytest.approx(drawing.placement.size_mm(picture.size), rel=1e-3)
        assert (w, h) == pytest.approx((float(row["width_mm"]), float(row["height_mm"])), rel=1e-3)
        assert picture.text["Source"] == row["source"] != ""  # type: ignore[attr-defined]


def test_the_table_puts_every_pixel_where_the_project_has_it(
    doc: Document, kit: dict[str, bytes]
) -> None:
    """Middle, size and axes alone, of the pictures as they are in the kit."""
    for row, drawing in zip(rows_of(kit), doc.drawings, strict=True):
        picture = Image.open(io.BytesIO(kit[row["file"]]))
        centre, right, up = (
            np.array([float(row[f"{name}_{axis}"]) for axis in "xyz"])
            for name in ("centre", "right", "up")
        )
        assert np.cross(right, up) == pytest.approx(-drawing.view.directions.forward, abs=1e-6)
        px = np.array([[0.0, 0], [100, 30], [picture.width, picture.height]])
        across = (px[:, :1] / picture.width - 0.5) * float(row["width_mm"])
        down = (px[:, 1:] / picture.height - 0.5) * float(row["height_mm"])
        here = centre + across * right - down * up
        own = px.copy()
        if drawing.placement.mirrored:
            own[:, 0] = picture.width - px[:, 0]
        plane = drawing.placement.to_plane(own)
        assert drawing.view.to_plane(here) == pytest.approx(plane, abs=1e-3)
    table = json.loads(kit["placement.json"])
    assert [row["drawing"] for row in table["drawings"]] == [d.name for d in doc.drawings]
    assert (table["unit"], table["up"]) == ("mm", "z")


def test_meshes_planes_and_outlines_are_read_by_others(kit: dict[str, bytes]) -> None:
    glb = trimesh.load(io.BytesIO(kit["meshes.glb"]), file_type="glb")
    assert glb.extents == pytest.approx([0.168, 0.190, 0.168], rel=1e-3)
    planes = trimesh.load(io.BytesIO(kit["planes.glb"]), file_type="glb")
    assert len(planes.geometry) == 3
    obj = trimesh.load(io.BytesIO(kit["meshes.obj"]), file_type="obj")
    assert obj.extents == pytest.approx([168, 168, 190], rel=1e-3)
    assert kit["outlines.svg"].startswith(b"<?xml") or b"<svg" in kit["outlines.svg"]
    assert b"SECTION" in kit["outlines.dxf"]


def test_it_says_what_is_in_it_and_what_was_checked(kit: dict[str, bytes]) -> None:
    words = kit["README.txt"].decode()
    for name in kit.keys() - {"README.txt"}:
        assert name.partition("/")[0] in words or name.startswith("planes-drawing")
    report = json.loads(kit["report.json"])
    assert [view["view"] for view in report["views"]] == ["front", "right", "top"]
    assert report["sizes"][0]["holds"] is True
    assert report["notes"][0]["text"] == "assumed"
    text = kit["report.txt"].decode()
    assert "height: 190.00 mm, wanted 190 mm: holds" in text and "Note: assumed" in text


def test_the_report_has_figures_and_a_page_for_each_drawing(
    doc: Document, kit: dict[str, bytes]
) -> None:
    pdf = pypdfium2.PdfDocument(kit["report.pdf"])
    assert len(pdf) == 4
    words = pdf[0].get_textpage().get_text_range()
    report = json.loads(kit["report.json"])
    for view in report["views"]:
        assert f"{view['mean_mm']:.2f} mm" in words and f"{view['max_mm']:.2f} mm" in words
    assert "height (height of all meshes): 190.00 mm, wanted 190 ± 0.5 mm: holds" in words
    assert "assumed (all)" in words
    side = pdf[2].get_textpage().get_text_range()
    assert side.startswith("Right: can side")
    # The drawing lies where its figures are measured: the ink is under the page's own scale.
    scale = float(side.partition("1 : ")[2].partition(";")[0])
    picture = pdf[2].render(scale=2).to_numpy()
    drawn = picture[..., :3].astype(int).sum(axis=2) < 760
    width = np.ptp(np.flatnonzero(drawn[300:600].any(axis=0))) / 2 * 25.4 / 72
    drawing = doc.drawings[1]
    assert width * scale == pytest.approx(
        drawing.placement.size_mm(doc.size_px(drawing))[0], rel=0.02
    )


def test_a_report_without_drawings_or_meshes_says_so(doc: Document) -> None:
    pdf = pypdfium2.PdfDocument(report_of(replace(doc, meshes=()), "can"))
    assert len(pdf) == 1
    assert "Nothing could be compared" in pdf[0].get_textpage().get_text_range()
    many = replace(doc, meshes=())
    for number in range(70):
        many, _ = with_note(many, f"note {number} " + "and so on " * 30, None, np.zeros(3))
    assert len(pypdfium2.PdfDocument(report_of(many, "can"))) == 2


def test_a_project_of_meshes_or_of_drawings_alone(doc: Document) -> None:
    drawings = kit_of(replace(doc, meshes=(), further=()), "x")
    assert "planes.glb" in drawings and "meshes.glb" not in drawings
    assert "outlines.svg" not in drawings
    bare, _ = edits.with_mesh(Document(), box((0, 0, 0), (1, 1, 1)), "cube")
    meshes = kit_of(bare, "x")
    assert "meshes.obj" in meshes and "planes.obj" not in meshes
    with pytest.raises(ExportError, match="nothing to hand on"):
        kit_of(Document(), "x")


def test_it_goes_into_a_folder_of_its_own(kit: dict[str, bytes], tmp_path: Path) -> None:
    folder = tmp_path / "a b" / "kit"
    write_kit(kit, folder)
    there = {str(p.relative_to(folder)) for p in folder.rglob("*") if p.is_file()}
    assert there == set(kit)
    write_kit({**kit, "report.txt": b"again"}, folder)
    assert (folder / "report.txt").read_bytes() == b"again"
    other = tmp_path / "mine"
    other.mkdir()
    (other / "precious.txt").write_text("mine")
    with pytest.raises(ExportError, match="holds other things"):
        write_kit(kit, other)
    assert [p.name for p in other.iterdir()] == ["precious.txt"]
    file = tmp_path / "file"
    file.write_text("x")
    with pytest.raises(ExportError, match="choose a folder"):
        write_kit(kit, file)
    with pytest.raises(WriteError, match="cannot be made"):
        write_kit(kit, file / "below")


def test_by_the_command_line(
    doc: Document, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path, out = tmp_path / "can.dimetron", tmp_path / "kit"
    save(doc, path)
    assert main(["package", str(path), "--out", str(out)]) == 0
    assert str(out / "README.txt") in capsys.readouterr().out
    assert (out / "drawings" / "can-side.png").exists()
    save(Document(), path)
    assert main(["package", str(path), "--out", str(tmp_path / "none")]) == 2
    assert "nothing to hand on" in capsys.readouterr().err
    assert not (tmp_path / "none").exists()

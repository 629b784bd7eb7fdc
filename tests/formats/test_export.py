from __future__ import annotations

import zipfile
from pathlib import Path

import numpy as np
import pytest
import trimesh
from PIL import Image

from dimetron.document import edits
from dimetron.document.edits import bounds, with_mesh
from dimetron.document.model import Document, Smoothing
from dimetron.formats.curves.reading import read_curves
from dimetron.formats.export import export
from dimetron.formats.format import Carries, writers
from dimetron.formats.handover import ExportError
from dimetron.formats.reading import read_meshes
from dimetron.mesh.health import health
from dimetron.mesh.layers import COLOUR, Layer, On
from dimetron.mesh.primitives import box

OF_MESHES = [kind for kind, found in writers().items() if Carries.MESHES in found.carries]
LOW, HIGH = (-10.0, -20.0, 0.0), (30.0, 40.0, 50.8)


def with_box() -> Document:
    doc, _ = with_mesh(Document(), box(LOW, HIGH), "main body")
    return with_mesh(doc, box((100, 0, 0), (101, 1, 1)), "lid")[0]


# Of 3MF there is no other reader here; ours is tested on files that others wrote.
@pytest.mark.parametrize("kind", [kind for kind in OF_MESHES if kind != "3mf"])
@pytest.mark.parametrize("unit", ["mm", "in"])
@pytest.mark.parametrize("up", ["z", "y"])
def test_meshes_are_read_again_by_another_reader(
    tmp_path: Path, kind: str, unit: str, up: str
) -> None:
    path = tmp_path / f"box.{kind}"
    assert export(with_box(), path, unit=unit, up=up)[-1] == path
    read = trimesh.load(path)
    scale = 25.4 if unit == "in" else 1.0
    low, high = read.bounds * scale
    expected = np.array([(-10, -20, 0), (101, 40, 50.8)], float)
    if up == "y":
        expected = np.array([(-10, 0, -40), (101, 50.8, 20)], float)
    assert np.allclose([low, high], expected, atol=1e-4)
    solid = read.to_mesh() if isinstance(read, trimesh.Scene) else read
    assert solid.volume * scale**3 == pytest.approx(40 * 60 * 50.8 + 1, rel=1e-4)


@pytest.mark.parametrize("kind", OF_MESHES)
def test_what_is_written_comes_in_again(tmp_path: Path, kind: str) -> None:
    export(with_box(), tmp_path / f"a.{kind}", unit="in")
    read = read_meshes(tmp_path / f"a.{kind}", unit=None if kind == "3mf" else "in", up="z")
    assert read.odd == ()
    assert read.unit == "in"
    low, high = (np.array([p.mesh.bounds[k] for p in read.parts]) for k in (0, 1))
    assert np.allclose(low.min(axis=0), (-10, -20, 0), atol=1e-4)
    assert np.allclose(high.max(axis=0), (101, 40, 50.8), atol=1e-4)
    found = [health(part.mesh) for part in read.parts]
    assert sum(h.volume_mm3 for h in found) == pytest.approx(40 * 60 * 50.8 + 1, rel=1e-4)
    assert all(h.closed and not h.flipped_faces for h in found)
    if kind in ("obj", "3mf", "glb", "gltf"):
        names = [part.name.replace("_", " ") for part in read.parts]
        assert sorted(names) == ["lid", "main body"]


def test_the_same_project_gives_the_same_file(tmp_path: Path) -> None:
    for kind in ("3mf", "off"):
        export(with_box(), tmp_path / f"a.{kind}")
        export(with_box(), tmp_path / f"b.{kind}")
        assert (tmp_path / f"a.{kind}").read_bytes() == (tmp_path / f"b.{kind}").read_bytes()


def test_a_name_that_xml_cannot_hold_does_no_harm(tmp_path: Path) -> None:
    doc, _ = with_mesh(Document(), box(LOW, HIGH), 'a "b" <c> & \u200b')
    export(doc, tmp_path / "a.3mf")
    assert read_meshes(tmp_path / "a.3mf").parts[0].name == 'a "b" <c> &'


def test_obj_keeps_polygons_and_names(tmp_path: Path) -> None:
    export(with_box(), tmp_path / "a.obj")
    lines = (tmp_path / "a.obj").read_text().splitlines()
    faces = [line.split()[1:] for line in lines if line.startswith("f ")]
    assert len(faces) == 12
    assert {len(f) for f in faces} == {4}
    assert {int(i) for f in faces[6:] for i in f} == set(range(9, 17))
    assert "o main_body" in lines


def seen_through(material: object) -> float:
    """The opacity that a material of glTF or of an MTL tells."""
    told = getattr(material, "baseColorFactor", None)
    if told is not None:
        return float(np.asarray(told)[3]) / 255
    return float(material.kwargs["d"][0])  # type: ignore[attr-defined]


@pytest.mark.parametrize("kind", ["obj", "glb", "gltf"])
def test_drawings_go_along_at_their_place_with_their_picture(
    tmp_path: Path, can_project: Document, kind: str
) -> None:
    path = tmp_path / f"can.{kind}"
    export(can_project, path, what=("meshes", "planes"))
    scene = trimesh.load(path)
    planes = [p for p in scene.geometry.values() if len(p.vertices) == 4]
    assert len(planes) == 3
    for drawing in can_project.drawings:
        size = can_project.size_px(drawing)
        corners = edits.world_corners(can_project, drawing)
        bounds_ = np.array([corners.min(axis=0), corners.max(axis=0)])
        (plane,) = (p for p in planes if np.allclose(p.bounds, bounds_, atol=1e-3))
        material = plane.visual.material
        picture = getattr(material, "baseColorTexture", None) or material.image
        assert picture.size == size
        # The picture's top-left pixel lies at the top-left corner.
        nearest = int(np.argmin(np.linalg.norm(plane.vertices - corners[0], axis=1)))
        assert np.allclose(plane.visual.uv[nearest], (0, 1))
        # Both triangles look to where their view looks from, and it is as faint as on the board.
        assert np.allclose(plane.face_normals, -drawing.view.directions.forward, atol=1e-6)
        assert seen_through(material) == pytest.approx(drawing.opacity, abs=0.003)
        assert kind == "obj" or material.doubleSided


def test_gltf_names_only_files_that_are_there(tmp_path: Path) -> None:
    written = export(with_box(), tmp_path / "a.gltf")
    assert all(p.exists() for p in written)
    assert len(written) > 1


@pytest.mark.parametrize(
    ("name", "options", "words"),
    [
        ("a.xyz", {}, "name ending in .*obj"),
        ("a.svg", {}, "outlines"),
        ("a.dxf", {}, "outlines"),
        ("a.obj", {"what": ("walls",)}, "walls"),
        ("a.obj", {"unit": "parsec"}, "parsec"),
        ("a.obj", {"up": "x"}, "z or y"),
        ("a.obj", {"what": ("outlines",)}, "nothing to export"),
        ("a.stl", {"what": ("meshes", "planes")}, "STL cannot carry drawings"),
        ("a.ply", {"what": ("meshes", "planes")}, "PLY cannot carry drawings"),
    ],
)
def test_exports_without_meaning_are_refused(
    tmp_path: Path, can_project: Document, name: str, options: dict[str, object], words: str
) -> None:
    with pytest.raises(ExportError, match=words):
        export(can_project, tmp_path / name, **options)
    assert list(tmp_path.iterdir()) == []


def test_textures_of_the_obj_are_the_pictures(tmp_path: Path, can_project: Document) -> None:
    export(can_project, tmp_path / "can.obj", what=("planes",))
    told = (tmp_path / "can.mtl").read_text()
    for number, drawing in enumerate(can_project.drawings, 1):
        file = tmp_path / f"can-drawing-{number}.png"
        assert file.name in told
        with Image.open(file) as picture:
            assert picture.size == can_project.size_px(drawing)
    assert bounds(can_project) is not None


def coloured() -> Document:
    doc, first = with_mesh(Document(), box(LOW, HIGH), "red")
    doc = edits.with_item(doc, first, colour="#ff0000", opacity=0.5)
    return with_mesh(doc, box((100, 0, 0), (101, 1, 1)), "plain")[0]


def test_meshes_bear_their_colours(tmp_path: Path) -> None:
    for kind in ("glb", "obj", "ply", "3mf"):
        export(coloured(), tmp_path / f"c.{kind}")
    scene = trimesh.load(tmp_path / "c.glb")
    assert scene.geometry["red"].visual.material.baseColorFactor.tolist() == [255, 0, 0, 128]
    assert scene.geometry["plain"].visual.material.name == "clay"
    red, plain = (tmp_path / "c.obj").read_text().split("o plain")
    assert "usemtl colour-ff0000-50" in red
    # A material holds until another is named.
    assert plain.count("usemtl") == plain.count("usemtl plain") == 1
    assert plain.index("usemtl") < plain.index("\nf ")
    assert "newmtl plain\nKd 0.8 0.8 0.8" in (tmp_path / "c.mtl").read_text()
    assert "newmtl colour-ff0000-50\nKd 1 0 0\nd 0.5" in (tmp_path / "c.mtl").read_text()
    colours = trimesh.load(tmp_path / "c.ply").visual.vertex_colors
    assert colours[0].tolist() == [255, 0, 0, 128] and colours[-1].tolist() == [255] * 4
    assert b"displaycolor" in zipfile.ZipFile(tmp_path / "c.3mf").read("3D/3dmodel.model")
    assert read_meshes(tmp_path / "c.3mf").odd == ()
    export(coloured(), tmp_path / "d.obj", colours=False)
    assert not (tmp_path / "d.mtl").exists()
    assert trimesh.load(tmp_path / "d.obj").volume > 0


def test_colours_of_vertices_go_along(tmp_path: Path) -> None:
    values = np.zeros((8, 4), np.float32)
    values[:, 3] = 1.0
    values[3] = (0.2, 0.4, 0.6, 1.0)
    painted = box(LOW, HIGH).with_layer(COLOUR, Layer(On.VERTEX, values, 1.0))
    doc, _ = with_mesh(Document(), painted, "painted")
    for kind, unit, up in (("glb", "m", "y"), ("ply", "mm", "z")):
        export(doc, tmp_path / f"p.{kind}", unit=unit, up=up)
        read = read_meshes(tmp_path / f"p.{kind}").parts[0].mesh
        colours = read.layers[COLOUR].values
        blue = np.flatnonzero(np.abs(colours - values[3]).max(axis=1) < 0.01)
        assert {tuple(p) for p in np.round(read.positions[blue], 3)} == {
            tuple(painted.positions[3])
        }
        export(doc, tmp_path / f"q.{kind}", colours=False)
        assert COLOUR not in read_meshes(tmp_path / f"q.{kind}").parts[0].mesh.layers


def test_which_meshes_how_fine_and_in_triangles(tmp_path: Path) -> None:
    doc = with_box()
    export(doc, tmp_path / "a.obj", only=frozenset([doc.meshes[1].id]), triangles=True)
    (part,) = read_meshes(tmp_path / "a.obj").parts
    assert part.name == "lid" and part.mesh.topology.sizes.tolist() == [3] * 12
    export(doc, tmp_path / "b.obj", levels=2)
    assert read_meshes(tmp_path / "b.obj").parts[0].mesh.topology.face_count == 96
    smooth = edits.with_item(doc, doc.meshes[0].id, smooth=Smoothing(view=1, export=1))
    export(smooth, tmp_path / "c.obj")
    counts = [p.mesh.topology.face_count for p in read_meshes(tmp_path / "c.obj").parts]
    assert counts == [24, 6]
    export(smooth, tmp_path / "d.obj", levels=0)
    assert read_meshes(tmp_path / "d.obj").parts[0].mesh.topology.face_count == 6


@pytest.mark.parametrize("kind", ["svg", "dxf"])
def test_the_lines_of_meshes_are_drawn_view_by_view(tmp_path: Path, kind: str) -> None:
    doc, _ = with_mesh(Document(), box((0, 0, 0), (40, 60, 100)), "body")
    path = tmp_path / f"l.{kind}"
    export(doc, path, what=("lines",), unit="cm")
    paths = read_curves(path).paths
    assert {p.layer for p in paths} == {"Front mesh", "Right mesh", "Top mesh"}
    front = [p.path for p in paths if p.layer == "Front mesh"]
    assert np.ptp(np.concatenate([p.points for p in front]), axis=0) == pytest.approx([40, 100])
    export(doc, path, what=("lines",), view="top")
    assert {p.layer for p in read_curves(path).paths} == {"Top mesh"}
    with pytest.raises(ExportError, match="cannot carry outlines"):
        export(doc, tmp_path / "x.stl", what=("lines",))

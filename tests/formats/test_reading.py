"""Mesh files that come in, against what trimesh makes of them and against what was written."""

from __future__ import annotations

import io
import json
import zipfile
from pathlib import Path

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from dimetron.document import edits
from dimetron.document.model import Document
from dimetron.formats.bringing import with_files
from dimetron.formats.export import export
from dimetron.formats.faces import joined_corners
from dimetron.formats.format import MeshFileError, readers
from dimetron.formats.reading import MeshFile, read_meshes, taken_as
from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.mesh.primitives import box


def written(folder: Path, name: str, data: str | bytes) -> Path:
    path = folder / name
    path.write_bytes(data.encode() if isinstance(data, str) else data)
    return path


def mesh_in(read: MeshFile) -> Mesh:
    assert len(read.parts) == 1
    return read.parts[0].mesh


def scene() -> trimesh.Scene:
    ball = trimesh.creation.icosphere(2, 5)
    bar = trimesh.creation.box((10, 20, 30))
    made = trimesh.Scene()
    made.add_geometry(bar, node_name="bar", geom_name="bar")
    turn = trimesh.transformations.rotation_matrix(0.5, (0, 0, 1), (50, 0, 0))
    made.add_geometry(ball, node_name="ball", geom_name="ball", transform=turn)
    flip = np.diag([-2.0, 2.0, 2.0, 1.0])
    made.add_geometry(bar, node_name="mirrored", geom_name="bar", transform=flip)
    return made


@pytest.mark.parametrize("kind", ["stl", "stl_ascii", "ply", "ply_ascii", "off", "obj"])
def test_a_solid_comes_in_as_trimesh_reads_it(tmp_path: Path, kind: str) -> None:
    solid = trimesh.creation.annulus(5, 9, 4)
    form, _, text = kind.partition("_")
    how = {"encoding": "ascii"} if kind == "ply_ascii" else {}
    data = solid.export(file_type=kind if form == "stl" else form, **how)
    mesh = mesh_in(read_meshes(written(tmp_path, f"a.{form}", data)))
    assert mesh.topology.face_count == len(solid.faces)
    assert len(mesh.positions) == len(solid.vertices)
    own = trimesh.Trimesh(mesh.positions, mesh.triangles, process=False)
    assert own.is_watertight
    assert own.volume == pytest.approx(solid.volume, rel=1e-5)
    assert np.allclose(mesh.bounds, solid.bounds, atol=1e-5)
    assert text in ("", "ascii")


def test_glb_stands_where_its_nodes_put_it_in_metres_and_upright(tmp_path: Path) -> None:
    made = scene()
    read = read_meshes(written(tmp_path, "a.glb", made.export(file_type="glb")))
    assert (read.unit, read.up) == ("m", "y")
    assert {part.name for part in read.parts} == {"bar", "ball", "mirrored"}
    for part in read.parts:
        matrix, geometry = made.graph[part.name]
        points = trimesh.transform_points(made.geometry[geometry].vertices, matrix) * 1000
        upright = np.stack([points[:, 0], -points[:, 2], points[:, 1]], axis=1)
        assert np.allclose(part.mesh.bounds, [upright.min(0), upright.max(0)], atol=0.01)
        assert trimesh.Trimesh(part.mesh.positions, part.mesh.triangles).volume > 0


def test_gltf_with_its_numbers_beside_or_missing(tmp_path: Path) -> None:
    files = trimesh.Scene({"bar": trimesh.creation.box((1, 2, 3))}).export(file_type="gltf")
    for name, data in files.items():
        written(tmp_path, name, data)
    read = read_meshes(tmp_path / "model.gltf", unit="mm", up="z")
    assert np.allclose(np.ptp(mesh_in(read).positions, axis=0), (1, 2, 3))
    beside = next(name for name in files if name.endswith(".bin"))
    (tmp_path / beside).unlink()
    with pytest.raises(MeshFileError, match=f"needs {beside}"):
        read_meshes(tmp_path / "model.gltf")
    old = json.loads(files["model.gltf"])
    old["asset"]["version"] = "1.0"
    with pytest.raises(MeshFileError, match=r"save it as 2\.0"):
        read_meshes(written(tmp_path, "old.gltf", json.dumps(old)))


RICH = """mtllib none.mtl
v 0 0 0 1 0 0
v 2 0 0 0 1 0
v 2 2 0 0 0 1
v 0 2 0 1 1 1
v 5 5 5 0 0 0
vt 0 0
vt 1 0
vt 1 1
vt 0.25 1
vn 0 0 1
g floor
usemtl oak
f 1/1/1 2/2/1 3/3/1
usemtl slate
f -5/-4/1 -3/-2/1 -2/-1/1
g
f 1/2 3/3 4/4
"""


def test_obj_keeps_groups_materials_colours_and_texture_coordinates(tmp_path: Path) -> None:
    read = read_meshes(written(tmp_path, "rich.obj", RICH))
    assert read.odd == ("its materials (none.mtl) are not beside it",)
    mesh = mesh_in(read)
    names = {n: mesh.layers[n].names for n in ("group", "material")}
    assert names == {"group": ("floor", ""), "material": ("oak", "slate")}
    assert mesh.layers["group"].values.tolist() == [0, 0, 1]
    assert mesh.layers["material"].values.tolist() == [0, 1, 1]
    uv = [(0, 0), (1, 0), (1, 1), (0, 0), (1, 1), (0.25, 1), (1, 0), (1, 1), (0.25, 1)]
    assert mesh.layers["uv"].values.tolist() == [list(place) for place in uv]
    assert mesh.layers["colour"].values[:4].tolist() == [
        [1, 0, 0, 1], [0, 1, 0, 1], [0, 0, 1, 1], [1, 1, 1, 1]
    ]  # fmt: skip
    doc, _ = edits.with_mesh(edits.with_mesh(Document(), mesh, "a")[0], mesh, "b")
    export(doc, tmp_path / "out.obj")
    for part in read_meshes(tmp_path / "out.obj").parts:
        for name in ("group", "material", "uv"):
            assert np.array_equal(part.mesh.layers[name].values, mesh.layers[name].values), name
        assert part.mesh.layers["material"].names == ("oak", "slate")


@pytest.mark.parametrize(
    "line", ["f 1/1 2/2 3", "f 1/1 2/2 3/9", "f 1/1 2/2 3/0", "f 1/1 2/2 3/-9", "f 1/1 2/2 3/x"]
)
def test_texture_coordinates_that_are_not_complete_are_left_out(tmp_path: Path, line: str) -> None:
    read = read_meshes(written(tmp_path, "a.obj", RICH + line + "\n"))
    assert "uv" not in mesh_in(read).layers
    assert any("texture coordinates are not complete" in words for words in read.odd)


def test_ply_and_glb_keep_colours(tmp_path: Path) -> None:
    solid = trimesh.creation.box((1, 2, 3))
    shades = np.arange(32, dtype=np.uint8).reshape(8, 4) * 8
    solid.visual = trimesh.visual.ColorVisuals(solid, vertex_colors=shades)
    for kind in ("ply", "glb"):
        read = read_meshes(written(tmp_path, f"a.{kind}", solid.export(file_type=kind)), "mm", "z")
        mesh = mesh_in(read)
        at = [
            int(np.argmin(np.abs(mesh.positions - p).sum(axis=1)))
            for p in np.asarray(solid.vertices)
        ]
        assert np.allclose(mesh.layers["colour"].values[at] * 255, shades, atol=0.5)
    half = b"ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\n"
    half += b"property float z\nproperty float red\nproperty float green\nproperty float blue\n"
    half += b"element face 1\nproperty list uchar int vertex_indices\nend_header\n"
    half += b"0 0 0 0.5 0 1\n1 0 0 2 nan 0\n0 1 0 0 0 0\n3 0 1 2\n"
    colours = mesh_in(read_meshes(written(tmp_path, "f.ply", half))).layers["colour"].values
    assert colours[:2].tolist() == [[0.5, 0, 1, 1], [1, 0, 0, 1]]


def test_glb_keeps_texture_coordinates_and_the_name_of_its_material(tmp_path: Path) -> None:
    uv = np.array([(0, 0), (1, 0), (0, 1)], float)
    material = trimesh.visual.material.PBRMaterial(name="oak", baseColorFactor=(1, 0, 0, 1))
    visual = trimesh.visual.TextureVisuals(uv=uv, material=material)
    leaf = trimesh.Trimesh([(0, 0, 0), (1, 0, 0), (0, 1, 0)], [(0, 1, 2)], visual=visual)
    mesh = mesh_in(read_meshes(written(tmp_path, "a.glb", leaf.export(file_type="glb"))))
    assert mesh.layers["material"].names == ("oak",)
    assert np.allclose(mesh.layers["uv"].values, uv)


OBJ = """# two objects of four corners and one
mtllib ./none.mtl
\to plate
v 0 0 0
v 1 0 0 0.5 0.5 0.5
v 1 1 0
  v 0 1 0
vt 0 0
g left
usemtl red
f -4/1 -3/1 3//2 \\
 -1
o roof
v 0 0 5
v 1 0 5
v 1 1 5
v nan 1 5
v 0 1 five
v 7 7 7
f -6 -5 -4
f 5 6 2
f 5 6 8
f 1 2 99
f 1 2
l 1 2
curv 1 2
"""


def test_obj_with_all_its_ways(tmp_path: Path) -> None:
    read = read_meshes(written(tmp_path, "a.obj", OBJ.replace("\n", "\r\n")))
    plate, roof = read.parts
    assert (plate.name, roof.name) == ("plate", "roof")
    assert plate.mesh.topology.sizes.tolist() == [4]
    assert plate.mesh.positions[plate.mesh.topology.face(0)].tolist() == [
        [0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]
    ]  # fmt: skip
    corners = [roof.mesh.positions[roof.mesh.topology.face(face)] for face in (0, 1)]
    assert corners[0].tolist() == [[0, 0, 5], [1, 0, 5], [1, 1, 5]]
    assert corners[1].tolist() == [[0, 0, 5], [1, 0, 5], [1, 0, 0]]
    assert roof.mesh.topology.face_count == 2
    # The loose one stays with its object.
    assert [7, 7, 7] in roof.mesh.positions.tolist()
    told = " · ".join(read.odd)
    for words in ("none.mtl", "1 line or point", "“curv”", "not three numbers", "three corners"):
        assert words in told
    assert "2 faces name vertices that do not exist and were left out" in read.odd
    assert "1 face has fewer than three corners and was left out" in read.odd


def test_obj_in_utf_16_and_with_its_materials_beside(tmp_path: Path) -> None:
    written(tmp_path, "none.mtl", "newmtl red\n")
    plain = "mtllib none.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"
    read = read_meshes(written(tmp_path, "a.obj", plain.encode("utf-16")))
    assert mesh_in(read).topology.face_count == 1
    assert read.odd == ()
    marked = read_meshes(written(tmp_path, "b.obj", plain.encode("utf-8-sig")))
    assert marked.odd == ()
    outside = plain.replace("none.mtl", "../none.mtl")
    (tmp_path / "inner").mkdir()
    read = read_meshes(written(tmp_path / "inner", "a.obj", outside))
    assert "not beside it" in read.odd[0], "no other folder is looked into"


@given(
    st.lists(st.integers(3, 6), min_size=1, max_size=8),
    st.sampled_from(["ascii", "binary_little_endian", "binary_big_endian"]),
    st.permutations(["x", "y", "z", "red", "flag"]),
)
def test_ply_of_any_order_and_size(sizes: list[int], form: str, order: list[str]) -> None:
    count = max(sizes) + 2
    kinds = {"x": "f8", "y": "f4", "z": "f4", "red": "u1", "flag": "i2"}
    names = {"f8": "double", "f4": "float", "u1": "uchar", "i2": "int16"}
    end = ">" if form.endswith("big_endian") else "<"
    table = np.zeros(count, [(name, end + kinds[name]) for name in order])
    table["x"], table["y"], table["z"] = np.arange(count), np.arange(count) ** 2, 5
    faces = [list(range(at % 2, at % 2 + size)) for at, size in enumerate(sizes)]
    head = ["ply", f"format {form} 1.0", "comment made up", f"element vertex {count}"]
    head += [f"property {names[kinds[name]]} {name}" for name in order]
    head += [f"element face {len(faces)}", "property uchar shade"]
    head += ["property list uchar int vertex_index", "element other 1", "property int n"]
    if form == "ascii":
        rows = [" ".join(str(value) for value in row) for row in table.tolist()]
        rows += [f"9 {len(face)} {' '.join(map(str, face))}" for face in faces] + ["3"]
        body = "\n".join(rows).encode()
    else:
        body = table.tobytes() + b"".join(
            bytes([9, len(face)]) + np.array(face, end + "i4").tobytes() for face in faces
        ) + bytes(4)  # fmt: skip
    data = "\n".join([*head, "end_header\n"]).encode() + body
    read = readers()[".ply"].read(data, "made up", lambda _: None)
    mesh = read.parts[0].mesh
    assert [mesh.topology.face(at).tolist() for at in range(len(faces))] == faces
    assert mesh.positions[:, 0].tolist() == list(range(count))
    assert mesh.positions[3].tolist() == [3, 9, 5]
    assert read.odd == ("its other elements were left out",)


@pytest.mark.parametrize("kind", ["obj", "ply"])
def test_what_is_exported_comes_back(tmp_path: Path, kind: str) -> None:
    flat = from_faces([[0, 0, 0], [4, 0, 0], [5, 2, 0], [2, 4, 0], [-1, 2, 0]], [[0, 1, 2, 3, 4]])
    doc, _ = edits.with_mesh(Document(), flat, "five corners")
    export(doc, tmp_path / f"a.{kind}", unit="cm", up="y")
    mesh = mesh_in(read_meshes(tmp_path / f"a.{kind}", unit="cm", up="y"))
    assert np.allclose(mesh.positions, flat.positions, atol=1e-6)
    assert mesh.topology.corners.tolist() == [0, 1, 2, 3, 4]


THREEMF = """<?xml version="1.0"?>
<model unit="centimeter" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">
<resources>
<object id="1" name="wedge" type="model"><mesh><vertices>
<vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/><vertex x="0" y="2" z="0"/>
<vertex x="0" y="0" z="3"/></vertices><triangles>
<triangle v1="0" v2="2" v3="1"/><triangle v1="0" v2="1" v3="3"/>
<triangle v1="0" v2="3" v3="2"/><triangle v1="1" v2="2" v3="3"/><triangle v1="1" v2="2" v3="9"/>
</triangles></mesh></object>
<object id="2"><components>
<component objectid="1" transform="1 0 0 0 1 0 0 0 1 5 0 0"/><component objectid="77"/>
</components></object>
</resources>
<build><item objectid="1"/><item objectid="2" transform="-1 0 0 0 1 0 0 0 1 0 0 10"/></build>
</model>"""


def threemf(model: str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as package:
        package.writestr("3D/3dmodel.model", model)
    return out.getvalue()


def test_3mf_with_components_and_its_own_unit(tmp_path: Path) -> None:
    read = read_meshes(written(tmp_path, "a.3mf", threemf(THREEMF)))
    assert [part.name for part in read.parts] == ["wedge", "wedge"]
    first, second = (part.mesh for part in read.parts)
    assert first.bounds.tolist() == [[0, 0, 0], [10, 20, 30]]
    # Moved by 5 in its object, then mirrored and lifted.
    assert second.bounds.tolist() == [[-60, 0, 100], [-50, 20, 130]]
    for mesh in (first, second):
        assert trimesh.Trimesh(mesh.positions, mesh.triangles).volume == pytest.approx(1000)
    assert any("does not exist" in odd for odd in read.odd)
    circle = THREEMF.replace('objectid="1" transform="1 0', 'objectid="2" transform="1 0')
    with pytest.raises(MeshFileError, match="made of themselves"):
        read_meshes(written(tmp_path, "circle.3mf", threemf(circle)))


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("a.obj", "v 0 0 0\nv 1 0 0\n", "it has no faces"),
        ("a.obj", "", "it has no faces"),
        ("a.stl", b"x" * 80 + (9).to_bytes(4, "little") + bytes(60), "is cut short: 1 of 9"),
        ("a.stl", b"x" * 80 + (2).to_bytes(4, "little") + bytes(50), "is cut short: 1 of 2"),
        ("a.stl", "solid x\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\n", "has no end"),
        ("a.ply", "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\n", "header"),
        ("a.ply", "ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nend_header\n0\n",
         "no vertices with x, y and z"),
        ("a.ply", "ply\nformat binary_little_endian 1.0\nelement vertex 9\nproperty float x\n"
         "property float y\nproperty float z\nend_header\n1234", "is cut short"),
        ("a.off", "OFF\n3 1 0\n0 0 0\n", "is cut short"),
        ("a.off", "OFF\n999999999999 1 0\n", "more faces than can be"),
        ("a.off", "PNG", "is no OFF file"),
        ("a.glb", b"glTF" + bytes(30), "a.glb"),
        ("a.gltf", "{", "is damaged"),
        ("a.3mf", "PK", "is no 3MF file"),
        ("a.3mf", threemf("<!DOCTYPE x [<!ENTITY a 'b'>]><model>&a;</model>"), "is damaged"),
    ],
)  # fmt: skip
def test_what_has_no_meaning_is_refused_in_a_sentence(
    tmp_path: Path, name: str, data: str | bytes, words: str
) -> None:
    with pytest.raises(MeshFileError) as refused:
        read_meshes(written(tmp_path, name, data))
    assert str(refused.value).startswith(name)
    assert words in str(refused.value)
    assert "\n" not in str(refused.value)


def test_a_binary_stl_may_begin_like_a_text(tmp_path: Path) -> None:
    data = bytearray(trimesh.creation.box((1, 2, 3)).export(file_type="stl"))
    data[:10] = b"solid made"
    assert mesh_in(read_meshes(written(tmp_path, "a.stl", bytes(data)))).topology.face_count == 12


def test_a_corner_that_lies_nowhere_takes_its_faces_with_it(tmp_path: Path) -> None:
    text = "OFF\n4 2 0\n0 0 0\nnan 0 0\n0 1 0\n1 1 0\n3 0 1 2\n3 0 3 2\n"
    read = read_meshes(written(tmp_path, "a.off", text))
    assert mesh_in(read).positions.tolist() == [[0, 0, 0], [0, 1, 0], [1, 1, 0]]
    assert mesh_in(read).topology.corners.tolist() == [0, 2, 1]
    assert read.odd[0] == "1 face has a corner that lies nowhere and was left out"


@pytest.mark.parametrize("up", ["z", "y"])
def test_numbers_can_be_meant_otherwise_and_back(tmp_path: Path, up: str) -> None:
    trimesh.creation.box((1, 2, 3)).export(tmp_path / "a.stl")
    read = read_meshes(tmp_path / "a.stl", unit="cm", up="y")
    read.parts[0].mesh.ready()
    other = taken_as(read, "in", up)
    fresh = read_meshes(tmp_path / "a.stl", unit="in", up=up)
    assert np.allclose(mesh_in(other).positions, mesh_in(fresh).positions)
    assert np.allclose(other.size_mm, fresh.size_mm)
    assert (other.unit, other.up) == ("in", up)
    # Nothing is triangulated anew for it.
    assert mesh_in(other).triangles is mesh_in(read).triangles
    assert np.allclose(mesh_in(taken_as(other, "cm", "y")).positions, mesh_in(read).positions)


@given(st.lists(st.tuples(*[st.sampled_from([0.0, -0.0, 1.0, 2.5])] * 3), max_size=30))
def test_corners_at_the_same_place_are_one_vertex(corners: list[tuple[float, ...]]) -> None:
    points = np.array(corners).reshape(-1, 3)
    vertices, of = joined_corners(points)
    assert np.array_equal(vertices[of], points + 0.0)
    assert len(vertices) == len({tuple(p) for p in (points + 0.0).tolist()})
    first = [of.tolist().index(at) for at in range(len(vertices))]
    assert first == sorted(first)


def test_files_of_both_kinds_go_into_a_project(tmp_path: Path) -> None:
    doc, _ = edits.with_mesh(Document(), box((0, 0, 0), (1, 1, 1)), "a")
    trimesh.creation.box((10, 20, 30)).export(tmp_path / "a.stl")
    after, told = with_files(doc, [tmp_path / "a.stl"], unit="in")
    assert [m.name for m in after.meshes] == ["a", "a 2"]
    assert told["meshes"][0]["size_mm"] == [254, 508, 762]
    assert told["meshes"][0]["vertices"] == 8
    with pytest.raises(MeshFileError):
        with_files(doc, [tmp_path / "a.stl", tmp_path / "none.obj"])

from __future__ import annotations

import errno
import io
import json
import os
import signal
import stat
import subprocess
import sys
import tempfile
import time
import zipfile
from dataclasses import replace
from functools import cache
from pathlib import Path

import jsonschema
import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from dimetron.document import atomic, edits
from dimetron.document.atomic import WriteError
from dimetron.document.container import load, save
from dimetron.document.edits import with_mesh, without_item
from dimetron.document.model import Document, Made, source_from, with_item
from dimetron.document.parts import Showing
from dimetron.document.preparing import with_figure
from dimetron.document.serial import ProjectError, schema, to_json
from dimetron.geometry.placement import Placement
from dimetron.geometry.units import Unit
from dimetron.geometry.views import Projection, View
from dimetron.imaging.figure.kind import Kind
from dimetron.imaging.figure.said import AS_FOUND, MOST_POINTS, MOST_TOUCHES, Figure, Touch
from dimetron.mesh.primitives import box


def sample() -> Document:
    doc = Document(unit=Unit.INCH, projection=Projection.FIRST_ANGLE)
    for view in (View.FRONT, View.TOP):
        out = io.BytesIO()
        Image.effect_noise((60, 40), 30).save(out, "PNG")
        source = source_from(out.getvalue(), f"{view.value} ä.png", "png", (60, 40), 0.1)
        doc, _ = edits.with_drawing(doc, source, view)
    doc, _ = edits.with_mesh(doc, box((-1, -2, -3), (1, 2, 3.3)), "body")
    return doc


@cache
def sample_bytes() -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        save(sample(), Path(folder) / "a.dimetron")
        return (Path(folder) / "a.dimetron").read_bytes()


def rewritten(path: Path, **members: bytes | None) -> None:
    """Replace, add or drop members of a project file; names are given with __ for / and _ for ."""
    with zipfile.ZipFile(path) as box_:
        kept = {info.filename: box_.read(info) for info in box_.infolist()}
    for name, data in members.items():
        if data is None:
            kept.pop(name)
        else:
            kept[name] = data
    with zipfile.ZipFile(path, "w") as box_:
        for name, data in kept.items():
            box_.writestr(name, data)


def same(a: Document, b: Document) -> bool:
    meshes = all(
        np.array_equal(m.mesh.positions, n.mesh.positions)
        and np.array_equal(m.mesh.topology.corners, n.mesh.topology.corners)
        and m.mesh.layers.keys() == n.mesh.layers.keys()
        and all(
            np.array_equal(layer.values, n.mesh.layers[name].values)
            for name, layer in m.mesh.layers.items()
        )
        and replace(m, mesh=n.mesh) == n
        for m, n in zip(a.meshes, b.meshes, strict=True)
    )
    return meshes and replace(a, meshes=()) == replace(b, meshes=())


finite = st.floats(-1e6, 1e6)
pair = st.tuples(finite, finite)
placements = st.builds(
    Placement,
    mm_per_px=st.floats(1e-3, 1e3),
    anchor_px=pair,
    anchor_mm=pair,
    rotation_deg=st.floats(-180, 180),
    mirrored=st.booleans(),
    stand_off_mm=finite,
    pixel_aspect=st.floats(0.1, 10),
)


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    placement=placements,
    opacity=st.floats(0, 1),
    unit=st.sampled_from(Unit),
    name=st.text(max_size=40),
)
def test_what_is_saved_comes_back_identical(
    tmp_path: Path, placement: Placement, opacity: float, unit: Unit, name: str
) -> None:
    doc = sample()
    name = name.encode("utf-8", "replace").decode()
    drawings = tuple(
        replace(d, placement=placement, opacity=opacity, name=name) for d in doc.drawings
    )
    doc = replace(doc, drawings=drawings, unit=unit)
    save(doc, tmp_path / "a.dimetron")
    opened = load(tmp_path / "a.dimetron")
    assert opened.notes == ()
    assert same(opened.document, doc)


def test_sources_are_kept_byte_for_byte_and_the_json_fits_its_schema(tmp_path: Path) -> None:
    doc = sample()
    save(doc, tmp_path / "a.dimetron")
    with zipfile.ZipFile(tmp_path / "a.dimetron") as file:
        tree = json.loads(file.read("project.json"))
        for source, told in zip(doc.sources, tree["sources"], strict=True):
            assert file.read(told["file"]) == source.data
    jsonschema.Draft202012Validator.check_schema(schema())
    jsonschema.validate(tree, schema())
    assert tree == to_json(doc)


def test_docs_show_the_schema_that_is_used() -> None:
    page = (Path(__file__).parents[2] / "docs" / "file-format.md").read_text("utf-8")
    for name in (*schema()["properties"], *schema()["$defs"]["placement"]["properties"]):
        assert f"`{name}`" in page


def test_the_same_project_gives_the_same_bytes(tmp_path: Path) -> None:
    doc = sample()
    for name in ("a", "b"):
        save(doc, tmp_path / name)
    assert (tmp_path / "a").read_bytes() == (tmp_path / "b").read_bytes()


BROKEN = [
    ({"project.json": b"{not json"}, "cannot be read"),
    ({"project.json": b"\xff\xfe"}, "cannot be read"),
    ({"project.json": b"[" * 100_000}, "cannot be read"),
    ({"project.json": b'{"format": "other"}'}, "not a Dimetron project"),
    ({"project.json": b'{"format": "dimetron", "version": 99}'}, "newer Dimetron"),
    ({"project.json": b'{"format": "dimetron", "version": 1}'}, "wrong at the top"),
    ({"project.json": None}, "no project.json"),
    ({"../outside.txt": b"x"}, "points outside"),
    ({"/etc/passwd": b"x"}, "points outside"),
    ({"..\\up": b"x"}, "points outside"),
]


@pytest.mark.parametrize(("members", "words"), BROKEN)
def test_broken_projects_get_one_clear_sentence(
    tmp_path: Path, members: dict[str, bytes | None], words: str
) -> None:
    path = tmp_path / "a.dimetron"
    save(sample(), path)
    rewritten(path, **members)
    with pytest.raises(ProjectError, match=words) as caught:
        load(path)
    assert "a.dimetron" in str(caught.value)
    assert "\n" not in str(caught.value)


@pytest.mark.parametrize(
    ("change", "where"),
    [
        (lambda t: t["drawings"][0].update(view="sideways"), "a view that is not listed"),
        (lambda t: t["drawings"][0].update(view=3), "drawings/0/view"),
        (lambda t: t["drawings"][0].update(sheet="nobody"), "not listed"),
        (lambda t: t["drawings"][0]["placement"].update(mm_per_px=0), "mm_per_px"),
        (lambda t: t["drawings"][0]["placement"].update(mm_per_px=1e-9), "size"),
        (lambda t: t["drawings"][0].update(id=t["drawings"][1]["id"]), "twice"),
        (lambda t: t["sources"][0].update(file="sources/../../x.png"), "sources/0/file"),
        (lambda t: t["meshes"][0].update(name=7), "meshes/0/name"),
    ],
)
def test_wrong_values_are_named(tmp_path: Path, change: object, where: str) -> None:
    path = tmp_path / "a.dimetron"
    save(sample(), path)
    tree = to_json(sample())
    with zipfile.ZipFile(path) as file:
        tree = json.loads(file.read("project.json"))
    change(tree)  # type: ignore[operator]
    rewritten(path, **{"project.json": json.dumps(tree).encode()})
    with pytest.raises(ProjectError, match=where):
        load(path)


def test_a_missing_picture_keeps_its_drawing_and_a_missing_mesh_is_told(tmp_path: Path) -> None:
    doc = sample()
    path = tmp_path / "a.dimetron"
    save(doc, path)
    rewritten(
        path, **{f"sources/{doc.sources[0].id}.png": None, f"meshes/{doc.meshes[0].id}.ply": None}
    )
    opened = load(path)
    assert "front ä.png" in opened.notes[0]
    assert "body" in opened.notes[1]
    assert opened.document.drawings == doc.drawings
    assert opened.document.sources[0].data is None
    save(opened.document, path)
    assert load(path).document.drawings == doc.drawings


def test_bombs_are_refused_before_they_unpack(tmp_path: Path) -> None:
    path = tmp_path / "a.dimetron"
    save(sample(), path)
    with zipfile.ZipFile(path, "a", zipfile.ZIP_DEFLATED) as file:
        file.writestr("sources/bomb.png", bytes(40 << 20))
    with pytest.raises(ProjectError, match="absurd size"):
        load(path)


@settings(max_examples=40, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.data())
def test_damage_anywhere_is_a_sentence_or_harmless(tmp_path: Path, data: st.DataObject) -> None:
    path = tmp_path / "a.dimetron"
    raw = bytearray(sample_bytes())
    for _ in range(data.draw(st.integers(1, 6))):
        raw[data.draw(st.integers(0, len(raw) - 1))] ^= data.draw(st.integers(1, 255))
    path.write_bytes(bytes(raw[: data.draw(st.integers(0, len(raw)))]))
    try:
        load(path)
    except ProjectError as error:
        assert "a.dimetron" in str(error)


def test_other_files_are_refused(tmp_path: Path) -> None:
    (tmp_path / "letter").write_text("hello")
    for path, words in (
        (tmp_path / "letter", "not a Dimetron project"),
        (tmp_path / "nothing", "does not exist"),
        (tmp_path, "is a folder"),
    ):
        with pytest.raises(ProjectError, match=words):
            load(path)


def test_a_full_disk_leaves_the_old_file(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "a.dimetron"
    save(sample(), path)
    before = path.read_bytes()

    def full(_: int) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(atomic.os, "fsync", full)
    with pytest.raises(WriteError, match="disk is full"):
        save(sample(), path)
    assert path.read_bytes() == before
    assert [p.name for p in tmp_path.iterdir()] == ["a.dimetron"]


@pytest.mark.parametrize("code", [errno.EACCES, errno.EROFS])
def test_a_folder_without_write_permission(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, code: int
) -> None:
    def refused(**_: object) -> None:
        raise OSError(code, os.strerror(code))

    monkeypatch.setattr(atomic.tempfile, "mkstemp", refused)
    with pytest.raises(WriteError, match="choose another"):
        save(sample(), tmp_path / "a.dimetron")


def test_permissions_and_links_are_kept(tmp_path: Path) -> None:
    path, link = tmp_path / "a.dimetron", tmp_path / "link.dimetron"
    save(sample(), path)
    path.chmod(0o640)
    link.symlink_to(path)
    save(sample(), link)
    assert link.is_symlink()
    assert stat.S_IMODE(path.stat().st_mode) == 0o640


_SAVER = """
import sys
from pathlib import Path
from dimetron.document.container import load, save
doc = load(Path(sys.argv[1])).document
print("ready", flush=True)
while True:
    save(doc, Path(sys.argv[2]))
"""


def test_kill_at_any_moment_of_a_save_leaves_a_whole_file(tmp_path: Path) -> None:
    old, new, target = tmp_path / "old", tmp_path / "new", tmp_path / "a.dimetron"
    doc = sample()
    save(doc, old)
    out = io.BytesIO()
    Image.effect_noise((1500, 1500), 90).save(out, "BMP")
    large = source_from(out.getvalue(), "large.bmp", "bmp", (1500, 1500))
    save(edits.with_drawing(doc, large, View.RIGHT)[0], new)
    whole = {old.read_bytes(), new.read_bytes()}
    rng = np.random.default_rng(5)
    for _ in range(12):
        target.write_bytes(old.read_bytes())
        saver = subprocess.Popen(
            [sys.executable, "-c", _SAVER, str(new), str(target)], stdout=subprocess.PIPE
        )
        assert saver.stdout is not None
        saver.stdout.readline()
        time.sleep(float(rng.uniform(0.0, 0.05)))
        saver.send_signal(signal.SIGKILL)
        saver.wait()
        saver.stdout.close()
        assert target.read_bytes() in whole
        load(target)


def test_a_project_of_format_1_opens_as_it_was(tmp_path: Path) -> None:
    path = tmp_path / "old.dimetron"
    now = sample()
    save(now, path)
    tree = to_json(now)
    sources = {s["id"]: s["source"] for s in tree.pop("sheets")}
    tree["version"] = 1
    for drawing in tree["drawings"]:
        drawing["source"] = sources[drawing.pop("sheet")]
        for key in ("crop", "straightening", "tone", "placed", "named", "unsure"):
            del drawing[key]
    rewritten(path, **{"project.json": json.dumps(tree).encode()})
    old = load(path).document
    assert [d.placement for d in old.drawings] == [d.placement for d in now.drawings]
    assert [old.size_px(d) for d in old.drawings] == [now.size_px(d) for d in now.drawings]
    assert all(d.placed for d in old.drawings)


def test_a_project_of_format_4_opens_and_how_a_mesh_was_made_is_kept(tmp_path: Path) -> None:
    path = tmp_path / "old.dimetron"
    doc, first = with_mesh(sample(), box((0, 0, 0), (1, 1, 1)), "first")
    doc, other = with_mesh(doc, box((0, 0, 0), (1, 1, 1)), "other")
    made = Made("extrude", (("distance", 2.5), ("along", "z")), (first,))
    doc = with_item(doc, other, made=made, even=("x",))
    save(doc, path)
    assert load(path).document.mesh(other).made == made
    assert load(path).document.mesh(other).even == ("x",)
    # What it was made from is gone, and so is the way to make it anew.
    assert without_item(doc, first).mesh(other).made is None
    tree = to_json(doc)
    tree["version"] = 4
    for item in tree["meshes"]:
        del item["even"], item["made"]
    rewritten(path, **{"project.json": json.dumps(tree).encode()})
    old = load(path)
    assert old.notes == ()
    assert (old.document.mesh(other).made, old.document.mesh(other).even) == (None, ())


def test_a_project_of_format_6_opens_and_what_a_drawing_consists_of_is_kept(tmp_path: Path) -> None:
    path = tmp_path / "old.dimetron"
    doc = sample()
    id_ = doc.drawings[0].id
    now = with_item(doc, id_, drawn=Kind.SHADED, showing=Showing(ink_alone=True))
    save(now, path)
    assert load(path).document.drawings == now.drawings
    tree = to_json(now)
    tree["version"] = 6
    for drawing in tree["drawings"]:
        del drawing["drawn"], drawing["showing"]["ink_alone"]
    rewritten(path, **{"project.json": json.dumps(tree).encode()})
    old = load(path).document.drawing(id_)
    assert (old.drawn, old.showing.ink_alone) == (None, False)
    tree["version"], tree["drawings"][0]["drawn"] = 8, "carved"
    rewritten(path, **{"project.json": json.dumps(tree).encode()})
    with pytest.raises(ProjectError, match="damaged"):
        load(path)


def test_a_project_of_format_7_opens_and_what_was_said_of_a_sheet_is_kept(tmp_path: Path) -> None:
    path = tmp_path / "old.dimetron"
    doc = sample()
    id_ = doc.sheets[0].id
    touches = Touch(((0.25, 0.5), (0.75, 0.5)), 0.02, True), Touch(((0.5, 0.5),), 0.01, False)
    figure = Figure(Kind.PHOTO, True, ((200, 40, 30),), touches)
    now = with_figure(doc, id_, figure)
    save(now, path)
    assert load(path).document.sheet(id_).figure == figure
    assert now.recipe(now.cut_from(id_)[0]).figure == figure
    # What is said of one drawing counts for that one.
    own = with_item(now, now.cut_from(id_)[0].id, drawn=Kind.LINES)
    assert own.recipe(own.cut_from(id_)[0]).figure == replace(figure, kind=Kind.LINES)
    tree = to_json(now)
    tree["version"] = 7
    for sheet in tree["sheets"]:
        del sheet["figure"]
    rewritten(path, **{"project.json": json.dumps(tree).encode()})
    assert load(path).document.sheet(id_).figure == AS_FOUND
    said = schema()["$defs"]["figure"]["properties"]["touches"]
    points = said["items"]["properties"]["points"]
    assert (said["maxItems"], points["maxItems"]) == (MOST_TOUCHES, MOST_POINTS)
    tree = to_json(now)
    tree["sheets"][0]["figure"]["touches"][0]["radius"] = 0
    rewritten(path, **{"project.json": json.dumps(tree).encode()})
    with pytest.raises(ProjectError, match="damaged"):
        load(path)

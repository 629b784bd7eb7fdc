"""The receiving end: what it says to what is handed over."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from dimetron.document import edits
from dimetron.document.model import Document
from dimetron.formats.export import export, exported_files
from dimetron.formats.format import readers
from dimetron.formats.handover import Wanted
from dimetron.mesh.joined import joined
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import by_name
from dimetron.mesh.primitives import box
from dimetron.receiving.__main__ import main
from dimetron.receiving.ask import handed_over
from dimetron.receiving.receiver import Answer, received, receivers
from dimetron.receiving.service import ANSWER, ORDER, answer_all, order_of

SIZE = np.array([40.0, 60.0, 100.0])
BODY = box((0, 0, 0), SIZE)


def project(mesh: Mesh = BODY) -> Document:
    return edits.with_mesh(Document(), mesh, "body")[0]


def said(answer: Answer) -> dict[str, bool]:
    return {finding.name: finding.right for finding in answer.findings}


def words(answer: Answer) -> str:
    return "\n".join(finding.words for finding in answer.findings)


@pytest.mark.parametrize(
    ("kind", "how", "name"),
    [
        ("glb", {"unit": "m", "up": "y"}, ""),
        ("glb", {"unit": "mm", "up": "y"}, "unit"),
        ("glb", {"unit": "in", "up": "y"}, "unit"),
        ("glb", {"unit": "m", "up": "z"}, "axis"),
        ("obj", {"unit": "m", "up": "y"}, ""),
        ("obj", {"unit": "cm", "up": "z"}, "unit"),
    ],
)
def test_unit_and_axis_are_told_by_what_was_meant(
    tmp_path: Path, kind: str, how: dict[str, str], name: str
) -> None:
    export(project(), tmp_path / f"a.{kind}", **how)
    answer = received(receivers()["engine"], tmp_path / f"a.{kind}", SIZE)
    assert answer.right is (name == "")
    if name:
        assert said(answer)[name] is False
    if kind == "obj" and how["unit"] == "cm":
        assert said(answer)["axis"] is False, "both are told"
    if name == "axis":
        assert "unit" not in said(answer)
    if name == "unit":
        assert f"seem to be {how['unit']}" in words(answer)


def test_a_size_that_no_unit_explains(tmp_path: Path) -> None:
    export(project(), tmp_path / "a.stl")
    answer = received(receivers()["printer"], tmp_path / "a.stl", SIZE * [1, 1, 1.3])
    assert said(answer)["size"] is False and "are meant" in words(answer)
    assert said(received(receivers()["printer"], tmp_path / "a.stl"))["size"] is True


def test_a_printer_wants_closed_solids_walls_and_room(tmp_path: Path) -> None:
    def at_printer(mesh: Mesh) -> Answer:
        export(project(mesh), tmp_path / "a.stl")
        return received(receivers()["printer"], tmp_path / "a.stl")

    assert at_printer(BODY).right
    open_box = by_name("delete")(BODY, chosen_faces(BODY, [0])).mesh
    answer = at_printer(open_box)
    assert said(answer)["closed"] is False and "open edges" in words(answer)
    answer = at_printer(box((0, 0, 0), (50, 50, 0.4)))
    assert said(answer)["walls"] is False and "0.40 mm thin" in words(answer)
    assert said(at_printer(box((0, 0, 0), (300, 50, 50))))["room"] is False


def chosen_faces(mesh: Mesh, faces: list[int]) -> object:
    from dimetron.mesh.select import Kind, Selection

    return Selection(Kind.FACE, np.array(faces, np.int32))


def test_an_engine_counts_triangles_and_pixels(
    tmp_path: Path, can_project: Document, monkeypatch: pytest.MonkeyPatch
) -> None:
    fine = by_name("subdivide")(BODY, levels=6).mesh
    export(project(joined([fine, BODY, BODY])), tmp_path / "a.glb", unit="m", up="y")
    assert said(received(receivers()["engine"], tmp_path / "a.glb"))["triangles"]
    export(project(joined([fine, fine])), tmp_path / "a.glb", unit="m", up="y")
    answer = received(receivers()["engine"], tmp_path / "a.glb")
    assert said(answer)["triangles"] is False and "reduce it" in words(answer)
    export(can_project, tmp_path / "p.glb", what=("planes",), unit="m", up="y")
    found = received(receivers()["engine"], tmp_path / "p.glb")
    textures = [f for f in found.findings if f.name == "texture"]
    assert len(textures) == 3 and all(f.right for f in textures)
    Image.new("L", (5000, 8)).save(tmp_path / "big.png")
    (tmp_path / "a.mtl").write_text("newmtl x\nmap_Kd big.png\nnewmtl y\nmap_Kd gone.png\n")
    (tmp_path / "a.obj").write_text("mtllib a.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n")
    found = received(receivers()["engine"], tmp_path / "a.obj")
    assert [f.right for f in found.findings if f.name == "texture"] == [False, False]
    assert "at most 4096" in words(found) and "gone.png is missing" in words(found)


def test_what_cannot_be_read_is_answered_too(tmp_path: Path) -> None:
    engine = receivers()["engine"]
    (tmp_path / "a.glb").write_bytes(b"glTF nonsense")
    assert said(received(engine, tmp_path / "a.glb")) == {"file": False}
    assert said(received(engine, tmp_path / "a.stl")) == {"format": False}
    (tmp_path / f"x{ORDER}").write_bytes(b"[1, 2")
    (tmp_path / f"y{ORDER}").write_bytes(order_of("../a.glb", None))
    assert answer_all(tmp_path, engine) == 2
    assert answer_all(tmp_path, engine) == 0, "each is answered once"
    told = json.loads((tmp_path / f"x{ANSWER}").read_bytes())
    assert told["right"] is False and "cannot be read" in told["findings"][0]["words"]
    assert json.loads((tmp_path / f"y{ANSWER}").read_bytes())["file"] == "a.glb"


def test_an_order_names_a_file_of_its_own_folder(tmp_path: Path) -> None:
    export(project(), tmp_path / "a.stl")
    (tmp_path / "in").mkdir()
    (tmp_path / "in" / f"a{ORDER}").write_bytes(order_of("../a.stl", None))
    answer_all(tmp_path / "in", receivers()["printer"])
    assert json.loads((tmp_path / "in" / f"a{ANSWER}").read_bytes())["right"] is False


def test_the_service_answers_from_a_process_of_its_own() -> None:
    files = exported_files(project(), "a", "3mf", Wanted())
    answer = handed_over(files, "a.3mf", "printer", SIZE)
    assert answer.right and answer.receiver == "printer" and answer.file == "a.3mf"


def test_the_service_watches_a_folder_from_the_command_line(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    export(project(), tmp_path / "a.stl")
    (tmp_path / f"a{ORDER}").write_bytes(order_of("a.stl", SIZE))
    looks = iter([False, True])
    assert main([str(tmp_path), "printer"], lambda: next(looks)) == 0
    assert json.loads((tmp_path / f"a{ANSWER}").read_bytes())["right"] is True
    assert main([str(tmp_path / "gone"), "printer"]) == 2
    assert "no such folder" in capsys.readouterr().err
    with pytest.raises(SystemExit):
        main([str(tmp_path), "nobody"])
    assert "engine" in capsys.readouterr().err


def test_receivers_read_what_can_be_read() -> None:
    for receiver in receivers().values():
        assert set(receiver.endings) <= set(readers())
    assert {e for e, found in readers().items() if found.says_unit} == {".glb", ".gltf", ".3mf"}

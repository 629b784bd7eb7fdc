"""Ways to hand a project off, without a window."""

from __future__ import annotations

import io
import json
from dataclasses import asdict
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from dimetron.document import edits
from dimetron.document.container import load, save
from dimetron.document.handing import handed, with_handed
from dimetron.document.model import Document, with_item
from dimetron.formats.filenames import free_file, plain_stem
from dimetron.formats.folder import write_folder
from dimetron.formats.handover import ExportError
from dimetron.geometry.views import View
from dimetron.handoff.putting import handed_off
from dimetron.handoff.way import Given, HandOffError, Stopped, Way, way, ways
from dimetron.mesh.parameters import checked
from dimetron.mesh.primitives import box


def project() -> Document:
    return edits.with_mesh(Document(), box((-10, -20, 0), (10, 20, 30)), "body")[0]


def picture(**choices: object) -> Image.Image:
    taking = way("picture")
    how = taking.restored({"width": 200, "height": 100, **choices})
    return Image.open(io.BytesIO(taking.write(Given(project(), "p"), how)["p.png"]))


@pytest.mark.parametrize("one", ways(), ids=lambda one: one.name)
def test_what_a_way_asks_for_can_be_kept_and_comes_back(one: Way, tmp_path: Path) -> None:
    how = one.how()
    assert checked(how) == how, "what is usual is allowed"
    doc = with_handed(project(), one.name, asdict(how))
    save(doc, tmp_path / "p.dimetron")
    kept = handed(load(tmp_path / "p.dimetron").document, one.name)
    assert one.restored(json.loads(json.dumps(kept))) == how
    assert with_handed(doc, one.name, asdict(how)) is doc
    assert one.hint and one.title and one.verb.endswith("…")


def test_a_picture_is_as_large_as_asked_and_shows_all_of_a_view() -> None:
    shown = np.asarray(picture(view="front", clear=True, shading="solid"))
    assert shown.shape == (100, 200, 4)
    there = shown[..., 3] > 128
    rows, columns = np.flatnonzero(there.any(axis=1)), np.flatnonzero(there.any(axis=0))
    # 20 mm wide and 30 high, with the pane's usual room above and below.
    assert (np.ptp(rows) + 1) / (np.ptp(columns) + 1) == pytest.approx(30 / 20, rel=0.05)
    assert np.ptp(rows) + 1 == pytest.approx(76, abs=2)
    assert set(np.unique(shown[..., 3][2:-2, 2:-2])) <= set(range(256))
    assert (shown[there][:, 3] == 255).mean() > 0.9, "what is solid is so on clear ground"


def test_clear_ground_gives_back_the_picture_on_its_ground() -> None:
    clear = np.asarray(picture(view="front", clear=True, shading="see-through"), float)
    plain = np.asarray(picture(view="front", shading="see-through"), float)
    ground = plain[0, 0]
    alpha = clear[..., 3:] / 255
    assert np.abs(clear[..., :3] * alpha + ground * (1 - alpha) - plain).max() < 4


def test_what_is_not_there_or_too_large_is_said() -> None:
    with pytest.raises(HandOffError, match="no look 3"):
        picture(view="look 3")
    with pytest.raises(HandOffError, match="nothing to turn"):
        turning = way("turntable")
        turning.write(Given(Document(), "t"), turning.how())


def test_a_turntable_turns_once_round() -> None:
    turning = way("turntable")
    how = turning.restored({"kind": "png", "frames": 4, "width": 90, "height": 60, "clear": True})
    told: list[float] = []
    files = turning.write(Given(project(), "t", progress=told.append), how)
    assert sorted(files) == [f"turn-00{k}.png" for k in (1, 2, 3, 4)]
    wide = []
    for name in sorted(files):
        alpha = np.asarray(Image.open(io.BytesIO(files[name])))[..., 3]
        wide.append(int(np.ptp(np.flatnonzero((alpha > 128).any(axis=0)))))
    assert wide[0] == pytest.approx(wide[2], abs=1) and wide[1] == pytest.approx(wide[3], abs=1)
    assert abs(wide[0] - wide[1]) > 3, "it is deeper than it is wide"
    assert told == [0.0, 0.25, 0.5, 0.75]


def test_what_turns_stays_in_the_picture() -> None:
    cube = edits.with_mesh(Document(), box((-20, -20, 0), (20, 20, 40)), "cube")[0]
    turning = way("turntable")
    how = turning.restored(
        {"kind": "png", "frames": 8, "width": 60, "height": 60, "clear": True, "elevation": 60.0}
    )
    for data in turning.write(Given(cube, "t"), how).values():
        alpha = np.asarray(Image.open(io.BytesIO(data)))[..., 3]
        border = np.concatenate([alpha[0], alpha[-1], alpha[:, 0], alpha[:, -1]])
        assert not border.any() and alpha.max() == 255
        assert (alpha > 0).any(axis=1).mean() > 0.7, "and fills it"


def test_stopping_leaves_all_files_as_they_were(tmp_path: Path) -> None:
    def stop(share: float) -> None:
        if share >= 0.5:
            raise Stopped("no more")

    turning = way("turntable")
    how = turning.restored({"kind": "webp", "frames": 4, "width": 32, "height": 32})
    (tmp_path / "t.webp").write_bytes(b"before")
    with pytest.raises(Stopped):
        handed_off(turning, Given(project(), "t", progress=stop), how, tmp_path / "t.webp")
    assert [p.name for p in tmp_path.iterdir()] == ["t.webp"]
    assert (tmp_path / "t.webp").read_bytes() == b"before"


def test_only_what_is_shown_goes_into_the_kit(can_project: Document) -> None:
    doc, _ = edits.with_mesh(can_project, box((0, 0, 0), (5, 5, 5)), "hidden one")
    doc = with_item(doc, doc.meshes[-1].id, shown=False)
    front = next(d for d in doc.drawings if d.view is View.FRONT)
    doc = with_item(doc, front.id, shown=False)
    files = way("kit").write(Given(doc, "kit"), way("kit").how())
    assert b"hidden_one" not in files["meshes.obj"]
    assert len([name for name in files if name.startswith("planes-drawing")]) == 2
    assert len([name for name in files if name.startswith("drawings/")]) == 2


def test_a_folder_is_replaced_only_if_it_is_ours(tmp_path: Path) -> None:
    files = {"a.svg": b"1", "sub/b.svg": b"2"}
    assert len(write_folder(files, tmp_path / "new" / "x")) == 2
    write_folder({**files, "a.svg": b"3"}, tmp_path / "new" / "x")
    assert (tmp_path / "new" / "x" / "a.svg").read_bytes() == b"3"
    (tmp_path / "new" / "x" / "mine.txt").write_text("x")
    with pytest.raises(ExportError, match="holds other things"):
        write_folder(files, tmp_path / "new" / "x")
    written = write_folder(files, tmp_path / "new" / "x", known="a.svg")
    assert [path.name for path in written] == ["b.svg", "a.svg"], "what tells of it comes last"
    with pytest.raises(ExportError, match="this is a file"):
        write_folder(files, tmp_path / "new" / "x" / "a.svg")


def test_names_that_no_system_refuses() -> None:
    assert plain_stem("a/b: c*", "x") == "a-b-c" and plain_stem("///", "x") == "x"
    assert free_file("a", ".svg", {"a.svg", "a-2.svg"}) == "a-3.svg"

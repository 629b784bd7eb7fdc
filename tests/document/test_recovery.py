from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
import threading
from pathlib import Path

import numpy as np
import pytest

from dimetron.document import copies, recovery
from dimetron.document.atomic import Stamp
from dimetron.document.container import save
from dimetron.document.edits import with_mesh, with_sheet
from dimetron.document.model import Document, source_from, with_item
from dimetron.document.serial import ProjectError
from dimetron.mesh.primitives import box

_WORKER = """
import sys, time
from pathlib import Path

import pytest
from dimetron.document.edits import with_mesh
from dimetron.document.model import Document
from dimetron.document.recovery import Keeper
from dimetron.mesh.primitives import box
keeper = Keeper(Path(sys.argv[1]))
keeper.keep(with_mesh(Document(), box((0, 0, 0), (1, 1, 1)), "body")[0], Path("/shop/can.dimetron"))
print("kept", flush=True)
time.sleep(60)
"""


def test_work_of_a_killed_window_is_found_and_that_of_a_living_one_is_not(tmp_path: Path) -> None:
    worker = subprocess.Popen(
        [sys.executable, "-c", _WORKER, str(tmp_path)], stdout=subprocess.PIPE
    )
    assert worker.stdout is not None
    assert worker.stdout.readline().strip() == b"kept"
    assert recovery.found(tmp_path) == []
    os.kill(worker.pid, signal.SIGKILL)
    worker.wait()
    worker.stdout.close()
    (copy,) = recovery.found(tmp_path)
    assert copy.saved_as == Path("/shop/can.dimetron")
    assert recovery.opened(copy).document.meshes[0].name == "body"
    recovery.discard(copy)
    assert recovery.found(tmp_path) == []
    assert list(tmp_path.iterdir()) == []


def test_forgetting_removes_the_copy(tmp_path: Path) -> None:
    keeper = recovery.Keeper(tmp_path / "new folder")
    doc, _ = with_mesh(Document(), box((0, 0, 0), (1, 1, 1)), "body")
    keeper.keep(doc, None)
    keeper.keep(doc, None)
    assert keeper.file.exists()
    keeper.forget()
    assert list((tmp_path / "new folder").iterdir()) == []


def test_a_copy_writes_only_what_is_new_and_keeps_only_what_it_needs(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    looked_at = []
    put = copies.Copier._put
    monkeypatch.setattr(
        copies.Copier, "_put", lambda self, data: (looked_at.append(len(data)), put(self, data))[1]
    )
    source = source_from(b"a picture" * 1000, "front.png", "png", (8, 8))
    doc, id_ = with_mesh(with_sheet(Document(), source)[0], box((0, 0, 0), (1, 1, 1)), "body")
    keeper = recovery.Keeper(tmp_path)
    keeper.keep(doc, None)
    parts = keeper.file.with_suffix(".parts")
    first = {part.name: part.stat().st_mtime_ns for part in parts.iterdir()}
    assert len(first) == 2
    # Only the mesh is another: the picture is neither read nor written again.
    moved = box((0, 0, 0), (2, 1, 1))
    keeper.keep(with_item(doc, id_, mesh=moved, name="longer"), None)
    assert len(looked_at) == 3
    second = {part.name: part.stat().st_mtime_ns for part in parts.iterdir()}
    assert len(second) == 2 and len(first.keys() & second.keys()) == 1
    assert all(second[name] == first[name] for name in first.keys() & second.keys())
    keeper.let_go()
    (copy,) = recovery.found(tmp_path)
    opened = recovery.opened(copy)
    assert opened.notes == () and opened.document.sources == doc.sources
    assert opened.document.meshes[0].name == "longer"
    assert np.array_equal(opened.document.meshes[0].mesh.positions, moved.positions)


def test_a_copy_that_somebody_cleared_away_is_made_whole_again(tmp_path: Path) -> None:
    source = source_from(b"a picture", "front.png", "png", (8, 8))
    doc, id_ = with_mesh(with_sheet(Document(), source)[0], box((0, 0, 0), (1, 1, 1)), "body")
    keeper = recovery.Keeper(tmp_path)
    keeper.keep(doc, None)
    shutil.rmtree(keeper.file.with_suffix(".parts"))
    keeper.keep(with_item(doc, id_, name="renamed"), None)
    keeper.let_go()
    (copy,) = recovery.found(tmp_path)
    opened = recovery.opened(copy)
    assert opened.notes == () and opened.document.sources == doc.sources
    assert opened.document.meshes[0].name == "renamed"


def test_of_a_damaged_copy_the_rest_comes_back(tmp_path: Path) -> None:
    source = source_from(b"a picture", "front.png", "png", (8, 8))
    doc, _ = with_mesh(with_sheet(Document(), source)[0], box((0, 0, 0), (1, 1, 1)), "body")
    keeper = recovery.Keeper(tmp_path)
    keeper.keep(doc, None)
    keeper.let_go()
    (copy,) = recovery.found(tmp_path)
    for part in copy.file.with_suffix(".parts").iterdir():
        if part.read_bytes().startswith(b"ply"):
            part.write_bytes(part.read_bytes()[:-9] + b"otherwise")
    opened = recovery.opened(copy)
    assert "“body” is missing or damaged" in opened.notes[0]
    assert opened.document.sources == doc.sources and not opened.document.meshes
    # A picture of which a byte is another would be taken for the one that was drawn over.
    for part in copy.file.with_suffix(".parts").iterdir():
        if part.read_bytes() == b"a picture":
            part.write_bytes(b"a pictuse")
    opened = recovery.opened(copy)
    assert any("front.png" in note for note in opened.notes)
    assert opened.document.sources[0].data is None
    copy.file.write_text('{"project": 7}')
    with pytest.raises(ProjectError, match="damaged"):
        recovery.opened(copy)
    recovery.discard(copy)
    assert list(tmp_path.iterdir()) == []


def test_a_copy_of_an_earlier_version_is_opened(tmp_path: Path) -> None:
    doc, _ = with_mesh(Document(), box((0, 0, 0), (1, 1, 1)), "body")
    save(doc, tmp_path / "old.dimetron")
    (copy,) = recovery.found(tmp_path)
    assert recovery.opened(copy).document.meshes[0].name == "body"


def test_a_spoiled_note_does_not_hide_the_copy(tmp_path: Path) -> None:
    (tmp_path / "x.dimetron").write_bytes(b"whatever")
    (tmp_path / "x.json").write_text("[1, 2")
    (copy,) = recovery.found(tmp_path)
    assert copy.saved_as is None
    assert recovery.found(tmp_path / "no such folder") == []


def test_a_copy_that_has_no_note_yet_is_offered_and_half_made_things_are_cleared(
    tmp_path: Path,
) -> None:
    doc, _ = with_mesh(Document(), box((0, 0, 0), (1, 1, 1)), "body")
    save(doc, tmp_path / "first.dimetron")
    (tmp_path / "killed.json").write_text("{}")
    (tmp_path / "killed.lock").touch()
    (tmp_path / ".dimetron-0123-x.part").touch()
    (copy,) = recovery.found(tmp_path)
    assert copy.file.name == "first.dimetron" and copy.saved_as is None
    assert [p.name for p in tmp_path.iterdir()] == ["first.dimetron"]


def test_a_look_for_copies_never_makes_a_living_one_fail_or_ownerless(tmp_path: Path) -> None:
    keeper = recovery.Keeper(tmp_path)
    doc, _ = with_mesh(Document(), box((0, 0, 0), (1, 1, 1)), "body")
    stop, seen = threading.Event(), []

    def look() -> None:
        while not stop.is_set():
            seen.extend(recovery.found(tmp_path))

    other = threading.Thread(target=look)
    other.start()
    for number in range(12):
        keeper.keep(doc, tmp_path / f"{number}.dimetron")
    stop.set()
    other.join()
    assert seen == []
    keeper.let_go()
    (copy,) = recovery.found(tmp_path)
    assert copy.saved_as == tmp_path / "11.dimetron"


def test_the_note_holds_a_whole_path(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    keeper = recovery.Keeper(tmp_path / "state")
    keeper.keep(Document(), Path("can.dimetron"), Stamp(1, 2, 3))
    keeper.let_go()
    (copy,) = recovery.found(tmp_path / "state")
    assert copy.saved_as == tmp_path / "can.dimetron"
    assert copy.stamp == Stamp(1, 2, 3)


def test_the_newest_copy_is_offered_first(tmp_path: Path) -> None:
    for number in range(3):
        keeper = recovery.Keeper(tmp_path)
        keeper.keep(Document(), tmp_path / f"{number}.dimetron")
        keeper.let_go()
        os.utime(keeper.file, (1000 + number, 1000 + number))
    names = [copy.saved_as.name for copy in recovery.found(tmp_path) if copy.saved_as]
    assert names == ["2.dimetron", "1.dimetron", "0.dimetron"]

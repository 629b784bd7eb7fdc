"""Files are written whole or not at all, and only where a file may be."""

from __future__ import annotations

import fcntl
import os
import stat
from pathlib import Path

import pytest

from dimetron.document import atomic
from dimetron.document.atomic import ChangedError, ProtectedError, WriteError
from dimetron.document.container import load, save
from dimetron.document.locks import hold
from dimetron.document.serial import ProjectError
from dimetron.formats.export import export
from dimetron.imaging.errors import PictureError
from dimetron.imaging.files import file_bytes
from tests.document.test_container import sample


def left_in(folder: Path) -> list[str]:
    return sorted(p.name for p in folder.iterdir())


def test_what_is_no_file_is_neither_replaced_nor_read(tmp_path: Path) -> None:
    pipe, round_ = tmp_path / "pipe", tmp_path / "round"
    os.mkfifo(pipe)
    round_.symlink_to(round_)
    for path, words in ((pipe, "a pipe"), (round_, "in a circle"), (tmp_path, "a folder")):
        with pytest.raises(WriteError, match=words):
            save(sample(), path)
    assert stat.S_ISFIFO(pipe.stat().st_mode)
    with pytest.raises(ProjectError, match="a pipe"):
        load(pipe)
    with pytest.raises(PictureError, match="a pipe"):
        file_bytes(pipe)
    with pytest.raises(ProjectError, match="symbolic links"):
        load(round_)
    assert left_in(tmp_path) == ["pipe", "round"]


def test_what_a_killed_write_left_is_cleared_and_what_is_being_written_is_not(
    tmp_path: Path,
) -> None:
    path = tmp_path / "a.dimetron"
    dead, _ = atomic._temporary(path)
    _.close()
    alive, held = atomic._temporary(path)
    save(sample(), path)
    assert left_in(tmp_path) == sorted([Path(alive).name, "a.dimetron"])
    held.close()
    atomic.clear_parts(tmp_path)
    assert left_in(tmp_path) == ["a.dimetron"]
    assert not Path(dead).exists()


def test_a_file_that_changed_or_is_protected_is_left_unless_told_otherwise(tmp_path: Path) -> None:
    path = tmp_path / "a.dimetron"
    stamp = save(sample(), path)
    assert load(path).stamp == stamp
    stamp = save(sample(), path, only_over=stamp)
    path.write_bytes(b"someone else's")
    with pytest.raises(ChangedError, match="changed by another program"):
        save(sample(), path, only_over=stamp)
    assert path.read_bytes() == b"someone else's"
    path.chmod(0o444)
    with pytest.raises(ProtectedError, match="write-protected"):
        save(sample(), path)
    assert path.read_bytes() == b"someone else's"
    save(sample(), path, over_protected=True)
    assert stat.S_IMODE(path.stat().st_mode) == 0o444
    assert left_in(tmp_path) == ["a.dimetron"]


def test_the_change_is_seen_though_it_comes_while_one_writes(tmp_path: Path) -> None:
    path = tmp_path / "a"
    path.write_bytes(b"old")

    def meanwhile(out: object) -> None:
        path.write_bytes(b"another's")

    with pytest.raises(ChangedError):
        atomic.write_whole(path, meanwhile, only_over=atomic.stamp_of(path))
    assert path.read_bytes() == b"another's"


@pytest.mark.skipif(os.geteuid() != 0, reason="only root can give files away")
def test_the_owner_is_kept(tmp_path: Path) -> None:
    path = tmp_path / "a.dimetron"
    path.write_bytes(b"")
    os.chown(path, 1234, 4321)
    save(sample(), path)
    assert (path.stat().st_uid, path.stat().st_gid) == (1234, 4321)


def test_long_and_odd_names_can_be_written(tmp_path: Path) -> None:
    for name in ("🦎" * 62, os.fsdecode(b"f\xff.png"), "ä" * 127):
        atomic.write_bytes(tmp_path / name, b"x")
        assert (tmp_path / name).read_bytes() == b"x"


def test_an_export_that_fails_takes_its_other_files_along(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "a.obj").mkdir()
    with pytest.raises(WriteError):
        export(sample(), tmp_path / "a.obj", what=("meshes", "planes"))
    assert left_in(tmp_path) == ["a.obj"]


def test_a_project_is_held_by_one_window(tmp_path: Path) -> None:
    path = tmp_path / "a.dimetron"
    save(sample(), path)
    first = hold(path)
    assert first is not None
    assert hold(path) is None
    first.let_go()
    again = hold(path)
    assert again is not None
    again.let_go()
    nothing = hold(tmp_path / "not there")
    assert nothing is not None
    nothing.let_go()


def test_a_file_system_without_locks_is_no_hindrance(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def none(*_: object) -> None:
        raise OSError(38, "not implemented")

    monkeypatch.setattr(fcntl, "flock", none)
    save(sample(), tmp_path / "a.dimetron")
    held = hold(tmp_path / "a.dimetron")
    assert held is not None
    held.let_go()

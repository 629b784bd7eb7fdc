"""Mesh files read in a process of their own, as a window has them read."""

from __future__ import annotations

import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest

from dimetron import apart
from dimetron.formats.apart.ask import Stopped, read_apart
from dimetron.formats.format import MeshFileError
from dimetron.formats.reading import read_meshes

_GROUPED = """o körper
v 0 0 0
v 2 0 0
v 2 1 0
v 0 1 0
v 1 2 0
vt 0 0
vt 1 0
vt 1 1
vt 0 1
g deckel
usemtl rot
f 1/1 2/2 3/3 4/4
g rest
f 4/1 3/2 5/3
f 4/1 3/2 17/3
"""


def test_what_comes_from_there_is_what_is_read_here(tmp_path: Path) -> None:
    path = tmp_path / "two words.obj"
    path.write_text(_GROUPED)
    here, there = read_meshes(path, "cm", "y"), read_apart(path, "cm", "y")
    assert (there.name, there.odd, there.unit, there.up) == ("two words.obj", here.odd, "cm", "y")
    (mine,), (other,) = here.parts, there.parts
    assert mine.name == other.name
    assert np.array_equal(mine.mesh.positions, other.mesh.positions)
    assert np.array_equal(mine.mesh.topology.corners, other.mesh.topology.corners)
    assert mine.mesh.layers.keys() == other.mesh.layers.keys() >= {"group", "material", "uv"}
    for name, layer in mine.mesh.layers.items():
        beside = other.mesh.layers[name]
        assert beside.on is layer.on and beside.names == layer.names
        assert np.array_equal(beside.values, layer.values, equal_nan=True)


def test_each_of_several_meshes_comes_from_there(tmp_path: Path) -> None:
    path = tmp_path / "two.obj"
    path.write_text(
        "o a\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\no b\nv 5 0 0\nv 6 0 0\nv 5 1 0\nf 4 5 6\n"
    )
    here, there = read_meshes(path, "mm", "z"), read_apart(path, "mm", "z")
    assert [part.name for part in there.parts] == ["a", "b"]
    for mine, other in zip(here.parts, there.parts, strict=True):
        assert np.array_equal(mine.mesh.positions, other.mesh.positions)


def test_what_is_refused_there_is_said_in_the_same_words(tmp_path: Path) -> None:
    for name, data in (
        ("a.stl", b"solid"),
        ("b.obj", b"v 0 0 0\n"),
        ("c.xyz", b"1"),
        ("d.ply", b""),
    ):
        path = tmp_path / name
        path.write_bytes(data)
        with pytest.raises(MeshFileError) as here:
            read_meshes(path)
        with pytest.raises(MeshFileError) as there:
            read_apart(path, None, None)
        assert str(there.value) == str(here.value)
    with pytest.raises(MeshFileError, match=r"gone\.stl"):
        read_apart(tmp_path / "gone.stl", None, None)


def test_it_ends_when_nobody_wants_it_any_more(tmp_path: Path) -> None:
    path = tmp_path / "large.obj"
    path.write_text("v 0 0 0\nv 1 0 0\nv 0 1 0\n" + "f 1 2 3\n" * 3_000_000)
    began = time.monotonic()
    with pytest.raises(Stopped):
        read_apart(path, None, None, lambda: time.monotonic() > began + 0.2)
    # Reading it takes many times that long.
    assert time.monotonic() - began < 10
    with pytest.raises(apart.TooLong):
        apart.answer("dimetron.formats.apart", (b"{}",), 0.0)


def test_one_that_its_limits_end_is_told(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "a.stl"
    path.write_bytes(b"solid")
    monkeypatch.setattr(apart, "answer", lambda *_: b"")
    with pytest.raises(MeshFileError, match=r"a\.stl cannot be read: .* memory"):
        read_apart(path, None, None)


def test_memory_beyond_its_limit_is_not_to_be_had() -> None:
    code = (
        "from dimetron import apart; apart.begin(10, 1 << 30); import numpy as np\n"
        "try: np.ones(1 << 28); print('had')\n"
        "except MemoryError: print('refused')\n"
    )
    told = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert told.stdout.strip() == "refused"

"""``dimetron mesh`` as others' scripts use it: every operation by its name, in order."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from dimetron.cli import main
from dimetron.formats.reading import read_meshes
from dimetron.mesh.mesh import from_faces
from dimetron.mesh.ply import to_ply
from dimetron.mesh.primitives import box

Told = dict[str, Any]


@pytest.fixture
def cubes(tmp_path: Path) -> Path:
    """Two cubes of ten that overlap in a corner of five."""
    (tmp_path / "a.ply").write_bytes(to_ply(box((0, 0, 0), (10, 10, 10))))
    (tmp_path / "b.ply").write_bytes(to_ply(box((5, 5, 5), (15, 15, 15))))
    return tmp_path


def done(
    folder: Path, capsys: pytest.CaptureFixture[str], *operations: str, files: str = "a.ply"
) -> Told:
    given = [str(folder / name) for name in files.split()]
    do = [word for one in operations for word in ("--do", one)]
    code = main(["mesh", *given, "--out", str(folder / "out.obj"), *do, "--json"])
    said = capsys.readouterr()
    assert code == 0, said.err
    told: Told = json.loads(said.out)
    return told


@pytest.mark.parametrize(
    ("operations", "faces", "volume", "closed"),
    [
        (["triangulate", "quads"], 6, 1000, True),
        (["select=faces:facing=+z", "delete", "fill-holes"], 6, 1000, True),
        (["select=faces:facing=+z", "delete", "thicken=1"], 14, 584, True),
        (["select=faces:facing=+z", "inset=2", "extrude=3"], 14, 1108, True),
        (["select=edges:all", "bevel=1"], 26, 945.333, True),
        (["select=edges:all", "bevel=1,segments=3"], 50, 970.788, True),
        (["select=edges:along=z", "loops=3"], 18, 1000, True),
        (["radial=4", "weld=0.001"], 24, 4000, None),
        (["row=3,step=20"], 18, 3000, True),
        (["row=3,step=20,axis=z"], 18, 3000, True),
        (["taper=0.5"], 6, 583.333, True),
        (["taper=0.5,axis=x"], 6, 583.333, True),
        (["select=edges:along=z", "loops=9", "select=all", "twist=90"], 42, None, True),
        (["hollow=2"], 12, 784, True),
        (["even=x"], 10, 2000, True),
        (["cut=z:4"], 6, 600, True),
        (["cut=x:2.5"], 6, 750, True),
        (["remesh=1"], None, 970, True),
        (["remesh=1", "reduce=200"], 200, 970, True),
    ],
)
def test_operations_by_their_names(
    cubes: Path,
    capsys: pytest.CaptureFixture[str],
    operations: list[str],
    faces: int | None,
    volume: float | None,
    closed: bool | None,
) -> None:
    told = done(cubes, capsys, *operations)
    if faces is not None:
        assert told["faces"] == faces
    if volume is not None:
        assert told["volume_mm3"] == pytest.approx(volume, rel=0.01)
    if closed is not None:
        assert told["closed"] is closed
    assert told["nonmanifold_edges"] == 0 or "radial=4" in operations
    assert told["loose_vertices"] == 0


@pytest.mark.parametrize(
    ("name", "volume"), [("union", 1875), ("difference", 875), ("intersection", 125)]
)
def test_all_that_was_read_becomes_one_solid(
    cubes: Path, capsys: pytest.CaptureFixture[str], name: str, volume: float
) -> None:
    told = done(cubes, capsys, name, files="a.ply b.ply")
    assert told["volume_mm3"] == pytest.approx(volume)
    assert (told["closed"], told["shells"], told["flipped_faces"]) == (True, 1, 0)
    # In the order they were given.
    if name == "difference":
        other = done(cubes, capsys, name, files="b.ply a.ply")
        assert other["volume_mm3"] == pytest.approx(875)
        written = read_meshes(cubes / "out.obj").parts[0].mesh
        assert np.allclose(written.bounds[1], 15)


def test_what_is_laid_on_the_others_leaves_them_as_they_are(
    cubes: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    done(cubes, capsys, "select=faces:facing=+z", "lay-on", files="a.ply b.ply")
    parts = read_meshes(cubes / "out.obj").parts
    whole = np.concatenate([part.mesh.positions for part in parts])
    # The second cube reaches from 5 to 15 along all axes; its top is farther than its bottom.
    assert len(whole) == 16 and whole.max() == 15
    assert np.isclose(whole, (5, 5, 10)).all(axis=1).any()


def test_two_borders_are_bridged_and_parts_told_apart(
    cubes: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    told = done(
        cubes, capsys,
        *("row=2,step=20,axis=z", "select=faces:facing=+z", "delete", "select=edges:border"),
    )  # fmt: skip
    assert told["open_edges"] == 8
    low = box((0, 0, 0), (10, 10, 10)).positions
    rings = np.array([[0, 1, 5, 4], [3, 2, 6, 7], [1, 3, 7, 5], [2, 0, 4, 6]])
    tubes = from_faces(
        np.concatenate([low, low + np.array([0, 0, 20])]),
        [*rings.tolist(), [0, 2, 3, 1], *(rings + 8).tolist(), [12, 13, 15, 14]],
    )
    (cubes / "t.ply").write_bytes(to_ply(tubes))
    joined = done(cubes, capsys, "select=edges:border", "bridge", files="t.ply")
    assert (joined["closed"], joined["volume_mm3"]) == (True, pytest.approx(3000))
    assert done(cubes, capsys, "row=3,step=20", "separate=shells")["shells"] == 3


@pytest.mark.parametrize(
    ("operation", "words"),
    [
        ("cut=z:40", "Nothing would be left"),
        ("cut=z", "write cut=x|y|z:MM"),
        ("cut=w:3", "cut=x|y|z:MM"),
        ("hollow=9", "too thick"),
        ("union", "two meshes or more"),
        ("fill-holes", "no hole to fill"),
        ("bridge", "two borders"),
        ("inset=0", "width or a depth"),
        ("radial=1", "between 2 and"),
        ("reduce=3", "4 or more"),
        ("remesh=-1", "or more"),
        ("bevel=nan", "needs a length"),
    ],
)
def test_what_has_no_meaning_leaves_with_one_sentence_and_no_file(
    cubes: Path, capsys: pytest.CaptureFixture[str], operation: str, words: str
) -> None:
    out = cubes / "none.obj"
    code = main(["mesh", str(cubes / "a.ply"), "--out", str(out), "--do", operation])
    said = capsys.readouterr()
    assert code == 2
    assert words in said.err
    assert said.err.count("\n") == 1
    assert not out.exists()
    assert not said.out


def test_open_meshes_are_no_solids(cubes: Path, capsys: pytest.CaptureFixture[str]) -> None:
    given = [str(cubes / "a.ply"), str(cubes / "b.ply"), "--out", str(cubes / "o.ply")]
    do = ["--do", "select=faces:facing=+z", "--do", "delete", "--do", "union"]
    assert main(["mesh", *given, *do]) == 2
    assert "not closed: 4 edges are open" in capsys.readouterr().err

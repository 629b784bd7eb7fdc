"""Nothing is left in a project that names what is gone; what is saved is what comes back."""

from __future__ import annotations

import json
import zipfile
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from dimetron.document import edits, loosening, preparing, registering
from dimetron.document.atomic import WriteError
from dimetron.document.container import load, save
from dimetron.document.model import Document
from dimetron.document.names import plain_name
from dimetron.document.naming import tidied, without
from dimetron.document.parts import Group, SavedLook
from dimetron.document.serial import check, to_json
from dimetron.geometry.views import View
from dimetron.registration.problem import Length, PictureLength
from tests.document.random_edits import Edits, source
from tests.document.test_container import rewritten, same


@pytest.fixture
def known() -> tuple[Document, str, str]:
    """Two drawings of which everything is known that can be, and the first one's and sheet's id."""
    doc, front = edits.with_drawing(Document(), replace(source(), id="s1"), View.FRONT)
    doc, side = edits.with_drawing(doc, replace(source(), id="s2"), View.RIGHT)
    for name in ("nose", "tail"):
        doc = registering.marked(doc, name, front, (3.0, 4.0))
        doc = registering.marked(doc, name, side, (5.0, 6.0))
    doc = registering.with_mirror(doc, "nose", "tail")
    doc = registering.with_length(doc, Length("nose", "tail", 40.0))
    doc = registering.with_drawing_length(doc, PictureLength(front, (0, 0), (9, 9), 10.0))
    doc = registering.with_trust(registering.with_pinned(doc, front, True), front, 2.0)
    look = SavedLook(
        "l1", "look 1", (), ("side",), None, (0.5, 0.5), (0, 0, 0), 1.0, (0, 0, 0), 0.0, 0.0, 1.0,
        False, (front, side),
    )  # fmt: skip
    doc = replace(doc, looks=(look,), solo=(front,), order=(side, front))
    check(doc)
    return doc, front, doc.drawing(front).sheet


def names_nothing_of(doc: Document, id_: str) -> bool:
    return id_ not in json.dumps(to_json(doc))


@pytest.mark.parametrize("way", ["delete", "remove its sheet", "loosen", "cut anew"])
def test_whatever_takes_a_drawing_away_takes_along_what_names_it(
    known: tuple[Document, str, str], way: str, tmp_path: Path
) -> None:
    doc, front, sheet = known
    if way == "delete":
        after = edits.without_item(doc, front)
    elif way == "remove its sheet":
        after = edits.without_sheet(doc, sheet)
    elif way == "loosen":
        after = loosening.loosened(doc, front)
    else:
        drawings = tuple(replace(d, placed=d.id != front) for d in doc.drawings)
        after = preparing.with_found_views(replace(doc, drawings=drawings), sheet, [])
    assert names_nothing_of(after, front) or way == "loosen"
    assert [m.picture for m in after.sightings] == [after.drawings[0].id] * 2
    assert (after.pinned, after.trust, after.drawing_lengths, after.solo) == ((), (), (), ())
    assert after.looks[0].drawings == (after.drawings[0].id,)
    save(after, tmp_path / "a.dimetron")
    opened = load(tmp_path / "a.dimetron")
    assert same(opened.document, after) and opened.notes == ()


def test_what_is_whole_is_left_as_it_is(known: tuple[Document, str, str]) -> None:
    doc = known[0]
    assert tidied(doc) is doc
    assert without(doc, ("nobody",)) == doc
    twice = replace(doc, pinned=doc.pinned * 2, sightings=doc.sightings * 2)
    assert tidied(twice) == doc


def test_a_landmark_goes_with_its_marks_lengths_and_twin(known: tuple[Document, str, str]) -> None:
    after = registering.without_landmark(known[0], "tail")
    assert [m.name for m in after.landmarks] == ["nose"]
    assert after.landmarks[0].mirror is None
    assert after.lengths == () and {m.landmark for m in after.sightings} == {"nose"}


def test_two_guides_of_one_mark_become_one(known: tuple[Document, str, str]) -> None:
    doc, front, _ = known
    mark = doc.sightings[0]
    doc = replace(doc, sightings=(replace(mark, axis=0), replace(mark, axis=2), *doc.sightings[1:]))
    assert len(registering.guided(doc, "nose", front, None).sightings) == len(doc.sightings) - 1


def test_of_what_stands_there_twice_the_first_stays(known: tuple[Document, str, str]) -> None:
    doc, front, _ = known
    side, mark = doc.drawings[1].id, doc.sightings[0]
    twice = replace(
        doc,
        sightings=(*doc.sightings, replace(mark, px=(1.0, 2.0))),
        trust=((front, 3.0), (side, 2.0), (front, 5.0)),
    )
    after = tidied(twice)
    assert after.sightings == doc.sightings
    assert after.trust == ((front, 3.0), (side, 2.0))


def test_a_project_that_an_earlier_version_damaged_opens_without_what_names_nothing(
    known: tuple[Document, str, str], tmp_path: Path
) -> None:
    doc, front, sheet = known
    path = tmp_path / "a.dimetron"
    save(doc, path)
    tree = to_json(doc)
    # What removing a sheet left behind.
    tree["sheets"] = [s for s in tree["sheets"] if s["id"] != sheet]
    tree["drawings"] = [d for d in tree["drawings"] if d["id"] != front]
    tree["looks"][0]["focus"] = [3e9, 0, 0]
    rewritten(path, **{"project.json": json.dumps(tree).encode()})
    opened = load(path)
    assert [d.view for d in opened.document.drawings] == [View.RIGHT]
    assert len(opened.document.sightings) == 2 and opened.document.looks == ()
    assert "look of the board" in opened.notes[0]
    assert "3 marks or lengths" in opened.notes[1]
    save(opened.document, path)
    assert load(path).notes == ()


@pytest.mark.parametrize(
    ("change", "where"),
    [
        (lambda d: replace(d, pinned=("nobody",)), "not there"),
        (lambda d: replace(d, solo=("a\n",)), "solo/0"),
        (lambda d: replace(d, looks=(replace(d.looks[0], focus=(1e9, 0, 0)),)), "looks/0/focus/0"),
        (lambda d: replace(d, looks=(replace(d.looks[0], mm_per_px=float("nan")),)), "mm_per_px"),
        (lambda d: replace(d, sheets=(replace(d.sheets[0], name="\udcff"),)), "a picture|no text"),
        (lambda d: replace(d, groups=(Group("g", "\udcff"),)), "no text"),
    ],
)
def test_what_could_not_be_opened_again_is_not_saved(
    known: tuple[Document, str, str], tmp_path: Path, change: object, where: str
) -> None:
    path = tmp_path / "a.dimetron"
    save(known[0], path)
    before = path.read_bytes()
    with pytest.raises(WriteError, match=where) as caught:
        save(change(known[0]), path)  # type: ignore[operator]
    assert "a.dimetron was not saved" in str(caught.value)
    assert path.read_bytes() == before


@pytest.mark.parametrize("text", [b"NaN", b"Infinity", b"1e999", b"-1e400", b"1" + b"0" * 400])
def test_numbers_that_are_none_are_refused(
    known: tuple[Document, str, str], tmp_path: Path, text: bytes
) -> None:
    path = tmp_path / "a.dimetron"
    save(known[0], path)
    with zipfile.ZipFile(path) as file:
        whole = file.read("project.json")
    spoiled = whole.replace(b'"fade": 0.85', b'"fade": ' + text, 1)
    assert spoiled != whole
    rewritten(path, **{"project.json": spoiled})
    with pytest.raises(ValueError, match="damaged"):
        load(path)


def test_two_pictures_that_name_one_file_are_refused(
    known: tuple[Document, str, str], tmp_path: Path
) -> None:
    path = tmp_path / "a.dimetron"
    save(known[0], path)
    tree = to_json(known[0])
    tree["sources"][1]["file"] = tree["sources"][0]["file"]
    rewritten(path, **{"project.json": json.dumps(tree).encode()})
    with pytest.raises(ValueError, match="name one file"):
        load(path)


def test_names_are_text_that_any_program_can_carry() -> None:
    assert plain_name(" f\udcff\nö ") == "f? ö"
    assert len(plain_name("x" * 900)) == 200


@settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.data())
def test_any_sequence_of_edits_is_saved_and_comes_back_equal(
    tmp_path: Path, data: st.DataObject
) -> None:
    choose = Edits(lambda n: data.draw(st.integers(0, n - 1)))
    doc = Document()
    for _ in range(data.draw(st.integers(1, 25))):
        doc, _ = choose.apply(doc)
    save(doc, tmp_path / "a.dimetron")
    opened = load(tmp_path / "a.dimetron")
    assert same(opened.document, doc)
    assert opened.notes == ()


def test_a_mesh_that_packs_absurdly_well_is_still_opened(tmp_path: Path) -> None:
    import numpy as np

    from dimetron.mesh.mesh import from_faces

    flat = from_faces(np.zeros((900_000, 3)), np.zeros((0, 3), np.int32))
    doc, _ = edits.with_mesh(Document(), flat, "a heap of points")
    save(doc, tmp_path / "a.dimetron")
    assert load(tmp_path / "a.dimetron").document.meshes[0].name == "a heap of points"

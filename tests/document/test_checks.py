"""Size checks, ties and notes in a project."""

from __future__ import annotations

import json
from dataclasses import replace
from importlib.resources import files

import numpy as np
import pytest

from dimetron.document import edits, registering
from dimetron.document.checks import (
    end_at,
    said_of,
    sized,
    tied_to,
    ties_of,
    untied,
    with_distance,
    with_extent_check,
    with_note,
    with_note_text,
    with_size,
    without_note,
    without_size,
)
from dimetron.document.model import Document, SizeEnd, Smoothing, with_item
from dimetron.document.naming import without
from dimetron.document.serial import from_json, parsed, to_json
from dimetron.document.sizing import scaled_project
from dimetron.geometry.views import View
from dimetron.mesh.layers import Layer, On
from dimetron.mesh.operation import by_name
from dimetron.mesh.ply import from_ply, to_ply
from dimetron.mesh.primitives import box
from dimetron.mesh.spots import Spot, marked, spot_of, spot_on, with_spot, without_spot
from dimetron.registration.problem import Landmark
from tests.mesh.truth import selected, vertex_at

BOX = box((0, 0, 0), (100, 60, 40))


@pytest.fixture
def doc() -> Document:
    made, _ = edits.with_mesh(Document(), BOX, "block")
    return replace(made, landmarks=(Landmark("tip", (0.0, 0.0, 50.0)),))


def distance(doc: Document, axis: int | None = None) -> Document:
    id_ = doc.meshes[0].id
    doc, a = end_at(doc, id_, Spot((vertex_at(BOX, 0, 0, 0),)))
    doc, b = end_at(doc, id_, Spot((vertex_at(BOX, 100, 60, 40),)))
    return with_distance(doc, a, b, axis, {})[0]


def test_a_marked_vertex_goes_along_with_what_is_done_to_its_mesh(doc: Document) -> None:
    marked = with_spot(BOX, "here", Spot((vertex_at(BOX, 100, 60, 40),)))
    for name, numbers in (("subdivide", {"levels": 1}), ("triangulate", {}), ("flip", {})):
        after = by_name(name)(marked, **numbers).mesh
        at = spot_of(after, "here")
        assert at is not None and at[0] > 50
    around = by_name("radial")(marked, copies=4).mesh
    assert len(around.positions) > len(marked.positions)
    assert spot_of(around, "here") == pytest.approx([100, 60, 40])
    moved = marked.with_positions(marked.positions * 2)
    assert spot_of(moved, "here") == pytest.approx([200, 120, 80])
    away = by_name("delete")(marked, selected(marked, "faces:facing=+x")).mesh
    away = by_name("delete")(away, selected(away, "faces:facing=+z")).mesh
    away = by_name("delete")(away, selected(away, "faces:facing=+y")).mesh
    assert spot_of(away, "here") is None
    assert spot_of(from_ply(to_ply(marked)), "here") == pytest.approx([100, 60, 40])
    assert spot_of(without_spot(marked, "here"), "here") is None


def test_distances_hold_until_the_mesh_is_another(doc: Document) -> None:
    doc = distance(doc)
    (check,) = doc.sizes
    now = sized(doc, check, {})
    assert now.mm == pytest.approx(np.sqrt(100**2 + 60**2 + 40**2))
    assert now.holds(check) and now.ends is not None
    assert said_of(doc, check) == "block to block, straight"
    block = doc.meshes[0]
    scaled = block.mesh.with_positions(block.mesh.positions * 1.01)
    larger = with_item(doc, block.id, mesh=scaled)
    assert not sized(larger, check, {}).holds(check)
    assert sized(larger, check, {}).off(check) == pytest.approx(0.01 * check.mm, rel=1e-3)
    less = block.mesh.with_positions(block.mesh.positions * 0.99)
    assert not sized(with_item(doc, block.id, mesh=less), check, {}).holds(check)
    wide = with_size(larger, check.id, tolerance_mm=2.0)
    assert sized(wide, wide.sizes[0], {}).holds(wide.sizes[0])
    along = distance(doc, axis=1).sizes[-1]
    assert along.mm == pytest.approx(60)
    assert along.name == "distance 2"


def test_of_a_smooth_mesh_its_surface_is_measured(doc: Document) -> None:
    doc = distance(doc, axis=0)
    id_, check = doc.meshes[0].id, doc.sizes[0]
    smooth = with_item(doc, id_, smooth=Smoothing(view=2))
    assert (sized(smooth, check, {}).mm or 0) < 70
    caged = with_item(doc, id_, smooth=Smoothing(view=2, shown="cage"))
    assert sized(caged, check, {}).mm == 100


def test_extents_and_landmarks(doc: Document) -> None:
    id_ = doc.meshes[0].id
    doc, tall = with_extent_check(doc, 2, id_)
    doc, wide = with_extent_check(doc, 0)
    assert (tall.name, tall.mm, wide.mm) == ("height of block", 40.0, 100.0)
    assert said_of(doc, wide) == "width of all meshes"
    more, other = edits.with_mesh(doc, box((200, 0, 0), (210, 10, 10)), "other")
    assert sized(more, wide, {}).mm == pytest.approx(210)
    assert sized(with_item(more, other, guide=True), wide, {}).mm == pytest.approx(100)
    doc, end = end_at(doc, id_, Spot((vertex_at(BOX, 0, 0, 40),)))
    places = {"tip": np.array([0.0, 0, 50])}
    doc, up = with_distance(doc, SizeEnd(landmark="tip"), end, None, places)
    assert up.mm == pytest.approx(10)
    assert sized(doc, up, {}).mm is None and not sized(doc, up, {}).holds(up)
    renamed = registering.renamed_landmark(doc, "tip", "point")
    assert renamed.sizes[-1].ends[0].landmark == "point"


def test_what_is_gone_takes_its_checks_along(doc: Document) -> None:
    doc = distance(doc)
    doc, _ = with_extent_check(doc, 2)
    keys = [name for name in doc.meshes[0].mesh.layers if name.startswith("spot:")]
    assert len(keys) == 2
    less = without_size(doc, doc.sizes[0].id)
    assert [check.name for check in less.sizes] == ["height"]
    assert not any(name.startswith("spot:") for name in less.meshes[0].mesh.layers)
    bare = without(doc, (doc.meshes[0].id,))
    assert [check.name for check in bare.sizes] == ["height"]
    assert sized(bare, bare.sizes[0], {}).mm is None


def test_numbers_and_names_without_meaning_are_refused(doc: Document) -> None:
    doc = distance(doc)
    id_ = doc.sizes[0].id
    for wrong in ({"mm": -1.0}, {"tolerance_mm": -0.1}, {"mm": float("nan")}, {"name": "  "}):
        with pytest.raises(ValueError, match="Type"):
            with_size(doc, id_, **wrong)
    assert with_size(doc, "none", mm=1.0) is doc


def test_landmarks_are_tied_to_vertices(doc: Document) -> None:
    id_ = doc.meshes[0].id
    tied = tied_to(doc, id_, Spot((vertex_at(BOX, 0, 0, 40),)), "tip")
    ((mesh, name, place),) = ties_of(tied)
    assert (mesh, name, place.tolist()) == (id_, "tip", [0, 0, 40])
    again = tied_to(tied, id_, Spot((vertex_at(BOX, 100, 0, 40),)), "tip")
    assert ties_of(again)[0][2].tolist() == [100, 0, 40]
    renamed = registering.renamed_landmark(tied, "tip", "end")
    assert ties_of(renamed)[0][1] == "end"
    assert ties_of(untied(tied, id_, "tip")) == []
    assert ties_of(replace(tied, landmarks=())) == []
    # One that is removed ties nothing to another that is called the same later.
    gone = registering.without_landmark(tied, "tip")
    assert ties_of(replace(gone, landmarks=tied.landmarks)) == []


def test_notes_say_something_at_a_place(doc: Document) -> None:
    doc, note = with_note(doc, " assumed\n", View.FRONT, np.array([1.0, 2, 3]))
    assert (note.text, note.view, note.at) == ("assumed", "front", (1.0, 2.0, 3.0))
    doc = with_note_text(doc, note.id, "measured: 2 mm")
    assert doc.notes[0].text == "measured: 2 mm"
    assert scaled_project(doc, 2.0).notes[0].at == (2.0, 4.0, 6.0)
    with pytest.raises(ValueError, match="Type"):
        with_note(doc, " \n", None, np.zeros(3))
    with pytest.raises(ValueError, match="Type"):
        with_note_text(doc, note.id, "")
    assert without_note(doc, note.id).notes == ()


def test_they_are_kept_in_the_file(doc: Document) -> None:
    doc = distance(doc, axis=2)
    doc, _ = with_extent_check(doc, 1, doc.meshes[0].id)
    doc, _ = with_note(doc, "assumed", None, np.array([1.0, 2, 3]))
    doc, _ = with_note(doc, "here", View.TOP, np.array([1.0, 2, 3]))
    meshes = {m.id: m.mesh for m in doc.meshes}
    tree = parsed(json.dumps(to_json(doc)).encode(), "x")
    read = from_json(tree, {}, meshes, "x")
    assert (read.sizes, read.notes) == (doc.sizes, doc.notes)
    old = {**to_json(doc), "version": 11}
    del old["sizes"], old["notes"]
    plain = from_json(parsed(json.dumps(old).encode(), "x"), {}, meshes, "x")
    assert (plain.sizes, plain.notes) == ((), ())


def test_the_schema_defines_everything_once() -> None:
    def once(pairs: list[tuple[str, object]]) -> dict[str, object]:
        keys = [key for key, _ in pairs]
        assert len(set(keys)) == len(keys), f"twice: {keys}"
        return dict(pairs)

    text = files("dimetron.document").joinpath("project.schema.json").read_text("utf-8")
    json.loads(text, object_pairs_hook=once)


def test_a_place_on_a_face_goes_along_with_its_corners() -> None:
    top = int(np.flatnonzero(BOX.face_normals[:, 2] > 0.9)[0])
    at = np.array([30.0, 20.0, 40.0])
    spot = spot_on(BOX, top, at)
    assert spot.place(BOX.positions) == pytest.approx(at) and sum(spot.shares) == pytest.approx(1)
    mesh = with_spot(BOX, "here", spot)
    assert spot_of(from_ply(to_ply(mesh)), "here") == pytest.approx(at)
    assert spot_of(mesh.with_positions(mesh.positions * 2), "here") == pytest.approx(2 * at)
    assert spot_of(by_name("radial")(mesh, copies=3).mesh, "here") == pytest.approx(at)
    outside = spot_on(BOX, top, at + np.array([0, 500, 0]))
    assert outside.place(BOX.positions)[1] == pytest.approx(60)
    # Where a corner is gone it is what the others have of it.
    kept = marked(mesh, "here")
    assert kept is not None and len(kept.vertices) == 3
    values = mesh.layers["spot:here"].values.copy()
    values[kept.vertices[0]] = 0
    less = mesh.with_layer("spot:here", mesh.layers["spot:here"].with_values(values))
    rest = marked(less, "here")
    assert rest is not None and sum(rest.shares) == pytest.approx(1) and len(rest.vertices) == 2
    damaged = mesh.with_layer("spot:here", Layer(On.VERTEX, values, 0.0, ("x", "nan")))
    assert marked(damaged, "here") is None

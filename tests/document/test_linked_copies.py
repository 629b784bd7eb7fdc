"""Linked copies follow the mesh that they are copies of."""

from __future__ import annotations

import numpy as np
import pytest

from dimetron.document import edits
from dimetron.document.container import load, save
from dimetron.document.making import (
    how_made,
    maker_of,
    makers,
    remade,
    remade_with,
    scaled_made,
    with_made,
)
from dimetron.document.model import Document, MeshObject, with_item
from dimetron.document.naming import without
from dimetron.document.sizing import scaled_project
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.health import health
from dimetron.mesh.operation import by_name
from dimetron.mesh.primitives import box

COPIERS = makers(MeshObject)


def one() -> tuple[Document, str]:
    return edits.with_mesh(Document(), box((10, -2, 0), (14, 2, 6)), "peg")


def linked(name: str, **numbers: object) -> tuple[Document, str, str]:
    doc, id_ = one()
    how = COPIERS[name].settings(**numbers)
    doc, copies = with_made(doc, COPIERS[name], [doc.mesh(id_)], how)
    return doc, id_, copies


@pytest.mark.parametrize("name", list(COPIERS))
def test_copies_are_those_of_the_operation_without_the_mesh_itself(name: str) -> None:
    doc, id_, copies = linked(name)
    mesh, made = doc.mesh(id_).mesh, doc.mesh(copies)
    whole = by_name(name)(mesh).mesh
    rest = np.delete(whole.face_centres, np.s_[: mesh.topology.face_count], axis=0)
    order = [np.lexsort(np.round(c, 6).T) for c in (rest, made.mesh.face_centres)]
    assert np.allclose(rest[order[0]], made.mesh.face_centres[order[1]])
    told = health(made.mesh)
    assert told.closed and told.volume_mm3 == pytest.approx(96 * told.shells)
    assert (made.name, maker_of(made)) == ("peg copies", COPIERS[name])


def test_they_follow_and_their_numbers_stay_open() -> None:
    doc, id_, copies = linked("radial", copies=4)
    mesh = doc.mesh(id_).mesh
    longer = with_item(doc, id_, mesh=mesh.with_positions(mesh.positions * (1, 1, 2)))
    after, said = remade(longer, doc)
    assert not said
    assert np.ptp(after.mesh(copies).mesh.positions[:, 2]) == pytest.approx(12)
    assert remade(after, longer)[0].mesh(copies).mesh is after.mesh(copies).mesh
    more = remade_with(after, copies, COPIERS["radial"].settings(copies=8))
    assert more.mesh(copies).mesh.topology.face_count == 7 * 6
    assert how_made(more.mesh(copies)).copies == 8
    # Copies of copies, too.
    doc, second = with_made(more, COPIERS["mirrored"], [more.mesh(copies)], how := COPIERS[
        "mirrored"
    ].settings(axis="z"))  # fmt: skip
    assert how.axis == "z"
    wider = with_item(doc, id_, mesh=mesh)
    after, _ = remade(wider, doc)
    assert after.mesh(second).mesh.bounds[:, 2].tolist() == pytest.approx([-6, 0])


def test_what_is_edited_by_hand_or_has_lost_its_mesh_is_plain() -> None:
    doc, id_, copies = linked("row", copies=3, step=10.0)
    moved = doc.mesh(copies).mesh
    by_hand = with_item(doc, copies, mesh=moved.with_positions(moved.positions + 1))
    plain, said = remade(by_hand, doc)
    assert plain.mesh(copies).made is None
    assert said == ("peg copies was edited by hand: what it is a copy of does not change it now.",)
    gone, said = remade(without(doc, (id_,)), doc)
    assert gone.mesh(copies).made is None and gone.mesh(copies).mesh is moved
    assert said == ()
    with pytest.raises(MeshError, match="Choose a mesh to make this of"):
        with_made(doc, COPIERS["row"], [], COPIERS["row"].settings())
    with pytest.raises(MeshError, match="one mesh at most"):
        with_made(doc, COPIERS["row"], doc.meshes, COPIERS["row"].settings())


def test_they_are_saved_and_sized_with_the_project(tmp_path) -> None:  # type: ignore[no-untyped-def]
    doc, id_, copies = linked("row", copies=3, step=10.0)
    made = doc.mesh(copies).made
    assert made is not None
    assert dict(scaled_made(made, 2.0).numbers)["step"] == 20.0
    larger, said = remade(scaled_project(doc, 2.0), doc)
    assert not said and np.ptp(larger.mesh(copies).mesh.positions[:, 0]) == pytest.approx(28)
    save(doc, tmp_path / "pegs.dimetron")
    read = load(tmp_path / "pegs.dimetron").document
    assert maker_of(read.mesh(copies)) is COPIERS["row"]
    turned = with_item(read, id_, mesh=box((0, 0, 0), (1, 1, 1)))
    after, _ = remade(turned, read)
    assert after.mesh(copies).mesh.topology.face_count == 12
    assert after.mesh(copies).mesh.bounds[1].tolist() == pytest.approx([21, 1, 1])

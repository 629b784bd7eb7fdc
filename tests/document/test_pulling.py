"""What of a project is pulled to its drawings."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from dimetron.document import edits
from dimetron.document.following import followed, with_followed
from dimetron.document.model import Document, Drawing, Smoothing, with_item
from dimetron.document.pulling import pull_of
from dimetron.fit.miss import Drawn
from dimetron.geometry.placement import Placement
from dimetron.geometry.views import View
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.layers import MASK, Layer, On
from dimetron.mesh.operation import by_name
from dimetron.mesh.ply import from_ply, to_ply
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind, Selection, none

WHOLE = Selection(Kind.WHOLE, none())
DRAWING = Drawing("d", "front", View.FRONT, "s", Placement(1.0, (0.0, 0.0), (0.0, 0.0)))
DRAWN = ((DRAWING, Drawn([np.array([[0.0, 0], [9, 0], [9, 9], [0, 9]])])),)


@pytest.fixture
def doc() -> Document:
    made, _ = edits.with_mesh(Document(), box((0, 0, 0), (9, 9, 9)), "a")
    return edits.with_mesh(made, box((20, 0, 0), (29, 9, 9)), "b")[0]


def test_all_meshes_the_chosen_ones_or_a_part(doc: Document) -> None:
    a, b = (item.id for item in doc.meshes)
    assert [i.id for i in pull_of(doc, (), WHOLE, DRAWN).items] == [a, b]
    one = pull_of(doc, (b,), WHOLE, DRAWN)
    assert ([i.id for i in one.items], len(one.others)) == ([b], 1)
    some = Selection(Kind.VERTEX, np.array([1, 3], np.int32))
    free = pull_of(doc, (b,), some, DRAWN).parts[0].free
    assert free is not None and free.tolist() == [0, 1, 0, 1, 0, 0, 0, 0]
    aside = with_item(doc, a, guide=True)
    assert len(pull_of(aside, (), WHOLE, DRAWN).others) == 0
    held = with_item(doc, a, held=True)
    assert [i.id for i in pull_of(held, (), WHOLE, DRAWN).items] == [b]
    assert len(pull_of(held, (), WHOLE, DRAWN).others) == 1


def test_masks_smooth_surfaces_evenness_and_trust_count(doc: Document) -> None:
    a = doc.meshes[0]
    mask = np.linspace(0, 1, 8).astype(np.float32)
    masked = a.mesh.with_layer(MASK, Layer(On.VERTEX, mask))
    more = with_item(doc, a.id, mesh=masked, even=("x",), smooth=Smoothing(view=2))
    part = pull_of(more, (a.id,), WHOLE, DRAWN).parts[0]
    assert part.free is not None and part.free == pytest.approx(1 - mask)
    assert (part.levels, part.even) == (2, ("x",))
    caged = with_item(more, a.id, smooth=Smoothing(view=2, shown="cage"))
    assert pull_of(caged, (a.id,), WHOLE, DRAWN).parts[0].levels == 0
    trusted = replace(doc, trust=(("d", 3.0),))
    assert pull_of(trusted, (), WHOLE, DRAWN).wanted[0].trust == 3.0


def test_it_goes_so_far_and_only_from_where_it_was(doc: Document) -> None:
    pull = pull_of(doc, (doc.meshes[0].id,), WHOLE, DRAWN)
    done = pull.run(lambda share: None)
    half, whole = (done.put_into(doc, share).meshes[0].mesh.positions for share in (0.5, 1.0))
    start = doc.meshes[0].mesh.positions
    assert half - start == pytest.approx((whole - start) / 2)
    moved = with_item(doc, doc.meshes[0].id, mesh=box((1, 1, 1), (2, 2, 2)))
    with pytest.raises(LookupError):
        done.put_into(moved, 1.0)


def test_nothing_to_pull_or_to_pull_to_is_said(doc: Document) -> None:
    with pytest.raises(MeshError, match="no mesh to pull"):
        pull_of(Document(), (), WHOLE, DRAWN)
    with pytest.raises(MeshError, match="nothing to pull to"):
        pull_of(doc, (), WHOLE, ())


def test_a_part_follows_one_drawing_where_they_disagree(doc: Document) -> None:
    a = doc.meshes[0].id
    other = Drawing("s", "side", View.RIGHT, "s", Placement(1.0, (0.0, 0.0), (0.0, 0.0)))
    # The front says 10 mm tall, the side 12.
    tall = [np.array([[0.0, 0], [9, 0], [9, h], [0, h]]) for h in (10, 12)]
    drawn = ((DRAWING, Drawn([tall[0]])), (other, Drawn([tall[1]])))
    alone = replace(doc, meshes=doc.meshes[:1])

    def top(of: Document) -> float:
        pull = pull_of(of, (), WHOLE, drawn)
        return float(pull.run(lambda share: None).places[0][:, 2].max())

    every = np.arange(8, dtype=np.int32)
    front, side = (top(with_followed(alone, a, every, one)) for one in ("d", "s"))
    assert front + 0.2 < top(alone) < side - 0.2
    smooth = with_item(with_followed(alone, a, every, "d"), a, smooth=Smoothing(view=1))
    both = with_item(alone, a, smooth=Smoothing(view=1))
    assert top(smooth) < top(both)


def test_who_follows_what_is_kept_with_the_mesh_and_can_be_taken_back(doc: Document) -> None:
    a = doc.meshes[0].id
    some = np.array([1, 2], np.int32)
    one = with_followed(doc, a, some, "d")
    two = with_followed(one, a, np.array([2, 5], np.int32), "s")
    mesh = two.mesh(a).mesh
    assert followed(mesh, ["d", "s"]).tolist() == [-1, 0, 1, -1, -1, 1, -1, -1]
    assert followed(mesh, ["s"]).tolist() == [-1, -1, 0, -1, -1, 0, -1, -1], "d is not there"
    finer = by_name("triangulate")(from_ply(to_ply(mesh))).mesh
    assert followed(finer, ["d", "s"]).tolist() == followed(mesh, ["d", "s"]).tolist()
    back = with_followed(two, a, np.arange(8, dtype=np.int32), "")
    assert "follows" not in back.mesh(a).mesh.layers
    assert followed(back.mesh(a).mesh, ["d"]).tolist() == [-1] * 8

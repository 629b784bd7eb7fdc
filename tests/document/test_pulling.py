"""What of a project is pulled to its drawings."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from dimetron.document import edits
from dimetron.document.model import Document, Drawing, Smoothing, with_item
from dimetron.document.pulling import pull_of
from dimetron.fit.miss import Drawn
from dimetron.geometry.placement import Placement
from dimetron.geometry.views import View
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.layers import MASK, Layer, On
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

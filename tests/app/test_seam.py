"""A seam that the smooth surface flattens is told on the card, in the list, and at the step."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from dimetron.document.edits import with_mesh
from dimetron.document.model import Document, with_item
from dimetron.mesh.operation import by_name
from dimetron.mesh.select import Kind
from tests.app.conftest import Hand, turn
from tests.app.test_modelling import card
from tests.mesh.test_seams import round_, vault


def test_a_seam_is_told_where_it_is_and_at_the_step_that_made_it(hand: Hand) -> None:
    doc, id_ = with_mesh(Document(), vault(round_), "vault")
    smooth = replace(doc.mesh(id_).smooth, view=1)
    hand.session.open(with_item(doc, id_, smooth=smooth, even=("x",)), None)
    hand.window.navigation.open_station("model")
    hand.session.choose((id_,))
    hand.settle()
    assert card(hand).health.text().endswith("open edges")
    # The middle row goes down to the height of those beside it.
    mesh = hand.doc.mesh(id_).mesh
    middle = np.flatnonzero(np.abs(mesh.positions[:, 0]) < 11).astype(np.int32)
    hand.session.select(Kind.VERTEX, middle)
    operating = hand.window.workbench.operating
    operating.do(by_name("flatten"), by_name("flatten").made(to="z"))
    turn()
    assert operating.step is not None
    assert any("flat along the middle of X" in note.words for note in operating.step.notes)
    assert card(hand).health.text().startswith("the smooth surface is flat along the middle of X")
    hand.window.commands.run("tool.health")
    hand.settle()
    hand.act("see-flat-x")
    found = hand.session.selected
    assert hand.session.kind is Kind.VERTEX and len(found) == 3
    assert (hand.doc.mesh(id_).mesh.positions[found, 0] == 0).all()
    # As a plain mesh nobody minds.
    hand.session.commit(
        with_item(hand.doc, id_, smooth=replace(smooth, view=0, export=0)), "Not smooth"
    )
    turn()
    assert "flat" not in card(hand).health.text()

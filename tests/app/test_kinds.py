"""A kind of item that nobody knew of: one module for what it is, one for its card."""

from __future__ import annotations

import json
import textwrap
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from types import ModuleType

import jsonschema
import numpy as np
import pytest
from PySide6.QtCore import Qt

import dimetron.app.tray.cards
import dimetron.document.kinds
from dimetron.app.tray import tray
from dimetron.document import kind, naming, serial
from dimetron.document.container import load, save
from dimetron.document.describe import described, in_words
from dimetron.document.edits import bounds, without_item
from dimetron.document.model import Document
from dimetron.document.parts import Group
from dimetron.document.sizing import scaled_project
from tests.app.conftest import Hand


@dataclass(frozen=True, slots=True)
class Wire:
    """A straight piece between two points, tied to another item."""

    id: str
    name: str
    ends: tuple[tuple[float, float, float], tuple[float, float, float]]
    of: str | None = None
    shown: bool = True
    held: bool = False
    group: str | None = None


_KIND = """
    from dataclasses import asdict, replace
    import numpy as np
    from dimetron.document.kind import Extent, ItemKind, Naming, Told
    from tests.app.test_kinds import Wire

    def read(tree, reading):
        ends = tuple(tuple(end) for end in tree["ends"])
        return Wire(**{**tree, "ends": ends})

    def times(wire, factor, views):
        return replace(wire, ends=tuple(tuple(x * factor for x in end) for end in wire.ends))

    def moved(wire, by, view):
        way = view.to_world(np.asarray(by, dtype=float))
        return replace(wire, ends=tuple(tuple((np.array(e) + way).tolist()) for e in wire.ends))

    KIND = ItemKind(
        "wire", "wires", Wire, asdict, read,
        Told("wires", lambda doc, w: {"name": w.name}, lambda told: f"wire     {told['name']}"),
        schema={"type": "object", "required": ["id", "name", "ends"]},
        names=(Naming("wires", "item", lambda w: [w.of] if w.of else []),),
        bounds=lambda doc, wires: [Extent((0, 1, 2), np.concatenate([w.ends for w in wires]))]
        if wires else [],
        lies=lambda doc, w: np.array(w.ends),
        scaled=times,
        moved=moved,
        lines=lambda w, forward: [np.array(w.ends)],
    )
"""
_CARD = """
    from dimetron.app.tray.card import Card, CardKind
    from tests.app.test_kinds import Wire

    class WireCard(Card):
        def show_item(self, item, chosen, unfolded, theme):
            self.mark(item, chosen, unfolded, theme)
            self.badge.setText("Wire")

    CARD = CardKind(Wire, lambda shelf, id_: WireCard(shelf.session, id_))
"""
WIRE = Wire("w1", "stay", ((-50.0, 0.0, 0.0), (50.0, 0.0, 60.0)))


def _lay(module: ModuleType, text: str, folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    folder.mkdir()
    (folder / "wire.py").write_text(textwrap.dedent(text))
    monkeypatch.setattr(module, "__path__", [*module.__path__, str(folder)])


@pytest.fixture
def wires(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Document]:
    _lay(dimetron.document.kinds, _KIND, tmp_path / "kind", monkeypatch)
    _lay(dimetron.app.tray.cards, _CARD, tmp_path / "card", monkeypatch)
    caches = (
        *(kind.kinds, kind._by_type, naming._table, naming._by_field, tray._cards),
        *(serial.schema, serial._validator),
    )
    for cache in caches:
        cache.cache_clear()
    yield Document(further=(WIRE,))
    monkeypatch.undo()
    for cache in caches:
        cache.cache_clear()


def test_it_is_kept_told_scaled_and_let_go_like_any_other(wires: Document, tmp_path: Path) -> None:
    save(wires, tmp_path / "w.dimetron")
    assert load(tmp_path / "w.dimetron").document.further == (WIRE,)
    tree = serial.to_json(wires)
    jsonschema.validate(tree, serial.schema())
    spoiled = {**tree, "wires": [{"id": "w1"}]}
    with pytest.raises(serial.ProjectError, match="wires"):
        serial.parsed(json.dumps(spoiled).encode(), "w.dimetron")
    assert "wire     stay" in in_words(described(wires))
    assert np.allclose(bounds(wires), [[-50, 0, 0], [50, 0, 60]])
    larger = scaled_project(wires, 2.0)
    assert larger.further[0].ends[1] == (100.0, 0.0, 120.0)  # type: ignore[attr-defined]
    # What is of another kind stays where it is, and is none of these.
    other = Group("g1", "not a wire")
    both = replace(wires, further=(other, WIRE))
    assert kind.kind_of(WIRE).of(both) == (WIRE,)
    assert kind.kind_of(WIRE).put(both, ()).further == (other,)
    hung = replace(wires, further=(WIRE, replace(WIRE, id="w2", name="tie", of="w1")))
    assert without_item(hung, "w1").further == ()
    assert without_item(hung, "w2").further == (WIRE,)


def test_it_has_a_card_is_seen_picked_and_slid(wires: Document, hand: Hand) -> None:
    hand.session.open(wires, None)
    hand.board.fit_all()
    card = hand.window.tray.cards["w1"]
    assert card.badge.text() == "Wire" and card.name.text() == "stay"
    hand.point(hand.at("elevation", (0, 0, 90)))
    spot = hand.at("elevation", (25, 0, 45))
    seen = hand.picture()[spot.y() - 3 : spot.y() + 4, spot.x() - 3 : spot.x() + 4]
    hand.session.commit(replace(hand.doc, further=(replace(WIRE, shown=False),)), "Hide")
    bare = hand.picture()[spot.y() - 3 : spot.y() + 4, spot.x() - 3 : spot.x() + 4]
    assert np.abs(seen - bare).max() > 60
    hand.session.undo()
    hand.drag(spot, hand.at("elevation", (25, 0, 60)), keys=Qt.KeyboardModifier.ShiftModifier)
    moved = hand.doc.further[0]
    assert isinstance(moved, Wire) and moved.ends[0][0] == -50.0
    assert moved.ends[0][2] == pytest.approx(15, abs=1.0)
    assert hand.session.chosen == ("w1",)

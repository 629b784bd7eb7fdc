"""Order and groups of cards, what is hidden, size references, and how all of it is saved."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dimetron.document import edits, formulas, groups, placing, registering, size_references
from dimetron.document.container import load, save
from dimetron.document.model import Document, with_item
from dimetron.document.parts import (
    Floating,
    Group,
    LoosePicture,
    Order,
    PaneLook,
    ReferenceKind,
    SavedLook,
    Seen,
    Showing,
)
from dimetron.document.serial import ProjectError, from_json, parsed, to_json
from dimetron.geometry.views import View
from dimetron.imaging.frame import Crop
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.primitives import box
from dimetron.registration.problem import Length
from tests.document.test_container import same
from tests.document.test_edits import picture, two_views
from tests.document.test_place import TILTED


def everything() -> Document:
    """A project with one of each thing that can lie in the tray."""
    doc, front, side = two_views()
    doc, _ = edits.with_mesh(doc, box((0, 0, 0), (10, 10, 10)), "body")
    doc, figure = size_references.with_reference(doc, ReferenceKind.FIGURE, (300.0, 0.0, 0.0))
    doc, _ = size_references.with_reference(doc, ReferenceKind.RULER)
    doc = placing.with_auxiliary(doc, TILTED)
    doc = edits.moved_to_view(doc, side, TILTED)
    doc = formulas.with_formula(doc, front, "width", "=side.up + 90 mm")
    tinted = Showing(Seen.EVERYWHERE, Order.FRONT, True, False, (10, 20, 30))
    doc = with_item(doc, front, showing=tinted)
    loose = LoosePicture(
        "mood", "mood", doc.drawing(front).sheet, Crop(5, 6, 70, 60), middle=(0.25, 0.5),
        zoom=3.0, floating=Floating("plan", (10.0, 20.0), (200.0, 150.0)),
    )  # fmt: skip
    doc, _ = groups.grouped(replace(doc, loose=(loose,)), [front, figure], "heap")
    pane = PaneLook("slope", "wire", 0.5, False)
    look = SavedLook(
        "l1", "look", (("plan", pane),), ("plan", "side"), None, (0.4, 0.6), (1.0, 2.0, 3.0),
        0.5, (0.0, 0.0, 9.0), 20.0, 30.0, 1.5, True, (front,),
    )  # fmt: skip
    doc = registering.marked(doc, "spout tip", front, (12.0, 30.5))
    doc = registering.marked(doc, "rim", side, (120.0, 80.0))
    doc = registering.with_fixed(doc, "rim", 2, 0.0)
    doc = registering.with_length(doc, Length("spout tip", "rim", 412.0, 1, 0.5))
    return replace(doc, looks=(look,), solo=(front,), pinned=(side,))


def test_everything_in_the_tray_is_saved_and_comes_back(tmp_path: Path) -> None:
    doc = everything()
    save(doc, tmp_path / "a.dimetron")
    opened = load(tmp_path / "a.dimetron")
    assert opened.notes == ()
    assert same(opened.document, doc)


def test_a_project_of_format_2_is_read_and_its_drawings_stand_where_they_did() -> None:
    doc, front, _ = two_views()
    tree = to_json(doc)
    tree["version"] = 2
    aside = ("auxiliaries", "loose", "references", "groups", "looks", "order", "solo")
    known = ("landmarks", "sightings", "lengths", "drawing_lengths", "pinned", "trust")
    for key in (*aside, *known):
        del tree[key]
    for drawing in tree["drawings"]:
        for key in ("showing", "stand_auto", "group", "formulas"):
            del drawing[key]
    told = tree["drawings"][0]["placement"]["stand_off_mm"] = 321.0
    read = from_json(parsed(json.dumps(tree).encode(), "old"), {}, {}, "old")
    assert edits.stand_off(read, read.drawing(front)) == told
    assert read.drawing(front).showing == Showing()
    assert parsed(json.dumps(to_json(read)).encode(), "new")["version"] == 13


def test_an_auxiliary_view_that_is_not_square_is_damage() -> None:
    tree = to_json(everything())
    tree["auxiliaries"][0]["up"] = [0.0, 0.0, 0.0]
    with pytest.raises(ProjectError, match="not square"):
        from_json(tree, {}, {}, "a.dimetron")


# Order.


def ids_of(doc: Document) -> list[str]:
    return [part.id for part in groups.tray_order(doc)]


def test_a_group_lies_where_its_first_card_lay_with_its_cards_below_it() -> None:
    doc, front, side = two_views()
    doc, top = edits.with_drawing(doc, picture(), View.TOP)
    doc, heap = groups.grouped(doc, [side, top])
    assert ids_of(doc) == [front, heap, side, top]
    moved = groups.laid_before(doc, front, top, heap)
    assert ids_of(moved) == [heap, side, front, top]
    assert moved.drawing(front).group == heap
    out = groups.laid_before(moved, side, None, None)
    assert ids_of(out) == [heap, front, top, side]
    assert ids_of(groups.ungrouped(out, heap)) == [front, top, side]
    assert groups.ungrouped(out, heap).groups == ()


@given(st.data())
def test_cards_are_never_lost_however_they_are_dragged(data: st.DataObject) -> None:
    doc = everything()
    every = {part.id for part in groups.tray_order(doc)}
    for _ in range(6):
        laid = ids_of(doc)
        id_ = data.draw(st.sampled_from(laid))
        before = data.draw(st.sampled_from([*laid, None]))
        group = data.draw(st.sampled_from([g.id for g in doc.groups] + [None]))
        doc = groups.laid_before(doc, id_, before, group)
        assert {part.id for part in groups.tray_order(doc)} == every
        assert len(ids_of(doc)) == len(every)


def test_groups_show_and_hold_what_is_in_them_and_nothing_hidden_is_lost() -> None:
    doc, front, side = two_views()
    doc, heap = groups.grouped(doc, [front])
    shut = groups.with_group(doc, heap, shown=False, held=True, folded=True)
    drawing = shut.drawing(front)
    assert not shut.visible(drawing) and not shut.free(drawing)
    assert shut.visible(shut.drawing(side))
    shut = with_item(shut, side, shown=False)
    assert {item.id for item in groups.hidden(shut)} == {front, side}
    again = groups.all_shown(shut)
    assert groups.hidden(again) == () and again.group(heap) is not None
    assert isinstance(again.group(heap), Group)


def test_alone_hides_the_others_of_its_kind_and_again_brings_them_back() -> None:
    doc, front, side = two_views()
    doc, _ = edits.with_mesh(doc, box((0, 0, 0), (1, 1, 1)), "body")
    solo = groups.alone(doc, [front])
    assert not solo.visible(solo.drawing(side))
    assert all(solo.visible(m) for m in solo.meshes)
    assert groups.alone(solo, [front]).solo == ()
    assert groups.hidden(edits.without_item(solo, front)) == ()


# Size references.


def test_references_have_true_sizes_and_a_figure_keeps_its_build() -> None:
    doc, _ = size_references.with_reference(Document(), ReferenceKind.FIGURE)
    item = size_references.resized(doc.references[0], 2, 1850.0)
    drawn = np.concatenate(size_references.reference_lines(item, View.FRONT.directions.forward))
    assert drawn[:, 2].min() == pytest.approx(0, abs=1)
    assert drawn[:, 2].max() == pytest.approx(1850, abs=1)
    wide = size_references.resized(item, 0, item.size[0] * 2)
    assert wide.size == pytest.approx(tuple(2 * s for s in item.size))
    body = size_references.reference_mesh(item)
    assert np.ptp(body.positions[:, 2]) == pytest.approx(1850, abs=20)


@pytest.mark.parametrize("mm", [0.0, -5.0, float("nan")])
def test_a_reference_of_no_size_is_refused(mm: float) -> None:
    doc, _ = size_references.with_reference(Document(), ReferenceKind.BOX)
    with pytest.raises(MeshError, match="more than zero"):
        size_references.resized(doc.references[0], 1, mm)


@given(st.floats(1, 1e5))
def test_a_rulers_ticks_are_round_and_few(length: float) -> None:
    step = size_references.tick_mm(length)
    assert length / step <= 60.0001
    assert step / 10 ** np.floor(np.log10(step) + 1e-9) == pytest.approx(
        round(step / 10 ** np.floor(np.log10(step) + 1e-9))
    )
    assert size_references.tick_mm(300.0) == 5.0

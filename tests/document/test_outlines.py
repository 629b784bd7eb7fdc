from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import ezdxf
import numpy as np
import pytest
import svgelements

from dimetron.demo.can import solid
from dimetron.demo.project import project
from dimetron.document import edits, registering, serial
from dimetron.document.container import load, save
from dimetron.document.describe import described, in_words
from dimetron.document.guide import Guide, guides_of, with_guide
from dimetron.document.kind import lines_of, moved
from dimetron.document.making import (
    MeshError,
    maker_of,
    makers,
    remade,
    remade_with,
    scaled_made,
    with_made,
    with_outline_of,
)
from dimetron.document.model import Document, Made, with_item
from dimetron.document.naming import without
from dimetron.document.outline import Outline, Tie, outlines_of, with_outline, with_path
from dimetron.document.sizing import scaled_project
from dimetron.document.tying import tied, ties_for, with_tie
from dimetron.formats.export import export
from dimetron.formats.handover import ExportError
from dimetron.geometry import placement
from dimetron.geometry.views import View
from dimetron.mesh.health import health
from dimetron.mesh.mesh import from_faces
from dimetron.outlines import edit
from dimetron.outlines.path import Path as Curve
from dimetron.outlines.path import path_of
from dimetron.outlines.shapes import ellipse, rectangle
from dimetron.outlines.trace import distances

PROFILE = path_of([[0, 0], [30, 0], [25, 80], [0, 80]])


def _with(path: Curve, view: View = View.FRONT, **more: object) -> tuple[Document, Outline]:
    doc, id_ = with_outline(Document(), path, view, "it", **more)  # type: ignore[arg-type]
    item = doc.item(id_)
    assert isinstance(item, Outline)
    return doc, item


def test_an_outline_is_kept_told_scaled_and_slid(tmp_path: Path) -> None:
    doc, item = _with(ellipse((10, 20), (5, 3), 30), depth=7.0, half="x")
    save(doc, tmp_path / "o.dimetron")
    read = load(tmp_path / "o.dimetron").document
    assert read.further == doc.further
    assert "outline  it: front" in in_words(described(doc))
    (larger,) = outlines_of(scaled_project(doc, 2.0))
    assert larger.path.points == pytest.approx(2 * item.path.points)
    assert larger.depth == 14.0
    (slid,) = outlines_of(moved(doc, item, (3.0, 4.0), View.RIGHT))
    # What is right in the side view is along the line of sight of the front one.
    assert slid.depth == pytest.approx(item.depth + 3.0)
    assert slid.path.points == pytest.approx(item.path.points + np.array([0, 4]))
    assert lines_of(item, View.FRONT.directions.forward)
    assert lines_of(item, View.BACK.directions.forward)
    assert not lines_of(item, View.TOP.directions.forward)
    assert lines_of(item, None)[0][:, 1] == pytest.approx(7.0)


def test_guides_are_kept_told_scaled_and_slid(tmp_path: Path) -> None:
    doc, line = with_guide(Document(), Guide("", "", 2, 40.0))
    doc, ring = with_guide(doc, Guide("", "", 0, 0.0, 12.0, (3.0, 4.0), View.FRONT))
    save(doc, tmp_path / "g.dimetron")
    assert load(tmp_path / "g.dimetron").document.further == doc.further
    words = in_words(described(doc))
    assert "guide Z: Z 40 mm" in words and "radius 12 mm" in words
    first, second = guides_of(scaled_project(doc, 2.0))
    assert (first.at, second.radius, second.centre) == (80.0, 24.0, (6.0, 8.0))
    slid = guides_of(moved(doc, doc.item(line), (5.0, 7.0), View.RIGHT))  # type: ignore[arg-type]
    assert slid[0].at == 47.0
    slid = guides_of(moved(doc, doc.item(ring), (5.0, 7.0), View.FRONT))  # type: ignore[arg-type]
    assert slid[1].centre == (8.0, 11.0)
    front, top = View.FRONT.directions.forward, View.TOP.directions.forward
    assert len(lines_of(guides_of(doc)[0], front)) == 1
    assert not lines_of(guides_of(doc)[0], top)
    assert not lines_of(guides_of(doc)[0], None)
    assert np.hypot(*(lines_of(guides_of(doc)[1], front)[0][:, [0, 2]] - (3, 4)).T) == (
        pytest.approx(12.0)
    )
    assert not lines_of(guides_of(doc)[1], top)


@pytest.mark.parametrize(
    ("field", "value"),
    [("points", [[0, 0]]), ("view", "nowhere"), ("half", "w"), ("radius", [-1, 0, 0, 0])],
)
def test_a_damaged_outline_is_refused(field: str, value: object) -> None:
    doc, _ = _with(PROFILE)
    tree = serial.to_json(doc)
    tree["outlines"][0][field] = value
    with pytest.raises(serial.ProjectError):
        serial.from_json(serial.parsed(serial.json.dumps(tree).encode(), "o"), {}, {}, "o")


def test_lengths_at_picked_places_grow_with_the_project() -> None:
    made = Made("outline:slab", (("thickness", 4.0), ("others", ((0.1, 0.2, 3.0),))), ("o",))
    assert scaled_made(made, 2.0) == Made(
        "outline:slab", (("thickness", 8.0), ("others", ((0.1, 0.2, 6.0),))), ("o",)
    )


def test_an_outline_of_format_9_is_no_opening() -> None:
    doc, item = _with(PROFILE)
    doc = with_item(doc, item.id, opening=True)
    tree = serial.to_json(doc)
    kept = serial.from_json(serial.parsed(serial.json.dumps(tree).encode(), "o"), {}, {}, "o")
    assert outlines_of(kept)[0].opening
    tree["version"] = 9
    del tree["outlines"][0]["opening"]
    read = serial.from_json(serial.parsed(serial.json.dumps(tree).encode(), "o"), {}, {}, "o")
    assert not outlines_of(read)[0].opening


def test_what_is_made_follows_its_outlines() -> None:
    doc, item = _with(PROFILE)
    doc, made = with_made(doc, makers()["turned"], [item], makers()["turned"].settings(sides=24))
    before = health(doc.mesh(made).mesh)
    assert before.closed
    wider = with_path(doc, item.id, edit.moved(item.path, [1, 2], (10, 0)))
    after, said = remade(wider, doc)
    assert not said
    assert health(after.mesh(made).mesh).volume_mm3 > (before.volume_mm3 or 0)
    again, _ = remade(after, wider)
    assert again.mesh(made).mesh is after.mesh(made).mesh
    finer = remade_with(after, made, makers()["turned"].settings(sides=48))
    assert finer.mesh(made).mesh.topology.face_count > after.mesh(made).mesh.topology.face_count


def test_what_cannot_be_made_anew_stays_and_what_is_edited_is_plain() -> None:
    doc, item = _with(ellipse((40, 0), (5, 5)))
    doc, made = with_made(doc, makers()["turned"], [item], makers()["turned"].settings())
    across = with_path(doc, item.id, ellipse((0, 0), (50, 5)))
    halved, _ = remade(across, doc)
    assert health(halved.mesh(made).mesh).closed
    flat = with_path(doc, item.id, path_of([[0, 0], [0, 9]]))
    kept, said = remade(flat, doc)
    assert kept.mesh(made).mesh is doc.mesh(made).mesh
    assert "stays as it is" in said[0]
    by_hand = with_item(doc, made, mesh=edits.with_mesh(doc, solid(), "x")[0].meshes[-1].mesh)
    plain, said = remade(by_hand, doc)
    assert plain.mesh(made).made is None
    assert "edited by hand" in said[0]


@pytest.mark.parametrize("maker", ["slab", "turned", "sheet"])
def test_a_project_made_larger_keeps_how_its_meshes_were_made(maker: str) -> None:
    doc, item = _with(ellipse((40, 30), (20, 15)))
    doc, made = with_made(doc, makers()[maker], [item], makers()[maker].settings())
    before = health(doc.mesh(made).mesh)
    larger, said = remade(scaled_project(doc, 2.0), doc)
    after = larger.mesh(made)
    assert not said and after.made is not None
    assert after.mesh.bounds == pytest.approx(2 * doc.mesh(made).mesh.bounds, rel=1e-3, abs=0.05)
    assert after.mesh.topology.face_count == pytest.approx(doc.mesh(made).mesh.topology.face_count)
    if before.volume_mm3:
        assert health(after.mesh).volume_mm3 == pytest.approx(8 * before.volume_mm3, rel=0.01)


def test_tied_points_stay_where_they_are_tied(tmp_path: Path) -> None:
    doc, item = _with(PROFILE)
    doc, other = with_outline(doc, path_of([[5, 5], [9, 40]]), View.RIGHT, "side", depth=12.0)
    doc = with_tie(doc, item.id, 0, Tie(0, "x"))
    doc = with_tie(doc, item.id, 2, Tie(2, "point", other, 1))
    # In the front view the side's depth is X, and its height Z.
    assert outlines_of(doc)[0].path.points[2] == pytest.approx([-12, 40])
    raised = with_path(doc, other, edit.moved(doc.item(other).path, [1], (0, 6)))  # type: ignore[union-attr]
    assert tied(raised).item(item.id).path.points[2, 1] == pytest.approx(46)  # type: ignore[union-attr]
    pushed = with_path(doc, item.id, edit.moved(outlines_of(doc)[0].path, [0, 1], (7, 3)))
    assert outlines_of(tied(pushed))[0].path.points[:2].tolist() == [[0, 3], [37, 3]]
    assert tied(doc) is doc
    # A point put in before it takes nothing away.
    more = with_path(doc, item.id, edit.inserted(outlines_of(doc)[0].path, 0, 0.5))
    assert [t.point for t in outlines_of(more)[0].ties] == [0, 3]
    save(doc, tmp_path / "t.dimetron")
    assert load(tmp_path / "t.dimetron").document.further == doc.further
    alone = without(doc, [other])
    assert [t.to for t in outlines_of(alone)[0].ties] == ["x"]
    assert [words for _, words in ties_for(doc, outlines_of(doc)[0], 1)][:3] == [
        "the origin", "X = 0", "Z = 0",
    ]  # fmt: skip


def test_a_point_tied_to_a_landmark_goes_with_its_mark() -> None:
    doc = project("watering-can")
    front = next(d for d in doc.drawings if d.view is View.FRONT)
    doc, name = registering.new_landmark(doc, "rim")
    doc = registering.marked(doc, name, front.id, (700.0, 500.0))
    doc, made = with_outline(doc, PROFILE, View.FRONT, "it", drawing=front.id)
    doc = with_tie(doc, made, 1, Tie(1, "landmark", name))
    at = front.placement.to_plane((700.0, 500.0))
    assert outlines_of(doc)[0].path.points[1] == pytest.approx(at)
    shifted = edits.with_placement(doc, front.id, placement.moved(front.placement, (3.0, -2.0)))
    assert outlines_of(tied(shifted))[0].path.points[1] == pytest.approx(at + np.array([3, -2]))
    gone = registering.without_landmark(doc, name)
    assert not outlines_of(gone)[0].ties


def test_a_point_tied_to_the_ground_goes_up_with_its_drawing(tmp_path: Path) -> None:
    doc = project("watering-can")
    front = next(d for d in doc.drawings if d.view is View.FRONT)
    ground = float(front.placement.corners(doc.size_px(front))[:, 1].min())
    doc, made = with_outline(doc, PROFILE, View.FRONT, "it", drawing=front.id)
    (item,) = outlines_of(doc)
    offered = [
        tie for tie, words in ties_for(doc, item, 1) if words == f"the ground of {front.name}"
    ]
    assert len([t for t, _ in ties_for(doc, item, 1) if t.to == "ground"]) == 1
    doc = with_tie(doc, made, 1, offered[0])
    right = PROFILE.points[1, 0]
    assert outlines_of(doc)[0].path.points[1] == pytest.approx([right, ground])
    shifted = edits.with_placement(doc, front.id, placement.moved(front.placement, (3.0, 8.0)))
    assert outlines_of(tied(shifted))[0].path.points[1] == pytest.approx([right, ground + 8])
    save(doc, tmp_path / "t.dimetron")
    assert load(tmp_path / "t.dimetron").document.further == doc.further
    (left,) = outlines_of(without(doc, [front.id]))
    assert not left.ties and left.drawing is None
    # A plan shows no ground.
    doc, _ = with_outline(project("watering-can"), PROFILE, View.TOP, "it")
    assert all(tie.to != "ground" for tie, _ in ties_for(doc, outlines_of(doc)[0], 1))


def test_a_mesh_gives_its_outline_back() -> None:
    doc, item = _with(ellipse((40, 10), (25, 15)))
    doc, made = with_made(doc, makers()["slab"], [item], makers()["slab"].settings())
    doc, ids = with_outline_of(doc, doc.mesh(made), View.FRONT)
    (back,) = (doc.item(id_) for id_ in ids)
    assert isinstance(back, Outline)
    assert distances(item.path, back.path.points).max() < 0.05
    assert len(back.path) < 12
    doc, ids = with_outline_of(doc, doc.mesh(made), View.TOP)
    (above,) = (doc.item(id_) for id_ in ids)
    assert isinstance(above, Outline) and above.path.corner.sum() == 4
    with pytest.raises(MeshError, match="no outline"):
        bare, id_ = edits.with_mesh(doc, from_faces(np.zeros((0, 3)), []), "none")
        with_outline_of(bare, bare.mesh(id_), View.TOP)


def test_a_read_project_knows_how_its_meshes_were_made(tmp_path: Path) -> None:
    doc, item = _with(PROFILE)
    doc, made = with_made(doc, makers()["turned"], [item], makers()["turned"].settings())
    save(doc, tmp_path / "m.dimetron")
    read = load(tmp_path / "m.dimetron").document
    assert maker_of(read.mesh(made)) is makers()["turned"]
    same, _ = remade(replace(read, order=(made,)), read)
    assert same.mesh(made).mesh is read.mesh(made).mesh
    wider = with_path(read, item.id, edit.moved(item.path, [1], (10, 0)))
    assert remade(wider, read)[0].mesh(made).mesh is not read.mesh(made).mesh


@pytest.mark.parametrize("name", list(makers()))
def test_every_maker_makes_a_mesh_and_refuses_what_it_cannot(name: str) -> None:
    maker = makers()[name]
    doc = Document()
    views = (View.FRONT, View.RIGHT, View.TOP) if name == "common" else (View.FRONT,) * 3
    for number, view in enumerate(views):
        middle = (50, 0) if name == "turned" else (0, 0)
        shape = ellipse(middle, (20 - 2 * number, 30))
        doc, _ = with_outline(doc, shape, view, "o", depth=10.0 * number)
    outlines = outlines_of(doc)[: maker.needs[1] or 3]
    doc, made = with_made(doc, maker, outlines, maker.settings())
    found = health(doc.mesh(made).mesh)
    assert found.faces > 0
    assert found.nonmanifold_edges == found.flipped_faces == 0
    assert found.closed == (name != "sheet")
    with pytest.raises(MeshError):
        with_made(doc, maker, (), maker.settings())
    open_, item = _with(path_of([[0, 0], [0, 5], [0, 9]]))
    with pytest.raises(MeshError):
        with_made(open_, maker, [item] * max(2, maker.needs[0]), maker.settings())


def test_outlines_go_out_as_svg_and_dxf_at_true_size(tmp_path: Path) -> None:
    doc, _ = _with(rectangle((-20, 10), (60, 40)))
    doc, _ = with_outline(doc, path_of([[0, 0], [10, 5]]), View.TOP, "half", half="x")
    export(doc, tmp_path / "o.dxf")
    drawing = ezdxf.readfile(tmp_path / "o.dxf")
    assert drawing.units == ezdxf.units.MM
    of_front = [e for e in drawing.modelspace() if e.dxf.layer == "Front"]
    places = np.array([(p.x, p.y) for e in of_front for p in e.flattening(0.01)])
    assert places.min(axis=0) == pytest.approx([-20, 10])
    assert places.max(axis=0) == pytest.approx([60, 40])
    export(doc, tmp_path / "o.svg", unit="cm")
    svg = svgelements.SVG.parse(tmp_path / "o.svg", ppi=25.4)
    boxes = [e.bbox() for e in svg.elements() if isinstance(e, svgelements.Path)]
    assert boxes[0][2] - boxes[0][0] == pytest.approx(80, rel=1e-4)
    assert boxes[1][2] - boxes[1][0] == pytest.approx(20, rel=1e-4)
    export(doc, tmp_path / "one.dxf", view="top")
    one = ezdxf.readfile(tmp_path / "one.dxf")
    assert {e.dxf.layer for e in one.modelspace()} == {"Top"}
    with pytest.raises(ExportError, match="has none"):
        export(edits.with_mesh(Document(), solid(), "m")[0], tmp_path / "x.svg")

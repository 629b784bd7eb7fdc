"""The station Hand off: ways, their choices, what is remembered, and the receiving end."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pypdfium2
import pytest
import trimesh
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton

from dimetron.app.route.hand_off import HandOff
from dimetron.document import edits
from dimetron.document.container import load, save
from dimetron.document.handing import handed
from dimetron.document.model import Document, with_item
from dimetron.mesh.primitives import box
from tests.app.conftest import Hand
from tests.formats.test_paper import lines_of


@pytest.fixture
def panel(hand: Hand) -> HandOff:
    doc, _ = edits.with_mesh(Document(), box((-10, -20, 0), (10, 20, 30)), "body")
    hand.session.open(doc, None)
    hand.window.route.open("hand-off")
    hand.settle()
    return hand.window.hand_off


def done(hand: Hand, panel: HandOff) -> None:
    hand.wait(lambda: not panel.handing.busy)
    hand.settle()


def option(panel: HandOff, name: str) -> str:
    """What a choice in the route shows."""
    shown = panel.panel._choices
    return next(one.value for one in shown if one.name == name)


def press(hand: Hand, panel: HandOff, title: str) -> None:
    hand.settle()
    button = next(b for b in panel.findChildren(QPushButton) if b.text() == title and b.isVisible())
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    hand.settle()


def test_what_was_chosen_is_remembered_with_the_project_and_for_others(
    hand: Hand, panel: HandOff, tmp_path: Path
) -> None:
    steps = len(hand.session.history.steps)
    panel.write(tmp_path / "a.ply", "meshes", kind="ply", unit="in", up="y")
    done(hand, panel)
    assert hand.notice() == "Written: a.ply."
    assert "written: a.ply" in hand.window.route.box("hand-off").state
    assert len(hand.session.history.steps) == steps, "it is no step to undo"
    assert handed(hand.doc, "meshes")["unit"] == "in"
    save(hand.doc, tmp_path / "p.dimetron")
    kept = load(tmp_path / "p.dimetron").document
    assert handed(kept, "meshes")["kind"] == "ply"
    hand.session.open(Document(), None)
    hand.settle()
    assert option(panel, "Format") == "ply", "another project begins with what was used last"
    hand.session.open(kept, None)
    panel.handing.choose(panel.handing.way.restored({"kind": "obj"}))
    hand.settle()
    assert option(panel, "Format") == "obj"
    hand.session.open(kept, None)
    hand.settle()
    assert option(panel, "Format") == "ply"


def test_a_format_shows_only_what_it_can_hold(hand: Hand, panel: HandOff) -> None:
    def switches() -> set[str]:
        return {s.name for s in panel.panel._switches}

    panel.handing.choose(panel.handing.way.restored({"kind": "stl"}))
    assert switches() == set()
    panel.handing.choose(panel.handing.way.restored({"kind": "dxf"}))
    assert switches() == {"Traced outlines", "Lines of the meshes"}
    panel.handing.choose(panel.handing.way.restored({"kind": "obj"}))
    assert switches() == {"As triangles", "With colours", "With the drawings"}


def test_shown_and_chosen_meshes(hand: Hand, panel: HandOff, tmp_path: Path) -> None:
    doc, other = edits.with_mesh(hand.doc, box((50, 0, 0), (60, 10, 10)), "knob")
    hand.session.open(with_item(doc, other, shown=False), None)

    def written(**choices: str) -> set[str]:
        panel.write(tmp_path / "a.glb", "meshes", kind="glb", **choices)
        done(hand, panel)
        return set(trimesh.load(tmp_path / "a.glb").geometry)

    assert written(meshes="shown") == {"body"}
    assert written(meshes="all") == {"body", "knob"}
    hand.session.choose((other,))
    assert written(meshes="chosen") == {"knob"}
    hand.session.choose(())
    panel.write(tmp_path / "b.glb", meshes="chosen")
    done(hand, panel)
    assert "No mesh is chosen" in hand.notice() and not (tmp_path / "b.glb").exists()


def test_the_set_up_is_handed_on_as_a_kit(hand: Hand, panel: HandOff, tmp_path: Path) -> None:
    press(hand, panel, "Kit")
    panel.write(tmp_path / "a kit")
    done(hand, panel)
    assert hand.notice().startswith("Written: a kit, ")
    assert (tmp_path / "a kit" / "README.txt").exists()
    assert "written: a kit" in hand.window.route.box("hand-off").state
    (tmp_path / "mine").mkdir()
    (tmp_path / "mine" / "x.txt").write_text("x")
    panel.write(tmp_path / "mine")
    done(hand, panel)
    assert "holds other things" in hand.notice()
    panel.write(tmp_path / "fit.pdf", "report")
    done(hand, panel)
    assert (tmp_path / "fit.pdf").read_bytes().startswith(b"%PDF")


def test_the_receiving_end_tells_a_wrong_unit(hand: Hand, panel: HandOff) -> None:
    panel.handing.choose(panel.handing.way.restored({"kind": "glb", "unit": "mm", "up": "y"}))
    press(hand, panel, "See what arrives")
    done(hand, panel)
    told = panel.panel._told.text()
    assert "Not all is as it should be" in told and "its numbers seem to be mm" in told
    panel.handing.choose(panel.handing.way.restored({"kind": "glb"}))
    press(hand, panel, "See what arrives")
    done(hand, panel)
    assert "All as it should be." in panel.panel._told.text()
    panel.handing.choose_receiver("printer")
    assert panel.panel._told.text() == "", "that was the other one's answer"
    press(hand, panel, "See what arrives")
    done(hand, panel)
    assert "✗ format: .glb" in panel.panel._told.text()


def test_pictures_of_a_pane_a_view_and_a_kept_look(
    hand: Hand, panel: HandOff, tmp_path: Path
) -> None:
    hand.point(hand.at("elevation", (0, 0, 10)))
    hand.window.commands.run("keep-look.1")
    for view in ("pane", "space", "top", "look 1"):
        out = tmp_path / f"{view}.png"
        panel.write(out, "picture", view=view, width=240, height=160, clear=True)
        done(hand, panel)
        with Image.open(out) as picture:
            assert (picture.size, picture.mode) == ((240, 160), "RGBA")
            alpha = picture.getchannel("A")
            assert alpha.getextrema() == (0, 255), f"{view}: the box on clear ground"
            assert alpha.getpixel((0, 0)) == 0
    panel.write(tmp_path / "no.png", "picture", view="look 5")
    done(hand, panel)
    assert "There is no look 5" in hand.notice() and not (tmp_path / "no.png").exists()
    panel.handing.choose(panel.handing.way.restored({"view": "front", "width": 90, "height": 60}))
    press(hand, panel, "Copy")
    done(hand, panel)
    assert QApplication.clipboard().image().width() == 90


def test_a_turntable_is_animated_and_can_be_stopped(
    hand: Hand, panel: HandOff, tmp_path: Path
) -> None:
    small = {"frames": 8, "width": 96, "height": 64, "seconds": 2.0}
    panel.write(tmp_path / "t.webp", "turntable", kind="webp", **small)
    done(hand, panel)
    with Image.open(tmp_path / "t.webp") as turning:
        assert turning.n_frames == 8
        turning.seek(3)
        turning.load()
        assert turning.info["duration"] == pytest.approx(250, abs=1)
    panel.write(tmp_path / "turns", "turntable", kind="png", **small)
    done(hand, panel)
    assert len(list((tmp_path / "turns").glob("turn-*.png"))) == 8
    panel.write(tmp_path / "long.webp", "turntable", kind="webp", frames=720)
    hand.settle()
    press(hand, panel, "Stop")
    done(hand, panel)
    assert "stopped" in hand.notice() and not (tmp_path / "long.webp").exists()


def test_a_view_is_printed_at_true_scale(hand: Hand, panel: HandOff, tmp_path: Path) -> None:
    panel.write(tmp_path / "p.pdf", "prints", view="front", paper="a4", lying="upright")
    done(hand, panel)
    pdf = pypdfium2.PdfDocument(tmp_path / "p.pdf")
    assert len(pdf) == 1
    assert pdf[0].get_size() == pytest.approx((595.3, 841.9), abs=0.1)
    lines = lines_of((tmp_path / "p.pdf").read_bytes())
    long = np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1)
    assert np.isclose(long, 100, atol=0.01).sum() == 1, "the ruler"
    assert np.isclose(long, 20, atol=0.01).sum() == 2, "the box is 20 mm wide"
    panel.write(tmp_path / "q.pdf", scale=0.002)
    done(hand, panel)
    assert "would take" in hand.notice() and not (tmp_path / "q.pdf").exists()


def test_commands_reach_every_way(hand: Hand, panel: HandOff, monkeypatch: object) -> None:
    asked: list[str] = []
    monkeypatch.setattr(  # type: ignore[attr-defined]
        "dimetron.app.route.hand_off.QFileDialog.getSaveFileName",
        lambda *given: asked.append(given[2]) or ("", ""),
    )
    for way in ("kit", "report", "prints", "picture", "turntable", "meshes"):
        hand.window.commands.run(f"hand-off.{way}")
    assert asked[:2] == ["Untitled-kit", "Untitled.pdf"]
    assert asked[3].endswith(".png")


def test_what_a_project_remembers_that_no_version_knows_is_left_out(hand: Hand) -> None:
    way = hand.window.hand_off.handing.way
    how = way.restored({"kind": "no such", "levels": "x", "unit": "cm", "gone": 1})
    assert (how.kind, how.levels, how.unit) == ("obj", 2, "cm")
    assert json.dumps(vars(how))

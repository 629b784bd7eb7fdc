"""The edits behind the commands, without a window."""

from __future__ import annotations

from types import SimpleNamespace

import pytest
from PySide6.QtTest import QSignalSpy
from PySide6.QtWidgets import QApplication

from dimetron.app.stations.order import board_tools, sheet_tools, station, station_of, stations
from dimetron.app.work import actions
from dimetron.app.work.session import Session
from dimetron.document import edits
from dimetron.document.model import Document
from dimetron.geometry.units import Unit
from dimetron.geometry.views import Projection, View
from dimetron.mesh.select import Kind
from tests.document.test_edits import picture


@pytest.fixture
def session(qapp: QApplication) -> Session:
    made = Session()
    doc, _ = edits.with_drawing(Document(), picture("front.png"), View.FRONT)
    doc, _ = edits.with_drawing(doc, picture("side.png", (300, 100)), View.RIGHT)
    made.open(doc, None)
    return made


def test_a_box_by_command_is_as_large_as_the_drawings_show(session: Session) -> None:
    actions.add_box(session)
    (item,) = session.document.meshes
    low, high = item.mesh.bounds
    assert (high - low).tolist() == pytest.approx([200, 300, 100])
    assert low[2] == 0
    assert session.chosen == (item.id,)
    empty = Session()
    actions.add_box(empty)
    assert len(empty.document.meshes) == 1


def test_flags_go_one_way_for_all_that_is_chosen(session: Session) -> None:
    first, second = (d.id for d in session.document.drawings)
    session.choose((first,))
    actions.set_flag(session, "held")
    session.choose((first, second))
    actions.set_flag(session, "held")
    assert all(d.held for d in session.document.drawings)
    assert session.history.undo_label == "Hold 2 items"
    actions.set_flag(session, "held")
    assert not any(d.held for d in session.document.drawings)
    session.choose(())
    steps = len(session.history.steps)
    actions.set_flag(session, "shown")
    assert len(session.history.steps) == steps


def test_holding_all_and_letting_go(session: Session) -> None:
    actions.hold_all_drawings(session)
    assert session.history.undo_label == "Hold all drawings"
    actions.hold_all_drawings(session)
    assert session.history.undo_label == "Let go of all drawings"


def test_fading_steps_the_chosen_one_or_all_and_stays_in_range(session: Session) -> None:
    first = session.document.drawings[0].id
    session.choose((first,))
    actions.fade(session, -actions.FADE_STEP)
    assert session.document.drawing(first).opacity == pytest.approx(0.7)
    assert session.document.drawings[1].opacity == 0.85
    session.choose(())
    for _ in range(12):
        actions.fade(session, -actions.FADE_STEP)
    assert [d.opacity for d in session.document.drawings] == [0.05, 0.05]
    for _ in range(12):
        actions.fade(session, actions.FADE_STEP)
    assert [d.opacity for d in session.document.drawings] == [1.0, 1.0]


def test_held_things_are_not_deleted(session: Session) -> None:
    first, second = (d.id for d in session.document.drawings)
    session.choose((first,))
    actions.set_flag(session, "held")
    session.choose((first, second))
    told = QSignalSpy(session.noticed)
    actions.delete(session)
    assert told.count() == 1
    assert len(session.document.drawings) == 2
    session.choose((second,))
    actions.delete(session)
    assert len(session.document.drawings) == 1
    assert len(session.document.sources) == 1


def test_selecting_all_and_nothing(session: Session) -> None:
    actions.add_box(session)
    session.select(Kind.EDGE, session.selected)
    actions.select_all(session)
    assert len(session.selected) == 12
    actions.select_none(session)
    assert len(session.selected) == 0
    actions.select_none(session)
    assert session.chosen == ()
    actions.select_all(session)
    assert len(session.chosen) == 3


def test_units_and_projection_are_steps(session: Session) -> None:
    actions.set_unit(session, Unit.INCH)
    steps = len(session.history.steps)
    actions.set_unit(session, Unit.INCH)
    assert len(session.history.steps) == steps
    actions.switch_projection(session)
    assert session.document.projection is Projection.FIRST_ANGLE
    session.undo()
    session.undo()
    assert session.document.unit is Unit.MM


def test_stations_say_how_they_stand(session: Session) -> None:
    place, model = station("place"), station("model")
    at = SimpleNamespace(session=session, registration=None, hand_off=None)
    assert place.state(at) == "2 drawings, 2 views"
    assert place.to_do(at) == ""
    assert model.state(at) == "no mesh yet"
    actions.add_box(session)
    assert model.state(at) == "box, 6 faces"
    actions.add_box(session)
    assert model.state(at) == "2 meshes, 12 faces"
    at.session = Session()
    assert place.state(at) == "no drawings yet"
    assert "Bring in a drawing" in place.to_do(at)


def test_stations_stand_in_working_order() -> None:
    names = ["prepare", "place", "register", "trace", "model", "check", "hand-off"]
    assert [spec.name for spec in stations()] == names
    assert {t.name for t in sheet_tools()} & {t.name for t in board_tools()} == set()
    assert station_of("extrude").name == "model"

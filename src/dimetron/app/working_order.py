"""The stations in working order, and the tools of each."""

from __future__ import annotations

from typing import TYPE_CHECKING

from dimetron.app import stations
from dimetron.app.route import Route, Station, register_icon
from dimetron.app.sheet.cut import CutViews
from dimetron.app.sheet.flatten import FlattenPhoto
from dimetron.app.sheet.scan import ScanSheet
from dimetron.app.sheet.size import SizeSheet
from dimetron.app.sheet.straighten import Straighten
from dimetron.app.sheet.tone import SetTone
from dimetron.app.tools.align import Align
from dimetron.app.tools.arrange import Arrange
from dimetron.app.tools.extrude import Extrude
from dimetron.app.tools.lengths import KnownLength, Measure
from dimetron.app.tools.mark import MarkLandmarks
from dimetron.app.tools.match import MatchPoints
from dimetron.app.tools.place import PutPoint
from dimetron.app.tools.propose import ProposeByInk
from dimetron.app.tools.section import CutSection
from dimetron.app.tools.shape import Shape
from dimetron.app.tools.solids import AddBox, Resize
from dimetron.app.tools.tilt import AuxiliaryView

if TYPE_CHECKING:
    from dimetron.app.window import Window

SHEET_TOOLS = (CutViews, Straighten, FlattenPhoto, SetTone, SizeSheet, ScanSheet)
PLACE_TOOLS = (
    *(Arrange, KnownLength, Align, MatchPoints),
    *(PutPoint, Measure, AuxiliaryView),
)
REGISTER_TOOLS = (ProposeByInk, MarkLandmarks)
MODEL_TOOLS = (Shape, AddBox, Resize, Extrude, CutSection)

BOARD_TOOLS = (*PLACE_TOOLS, *REGISTER_TOOLS, *MODEL_TOOLS)


def station_of(tool: str) -> str:
    """The station that a tool of the board belongs to."""
    for station, tools in (("place", PLACE_TOOLS), ("register", REGISTER_TOOLS)):
        if any(t.name == tool for t in tools):
            return station
    return "model"


def made_route(window: Window) -> Route:
    """The stations in working order, with their tools and commands."""
    session, commands = window.session, window.commands
    prepare = Station(
        "prepare",
        "Prepare",
        lambda: stations.prepare_state(session),
        lambda: stations.prepare_to_do(session),
        tuple(commands[f"sheet.{t.name}"] for t in SHEET_TOOLS),
        (commands["bring"], commands["browse"]),
    )
    place = Station(
        "place",
        "Place",
        lambda: stations.place_state(session),
        lambda: stations.place_to_do(session),
        tuple(commands[f"tool.{t.name}"] for t in PLACE_TOOLS),
        (commands["bring"],),
    )
    register = Station(
        "register",
        "Register",
        lambda: stations.register_state(session, window.registration),
        lambda: stations.register_to_do(session),
        tuple(commands[f"tool.{t.name}"] for t in REGISTER_TOOLS),
        (commands["ledger"],),
    )
    model = Station(
        "model",
        "Model",
        lambda: stations.model_state(session),
        lambda: "",
        tuple(commands[f"tool.{t.name}"] for t in MODEL_TOOLS),
    )
    hand_off = Station(
        "hand-off",
        "Hand off",
        lambda: stations.hand_off_state(window.hand_off),
        lambda: stations.hand_off_to_do(session),
        (),
        extra=window.hand_off,
    )
    for tool in BOARD_TOOLS:
        register_icon(f"tool.{tool.name}", tool.icon)
    for sheet_tool in SHEET_TOOLS:
        register_icon(f"sheet.{sheet_tool.name}", sheet_tool.icon)
    register_icon("bring", "photo-plus")
    register_icon("browse", "layout-board")
    register_icon("ledger", "equal")
    return Route(session, (prepare, place, register, model, hand_off), window.theme, "place")

"""The commands of the window, with our own mnemonic key map."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from dimetron.app import actions, menu_board, menu_cards
from dimetron.app.commands import Command
from dimetron.app.sheet.cut import CutViews
from dimetron.app.sheet.straighten import Straighten
from dimetron.app.stations.order import stations
from dimetron.app.stations.spec import StationSpec
from dimetron.app.title_block import UNIT_NAMES
from dimetron.app.tools.shape import change_kind
from dimetron.geometry.units import Unit
from dimetron.mesh.operation import Operation, operations
from dimetron.mesh.select import Kind

if TYPE_CHECKING:
    from dimetron.app.window import Window

#: What points and pictures snap to, and the key for it.
_SNAPS = {
    "grid": ("the grid", "Shift+G"),
    "vertex": ("vertices", "Shift+V"),
    "axis": ("the axes", "Shift+Y"),
    "drawing": ("edges and middles of drawings", "Shift+E"),
    "landmark": ("landmarks in other drawings", "Shift+N"),
    "ink": ("crossings, ends and strokes of the ink when marking", "Shift+I"),
}
GROUPS = ("File", "Edit", "Cards", "Mesh", "Board", "Look", "Help")


def define(window: Window) -> None:
    """Add every command to ``window.commands``."""
    _file(window)
    _edit(window)
    menu_cards.define(window)
    window.commands.add(
        Command(
            "ledger",
            "Ledger",
            "The table of landmarks and known lengths, unfolded or not",
            window.toggle_ledger,
            "Ctrl+Shift+L",
            "Register",
            checked=lambda: not window.ledger.isHidden(),
            icon="equal",
        )
    )
    _look(window)
    menu_board.define(window)
    _prepare(window)
    _stations(window)
    add = window.commands.add
    add(
        Command(
            "keys",
            "Shortcuts",
            "All shortcuts; each can be changed",
            window.show_keys,
            "F1",
            "Help",
        )
    )
    add(
        Command(
            "find",
            "Find a command",
            "List and run any command",
            window.find_command,
            "Ctrl+.",
            "Help",
        )
    )


def _file(window: Window) -> None:
    add, files = window.commands.add, window.files
    for command in (
        Command("new", "New project", "Begin with an empty board", files.new, "Ctrl+N", "File"),
        Command("open", "Open a project…", "Open a .dimetron file", files.open_dialog, "Ctrl+O", "File"),
        Command("demo", "Open the demo", "Open the watering can with its drawings", window.open_demo, "", "File"),
        Command("bring", "Bring in…", "Choose pictures and meshes, with a preview", window.arrivals.choose, "Ctrl+I", "File", icon="photo-plus"),
        Command("browse", "Browse a folder", "Look through the pictures of a folder", lambda: window.navigation.browse(window.browser.isHidden()), "Ctrl+B", "File", icon="layout-board"),
        Command("save", "Save", "Save the project", lambda: files.save(), "Ctrl+S", "File"),
        Command("save-as", "Save as…", "Save the project under another name", lambda: files.save_as(), "Ctrl+Shift+S", "File"),
        Command("export", "Export…", "Export with what is chosen in Hand off", lambda: _export(window), "Ctrl+E", "File"),
        Command("quit", "Quit", "Close the window", lambda: _quit(window), "Ctrl+Q", "File"),
    ):  # fmt: skip
        add(command)


def _quit(window: Window) -> None:
    window.close()


def _export(window: Window) -> None:
    window.route.open("hand-off")
    window.hand_off.ask()


def _edit(window: Window) -> None:
    session = window.session

    def any_chosen() -> bool:
        return bool(session.chosen)

    def can_undo() -> bool:
        return session.history.undo_label is not None

    def can_redo() -> bool:
        return session.history.redo_label is not None

    for command in (
        Command("undo", "Undo", "Take the last step back", session.undo, "Ctrl+Z", "Edit", can_undo),
        Command("redo", "Redo", "Do the step again", session.redo, "Ctrl+Shift+Z", "Edit", can_redo),
        Command("paste", "Paste a picture", "Bring in the picture on the clipboard", window.arrivals.paste, "Ctrl+V", "Edit"),
        Command("delete", "Delete", "Delete the selected faces, or what is chosen", lambda: actions.delete(session), "Del", "Edit", any_chosen),
        Command("select-all", "Select all", "All parts of the chosen mesh, or everything", lambda: actions.select_all(session), "Ctrl+A", "Edit"),
        Command("select-none", "Select nothing", "Drop the selection", lambda: actions.select_none(session), "Ctrl+Shift+A", "Edit"),
        Command("escape", "Abandon", "Drop what is under way, else the selection", window.navigation.escape, "Esc", "Edit"),
    ):  # fmt: skip
        window.commands.add(command)


def _look(window: Window) -> None:
    board, session = window.board, window.session
    for command in (
        Command("fit", "Fit everything", "Show everything in all panes, or the whole sheet", window.navigation.fit_all, "Home", "Look"),
        Command("fit-chosen", "Fit what is chosen", "Show what is chosen as large as it goes", window.navigation.fit_chosen, "Shift+Home", "Look"),
        Command("closer", "Closer", "Zoom in at the pointer", lambda: window.navigation.zoom(1.25), "+", "Look"),
        Command("farther", "Farther", "Zoom out at the pointer", lambda: window.navigation.zoom(0.8), "-", "Look"),
        Command("shading", "Next shading", "Solid, with edges, see-through, wire or silhouette in the pane under the pointer", window.navigation.next_shading, "Q", "Look"),
        Command("grid", "Grid", "Show or hide the grid and its numbers", window.navigation.toggle_grid, "G", "Look", checked=lambda: board.show_grid),
        Command("perspective", "Perspective", "Perspective or parallel in the 3D pane", window.navigation.toggle_perspective, "C", "Look", checked=lambda: board.sight.orbit.perspective),
        Command("projection", "Switch third- and first-angle", "Arrange the panes in the other projection", lambda: actions.switch_projection(session), "", "Look"),
        Command("night", "Night colours", "Dark colours for a dark room", window.switch_theme, "N", "Look", checked=lambda: window.theme.name == "night"),
    ):  # fmt: skip
        window.commands.add(command)
    for unit, name in UNIT_NAMES.items():
        window.commands.add(_unit_command(window, unit, name))
    for name in _SNAPS:
        window.commands.add(_snap_command(window, name))


def _unit_command(window: Window, unit: Unit, name: str) -> Command:
    return Command(
        f"unit.{unit.value}",
        f"Lengths in {name.lower()}",
        "Show and type lengths in this unit; sizes do not change",
        lambda: actions.set_unit(window.session, unit),
        "",
        "Unit",
        checked=lambda: window.session.document.unit is unit,
    )


def _snap_command(window: Window, name: str) -> Command:
    what, key = _SNAPS[name]
    return Command(
        f"snap.{name}",
        f"Snap to {what}",
        f"Points snap to {what} while dragging and picking",
        lambda: window.workbench.toggle_snap(name),
        key,
        "Snapping",
        checked=lambda: name in window.workbench.snaps,
    )


def _prepare(window: Window) -> None:
    desk, cut = window.desk, window.sheet_tools[CutViews.name]
    straighten = window.sheet_tools[Straighten.name]
    assert isinstance(cut, CutViews)
    assert isinstance(straighten, Straighten)

    def any_sheet() -> bool:
        return desk.sheet is not None and desk.page is not None

    def in_prepare(run: Callable[[], None], tool: str) -> Callable[[], None]:
        def go() -> None:
            window.navigation.take_at_sheet(tool)
            run()

        return go

    def waiting() -> bool:
        return any(d.named and not d.placed for d in window.session.document.drawings)

    for command in (
        Command("find-views", "Find the views", "Level the sheet and propose a rectangle for each view", in_prepare(cut.find, "cut"), "Ctrl+F", "Prepare", any_sheet),
        Command("place-all", "Place all views", "Put every named view on its plane, to one scale and level", lambda: actions.place_waiting(window.session), "Ctrl+P", "Prepare", waiting),
        Command("level-sheet", "Level the sheet", "Find and undo how far it lies askew", in_prepare(straighten.level, "straighten"), "Ctrl+L", "Prepare", any_sheet),
        Command("next-sheet", "Next sheet", "Lay the next sheet on the desk", lambda: desk.step(1), "PgDown", "Prepare", any_sheet),
        Command("previous-sheet", "Previous sheet", "Lay the previous sheet on the desk", lambda: desk.step(-1), "PgUp", "Prepare", any_sheet),
        Command("remove-sheet", "Remove the sheet", "Remove the sheet and the drawings cut from it", lambda: actions.remove_sheet(window.session, desk.sheet), "", "Prepare", any_sheet),
    ):  # fmt: skip
        window.commands.add(command)


def _stations(window: Window) -> None:
    for number, spec in enumerate(stations(), 1):
        _tools_of(window, spec)
        window.commands.add(_station_command(window, spec, number))
    _operations(window)
    kinds = (
        (Kind.WHOLE, "Select whole meshes", "W"),
        (Kind.VERTEX, "Select vertices", "V"),
        (Kind.EDGE, "Select edges", "E"),
        (Kind.FACE, "Select faces", "F"),
    )
    for kind, title, key in kinds:
        window.commands.add(_kind_command(window, kind, title, key))


def _tools_of(window: Window, spec: StationSpec) -> None:
    kind, take = (
        ("sheet", window.navigation.take_at_sheet)
        if spec.at_sheet
        else ("tool", window.navigation.take)
    )
    for tool in spec.tools:
        group = "Mesh" if tool.name in operations() else spec.title
        window.commands.add(
            Command(
                f"{kind}.{tool.name}",
                tool.title,
                tool.hint,
                partial(take, tool.name),
                tool.shortcut,
                group,
                icon=tool.icon,
            )
        )


def _operations(window: Window) -> None:
    """What is done at once; what is dragged has its tool."""
    session, operating = window.session, window.operating
    for spec in stations():
        for operation in spec.operations:
            window.commands.add(
                Command(
                    f"do.{operation.name}",
                    operation.title,
                    operation.sentence,
                    partial(_do, window, spec, operation),
                    operation.key,
                    "Mesh",
                    lambda: session.chosen_mesh is not None,
                    icon=operation.icon,
                )
            )
    window.commands.add(
        Command(
            "again",
            "Again",
            "Do the last operation once more, with its numbers, on what is selected",
            operating.again,
            "Ctrl+R",
            "Mesh",
            lambda: operating.can_repeat,
            apart=True,
        )
    )


def _do(window: Window, spec: StationSpec, operation: Operation) -> None:
    window.navigation.open_station(spec.name)
    window.operating.do(operation, window.operating.numbers(operation))


def _kind_command(window: Window, kind: Kind, title: str, key: str) -> Command:
    def run() -> None:
        if window.route.open_id != "model":
            window.navigation.take("shape")
        change_kind(window.workbench, kind)

    return Command(f"kind.{kind.value}", title, f"{title} with a click or a box", run, key, "Model")


def _station_command(window: Window, spec: StationSpec, number: int) -> Command:
    return Command(
        f"station.{spec.name}",
        f"Go to {spec.title}",
        f"Open the station {spec.title}",
        lambda: window.route.open(spec.name),
        f"Alt+{number}",
        "Stations",
    )

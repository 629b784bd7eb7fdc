"""The commands of the parts, with our own mnemonic key map."""

from __future__ import annotations

from functools import partial

from dimetron.app.board import commands as of_board
from dimetron.app.sheet import commands as of_sheet
from dimetron.app.shell.parts import Parts
from dimetron.app.shell.title_block import UNIT_NAMES
from dimetron.app.stations.order import stations
from dimetron.app.stations.spec import StationSpec
from dimetron.app.tools.shape import change_kind
from dimetron.app.tray import commands as of_cards
from dimetron.app.work import actions
from dimetron.app.work.commands import Command
from dimetron.geometry.units import Unit
from dimetron.handoff.way import ways
from dimetron.mesh.operation import Operation, operations
from dimetron.mesh.select import Kind

#: What points and pictures snap to, and the key for it.
_SNAPS = {
    "grid": ("the grid", "Shift+G"),
    "vertex": ("vertices", "Shift+V"),
    "axis": ("the axes", "Shift+Y"),
    "drawing": ("edges and middles of drawings", "Shift+E"),
    "landmark": ("landmarks in other drawings", "Shift+N"),
    "ink": ("crossings, ends and strokes of the ink when marking", "Shift+I"),
}
_HAND_OFF_KEYS = {"meshes": "Ctrl+E"}
GROUPS = ("File", "Edit", "Cards", "Mesh", "Board", "Look", "Help")


def define(parts: Parts) -> None:
    """Add every command there is."""
    _file(parts)
    _edit(parts)
    of_cards.define(parts.commands, parts.session, parts.arrivals.choose_loose)
    parts.commands.add(
        Command(
            "ledger",
            "Ledger",
            "The table of landmarks and known lengths, unfolded or not",
            parts.toggle_ledger,
            "Ctrl+Shift+L",
            "Register",
            checked=lambda: parts.ledger_shown,
            icon="equal",
        )
    )
    fitting = parts.fitting
    parts.commands.add(
        Command(
            "live-miss",
            "Live miss",
            "How far the meshes miss the drawings, drawn along their outlines while one works",
            lambda: fitting.show(not fitting.shown),
            "Ctrl+Shift+W",
            "Check",
            checked=lambda: fitting.shown,
            icon="whiskers",
        )
    )
    _look(parts)
    of_board.define(parts)
    of_sheet.define(parts.commands, parts.desk, parts.sheet_tools, parts.navigation.take_at_sheet)
    _stations(parts)
    add = parts.commands.add
    add(
        Command(
            "keys",
            "Shortcuts",
            "All shortcuts; each can be changed",
            parts.show_keys,
            "F1",
            "Help",
        )
    )
    add(
        Command(
            "find",
            "Find a command",
            "List and run any command",
            parts.find_command,
            "Ctrl+.",
            "Help",
        )
    )


def _file(parts: Parts) -> None:
    add, files = parts.commands.add, parts.files
    for command in (
        Command("new", "New project", "Begin with an empty board", files.new, "Ctrl+N", "File"),
        Command("open", "Open a project…", "Open a .dimetron file", files.open_dialog, "Ctrl+O", "File"),
        Command("demo", "Open the demo", "Open the watering can with its drawings", parts.open_demo, "", "File"),
        Command("bring", "Bring in…", "Choose pictures and meshes, with a preview", parts.arrivals.choose, "Ctrl+I", "File", icon="photo-plus"),
        Command("bring-outlines", "Bring in outlines…", "The curves of SVG and DXF files, onto the view of what is chosen", parts.arrivals.choose_outlines, "", "File", icon="follow-ink"),
        Command("browse", "Browse a folder", "Look through the pictures of a folder", lambda: parts.navigation.browse(parts.browser.isHidden()), "Ctrl+B", "File", icon="layout-board"),
        Command("save", "Save", "Save the project", lambda: files.save(), "Ctrl+S", "File"),
        Command("save-as", "Save as…", "Save the project under another name", lambda: files.save_as(), "Ctrl+Shift+S", "File"),
        *(Command(f"hand-off.{way.name}", way.verb, way.hint, partial(_hand_off, parts, way.name), _HAND_OFF_KEYS.get(way.name, ""), "File") for way in ways()),
        Command("quit", "Quit", "Close the window", lambda: _quit(parts), "Ctrl+Q", "File"),
    ):  # fmt: skip
        add(command)


def _quit(parts: Parts) -> None:
    parts.close()


def _hand_off(parts: Parts, way: str) -> None:
    parts.route.open("hand-off")
    parts.hand_off.ask(way)


def _delete(parts: Parts) -> None:
    """What is chosen within the tool in hand goes before the item itself."""
    if not (parts.board.hasFocus() and parts.board.give_key("delete")):
        actions.delete(parts.session)


def _edit(parts: Parts) -> None:
    session = parts.session

    def any_chosen() -> bool:
        return bool(session.chosen)

    def can_undo() -> bool:
        return session.history.undo_label is not None

    def can_redo() -> bool:
        return session.history.redo_label is not None

    for command in (
        Command("undo", "Undo", "Take the last step back", session.undo, "Ctrl+Z", "Edit", can_undo),
        Command("redo", "Redo", "Do the step again", session.redo, "Ctrl+Shift+Z", "Edit", can_redo),
        Command("paste", "Paste a picture", "Bring in the picture on the clipboard", parts.arrivals.paste, "Ctrl+V", "Edit"),
        Command("delete", "Delete", "Delete the selected faces, or what is chosen", lambda: _delete(parts), "Del", "Edit", any_chosen),
        Command("select-all", "Select all", "All parts of the chosen mesh, or everything", lambda: actions.select_all(session), "Ctrl+A", "Edit"),
        Command("select-none", "Select nothing", "Drop the selection", lambda: actions.select_none(session), "Ctrl+Shift+A", "Edit"),
        Command("escape", "Abandon", "Drop what is under way, else the selection", parts.navigation.escape, "Esc", "Edit"),
    ):  # fmt: skip
        parts.commands.add(command)


def _look(parts: Parts) -> None:
    board, session = parts.board, parts.session
    for command in (
        Command("fit", "Fit everything", "Show everything in all panes, or the whole sheet", parts.navigation.fit_all, "Home", "Look"),
        Command("fit-chosen", "Fit what is chosen", "Show what is chosen as large as it goes", parts.navigation.fit_chosen, "Shift+Home", "Look"),
        Command("closer", "Closer", "Zoom in at the pointer", lambda: parts.navigation.zoom(1.25), "+", "Look"),
        Command("farther", "Farther", "Zoom out at the pointer", lambda: parts.navigation.zoom(0.8), "-", "Look"),
        Command("shading", "Next shading", "Solid, with edges, see-through, wire or silhouette in the pane under the pointer", parts.navigation.next_shading, "Q", "Look"),
        Command("grid", "Grid", "Show or hide the grid and its numbers", parts.navigation.toggle_grid, "G", "Look", checked=lambda: board.show_grid),
        Command("perspective", "Perspective", "Perspective or parallel in the 3D pane", parts.navigation.toggle_perspective, "C", "Look", checked=lambda: board.sight.orbit.perspective),
        Command("projection", "Switch third- and first-angle", "Arrange the panes in the other projection", lambda: actions.switch_projection(session), "", "Look"),
        Command("night", "Night colours", "Dark colours for a dark room", parts.switch_theme, "N", "Look", checked=lambda: parts.theme.name == "night"),
    ):  # fmt: skip
        parts.commands.add(command)
    for unit, name in UNIT_NAMES.items():
        parts.commands.add(_unit_command(parts, unit, name))
    for name in _SNAPS:
        parts.commands.add(_snap_command(parts, name))


def _unit_command(parts: Parts, unit: Unit, name: str) -> Command:
    return Command(
        f"unit.{unit.value}",
        f"Lengths in {name.lower()}",
        "Show and type lengths in this unit; sizes do not change",
        lambda: actions.set_unit(parts.session, unit),
        "",
        "Unit",
        checked=lambda: parts.session.document.unit is unit,
    )


def _snap_command(parts: Parts, name: str) -> Command:
    what, key = _SNAPS[name]
    return Command(
        f"snap.{name}",
        f"Snap to {what}",
        f"Points snap to {what} while dragging and picking",
        lambda: parts.workbench.toggle_snap(name),
        key,
        "Snapping",
        checked=lambda: name in parts.workbench.snaps,
    )


def _stations(parts: Parts) -> None:
    for number, spec in enumerate(stations(), 1):
        _tools_of(parts, spec)
        parts.commands.add(_station_command(parts, spec, number))
    _operations(parts)
    kinds = (
        (Kind.WHOLE, "Select whole meshes", "W"),
        (Kind.VERTEX, "Select vertices", "V"),
        (Kind.EDGE, "Select edges", "E"),
        (Kind.FACE, "Select faces", "F"),
    )
    for kind, title, key in kinds:
        parts.commands.add(_kind_command(parts, kind, title, key))


def _tools_of(parts: Parts, spec: StationSpec) -> None:
    kind, take = (
        ("sheet", parts.navigation.take_at_sheet)
        if spec.at_sheet
        else ("tool", parts.navigation.take)
    )
    for tool in spec.tools:
        group = "Mesh" if tool.name in operations() else spec.title
        parts.commands.add(
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


def _operations(parts: Parts) -> None:
    """What is done at once; what is dragged has its tool."""
    operating = parts.operating
    for spec in stations():
        for operation in spec.operations:
            parts.commands.add(
                Command(
                    f"do.{operation.name}",
                    operation.title,
                    operation.sentence,
                    partial(_do, parts, spec, operation),
                    operation.key,
                    "Mesh",
                    partial(operating.can_do, operation),
                    icon=operation.icon,
                )
            )
    parts.commands.add(
        Command(
            "keep-version",
            "Keep a version",
            "Keep the chosen mesh as it is now, by a name, to return to",
            partial(actions.keep_version, parts.session),
            "Ctrl+Shift+Y",
            "Mesh",
            lambda: parts.session.chosen_mesh is not None,
            apart=True,
        )
    )
    parts.commands.add(
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


def _do(parts: Parts, spec: StationSpec, operation: Operation) -> None:
    parts.navigation.open_station(spec.name)
    parts.operating.do(operation, parts.operating.numbers(operation))


def _kind_command(parts: Parts, kind: Kind, title: str, key: str) -> Command:
    def run() -> None:
        tool = parts.board.tool
        if parts.route.open_id != "model" or tool is None or not tool.selects:
            parts.navigation.take("shape")
        change_kind(parts.workbench, kind)

    return Command(f"kind.{kind.value}", title, f"{title} with a click or a box", run, key, "Model")


def _station_command(parts: Parts, spec: StationSpec, number: int) -> Command:
    return Command(
        f"station.{spec.name}",
        f"Go to {spec.title}",
        f"Open the station {spec.title}",
        lambda: parts.route.open(spec.name),
        f"Alt+{number}",
        "Stations",
    )

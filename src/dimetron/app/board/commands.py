"""Commands of the board: which panes, ties, what is hidden as a whole, saved looks, snapshots."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial

from dimetron.app.board import kept, snapshots
from dimetron.app.board.flicker import Flicker
from dimetron.app.board.parts import BoardParts
from dimetron.app.tools.slots import ELEVATION, PLAN, SIDE, SLOTS, SPACE
from dimetron.app.work.commands import Command
from dimetron.geometry.views import AXIS_NAMES
from dimetron.render.scene import MeshLook
from dimetron.render.taken import Taken

#: Panes shown together; one key steps through the first of each number.
_ARRANGEMENTS: tuple[tuple[str, str, tuple[str, ...]], ...] = (
    ("four", "Four panes", SLOTS),
    ("three", "Three panes", (PLAN, ELEVATION, SIDE)),
    ("front-3d", "Two panes: front and 3D", (ELEVATION, SPACE)),
    ("front-side", "Two panes: front and side", (ELEVATION, SIDE)),
    ("plan-front", "Two panes: plan and front", (PLAN, ELEVATION)),
    ("plan-side", "Two panes: plan and side", (PLAN, SIDE)),
    ("plan-3d", "Two panes: plan and 3D", (PLAN, SPACE)),
    ("side-3d", "Two panes: side and 3D", (SIDE, SPACE)),
)
_STEPS = (SLOTS, (PLAN, ELEVATION, SIDE), (ELEVATION, SPACE))
_OPACITIES = ((None, "as the shading has it"), (1.0, "full"), (0.6, "60 %"), (0.3, "30 %"))
_COLOURS = (("clay", "green"), ("ochre", "ochre"), ("slate", "slate"), ("rose", "rose"))
LOOKS = 9


def define(parts: BoardParts) -> None:
    _panes(parts)
    _whole(parts)
    _mesh_look(parts)
    kept.define(parts, LOOKS)
    for how, key in ((Taken.SILHOUETTE, ""), (Taken.LINES, "Ctrl+T"), (Taken.SHADED, "")):
        parts.commands.add(
            Command(
                f"snapshot.{how.value}",
                f"Take a snapshot: {how.value}",
                "The view of the pane under the pointer becomes a placed drawing",
                partial(snapshots.take, parts.session, parts.board, how),
                key,
                "Board",
                lambda: bool(parts.session.document.meshes),
                apart=how is Taken.SILHOUETTE,
            )
        )


def _panes(parts: BoardParts) -> None:
    board, add = parts.board, parts.commands.add
    for command in (
        Command("one-pane", "One pane or all", "The pane under the pointer fills the board, and back", board.toggle_full, "O", "Board"),
        Command("next-panes", "Next arrangement", "Four panes, three, two", lambda: _next(parts), "Shift+O", "Board"),
    ):  # fmt: skip
        add(command)
    for id_, title, slots in _ARRANGEMENTS:
        add(
            Command(
                f"panes.{id_}",
                title,
                "Show these panes; each can show any view",
                partial(_arrange, parts, slots),
                "",
                "Board",
                checked=partial(_arranged, parts, slots),
                apart=id_ == "four",
            )
        )
    for axis, name in enumerate(AXIS_NAMES):
        add(
            Command(
                f"tie.{name.lower()}",
                f"Tie panes along {name}",
                f"Panes that show {name} move together along it",
                partial(_tie, parts, axis),
                "",
                "Board",
                checked=partial(_tied, parts, axis),
                apart=axis == 0,
            )
        )
    add(
        Command(
            "tie.scale",
            "Tie the scale of panes",
            "Flat panes are zoomed together",
            lambda: board.look(board.sight.with_scale_tie(not board.sight.scale_tied)),
            "",
            "Board",
            checked=lambda: board.sight.scale_tied,
        )
    )


def _next(parts: BoardParts) -> None:
    now = parts.board.layout_.slots
    at = _STEPS.index(now) if now in _STEPS else -1
    _arrange(parts, _STEPS[(at + 1) % len(_STEPS)])


def _arrange(parts: BoardParts, slots: tuple[str, ...]) -> None:
    board = parts.board
    board.look(layout=board.layout_.with_slots(slots))


def _arranged(parts: BoardParts, slots: tuple[str, ...]) -> bool:
    return parts.board.layout_.slots == slots


def _tie(parts: BoardParts, axis: int) -> None:
    board = parts.board
    board.look(board.sight.with_tie(axis, not board.sight.tied[axis]))


def _tied(parts: BoardParts, axis: int) -> bool:
    return parts.board.sight.tied[axis]


def _whole(parts: BoardParts) -> None:
    """Hide all drawings, or everything else, as a whole; cards keep their own state."""
    board = parts.board

    def drawings() -> None:
        board.look(replace(board.sight, drawings=not board.sight.drawings))

    def apart() -> None:
        """Both, drawings alone, outlines alone, in turn."""
        order = [(True, True), (True, False), (False, True)]
        now = board.sight.drawings, board.sight.outlines
        to = order[(order.index(now) + 1) % 3] if now in order else order[0]
        board.look(replace(board.sight, drawings=to[0], outlines=to[1]))

    def others() -> None:
        board.look(replace(board.sight, others=not board.sight.others))

    for command in (
        Command("hide-drawings", "Hide all drawings", "All drawings off the board, or back", drawings, "Shift+D", "Board", checked=lambda: not board.sight.drawings, apart=True),
        Command("drawings-or-outlines", "Drawings or outlines", "Drawings alone, outlines alone, and both again", apart, "Ctrl+Shift+O", "Board", checked=lambda: not board.sight.outlines),
        Command("only-drawings", "Drawings only", "Everything but the drawings off the board, or back", others, "Shift+B", "Board", checked=lambda: not board.sight.others),
    ):  # fmt: skip
        parts.commands.add(command)
    flicker = Flicker(board)
    title, hint = (
        "Drawings while held",
        "As long as the key is held, the drawings without the meshes",
    )
    parts.commands.add(Command("flicker", title, hint, flicker.begin, "F2", "Board"))


def _mesh_look(parts: BoardParts) -> None:
    board, add = parts.board, parts.commands.add

    def show(look: MeshLook) -> None:
        board.look(replace(board.sight, mesh_look=look))

    def opacity_of(value: float | None) -> MeshLook:
        return replace(board.sight.mesh_look, opacity=value)

    def colour_of(role: str) -> MeshLook:
        return replace(board.sight.mesh_look, colour=role)

    def looks_like(made: Callable[[], MeshLook]) -> bool:
        return made() == board.sight.mesh_look

    for opacity, words in _OPACITIES:
        add(
            Command(
                f"opacity.{words.partition(' ')[0]}",
                f"Mesh opacity: {words}",
                "How much of what lies behind is seen through the meshes",
                partial(_shown, show, partial(opacity_of, opacity)),
                "",
                "Meshes",
                checked=partial(looks_like, partial(opacity_of, opacity)),
            )
        )
    for role, words in _COLOURS:
        add(
            Command(
                f"colour.{role}",
                f"Mesh colour: {words}",
                "A colour that stands out from the drawings",
                partial(_shown, show, partial(colour_of, role)),
                "",
                "Meshes",
                checked=partial(looks_like, partial(colour_of, role)),
            )
        )


def _shown(show: Callable[[MeshLook], None], made: Callable[[], MeshLook]) -> None:
    show(made())

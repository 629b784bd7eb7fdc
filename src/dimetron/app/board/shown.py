"""What the board shows, for pictures of it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from dimetron.app.board.looks import recalled
from dimetron.app.board.scenes import Scenes
from dimetron.app.tools.slots import SPACE
from dimetron.app.work.handing import Seen

if TYPE_CHECKING:
    from dimetron.app.board.widget import Board
    from dimetron.app.work.pictures import Pictures
    from dimetron.app.work.session import Session
    from dimetron.document.parts import SavedLook
    from dimetron.render.scene import PaneScene


def seen_on(board: Board, session: Session, pictures: Pictures) -> Seen:
    """The pane used last, 3D, and the kept looks: of those that fill the board with a pane that
    one, of others 3D."""
    scenes = dict(board.scenes())
    last = board.last_slot
    found = {"pane": scenes[last if last in scenes else next(iter(scenes))]}
    if SPACE in scenes:
        found["space"] = scenes[SPACE]
    for look in session.document.looks:
        found[f"look {look.number}"] = _of_look(board, session, pictures, look)
    return Seen(found, dict(pictures.pyramids), board.palette_)


def _of_look(board: Board, session: Session, pictures: Pictures, look: SavedLook) -> PaneScene:
    doc = session.document
    sight, layout = recalled(look, doc, board.sight, board.layout_)
    slot = look.full if look.full is not None else SPACE
    sizes = board.width(), board.height()
    rects, homes = layout.rects(*sizes), layout.homes(*sizes)
    if slot not in rects:
        slot = next(iter(rects))
    made, _ = Scenes(session, pictures).of(
        sight, {slot: rects[slot]}, homes, board.palette_, 1.0, board.show_grid
    )
    return made[slot]

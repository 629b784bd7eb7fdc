"""Commands of the sheet on the desk."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from dimetron.app.sheet.cut import CutViews
from dimetron.app.sheet.desk import Desk
from dimetron.app.sheet.straighten import Straighten
from dimetron.app.sheet.tool import SheetTool
from dimetron.app.work import actions
from dimetron.app.work.commands import Command, Commands


def define(
    commands: Commands, desk: Desk, tools: Mapping[str, SheetTool], take: Callable[[str], None]
) -> None:
    """Add them; take takes up a tool of the sheet."""
    session, cut, straighten = desk.session, tools[CutViews.name], tools[Straighten.name]
    assert isinstance(cut, CutViews)
    assert isinstance(straighten, Straighten)

    def any_sheet() -> bool:
        return desk.sheet is not None and desk.page is not None

    def in_prepare(run: Callable[[], None], tool: str) -> Callable[[], None]:
        def go() -> None:
            take(tool)
            run()

        return go

    def waiting() -> bool:
        return any(d.named and not d.placed for d in session.document.drawings)

    for command in (
        Command("find-views", "Find the views", "Level the sheet and propose a rectangle for each view", in_prepare(cut.find, "cut"), "Ctrl+F", "Prepare", any_sheet),
        Command("place-all", "Place all views", "Put every named view on its plane, to one scale and level", lambda: actions.place_waiting(session), "Ctrl+P", "Prepare", waiting),
        Command("level-sheet", "Level the sheet", "Find and undo how far it lies askew", in_prepare(straighten.level, "straighten"), "Ctrl+L", "Prepare", any_sheet),
        Command("next-sheet", "Next sheet", "Lay the next sheet on the desk", lambda: desk.step(1), "PgDown", "Prepare", any_sheet),
        Command("previous-sheet", "Previous sheet", "Lay the previous sheet on the desk", lambda: desk.step(-1), "PgUp", "Prepare", any_sheet),
        Command("remove-sheet", "Remove the sheet", "Remove the sheet and the drawings cut from it", lambda: actions.remove_sheet(session, desk.sheet), "", "Prepare", any_sheet),
    ):  # fmt: skip
        commands.add(command)

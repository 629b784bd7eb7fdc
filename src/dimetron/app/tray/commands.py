"""Commands on what lies in the tray: show and hold, fade, groups, copies, loose pictures."""

from __future__ import annotations

from collections.abc import Callable

from dimetron.app.work import actions
from dimetron.app.work.commands import Command, Commands
from dimetron.app.work.session import Session
from dimetron.document.parts import ReferenceKind


def define(commands: Commands, session: Session, choose_loose: Callable[[], None]) -> None:
    """Add them; choose_loose asks for loose pictures and brings them."""

    def any_chosen() -> bool:
        return bool(session.chosen)

    def any_drawing() -> bool:
        return bool(session.document.drawings)

    def drawing_chosen() -> bool:
        return bool(actions.chosen_drawings(session))

    def can_paste() -> bool:
        return session.copied is not None and drawing_chosen()

    for command in (
        Command("show", "Show or hide what is chosen", "Show or hide the chosen cards", lambda: actions.set_flag(session, "shown"), "H", "Cards", any_chosen),
        Command("show-all", "Show everything", "Show every card and group, and nothing alone", lambda: actions.show_everything(session), "Shift+H", "Cards"),
        Command("alone", "Show alone", "Show what is chosen alone among its kind, or all again", lambda: actions.show_alone(session), "Ctrl+H", "Cards", any_chosen),
        Command("hold", "Hold or let go of what is chosen", "Protect it from being chosen and moved", lambda: actions.set_flag(session, "held"), "L", "Cards", any_chosen, apart=True),
        Command("hold-all", "Hold all drawings", "Protect all drawings while modeling, or let go of all", lambda: actions.hold_all_drawings(session), "Shift+L", "Cards", any_drawing),
        Command("fade-level", "Fade in three levels", "Step the chosen drawing, or all, to the next weaker level", lambda: actions.fade_level(session), "I", "Cards", any_drawing, apart=True),
        Command("stronger", "Drawings stronger", "Fade the chosen drawing, or all, less", lambda: actions.fade(session, actions.FADE_STEP), "]", "Cards", any_drawing),
        Command("weaker", "Drawings weaker", "Fade the chosen drawing, or all, more", lambda: actions.fade(session, -actions.FADE_STEP), "[", "Cards", any_drawing),
        Command("group", "Group", "Put what is chosen into a group of its own", lambda: actions.group_chosen(session), "Ctrl+G", "Cards", any_chosen, apart=True),
        Command("size-together", "Size together", "The chosen drawings are sized and turned together; one alone joins those of its sheet", lambda: actions.join(session), "Ctrl+U", "Cards", drawing_chosen),
        Command("size-apart", "Size apart", "The chosen drawings are sized and turned each by itself", lambda: actions.separate(session), "Ctrl+Shift+U", "Cards", drawing_chosen),
        Command("set-around", "Turn the set around", "What all drawings of the set call the front becomes the back", lambda: actions.turn_set(session, 2), "Ctrl+K", "Cards", any_drawing),
        Command("set-quarter", "Turn the set by a quarter", "The front becomes the right side, and so on around", lambda: actions.turn_set(session, 1), "Ctrl+Shift+K", "Cards", any_drawing),
        Command("duplicate", "Duplicate", "The chosen drawings once more, with their placement", lambda: actions.duplicate(session), "Ctrl+D", "Cards", drawing_chosen),
        Command("copy-placement", "Copy the placement", "Keep scale, turn and place of the chosen drawing", lambda: actions.copy_placement(session), "Ctrl+C", "Cards", drawing_chosen),
        Command("paste-placement", "Paste the placement", "Give it to the chosen drawings", lambda: actions.paste_placement(session), "Ctrl+Shift+V", "Cards", can_paste),
        Command("loose", "Bring in loose pictures…", "Pictures that are not to be aligned: details, moods", choose_loose, "Ctrl+Shift+I", "Cards", apart=True),
        Command("references", "Size references on or off", "Show or hide all size references", lambda: actions.flip_references(session), "Shift+R", "Cards", lambda: bool(session.document.references), apart=True),
        Command("reference.box", "Add a size box", "A box of known size to compare with", lambda: actions.add_reference(session, ReferenceKind.BOX), "", "Cards"),
        Command("reference.figure", "Add a figure", "A standing figure of known height", lambda: actions.add_reference(session, ReferenceKind.FIGURE), "", "Cards"),
        Command("reference.ruler", "Add a ruler", "A ruler bar of known length", lambda: actions.add_reference(session, ReferenceKind.RULER), "", "Cards"),
    ):  # fmt: skip
        commands.add(command)

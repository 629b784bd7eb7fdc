"""What a drawing's card can do beside its fields: copies, other pictures, matching."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QObject
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu, QToolButton

from dimetron.app.work import actions
from dimetron.app.work.session import Session
from dimetron.document import aligning, bodies, edits, placing
from dimetron.document.model import Document, Drawing, MeshObject
from dimetron.document.parts import Reference
from dimetron.geometry.views import EXTENT_NAMES, View, shared_axes


class DrawingMenus(QObject):
    """The two menus of a drawing's card."""

    def __init__(
        self,
        session: Session,
        id_: str,
        match: QToolButton,
        more: QToolButton,
    ) -> None:
        super().__init__(match)
        self._session = session
        self._id = id_
        for button, fill in ((match, self._fill_match), (more, self._fill_more)):
            button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
            menu = QMenu(button)
            menu.aboutToShow.connect(lambda menu=menu, fill=fill: self._refill(menu, fill))
            menu.hovered.connect(self._hover)
            menu.aboutToHide.connect(lambda: session.show_ink(()))
            button.setMenu(menu)

    def _refill(self, menu: QMenu, fill: Callable[[QMenu, Drawing], None]) -> None:
        menu.clear()
        drawing = self._session.document.item(self._id)
        if isinstance(drawing, Drawing):
            fill(menu, drawing)

    def _hover(self, action: QAction) -> None:
        """Show what would count of the drawings that a size is taken from."""
        self._session.show_ink(action.data() or ())

    def _others(self) -> list[Drawing]:
        return [d for d in self._session.document.planes if d.id != self._id]

    def _fill_match(self, menu: QMenu, drawing: Drawing) -> None:
        for other in self._others():
            _add(menu, f"Scale of {other.name}", partial(self._match, other, None))
            for axis in shared_axes(drawing.view, other.view):
                title = f"{EXTENT_NAMES[axis].capitalize()} of {other.name}"
                action = _add(menu, title, partial(self._match, other, axis))
                action.setData((self._id, other.id))
        doc = self._session.document
        sized: tuple[MeshObject | Reference, ...] = (*doc.meshes, *doc.references)
        for item in sized:
            for axis in drawing.view.axes:
                title = f"{EXTENT_NAMES[axis].capitalize()} of {item.name}"
                action = _add(menu, title, partial(self._match, item, axis))
                action.setData((self._id,))
        if menu.isEmpty():
            menu.addAction("There is nothing to match yet").setEnabled(False)

    def _match(self, other: Drawing | MeshObject | Reference, axis: int | None) -> None:
        doc = self._session.committed
        drawing = doc.drawing(self._id)
        if axis is None:
            after, what = edits.scaled_like(doc, self._id, other.id), "scale"
        else:
            # What is drawn is as large as the object, not its paper.
            of = [d for d in (drawing, other) if isinstance(d, Drawing)]
            known = {d.id: self._session.ink_of(doc, d) for d in of}
            ink = {id_: box for id_, box in known.items() if box is not None}
            after = aligning.matched_extent(doc, self._id, other.id, axis, ink)
            what = EXTENT_NAMES[axis]
        self._session.commit(after, f"Match the {what} of {drawing.name}")

    def _fill_more(self, menu: QMenu, drawing: Drawing) -> None:
        session = self._session
        _add(menu, "Duplicate", lambda: actions.duplicate(session, (self._id,)))
        _add(menu, "Copy its placement", lambda: actions.copy_placement(session, self._id))
        paste = _add(menu, "Paste the placement", lambda: actions.paste_placement(session))
        paste.setEnabled(session.copied is not None)
        menu.addSeparator()
        _add(menu, "Another picture from a file…", lambda: session.picture_wanted.emit(self._id))
        pictures = menu.addMenu("The picture of")
        others = [d for d in session.document.drawings if d.id != self._id]
        for other in others:
            _add(pictures, other.name, partial(self._take_picture, other))
        pictures.setEnabled(bool(others))
        facing = [d for d in self._others() if _opposite(drawing, d)]
        for other in facing:
            title = f"Stand back to back with {other.name}"
            _add(menu, title, partial(self._back_to_back, other))
        menu.addSeparator()
        if bodies.words_of(session.document, self._id):
            _add(menu, "Size it apart", lambda: actions.separate(session, (self._id,)))
        elif drawing.body:
            _add(menu, "Size it with its sheet", lambda: actions.join(session, (self._id,)))
        pinned = self._id in session.document.pinned
        words = "Let it be registered again" if pinned else "Pin it: others are registered to it"
        _add(menu, words, lambda: actions.pin(session, self._id))
        _add(menu, "Show it alone, or all again", lambda: actions.show_alone(session, (self._id,)))
        _add(menu, "Make it a loose picture", lambda: actions.loosen(session, self._id))

    def _take_picture(self, other: Drawing) -> None:
        name = self._session.committed.drawing(self._id).name
        doc, words = placing.replaced(self._session.committed, self._id, other.id)
        self._session.commit(doc, f"Another picture for {name}")
        if words:
            self._session.warn(words)

    def _back_to_back(self, other: Drawing) -> None:
        doc: Document = placing.back_to_back(self._session.committed, self._id, other.id)
        name = doc.drawing(self._id).name
        self._session.commit(doc, f"Stand {name} and {other.name} back to back")


def _opposite(a: Drawing, b: Drawing) -> bool:
    return isinstance(a.view, View) and b.view is a.view.opposite


def _add(menu: QMenu, title: str, run: Callable[[], None]) -> QAction:
    action = menu.addAction(title)
    action.triggered.connect(lambda _=False: run())
    return action

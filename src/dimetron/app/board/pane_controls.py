"""Small widgets that stand on the board: pane names with their look, and the empty state."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from dimetron.app.board.layout import Rect
from dimetron.app.board.widget import Board
from dimetron.app.tools.slots import FLAT_SLOTS, SLOTS, SPACE
from dimetron.geometry.views import AnyView, Auxiliary
from dimetron.render.scene import Shading

_INSET = 6
#: How strong drawings can be in a pane.
PANE_FADES = ((1.0, "full"), (0.6, "half"), (0.3, "faint"), (0.0, "hidden"))


class PaneName(QWidget):
    """A pane's name and look in its corner: click the name for views, the look for shading."""

    def __init__(self, board: Board, slot: str) -> None:
        super().__init__(board)
        self.setObjectName("paneChip")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._board = board
        self.slot = slot
        self.name = QToolButton()
        self.name.setObjectName("paneName")
        self.name.setToolTip("Which view this pane shows, and whether it fills the board")
        self.look = QToolButton()
        self.look.setObjectName("paneLook")
        self.look.setToolTip("How meshes look in this pane")
        self.back = QToolButton()
        self.back.setObjectName("paneLook")
        self.back.setText("×")
        self.back.setStyleSheet("font-size: 16px; padding: 0 4px;")
        self.back.clicked.connect(lambda: board.look(board.sight.given_back(slot)))
        for button in (self.name, self.look):
            button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
            button.setStyleSheet("QToolButton::menu-indicator { image: none; width: 0; }")
            menu = QMenu(button)
            button.setMenu(menu)
        self.name.menu().aboutToShow.connect(self._fill_views)
        self.look.menu().aboutToShow.connect(self._fill_looks)
        box = QHBoxLayout(self)
        box.setContentsMargins(1, 0, 2, 0)
        box.setSpacing(0)
        box.addWidget(self.name)
        box.addWidget(self.look)
        box.addWidget(self.back)

    def _fill_views(self) -> None:
        menu, board = self.name.menu(), self._board
        menu.clear()
        now = board.sight.views[self.slot]
        views: list[AnyView | None] = [*board.views(), None]
        for view in views:
            if isinstance(view, Auxiliary) and not isinstance(
                views[views.index(view) - 1], Auxiliary
            ):
                menu.addSeparator()
            action = menu.addAction("3D" if view is None else view.title)
            action.setCheckable(True)
            action.setChecked(now == view)
            action.triggered.connect(
                lambda _=False, view=view: board.look(board.sight.with_view(self.slot, view))
            )
        if now is None:
            menu.addSeparator()
            perspective = menu.addAction("Perspective")
            perspective.setCheckable(True)
            perspective.setChecked(board.sight.orbit.perspective)
            perspective.triggered.connect(board.toggle_perspective)
        menu.addSeparator()
        full = "Back to all panes" if board.layout_.full else "Fill the board"
        menu.addAction(full).triggered.connect(lambda: board.toggle_full(self.slot))

    def _fill_looks(self) -> None:
        menu, board = self.look.menu(), self._board
        menu.clear()
        for shading in Shading:
            action = menu.addAction(shading.value)
            action.setCheckable(True)
            action.setChecked(board.sight.shading[self.slot] is shading)
            action.triggered.connect(
                lambda _=False, shading=shading: board.look(
                    board.sight.with_shading(self.slot, shading)
                )
            )
        menu.addSeparator()
        fade = board.sight.opacities.get(self.slot, 1.0)
        for value, words in PANE_FADES:
            action = menu.addAction(f"drawings {words}")
            action.setCheckable(True)
            action.setChecked(abs(fade - value) < 0.01)
            action.triggered.connect(
                lambda _=False, value=value: board.look(board.sight.with_opacity(self.slot, value))
            )
        menu.addSeparator()
        grid = menu.addAction("grid in this pane")
        grid.setCheckable(True)
        grid.setChecked(self.slot not in board.sight.gridless)
        grid.triggered.connect(lambda on: board.look(board.sight.with_grid(self.slot, on)))

    def refresh(self) -> None:
        sight = self._board.sight
        view = sight.views[self.slot]
        words = [sight.shading[self.slot].value]
        if view is None:
            words.append("perspective" if sight.orbit.perspective else "parallel")
        self.name.setText("3D" if view is None else view.title)
        if not sight.drawings or sight.opacities.get(self.slot, 1.0) == 0:
            words.append("drawings hidden")
        if not sight.others:
            words.append("drawings only")
        if sight.section is not None:
            words.append("section")
        self.look.setText(" · ".join(words))
        before = sight.before(self.slot)
        title = "3D" if before is None else before.title
        self.back.setToolTip(f"Show {title} here again")
        self.back.setAccessibleName(self.back.toolTip())
        self.back.setVisible(isinstance(view, Auxiliary))
        self.adjustSize()


class EmptyBoard(QWidget):
    """What to do first, over an empty board."""

    def __init__(self, board: Board, bring: Callable[[], None], demo: Callable[[], None]) -> None:
        super().__init__(board)
        self.setObjectName("emptyBoard")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        title = QLabel("Bring in your drawings")
        title.setObjectName("emptyTitle")
        words = QLabel(
            "Drop a front, a side and a top drawing each on its pane, paste one, "
            "or choose files. Then give one of them a length you know."
        )
        words.setWordWrap(True)
        choose = QPushButton("Choose files…")
        choose.setProperty("main", True)
        choose.clicked.connect(lambda: bring())
        show = QPushButton("Open the demo")
        show.clicked.connect(lambda: demo())
        row = QHBoxLayout()
        row.addWidget(choose)
        row.addWidget(show)
        row.addStretch(1)
        box = QVBoxLayout(self)
        box.setContentsMargins(22, 18, 22, 18)
        box.setSpacing(10)
        for part in (title, words):
            box.addWidget(part)
        box.addLayout(row)
        self.setFixedWidth(400)


class PaneControls:
    """Keeps the small widgets where the panes are."""

    def __init__(self, board: Board, bring: Callable[[], None], demo: Callable[[], None]) -> None:
        self._board = board
        self.names = {slot: PaneName(board, slot) for slot in SLOTS}
        self.empty = EmptyBoard(board, bring, demo)
        self.hints = {slot: _drop_hint(board) for slot in FLAT_SLOTS}

    def refresh(self, empty: bool) -> None:
        rects = self._board.rects()
        for slot, widget in self.names.items():
            widget.setVisible(slot in rects)
            if slot in rects:
                widget.refresh()
                widget.move(int(rects[slot].x) + _INSET, int(rects[slot].y) + _INSET)
        self.empty.setVisible(empty)
        for slot, hint in self.hints.items():
            hint.setVisible(empty and slot in rects)
            if slot in rects:
                view = self._board.sight.views[slot]
                hint.setText(f"Drop the {view.title.lower()} drawing here" if view else "")
                _centre(hint, rects[slot], self._board.width())
        if empty:
            # Over the 3D pane, so that the flat ones stay free to drop onto.
            whole = Rect(0, 0, self._board.width(), self._board.height())
            _centre(self.empty, rects.get(SPACE, whole), self._board.width())


def _drop_hint(board: Board) -> QLabel:
    hint = QLabel(board)
    hint.setObjectName("dropHint")
    hint.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
    return hint


def _centre(widget: QWidget, rect: Rect, within: int) -> None:
    widget.adjustSize()
    x = rect.x + (rect.w - widget.width()) / 2
    y = rect.y + (rect.h - widget.height()) / 2
    # All of it stays on the board, however narrow its pane.
    x = min(x, within - widget.width() - _INSET)
    widget.move(max(0, int(x)), max(0, int(y)))

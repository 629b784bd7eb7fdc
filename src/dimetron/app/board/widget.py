"""The board as a widget: navigation here, everything else to the tool in hand."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

import moderngl
from PySide6.QtCore import QEvent, QPointF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QWheelEvent,
)
from PySide6.QtOpenGLWidgets import QOpenGLWidget
from PySide6.QtWidgets import QWidget

from dimetron.app.board.canvas import Canvas, projection_lines
from dimetron.app.board.layout import SPACE, Layout, Rect
from dimetron.app.board.sight import Sight
from dimetron.app.opengl import UNKNOWN, opengl_problem, wanted_format
from dimetron.app.pictures import Pictures
from dimetron.app.session import Session
from dimetron.app.tools.base import BoardEvent, Tool
from dimetron.document.edits import bounds
from dimetron.geometry.camera import OrthoCamera
from dimetron.mesh.mesh import Floats, Mask
from dimetron.render.overlays import Overlay
from dimetron.render.palette import DAY, Palette
from dimetron.render.scene import PaneScene, document_box, pane_scene, space_box

_KEYS = {
    Qt.Key.Key_Left: "left",
    Qt.Key.Key_Right: "right",
    Qt.Key.Key_Up: "up",
    Qt.Key.Key_Down: "down",
    Qt.Key.Key_X: "x",
    Qt.Key.Key_Y: "y",
    Qt.Key.Key_Z: "z",
}
#: Typing one of these over the board goes to the first field of the tool in hand.
_BEGINS_A_NUMBER = "0123456789=.,"
_TURN_DEG_PER_PX = 0.4
_ZOOM_PER_NOTCH = 1.2
#: How long nothing must move before a software frame is drawn smooth.
_REST_MS = 200
_SCENE_KEY = tuple[object, ...]


class Board(QOpenGLWidget):
    pointed = Signal(object)  # BoardEvent or None
    looked = Signal()  # layout or sight changed
    dropped = Signal(object, object)  # paths, BoardEvent
    tool_changed = Signal()
    typed = Signal(str)  # a number begun over the board
    first_frame = Signal()
    broken = Signal(str)

    def __init__(self, session: Session, pictures: Pictures, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFormat(wanted_format())
        self.setObjectName("board")
        self.setAccessibleName("Board")
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAcceptDrops(True)
        self.setMinimumSize(320, 240)
        self._session = session
        self._pictures = pictures
        self.layout_ = Layout()
        self.sight = Sight()
        self.palette_: Palette = DAY
        self.show_grid = True
        self.tool: Tool | None = None
        self.canvas: Canvas | None = None
        self._scenes: dict[str, tuple[_SCENE_KEY, PaneScene]] = {}
        self._pointer: BoardEvent | None = None
        self._gesture: Callable[[QPointF], None] | None = None
        self._tool_pressed = False
        self._space_held = False
        self._last = QPointF()
        self._smooth = True
        self.drafts = True
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self._rested)
        self._framed = False
        self._fit_pending = True
        self._framed_fit = False
        self._borders_dragged = False
        session.changed.connect(self._on_changed)
        session.changing.connect(self.update)
        session.chosen_changed.connect(self.update)
        pictures.ready.connect(lambda _: self.update())

    # What is shown.

    def rects(self) -> dict[str, Rect]:
        return self.layout_.rects(self.width(), self.height())

    def scenes(self) -> dict[str, PaneScene]:
        """The scene of each shown pane; the same object as long as nothing in it changed."""
        rects = self.rects()
        shown = {}
        for slot, rect in rects.items():
            camera = self.sight.camera(slot, rect)
            key = self._scene_key(slot, camera)
            known = self._scenes.get(slot)
            if known is None or known[0] != key:
                scene = pane_scene(
                    self._session.document,
                    camera,
                    self.sight.shading[slot],
                    self._pictures.pyramids,
                    self._session.picked,
                    unit=self._session.document.unit,
                    palette=self.palette_,
                    pixel_ratio=self.devicePixelRatioF(),
                    grid=self.show_grid,
                )
                known = self._scenes[slot] = key, scene
                self._moved()
            shown[slot] = known[1]
        return shown

    def _moved(self) -> None:
        """In software OpenGL, draw without smoothing until things rest."""
        if self.canvas is not None and self.canvas.software and self.drafts:
            self._smooth = False
            self._rest.start()

    def _rested(self) -> None:
        self._smooth = True
        self.update()

    def _scene_key(self, slot: str, camera: object) -> _SCENE_KEY:
        doc = self._session.document
        flat = slot != SPACE
        view = camera.view if isinstance(camera, OrthoCamera) else None
        # Only what this pane shows: other panes' drawings do not redraw it.
        drawings = tuple(d for d in doc.planes if not flat or d.view is view)
        recipes = tuple(doc.recipe(d) for d in drawings)
        known = tuple(recipe in self._pictures.pyramids for recipe in recipes)
        return (
            camera,
            self.sight.shading[slot],
            drawings,
            recipes,
            known,
            doc.meshes,
            self._session.picked if self._session.chosen else None,
            doc.unit,
            self.palette_,
            self.devicePixelRatioF(),
            self.show_grid,
        )

    def _on_changed(self) -> None:
        if self._fit_pending and not self._session.document.board_empty:
            self.fit_all()
        if self.canvas is not None and self.isValid():
            self.makeCurrent()
            self.canvas.keep_only(self.scenes())
            self.doneCurrent()
        self.update()

    # Drawing.

    def initializeGL(self) -> None:
        try:
            ctx = moderngl.create_context(require=330)
        except Exception:  # noqa: BLE001 - moderngl raises plain Exceptions; EGL is the other way in
            try:
                ctx = moderngl.create_context(require=330, context=None, backend="egl")
            except Exception:  # noqa: BLE001
                self.broken.emit(opengl_problem() or UNKNOWN)
                return
        self.canvas = Canvas(ctx)
        self._scenes.clear()

    def paintGL(self) -> None:
        if self.canvas is None:
            return
        ratio = self.devicePixelRatioF()
        size = round(self.width() * ratio), round(self.height() * ratio)
        rects, scenes = self.rects(), self.scenes()
        if self.canvas.draw(scenes, rects, ratio, size, self._smooth):
            self.update()
        screen = self.canvas.ctx.detect_framebuffer(self.defaultFramebufferObject())
        pointer = self._pointer
        lines: dict[str, Floats] = {}
        if pointer is not None and pointer.slot in scenes and self._gesture is None:
            lines = projection_lines(scenes, pointer.slot, pointer.px)
        self.canvas.compose(screen, scenes, rects, ratio, self.overlays(), lines, self.palette_)
        if not self._framed:
            self._framed = True
            self.first_frame.emit()

    def overlays(self) -> Sequence[Overlay]:
        return self.tool.overlays() if self.tool is not None else ()

    def in_sight(self, slot: str, points: Floats) -> Mask:
        """Which world points no mesh hides in a pane."""
        assert self.canvas is not None
        self.makeCurrent()
        seen = self.canvas.in_sight(self.scenes()[slot], points)
        self.doneCurrent()
        return seen

    # Looking.

    def look(self, sight: Sight | None = None, layout: Layout | None = None) -> None:
        """Change what the panes look at or where they lie."""
        self.sight = sight or self.sight
        self.layout_ = layout or self.layout_
        self._refresh_pointer()
        self.update()
        self.looked.emit()

    def fit_all(self) -> None:
        """Everything into all panes; the borders follow the object until one was dragged."""
        doc = self._session.document
        box = document_box(doc)
        if box is not None and not self._borders_dragged:
            w, d, h = (float(n) for n in box[1] - box[0])
            self.layout_ = self.layout_.proportioned((w, d, h))
        self._fit(box, space_box(doc))
        self._fit_pending = doc.board_empty

    @property
    def pointed_slot(self) -> str | None:
        """The pane under the pointer."""
        return self._pointer.slot if self._pointer is not None else None

    def fit_if_waiting(self) -> None:
        """The first fit waits until the board has its size."""
        if not self._framed_fit:
            self._framed_fit = True
            self.fit_all()

    def fit_chosen(self) -> None:
        doc = self._session.document
        kept = replace(
            doc,
            drawings=tuple(d for d in doc.planes if d.id in self._session.chosen),
            meshes=tuple(m for m in doc.meshes if m.id in self._session.chosen),
        )
        if kept.board_empty:
            self.fit_all()
        else:
            self._fit(bounds(kept), space_box(kept))

    def _fit(self, flat: Floats | None, space: Floats | None) -> None:
        rects = self.rects()
        self.look(self.sight.fitted(flat, space, rects))

    def toggle_full(self, slot: str | None = None) -> None:
        """One pane over the whole board, and back."""
        if self.layout_.full is not None:
            self.look(layout=replace(self.layout_, full=None))
            return
        slot = slot or (self._pointer.slot if self._pointer is not None else None)
        if slot is not None:
            self.look(layout=replace(self.layout_, full=slot))

    def toggle_perspective(self) -> None:
        orbit = self.sight.orbit
        self.look(replace(self.sight, orbit=replace(orbit, perspective=not orbit.perspective)))

    # Events.

    def event_at(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> BoardEvent | None:
        """A board event for a widget position, or None on a border."""
        for slot, rect in self.rects().items():
            if rect.contains(at.x(), at.y()):
                return self._event_in(slot, rect, at, modifiers)
        return None

    def _event_in(
        self, slot: str, rect: Rect, at: QPointF, modifiers: Qt.KeyboardModifier
    ) -> BoardEvent:
        camera = self.sight.camera(slot, rect)
        px = at.x() - rect.x, at.y() - rect.y
        return BoardEvent(
            slot,
            camera,
            px,
            camera.point_at(px),
            bool(modifiers & Qt.KeyboardModifier.ShiftModifier),
            bool(modifiers & Qt.KeyboardModifier.ControlModifier),
        )

    def _same_pane(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> BoardEvent | None:
        """During a gesture the pane it began in goes on receiving the pointer."""
        if self._tool_pressed and self._pointer is not None:
            slot = self._pointer.slot
            return self._event_in(slot, self.rects()[slot], at, modifiers)
        return self.event_at(at, modifiers)

    def _refresh_pointer(self) -> None:
        if self._pointer is not None:
            rect = self.rects().get(self._pointer.slot)
            if rect is None:
                self._pointer = None
            else:
                at = QPointF(self._pointer.px[0] + rect.x, self._pointer.px[1] + rect.y)
                self._pointer = self._event_in(
                    self._pointer.slot, rect, at, Qt.KeyboardModifier.NoModifier
                )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        at = event.position()
        self._last = at
        left = event.button() == Qt.MouseButton.LeftButton
        grip = self.layout_.grip_at(at.x(), at.y(), self.width(), self.height())
        if left and any(grip):
            self._gesture = self._border_gesture(grip)
            return
        aimed = self.event_at(at, event.modifiers())
        if aimed is None:
            return
        self._pointer = aimed
        if left and not self._space_held and self.tool is not None and self.tool.press(aimed):
            self._tool_pressed = True
            self.tool_changed.emit()
            self.update()
            return
        self._gesture = self._looking_gesture(aimed, event.button())

    def _border_gesture(self, grip: tuple[bool, bool]) -> Callable[[QPointF], None]:
        def drag(at: QPointF) -> None:
            self._borders_dragged = True
            fx = at.x() / self.width() if grip[0] else None
            fy = at.y() / self.height() if grip[1] else None
            self.look(layout=self.layout_.with_split(fx, fy))

        return drag

    def _looking_gesture(
        self, aimed: BoardEvent, button: Qt.MouseButton
    ) -> Callable[[QPointF], None] | None:
        """Flat panes pan. The 3D pane pans with the right button and turns with the others."""
        turns = aimed.view is None and button != Qt.MouseButton.RightButton
        if turns and self._space_held:
            turns = False
        slot = aimed.slot

        def drag(at: QPointF) -> None:
            by = at.x() - self._last.x(), at.y() - self._last.y()
            camera = self.sight.camera(slot, self.rects()[slot])
            if isinstance(camera, OrthoCamera):
                self.look(self.sight.panned(camera, by))
            elif turns:
                self.look(
                    replace(
                        self.sight,
                        orbit=camera.turned(-by[0] * _TURN_DEG_PER_PX, by[1] * _TURN_DEG_PER_PX),
                    )
                )
            else:
                self.look(replace(self.sight, orbit=camera.panned(by)))

        return drag

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._gesture is not None:
            self._gesture(at)
            self._last = at
            return
        aimed = self._same_pane(at, event.modifiers())
        self._pointer = aimed
        if not self._tool_pressed:
            grip = self.layout_.grip_at(at.x(), at.y(), self.width(), self.height())
            self._show_cursor(grip)
        if aimed is not None and self.tool is not None:
            self.tool.move(aimed, self._tool_pressed)
        self.pointed.emit(aimed)
        self.update()

    def _show_cursor(self, grip: tuple[bool, bool]) -> None:
        shapes = {
            (True, True): Qt.CursorShape.SizeAllCursor,
            (True, False): Qt.CursorShape.SplitHCursor,
            (False, True): Qt.CursorShape.SplitVCursor,
            (False, False): Qt.CursorShape.CrossCursor,
        }
        self.setCursor(shapes[grip])

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._gesture = None
        if self._tool_pressed and event.button() == Qt.MouseButton.LeftButton:
            aimed = self._same_pane(event.position(), event.modifiers())
            self._tool_pressed = False
            if aimed is not None and self.tool is not None:
                self.tool.release(aimed)
            self.tool_changed.emit()
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """The second press of a quick pair is a press like any other."""
        self.mousePressEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if _dropped_paths(event):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        self._pointer = self.event_at(event.position(), event.modifiers())
        self.update()
        event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        aimed = self.event_at(event.position(), event.modifiers())
        paths = _dropped_paths(event)
        if paths:
            event.acceptProposedAction()
            self.dropped.emit(paths, aimed)

    def leaveEvent(self, event: QEvent) -> None:
        if not self._tool_pressed:
            self._pointer = None
            self.pointed.emit(None)
            self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        aimed = self.event_at(event.position(), event.modifiers())
        notches = (event.angleDelta().y() or event.angleDelta().x()) / 120
        if aimed is None or not notches:
            return
        self.zoom(_ZOOM_PER_NOTCH**notches, aimed)

    def zoom(self, factor: float, aimed: BoardEvent | None = None) -> None:
        """Zoom about the pointer, or about the middle of the flat panes."""
        aimed = aimed or self._pointer
        if aimed is None:
            slot, rect = next(iter(self.rects().items()))
            middle = QPointF(rect.x + rect.w / 2, rect.y + rect.h / 2)
            aimed = self._event_in(slot, rect, middle, Qt.KeyboardModifier.NoModifier)
        camera = aimed.camera
        if isinstance(camera, OrthoCamera):
            self.look(self.sight.zoomed(camera, factor, aimed.px))
        else:
            self.look(replace(self.sight, orbit=camera.zoomed(factor, aimed.px)))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space_held = True
            return
        if event.text() and event.text() in _BEGINS_A_NUMBER:
            self.typed.emit(event.text())
            return
        name = _KEYS.get(key)
        if name is None or self.tool is None:
            super().keyPressEvent(event)
            return
        modifiers = event.modifiers()
        if modifiers & Qt.KeyboardModifier.ShiftModifier:
            name = f"shift+{name}"
        elif modifiers & Qt.KeyboardModifier.ControlModifier:
            name = f"ctrl+{name}"
        if self.tool.key(name, self._pointer):
            self.tool_changed.emit()
            self.update()
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space_held = False
            return
        super().keyReleaseEvent(event)

    def take(self, tool: Tool | None) -> None:
        """Take a tool in hand; what the old one had under way is dropped."""
        self.drop_gesture()
        self.tool = tool
        self.tool_changed.emit()
        self.update()

    def drop_gesture(self) -> bool:
        """Escape: abandon what is under way. True if there was anything."""
        self._tool_pressed = False
        self._gesture = None
        if self.tool is None or not self.tool.abandon():
            return False
        self.tool_changed.emit()
        self.update()
        return True


def _dropped_paths(event: QDropEvent) -> list[Path]:
    return [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]

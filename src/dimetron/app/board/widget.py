"""The board as a widget: navigation here, everything else to the tool in hand."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable, Sequence
from dataclasses import replace

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

from dimetron.app.board.canvas import Canvas
from dimetron.app.board.framing import Whole, chosen_boxes
from dimetron.app.board.layout import Layout, Rect
from dimetron.app.board.missed import missed_on
from dimetron.app.board.overlaid import overlaid
from dimetron.app.board.pace import Pace
from dimetron.app.board.pointing import Place, pointed_place
from dimetron.app.board.scenes import Scenes, shown_of
from dimetron.app.board.sight import Sight
from dimetron.app.kit.dropped import local_files
from dimetron.app.kit.keying import begins_a_number, key_name
from dimetron.app.kit.opengl import UNKNOWN, opengl_problem, wanted_format
from dimetron.app.tools.base import BoardEvent, Tool
from dimetron.app.work.fitting import Fitting
from dimetron.app.work.pictures import Pictures
from dimetron.app.work.session import Session
from dimetron.geometry.camera import Camera, OrbitCamera, OrthoCamera
from dimetron.geometry.views import AnyView, Auxiliary
from dimetron.mesh.arrays import Floats, Mask
from dimetron.render import compass
from dimetron.render.overlays import Overlay
from dimetron.render.palette import DAY, Palette
from dimetron.render.scene import PaneScene, document_box, space_box
from dimetron.render.taken import Snapshot, Taken

_TURN_DEG_PER_PX = 0.4
_ZOOM_PER_NOTCH = 1.2
#: How long nothing must move before a software frame is drawn smooth.
_REST_MS = 200
#: Looks kept for going back, and how soon another zoom or pan counts as the same move.
_LOOKS_KEPT, _SAME_MOVE_S = 60, 0.7


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
        #: Whoever holds the meshes against the drawings; the miss is drawn if that says so.
        self.fitting: Fitting | None = None
        self.canvas: Canvas | None = None
        self._scenes = Scenes(session, pictures)
        self._past: list[tuple[Sight, Layout]] = []
        self._moved_at, self.last_slot = 0.0, ""
        self._pointer: BoardEvent | None = None
        self._gesture: Callable[[QPointF], None] | None = None
        self._tool_pressed = self._space_held = False
        self._last = QPointF()
        self._smooth = self.drafts = True
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self._rested)
        self._pace = Pace(self, self.update)
        self._framed = self._framed_fit = self._borders_dragged = self._buffers_stale = False
        self._fit_pending = True
        self._whole = Whole()
        session.changed.connect(self._on_changed)
        session.replacing.connect(self._on_replacing)
        session.changing.connect(self._on_changing)
        session.moving.connect(self.update)
        session.chosen_changed.connect(self.update)
        pictures.ready.connect(lambda _: self._pace.arrived())

    # What is shown.

    def rects(self) -> dict[str, Rect]:
        return self.layout_.rects(self.width(), self.height())

    def homes(self) -> dict[str, Rect]:
        return self.layout_.homes(self.width(), self.height())

    def camera(self, slot: str) -> Camera:
        """What a shown pane looks through."""
        return self.sight.camera(slot, self.rects()[slot], self.homes()[slot])

    def scenes(self) -> dict[str, PaneScene]:
        """The scene of each shown pane; the same object as long as nothing in it changed."""
        ratio = self.devicePixelRatioF()
        found, news = self._scenes.of(
            *(self.sight, self.rects(), self.homes(), self.palette_, ratio, self.show_grid),
            None if self.fitting is None else self.fitting.tints,
        )
        if news and self.canvas is not None and self.canvas.software and self.drafts:
            # In software OpenGL, draw without smoothing until things rest.
            self._smooth = False
            self._rest.start()
        return found

    def _rested(self) -> None:
        if self._pictures.busy:
            # A smooth frame would take the time that the pictures need.
            self._rest.start()
            return
        self._smooth = True
        self.update()

    def _follow_views(self) -> None:
        """Panes go along when an auxiliary view is tilted; one that is gone gives way."""
        for slot, view in self.sight.views.items():
            if isinstance(view, Auxiliary):
                now = self._session.document.view_by_key(view.key)
                if now != view:
                    sight = self.sight
                    self.sight = sight.with_view(slot, now) if now else sight.given_back(slot)
                    self.looked.emit()

    def _on_changed(self) -> None:
        self._follow_views()
        doc = self._session.document
        flat = [c for c in map(self.camera, self.rects()) if isinstance(c, OrthoCamera)]
        lost = self._whole.lost(doc, flat)
        if lost or (self._fit_pending and not doc.board_empty):
            self.fit_all()
        self._buffers_stale = True
        self.update()

    def _on_changing(self) -> None:
        self._follow_views()
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
        begin, panes = time.monotonic(), self.canvas.panes_drawn
        try:
            self._paint(self.canvas)
            # Not what only puts the same panes onto the screen again.
            if self.canvas.panes_drawn > panes:
                self._pace.drawn(begin)
        except moderngl.Error as error:
            # The driver gave up: its memory is used up, or it lost the card.
            logging.getLogger(__name__).exception("the board cannot be drawn any more")
            self.canvas = None
            self.broken.emit(f"The board cannot be drawn any more ({error}); save and start anew.")

    def _paint(self, canvas: Canvas) -> None:
        ratio = self.devicePixelRatioF()
        size = round(self.width() * ratio), round(self.height() * ratio)
        rects, scenes = self.rects(), self.scenes()
        if self._buffers_stale:
            canvas.keep_only(scenes)
        self._buffers_stale = False
        if canvas.draw(scenes, rects, ratio, size, self._smooth):
            self.update()
        screen = canvas.ctx.detect_framebuffer(self.defaultFramebufferObject())
        place = self._place(scenes)
        overlays, hot = self.overlays(), self._hot_knob()
        canvas.compose(screen, scenes, rects, ratio, overlays, place, self.palette_, hot)
        if not self._framed:
            self._framed = True
            self.first_frame.emit()

    def _place(self, scenes: dict[str, PaneScene]) -> Place | None:
        """What the pointer means in the world, for the other panes to show."""
        pointer = self._pointer
        if pointer is None or pointer.slot not in scenes or self._gesture is not None:
            return None
        assert self.canvas is not None
        scene = scenes[pointer.slot]
        surface = None
        if self._smooth and not self._tool_pressed:
            surface = self.canvas.surface_point(pointer.slot, scene, pointer.px)
        return pointed_place(scene, pointer.slot, scene.camera.ray(pointer.px), surface)

    def place(self) -> Place | None:
        """The place pointed at now."""
        if self.canvas is None:
            return None
        self.makeCurrent()
        found = self._place(self.scenes())
        self.doneCurrent()
        return found

    def _hot_knob(self) -> str | None:
        """The point of the orientation mark under the pointer."""
        pointer = self._pointer
        if pointer is None or not isinstance(pointer.camera, OrbitCamera):
            return None
        return compass.knob_at(pointer.camera, pointer.px)

    def overlays(self) -> Sequence[Overlay]:
        missed = missed_on(self.fitting, self._session, self.sight, self.rects())
        return [*missed, *overlaid(self.tool, self._session, self._pictures)]

    def in_sight(self, slot: str, points: Floats) -> Mask:
        """Which world points no mesh hides in a pane."""
        assert self.canvas is not None
        self.makeCurrent()
        seen = self.canvas.in_sight(self.scenes()[slot], points)
        self.doneCurrent()
        return seen

    def snapshot(self, view: AnyView, how: Taken) -> Snapshot:
        """The shown meshes along a view, as a picture of known scale. Raises NothingToTake."""
        from dimetron.render.snapshot import snapshot  # only taking one needs it

        assert self.canvas is not None
        self.makeCurrent()
        try:
            doc = self._session.committed
            return snapshot(self.canvas.renderer, doc, view, how, self.sight.section)
        finally:
            self.doneCurrent()

    # Looking.

    def look(self, sight: Sight | None = None, layout: Layout | None = None) -> None:
        """Change what the panes look at or where they lie."""
        now = time.monotonic()
        if (
            now - self._moved_at > _SAME_MOVE_S
            and (self.sight, self.layout_) not in self._past[-1:]
        ):
            self._past = [*self._past[-_LOOKS_KEPT:], (self.sight, self.layout_)]
        self._moved_at = now
        self.sight = sight or self.sight
        self.layout_ = layout or self.layout_
        self._refresh_pointer()
        self.update()
        self.looked.emit()

    def look_back(self) -> bool:
        """What the board looked at before the last move; False if there was none."""
        while self._past and self._past[-1] == (self.sight, self.layout_):
            self._past.pop()
        if not self._past:
            return False
        sight, layout = self._past.pop()
        layout = layout.arranged(self.layout_.projection)
        # Only where it looked comes back, not how things look.
        back = replace(
            self.sight,
            focus=sight.focus,
            mm_per_px=sight.mm_per_px,
            orbit=sight.orbit,
            views=sight.views,
            strays=sight.strays,
            scales=sight.scales,
        )
        self._moved_at = time.monotonic()
        self.look(back, layout)
        self._moved_at = 0.0
        return True

    def begin(self, perspective: bool) -> None:
        """The board of a new project: nothing of what the one before was looked at with."""
        sight = Sight()
        self._past.clear()
        self._borders_dragged = False
        self.look(
            replace(sight, orbit=replace(sight.orbit, perspective=perspective)),
            Layout(self._session.document.projection),
        )
        self._past.clear()
        self.fit_all()

    def fit_all(self) -> None:
        """Everything into all panes; the borders follow the object until one was dragged."""
        doc = shown_of(self._session.document, self.sight)
        box = document_box(doc)
        if box is not None and not self._borders_dragged:
            w, d, h = (float(n) for n in box[1] - box[0])
            self.layout_ = self.layout_.proportioned((w, d, h))
        # Something to compare with, however large, does not make the object small.
        self._fit(box, space_box(doc, with_references=False))
        self._fit_pending = self._session.document.board_empty

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
        """The selected part of a mesh, or what is chosen, as large as it goes."""
        found = chosen_boxes(self._session)
        if found is None:
            self.fit_all()
        else:
            self._fit(*found)

    def _fit(self, flat: Floats | None, space: Floats | None) -> None:
        self.look(self.sight.fitted(flat, space, self.rects(), self.homes()))

    def toggle_full(self, slot: str | None = None) -> None:
        """One pane over the whole board, and back."""
        if self.layout_.full is not None:
            self.look(layout=replace(self.layout_, full=None))
            return
        slot = slot or self.pointed_slot
        if slot is not None:
            self.look(layout=replace(self.layout_, full=slot))

    def views(self) -> tuple[AnyView, ...]:
        """Views a pane can show."""
        return self._session.document.views

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
        camera = self.sight.camera(slot, rect, self.homes()[slot])
        px = at.x() - rect.x, at.y() - rect.y
        return BoardEvent(
            slot,
            camera,
            px,
            camera.point_at(px),
            bool(modifiers & Qt.KeyboardModifier.ShiftModifier),
            bool(modifiers & Qt.KeyboardModifier.ControlModifier),
            self.sight.section,
        )

    def _same_pane(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> BoardEvent | None:
        """During a gesture the pane it began in goes on receiving the pointer."""
        if self._tool_pressed and self._pointer is not None:
            slot = self._pointer.slot
            rect = self.rects().get(slot)
            if rect is not None:
                return self._event_in(slot, rect, at, modifiers)
            # Its pane is gone.
            self.drop_gesture()
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
        knob = self._hot_knob()
        if left and knob is not None and isinstance(aimed.camera, OrbitCamera):
            self.look(replace(self.sight, orbit=compass.turned_to(aimed.camera, knob)))
            return
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
        turns = button != Qt.MouseButton.RightButton and not self._space_held
        slot = aimed.slot

        def drag(at: QPointF) -> None:
            by = at.x() - self._last.x(), at.y() - self._last.y()
            if slot not in self.rects():
                return
            camera = self.camera(slot)
            if isinstance(camera, OrthoCamera):
                self.look(self.sight.panned(slot, camera, by))
                return
            across, up = -by[0] * _TURN_DEG_PER_PX, by[1] * _TURN_DEG_PER_PX
            orbit = camera.turned(across, up) if turns else camera.panned(by)
            self.look(replace(self.sight, orbit=orbit))

        return drag

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._gesture is not None:
            self._gesture(at)
            self._last = at
            return
        aimed = self._same_pane(at, event.modifiers())
        self._pointer = aimed
        self.last_slot = aimed.slot if aimed is not None else self.last_slot
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
        if local_files(event.mimeData()):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        self._pointer = self.event_at(event.position(), event.modifiers())
        self.update()
        event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        aimed = self.event_at(event.position(), event.modifiers())
        paths = local_files(event.mimeData())
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
        held = self.tool if self._tool_pressed else None
        if held is None or not self._took(held.wheel(notches, aimed)):
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
            self.look(self.sight.zoomed(aimed.slot, camera, factor, aimed.px))
        else:
            self.look(replace(self.sight, orbit=camera.zoomed(factor, aimed.px)))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space_held = True
            return
        if begins_a_number(event):
            self.typed.emit(event.text())
            return
        name = key_name(event)
        if name is None or not self.give_key(name):
            super().keyPressEvent(event)

    def give_key(self, name: str) -> bool:
        """A key for the tool in hand; whether it means anything to it."""
        return self.tool is not None and self._took(self.tool.key(name, self._pointer))

    def _took(self, meant: bool) -> bool:
        """What the tool in hand has to show is another, if what it was given meant anything."""
        if meant:
            self.tool_changed.emit()
            self.update()
        return meant

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space_held = False
            return
        super().keyReleaseEvent(event)

    def take(self, tool: Tool | None) -> None:
        """Take a tool in hand; what the old one had under way is dropped."""
        self.drop_gesture()
        if self.tool is not None and self.tool is not tool:
            self.tool.put_down()
        self.tool = tool
        self._took(True)

    def _on_replacing(self, project: bool) -> None:
        """What is at hand for later (a picked point) outlasts an undo, what is under way does
        not."""
        if project or self._tool_pressed or self._session.previewing:
            self.drop_gesture()

    def drop_looking(self) -> None:
        """End a pan or a turn that is under way."""
        if not self._tool_pressed:
            self._gesture = None

    def drop_gesture(self) -> bool:
        """Escape: abandon what is under way. True if there was anything."""
        self._tool_pressed = False
        self._gesture = None
        return self.tool is not None and self._took(self.tool.abandon())
